//! Comments, and those that speak to Signpost: `<!-- signpost: … -->`.

/// Whether a comment is an allowance.
pub(in crate::check) fn is_allowance(comment: &str) -> bool {
    to_us(comment).is_some()
}

/// What follows `signpost:` in a comment.
pub(in crate::check) fn to_us(comment: &str) -> Option<&str> {
    inside(comment).trim().strip_prefix("signpost:").map(str::trim)
}

/// The words of a comment.
pub(in crate::check) fn inside(comment: &str) -> &str {
    let inner = comment.strip_prefix("<!--").unwrap_or(comment);
    inner.strip_suffix("-->").unwrap_or(inner)
}
