use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::inspect::unclaimed::UnclaimedWhy;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/broken-link", Severity::Error, include_str!("broken_link.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for one in context.survey.unclaimed.iter().filter(|one| one.why == UnclaimedWhy::BrokenLink) {
        let title = context.workspace.title_of(&one.assistant);
        let message = "this is a link to a file that is not there";
        let help = format!("point it at the file that {title} should read, or delete it");
        findings.push(
            Finding::new(&INFO, super::never_loaded::at(one), 0..0, message).help(help).for_assistant(&one.assistant),
        );
    }
}
