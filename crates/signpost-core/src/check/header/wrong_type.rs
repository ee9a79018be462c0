use super::rules;
use crate::base::toml_file::nearest;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::header::{Key, Value};
use crate::pattern::ListForm;
use crate::profile::{Condition, Place};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("header/wrong-type", Severity::Error, include_str!("wrong_type.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        for key in &rule.header.keys {
            if let Some((message, help)) = wrong(place, key, &profile.title) {
                let span = if key.value_span.is_empty() { key.name_span.clone() } else { key.value_span.clone() };
                findings.push(Finding::in_rule(&INFO, &profile.name, rule, span, message).help(help));
            }
        }
    }
}

fn wrong(place: &Place, key: &Key, title: &str) -> Option<(String, String)> {
    let name = &key.name;
    let is = |own: &Option<String>| own.as_ref() == Some(name);
    if is(&place.keys.paths) || is(&place.keys.except) {
        let message = |is: &str, wants: &str| format!("`{name}` is {is}, but {title} reads only {wants}");
        return match (&key.value, place.dialect.list) {
            (Value::List(items), ListForm::Comma) => {
                let joined = items.iter().map(|item| item.text.as_str()).collect::<Vec<_>>().join(", ");
                let help = format!("write `{name}: \"{joined}\"`");
                Some((message("a list", "one string with commas, so it holds no patterns"), help))
            }
            (Value::Scalar(scalar), ListForm::Array) if !scalar.is_empty() => {
                let items: Vec<String> = scalar.text.split(',').map(|item| format!("\"{}\"", item.trim())).collect();
                let help = format!("write `{name}: [{}]`", items.join(", "));
                Some((message("one string", "a list, so it holds no patterns"), help))
            }
            (Value::Table, _) => {
                Some((message("a table", "patterns"), "write the patterns as a list of strings".into()))
            }
            _ => None,
        };
    }
    if is(&place.keys.summary) {
        let other = matches!(key.value, Value::List(_) | Value::Table);
        return other
            .then(|| (format!("`{name}` is no text, so the rule has no summary"), "write one line of text".into()));
    }
    unlisted_value(place, key, title).or_else(|| unknown_value(place, key, title))
}

/// A value that is none of those that the profile lists.
fn unlisted_value(place: &Place, key: &Key, title: &str) -> Option<(String, String)> {
    let values = &place.known.get(&key.name)?.values;
    let text = key.scalar()?;
    if values.is_empty() || key.is_empty() || values.iter().any(|value| value == text) {
        return None;
    }
    let list = values.iter().map(|value| format!("`{value}`")).collect::<Vec<_>>().join(" or ");
    let help = match nearest(text, values.iter().map(String::as_str)) {
        Some(near) => format!("did you mean `{near}`?"),
        None => format!("write {list}"),
    };
    Some((format!("`{}: {text}` is nothing that {title} knows: it takes {list}", key.name), help))
}

/// A value that no row of `decide` compares with, though it is near to one that does.
fn unknown_value(place: &Place, key: &Key, title: &str) -> Option<(String, String)> {
    let rows = place.decide.iter().filter(|row| row.key == key.name);
    let mut known: Vec<&str> = Vec::new();
    for row in rows {
        match &row.condition {
            Condition::Is(text) => known.push(text),
            // Any value will do for such a row.
            Condition::Present | Condition::Absent => return None,
        }
    }
    let list = || known.iter().map(|text| format!("`{text}`")).collect::<Vec<_>>().join(" or ");
    if known.is_empty() || key.is_empty() {
        return None;
    }
    let Some(text) = key.scalar() else {
        let message = format!("`{}` is a list or table, but {title} compares it with {}", key.name, list());
        return Some((message, "write one word".into()));
    };
    let boolean = |text: &str| matches!(text.to_lowercase().as_str(), "yes" | "on" | "1" | "y");
    let meant = if known.contains(&text) {
        None
    } else if boolean(text) && known.contains(&"true") {
        Some("true")
    } else if matches!(text, "true" | "false") {
        None
    } else {
        nearest(text, known.iter().copied())
    };
    meant.map(|meant| {
        (format!("`{text}` means nothing to {title} here: it knows {}", list()), format!("did you mean `{meant}`?"))
    })
}
