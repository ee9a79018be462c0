//! The project's own source of truth: the rules in `guidance/`.

use crate::profile::Reach;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The header of a guidance rule, TOML between `+++` lines.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
#[schemars(title = "Signpost rule header")]
pub struct RuleHeader {
    /// One line that says when the rule is of use.
    pub summary: Option<String>,
    /// Path patterns from the folder that holds `guidance/`; without a slash at any depth, braces understood.
    pub paths: Vec<String>,
    /// Path patterns that the rule does not apply to.
    pub except: Vec<String>,
    /// When the rule is told; absent: scoped with paths, otherwise standing.
    pub reach: Option<Reach>,
    /// The assistants that it is for, by the names of their profiles; absent: all.
    pub assistants: Option<Vec<String>>,
    /// A condition on the repository's manifests, such as `sqlx >= 0.8`.
    pub when: Option<String>,
    /// The day after which somebody should look at the rule again.
    #[schemars(with = "Option<String>")]
    pub review_after: Option<toml::value::Datetime>,
}
