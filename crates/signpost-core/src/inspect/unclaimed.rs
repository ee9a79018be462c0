//! Files that look like instruction files but that no assistant will ever load.
//!
//! They are found from the profiles: a name that is a place's but for a dot, a plural, a hyphen, the case,
//! one letter or the ending; a folder likewise; the right name in a folder where it is not read; a file that
//! another one always displaces; a link that leads nowhere.

use crate::base::own_files::is_ours;
use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::count;
use crate::files::index::{Folder, Index, Item};
use crate::files::{EntryKind, Look};
use crate::pattern::Simple;
use crate::profile::{Kind, Level, Place, Profile};
use crate::project::workspace::{Project, Workspace};
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};
use std::collections::BTreeMap;

/// A file that looks like an instruction file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unclaimed {
    /// The file.
    pub path: RepoPath,
    /// The assistant that it seems to be meant for.
    pub assistant: String,
    /// Why nobody loads it.
    pub why: UnclaimedWhy,
}

/// Why no assistant loads a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum UnclaimedWhy {
    /// Its name, or a folder's, is nearly right.
    NearMiss {
        /// What is wrong, in words.
        what: String,
        /// The path it should have.
        right: RepoPath,
        /// Whether a file stands there already.
        taken: bool,
    },
    /// The name is right, but it is read only elsewhere.
    WrongFolder {
        /// Where it is read.
        right: RepoPath,
    },
    /// It stands in the right folder, but the place's patterns don't take it.
    NotTaken {
        /// The patterns.
        patterns: String,
    },
    /// Of several names only the first is read.
    Displaced {
        /// The file that is read.
        by: Location,
    },
    /// A link that leads nowhere.
    BrokenLink,
    /// A link that leads out of the project.
    OutsideLink,
}

impl Unclaimed {
    /// The reason in words.
    pub fn text(&self, title: &str) -> String {
        match &self.why {
            UnclaimedWhy::NearMiss { what, right, taken: false } => format!("{what}; {title} would read {right}"),
            UnclaimedWhy::NearMiss { what, right, .. } => format!("{what}; {title} reads {right}, which is there too"),
            UnclaimedWhy::WrongFolder { right } => format!("{title} reads this name only as {right}"),
            UnclaimedWhy::NotTaken { patterns } => {
                format!("it stands in a folder of {title}, which reads {patterns} there")
            }
            UnclaimedWhy::Displaced { by } => format!("{title} reads only the first of several names, here {by}"),
            UnclaimedWhy::BrokenLink => "a link that leads nowhere".to_owned(),
            UnclaimedWhy::OutsideLink => "a link that leads out of the project, so it is not read".to_owned(),
        }
    }

    /// The path that the file should have.
    pub fn right(&self) -> Option<&RepoPath> {
        match &self.why {
            UnclaimedWhy::NearMiss { right, .. } | UnclaimedWhy::WrongFolder { right } => Some(right),
            _ => None,
        }
    }
}

