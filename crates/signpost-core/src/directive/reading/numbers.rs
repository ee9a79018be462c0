//! Numbers with their units and which way they bound.

use super::{Token, hash};
use crate::directive::words::Sep;

/// A number that a clause names.
#[derive(Clone, Debug, PartialEq)]
pub struct Number {
    /// In the unit's own measure: seconds, bytes.
    pub value: f64,
    /// The unit, by the hash of its name; 0 for none.
    pub unit: u64,
    /// Whether the unit is a word of the text rather than a unit that is known.
    pub counted: bool,
    /// Whether it is a version.
    pub version: bool,
    /// -1: at most, 1: at least.
    pub direction: i8,
    /// `about 20`, `aim for 20`.
    pub soft: bool,
    /// Whether the clause's negation is the bound's: `no line is longer than 80`.
    pub takes_negation: bool,
    /// Where it stands.
    pub span: (u32, u32),
}

const UNITS: &[(&str, &str, f64)] = &[
    ("ms msec millisecond milliseconds", "time", 0.001),
    ("s sec secs second seconds", "time", 1.0),
    ("min mins minute minutes", "time", 60.0),
    ("h hr hrs hour hours", "time", 3600.0),
    ("d day days", "time", 86_400.0),
    ("week weeks", "time", 604_800.0),
    ("month months", "time", 2_629_800.0),
    ("year years", "time", 31_557_600.0),
    ("byte bytes", "bytes", 1.0),
    ("kb kib kilobyte kilobytes", "bytes", 1e3),
    ("mb mib megabyte megabytes", "bytes", 1e6),
    ("gb gib gigabyte gigabytes", "bytes", 1e9),
    ("% percent pct", "%", 1.0),
    ("px pixel pixels", "px", 1.0),
    ("character characters char chars column columns col cols letter letters", "columns", 1.0),
    ("space spaces blank blanks", "spaces", 1.0),
    ("line lines", "lines", 1.0),
    ("time times attempt attempts retry retries try tries", "times", 1.0),
    ("hz", "hz", 1.0),
    ("khz", "hz", 1e3),
    ("mhz", "hz", 1e6),
    ("argument arguments parameter parameters param params arg args", "arguments", 1.0),
    ("word words", "words", 1.0),
    ("level levels", "levels", 1.0),
    ("approval approvals reviewer reviewers review reviews", "approvals", 1.0),
    ("decimal decimals", "decimals", 1.0),
    ("row rows entry entries item items record records", "rows", 1.0),
    ("person people", "people", 1.0),
    ("file files", "files", 1.0),
    ("thread threads worker workers", "threads", 1.0),
    ("g gram grams", "grams", 1.0),
    ("kg kilogram kilograms", "grams", 1e3),
    ("m metre metres meter meters", "metres", 1.0),
    ("km kilometre kilometres kilometer kilometers", "metres", 1e3),
    ("cm", "metres", 0.01),
    ("mm", "metres", 0.001),
    ("baud", "baud", 1.0),
];

fn unit(low: &str) -> Option<(&'static str, f64)> {
    let found = UNITS.iter().find(|(words, _, _)| words.split(' ').any(|word| word == low))?;
    Some((found.1, found.2))
}

/// Whether a word is a unit, and so no part of what is measured.
pub(super) fn is_unit(low: &str) -> bool {
    unit(low).is_some()
}

const SPELLED: &[(&str, f64)] = &[
    ("zero", 0.0),
    ("one", 1.0),
    ("two", 2.0),
    ("three", 3.0),
    ("four", 4.0),
    ("five", 5.0),
    ("six", 6.0),
    ("seven", 7.0),
    ("eight", 8.0),
    ("nine", 9.0),
    ("ten", 10.0),
    ("eleven", 11.0),
    ("twelve", 12.0),
    ("thirteen", 13.0),
    ("fourteen", 14.0),
    ("fifteen", 15.0),
    ("sixteen", 16.0),
    ("twenty", 20.0),
    ("thirty", 30.0),
    ("forty", 40.0),
    ("fifty", 50.0),
    ("sixty", 60.0),
    ("seventy", 70.0),
    ("eighty", 80.0),
    ("ninety", 90.0),
    ("hundred", 100.0),
    ("thousand", 1000.0),
    ("dozen", 12.0),
    ("once", 1.0),
    ("twice", 2.0),
    ("half", 50.0),
    ("single", 1.0),
    ("an", 1.0),
    ("a", 1.0),
];

