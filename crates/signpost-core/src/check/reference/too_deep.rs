use super::{Stop, stops};
use crate::base::wording::count;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "reference/too-deep",
    severity: Severity::Warning,
    finds: "A reference farther down than the assistant follows.",
    why: "It follows references of references only so far. What lies deeper is never read, without a word.",
    mend: "Refer to the file from farther up.",
    bad: "TANSEL.md → a.md → b.md → c.md → d.md, for an assistant that follows three\n",
    good: "TANSEL.md → a.md, TANSEL.md → d.md\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    stops(context, &INFO, Stop::TooDeep, findings, |profile, target| {
        let depth = profile.references.as_ref().map_or(0, |references| references.depth);
        let followed = count(depth as usize, "reference");
        let message = format!("{} is not read: {} follows {followed} in a row", target, profile.title);
        (message, "refer to it from farther up".to_owned())
    });
}
