//! A tree with some files changed, for asking what would be before anything is written.

use super::entry::{Entry, EntryKind, Look, TreeError};
use super::tree::Tree;
use crate::base::repo_path::{Location, RepoPath, Side};
use crate::files::index::Index;
use std::collections::BTreeMap;

/// Another tree, with files of the root added, replaced or taken away.
pub struct Overlay<'t> {
    base: &'t dyn Tree,
    changes: BTreeMap<RepoPath, Option<Vec<u8>>>,
}

impl<'t> Overlay<'t> {
    /// The tree as it is.
    pub fn new(base: &'t dyn Tree) -> Self {
        Overlay { base, changes: BTreeMap::new() }
    }

    /// Puts a file there; what stood there before, a link too, is gone.
    pub fn write(&mut self, path: RepoPath, bytes: impl Into<Vec<u8>>) {
        self.changes.insert(path, Some(bytes.into()));
    }

    /// Takes a file away.
    pub fn remove(&mut self, path: RepoPath) {
        self.changes.insert(path, None);
    }

    /// Whether a file was put there or taken away.
    pub fn changes(&self, at: &Location) -> bool {
        self.change(at).is_some()
    }

    fn change(&self, at: &Location) -> Option<&Option<Vec<u8>>> {
        (at.side == Side::Root).then(|| self.changes.get(&at.path)).flatten()
    }

    /// Whether a new file stands somewhere below a folder.
    fn holds_new(&self, folder: &RepoPath) -> bool {
        let from = self.changes.range(folder.join("")..);
        from.take_while(|(path, _)| path.is_in(folder)).any(|(path, new)| new.is_some() && path.below(folder).is_some())
            || folder.is_root()
    }
}

impl Tree for Overlay<'_> {
    fn look(&self, at: &Location) -> Look {
        match self.change(at) {
            Some(Some(bytes)) => Look::File(bytes.len() as u64),
            Some(None) => Look::Nothing,
            None => match self.base.look(at) {
                Look::Nothing if at.side == Side::Root && self.holds_new(&at.path) => Look::Folder,
                look => look,
            },
        }
    }

    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError> {
        let mut entries = self.base.list(at)?;
        if at.side == Side::Home {
            return Ok(entries);
        }
        for (path, new) in self.changes.iter().filter(|(path, _)| path.below(&at.path).is_some()) {
            let rest = path.below(&at.path).unwrap_or_default();
            let (name, kind) = match rest.split_once('/') {
                Some((name, _)) => (name, EntryKind::Folder),
                None => (rest, EntryKind::File),
            };
            let known = entries.iter().position(|entry| entry.name == name);
            match (known, new, kind) {
                (Some(known), Some(_), EntryKind::File) => entries[known].kind = EntryKind::File,
                (Some(known), None, EntryKind::File) => drop(entries.remove(known)),
                (None, Some(_), kind) => entries.push(Entry { name: name.to_owned(), kind }),
                _ => {}
            }
        }
        entries.sort();
        Ok(entries)
    }

    fn read_at_most(&self, at: &Location, most: u64) -> Result<Vec<u8>, TreeError> {
        match self.change(at) {
            Some(Some(bytes)) => Ok(bytes.clone()),
            Some(None) => Err(TreeError::Unreadable { path: at.clone(), why: "there is no such file".into() }),
            None => self.base.read_at_most(at, most),
        }
    }

    fn index(&self) -> Result<Index, TreeError> {
        Ok(self.base.index()?.with_changes(self.changes.iter().map(|(path, new)| (path, new.is_some()))))
    }

    fn unread(&self) -> Vec<TreeError> {
        self.base.unread()
    }

    fn root_from_home(&self) -> Option<RepoPath> {
        self.base.root_from_home()
    }

    fn locate_absolute(&self, path: &str) -> Option<Location> {
        self.base.locate_absolute(path)
    }

    fn link_target(&self, at: &Location) -> Option<String> {
        if self.change(at).is_some() { None } else { self.base.link_target(at) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::files::MemoryTree;

    #[test]
    fn changes_lie_over_the_tree() {
        let base = MemoryTree::new().with("a/one.md", "1").with("two.md", "2");
        let mut tree = Overlay::new(&base);
        let at = |path: &str| Location::root(RepoPath::new(path).unwrap());
        tree.write(at("b/c/new.md").path, "new");
        tree.remove(at("two.md").path);
        tree.write(at("a/one.md").path, "changed");
        let names = |folder: &str| -> Vec<String> {
            tree.list(&at(folder)).unwrap().into_iter().map(|entry| entry.name).collect()
        };
        assert_eq!(
            (names(""), names("b"), names("a")),
            (vec!["a".into(), "b".into()], vec!["c".into()], vec!["one.md".into()])
        );
        assert_eq!(tree.look(&at("b/c")), Look::Folder);
        assert_eq!(tree.look(&at("two.md")), Look::Nothing);
        assert_eq!(tree.read(&at("a/one.md")).unwrap(), b"changed");
        let index = tree.index().unwrap();
        assert!(index.holds(&at("b/c/new.md").path) && !index.holds(&at("two.md").path));
    }
}
