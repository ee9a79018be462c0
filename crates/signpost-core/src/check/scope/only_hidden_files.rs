use super::scoped;
use crate::base::wording::count;
use crate::check::overlap::Told;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("scope/only-hidden-files", Severity::Warning, include_str!("only_hidden_files.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, rule, id) in scoped(context) {
        let matches = context.survey.zones.matches[id.assistant][id.rule];
        if profile.exclusions.is_empty() || matches == 0 || !matches!(context.overlap.told(id), Told::In([])) {
            continue;
        }
        // A nearer rule of the same place can be the reason too; then some file is not hidden.
        let hidden = context
            .survey
            .zones
            .zones
            .iter()
            .find(|zone| zone.hidden_from.contains(&id.assistant) && rule.scope.takes(&zone.example));
        let Some(zone) = hidden else { continue };
        let span = rule.scope.paths.items.first().map_or(0..0, |item| item.span.clone());
        let files = if matches == 1 {
            "the one file of this rule is".to_owned()
        } else {
            format!("all {} of this rule are", count(matches, "file"))
        };
        let message = format!("{files} hidden from {}, so it is never told", profile.title);
        let names: Vec<&str> = profile.exclusions.iter().map(|name| name.as_str()).collect();
        let help = format!("look at {}, or remove the rule", names.join(", "));
        findings.push(
            Finding::in_rule(&INFO, &profile.name, rule, span, message).help(help).witness(Some(zone.example.clone())),
        );
    }
}
