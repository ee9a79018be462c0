//! Numbers with their measure and direction: `at most 100 characters`, `Node 18 or later`, `indent with two
//! spaces`.

use super::words::{LIGHT, STOP, Word, number};

/// A number that a directive asks for, as the values that follow it.
#[derive(Clone, Debug, PartialEq)]
pub struct Measure {
    /// What is measured: a unit and the stems of the words around it, or `indent-width`, `line-length …`,
    /// `version …`.
    pub of: String,
    /// The least value that follows it.
    pub low: f64,
    /// The greatest one.
    pub high: f64,
    /// The number's word.
    pub at: usize,
}

/// How a unit's values are brought to one scale; `None` for units that are none.
fn unit(word: &str) -> Option<(&'static str, f64)> {
    Some(match word {
        "spac" => ("space", 1.0),
        "character" | "char" | "column" | "col" => ("column", 1.0),
        "lin" => ("line", 1.0),
        "%" | "percent" => ("percent", 1.0),
        "ms" | "millisecond" => ("second", 0.001),
        "s" | "sec" | "second" => ("second", 1.0),
        "min" | "minut" => ("second", 60.0),
        "hour" | "h" => ("second", 3600.0),
        "day" => ("second", 86400.0),
        "week" => ("second", 604_800.0),
        "kb" | "kib" => ("byte", 1e3),
        "mb" | "mib" => ("byte", 1e6),
        "gb" | "gib" => ("byte", 1e9),
        "px" | "pixel" => ("pixel", 1.0),
        "word" => ("word", 1.0),
        "argument" | "parameter" | "param" | "arg" => ("argument", 1.0),
        "level" => ("level", 1.0),
        "digit" => ("digit", 1.0),
        "retry" | "tim" | "attempt" => ("time", 1.0),
        "approval" | "reviewer" | "review" => ("approval", 1.0),
        _ => return None,
    })
}

/// What has versions, by the words people write, with the name that manifests use.
pub fn versioned(word: &str) -> Option<&'static str> {
    Some(match word {
        "node" | "node.js" | "nodejs" => "node",
        "python" | "cpython" => "python",
        "rust" | "rustc" => "rust",
        "go" | "golang" => "go",
        "java" | "jdk" => "java",
        "ruby" => "ruby",
        "php" => "php",
        "typescript" => "typescript",
        "react" => "react",
        "vue" | "vue.js" => "vue",
        "angular" => "@angular/core",
        "svelte" => "svelte",
        "next.js" | "nextjs" => "next",
        "django" => "django",
        "flask" => "flask",
        "fastapi" => "fastapi",
        "pydantic" => "pydantic",
        "sqlalchemy" => "sqlalchemy",
        "postgresql" | "postgres" => "postgresql",
        "tailwindcss" => "tailwindcss",
        "vite" => "vite",
        "npm" => "npm",
        "pnpm" => "pnpm",
        "yarn" => "yarn",
        "bun" => "bun",
        "eslint" => "eslint",
        "jest" => "jest",
        "vitest" => "vitest",
        "tokio" => "tokio",
        "axum" => "axum",
        "kotlin" => "kotlin",
        "edition" => "edition",
        "scala" => "scala",
        "elixir" => "elixir",
        "erlang" | "otp" => "erlang",
        "swift" => "swift",
        "dart" => "dart",
        "flutter" => "flutter",
        "terraform" => "terraform",
        "dotnet" | ".net" => ".net",
        "c++" => "c++",
        "rails" => "rails",
        "phoenix" => "phoenix",
        "symfony" => "symfony/http-kernel",
        "laravel" => "laravel/framework",
        "ktor" => "ktor",
        "spring" => "spring-boot",
        "junit" => "junit-jupiter",
        "redis" => "redis",
        "mysql" => "mysql",
        "mariadb" => "mariadb",
        "express" => "express",
        "hono" => "hono",
        _ => return None,
    })
}

