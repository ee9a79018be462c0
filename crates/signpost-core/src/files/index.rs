//! Every folder of a project with its entries, made by one walk.
//!
//! The index knows for each file whether it is a *source file*: one that git tracks or could add.
//! Ignored files stay in it, marked, since instruction files are found even where ignored. It holds one
//! string of names a folder rather than one path a file, so that a million files stay cheap.
//!
//! It does *not* read files, except for `.gitignore`.

use super::entry::{Entry, EntryKind, TreeError};
use crate::base::repo_path::RepoPath;
use crate::files::ignore_file::{HideChain, HideList};
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;

/// The number of a folder in an [`Index`].
pub type FolderId = u32;

/// All folders of a project, by path; a folder stands after the one that holds it.
#[derive(Debug, Default)]
pub struct Index {
    folders: Vec<Folder>,
    by_path: FxHashMap<RepoPath, FolderId>,
    /// Folders that could not be listed, with the system's words.
    pub unreadable: Vec<(RepoPath, String)>,
}

/// One folder.
#[derive(Debug)]
pub struct Folder {
    /// Where it stands.
    pub path: RepoPath,
    /// Its number's parent; the root's is itself.
    pub parent: FolderId,
    /// Whether nothing in it can be a source file: ignored, or a git work tree of its own.
    pub apart: bool,
    names: String,
    entries: Vec<Slot>,
}

#[derive(Debug, Clone, Copy)]
struct Slot {
    end: u32,
    kind: EntryKind,
    ignored: bool,
    ours: bool,
}

/// One entry of an indexed folder.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Item<'a> {
    /// Its name.
    pub name: &'a str,
    /// What it is; links are not followed.
    pub kind: EntryKind,
    /// Whether git ignores it, or the folder it stands in.
    pub ignored: bool,
    /// Whether it is an instruction file, or a file of Signpost's own.
    pub ours: bool,
}

impl Item<'_> {
    /// Whether this is a file that git tracks or could add (it stores a link as a file), and no
    /// instruction file.
    pub fn is_source(&self) -> bool {
        !self.ignored && !self.ours && self.kind != EntryKind::Folder
    }
}

/// A folder's entries while it is read: one text for all names, so that an entry costs no allocation.
#[derive(Debug, Default)]
pub(crate) struct Gathered {
    names: String,
    entries: Vec<(std::ops::Range<usize>, EntryKind, bool)>,
}

impl Gathered {
    pub fn push(&mut self, name: &str, kind: EntryKind) {
        let start = self.names.len();
        self.names.push_str(name);
        self.entries.push((start..self.names.len(), kind, false));
    }

    fn push_marked(&mut self, name: &str, kind: EntryKind, ignored: bool) {
        self.push(name, kind);
        if let Some((.., mark)) = self.entries.last_mut() {
            *mark = ignored;
        }
    }

    /// Marks each entry by what is asked of its name and kind.
    pub fn mark_ignored(&mut self, mut ignored: impl FnMut(&str, EntryKind) -> bool) {
        for (range, kind, mark) in &mut self.entries {
            *mark = ignored(&self.names[range.clone()], *kind);
        }
    }

    pub fn iter(&self) -> impl Iterator<Item = (&str, EntryKind, bool)> {
        self.entries.iter().map(|(range, kind, ignored)| (&self.names[range.clone()], *kind, *ignored))
    }
}

impl Folder {
    pub(crate) fn new(path: RepoPath, apart: bool, gathered: Gathered) -> Self {
        let Gathered { names: unsorted, mut entries } = gathered;
        entries.sort_unstable_by(|(a, ..), (b, ..)| unsorted[a.clone()].cmp(&unsorted[b.clone()]));
        let mut names = String::with_capacity(unsorted.len());
        let entries = entries
            .into_iter()
            .map(|(range, kind, ignored)| {
                names.push_str(&unsorted[range]);
                Slot { end: names.len() as u32, kind, ignored: ignored || apart, ours: false }
            })
            .collect();
        Folder { path, parent: 0, apart, names, entries }
    }

