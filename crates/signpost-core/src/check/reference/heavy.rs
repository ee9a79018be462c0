use crate::base::wording::{count, group};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("reference/heavy", Severity::Warning, include_str!("heavy.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let budget = context.workspace.config.budget.brief;
    for (id, walk) in context.walks() {
        for one in &walk.brought {
            let tokens: usize = one.files.iter().map(|(_, tokens)| tokens).sum();
            if tokens <= budget {
                continue;
            }
            let (target, more) = (&one.files[0].0, one.files.len() - 1);
            let with = if more > 0 { format!(" with {}", count(more, "more file")) } else { String::new() };
            let message = format!(
                "{target}{with} weighs ≈{} tokens, more than the {} that a brief may weigh",
                group(tokens),
                group(budget)
            );
            let help = "name the file in words, so that it is read when it is needed";
            let name = &context.profile(id).name;
            findings.push(Finding::in_rule(&INFO, name, context.rule(id), one.span.clone(), message).help(help));
        }
    }
}