/// Finds such files for some profiles.
pub fn unclaimed(workspace: &Workspace<'_>, project: &Project, profiles: &[&Profile]) -> Vec<Unclaimed> {
    let displaced = displaced(workspace, project, profiles);
    let claimed: FxHashSet<&RepoPath> =
        project.candidates.iter().flatten().filter_map(|found| found.file.in_root()).collect();
    let mut found: BTreeMap<RepoPath, Unclaimed> = BTreeMap::new();
    let mut add = |path: RepoPath, profile: &Profile, why: UnclaimedWhy| {
        if !claimed.contains(&path) && !is_ours(&path) {
            let assistant = profile.name.clone();
            found.entry(path.clone()).or_insert(Unclaimed { path, assistant, why });
        }
    };
    let shapes: Vec<Shape<'_>> = profiles.iter().flat_map(|profile| shapes(profile)).collect();
    let mut by_name: FxHashMap<String, Vec<&Shape<'_>>> = FxHashMap::default();
    let mut by_folder: FxHashMap<String, Vec<&Shape<'_>>> = FxHashMap::default();
    let mut lengths: Vec<(usize, &Shape<'_>)> = Vec::new();
    for shape in &shapes {
        match &shape.name {
            Some(name) => {
                by_name.entry(skeleton(stem(name).0)).or_default().push(shape);
                lengths.push((stem(name).0.len(), shape));
            }
            None => by_folder.entry(skeleton(shape.folders.last().map_or("", |name| name))).or_default().push(shape),
        }
    }
    let in_folder = |folder: &Folder| {
        let mut found: Vec<(RepoPath, &Profile, UnclaimedWhy)> = Vec::new();
        let could_be = |item: &Item<'_>| !item.ignored && item.kind != EntryKind::Folder && could_be_prose(item.name);
        for item in folder.items().filter(could_be) {
            let own_stem = stem(item.name).0;
            let near = lengths.iter().filter(|(length, shape)| {
                own_stem.len().abs_diff(*length) <= 1 && *length >= 5 && one_letter_off(own_stem, shape)
            });
            let same = by_name.get(&skeleton(own_stem)).into_iter().flatten().copied();
            for shape in same.chain(near.map(|(_, shape)| *shape)) {
                let path = folder.path.join(item.name);
                if let Some(why) = by_literal_name(&project.index, &path, shape) {
                    found.push((path, shape.profile, why));
                }
            }
            if item.kind == EntryKind::Link {
                let path = folder.path.join(item.name);
                let why = match workspace.tree().look(&Location::root(path.clone())) {
                    Look::BrokenLink => UnclaimedWhy::BrokenLink,
                    Look::Outside => UnclaimedWhy::OutsideLink,
                    _ => continue,
                };
                if let Some(profile) = profiles.iter().find(|profile| claims(workspace, profile, &path)) {
                    found.push((path, profile, why));
                }
            }
        }
        for shape in by_folder.get(&skeleton(folder.path.name())).into_iter().flatten() {
            for (path, why) in by_folder_name(&project.index, &folder.path, shape) {
                found.push((path, shape.profile, why));
            }
        }
        found
    };
    let folders = project.index.folders().par_iter().with_min_len(64).filter(|folder| !folder.apart);
    for (path, profile, why) in folders.map(in_folder).collect::<Vec<_>>().into_iter().flatten() {
        add(path, profile, why);
    }
    for one in displaced {
        found.insert(one.path.clone(), one);
    }
    found.into_values().collect()
}

fn claims(workspace: &Workspace<'_>, profile: &Profile, path: &RepoPath) -> bool {
    crate::project::discovery::Finder::new(workspace.tree(), None)
        .owner(profile, &Location::root(path.clone()))
        .is_some()
}

/// Files of a `pick = "first"` place that another file of their folder always displaces, for every
/// assistant that knows them.
fn displaced(workspace: &Workspace<'_>, project: &Project, profiles: &[&Profile]) -> Vec<Unclaimed> {
    let read: FxHashSet<&Location> = project.candidates.iter().flatten().map(|found| &found.file).collect();
    let losers = workspace.profiles.iter().zip(&project.displaced);
    losers
        .filter(|(profile, _)| profiles.iter().any(|other| other.name == profile.name))
        .flat_map(|(profile, losers)| losers.iter().map(move |(loser, by)| (profile, loser, by)))
        .filter(|(_, loser, _)| !read.contains(&loser.file))
        .filter_map(|(profile, loser, by)| {
            let why = UnclaimedWhy::Displaced { by: by.clone() };
            Some(Unclaimed { path: loser.file.in_root()?.clone(), assistant: profile.name.clone(), why })
        })
        .collect()
}

/// One way in which a place's files are named.
struct Shape<'a> {
    profile: &'a Profile,
    place: &'a Place,
    /// The folders that are spelled out.
    folders: Vec<String>,
    /// The file's name, where it is spelled out too.
    name: Option<String>,
    simple: &'a Simple,
}

fn shapes(profile: &Profile) -> Vec<Shape<'_>> {
    let places = profile.places.iter().filter(|place| place.level != Level::User);
    let patterns = places
        .flat_map(|place| place.files.iter().flat_map(|pattern| pattern.simple()).map(move |simple| (place, simple)));
    patterns
        .filter_map(|(place, simple)| {
            let folders: Vec<String> = simple.literal_folders().into_iter().map(str::to_owned).collect();
            let name = simple.literal_path().and_then(|path| path.rsplit('/').next().map(str::to_owned));
            (name.is_some() || !folders.is_empty()).then_some(Shape { profile, place, folders, name, simple })
        })
        .collect()
}

/// What two names have in common that differ in case, dots, hyphens, a plural.
pub(crate) fn skeleton(name: &str) -> String {
    let letters: String =
        name.chars().filter(|c| !matches!(c, '.' | '-' | '_' | ' ')).flat_map(char::to_lowercase).collect();
    letters.strip_suffix('s').map(str::to_owned).unwrap_or(letters)
}

