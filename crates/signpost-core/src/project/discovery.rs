//! Which files are instruction files.
//!
//! A profile's places are looked up at their anchors: the home folder, the root, and folders. For one
//! file's brief only the folders on the way are looked at; for a whole project every folder of an
//! [`Index`] is.

use crate::base::own_files::is_ours;
use crate::base::repo_path::{Location, RepoPath, Side};
use crate::files::index::Index;
use crate::files::{Entry, EntryKind, Look, Tree, TreeError};
use crate::pattern::{Simple, States};
use crate::profile::{Level, Origin, Pick, Place, Profile};
use rustc_hash::FxHashMap;

/// A file of a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Candidate {
    /// The place, by its number in the profile.
    pub place: usize,
    /// The folder that the place is anchored at.
    pub anchor: Location,
    /// The first of the place's patterns that matches, by number.
    pub pattern: usize,
    /// The file.
    pub file: Location,
}

/// Says which files another one displaces: with `pick = "first"`, all but those of the first pattern that has any.
pub fn pick(profile: &Profile, found: Vec<Candidate>) -> Vec<(Candidate, Option<Location>)> {
    let mut first: FxHashMap<(usize, Location), (usize, Location)> = FxHashMap::default();
    for file in found.iter().filter(|file| profile.places[file.place].pick == Pick::First) {
        let best = first.entry((file.place, file.anchor.clone())).or_insert((usize::MAX, file.file.clone()));
        if file.pattern < best.0 {
            *best = (file.pattern, file.file.clone());
        }
    }
    let displaced = |file: Candidate| {
        let winner = first.get(&(file.place, file.anchor.clone()));
        let by = winner.filter(|(pattern, _)| *pattern != file.pattern).map(|(_, winner)| winner.clone());
        (file, by)
    };
    found.into_iter().map(displaced).collect()
}

/// Looks files up, in the index where there is one, else in the tree.
#[derive(Clone, Copy)]
pub struct Finder<'a> {
    tree: &'a dyn Tree,
    index: Option<&'a Index>,
}

impl<'a> Finder<'a> {
    /// Looks up in the tree, and where `index` is given in that first.
    pub fn new(tree: &'a dyn Tree, index: Option<&'a Index>) -> Self {
        Finder { tree, index }
    }

    /// Every file of a place at one anchor that belongs to no earlier place.
    ///
    /// # Errors
    /// A folder cannot be listed.
    pub fn at(&self, profile: &Profile, place: usize, anchor: &Location) -> Result<Vec<Candidate>, TreeError> {
        let mut found = Vec::new();
        for (number, pattern) in profile.places[place].files.iter().enumerate() {
            for simple in pattern.simple() {
                for file in self.expand(simple, anchor)? {
                    let file = self.tree.settle(file);
                    let candidate = Candidate { place, anchor: anchor.clone(), pattern: number, file };
                    if self.owner(profile, &candidate.file).as_ref() == Some(&candidate) {
                        found.push(candidate);
                    }
                }
            }
        }
        // Once each, whatever order folders list their entries in.
        found.sort_by(|a, b| (a.pattern, &a.file).cmp(&(b.pattern, &b.file)));
        found.dedup();
        Ok(found)
    }

    /// Every file of a place, from every anchor.
    ///
    /// # Errors
    /// A folder of the home folder cannot be listed.
    pub fn everywhere(&self, profile: &Profile, place: usize) -> Result<Vec<Candidate>, TreeError> {
        match (profile.places[place].level, self.index) {
            (Level::User, _) => self.at(profile, place, &Location::home(RepoPath::root())),
            (Level::Project, _) => self.at(profile, place, &Location::root(RepoPath::root())),
            (Level::Folder, None) => Ok(Vec::new()),
            (Level::Folder, Some(index)) => {
                let starts: Vec<Option<&str>> = first_names(&profile.places[place]);
                let mut found = Vec::new();
                for folder in index.folders() {
                    let possible = starts.iter().any(|name| name.is_none_or(|name| folder.get(name).is_some()));
                    if possible {
                        found.extend(self.at(profile, place, &Location::root(folder.path.clone()))?);
                    }
                }
                Ok(found)
            }
        }
    }

    /// Which place a file belongs to, decided from patterns alone: the first place one of whose patterns
    /// matches it from some anchor; of several anchors the shallowest.
    pub fn owner(&self, profile: &Profile, file: &Location) -> Option<Candidate> {
        if profile.origin != Origin::BuiltIn && file.in_root().is_some_and(is_ours) {
            return None;
        }
        profile.places.iter().enumerate().find_map(|(number, place)| {
            self.anchors(place.level, file).into_iter().find_map(|(anchor, path)| {
                let pattern = place.files.iter().position(|pattern| pattern.matches(&path))?;
                Some(Candidate { place: number, anchor, pattern, file: file.clone() })
            })
        })
    }

