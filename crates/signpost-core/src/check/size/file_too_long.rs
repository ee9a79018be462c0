use crate::base::wording::group;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::profile::Reach;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("size/file-too-long", Severity::Warning, include_str!("file_too_long.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let budget = context.workspace.config.budget.file_lines;
    for assistant in &context.survey.assistants {
        for rule in assistant.rules.iter().filter(|rule| rule.document.lines > budget) {
            let text = &rule.document.text;
            // The first line beyond the budget, from where on it is too much.
            let at = text.match_indices('\n').nth(budget.saturating_sub(1)).map_or(0, |(at, _)| at + 1);
            let end = text[at..].find(['\n', '\r']).map_or(text.len(), |end| at + end);
            let when = match rule.reach {
                Reach::Standing => "every time",
                Reach::Scoped => "whenever its scope is worked on",
                Reach::Offered | Reach::Called => "when it is picked",
            };
            let message = format!(
                "{} lines (≈{} tokens, {when}), where the budget is {}",
                group(rule.document.lines),
                group(rule.document.tokens()),
                group(budget)
            );
            let help = "move what is about some folders or file types into rules of their own";
            findings.push(Finding::in_rule(&INFO, &assistant.profile.name, rule, at..end, message).help(help));
        }
    }
}
