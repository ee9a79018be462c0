//! `[words]` and `[concepts]`.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// `[words]`: more words for the checks of wording, and words that are fine.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
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

/// `[concepts.NAME]`: words that mean the same to a project, and their opposites.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Concept {
    /// Words for it, also several in a row.
    pub same: Vec<String>,
    /// Words for its opposite.
    pub opposite: Vec<String>,
}
