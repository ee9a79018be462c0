//! Styles that a sentence states of the files of a language: `TypeScript is indented with four spaces`.

use crate::base::language;
use crate::check::Text;
use crate::directive::Directive;
use crate::directive::condition::Condition;
use crate::directive::words::{Word, number, words};
use crate::facts::{Style, StyleValue};

/// Words by which a sentence speaks of something else than code, or not of all of it.
const OTHERS: &[&str] = &[
    "docstring", "docstrings", "commit", "commits", "subject", "label", "labels", "title", "titles", "comment",
    "comments", "message", "messages", "body", "heading", "headings", "jsx", "attribute", "attributes", "table",
    "tables", "unless", "except", "when", "if", "room", "blank", "names", "word", "words", "continuation", "if",
    "markdown", "docs", "summary", "summaries", "sql", "import", "imports", "changelog", "description", "review",
    "descriptions", "between", "or",
];
const DENIALS: &[&str] = &[
    "no", "not", "never", "don't", "avoid", "without", "instead", "rather", "over", "than", "nor", "neither", "isn't",
];

/// What a directive says of style, and of which files.
pub(super) fn plainly(text: &Text, directive: &Directive) -> Option<(Style, StyleValue, Vec<Condition>)> {
    let all = words(text.text(), directive.span.clone());
    let has = |list: &[&str]| all.iter().any(|word| word.is(list));
    // What stands in code may be a pattern, and then it is for those files.
    let code = all.iter().any(|word| word.code);
    if all.len() > 14 || code || has(OTHERS) || has(DENIALS) {
        return None;
    }
    let (style, value) = stated(&all)?;
    let mut conditions: Vec<Condition> = Vec::new();
    let named = all.iter().filter(|word| !word.code && word.capital);
    conditions.extend(named.filter_map(|word| language::by_name(&word.low)).map(|one| Condition::Language(one.name)));
    conditions.dedup();
    if conditions.len() > 1 {
        return None;
    }
    // What a heading or lead-in says holds below it.
    for limit in &directive.limits {
        let known = words(limit, 0..limit.len());
        let known: Vec<&str> =
            known.iter().filter_map(|word| language::by_name(&word.low)).map(|one| one.name).collect();
        let [only] = known[..] else { return None };
        conditions.push(Condition::Language(only));
    }
    conditions.sort();
    conditions.dedup();
    (conditions.len() < 2).then_some((style, value, conditions))
}

fn stated(all: &[Word]) -> Option<(Style, StyleValue)> {
    let has = |list: &[&str]| all.iter().any(|word| word.is(list));
    let word = |text: &str| StyleValue::Word(text.to_owned());
    let pair = |first: &str, list: &[&str]| all.windows(2).any(|two| two[0].is(&[first]) && two[1].is(list));
    let quotes = ["quote", "quotes", "quoted", "quotation"];
    let (single, double) = (pair("single", &quotes), pair("double", &quotes));
    if single != double {
        return Some((Style::Quotes, word(if single { "single" } else { "double" })));
    }
    let (crlf, lf) = (has(&["crlf"]), has(&["lf"]));
    if crlf != lf && has(&["line", "lines", "ending", "endings", "ends", "end"]) {
        return Some((Style::LineEnding, word(if crlf { "crlf" } else { "lf" })));
    }
    let counted = |units: &[&str]| {
        let at = all.iter().position(|word| word.is(units))?;
        number(&all[at.checked_sub(1)?].low)
    };
    let indents = has(&["indent", "indents", "indented", "indentation", "level"]);
    if indents {
        let (tabs, spaces) = (has(&["tab", "tabs"]), counted(&["space", "spaces"]));
        return match (tabs, spaces) {
            (true, None) => Some((Style::Indentation, word("tabs"))),
            (false, Some(width)) => Some((Style::IndentWidth, StyleValue::Number(width))),
            _ => None,
        };
    }
    let long = pair("line", &["length", "width", "limit", "lengths"])
        || has(&["line", "lines"]) && has(&["long", "wide", "characters", "columns", "chars", "width"]);
    if long {
        let numbers: Vec<f64> = all
            .iter()
            .filter(|word| word.low.starts_with(|c: char| c.is_ascii_digit()))
            .filter_map(|word| number(&word.low))
            .collect();
        if let [width] = numbers[..] {
            return Some((Style::LineLength, StyleValue::Number(width)));
        }
    }
    None
}
