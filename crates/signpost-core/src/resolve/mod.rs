//! What an assistant is told about a file: briefs, the zones of files that are told the same, and the directives of both.

pub mod brief;
mod choice;
pub mod directives;
pub mod zones;
