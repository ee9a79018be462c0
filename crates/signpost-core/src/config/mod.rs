//! `signpost.toml`: what a project settles for itself. A file a section.
//!
//! A configuration is parsed and checked whole: a key that is not known is an error at its place, with the
//! nearest key that is.

mod lint;
mod parity;
mod path_pattern;
mod publish;
mod words;

pub use crate::base::own_files::CONFIG_NAME;
pub use lint::{CheckSetting, FailOn, LintConfig, LintPaths, Severity};
pub use parity::{Allowed, ParityConfig};
pub use path_pattern::PathPattern;
pub use publish::{OfferedElsewhere, PublishConfig};
pub use words::{Concept, Words};

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use toml::Spanned;

/// `signpost.toml`. Every part is optional; an empty file only marks the root.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
#[cfg_attr(feature = "schema", schemars(title = "signpost.toml"))]
pub struct Config {
    /// What the project is.
    pub project: ProjectConfig,
    /// What briefs and files may weigh.
    pub budget: Budget,
    /// Settings of the checks.
    pub lint: LintConfig,
    /// Where assistants may be told different things.
    pub parity: ParityConfig,
    /// How files are published.
    pub publish: PublishConfig,
    /// More families of choices that exclude each other, by name.
    pub families: BTreeMap<String, Vec<String>>,
    /// More words that mean the same, and their opposites, by name.
    pub concepts: BTreeMap<String, Concept>,
    /// Words that the checks of wording look for.
    pub words: Words,
}

/// `[project]`.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct ProjectConfig {
    /// The assistants in use, by the names of their profiles; absent: every profile that has files here.
    #[cfg_attr(feature = "schema", schemars(with = "Option<Vec<String>>"))]
    pub assistants: Option<Vec<Spanned<String>>>,
    /// Whether reading commands guess a profile for files that none describes; absent: true.
    pub guess: Option<bool>,
}

/// `[budget]`.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::toml_file::parse_toml;
    use crate::base::wording::Position;

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
