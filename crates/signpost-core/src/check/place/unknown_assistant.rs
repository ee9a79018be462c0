use crate::base::wording::count;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::profile::Origin;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/unknown-assistant", Severity::Warning, include_str!("unknown_assistant.toml"));

/// Once an assistant, at the first of its files.
pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for assistant in context.survey.assistants.iter().filter(|it| it.profile.origin == Origin::Guessed) {
        let in_root = assistant.rules.iter().filter(|rule| rule.file().in_root().is_some());
        let Some(first) = in_root.min_by(|a, b| a.file().cmp(b.file())) else { continue };
        let others = match assistant.rules.len() - 1 {
            0 => String::new(),
            number => format!(" and {}", count(number, "other file")),
        };
        let title = &assistant.profile.title;
        let message = format!("no profile describes {title}, which seems to read this{others}: it is guessed");
        let help = "`signpost profile draft --write` writes the guess down, to be corrected";
        let finding = Finding::new(&INFO, first.file().clone(), 0..0, message).help(help);
        findings.push(finding.for_assistant(&assistant.profile.name));
    }
}