    /// The entries by name.
    pub fn items(&self) -> impl Iterator<Item = Item<'_>> {
        (0..self.entries.len()).map(|at| self.item(at))
    }

    fn item(&self, at: usize) -> Item<'_> {
        let start = if at == 0 { 0 } else { self.entries[at - 1].end };
        let Slot { end, kind, ignored, ours } = self.entries[at];
        Item { name: &self.names[start as usize..end as usize], kind, ignored, ours }
    }

    /// The entry of that name.
    pub fn get(&self, name: &str) -> Option<Item<'_>> {
        self.position(name).map(|at| self.item(at))
    }

    fn position(&self, name: &str) -> Option<usize> {
        let (mut low, mut high) = (0, self.entries.len());
        while low < high {
            let middle = (low + high) / 2;
            let item = self.item(middle);
            match item.name.cmp(name) {
                std::cmp::Ordering::Equal => return Some(middle),
                std::cmp::Ordering::Less => low = middle + 1,
                std::cmp::Ordering::Greater => high = middle,
            }
        }
        None
    }
}

impl Index {
    /// The folders; the root is the first.
    pub fn folders(&self) -> &[Folder] {
        &self.folders
    }

    /// The folder at a path.
    pub fn folder(&self, path: &RepoPath) -> Option<&Folder> {
        self.by_path.get(path).map(|id| &self.folders[*id as usize])
    }

    /// A folder and all below it that can hold source files. They are sorted by path, so that the others cost nothing.
    pub fn below(&self, folder: &RepoPath) -> impl Iterator<Item = &Folder> {
        let prefix = if folder.is_root() { String::new() } else { format!("{folder}/") };
        let start = self.folders.partition_point(|one| one.path.as_str() < prefix.as_str());
        let inside = self.folders[start..].iter().take_while(move |one| one.path.as_str().starts_with(&prefix));
        let own = self.folder(folder).filter(|one| !one.path.is_root());
        own.into_iter().chain(inside).filter(|one| !one.apart)
    }

    /// How many source files stand below a folder.
    pub fn files_below(&self, folder: &RepoPath) -> usize {
        self.below(folder).map(|one| one.items().filter(|item| item.is_source()).count()).sum()
    }

    /// Takes a file out of the source files, because it instructs an assistant or is Signpost's own.
    pub fn mark_ours(&mut self, path: &RepoPath) {
        if let Some(id) = self.by_path.get(&path.folder()) {
            let folder = &mut self.folders[*id as usize];
            if let Some(at) = folder.position(path.name()) {
                folder.entries[at].ours = true;
            }
        }
    }

    /// Takes every file directly in some folders out of the source files.
    pub fn mark_folders(&mut self, is_ours: impl Fn(&RepoPath) -> bool) {
        for folder in self.folders.iter_mut().filter(|folder| is_ours(&folder.path)) {
            folder.entries.iter_mut().for_each(|slot| slot.ours = true);
        }
    }

