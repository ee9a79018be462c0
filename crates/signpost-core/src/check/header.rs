//! Headers that do not say what was meant.

pub(super) mod conflicting_reach;
pub(super) mod invalid;
pub(super) mod missing_key;
pub(super) mod missing_summary;
pub(super) mod unknown_key;
pub(super) mod weak_summary;
pub(super) mod wrong_type;

use super::Context;
use crate::profile::{Place, Profile};
use crate::project::rule::Rule;

/// Every rule with its profile and place.
fn rules<'a>(context: &'a Context<'_, '_>) -> impl Iterator<Item = (&'a Profile, &'a Place, &'a Rule)> {
    context.survey.assistants.iter().flat_map(|assistant| {
        assistant.rules.iter().map(|rule| (assistant.profile, rule.place_in(assistant.profile), &**rule))
    })
}
