//! A tree in memory: for tests, and for texts that are not on disk.

use super::entry::{Entry, EntryKind, Look, TreeError};
use super::tree::Tree;
use crate::base::repo_path::{Location, RepoPath, Side};
use crate::files::index::{Index, IndexBuilder};
use std::collections::BTreeMap;

/// Files by path. Folders are there because files stand in them.
#[derive(Debug, Default, Clone)]
pub struct MemoryTree {
    files: BTreeMap<Location, Vec<u8>>,
}

impl MemoryTree {
    /// A tree without files.
    pub fn new() -> Self {
        MemoryTree::default()
    }

    /// Adds a file; `~/` at the front puts it into the home folder.
    ///
    /// # Panics
    /// When the path climbs out.
    #[must_use]
    pub fn with(mut self, path: &str, text: impl Into<Vec<u8>>) -> Self {
        let location = match path.strip_prefix("~/") {
            Some(rest) => Location::home(RepoPath::new(rest).expect("a path in the home folder")),
            None => Location::root(RepoPath::new(path).expect("a path in the root")),
        };
        self.files.insert(location, text.into());
        self
    }
}

impl Tree for MemoryTree {
    fn look(&self, at: &Location) -> Look {
        if let Some(bytes) = self.files.get(at) {
            return Look::File(bytes.len() as u64);
        }
        let folder = self.files.keys().any(|file| file.side == at.side && file.path.below(&at.path).is_some());
        if folder { Look::Folder } else { Look::Nothing }
    }

    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError> {
        let mut entries: Vec<Entry> = self
            .files
            .keys()
            .filter(|file| file.side == at.side)
            .filter_map(|file| file.path.below(&at.path))
            .map(|rest| match rest.split_once('/') {
                Some((name, _)) => Entry { name: name.into(), kind: EntryKind::Folder },
                None => Entry { name: rest.into(), kind: EntryKind::File },
            })
            .collect();
        entries.sort();
        entries.dedup();
        Ok(entries)
    }

    fn read_at_most(&self, at: &Location, most: u64) -> Result<Vec<u8>, TreeError> {
        let missing = || TreeError::Unreadable { path: at.clone(), why: "there is no such file".into() };
        let bytes = self.files.get(at).ok_or_else(missing)?;
        match bytes.len() as u64 {
            length if length > most => Err(TreeError::TooLarge { path: at.clone(), bytes: length, most }),
            _ => Ok(bytes.clone()),
        }
    }

    fn index(&self) -> Result<Index, TreeError> {
        let mut builder = IndexBuilder::default();
        let ignored = |folder: &RepoPath| self.files.get(&Location::root(folder.join(".gitignore"))).cloned();
        builder.fill(
            &RepoPath::root(),
            &|folder| self.list(&Location { side: Side::Root, path: folder.clone() }),
            &ignored,
        )?;
        Ok(builder.finish())
    }
}
