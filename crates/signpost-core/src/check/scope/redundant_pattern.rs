use super::scoped;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::header::Value;
use crate::pattern::Pattern;
use crate::project::rule::{PatternItem, Rule};
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("scope/redundant-pattern", Severity::Note, include_str!("redundant_pattern.toml"));

/// Lists with more patterns are not compared one by one.
const MOST_PATTERNS: usize = 64;

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, rule, _) in scoped(context) {
        let place = rule.place_in(profile);
        for (patterns, key) in [(&rule.scope.paths, &place.keys.paths), (&rule.scope.except, &place.keys.except)] {
            let items = &patterns.items;
            if !(2..=MOST_PATTERNS).contains(&items.len()) || patterns.set.patterns.iter().any(Pattern::is_negated) {
                continue;
            }
            for (at, item) in items.iter().enumerate() {
                let covers = |(other_at, other): (usize, &PatternItem)| {
                    other_at != at && takes_all(other, item) && (other_at < at || !takes_all(item, other))
                };
                let Some((_, by)) = items.iter().enumerate().find(|(other_at, other)| covers((*other_at, other)))
                else {
                    continue;
                };
                let message = if by.text == item.text {
                    format!("`{}` stands here twice", item.text)
                } else {
                    format!("`{}` takes everything that `{}` takes", by.text, item.text)
                };
                let mut finding =
                    Finding::in_rule(&INFO, &profile.name, rule, item.span.clone(), message).help("delete it");
                if let Some(span) = key.as_ref().and_then(|key| removal(rule, key, item)) {
                    finding = finding.edit(span, "");
                }
                findings.push(finding);
            }
        }
    }
}

/// Whether a pattern takes whatever another one takes, proved on the patterns: whoever deletes the other one changes
/// the scope for no file, not even for one that is not there yet.
fn takes_all(wide: &PatternItem, narrow: &PatternItem) -> bool {
    match (&wide.pattern, &narrow.pattern) {
        (Ok(wide), Ok(narrow)) => wide.text() == narrow.text() || wide.takes_all_of(narrow),
        _ => false,
    }
}

/// The bytes to delete so that the others stay as they are.
fn removal(rule: &Rule, key: &str, item: &PatternItem) -> Option<Range<usize>> {
    let text = &rule.document.text;
    let key = rule.header.get(key)?;
    let whole = key.value_span.clone();
    if item.span == whole || text.get(item.span.clone())?.contains('\n') {
        return None;
    }
    // The quotes go with the words.
    let quote = text[..item.span.start].chars().next_back().filter(|c| matches!(c, '"' | '\''));
    let quoted =
        quote.is_some_and(|quote| text[item.span.end..].starts_with(quote)) && !matches!(key.value, Value::Scalar(_));
    let item = if quoted { item.span.start - 1..item.span.end + 1 } else { item.span.clone() };
    let line_start = text[..item.start].rfind('\n').map_or(0, |at| at + 1);
    if let Value::List(_) = key.value
        && text[line_start..item.start].trim() == "-"
    {
        let end = text[item.end..].find('\n').map_or(text.len(), |at| item.end + at + 1);
        return text[item.end..end].trim().is_empty().then_some(line_start..end);
    }
    // The comma before it goes too, or the one after the first.
    let before = text[whole.start..item.start].rfind(|c: char| !c.is_whitespace()).map(|at| whole.start + at)?;
    if text[before..].starts_with(',') {
        return Some(before..item.end);
    }
    let rest = &text[item.end..whole.end];
    let comma = rest.find(|c: char| !c.is_whitespace()).filter(|at| rest[*at..].starts_with(','))?;
    let after = rest[comma + 1..].find(|c: char| !c.is_whitespace())?;
    Some(item.start..item.end + comma + 1 + after)
}
