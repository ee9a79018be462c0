//! Where files come from: a checkout on disk, or a tree in memory (tests, an editor's buffers).
//!
//! Everything above this module sees files through [`Tree`] only. A tree has two sides, the project's
//! root and the home folder, and never hands out what lies outside of them: a symbolic link out of
//! the root is answered with [`Look::Outside`], whatever it points at.
//!
//! It does not decide which files matter; [`crate::files::index`] does for a whole tree, and
//! [`crate::project::discovery`] for the folders on the way to one file.

use super::entry::{Entry, Look, TreeError};
use super::index::Index;
use crate::base::repo_path::{Location, RepoPath, Side};

/// A file larger than this is not read: no instruction file is.
pub const MAX_FILE_BYTES: u64 = 64 << 20;

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
