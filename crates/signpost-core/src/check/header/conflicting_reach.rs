use super::rules;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::profile::{Condition, Decide, Kind, Place, Reach};
use crate::project::rule::Rule;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("header/conflicting-reach", Severity::Warning, include_str!("conflicting_reach.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        if rule.kind != Kind::Rule {
            continue;
        }
        if let Some((span, message, help)) = cancelled(place, rule) {
            findings.push(Finding::in_rule(&INFO, &profile.name, rule, span, message).help(help));
        }
    }
}

fn cancelled(place: &Place, rule: &Rule) -> Option<(std::ops::Range<usize>, String, String)> {
    let key =
        |name: &Option<String>| name.as_ref().and_then(|name| rule.header.get(name)).filter(|key| !key.is_empty());
    let holds = |row: &&Decide| row.condition.holds(&rule.header, &row.key);
    let row = place.decide.iter().find(holds);
    let reach = rule.reach.word();
    if let Some(paths) = key(&place.keys.paths) {
        if rule.reach != Reach::Scoped {
            let because = match row {
                Some(Decide { key, condition: Condition::Is(value), .. }) => {
                    format!("`{key}: {value}` makes the rule {reach}")
                }
                Some(Decide { key, .. }) => format!("`{key}` makes the rule {reach}"),
                None => format!("the rule is {reach}"),
            };
            let message = format!("`{}` has no effect: {because}", paths.name);
            let help = match row {
                Some(row) if row.key != paths.name => {
                    format!("remove `{}` to have the rule scoped, or `{}`", row.key, paths.name)
                }
                _ => format!("remove `{}`", paths.name),
            };
            return Some((paths.name_span.clone(), message, help));
        }
    } else {
        if let Some(except) = key(&place.keys.except) {
            let message = format!("`{}` takes files out, but nothing takes any in", except.name);
            let help = match &place.keys.paths {
                Some(paths) => format!("add `{paths}`, or remove `{}`", except.name),
                None => format!("remove `{}`", except.name),
            };
            return Some((except.name_span.clone(), message, help));
        }
        if let Some(row) = row.filter(|row| row.reach == Reach::Scoped)
            && let (Some(own), Some(paths)) = (rule.header.get(&row.key), &place.keys.paths)
            && own.name != *paths
        {
            let message = format!("`{}` makes the rule scoped, but without `{paths}` it reaches nothing", own.name);
            return Some((own.name_span.clone(), message, format!("add `{paths}`, or remove `{}`", own.name)));
        }
    }
    // Two keys that both say when, and differ.
    let row = row?;
    let says = |row: &&Decide| matches!(row.condition, Condition::Is(_));
    let other = place
        .decide
        .iter()
        .filter(holds)
        .filter(says)
        .find(|other| other.key != row.key && other.reach != row.reach)?;
    let own = rule.header.get(&other.key)?;
    let message =
        format!("`{}` would make the rule {}, but `{}` makes it {reach}", other.key, other.reach.word(), row.key);
    says(&row).then(|| (own.name_span.clone(), message, format!("keep one of `{}` and `{}`", row.key, other.key)))
}
