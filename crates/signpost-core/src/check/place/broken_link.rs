use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::inspect::unclaimed::UnclaimedWhy;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "place/broken-link",
    severity: Severity::Error,
    finds: "An instruction file that is a link to a file that is not there.",
    why: "One file is often linked to the names that other assistants read. When it is renamed or moved, the links lead \
          nowhere, and those assistants are told nothing, without a word.",
    mend: "Point the link at the file that is meant, or delete it.",
    bad: "TANSEL.md -> RULES.md  (renamed to AGENTS.md)\n",
    good: "TANSEL.md -> AGENTS.md\n",
};

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
