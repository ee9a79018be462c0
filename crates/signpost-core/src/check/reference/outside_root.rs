use super::{Stop, stops};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("reference/outside-root", Severity::Error, include_str!("outside_root.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    stops(context, &INFO, Stop::OutsideRoot, findings, |_, target| {
        Some((
            format!("{} leads out of the project and is not followed", target),
            "copy the file into the project and refer to that".to_owned(),
        ))
    });
}
