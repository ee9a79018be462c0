//! The walk over a checkout: one task a folder, on all cores.
//!
//! `.gitignore` files are honoured in and outside of git work trees, those above the root and
//! `.git/info/exclude` too; what is tracked all the same is not ignored. A folder with a `.git` of its own is another work tree, whose files this
//! one can't track. Symbolic links are listed and never followed, so that no loop can catch the walk.

use super::door::plain;
use super::entry::{EntryKind, TreeError};
use super::entry::{NOT_UTF8, kind_of};
use super::index::{Folder, Gathered, Index, IndexBuilder};
use super::tracked::Tracked;
use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::group;
use crate::files::door::{self, Shut};
use crate::files::ignore_file::{HideChain, HideList, MOST_PATTERNS};
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Mutex;

/// Ignore files beyond this are not read: git would take minutes with them too.
const MOST_IGNORE_BYTES: u64 = 1 << 20;

struct Walk<'a> {
    root: &'a Path,
    /// From the git work tree down to the root, empty where they are the same.
    prefix: String,
    /// Git tracks these whatever its ignore files say.
    tracked: Tracked,
    builder: Mutex<IndexBuilder>,
}

struct Task {
    path: RepoPath,
    chain: HideChain,
    /// Nothing in it can be a source file.
    apart: bool,
    /// It is ignored, and only what is tracked in it is a source file.
    ignored: bool,
}

/// Indexes everything below `root`.
///
/// # Errors
/// The root itself cannot be listed. Folders below that can't be are left in [`Index::unreadable`].
pub fn walk(root: &Path) -> Result<Index, TreeError> {
    fs::read_dir(root)
        .map_err(|error| TreeError::Unreadable { path: Location::root(RepoPath::root()), why: plain(&error) })?;
    let mut walk = Walk { root, prefix: String::new(), tracked: Tracked::default(), builder: Mutex::default() };
    let chain = walk.above();
    rayon::scope(|scope| walk.folder(scope, Task { path: RepoPath::root(), chain, apart: false, ignored: false }));
    let builder = walk.builder.into_inner().unwrap_or_else(std::sync::PoisonError::into_inner);
    Ok(builder.finish())
}

/// Where git keeps what it knows of a work tree.
///
/// Layout: <https://git-scm.com/docs/gitrepository-layout>.
struct GitFolder {
    /// What belongs to this work tree alone.
    own: PathBuf,
    /// What all work trees of the repository share.
    common: PathBuf,
}

/// No index is larger; a million files take some hundred megabytes.
const MOST_INDEX_BYTES: u64 = 1 << 30;

impl GitFolder {
    /// Of a linked work tree `.git` is a file that names a folder, in which `commondir` leads to the shared one.
    fn of(top: &Path) -> Option<Self> {
        let git = top.join(".git");
        if git.is_dir() {
            return Some(GitFolder { own: git.clone(), common: git });
        }
        let named = |path: &Path| door::read_text(path, 4096).ok();
        let own = top.join(named(&git)?.strip_prefix("gitdir:")?.trim());
        let common = named(&own.join("commondir")).map_or(own.clone(), |common| own.join(common.trim()));
        Some(GitFolder { own, common })
    }

    fn tracked(&self) -> Tracked {
        let Ok(bytes) = door::read_unlinked(&self.own.join("index"), MOST_INDEX_BYTES) else {
            return Tracked::default();
        };
        let settings = door::read_text(&self.common.join("config"), 1 << 20).unwrap_or_default();
        let settings: String = settings.to_lowercase().split_whitespace().collect();
        Tracked::parse(&bytes, if settings.contains("objectformat=sha256") { 32 } else { 20 })
    }
}

