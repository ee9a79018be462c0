use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::project::guidance;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("facts/review-due", Severity::Warning, include_str!("review_due.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let Some(today) = context.today else { return };
    for assistant in context.survey.assistants.iter().filter(|one| one.profile.name == guidance::PROFILE) {
        for rule in &assistant.rules {
            let Some((due, span)) = guidance::review_after(rule) else { continue };
            if today > due {
                let message = format!("this rule was to be looked at again after {due}");
                let help = "if it still holds, set a later day; else change or delete it";
                findings.push(Finding::in_rule(&INFO, guidance::PROFILE, rule, span, message).help(help));
            }
        }
    }
}
