//! Comments that speak to Signpost: `<!-- signpost: … -->`.

/// Whether a comment is an allowance.
pub(in crate::check) fn is_allowance(comment: &str) -> bool {
    inside(comment).is_some()
}

/// What follows `signpost:` in a comment.
pub(in crate::check) fn inside(comment: &str) -> Option<&str> {
    let inner = comment.strip_prefix("<!--")?;
    let inner = inner.strip_suffix("-->").unwrap_or(inner).trim();
    inner.strip_prefix("signpost:").map(str::trim)
}
