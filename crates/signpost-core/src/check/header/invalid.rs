use super::rules;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::header::HeaderStyle;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "header/invalid",
    severity: Severity::Warning,
    finds: "A header that is not valid YAML or TOML, is never closed, or does not begin on the first line.",
    why: "Some assistants guess what was meant, others drop the header without a word: then a scoped rule reaches \
          nothing, or every conversation.",
    mend: "Put values with special characters in quotes, and close the header with the line that opened it.",
    bad: "---\ncovers: **/*.sql\n---\n\n- Never edit a migration that has been merged.\n",
    good: "---\ncovers: \"**/*.sql\"\n---\n\n- Never edit a migration that has been merged.\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        if let Some(line) = rule.document.bad_line() {
            let message = format!("line {line} holds bytes that are not UTF-8");
            let at = rule.document.text.find('\u{fffd}').unwrap_or(0);
            let finding = Finding::in_rule(&INFO, &profile.name, rule, at..at + 3, message);
            findings.push(finding.help("save the file as UTF-8"));
        }
        if place.header == HeaderStyle::None {
            continue;
        }
        for problem in &rule.header.problems {
            let message = problem.message.clone();
            let finding = Finding::in_rule(&INFO, &profile.name, rule, problem.span.clone(), message);
            let finding = finding.help(problem.help.clone());
            findings.push(match &problem.fix {
                Some(right) => finding.edit(problem.span.clone(), right.clone()),
                None => finding,
            });
        }
    }
}
