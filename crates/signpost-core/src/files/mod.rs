//! A project's files: where they come from, and which there are.

pub mod ignore_file;
pub mod index;
pub mod tree;
