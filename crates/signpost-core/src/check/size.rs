//! Files that are too large.

pub(super) mod file_too_long;
