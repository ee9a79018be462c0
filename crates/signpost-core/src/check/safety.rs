//! Texts that could make an assistant do harm.

pub(super) mod hidden_text;
