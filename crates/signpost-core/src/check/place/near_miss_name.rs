use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::inspect::unclaimed::UnclaimedWhy;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "place/near-miss-name",
    severity: Severity::Error,
    finds: "A file whose name is nearly that of an instruction file: a dot, a plural, the case or the ending is wrong.",
    why: "Assistants look for exact names and say nothing about a file they pass by. Every rule in it is without effect, \
          and nobody notices until the same mistake comes back.",
    mend: "Rename the file, or the folder, as the finding says.",
    bad: "AGENT.md\n\n- Run the tests before each commit.\n",
    good: "AGENTS.md\n\n- Run the tests before each commit.\n",
};

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
