use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/personal-not-ignored", Severity::Warning, include_str!("personal_not_ignored.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule, ignored) in super::in_project(context) {
        if place.personal && !ignored {
            let message = "this file is one person's own, but git does not ignore it";
            let help = format!("add `{}` to .gitignore", rule.file().path.name());
            findings.push(Finding::in_rule(&INFO, &profile.name, rule, 0..0, message).help(help));
        }
    }
}
