use super::{Stop, stops};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "reference/cycle",
    severity: Severity::Warning,
    finds: "A reference that leads back to a file it comes from.",
    why: "The assistant has to stop somewhere, and not every one stops well: some load nothing of the circle.",
    mend: "Remove the reference that leads back.",
    bad: "TANSEL.md:      @docs/words.md\ndocs/words.md:  @../TANSEL.md\n",
    good: "TANSEL.md:      @docs/words.md\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    stops(context, &INFO, Stop::Cycle, findings, |_, target| {
        (
            format!("this leads back to {}, where it comes from", target),
            "remove the reference that leads back".to_owned(),
        )
    });
}
