//! Rules that do not agree, or say the same.

pub(super) mod contradiction;
pub(super) mod diverged;
pub(super) mod repeated;
pub(super) mod rival_summaries;

/// Some words, to be read in a message.
fn quoted(words: &str) -> String {
    format!("“{}”", crate::base::wording::shorten(words.trim_end_matches(['.', ' ']), 70))
}