impl Walk<'_> {
    /// Reads what the git work tree around the root says: the way down to the root, what is tracked, and the ignore
    /// lists, which it gives.
    fn above(&mut self) -> HideChain {
        let mut chain = HideChain::default();
        let Some(top) = self.root.ancestors().find(|folder| folder.join(".git").exists()) else { return chain };
        let git = GitFolder::of(top);
        if let Some(list) = git.as_ref().and_then(|git| self.ignore_file(&git.common.join("info/exclude"), None)) {
            chain = chain.with(&RepoPath::root(), RepoPath::root().join(".git/info/exclude"), list);
        }
        let Some(prefix) = self.root.strip_prefix(top).ok().and_then(|path| RepoPath::new(path.to_str()?)) else {
            return chain;
        };
        self.tracked = git.map(|git| git.tracked()).unwrap_or_default();
        let mut ignored = false;
        for folder in prefix.way() {
            ignored |= !folder.is_root() && chain.hides(folder.as_str(), true);
            if folder != prefix
                && let Some(list) = self.ignore_file(&top.join(folder.as_str()).join(".gitignore"), None)
            {
                chain = chain.with(&folder, folder.join(".gitignore"), list);
            }
        }
        self.prefix = if prefix.is_root() { String::new() } else { format!("{prefix}/") };
        // A root that git ignores is still what the person asked about: then its files count as sources.
        if ignored { HideChain::default() } else { chain }
    }

    /// An ignore file; one that is a link is none, as git has it. `folder` is where it stands, for what must be said.
    fn ignore_file(&self, path: &Path, folder: Option<&RepoPath>) -> Option<HideList> {
        match door::read_unlinked(path, MOST_IGNORE_BYTES) {
            Ok(bytes) => {
                let list = HideList::parse(&bytes);
                if let (true, Some(folder)) = (list.cut, folder) {
                    let why = format!("beyond the first {} patterns", group(MOST_PATTERNS));
                    self.unreadable(folder.join(".gitignore"), why);
                }
                Some(list)
            }
            Err(Shut::NoFile | Shut::Outside) => None,
            Err(shut) => {
                if let Some(folder) = folder {
                    self.unreadable(folder.join(".gitignore"), shut.to_string());
                }
                None
            }
        }
    }

    fn folder<'s>(&'s self, scope: &rayon::Scope<'s>, task: Task) {
        let Task { path, chain, mut apart, ignored } = task;
        let on_disk = if path.is_root() { self.root.to_path_buf() } else { self.root.join(path.as_str()) };
        let reader = match fs::read_dir(&on_disk) {
            Ok(reader) => reader,
            // Nobody expects what git ignores to be readable: a database's volume, say.
            Err(_) if apart => return,
            Err(error) => return self.unreadable(path, plain(&error)),
        };
        let mut gathered = Gathered::default();
        let mut ignore_file = false;
        let mut unread: Vec<(String, EntryKind, String)> = Vec::new();
        for entry in reader {
            let (name, kind) = match entry.and_then(|entry| Ok((entry.file_name(), entry.file_type()?))) {
                Ok(entry) => entry,
                Err(error) => {
                    self.unreadable(path.clone(), plain(&error));
                    continue;
                }
            };
            if name == ".git" {
                apart |= !path.is_root();
                continue;
            }
            ignore_file |= name == ".gitignore";
            match (kind_of(kind), name.to_str()) {
                (Some(kind), Some(name)) => gathered.push(name, kind),
                (Some(kind), None) => unread.push((name.to_string_lossy().into_owned(), kind, NOT_UTF8.to_owned())),
                (None, _) => {}
            }
        }
        let mut chain = chain;
        if ignore_file
            && !apart
            && let Some(list) = self.ignore_file(&on_disk.join(".gitignore"), Some(&path))
        {
            let folder = RepoPath::new(&format!("{}{}", self.prefix, path.as_str())).unwrap_or_default();
            chain = chain.with(&folder, folder.join(".gitignore"), list);
        }
        // What git ignores may be called as it likes.
        unread.retain(|(name, kind, _)| {
            let full = format!("{}{}", self.prefix, path.join(name).as_str());
            !apart && !chain.hides(&full, *kind == EntryKind::Folder)
        });
        unread.into_iter().for_each(|(name, _, why)| self.unreadable(path.join(&name), why));
        // Ignored folders with tracked files in them: they are walked like others.
        let mut partly = Vec::new();
        if apart {
            gathered.mark_ignored(|_, _| true);
        } else if ignored || !chain.is_empty() {
            let mut full = format!("{}{}", self.prefix, path.as_str());
            if !path.is_root() {
                full.push('/');
            }
            let stem = full.len();
            gathered.mark_ignored(|name, kind| {
                full.truncate(stem);
                full.push_str(name);
                if !ignored && !chain.hides(&full, kind == EntryKind::Folder) {
                    return false;
                }
                match kind {
                    EntryKind::Folder if self.tracked.holds_below(&full) => {
                        partly.push(name.to_owned());
                        false
                    }
                    EntryKind::Folder => true,
                    EntryKind::File | EntryKind::Link => !self.tracked.holds(&full),
                }
            });
        }
        for (name, _, apart) in gathered.iter().filter(|(_, kind, _)| *kind == EntryKind::Folder) {
            let ignored = partly.iter().any(|own| own == name);
            let task = Task { path: path.join(name), chain: chain.clone(), apart, ignored };
            scope.spawn(|scope| self.folder(scope, task));
        }
        // Sorting is done before the lock is taken, which all cores share.
        let folder = Folder::new(path, apart, gathered);
        self.with_builder(|builder| builder.add(folder));
    }

    fn unreadable(&self, path: RepoPath, why: String) {
        self.with_builder(|builder| builder.cannot_list(path, why));
    }

    fn with_builder(&self, change: impl FnOnce(&mut IndexBuilder)) {
        change(&mut self.builder.lock().unwrap_or_else(std::sync::PoisonError::into_inner));
    }
}
