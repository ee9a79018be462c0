//! Rules that do not agree, or say the same.

pub(super) mod repeated;
