use super::{Stop, stops};
use crate::base::wording::count;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("reference/too-deep", Severity::Warning, include_str!("too_deep.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    stops(context, &INFO, Stop::TooDeep, findings, |profile, target| {
        let depth = profile.references.as_ref().map_or(0, |references| references.depth);
        let followed = count(depth as usize, "reference");
        let message = format!("{} is not read: {} follows {followed} in a row", target, profile.title);
        Some((message, "refer to it from farther up".to_owned()))
    });
}
