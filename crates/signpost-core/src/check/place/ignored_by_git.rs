use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/ignored-by-git", Severity::Warning, include_str!("ignored_by_git.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule, ignored) in super::in_project(context) {
        if ignored && !place.personal {
            let message = "git ignores this file, so nobody else gets it";
            let help = "take it out of .gitignore, or mark its place `personal = true` in the profile";
            findings.push(Finding::in_rule(&INFO, &profile.name, rule, 0..0, message).help(help));
        }
    }
}
