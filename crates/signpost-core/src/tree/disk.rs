//! A checkout on disk.

use super::{Entry, EntryKind, Look, MAX_FILE_BYTES, Tree, TreeError};
use crate::index::{Index, walk};
use crate::repo_path::{Location, RepoPath, Side};
use std::fs;
use std::io;
use std::path::{Path, PathBuf};

/// The files below a root folder, and those of a home folder.
#[derive(Debug)]
pub struct DiskTree {
    root: PathBuf,
    home: Option<PathBuf>,
    root_from_home: Option<RepoPath>,
}

impl DiskTree {
    /// Opens a project. Both folders are resolved once, so that later links can be held against them.
    ///
    /// # Errors
    /// The root does not exist or cannot be reached. A home folder that does not exist is none.
    pub fn open(root: &Path, home: Option<&Path>) -> io::Result<Self> {
        let root = fs::canonicalize(root)?;
        let home = home.and_then(|home| fs::canonicalize(home).ok());
        let root_from_home = home
            .as_deref()
            .and_then(|home| root.strip_prefix(home).ok())
            .and_then(|path| RepoPath::new(&path.to_string_lossy()));
        Ok(DiskTree { root, home, root_from_home })
    }

    /// The root, links resolved.
    pub fn root(&self) -> &Path {
        &self.root
    }

    /// Where a location stands on disk; `None` in the home folder of somebody who has none.
    pub fn path_of(&self, at: &Location) -> Option<PathBuf> {
        let base = match at.side {
            Side::Root => &self.root,
            Side::Home => self.home.as_ref()?,
        };
        Some(if at.path.is_root() { base.clone() } else { base.join(at.path.as_str()) })
    }

    /// Files of the project may only lead into the project; files of the home folder, into both.
    fn stays_inside(&self, side: Side, real: &Path) -> bool {
        real.starts_with(&self.root)
            || (side == Side::Home && self.home.as_deref().is_some_and(|home| real.starts_with(home)))
    }
}

impl Tree for DiskTree {
    fn look(&self, at: &Location) -> Look {
        let Some(path) = self.path_of(at) else { return Look::Nothing };
        let meta = match fs::metadata(&path) {
            Ok(meta) => meta,
            Err(_) => {
                let link = fs::symlink_metadata(&path).is_ok_and(|meta| meta.is_symlink());
                return if link { Look::BrokenLink } else { Look::Nothing };
            }
        };
        match fs::canonicalize(&path) {
            Ok(real) if self.stays_inside(at.side, &real) => {}
            _ => return Look::Outside,
        }
        if meta.is_file() {
            Look::File(meta.len())
        } else if meta.is_dir() {
            Look::Folder
        } else {
            Look::Nothing
        }
    }

    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError> {
        let unreadable = |error: io::Error| TreeError::Unreadable { path: at.clone(), why: plain(&error) };
        let Some(path) = self.path_of(at) else { return Ok(Vec::new()) };
        let reader = match fs::read_dir(&path) {
            Ok(reader) => reader,
            Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => {
                return Ok(Vec::new());
            }
            Err(error) => return Err(unreadable(error)),
        };
        let mut entries = Vec::new();
        for entry in reader {
            let entry = entry.map_err(unreadable)?;
            if let Some(kind) = entry.file_type().ok().and_then(kind_of) {
                entries.push(Entry { name: entry.file_name().to_string_lossy().into_owned(), kind });
            }
        }
        entries.sort();
        Ok(entries)
    }

    fn read(&self, at: &Location) -> Result<Vec<u8>, TreeError> {
        let unreadable = |why: String| TreeError::Unreadable { path: at.clone(), why };
        match self.look(at) {
            Look::File(bytes) if bytes > MAX_FILE_BYTES => Err(TreeError::TooLarge { path: at.clone(), bytes }),
            Look::File(_) => {
                let path = self.path_of(at).expect("a file that was found has a path");
                fs::read(path).map_err(|error| unreadable(plain(&error)))
            }
            Look::Outside => Err(TreeError::Outside { path: at.clone() }),
            Look::Folder => Err(unreadable("it is a folder".into())),
            Look::BrokenLink => Err(unreadable("it is a link that leads nowhere".into())),
            Look::Nothing => Err(unreadable("there is no such file".into())),
        }
    }

    fn index(&self) -> Result<Index, TreeError> {
        walk::walk(&self.root)
    }

    fn link_target(&self, at: &Location) -> Option<String> {
        let target = fs::read_link(self.path_of(at)?).ok()?;
        Some(target.to_string_lossy().into_owned())
    }

    fn root_from_home(&self) -> Option<RepoPath> {
        self.root_from_home.clone()
    }

    fn locate_absolute(&self, path: &str) -> Option<Location> {
        let path = Path::new(path);
        if let Ok(rest) = path.strip_prefix(&self.root) {
            return Some(Location::root(RepoPath::new(&rest.to_string_lossy())?));
        }
        let rest = path.strip_prefix(self.home.as_ref()?).ok()?;
        Some(Location::home(RepoPath::new(&rest.to_string_lossy())?))
    }
}

pub(crate) fn kind_of(file_type: fs::FileType) -> Option<EntryKind> {
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

/// The system's words without its error number.
pub(crate) fn plain(error: &io::Error) -> String {
    let text = error.to_string();
    let text = text.split(" (os error").next().unwrap_or_default();
    let mut chars = text.chars();
    chars.next().map(|first| first.to_lowercase().collect::<String>() + chars.as_str()).unwrap_or_default()
}
