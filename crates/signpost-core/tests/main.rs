//! All tests of the crate in one program: linked once, and run on all cores.

mod absorb;
mod adopt;
mod any_text;
mod brief;
mod catalogue;
mod checks;
mod closed;
mod common;
mod cost;
mod draft;
mod fit;
mod fixes;
mod floors;
mod git;
mod header_edits;
mod labelled;
mod near;
mod places;
mod profile_keys;
mod publish;
mod split;
mod zones;
