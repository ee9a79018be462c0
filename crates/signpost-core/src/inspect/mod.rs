//! Reports on a project: what is there, what it costs, where assistants differ, what patterns take.

pub mod beside;
pub mod cost;
pub mod on_the_way;
pub mod parity;
pub mod pattern_search;
pub mod pattern_suggest;
pub mod survey;
pub mod unclaimed;
