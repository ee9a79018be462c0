use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::project::guidance;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "facts/review-due",
    severity: Severity::Warning,
    finds: "A guidance rule whose `review_after` is past.",
    why: "Somebody knew when they wrote it that the rule would not hold for ever. Since that day nobody has looked whether \
          it still does.",
    mend: "Read the rule again. If it holds, set a later day; else change or delete it.",
    bad: "+++\nreview_after = 2025-01-31\n+++\nTwo people approve each release until the new vault is open.\n",
    good: "+++\nreview_after = 2031-01-31\n+++\nTwo people approve each release until the new vault is open.\n",
};

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
