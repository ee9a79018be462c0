use crate::base::wording::{count, group};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "reference/heavy",
    severity: Severity::Warning,
    finds: "A reference that brings along more tokens than a whole brief may weigh.",
    why: "A line with a path looks cheap. The whole file behind it is loaded in every conversation that loads the line.",
    mend: "Name the file in words, so that it is read when it is needed, or refer to a shorter one.",
    bad: "@docs/all-our-decisions.md   (9,000 tokens)\n",
    good: "Decisions are in docs/decisions/; read the one about the part that you change.\n",
};

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
