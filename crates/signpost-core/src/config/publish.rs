//! `[publish]`: how files are published.

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What becomes of offered rules for an assistant that has no such thing.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum OfferedElsewhere {
    /// They are told in every conversation, under a heading that says when they are of use.
    #[default]
    Standing,
    /// The assistant does not get them.
    LeaveOut,
}

/// `[publish]` in `signpost.toml`.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct PublishConfig {
    /// Whether files with the same bytes are one file, and links to it; absent: a link that somebody made stays one.
    pub links: Option<bool>,
    /// What becomes of offered rules for an assistant that has no such thing.
    pub offered: OfferedElsewhere,
    /// Whether each file says at its top which rule it comes from, and that it is edited there.
    pub remark: bool,
}