/// The number a word is or spells, and what stands after its digits: `10MB`.
pub(super) fn value(low: &str) -> Option<(f64, &str)> {
    let low = low.strip_prefix('v').filter(|rest| rest.starts_with(|c: char| c.is_ascii_digit())).unwrap_or(low);
    if low.starts_with(|c: char| c.is_ascii_digit()) {
        let end = low.find(|c: char| !c.is_ascii_digit() && !matches!(c, '.' | ',' | '_')).unwrap_or(low.len());
        let digits = low[..end].trim_end_matches(['.', ',']).replace([',', '_'], "");
        // `3.12.1` is a version: as far as its first two parts.
        let parts: Vec<&str> = digits.split('.').collect();
        let short = if parts.len() > 2 { parts[..2].join(".") } else { digits };
        let rest = low[end..].trim_start_matches('+');
        return Some((short.parse().ok()?, rest));
    }
    let spelled = SPELLED.iter().find(|(word, _)| *word == low)?;
    Some((spelled.1, ""))
}

/// Words that are no unit after a number.
const NO_UNIT: &[&str] = &[
    "or", "and", "per", "before", "after", "at", "is", "in", "for", "on", "to", "of", "with", "by", "the", "a", "if",
    "when", "not", "as", "than", "from", "are", "must", "should",
];
const BETWEEN: &[&str] = &[
    "more", "other", "further", "consecutive", "separate", "additional", "failed", "open", "small", "parallel", "new",
    "old", "full", "whole", "lower", "upper", "single", "different", "blank", "empty", "concurrent", "active",
];
const NAMED_VERSION: &[&str] =
    &["port", "edition", "node", "python", "java", "go", "es", "version", "rust", "ruby", "php", "jdk"];

/// What is counted off: `Step 2`.
const NUMBERED: &[&str] = &[
    "part", "step", "rule", "chapter", "section", "phase", "figure", "table", "item", "point", "note", "issue",
    "appendix", "option", "example", "case", "question", "page", "day", "week", "stage", "point", "ticket", "task",
];

