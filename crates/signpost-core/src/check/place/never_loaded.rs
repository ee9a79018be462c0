use crate::base::repo_path::Location;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::inspect::unclaimed::{Unclaimed, UnclaimedWhy};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/never-loaded", Severity::Warning, include_str!("never_loaded.toml"));

pub(super) fn at(unclaimed: &Unclaimed) -> Location {
    Location::root(unclaimed.path.clone())
}

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for one in &context.survey.unclaimed {
        let help = match &one.why {
            UnclaimedWhy::NearMiss { .. } | UnclaimedWhy::BrokenLink => continue,
            UnclaimedWhy::WrongFolder { right } => {
                format!("move it to {right}, or its text into a file that is read here")
            }
            UnclaimedWhy::NotTaken { .. } => "rename or move it so that one of these patterns takes it".to_owned(),
            UnclaimedWhy::Displaced { by } => format!("move what it says to {by}, and delete it"),
            UnclaimedWhy::OutsideLink => "copy the file into the project".to_owned(),
        };
        let message = format!("nobody reads this file: {}", one.text(context.workspace.title_of(&one.assistant)));
        findings.push(Finding::new(&INFO, at(one), 0..0, message).help(help).for_assistant(&one.assistant));
    }
}
