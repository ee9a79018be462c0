use crate::base::repo_path::Location;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::inspect::unclaimed::{Unclaimed, UnclaimedWhy};

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "place/never-loaded",
    severity: Severity::Warning,
    finds: "A file with the name of an instruction file that no assistant loads where it stands.",
    why: "The name is right, so everybody believes that the rules in it count. But it stands in a folder where the \
          assistant does not look, another file is always read in its stead, or it is a link out of the project.",
    mend: "Move the file to where it is read, or join it with the one that is.",
    bad: "kiosk/BRAMBLEBY.md, for an assistant that reads BRAMBLEBY.md at the root only\n",
    good: "BRAMBLEBY.md at the root\n",
};

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
