use super::{Stop, stops};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "reference/outside-root",
    severity: Severity::Error,
    finds: "A reference that leads out of the project.",
    why: "On another machine the file is not there, or is another one. It is not followed.",
    mend: "Copy the file into the project and refer to that.",
    bad: "@../../shared-rules/style.md\n",
    good: "@docs/style.md   (copied from there)\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    stops(context, &INFO, Stop::OutsideRoot, findings, |_, target| {
        (
            format!("{} leads out of the project and is not followed", target),
            "copy the file into the project and refer to that".to_owned(),
        )
    });
}
