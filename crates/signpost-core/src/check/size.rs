//! Files and briefs that are too large.

pub(super) mod brief_over_budget;
pub(super) mod file_too_long;
pub(super) mod mixed_subjects;
pub(super) mod over_limit;
