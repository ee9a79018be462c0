//! A project's files: where they come from, and which there are.

mod disk;
pub mod door;
mod entry;
pub mod ignore_file;
pub mod index;
mod memory;
mod overlay;
mod tracked;
mod tree;
pub mod walk;

pub use disk::DiskTree;
pub use entry::{Entry, EntryKind, Look, TreeError};
pub use memory::MemoryTree;
pub use overlay::Overlay;
pub use tree::{MAX_FILE_BYTES, Tree};
