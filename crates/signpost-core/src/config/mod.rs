//! `signpost.toml`, and the errors of everything that a person configures.
//!
//! A configuration is parsed and checked whole: a key that is not known is an error at its place, with the
//! nearest key that is.

use crate::base::wording::{LineIndex, Position};
use schemars::JsonSchema;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::ops::Range;
use toml::Spanned;

pub use crate::base::own_files::CONFIG_NAME;

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

/// How severe a finding is.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// Worth knowing.
    Note,
    /// Very likely not what was meant.
    Warning,
    /// Certainly not what was meant.
    Error,
}

impl Severity {
    /// The severity's name.
    pub fn name(self) -> &'static str {
        match self {
            Severity::Note => "note",
            Severity::Warning => "warning",
            Severity::Error => "error",
        }
    }
}

/// What a setting makes of a check.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CheckSetting {
    /// It is not run.
    Off,
    /// It counts as a note.
    Note,
    /// It counts as a warning.
    Warning,
    /// It counts as an error.
    Error,
}

impl CheckSetting {
    /// The severity it asks for; `None` for off.
    pub fn severity(self) -> Option<Severity> {
        match self {
            CheckSetting::Off => None,
            CheckSetting::Note => Some(Severity::Note),
            CheckSetting::Warning => Some(Severity::Warning),
            CheckSetting::Error => Some(Severity::Error),
        }
    }
}

/// From which severity on findings make the exit code 1.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum FailOn {
    /// From notes on.
    Note,
    /// From warnings on.
    #[default]
    Warning,
    /// Only on errors.
    Error,
    /// Not at all.
    Never,
}

impl FailOn {
    /// Whether a finding of that severity counts.
    pub fn counts(self, severity: Severity) -> bool {
        match self {
            FailOn::Note => true,
            FailOn::Warning => severity >= Severity::Warning,
            FailOn::Error => severity >= Severity::Error,
            FailOn::Never => false,
        }
    }
}

/// `signpost.toml`. Every part is optional; an empty file only marks the root.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
#[schemars(title = "signpost.toml")]
pub struct Config {
    /// What the project is.
    pub project: ProjectConfig,
    /// What briefs and files may weigh.
    pub budget: Budget,
    /// Settings of the checks.
    pub lint: LintConfig,
    /// Where assistants may be told different things.
    pub parity: crate::inspect::parity::ParityConfig,
    /// How files are published.
    pub publish: crate::change::publish::PublishConfig,
    /// More families of choices that exclude each other, by name.
    pub families: BTreeMap<String, Vec<String>>,
    /// Words that the checks of wording look for.
    pub words: Words,
}

/// `[words]`: more words for the checks of wording, and words that are fine.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Words {
    /// More words for `wording/vague`.
    pub vague: Vec<String>,
    /// More words for `wording/commonplace`.
    pub commonplace: Vec<String>,
    /// More words for `wording/pleasantry`.
    pub pleasantry: Vec<String>,
    /// More words for `wording/placeholder`.
    pub placeholder: Vec<String>,
    /// Words that no check of wording minds.
    pub fine: Vec<String>,
}

/// `[project]`.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct ProjectConfig {
    /// The assistants in use, by the names of their profiles; absent: every profile that has files here.
    #[schemars(with = "Option<Vec<String>>")]
    pub assistants: Option<Vec<Spanned<String>>>,
}

/// `[budget]`.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Budget {
    /// Tokens that a brief may weigh.
    pub brief: usize,
    /// Lines that an instruction file may have.
    pub file_lines: usize,
}

impl Default for Budget {
    fn default() -> Self {
        Budget { brief: 2000, file_lines: 200 }
    }
}

/// `[lint]`.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct LintConfig {
    /// From which severity on findings make the exit code 1.
    pub fail_on: Option<FailOn>,
    /// A severity, or off, for a check (`group/name`) or a whole group.
    #[schemars(with = "BTreeMap<String, CheckSetting>")]
    pub checks: BTreeMap<Spanned<String>, CheckSetting>,
    /// The same for some instruction files.
    pub paths: Vec<LintPaths>,
}

/// `[[lint.paths]]`.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LintPaths {
    /// Path patterns from the root; without a slash at any depth, braces understood.
    #[schemars(with = "Vec<String>")]
    pub paths: Vec<Spanned<String>>,
    /// A severity, or off, for a check or a whole group.
    #[schemars(with = "BTreeMap<String, CheckSetting>")]
    pub checks: BTreeMap<Spanned<String>, CheckSetting>,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_mistake_names_its_place_and_the_nearest_key() {
        let text = "[budget]\nbreif = 3\n";
        let error = parse_toml::<Config>("signpost.toml", text).unwrap_err();
        assert_eq!(error.to_string(), "signpost.toml:2:1: unknown key `breif`");
        assert!(error.help.unwrap().starts_with("did you mean `brief`?"));
        let error = parse_toml::<Config>("signpost.toml", "[lint.checks]\n\"a/b\" = \"eror\"\n").unwrap_err();
        assert!(error.help.unwrap().starts_with("did you mean `error`?"));
        assert_eq!(error.at, Position { line: 2, column: 9 });
    }
}
