//! A checkout on disk.

use super::door::{self, Shut, plain};
use super::entry::{Entry, Look, TreeError};
use super::entry::{NOT_UTF8, kind_of};
use super::index::Index;
use super::tree::Tree;
use super::walk;
use crate::base::repo_path::{Location, RepoPath, Side};
use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

/// The files below a root folder, and those of a home folder.
#[derive(Debug)]
pub struct DiskTree {
    root: PathBuf,
    home: Option<PathBuf>,
    root_from_home: Option<RepoPath>,
    /// What could not be read, with the reason.
    unread: Mutex<BTreeMap<Location, String>>,
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
            .and_then(|path| RepoPath::new(path.to_str()?));
        Ok(DiskTree { root, home, root_from_home, unread: Mutex::default() })
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

    fn note(&self, at: &Location, why: &str) {
        let mut unread = self.unread.lock().unwrap_or_else(PoisonError::into_inner);
        unread.entry(at.clone()).or_insert_with(|| why.to_owned());
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
            Err(error) => {
                let link = fs::symlink_metadata(&path).is_ok_and(|meta| meta.is_symlink());
                return match link {
                    true => Look::BrokenLink,
                    false if is_absence(&error) => Look::Nothing,
                    false => {
                        self.note(at, &plain(&error));
                        Look::Unreadable
                    }
                };
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
            Look::Other
        }
    }

    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError> {
        let Some(path) = self.path_of(at) else { return Ok(Vec::new()) };
        let mut entries = Vec::new();
        let reader = match fs::read_dir(&path) {
            Ok(reader) => reader,
            Err(error) => {
                if !is_absence(&error) {
                    self.note(at, &plain(&error));
                }
                return Ok(entries);
            }
        };
        for entry in reader {
            match entry.and_then(|entry| Ok((entry.file_type()?, entry.file_name()))) {
                Ok((kind, name)) => match (kind_of(kind), name.to_str()) {
                    (Some(kind), Some(name)) => entries.push(Entry { name: name.to_owned(), kind }),
                    (Some(_), None) => self.note(&at.join(&name.to_string_lossy()), NOT_UTF8),
                    (None, _) => {}
                },
                Err(error) => self.note(at, &plain(&error)),
            }
        }
        entries.sort();
        Ok(entries)
    }

    fn read_at_most(&self, at: &Location, most: u64) -> Result<Vec<u8>, TreeError> {
        let unreadable = |why: &str| TreeError::Unreadable { path: at.clone(), why: why.to_owned() };
        let Some(path) = self.path_of(at) else { return Err(unreadable("there is no such file")) };
        let home = self.home.as_deref().filter(|_| at.side == Side::Home);
        let inside: Vec<&Path> = std::iter::once(self.root.as_path()).chain(home).collect();
        door::read_inside(&path, &inside, most).map_err(|shut| match shut {
            Shut::Outside => TreeError::Outside { path: at.clone() },
            Shut::TooLarge { bytes, most } => TreeError::TooLarge { path: at.clone(), bytes, most },
            shut => match self.look(at) {
                Look::Folder => unreadable("it is a folder"),
                Look::BrokenLink => unreadable("it is a link that leads nowhere"),
                Look::Nothing => unreadable("there is no such file"),
                _ => unreadable(&shut.to_string()),
            },
        })
    }

    fn index(&self) -> Result<Index, TreeError> {
        let index = walk::walk(&self.root)?;
        index.unreadable.iter().for_each(|(path, why)| self.note(&Location::root(path.clone()), why));
        Ok(index)
    }

    fn unread(&self) -> Vec<TreeError> {
        let unread = self.unread.lock().unwrap_or_else(PoisonError::into_inner);
        unread.iter().map(|(path, why)| TreeError::Unreadable { path: path.clone(), why: why.clone() }).collect()
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

/// Whether an error says that there is nothing: also where a file stands on the way, or no file could be called so.
fn is_absence(error: &io::Error) -> bool {
    use io::ErrorKind::{InvalidFilename, InvalidInput, NotADirectory, NotFound};
    matches!(error.kind(), NotFound | NotADirectory | InvalidFilename | InvalidInput)
}
