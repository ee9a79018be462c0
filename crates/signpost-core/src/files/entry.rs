//! What stands in a tree: entries of folders, what a location turns out to be, and why something can't be read.

use crate::base::repo_path::Location;

/// Why a name is left out.
pub(crate) const NOT_UTF8: &str = "its name is not UTF-8";

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

/// What the system calls an entry; `None` for what is neither file, folder nor link.
pub(crate) fn kind_of(file_type: std::fs::FileType) -> Option<EntryKind> {
    if file_type.is_file() {
        Some(EntryKind::File)
    } else if file_type.is_dir() {
        Some(EntryKind::Folder)
    } else if file_type.is_symlink() {
        Some(EntryKind::Link)
    } else {
        None
    }
}
