//! Rules that do not agree, or say the same.

use super::context::Context;
use super::meaning::Place;
use crate::base::repo_path::RepoPath;
use crate::resolve::zones::RuleId;

pub(super) mod contradiction;
pub(super) mod diverged;
pub(super) mod lapsed_verdict;
pub(super) mod repeated;
pub(super) mod rival_summaries;

/// Some words, to be read in a message.
fn quoted(words: &str) -> String {
    format!("“{}”", crate::base::wording::shorten(words.trim_end_matches(['.', ' ']), 70))
}

/// A rule of the second place, and a file that is told both.
pub(super) fn meeting(context: &Context<'_, '_>, one: Place, other: Place) -> Option<(RuleId, Option<RepoPath>)> {
    let (text, others) = (&context.texts[one.text], &context.texts[other.text]);
    if text.published || others.published {
        return None;
    }
    text.told.iter().find_map(|id| {
        let beside = others.told.iter().filter(|other| other.assistant == id.assistant);
        beside.into_iter().find_map(|other| Some((*other, context.overlap.of(context.survey, *id, *other)?)))
    })
}
