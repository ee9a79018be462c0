use super::rules;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::profile::{Kind, Reach};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("header/missing-summary", Severity::Warning, include_str!("missing_summary.toml"));

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
