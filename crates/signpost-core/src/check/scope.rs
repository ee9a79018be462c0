//! Path patterns that take too little, or too much.

pub(super) mod invalid_pattern;
pub(super) mod matches_everything;
pub(super) mod matches_nothing;
