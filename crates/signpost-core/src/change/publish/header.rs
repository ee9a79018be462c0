//! Writing headers: the keys that make an assistant read a rule with the reach, summary and patterns it has.
//!
//! A profile says how a header is read; which header to write is found by trying. The candidates are the values
//! that the profile's own rows name, the fewest first, and each is read back: what does not read as meant is
//! not written.

use crate::base::wording::toml_text;
use crate::header::{Header, HeaderStyle};
use crate::pattern::{Dialect, ListForm};
use crate::profile::{Condition, Place, Reach};
use std::collections::BTreeSet;

/// What a header is to say.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Wanted {
    /// When the rule gets to the assistant.
    pub reach: Reach,
    /// What it is picked by.
    pub summary: Option<String>,
    /// Patterns, in the place's dialect; empty where the rule is not scoped.
    pub paths: Vec<String>,
    /// Likewise, for what it does not take.
    pub except: Vec<String>,
}

/// A header that reads as wanted.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Written {
    /// The keys between the fences, one a line or more; empty where no header is needed.
    pub block: String,
    /// Whether the summary had to be left out.
    pub without_summary: bool,
}

/// More combinations than this are not tried: no assistant needs so many.
const MOST_TRIES: usize = 4096;

/// The header that makes a place read a rule as wanted; `None` where there is none.
pub fn write(place: &Place, wanted: &Wanted) -> Option<Written> {
    let keys = &place.keys;
    let scoped = wanted.reach == Reach::Scoped;
    if scoped && (keys.paths.is_none() || wanted.paths.is_empty()) {
        return None;
    }
    if !wanted.except.is_empty() && keys.except.is_none() && !place.dialect.negate {
        return None;
    }
    if place.header == HeaderStyle::None {
        let plain = wanted.summary.is_none() || wanted.reach != Reach::Offered;
        return (plain && !scoped && place.reach_of(&Header::default()) == wanted.reach)
            .then(|| Written { block: String::new(), without_summary: wanted.summary.is_some() });
    }
    for choice in choices(place, wanted) {
        let block = block(place, &choice);
        if reads_as(place, &block, wanted, &choice) {
            let without_summary = wanted.summary.is_some() && choice.summary.is_none();
            return Some(Written { block, without_summary });
        }
    }
    None
}

/// A combination of values.
#[derive(Clone, Debug, Default)]
struct Choice {
    summary: Option<String>,
    paths: Option<Form>,
    except: Option<Form>,
    others: Vec<(String, String)>,
}

#[derive(Clone, Debug)]
enum Form {
    Patterns(Vec<String>),
    Word(String),
}

/// The combinations worth trying, those that say least first.
fn choices(place: &Place, wanted: &Wanted) -> Vec<Choice> {
    let keys = &place.keys;
    let own = [&keys.summary, &keys.paths, &keys.except];
    let is_own = |key: &str| own.iter().any(|own| own.as_deref() == Some(key));
    let words_of = |key: &str| -> Vec<String> {
        let rows = place.decide.iter().filter(|row| row.key == key);
        let words = rows.filter_map(|row| match &row.condition {
            Condition::Is(word) => Some(word.clone()),
            Condition::Present | Condition::Absent => None,
        });
        words.collect()
    };
    let mut summaries: Vec<Option<String>> = vec![None];
    if let (Some(_), Some(summary)) = (&keys.summary, &wanted.summary) {
        summaries.insert(0, Some(summary.clone()));
    }
    let except: Option<Form> = (wanted.reach == Reach::Scoped && !wanted.except.is_empty() && keys.except.is_some())
        .then(|| Form::Patterns(wanted.except.clone()));
    let mut paths: Vec<Option<Form>> = Vec::new();
    match &keys.paths {
        Some(_) if wanted.reach == Reach::Scoped => {
            let mut all = wanted.paths.clone();
            if keys.except.is_none() {
                all.extend(wanted.except.iter().map(|text| format!("!{text}")));
            }
            paths.push(Some(Form::Patterns(all)));
        }
        Some(key) => {
            paths.push(None);
            paths.extend(words_of(key).into_iter().map(|word| Some(Form::Word(word))));
            paths.push(Some(Form::Patterns(vec!["**".to_owned()])));
        }
        None => paths.push(None),
    }
    let others: BTreeSet<&str> = place.decide.iter().map(|row| row.key.as_str()).filter(|key| !is_own(key)).collect();
    let mut combined: Vec<Vec<(String, String)>> = vec![Vec::new()];
    for key in others {
        let mut words = words_of(key);
        if words.is_empty() {
            words.push("true".to_owned());
        } else if place.decide.iter().any(|row| row.key == key && row.condition == Condition::Absent) {
            // Present, and none of the words that mean something.
            words.push("other".to_owned());
        }
        let with = combined.iter().flat_map(|one| {
            words.iter().map(move |word| {
                let mut next = one.clone();
                next.push((key.to_owned(), word.clone()));
                next
            })
        });
        let with: Vec<_> = with.take(MOST_TRIES).collect();
        combined.extend(with);
    }
    combined.sort_by_key(Vec::len);
    let mut all = Vec::new();
    for summary in summaries {
        for others in &combined {
            for paths in &paths {
                let (paths, except) = (paths.clone(), except.clone());
                all.push(Choice { summary: summary.clone(), paths, except, others: others.clone() });
            }
        }
    }
    all.truncate(MOST_TRIES);
    all
}