/// A name without its ending, and the ending.
fn stem(name: &str) -> (&str, &str) {
    match name.rfind('.') {
        Some(at) if at > 0 => (&name[..at], &name[at + 1..]),
        _ => (name, ""),
    }
}

const PROSE: [&str; 7] = ["md", "mdx", "markdown", "mkd", "mdown", "txt", ""];

fn could_be_prose(name: &str) -> bool {
    let ending = stem(name).1;
    // Most files are told apart by their first letter.
    matches!(ending.bytes().next(), None | Some(b'm' | b'M' | b't' | b'T'))
        && PROSE.iter().any(|prose| prose.eq_ignore_ascii_case(ending))
        || name.starts_with('.')
}

/// One letter swapped, missing or too many, written in the same case.
fn one_letter_off(own: &str, shape: &Shape<'_>) -> bool {
    let Some(name) = &shape.name else { return false };
    let right = stem(name).0;
    let shouted = |text: &str| !text.chars().any(char::is_lowercase);
    own != right && shouted(own) == shouted(right) && strsim::osa_distance(own, right) == 1
}

fn by_literal_name(index: &Index, path: &RepoPath, shape: &Shape<'_>) -> Option<UnclaimedWhy> {
    let name = shape.name.as_deref()?;
    let parts: Vec<&str> = path.components().collect();
    let (own, folders) = parts.split_last()?;
    if stem(own).1 != stem(name).1
        && !(PROSE.contains(&stem(name).1) && PROSE.contains(&stem(own).1.to_lowercase().as_str()))
    {
        return None;
    }
    // The folders that are spelled out must be there, nearly.
    let anchor_depth = folders.len().checked_sub(shape.folders.len())?;
    let tail = &folders[anchor_depth..];
    if !tail.iter().zip(&shape.folders).all(|(own, right)| skeleton(own) == skeleton(right)) {
        return None;
    }
    let anchor = RepoPath::new(&folders[..anchor_depth].join("/"))?;
    let right_tail = [&shape.folders.join("/"), name].into_iter().filter(|part| !part.is_empty()).cloned_join("/");
    let same = tail.iter().zip(&shape.folders).all(|(own, right)| own == right) && *own == name;
    if shape.place.level == Level::Project && !anchor.is_root() {
        let right = RepoPath::new(&right_tail)?;
        return same.then_some(UnclaimedWhy::WrongFolder { right });
    }
    if same || is_page_among_pages(index, path, name) {
        return None;
    }
    let right = anchor.join(&right_tail);
    let wrong = tail.iter().zip(&shape.folders).find(|(own, right)| *own != right);
    let what = match wrong {
        Some((own, right)) => difference(own, right, true),
        None => difference(own, name, false),
    };
    let taken = index.holds(&right);
    Some(UnclaimedWhy::NearMiss { what, right, taken })
}

trait ClonedJoin {
    fn cloned_join(self, separator: &str) -> String;
}

impl<'a, I: Iterator<Item = &'a str>> ClonedJoin for I {
    fn cloned_join(self, separator: &str) -> String {
        self.collect::<Vec<_>>().join(separator)
    }
}

/// `agents.md` among other pages in lower case is a page about agents, not a misspelt name.
fn is_page_among_pages(index: &Index, path: &RepoPath, name: &str) -> bool {
    if path.name().chars().any(char::is_uppercase) || !name.chars().any(char::is_uppercase) {
        return false;
    }
    let pages = |folder: &Folder| {
        let prose = |name: &str| matches!(stem(name).1, "md" | "mdx" | "markdown" | "txt");
        folder.items().filter(|item| prose(item.name) && !item.name.chars().any(char::is_uppercase)).count()
    };
    index.folder(&path.folder()).is_some_and(|folder| pages(folder) >= 3)
}

