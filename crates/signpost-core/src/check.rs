//! x
pub mod settings;
