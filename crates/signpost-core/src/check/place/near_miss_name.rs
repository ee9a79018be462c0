use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::inspect::unclaimed::UnclaimedWhy;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/near-miss-name", Severity::Error, include_str!("near_miss_name.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for one in &context.survey.unclaimed {
        let UnclaimedWhy::NearMiss { what, right, taken } = &one.why else { continue };
        let title = context.workspace.title_of(&one.assistant);
        let help = if *taken {
            format!("move what it says to {right}, which is there too, and delete it")
        } else {
            format!("rename it to {right}, which {title} reads")
        };
        let message = format!("nobody reads this file: {what}");
        findings.push(
            Finding::new(&INFO, super::never_loaded::at(one), 0..0, message).help(help).for_assistant(&one.assistant),
        );
    }
}