    /// The index with some files added (`true`) or taken away, without another walk. What is added counts as not
    /// ignored.
    pub(crate) fn with_changes<'c>(self, changes: impl Iterator<Item = (&'c RepoPath, bool)>) -> Index {
        let mut by_folder: BTreeMap<RepoPath, BTreeMap<String, Option<EntryKind>>> = BTreeMap::new();
        for (path, there) in changes {
            let kind = there.then_some(EntryKind::File);
            by_folder.entry(path.folder()).or_default().insert(path.name().to_owned(), kind);
            // Its folders may be new.
            let way = path.folder().way().into_iter().skip(1);
            for folder in way.filter(|folder| there && self.folder(folder).is_none()) {
                let name = folder.name().to_owned();
                by_folder.entry(folder.folder()).or_default().insert(name, Some(EntryKind::Folder));
                by_folder.entry(folder).or_default();
            }
        }
        let mut builder = IndexBuilder { folders: Vec::with_capacity(self.folders.len()), unreadable: self.unreadable };
        for folder in self.folders {
            match by_folder.remove(&folder.path) {
                None => builder.add(folder),
                Some(changed) => {
                    let mut gathered = Gathered::default();
                    for item in folder.items().filter(|item| !changed.contains_key(item.name)) {
                        gathered.push_marked(item.name, item.kind, item.ignored);
                    }
                    let added = changed.iter().filter_map(|(name, kind)| Some((name, (*kind)?)));
                    added.for_each(|(name, kind)| gathered.push(name, kind));
                    builder.add(Folder::new(folder.path.clone(), folder.apart, gathered));
                }
            }
        }
        for (path, changed) in by_folder {
            let mut gathered = Gathered::default();
            let added = changed.iter().filter_map(|(name, kind)| Some((name, (*kind)?)));
            added.for_each(|(name, kind)| gathered.push(name, kind));
            builder.add(Folder::new(path, false, gathered));
        }
        builder.finish()
    }

    /// Every source file, in the order of folders and names.
    pub fn sources(&self) -> impl Iterator<Item = (&Folder, Item<'_>)> {
        self.folders
            .iter()
            .filter(|folder| !folder.apart)
            .flat_map(|folder| folder.items().filter(Item::is_source).map(move |item| (folder, item)))
    }

    /// Every file that git tracks or could add, instruction files and Signpost's own among them.
    pub fn every_file(&self) -> impl Iterator<Item = (&Folder, Item<'_>)> {
        let kept = |item: &Item<'_>| !item.ignored && item.kind != EntryKind::Folder;
        let folders = self.folders.iter().filter(|folder| !folder.apart);
        folders.flat_map(move |folder| folder.items().filter(kept).map(move |item| (folder, item)))
    }

    /// Whether anything stands at the path.
    pub fn holds(&self, path: &RepoPath) -> bool {
        self.folder(&path.folder()).is_some_and(|folder| folder.get(path.name()).is_some())
    }

    /// Whether a source file stands at the path.
    pub fn is_source(&self, path: &RepoPath) -> bool {
        self.folder(&path.folder()).and_then(|folder| folder.get(path.name())).is_some_and(|item| item.is_source())
    }
}

/// Puts an [`Index`] together from folders that come in any order.
#[derive(Debug, Default)]
pub struct IndexBuilder {
    folders: Vec<Folder>,
    unreadable: Vec<(RepoPath, String)>,
}

impl IndexBuilder {
    /// Notes a folder that could not be listed, with the system's words.
    pub(crate) fn cannot_list(&mut self, folder: RepoPath, why: String) {
        self.unreadable.push((folder, why));
    }

    /// Adds a folder.
    pub(crate) fn add(&mut self, folder: Folder) {
        self.folders.push(folder);
    }

    /// Walks a tree that lists its folders through `list`, one after the other.
    ///
    /// # Errors
    /// What `list` fails with.
    pub fn fill(
        &mut self,
        root: &RepoPath,
        list: &dyn Fn(&RepoPath) -> Result<Vec<Entry>, TreeError>,
        ignore_file: &dyn Fn(&RepoPath) -> Option<Vec<u8>>,
    ) -> Result<(), TreeError> {
        let mut open = vec![(root.clone(), HideChain::default(), false)];
        while let Some((path, chain, apart)) = open.pop() {
            let chain = match ignore_file(&path) {
                Some(bytes) => chain.with(&path, path.join(".gitignore"), HideList::parse(&bytes)),
                None => chain,
            };
            let mut gathered = Gathered::default();
            for entry in list(&path)?.into_iter().filter(|entry| entry.name != ".git") {
                gathered.push(&entry.name, entry.kind);
            }
            gathered
                .mark_ignored(|name, kind| apart || chain.hides(path.join(name).as_str(), kind == EntryKind::Folder));
            for (name, _, ignored) in gathered.iter().filter(|(_, kind, _)| *kind == EntryKind::Folder) {
                open.push((path.join(name), chain.clone(), ignored));
            }
            self.add(Folder::new(path, apart, gathered));
        }
        Ok(())
    }

    /// Sorts and numbers the folders.
    pub fn finish(mut self) -> Index {
        self.folders.sort_by(|a, b| a.path.cmp(&b.path));
        self.unreadable.sort();
        let by_path: FxHashMap<RepoPath, FolderId> =
            self.folders.iter().enumerate().map(|(id, folder)| (folder.path.clone(), id as FolderId)).collect();
        for folder in &mut self.folders {
            folder.parent = by_path.get(&folder.path.folder()).copied().unwrap_or(0);
        }
        Index { folders: self.folders, by_path, unreadable: self.unreadable }
    }
}
