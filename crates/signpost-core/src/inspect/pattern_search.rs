//! What a pattern takes in a real tree: the first match without a look at every file, and, where it takes
//! nothing, the nearest pattern that would.

use crate::base::repo_path::RepoPath;
use crate::files::EntryKind;
use crate::files::index::{Folder, FolderId, Index, Item};
use crate::pattern::{Dialect, Leaf, Pattern, Simple, States};
use rustc_hash::FxHashSet;
use std::sync::OnceLock;

/// Answers questions about the files of one project.
pub struct PatternSearch<'a> {
    index: &'a Index,
    /// The folders directly in each folder.
    inner: OnceLock<Vec<Vec<FolderId>>>,
    /// The endings of all source files.
    endings: OnceLock<FxHashSet<&'a str>>,
    folders: OnceLock<FxHashSet<&'a str>>,
    /// The names of source files, and of ignored ones.
    names: [OnceLock<FxHashSet<&'a str>>; 2],
}

impl<'a> PatternSearch<'a> {
    /// For a project.
    pub fn new(index: &'a Index) -> Self {
        PatternSearch {
            index,
            inner: OnceLock::new(),
            endings: OnceLock::new(),
            folders: OnceLock::new(),
            names: Default::default(),
        }
    }

    fn inner(&self) -> &[Vec<FolderId>] {
        self.inner.get_or_init(|| {
            let mut inner = vec![Vec::new(); self.index.folders().len()];
            for (id, folder) in self.index.folders().iter().enumerate().skip(1) {
                inner[folder.parent as usize].push(id as FolderId);
            }
            inner
        })
    }

