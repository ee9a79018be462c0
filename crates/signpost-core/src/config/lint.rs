//! `[lint]`: which checks run, and how severe their findings are.

use super::PathPattern;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use toml::Spanned;

/// How severe a finding is.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
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
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
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
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
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

/// `[lint]`.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct LintConfig {
    /// From which severity on findings make the exit code 1.
    pub fail_on: Option<FailOn>,
    /// A severity, or off, for a check (`group/name`) or a whole group.
    #[cfg_attr(feature = "schema", schemars(with = "BTreeMap<String, CheckSetting>"))]
    pub checks: BTreeMap<Spanned<String>, CheckSetting>,
    /// The same for some instruction files.
    pub paths: Vec<LintPaths>,
}

/// `[[lint.paths]]`.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct LintPaths {
    /// Path patterns from the root; without a slash at any depth, braces understood.
    pub paths: Vec<PathPattern>,
    /// A severity, or off, for a check or a whole group.
    #[cfg_attr(feature = "schema", schemars(with = "BTreeMap<String, CheckSetting>"))]
    pub checks: BTreeMap<Spanned<String>, CheckSetting>,
}
