//! Checks: what is wrong with a project's instruction files.
//!
//! Each check is one file with a [`CheckInfo`] (what `signpost explain` teaches) and a function from a
//! [`Context`] to findings. Settings and severities act in one place, [`run`]. A finding is data: bytes of a
//! file, words, and other places that matter; text and JSON are made from it elsewhere.

mod allow;
pub mod baseline;
mod consistency;
mod context;
pub mod doubts;
mod facts;
mod finding;
pub mod fix;
mod header;
pub mod info;
mod meaning;
mod overlap;
mod place;
mod reference;
mod registry;
mod renames;
mod run;
mod safety;
mod scope;
pub mod settings;
mod size;
mod text;
mod walk;
mod wording;

pub use context::Context;
pub use finding::{Edit, Finding, Related};
pub use info::CheckInfo;
pub use registry::{all, by_name, did_you_mean, named};
pub use renames::Renames;
pub use run::{Choice, run, run_chosen};
pub use text::Text;
pub use wording::first_unfilled;