    /// The anchors that a file can belong to, the shallowest first, with its path from there.
    fn anchors(&self, level: Level, file: &Location) -> Vec<(Location, String)> {
        let whole = || file.path.as_str().to_owned();
        match (level, file.side) {
            (Level::User, Side::Home) => vec![(Location::home(RepoPath::root()), whole())],
            (Level::User, Side::Root) => {
                let root = self.tree.root_from_home();
                root.map(|root| (Location::home(RepoPath::root()), root.join(file.path.as_str()).as_str().to_owned()))
                    .into_iter()
                    .collect()
            }
            (_, Side::Home) => Vec::new(),
            (Level::Project, Side::Root) => vec![(Location::root(RepoPath::root()), whole())],
            (Level::Folder, Side::Root) => {
                let way = file.path.folder().way().into_iter();
                way.filter_map(|folder| {
                    let below = file.path.below(&folder)?.to_owned();
                    Some((Location::root(folder), below))
                })
                .collect()
            }
        }
    }

    /// The files that a pattern matches below an anchor, looked for from its literal part on.
    fn expand(&self, simple: &Simple, anchor: &Location) -> Result<Vec<Location>, TreeError> {
        if let Some(path) = simple.literal_path() {
            let file = anchor.join(&path);
            let clean = !path.split('/').any(|part| matches!(part, "" | "." | ".." | ".git"));
            return Ok(if clean && self.is_file(&file) { vec![file] } else { Vec::new() });
        }
        let mut folder = anchor.clone();
        let mut states = simple.start();
        for name in simple.literal_folders() {
            if matches!(name, "" | "." | ".." | ".git") {
                return Ok(Vec::new());
            }
            folder = folder.join(name);
            states = simple.enter(states, name);
        }
        let mut found = Vec::new();
        self.descend(simple, anchor, &folder, states, &mut found)?;
        Ok(found)
    }

    fn descend(
        &self,
        simple: &Simple,
        anchor: &Location,
        folder: &Location,
        states: States,
        found: &mut Vec<Location>,
    ) -> Result<(), TreeError> {
        let mut open = vec![(folder.clone(), states)];
        while let Some((folder, states)) = open.pop() {
            if states.is_dead() {
                continue;
            }
            for entry in self.list(&folder)? {
                let at = folder.join(&entry.name);
                match entry.kind {
                    EntryKind::Folder if entry.name != ".git" => open.push((at, simple.enter(states, &entry.name))),
                    EntryKind::Folder => {}
                    EntryKind::File | EntryKind::Link => {
                        let path = at.path.below(&anchor.path).unwrap_or_default();
                        // Links to folders are followed only where a pattern spells them out.
                        if simple.matches_leaf(states, path, &entry.name)
                            && (entry.kind == EntryKind::File || matches!(self.tree.look(&at), Look::File(_)))
                        {
                            found.push(at);
                        }
                    }
                }
            }
        }
        Ok(())
    }

    fn is_file(&self, at: &Location) -> bool {
        match self.indexed(at) {
            Some(answer) => answer,
            None => matches!(self.tree.look(at), Look::File(_)),
        }
    }

    /// What the index knows; `None` where a link is on the way, or there is no index.
    fn indexed(&self, at: &Location) -> Option<bool> {
        let index = self.index.filter(|_| at.side == Side::Root)?;
        let mut folder = index.folder(&RepoPath::root())?;
        let mut parts = at.path.components().peekable();
        while let Some(part) = parts.next() {
            let Some(item) = folder.get(part) else { return Some(false) };
            match (item.kind, parts.peek()) {
                (EntryKind::File, None) => return Some(true),
                (EntryKind::Link, _) => return None,
                (EntryKind::Folder, Some(_)) => folder = index.folder(&folder.path.join(part))?,
                _ => return Some(false),
            }
        }
        Some(false)
    }

    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError> {
        if let Some(folder) = self.index.filter(|_| at.side == Side::Root).and_then(|index| index.folder(&at.path)) {
            return Ok(folder.items().map(|item| Entry { name: item.name.to_owned(), kind: item.kind }).collect());
        }
        match self.tree.look(at) {
            Look::Folder => self.tree.list(at),
            _ => Ok(Vec::new()),
        }
    }
}

/// The first name of each of a place's patterns, where it is spelled out.
fn first_names(place: &Place) -> Vec<Option<&str>> {
    let simple = place.files.iter().flat_map(|pattern| pattern.simple());
    simple.map(|simple| simple.first_name()).collect()
}
