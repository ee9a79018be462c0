use super::{Stop, stops};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("reference/cycle", Severity::Warning, include_str!("cycle.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    stops(context, &INFO, Stop::Cycle, findings, |_, target| {
        Some((
            format!("this leads back to {}, where it comes from", target),
            "remove the reference that leads back".to_owned(),
        ))
    });
}
