//! The walk over a checkout: one task a folder, on all cores.
//!
//! `.gitignore` files are honoured in and outside of git work trees, those above the root and
//! `.git/info/exclude` too. A folder with a `.git` of its own is another work tree, whose files this
//! one can't track. Symbolic links are listed and never followed, so that no loop can catch the walk.

use super::{Folder, Gathered, Index, IndexBuilder};
use crate::hide::{HideChain, HideList};
use crate::repo_path::{Location, RepoPath};
use crate::tree::disk::{kind_of, plain};
use crate::tree::{EntryKind, TreeError};
use std::fs;
use std::path::Path;
use std::sync::Mutex;

struct Walk<'a> {
    root: &'a Path,
    /// From the git work tree down to the root, empty where they are the same.
    prefix: String,
    builder: Mutex<IndexBuilder>,
}

struct Task {
    path: RepoPath,
    chain: HideChain,
    apart: bool,
}

/// Indexes everything below `root`.
///
/// # Errors
/// The root itself cannot be listed. Folders below that can't be are left in [`Index::unreadable`].
pub fn walk(root: &Path) -> Result<Index, TreeError> {
    fs::read_dir(root)
        .map_err(|error| TreeError::Unreadable { path: Location::root(RepoPath::root()), why: plain(&error) })?;
    let (prefix, chain) = above(root);
    let walk = Walk { root, prefix, builder: Mutex::default() };
    rayon::scope(|scope| walk.folder(scope, Task { path: RepoPath::root(), chain, apart: false }));
    let builder = walk.builder.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
    Ok(builder.finish())
}

/// What the git work tree around the root says: the way down to the root, and its ignore lists.
fn above(root: &Path) -> (String, HideChain) {
    let mut chain = HideChain::default();
    let Some(top) = root.ancestors().find(|folder| folder.join(".git").exists()) else {
        return (String::new(), chain);
    };
    if let Ok(bytes) = fs::read(top.join(".git/info/exclude")) {
        chain = chain.with(&RepoPath::root(), HideList::parse(&bytes));
    }
    let Some(prefix) = root.strip_prefix(top).ok().and_then(|path| RepoPath::new(&path.to_string_lossy())) else {
        return (String::new(), chain);
    };
    let mut ignored = false;
    for folder in prefix.way() {
        ignored |= !folder.is_root() && chain.hides(folder.as_str(), true);
        if folder != prefix
            && let Ok(bytes) = fs::read(top.join(folder.as_str()).join(".gitignore"))
        {
            chain = chain.with(&folder, HideList::parse(&bytes));
        }
    }
    // A root that git ignores is still what the person asked about: then its files count as sources.
    let chain = if ignored { HideChain::default() } else { chain };
    let prefix = if prefix.is_root() { String::new() } else { format!("{prefix}/") };
    (prefix, chain)
}

impl Walk<'_> {
    fn folder<'s>(&'s self, scope: &rayon::Scope<'s>, task: Task) {
        let Task { path, chain, mut apart } = task;
        let on_disk = if path.is_root() { self.root.to_path_buf() } else { self.root.join(path.as_str()) };
        let reader = match fs::read_dir(&on_disk) {
            Ok(reader) => reader,
            Err(error) => return self.unreadable(path, plain(&error)),
        };
        let mut gathered = Gathered::default();
        let mut ignore_file = false;
        for entry in reader.flatten() {
            let name = entry.file_name();
            if name == ".git" {
                apart |= !path.is_root();
                continue;
            }
            ignore_file |= name == ".gitignore";
            if let Some(kind) = entry.file_type().ok().and_then(kind_of) {
                gathered.push(&name.to_string_lossy(), kind);
            }
        }
        let mut chain = chain;
        if ignore_file
            && !apart
            && let Ok(bytes) = fs::read(on_disk.join(".gitignore"))
        {
            let folder = format!("{}{}", self.prefix, path.as_str());
            chain = chain.with(&RepoPath::new(&folder).unwrap_or_default(), HideList::parse(&bytes));
        }
        if apart {
            gathered.mark_ignored(|_, _| true);
        } else if !chain.is_empty() {
            let mut full = format!("{}{}", self.prefix, path.as_str());
            if !path.is_root() {
                full.push('/');
            }
            let stem = full.len();
            gathered.mark_ignored(|name, kind| {
                full.truncate(stem);
                full.push_str(name);
                chain.hides(&full, kind == EntryKind::Folder)
            });
        }
        for (name, _, ignored) in gathered.iter().filter(|(_, kind, _)| *kind == EntryKind::Folder) {
            let task = Task { path: path.join(name), chain: chain.clone(), apart: ignored };
            scope.spawn(|scope| self.folder(scope, task));
        }
        // Sorting is done before the lock is taken, which all cores share.
        let folder = Folder::new(path, apart, gathered);
        self.with_builder(|builder| builder.add(folder));
    }

    fn unreadable(&self, path: RepoPath, why: String) {
        self.with_builder(|builder| builder.unreadable.push((path, why)));
    }

    fn with_builder(&self, change: impl FnOnce(&mut IndexBuilder)) {
        change(&mut self.builder.lock().unwrap_or_else(std::sync::PoisonError::into_inner));
    }
}