fn block(place: &Place, choice: &Choice) -> String {
    let mut lines = String::new();
    let style = place.header;
    if let (Some(key), Some(summary)) = (&place.keys.summary, &choice.summary) {
        lines += &line(style, key, &scalar(style, summary));
    }
    for (key, form) in [(&place.keys.paths, &choice.paths), (&place.keys.except, &choice.except)] {
        match (key, form) {
            (Some(key), Some(Form::Word(word))) => lines += &line(style, key, &scalar(style, word)),
            (Some(key), Some(Form::Patterns(patterns))) => {
                lines += &patterns_line(style, key, patterns, &place.dialect)
            }
            _ => {}
        }
    }
    for (key, word) in &choice.others {
        lines += &line(style, key, &scalar(style, word));
    }
    lines
}

fn line(style: HeaderStyle, key: &str, value: &str) -> String {
    match style {
        HeaderStyle::Toml => format!("{} = {value}\n", toml_key(key)),
        _ => format!("{}: {value}\n", scalar(HeaderStyle::Yaml, key)),
    }
}

fn toml_key(key: &str) -> String {
    let bare = !key.is_empty() && key.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '_' | '-'));
    if bare { key.to_owned() } else { toml_text(key) }
}

/// Longer lists stand one item a line.
const LONG_LIST: usize = 100;

fn patterns_line(style: HeaderStyle, key: &str, patterns: &[String], dialect: &Dialect) -> String {
    if dialect.list == ListForm::Comma {
        let all = patterns.join(", ");
        return line(style, key, &if style == HeaderStyle::Yaml { yaml_text(&all) } else { toml_text(&all) });
    }
    let items: Vec<String> = patterns
        .iter()
        .map(|text| if style == HeaderStyle::Toml { toml_text(text) } else { yaml_text(text) })
        .collect();
    let flat = line(style, key, &format!("[{}]", items.join(", ")));
    if flat.chars().count() <= LONG_LIST || items.len() == 1 {
        return flat;
    }
    match style {
        HeaderStyle::Toml => {
            let items: String = items.iter().map(|item| format!("    {item},\n")).collect();
            format!("{} = [\n{items}]\n", toml_key(key))
        }
        _ => {
            let items: String = items.iter().map(|item| format!("  - {item}\n")).collect();
            format!("{}:\n{items}", scalar(HeaderStyle::Yaml, key))
        }
    }
}

/// A text, number or boolean as a careful person writes it.
fn scalar(style: HeaderStyle, text: &str) -> String {
    if style == HeaderStyle::Toml {
        let bare =
            matches!(text, "true" | "false") || text.parse::<i64>().is_ok_and(|number| number.to_string() == text);
        return if bare { text.to_owned() } else { toml_text(text) };
    }
    let plain = text.starts_with(|c: char| c.is_alphanumeric())
        && text
            .chars()
            .all(|c| c.is_alphanumeric() || matches!(c, ' ' | '_' | '.' | '/' | ',' | '-' | '(' | ')' | ';' | '+'))
        && !text.ends_with(' ')
        && !text.contains("  ")
        && !matches!(text.to_lowercase().as_str(), "null");
    if plain { text.to_owned() } else { yaml_text(text) }
}

fn yaml_text(text: &str) -> String {
    let mut quoted = String::from("\"");
    for c in text.chars() {
        match c {
            '"' | '\\' => quoted.extend(['\\', c]),
            '\n' => quoted += "\\n",
            '\t' => quoted += "\\t",
            '\r' => quoted += "\\r",
            c if c.is_control() && c <= '\u{ff}' => quoted += &format!("\\x{:02x}", c as u32),
            '\u{2028}' | '\u{2029}' | '\u{feff}' => quoted += &format!("\\u{:04x}", c as u32),
            c => quoted.push(c),
        }
    }
    quoted + "\""
}

/// Whether a place reads back what was wanted.
fn reads_as(place: &Place, block: &str, wanted: &Wanted, choice: &Choice) -> bool {
    let header = Header::read(&place.header.fenced(block), place.header);
    if place.reach_of(&header) != wanted.reach || !header.problems.is_empty() {
        return false;
    }
    let scalar = |key: &Option<String>| key.as_ref().and_then(|key| header.get(key)).and_then(|key| key.scalar());
    if choice.summary.is_some() && scalar(&place.keys.summary).map(str::trim) != choice.summary.as_deref() {
        return false;
    }
    if wanted.reach != Reach::Scoped {
        return true;
    }
    let read = |key: &Option<String>| {
        let key = key.as_ref().and_then(|key| header.get(key));
        let found = crate::project::rule::KeyPatterns::read(key, &place.header.fenced(block), &place.dialect);
        found.items.into_iter().map(|item| (item.text, item.pattern.is_ok())).collect::<Vec<_>>()
    };
    let all_there = |key: &Option<String>, form: &Option<Form>| match form {
        Some(Form::Patterns(patterns)) => {
            let read = read(key);
            read.len() == patterns.len() && read.iter().zip(patterns).all(|((text, valid), own)| *valid && text == own)
        }
        _ => true,
    };
    all_there(&place.keys.paths, &choice.paths) && all_there(&place.keys.except, &choice.except)
}