/// `18`, `3.11`, `v1.85.0`, `18.x`, `3.8+`: the numbers, and whether later ones are meant too.
pub fn version(word: &str) -> Option<(Vec<u64>, bool)> {
    let word = word.trim_start_matches(['v', 'V', '^', '~', '=']);
    let (word, later) = match word.strip_suffix('+') {
        Some(rest) => (rest, true),
        None => (word, false),
    };
    let word = word.trim_end_matches(".x").trim_end_matches(".*");
    let parts: Option<Vec<u64>> = word.split('.').map(|part| part.parse().ok()).collect();
    parts.filter(|parts| !parts.is_empty() && parts.len() <= 4).map(|parts| (parts, later))
}

/// A version as one number, with what it leaves open set to a value.
pub fn version_value(parts: &[u64], open: u64) -> f64 {
    let part = |at: usize| parts.get(at).copied().unwrap_or(open).min(99_999) as f64;
    part(0) * 1e10 + part(1) * 1e5 + part(2)
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Direction {
    Exactly,
    AtMost,
    AtLeast,
}

const LIMITS: &[&str] = &[
    "most", "max", "maximum", "exceed", "exceeding", "exceeds", "limit", "limited", "under", "below", "less", "fewer",
    "within", "<", "<=", "≤", "longer", "more", "over", "above", "greater", "larger", "least", "min", "minimum", ">",
    ">=", "≥", "up", "beyond", "shorter", "cap", "capped", "newer", "later", "higher", "wider", "smaller",
];

fn direction(words: &[&Word], at: usize, negated: bool) -> Direction {
    let before = &words[at.saturating_sub(5)..at];
    let has = |list: &[&str]| before.iter().any(|word| word.is(list));
    let after: Vec<&str> = words[at + 1..].iter().take(5).map(|word| word.low.as_str()).collect();
    let denies = negated
        || words[..at].iter().any(|word| word.is(&["no", "not", "never", "don't", "shouldn't", "mustn't", "without"]));
    let follows =
        |list: &[&str]| after.windows(2).any(|pair| matches!(pair[0], "or" | "and") && list.contains(&pair[1]));
    if has(&[
        "exceed", "exceeding", "exceeds", "longer", "more", "over", "above", "greater", "larger", ">", "beyond",
        "wider",
    ]) {
        return if denies { Direction::AtMost } else { Direction::AtLeast };
    }
    if has(&["less", "fewer", "shorter", "smaller"]) {
        return if denies { Direction::AtLeast } else { Direction::AtMost };
    }
    if has(&["least", "min", "minimum", ">=", "≥"])
        || follows(&["more", "newer", "later", "higher", "above", "up", "greater"])
        || after.first() == Some(&"minimum")
        || words[at].low.ends_with('+')
    {
        return Direction::AtLeast;
    }
    let up_to = before.windows(2).any(|pair| pair[0].is(&["up"]) && pair[1].is(&["to"]));
    if up_to
        || has(&[
            "most", "max", "maximum", "limit", "limited", "under", "below", "within", "<", "<=", "≤", "cap", "capped",
        ])
        || follows(&["less", "fewer", "below", "under"])
        || matches!(after.get(..2), Some([_, "max" | "maximum"]))
        || matches!(after.first(), Some(&"max" | &"maximum"))
    {
        return Direction::AtMost;
    }
    Direction::Exactly
}

/// More numbers in one clause are a list of something.
const MOST_NUMBERS: usize = 12;

/// Every number in a clause. None where numbers are a range or a list, which is one statement of its own.
pub fn measures(words: &[&Word], negated: bool) -> Vec<Measure> {
    let mut found: Vec<Measure> = Vec::new();
    if words.iter().filter(|word| word.low.starts_with(|c: char| c.is_ascii_digit())).count() > MOST_NUMBERS {
        return found;
    }
    for at in (0..words.len()).filter(|at| !words[*at].code || words[*at].low.contains('.')) {
        if let Some((product, parts)) = version_at(words, at) {
            found.extend(version_measure(words, at, product, &parts, negated));
        } else {
            found.extend(amount(words, at, negated));
        }
    }
    // A range, or several numbers for one thing, is nothing that another number contradicts.
    let several = |one: &Measure| found.iter().filter(|other| other.of == one.of).count() > 1;
    let single: Vec<bool> = found.iter().map(|one| !several(one)).collect();
    let mut keep = single.into_iter();
    found.retain(|_| keep.next().unwrap_or(false));
    found
}

/// `Node 18`, `Python >= 3.11`, `Rust version 1.85`, `Node.js v20`: of what, and which.
fn version_at(words: &[&Word], at: usize) -> Option<(&'static str, Vec<u64>)> {
    let between = ["version", "versions", ">=", ">", "<", "<=", "at", "least", "is", "to"];
    let product = words[at.saturating_sub(4)..at].iter().rev().find(|word| !word.is(&between))?;
    let names = !product.code && (product.capital || product.low == "edition" || product.low != "go");
    let product = versioned(&product.low).filter(|_| names)?;
    Some((product, version(&words[at].low)?.0))
}

fn version_measure(words: &[&Word], at: usize, product: &str, parts: &[u64], negated: bool) -> Option<Measure> {
    let unit_follows = words.get(at + 1).is_some_and(|next| unit(&next.stem).is_some());
    if unit_follows || words[at].low.ends_with('%') {
        return None;
    }
    let (least, most) = (version_value(parts, 0), version_value(parts, 99_999));
    let (low, high) = match direction(words, at, negated) {
        Direction::Exactly => (least, most),
        Direction::AtMost => (f64::NEG_INFINITY, most),
        Direction::AtLeast => (least, f64::INFINITY),
    };
    Some(Measure { of: format!("version {product}"), low, high, at })
}

/// `80 characters`, `two spaces`, `90 %`.
fn amount(words: &[&Word], at: usize, negated: bool) -> Option<Measure> {
    let word = words[at];
    let value = number(&word.low)?;
    let back = |steps: usize| at.checked_sub(steps).map(|at| &words[at]);
    let next = words.get(at + 1);
    let ranges = |other: Option<&&Word>, joint: Option<&&Word>| {
        joint.is_some_and(|joint| joint.is(&["to", "or", "and"]))
            && other.is_some_and(|other| number(&other.low).is_some())
    };
    // `line 7`, `RFC 9110` name something.
    let name = ["version", "v", "line", "step", "section", "chapter", "rfc", "issue", "#", "iso"];
    if ranges(words.get(at + 2), next) || ranges(back(2), back(1)) || back(1).is_some_and(|word| word.is(&name)) {
        return None;
    }
    let (unit, scale) = if word.low.ends_with('%') {
        ("percent", 1.0)
    } else {
        next.and_then(|next| unit(&next.stem)).unwrap_or(("", 1.0))
    };
    let spelled = !word.low.starts_with(|c: char| c.is_ascii_digit());
    if spelled && unit.is_empty() {
        return None;
    }
    let has_unit = !unit.is_empty() && unit != "percent" || next.is_some_and(|next| next.is(&["percent"]));
    let of = subject_of(unit, subject(words, at..at + 1 + usize::from(has_unit)))?;
    let value = value * scale;
    // `One column a line` is no width.
    if of.starts_with("line-length") && value < 30.0 || of.starts_with("indent-width") && value > 16.0 {
        return None;
    }
    let (low, high) = match direction(words, at, negated) {
        Direction::Exactly => (value, value),
        Direction::AtMost => (f64::NEG_INFINITY, value),
        Direction::AtLeast => (value, f64::INFINITY),
    };
    Some(Measure { of, low, high, at })
}

/// The stems beside a number and its unit that may say what is measured.
fn subject<'w>(words: &[&'w Word], number_at: std::ops::Range<usize>) -> Vec<&'w str> {
    let bounds = [
        "no", "never", "don't", "may", "can", "could", "than", "can't", "cannot", "long", "each", "exactly", "equal",
        "equals", "wide", "characters", "chars", "columns",
    ];
    let beside = words.iter().enumerate().filter(|(other, _)| !number_at.contains(other)).map(|(_, word)| word);
    beside
        .filter(|word| !word.is(STOP) && (!word.is(LIGHT) || word.is(&["indent"])) && !word.is(LIMITS))
        .filter(|word| number(&word.low).is_none() && !word.is(&bounds))
        // For which language it holds is a condition, and no part of what is measured.
        .filter(|word| !(word.capital && crate::base::language::by_name(&word.low).is_some()))
        .map(|word| word.stem.as_str())
        .collect()
}

