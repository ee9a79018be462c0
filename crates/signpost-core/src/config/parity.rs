//! `[parity]`: where assistants may be told different things.

use super::PathPattern;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use toml::Spanned;

/// `[parity]` in `signpost.toml`.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct ParityConfig {
    /// Differences that are meant.
    pub allow: Vec<Allowed>,
}

/// `[[parity.allow]]`: a difference that is meant. What is left out takes everything.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Allowed {
    /// The assistants that may be told something else than the others, by name.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schemars(with = "Vec<String>"))]
    pub assistants: Vec<Spanned<String>>,
    /// Source files for which it is allowed: path patterns from the root.
    #[serde(default)]
    pub paths: Vec<PathPattern>,
    /// Instruction files that may say something else: path patterns from the root.
    #[serde(default)]
    pub files: Vec<PathPattern>,
    /// Words that the directive holds.
    pub words: Option<String>,
    /// Why it is meant.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub reason: Spanned<String>,
}
