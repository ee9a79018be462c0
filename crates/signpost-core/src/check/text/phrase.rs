//! Phrases in a text, as whole words.

use std::ops::Range;

/// The first of some phrases in a text, whatever their case.
pub(in crate::check) fn first<'p>(words: &str, phrases: impl IntoIterator<Item = &'p str>) -> Option<Range<usize>> {
    let lower = words.to_ascii_lowercase();
    let find = |phrase: &str| {
        // People write their own words as they like.
        let capital = phrase.bytes().any(|byte| byte.is_ascii_uppercase());
        if capital { whole(&lower, &phrase.to_ascii_lowercase()) } else { whole(&lower, phrase) }
    };
    phrases.into_iter().filter_map(find).min_by_key(|range| range.start)
}

/// Whether some text in lower case holds a phrase.
pub(in crate::check) fn holds(lower: &str, phrase: &str) -> bool {
    whole(lower, phrase).is_some()
}

fn whole(lower: &str, phrase: &str) -> Option<Range<usize>> {
    let mut from = 0;
    while let Some(at) = lower.get(from..)?.find(phrase).map(|at| from + at) {
        let end = at + phrase.len();
        let before = lower[..at].chars().next_back().is_none_or(|c| !c.is_alphanumeric() && c != '-' && c != '_');
        let after = lower[end..].chars().next().is_none_or(|c| !c.is_alphanumeric() && c != '-' && c != '_');
        if before && after {
            return Some(at..end);
        }
        from = end;
    }
    None
}
