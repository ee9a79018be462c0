//! All tests of the crate in one program: linked once, and run on all cores.

mod absorb;
mod adopt;
mod at;
mod begin;
mod common;
mod corners;
mod documents;
mod door;
mod doubts;
mod fix;
mod guess;
mod hostile;
mod lint;
mod many;
mod pages;
mod parity;
mod publish;
mod renames;
mod schemas;
mod settings;
mod survey;
#[cfg(unix)]
mod terminal;
mod tour;
mod writers;
