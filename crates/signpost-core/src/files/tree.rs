//! Where files come from: a checkout on disk, or a tree in memory (tests, an editor's buffers).
//!
//! Everything above this module sees files through [`Tree`] only. A tree has two sides, the project's
//! root and the home folder, and never hands out what lies outside of them: a symbolic link out of
//! the root is answered with [`Look::Outside`], whatever it points at.
//!
//! It does not decide which files matter; [`crate::files::index`] does for a whole tree, and
//! [`crate::project::discovery`] for the folders on the way to one file.

pub(crate) mod disk;
pub mod door;
mod memory;
mod overlay;

use crate::base::repo_path::{Location, RepoPath, Side};
use crate::files::index::Index;
pub use disk::DiskTree;
pub use memory::MemoryTree;
pub use overlay::Overlay;

/// A file larger than this is not read: no instruction file is.
pub const MAX_FILE_BYTES: u64 = 64 << 20;

/// What stands at a location, links followed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Look {
    /// A regular file of so many bytes.
    File(u64),
    /// A folder.
    Folder,
    /// A link that leads out of the root (or of the home folder).
    Outside,
    /// A link that leads nowhere, or round in a circle.
    BrokenLink,
    /// Something that is neither file nor folder: a pipe, a device, a socket.
    Other,
    /// Whatever it is, the system does not let us see it.
    Unreadable,
    /// Nothing at all.
    Nothing,
}

/// One entry of a folder, links not followed.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Entry {
    /// The entry's name; bytes that are not UTF-8 are replaced.
    pub name: String,
    /// What it is.
    pub kind: EntryKind,
}

/// What an entry of a folder is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum EntryKind {
    /// A regular file.
    File,
    /// A folder.
    Folder,
    /// A symbolic link to anything.
    Link,
}

/// Why a file or folder could not be read.
#[derive(thiserror::Error, Clone, Debug, PartialEq, Eq)]
pub enum TreeError {
    /// The system refused.
    #[error("cannot read {path}: {why}")]
    Unreadable {
        /// The file or folder.
        path: Location,
        /// The system's words.
        why: String,
    },
    /// Larger than is read.
    #[error("cannot read {path}: at {bytes} bytes it is too large (the most is {most})")]
    TooLarge {
        /// The file.
        path: Location,
        /// Its size.
        bytes: u64,
        /// The most that is read.
        most: u64,
    },
    /// It leads out of the root.
    #[error("{path} is a link that leads out of the project; it is not read")]
    Outside {
        /// The link.
        path: Location,
    },
}

impl TreeError {
    /// The file or folder.
    pub fn path(&self) -> &Location {
        match self {
            TreeError::Unreadable { path, .. } | TreeError::TooLarge { path, .. } | TreeError::Outside { path } => path,
        }
    }

    /// What is in the way, without the path.
    pub fn why(&self) -> String {
        match self {
            TreeError::Unreadable { why, .. } => why.clone(),
            TreeError::TooLarge { bytes, most, .. } => {
                format!("at {bytes} bytes it is too large (the most is {most})")
            }
            TreeError::Outside { .. } => "it is a link that leads out of the project".to_owned(),
        }
    }
}

/// A project's files, and those of the home folder.
pub trait Tree: Sync {
    /// What stands at a location, links followed.
    fn look(&self, at: &Location) -> Look;

    /// The entries of a folder, by name; empty where there is none. Those that can't be seen are noted in
    /// [`Tree::unread`].
    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError>;

    /// The bytes of a file of at most so many bytes.
    fn read_at_most(&self, at: &Location, most: u64) -> Result<Vec<u8>, TreeError>;

    /// The bytes of a file.
    fn read(&self, at: &Location) -> Result<Vec<u8>, TreeError> {
        self.read_at_most(at, MAX_FILE_BYTES)
    }

    /// Walks the whole project once.
    fn index(&self) -> Result<Index, TreeError>;

    /// What was asked of this tree so far and could not be answered: files and folders that the system does not let
    /// us read, and names that are not UTF-8. What was answered beside that holds, but not wholly.
    fn unread(&self) -> Vec<TreeError> {
        Vec::new()
    }

    /// Where a symbolic link leads, as it is written; `None` for everything else.
    fn link_target(&self, _at: &Location) -> Option<String> {
        None
    }

    /// Where the root stands below the home folder, if it does.
    fn root_from_home(&self) -> Option<RepoPath> {
        None
    }

    /// Where an absolute path of the file system lies in this tree, if it does.
    fn locate_absolute(&self, _path: &str) -> Option<Location> {
        None
    }

    /// One location a file: what lies in the home folder *and* below the root belongs to the root.
    fn settle(&self, at: Location) -> Location {
        if at.side == Side::Home
            && let Some(root) = self.root_from_home()
            && at.path.is_in(&root)
        {
            let path = at.path.below(&root).and_then(RepoPath::new).unwrap_or_default();
            return Location::root(path);
        }
        at
    }
}