/// The numbers of a clause.
pub(super) fn numbers(tokens: &[Token<'_>]) -> Vec<Number> {
    let mut found: Vec<Number> = Vec::new();
    for (at, token) in tokens.iter().enumerate() {
        let Some((mut number, glued)) = token.number() else { continue };
        let low = |at: usize| tokens.get(at).map_or("", |token| token.low);
        // A port.
        if at > 0 && (tokens[at - 1].low.contains("//") || tokens[at - 1].is(&["localhost", "http", "https"])) {
            continue;
        }
        let digits = token.low.starts_with(|c: char| c.is_ascii_digit());
        if matches!(token.low, "one" | "single") && matches!(low(at + 1), "of" | "another" | "by" | "after" | "or")
            || matches!(token.low, "a" | "an")
                && !matches!(
                    low(at + 1),
                    "minute" | "hour" | "second" | "day" | "week" | "month" | "year" | "dozen" | "hundred"
                )
            || number_follows(tokens, at)
            || at > 0 && matches!(token.low, "a" | "an") && tokens[at - 1].is(&["half"])
        {
            continue;
        }
        if at > 0 && matches!(low(at - 1), "a" | "an") && matches!(token.low, "dozen" | "hundred") {
            // `a hundred` counts once.
        }
        let mut unit_of: Option<(&str, f64)> = unit(glued);
        let (mut counted, mut version, mut name) = (false, false, String::new());
        if unit_of.is_none() && glued.is_empty() {
            unit_of = (at + 1..at + 3)
                .take_while(|next| *next == at + 1 || tokens.get(*next - 1).is_none_or(|one| one.number().is_none()))
                .filter_map(|next| tokens.get(next))
                .take_while(|next| next.word.sep == Sep::None && !next.word.code)
                .find_map(|next| unit(next.low));
        }
        let before = at.checked_sub(1).map(|before| &tokens[before]);
        if token.low == "half" && matches!(low(at + 1), "a" | "an") && unit(low(at + 2)).is_some() {
            unit_of = unit(low(at + 2));
            number = 0.5;
        } else if token.low == "half" {
            unit_of = Some(("%", 1.0));
        } else if matches!(token.low, "once" | "twice") {
            unit_of = Some(("times", 1.0));
        }
        if unit_of.is_none() {
            let named = before
                .filter(|before| !before.word.code || before.key.len() > 1)
                .filter(|_| matches!(token.word.sep, Sep::None | Sep::Colon) && (digits || token.low.starts_with('v')));
            let holder = match named {
                Some(one) if one.is(&["version", "js", "v", "at", "on", "least", "to", "is"]) && at > 1 => {
                    Some(&tokens[at - 2])
                }
                other => other,
            };
            if let Some(holder) = holder
                && (holder.word.capital && at > 1
                    || holder.is(NAMED_VERSION)
                    || holder.word.capital && tokens.len() < 4)
                && !holder.is(&["the", "use"])
            {
                version = true;
            } else if low(at + 1) == "edition" {
                version = true;
            }
        }
        if unit_of.is_none()
            && !version
            && let Some(next) = tokens.get(at + 1).filter(|next| next.word.sep == Sep::None && !next.word.code)
        {
            let next = if next.is(BETWEEN) { tokens.get(at + 2).unwrap_or(next) } else { next };
            if !next.is(NO_UNIT) && next.number().is_none() {
                counted = true;
                name = next.key.clone();
            }
        }
        if matches!(token.low, "one" | "single" | "a" | "an" | "zero") && unit_of.is_none() {
            continue;
        }
        let unit_name = unit_of.map_or(name.as_str(), |(name, _)| name);
        if let Some((_, factor)) = unit_of {
            number *= factor;
        }
        if unit_of.is_none() && at > 0 && tokens[at - 1].is(NUMBERED) {
            continue;
        }
        let span = (token.word.span.start as u32, token.word.span.end as u32);
        let unit = if version {
            hash("version")
        } else if unit_name.is_empty() {
            0
        } else {
            hash(unit_name)
        };
        let ((direction, takes_negation), soft) = (direction(tokens, at), is_soft(tokens, at));
        found.push(Number { value: number, unit, counted, version, direction, soft, takes_negation, span });
    }
    found
}

/// `a hundred`, `two thousand`: the last one is the number.
fn number_follows(tokens: &[Token<'_>], at: usize) -> bool {
    let next = tokens.get(at + 1);
    next.is_some_and(|next| next.number().is_some() && next.is(&["hundred", "thousand", "dozen"]))
}

fn direction(tokens: &[Token<'_>], at: usize) -> (i8, bool) {
    let before = &tokens[at.saturating_sub(5)..at];
    let after = &tokens[(at + 1).min(tokens.len())..(at + 5).min(tokens.len())];
    let has = |list: &[&str]| before.iter().any(|token| token.is(list));
    let has_after = |list: &[&str]| after.iter().any(|token| token.is(list));
    let negation = tokens[at.saturating_sub(8)..at]
        .iter()
        .find(|token| token.is(&["no", "not", "never", "nothing"]) || token.low.ends_with("n't") && !token.word.code);
    let negated = negation.is_some();
    let mut compared = false;
    let sign = |direction: i8| if negated { -direction } else { direction };
    let mut found = 0;
    if has(&[
        "most", "maximum", "max", "under", "below", "within", "limit", "limited", "limits", "up", "highest", "≤", "<=",
        "<", "cap", "capped",
    ]) {
        found = -1;
    }
    if has(&[
        "exceed", "exceeds", "exceeding", "longer", "more", "larger", "bigger", "over", "above", "wider", "deeper",
        "beyond", "greater", "higher", ">",
    ]) {
        found = sign(1);
        compared = true;
    }
    if negated && has(&["under", "below"]) {
        found = 1;
        compared = true;
    }
    if has(&["fewer", "less", "smaller", "shorter", "lower"]) {
        found = sign(-1);
        compared = true;
    }
    if has(&["least", "minimum", "min", "smallest", "lowest", "oldest", "≥", ">="]) {
        found = 1;
    }
    let or = has_after(&["or", "and", "at"]);
    if or && has_after(&["more", "newer", "later", "higher", "longer", "above", "larger", "least", "minimum", "up"]) {
        found = 1;
    } else if or && has_after(&["less", "fewer", "lower", "shorter", "below", "most", "smaller"])
        || has_after(&["maximum", "max"])
    {
        found = -1;
    } else if has_after(&["minimum"]) {
        found = 1;
    }
    (found, compared && negation.is_some_and(|token| token.functional))
}

fn is_soft(tokens: &[Token<'_>], at: usize) -> bool {
    let soft = |token: &Token<'_>| {
        token.is(&[
            "aim", "try", "about", "around", "usual", "typical", "typically", "ideally", "usually", "goal", "target",
            "like", "roughly", "average", "normally", "approximately", "ca", "circa", "prefer",
        ])
    };
    tokens[..at].iter().any(soft)
        || tokens.get(at + 1..).is_some_and(|rest| rest.iter().take(4).any(|token| token.is(&["average", "goal"])))
}
