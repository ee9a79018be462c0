//! TOML files that a person writes: read whole, with errors that name their place and the nearest valid key.

use super::wording::{LineIndex, Position};
use serde::de::DeserializeOwned;
use std::ops::Range;

/// A mistake in a file that configures Signpost.
#[derive(thiserror::Error, Clone, Debug)]
#[error("{file}:{}:{}: {message}", .at.line, .at.column)]
pub struct ConfigError {
    /// The file as the person knows it.
    pub file: String,
    /// Its text.
    pub source_text: String,
    /// The bytes at fault.
    pub span: Range<usize>,
    /// Where that is.
    pub at: Position,
    /// What is wrong.
    pub message: String,
    /// How to mend it.
    pub help: Option<String>,
}

impl ConfigError {
    /// An error at some bytes of a file.
    pub fn new(
        file: &str,
        text: &str,
        span: Range<usize>,
        message: impl Into<String>,
        help: Option<String>,
    ) -> Box<Self> {
        let at = LineIndex::new(text).position(text, span.start);
        let (file, source_text, message) = (file.to_owned(), text.to_owned(), message.into());
        Box::new(ConfigError { file, source_text, span, at, message, help })
    }
}

/// Reads a TOML file into its type.
///
/// # Errors
/// It is not TOML, or holds a key or value that the type does not know.
pub fn parse_toml<T: DeserializeOwned>(file: &str, text: &str) -> Result<T, Box<ConfigError>> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    toml::from_str(text).map_err(|error| {
        let span = error.span().unwrap_or(0..0);
        let (message, help) = explain(error.message());
        ConfigError::new(file, text, span, message, help)
    })
}

/// The parser's words in ours, with a suggestion where the words at fault are near to valid ones.
fn explain(message: &str) -> (String, Option<String>) {
    let first = message.lines().next().unwrap_or_default();
    let words: Vec<&str> = first.split('`').skip(1).step_by(2).collect();
    let valid = words.get(1..).unwrap_or_default();
    let list = || valid.iter().map(|word| format!("`{word}`")).collect::<Vec<_>>().join(", ");
    let suggest = |what: &str, word: &str| match nearest(word, valid.iter().copied()) {
        Some(near) => format!("did you mean `{near}`? {what}: {}", list()),
        None => format!("{what}: {}", list()),
    };
    match words.first() {
        Some(word) if first.starts_with("unknown field") => {
            (format!("unknown key `{word}`"), Some(suggest("the keys here are", word)))
        }
        Some(word) if first.starts_with("unknown variant") => {
            (format!("`{word}` is not a value of this key"), Some(suggest("it is one of", word)))
        }
        Some(word) if first.starts_with("missing field") => (format!("the key `{word}` is missing"), None),
        _ if first.starts_with("invalid type") => {
            (first.replacen("invalid type", "a value of the wrong type", 1), None)
        }
        _ => (first.to_owned(), None),
    }
}

/// The candidate that a person most likely meant, if one is near enough.
pub fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let lower = word.to_lowercase();
    let length = lower.chars().count();
    candidates
        .into_iter()
        .filter_map(|candidate| {
            let other = candidate.to_lowercase();
            let starts = lower.len() >= 4 && other.starts_with(&lower);
            let most = (candidate.chars().count() / 3).clamp(1, 3);
            // Each letter more or fewer is a step at least.
            if !starts && other.chars().count().abs_diff(length) > most {
                return None;
            }
            let distance = strsim::osa_distance(&lower, &other);
            let distance = if starts { distance.min(2) } else { distance };
            (distance <= most).then_some((distance, candidate))
        })
        .min_by_key(|(distance, _)| *distance)
        .map(|(_, candidate)| candidate)
}
