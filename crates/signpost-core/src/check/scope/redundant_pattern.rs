use super::scoped;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::header::Value;
use crate::pattern::{Bare, Dialect, Pattern};
use crate::rule::{PatternItem, Rule};
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "scope/redundant-pattern",
    severity: Severity::Note,
    finds: "A pattern that another pattern of the same rule makes superfluous.",
    why: "It changes nothing, but whoever narrows the rule later changes one of the two and wonders why the rule still \
          reaches everything.",
    mend: "Delete the narrower one, or the wider one if that was the mistake.",
    bad: "---\ncovers: [\"kiosk/**\", \"kiosk/src/**/*.tsx\"]\n---\n",
    good: "---\ncovers: [\"kiosk/**\"]\n---\n",
};

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
                    other_at != at
                        && takes_all(other, item, &place.dialect)
                        && (other_at < at || !takes_all(item, other, &place.dialect))
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

/// Whether a pattern takes whatever another one takes: judged by paths made from the other one with names
/// that stand in neither, so that only wildcards can take them.
fn takes_all(wide: &PatternItem, narrow: &PatternItem, dialect: &Dialect) -> bool {
    let (Ok(wide_pattern), Ok(narrow_pattern)) = (&wide.pattern, &narrow.pattern) else { return false };
    if wide.text == narrow.text {
        return true;
    }
    if narrow.text.contains(['{', '[', '!', '\\']) {
        return false;
    }
    let samples = samples(&narrow.text, dialect);
    !samples.is_empty() && samples.iter().all(|path| narrow_pattern.matches(path) && wide_pattern.matches(path))
}

fn samples(text: &str, dialect: &Dialect) -> Vec<String> {
    let anchored = text.starts_with('/');
    let rest = text.strip_prefix("./").unwrap_or(text).trim_start_matches('/');
    let bare = !anchored && !rest.contains('/') && dialect.bare == Bare::AnyDepth;
    let mut samples = Vec::new();
    for (folders, name) in [("", "zqx"), ("zqa", "zqx.zqy"), ("zqa/zqb", "z"), ("zqa/.zqb/zqc", ".zqx")] {
        let mut parts: Vec<String> = Vec::new();
        if bare && !folders.is_empty() {
            parts.push(folders.to_owned());
        }
        let all: Vec<&str> = rest.split('/').collect();
        for (at, part) in all.iter().enumerate() {
            let last = at + 1 == all.len();
            match *part {
                "**" if last => {
                    if !folders.is_empty() {
                        parts.push(folders.to_owned());
                    }
                    parts.push(name.to_owned());
                }
                "**" if folders.is_empty() => {}
                "**" => parts.push(folders.to_owned()),
                "" if last => parts.push(name.to_owned()),
                _ => parts.push(part.replace("**", name).replace('*', name).replace('?', "z")),
            }
        }
        samples.push(parts.join("/"));
    }
    samples
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

#[cfg(test)]
mod tests {
    use super::*;

    fn item(text: &str) -> PatternItem {
        PatternItem { text: text.to_owned(), span: 0..0, pattern: Pattern::parse(text, &Dialect::default()) }
    }

    #[test]
    fn wide_patterns_take_all_of_narrow_ones() {
        let takes = |wide: &str, narrow: &str| takes_all(&item(wide), &item(narrow), &Dialect::default());
        for (wide, narrow) in [
            ("kiosk/**", "kiosk/src/**/*.tsx"),
            ("**", "a/b.c"),
            ("*.ts", "src/**/*.ts"),
            ("src/", "src/a/*"),
            ("**/*.rs", "*.rs"),
            ("a/**/b.*", "a/b.c"),
            ("*.{ts,tsx}", "x/*.tsx"),
        ] {
            assert!(takes(wide, narrow), "{wide} takes {narrow}");
            assert!(wide == "**/*.rs" || !takes(narrow, wide), "{narrow} does not take {wide}");
        }
        assert!(!takes("src/*", "src/**"));
        assert!(!takes("src/*.ts", "src/**/*.ts"));
        assert!(!takes("a/**", "**/a/b"));
    }
}