/// Files in a folder whose path is nearly a place's, or that its patterns do not take.
fn by_folder_name(index: &Index, folder: &RepoPath, shape: &Shape<'_>) -> Vec<(RepoPath, UnclaimedWhy)> {
    let parts: Vec<&str> = folder.components().collect();
    let Some(anchor_depth) = parts.len().checked_sub(shape.folders.len()) else { return Vec::new() };
    let tail = &parts[anchor_depth..];
    if !tail.iter().zip(&shape.folders).all(|(own, right)| skeleton(own) == skeleton(right)) {
        return Vec::new();
    }
    let wrong = tail.iter().zip(&shape.folders).find(|(own, right)| *own != right);
    let anchor = RepoPath::new(&parts[..anchor_depth].join("/")).unwrap_or_default();
    let misplaced = shape.place.level == Level::Project && !anchor.is_root();
    // A single common word is no sign of an assistant.
    if wrong.is_some() && (misplaced || shape.folders.len() == 1 && !shape.folders[0].starts_with('.')) {
        return Vec::new();
    }
    let base = if misplaced { RepoPath::root() } else { anchor.clone() };
    let right_folder = base.join(&shape.folders.join("/"));
    let mut found = Vec::new();
    for path in files_below(index, folder) {
        let Some(rest) = path.below(folder) else { continue };
        let inner = format!("{}/{rest}", shape.folders.join("/"));
        let right = right_folder.join(rest);
        let takes = shape.simple.matches(&inner);
        let why = match (wrong, takes) {
            (Some((own, right_name)), true) => {
                let taken = index.holds(&right);
                UnclaimedWhy::NearMiss { what: difference(own, right_name, true), right, taken }
            }
            (None, true) if misplaced => UnclaimedWhy::WrongFolder { right },
            (None, false) if !misplaced && could_be_prose(path.name()) && !path.name().starts_with('.') => {
                let own = stem(path.name()).0;
                let spelled = shape.simple.last_name().filter(|name| skeleton(stem(name).0) == skeleton(own));
                let endings = ["md", "mdx", "markdown", "txt"].map(|ending| format!("{own}.{ending}"));
                let other = spelled.map(str::to_owned).into_iter().chain(endings).find_map(|name| {
                    let inner = RepoPath::new(&inner)?.folder().join(&name);
                    shape.simple.matches(inner.as_str()).then(|| path.folder().join(&name))
                });
                match other {
                    Some(right) => {
                        let taken = index.holds(&right);
                        UnclaimedWhy::NearMiss { what: difference(path.name(), right.name(), false), right, taken }
                    }
                    // What else lies in a bundle's folder belongs to the bundle.
                    None if shape.place.kind == Kind::Bundle => continue,
                    None => UnclaimedWhy::NotTaken { patterns: shape.place.files_text() },
                }
            }
            _ => continue,
        };
        found.push((path, why));
    }
    found
}

fn files_below(index: &Index, folder: &RepoPath) -> Vec<RepoPath> {
    let start = index.folders().partition_point(|other| other.path < *folder);
    let end_of = |path: &RepoPath| path.is_in(folder);
    index.folders()[start..]
        .iter()
        .take_while(|other| end_of(&other.path) || other.path.as_str().starts_with(folder.as_str()))
        .filter(|other| end_of(&other.path))
        .flat_map(|other| {
            let items = other.items().filter(|item| !item.ignored && item.kind != EntryKind::Folder);
            items.map(|item| other.path.join(item.name)).collect::<Vec<_>>()
        })
        .collect()
}

/// In words, how a name differs from the right one.
fn difference(own: &str, right: &str, folder: bool) -> String {
    let what = if folder { "the folder" } else { "the name" };
    let (own_stem, own_ending) = stem(own);
    let (right_stem, right_ending) = stem(right);
    let bare = |text: &str| text.trim_start_matches('.').to_owned();
    if own_stem == right_stem && own_ending != right_ending {
        let shown = |ending: &str| if ending.is_empty() { "none".to_owned() } else { format!(".{ending}") };
        return format!("the ending is {}, not {}", shown(own_ending), shown(right_ending));
    }
    if bare(own) == bare(right) {
        let dots = right.len().abs_diff(own.len());
        let much = if own.len() < right.len() { "lacks" } else { "has one too many:" };
        return format!(
            "{what} {own} {much} {}",
            if dots == 1 { "a dot at the front".to_owned() } else { count(dots, "dot") }
        );
    }
    if own.eq_ignore_ascii_case(right) {
        return format!("{what} {own} is written in another case than {right}");
    }
    if bare(own_stem).to_lowercase() + "s" == bare(right_stem).to_lowercase() {
        return format!("{what} {own} lacks a plural s");
    }
    if bare(own_stem).to_lowercase() == bare(right_stem).to_lowercase() + "s" {
        return format!("{what} {own} has a plural s too many");
    }
    format!("{what} {own} is nearly {right}")
}
