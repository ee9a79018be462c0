use super::walks;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::text::{count, group};

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
    for (profile, rule, walk) in walks(context) {
        for (span, target, files) in walk.brought {
            let tokens: usize = files.iter().map(|(_, tokens)| tokens).sum();
            if tokens <= budget {
                continue;
            }
            let with =
                if files.len() > 1 { format!(" with {}", count(files.len() - 1, "more file")) } else { String::new() };
            let message = format!(
                "{target}{with} weighs ≈{} tokens, more than the {} that a brief may weigh",
                group(tokens),
                group(budget)
            );
            let help = "name the file in words, so that it is read when it is needed";
            findings.push(Finding::in_rule(&INFO, &profile.name, rule, span, message).help(help));
        }
    }
}