fn subject_of(unit: &str, mut subject: Vec<&str>) -> Option<String> {
    let indent = ["indent", "indentation", "tab", "nest", "width", "siz", "styl", "level", "block", "soft", "fil"];
    let length = ["lin", "length", "width", "wrap", "column", "row", "long", "hard", "max", "limit", "print"];
    let says = |words: &[&str], subject: &[&str]| subject.iter().any(|word| words.contains(word));
    if unit == "space" {
        subject.retain(|word| !indent.contains(word));
        subject.sort_unstable();
        return Some(join("indent-width", &subject));
    }
    if unit.is_empty()
        && says(&["indent", "indentation", "tab"], &subject)
        && says(&["width", "siz", "indent", "indentation"], &subject)
    {
        subject.retain(|word| !indent.contains(word));
        return Some(join("indent-width", &subject));
    }
    let lines = unit == "column" && (says(&["lin", "wrap", "width", "row"], &subject) || subject.is_empty())
        || unit.is_empty()
            && says(&["lin", "wrap", "print"], &subject)
            && says(&["length", "width", "lin", "wrap"], &subject);
    if lines {
        subject.retain(|word| !length.contains(word));
        subject.sort_unstable();
        subject.dedup();
        return Some(join("line-length", &subject));
    }
    subject.retain(|word| !matches!(*word, "long" | "length" | "size"));
    subject.sort_unstable();
    subject.dedup();
    // Without a word there is nothing to compare; without a unit there must be a clear one.
    if subject.is_empty() || unit.is_empty() && subject.len() > 3 {
        return None;
    }
    Some(join(if unit.is_empty() { "number" } else { unit }, &subject))
}