    fn endings(&self) -> &FxHashSet<&'a str> {
        self.endings.get_or_init(|| self.index.sources().filter_map(|(_, item)| ending(item.name)).collect())
    }

    /// Whether a pattern could match anything, going by single names.
    fn could_match(&self, simple: &Simple, sources: bool) -> bool {
        let folders =
            self.folders.get_or_init(|| self.index.folders().iter().map(|folder| folder.path.name()).collect());
        let names = self.names[usize::from(sources)].get_or_init(|| {
            let items = self.index.folders().iter().flat_map(Folder::items);
            items.filter(|item| wanted(item, sources)).map(|item| item.name).collect()
        });
        !names.is_empty() && simple.could_match(&|name| folders.contains(name), names.iter().copied())
    }

    /// The first source file below `base` that a pattern matches.
    pub fn first_match(&self, pattern: &Pattern, base: &RepoPath, below: &RepoPath) -> Option<RepoPath> {
        pattern.simple().iter().find_map(|simple| self.search(simple, base, below, true))
    }

    /// The first file that git ignores and a pattern matches.
    pub fn first_ignored(&self, pattern: &Pattern, base: &RepoPath) -> Option<RepoPath> {
        pattern.simple().iter().find_map(|simple| self.search(simple, base, base, false))
    }

    fn search(&self, simple: &Simple, base: &RepoPath, below: &RepoPath, sources: bool) -> Option<RepoPath> {
        let start = self.folder_id(base)?;
        if !self.could_match(simple, sources) {
            return None;
        }
        let mut open = vec![(start, simple.start())];
        while let Some((id, states)) = open.pop() {
            let folder = &self.index.folders()[id as usize];
            if sources && folder.apart || !(folder.path.is_in(below) || below.is_in(&folder.path)) {
                continue;
            }
            if folder.path.is_in(below)
                && let Some(found) = leaf(simple, states, folder, base, sources)
            {
                return Some(found);
            }
            for inner in self.inner()[id as usize].iter().rev() {
                let next = simple.enter(states, self.index.folders()[*inner as usize].path.name());
                if !next.is_dead() {
                    open.push((*inner, next));
                }
            }
        }
        None
    }

    fn folder_id(&self, path: &RepoPath) -> Option<FolderId> {
        self.index.folders().binary_search_by(|folder| folder.path.cmp(path)).ok().map(|id| id as FolderId)
    }

    /// The pattern nearest to one that takes nothing, with a file that it takes.
    pub fn nearest(
        &self,
        text: &str,
        dialect: &Dialect,
        base: &RepoPath,
        below: &RepoPath,
    ) -> Option<(String, RepoPath)> {
        let mut tried = FxHashSet::default();
        self.variants(text, base).into_iter().find_map(|variant| {
            if variant == text || !tried.insert(variant.clone()) {
                return None;
            }
            let pattern = Pattern::parse(&variant, dialect).ok()?;
            let found = self.first_match(&pattern, base, below)?;
            Some((variant, found))
        })
    }

    /// What somebody may have meant, the likeliest first.
    fn variants(&self, text: &str, base: &RepoPath) -> Vec<String> {
        let rest = text.strip_prefix("./").unwrap_or(text);
        let bare = rest.trim_start_matches('/');
        let mut variants = Vec::new();
        // A folder's name for what is in it.
        if !bare.contains(['*', '?', '[', '{']) && self.folder_id(&base.join(bare.trim_end_matches('/'))).is_some() {
            variants.push(format!("{}/**", bare.trim_end_matches('/')));
        }
        variants.extend(self.spelled(bare, base));
        // A path from the root where the base is a folder.
        if !base.is_root()
            && let Some(from_base) = bare.strip_prefix(base.as_str()).and_then(|rest| rest.strip_prefix('/'))
        {
            variants.push(from_base.to_owned());
        }
        if let Some((head, tail)) = bare.rsplit_once('/')
            && !head.ends_with("**")
            && tail.contains('*')
        {
            variants.push(format!("{head}/**/{tail}"));
            variants.extend(self.spelled(&format!("{head}/**/{tail}"), base));
        }
        if !bare.starts_with("**") {
            variants.push(format!("**/{bare}"));
        }
        variants.push(bare.to_lowercase());
        if let Some(last) = bare.rsplit('/').next()
            && let Some(name) = self.nearest_ending(last)
        {
            let head = &bare[..bare.len() - last.len()];
            variants.push(format!("{head}{name}"));
        }
        if !bare.contains(['*', '?', '[', '{']) && !bare.ends_with('/') {
            variants.push(format!("**/{bare}/**"));
        }
        if let Some((_, tail)) = bare.split_once('/') {
            variants.push(tail.to_owned());
        }
        variants.retain(|variant| !variant.is_empty());
        variants
    }

    /// The pattern with each folder and file that is spelled out, but not there, put right.
    fn spelled(&self, text: &str, base: &RepoPath) -> Option<String> {
        let parts: Vec<&str> = text.split('/').collect();
        let mut right: Vec<String> = Vec::new();
        let mut here = self.folder_id(base)?;
        let mut lost = false;
        for (at, part) in parts.iter().enumerate() {
            let folder = &self.index.folders()[here as usize];
            let last = at + 1 == parts.len();
            if lost || part.is_empty() || part.contains(['*', '?', '[', '{']) {
                lost = true;
                right.push((*part).to_owned());
                continue;
            }
            let inner = &self.inner()[here as usize];
            let folders = || inner.iter().map(|id| self.index.folders()[*id as usize].path.name());
            let files = folder.items().filter(|item| item.is_source()).map(|item| item.name);
            let names: Vec<&str> = if last { files.chain(folders()).collect() } else { folders().collect() };
            let name = if names.contains(part) { part } else { near_name(part, &names)? };
            right.push(name.to_owned());
            match inner.iter().find(|id| self.index.folders()[**id as usize].path.name() == name) {
                Some(id) if last => {
                    here = *id;
                    right.push("**".to_owned());
                }
                Some(id) => here = *id,
                None => {}
            }
        }
        Some(right.join("/"))
    }

    /// `*.jsx` where there are only `*.tsx`.
    fn nearest_ending(&self, name: &str) -> Option<String> {
        let own = ending(name).filter(|own| !own.contains(['*', '{', '[']))?;
        let mut known: Vec<&&str> = self.endings().iter().collect();
        known.sort_unstable();
        let near = known.into_iter().min_by_key(|other| strsim::osa_distance(own, other))?;
        let close = strsim::osa_distance(own, near) <= if own.len() > 3 { 2 } else { 1 } && near.len() > 2;
        close.then(|| format!("{}{near}", &name[..name.len() - own.len()]))
    }
}

fn wanted(item: &Item<'_>, sources: bool) -> bool {
    if sources { item.is_source() } else { item.ignored && item.kind != EntryKind::Folder }
}

fn near_name<'n>(part: &str, names: &[&'n str]) -> Option<&'n str> {
    let lower = part.to_lowercase();
    let best = names.iter().min_by_key(|name| strsim::osa_distance(&lower, &name.to_lowercase()))?;
    let distance = strsim::osa_distance(&lower, &best.to_lowercase());
    let longest = part.chars().count().max(best.chars().count());
    let starts = best.to_lowercase().starts_with(&lower) && part.len() >= 3;
    (distance * 3 <= longest || starts).then_some(best)
}

fn ending(name: &str) -> Option<&str> {
    name.rfind('.').map(|at| &name[at..])
}

fn leaf(simple: &Simple, states: States, folder: &Folder, base: &RepoPath, sources: bool) -> Option<RepoPath> {
    if simple.leaf(states) == Leaf::None {
        return None;
    }
    folder.items().filter(|item| wanted(item, sources)).find_map(|item| {
        let path = folder.path.join(item.name);
        let from_base = path.below(base)?.to_owned();
        simple.matches_leaf(states, &from_base, item.name).then_some(path)
    })
}
