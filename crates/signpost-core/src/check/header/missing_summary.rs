use super::rules;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::profile::{Kind, Reach};

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "header/missing-summary",
    severity: Severity::Warning,
    finds: "An offered rule without a summary.",
    why: "The assistant picks offered rules by their summary. Without one it has nothing to go by, and the rule stays \
          unread.",
    mend: "Add a line that says when the rule is of use.",
    bad: "---\nload: choose\n---\n\n- Release notes name the depositor-facing change first.\n",
    good: "---\nload: choose\nabout: \"How to write release notes for the kiosk\"\n---\n\n- Release notes name the \
           depositor-facing change first.\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        let Some(key) = &place.keys.summary else { continue };
        if rule.kind == Kind::Role || rule.reach != Reach::Offered || rule.summary.is_some() {
            continue;
        }
        let span = match (rule.header.get(key), &rule.header.block) {
            (Some(empty), _) => empty.name_span.clone(),
            (None, Some(block)) => crate::base::wording::trim_range(&rule.document.text, block.clone()),
            (None, None) => 0..0,
        };
        let message = format!("{} picks this rule by its summary, but it has none", profile.title);
        let help = format!("add `{key}: \"…\"` that says when to use it");
        findings.push(Finding::in_rule(&INFO, &profile.name, rule, span, message).help(help));
    }
}