fn join(head: &str, words: &[&str]) -> String {
    std::iter::once(head).chain(words.iter().copied()).collect::<Vec<_>>().join(" ")
}

#[cfg(test)]
mod tests {
    use super::super::words::words;
    use super::*;

    fn read(text: &str) -> Vec<(String, f64, f64)> {
        measures(&words(text, 0..text.len()).iter().collect::<Vec<_>>(), false)
            .into_iter()
            .map(|one| (one.of, one.low, one.high))
            .collect()
    }

    const MOST: f64 = f64::NEG_INFINITY;
    const LEAST: f64 = f64::INFINITY;

    #[test]
    fn numbers_have_a_measure_and_a_direction() {
        let line = |low, high| vec![("line-length".to_owned(), low, high)];
        assert_eq!(read("Wrap lines at 100 columns"), line(100.0, 100.0));
        assert_eq!(read("Keep lines under 80 characters"), line(MOST, 80.0));
        assert_eq!(read("No line may be longer than 120 characters"), line(MOST, 120.0));
        assert_eq!(read("Lines must not exceed 88 chars"), line(MOST, 88.0));
        assert_eq!(read("Maximum line length is 100"), line(MOST, 100.0));
        let indent = |value| vec![("indent-width".to_owned(), value, value)];
        for text in ["Indent with 2 spaces", "Use 2-space indentation", "two spaces", "Set the indent size to 2"] {
            assert_eq!(read(text), indent(2.0), "{text}");
        }
        assert_eq!(read("Coverage is at least 90%"), [("percent coverag".to_owned(), 90.0, LEAST)]);
        assert_eq!(read("Time out after 500 ms"), read("Time out after 0.5 seconds"));
    }

    #[test]
    fn versions_leave_open_what_they_do_not_say() {
        let [(of, low, high)] = &read("Use Node 18")[..] else { panic!() };
        assert_eq!(of, "version node");
        assert!(*low <= version_value(&[18, 4, 1], 0) && version_value(&[18, 4, 1], 0) <= *high);
        assert!(version_value(&[3, 9], 0) < version_value(&[3, 11], 0));
        assert_eq!(read("Python 3.8 or later")[0].2, LEAST);
        assert_eq!(version("3.8+"), Some((vec![3, 8], true)));
    }

    #[test]
    fn ranges_and_bare_numbers_say_nothing() {
        assert!(read("Use 2 to 4 spaces").is_empty());
        assert!(read("See RFC 2119").is_empty());
        assert!(read("One change a commit").is_empty());
    }
}
