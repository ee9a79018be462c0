//! Which files could be instructions to an assistant that no profile describes, by where they stand and how they are
//! written.
//!
//! Looked at are text files in hidden folders, Markdown with a name in capitals, and hidden files of prose. Pages that every
//! project has, templates of forms and fragments for other tools are none. No name of a real assistant is known here.

use crate::base::repo_path::{Location, RepoPath};
use crate::files::EntryKind;
use crate::files::index::Folder;
use crate::header::{Header, HeaderStyle};
use crate::inspect::unclaimed::unclaimed;
use crate::profile::Profile;
use crate::project::discovery::Finder;
use crate::project::rule::Document;
use crate::project::workspace::{Project, Workspace};
use rustc_hash::FxHashSet;
use std::collections::BTreeMap;
use std::sync::Arc;

/// A file, and where it stands as a profile would say it.
pub(super) struct Candidate {
    pub path: RepoPath,
    /// The folder it is anchored at.
    pub anchor: RepoPath,
    /// From the anchor: `.zorp/notes`, or empty for a file of its own.
    pub folder: String,
    /// Below that folder.
    pub rest: String,
    /// Whether git ignores it.
    pub ignored: bool,
    pub document: Arc<Document>,
}

/// The files that share a name.
#[derive(Default)]
pub(super) struct Named {
    pub files: Vec<Candidate>,
    /// Files without a header whose ending is no text's; they count where others beside them do.
    unsure: Vec<Candidate>,
    /// Whether the hidden folder holds other things for other purposes, so that its name is not the assistant's.
    pub shared_folder: bool,
    /// Names of exclusion files.
    pub exclusions: FxHashSet<String>,
}

/// Pages that every project has, which instruct nobody's assistant.
const PAGES: [&str; 55] = [
    "readme", "changelog", "changes", "license", "licence", "copying", "contributing", "contributors", "security",
    "code_of_conduct", "authors", "notice", "todo", "history", "news", "support", "governance", "maintainers",
    "install", "installation", "upgrading", "upgrade", "roadmap", "release", "releases", "releasing", "faq", "credits",
    "thanks", "architecture", "design", "testing", "development", "hacking", "building", "migration", "migrating",
    "glossary", "index", "style", "version", "versioning", "acknowledgements", "disclaimer", "patents", "trademark",
    "codeowners", "usage", "tutorial", "manual", "overview", "wanted", "third_party", "unlicense", "funding",
];

/// Of one hidden folder so many files are looked at: somebody may keep a library there.
const MOST_IN_FOLDER: usize = 2_000;
/// Where so many names of a folder are known to a profile, the others are hardly another assistant's.
const MOST_NAMES: usize = 100;
/// No rule is longer; what is, is not read for a guess.
const MOST_BYTES: u64 = 256 << 10;

/// Finds them, by the name that they share.
pub(super) fn candidates(workspace: &Workspace<'_>, project: &Project, below: &[RepoPath]) -> BTreeMap<String, Named> {
    let claimed: FxHashSet<&RepoPath> = project
        .candidates
        .iter()
        .flatten()
        .chain(project.displaced.iter().flatten().map(|(found, _)| found))
        .filter_map(|found| found.file.in_root())
        .collect();
    // A misspelt file of a known assistant is no other assistant's.
    let profiles: Vec<&Profile> = workspace.profiles.iter().collect();
    let near: FxHashSet<RepoPath> = unclaimed(workspace, project, &profiles).into_iter().map(|one| one.path).collect();
    let asked = |path: &RepoPath| below.is_empty() || below.iter().any(|folder| path.is_in(folder));
    let mut found: BTreeMap<String, Named> = BTreeMap::new();
    let mut taken: BTreeMap<String, usize> = BTreeMap::new();
    for folder in project.index.folders().iter().filter(|folder| !is_ours(&folder.path)) {
        let hidden = hidden_part(&folder.path);
        for item in folder.items().filter(|item| item.kind == EntryKind::File && !item.name.starts_with(".git")) {
            let path = folder.path.join(item.name);
            if claimed.contains(&path) || near.contains(&path) || !asked(&path) {
                continue;
            }
            if let Some(stem) = exclusion_stem(item.name) {
                found.entry(stem).or_default().exclusions.insert(item.name.to_owned());
                continue;
            }
            let Some((family, could_be)) = (match hidden {
                Some(at) => in_hidden_folder(folder, at, item.name, item.ignored),
                None if item.ignored && folder.apart => None,
                None => of_its_own(&folder.path, item.name),
            }) else {
                continue;
            };
            let family = found.entry(family).or_default();
            let count = taken.entry(folder.path.components().take(hidden.unwrap_or(0) + 1).collect()).or_default();
            *count += 1;
            match could_be {
                CouldBe::Not => family.shared_folder = true,
                CouldBe::Text { .. } if *count > MOST_IN_FOLDER => {}
                CouldBe::Text { anchor, folder, rest, needs } => {
                    let document = workspace.document(&Location::root(path.clone()));
                    let ignored = item.ignored;
                    let sure = holds(needs, &document);
                    let candidate = Candidate { path, anchor, folder, rest, ignored, document };
                    if sure {
                        family.files.push(candidate);
                    } else if needs == Needs::Header {
                        family.unsure.push(candidate);
                    }
                }
            }
        }
    }
    for family in found.values_mut() {
        for file in std::mem::take(&mut family.unsure) {
            let alike = |other: &&Candidate| other.folder == file.folder && ending(&other.rest) == ending(&file.rest);
            if family.files.iter().filter(alike).count() > 1 && is_prose(&file.document.text) {
                family.files.push(file);
            }
        }
        family.files.sort_by(|a, b| a.path.cmp(&b.path));
    }
    join_by_first_word(&mut found);
    found.retain(|_, found| !found.files.is_empty());
    found
}

/// Whether a candidate that no profile reads may stand in a folder, or in a hidden one below it: by names alone.
pub(super) fn stands_in(workspace: &Workspace<'_>, folder: &RepoPath) -> bool {
    let finder = Finder::new(workspace.tree(), None);
    let read = |path: &RepoPath| {
        workspace.profiles.iter().any(|profile| finder.owner(profile, &Location::root(path.clone())).is_some())
    };
    let list = |path: &RepoPath| workspace.tree().list(&Location::root(path.clone())).unwrap_or_default();
    let mut open: Vec<(RepoPath, usize)> = vec![(folder.clone(), 0)];
    while let Some((path, depth)) = open.pop() {
        let most = if depth == 0 { MOST_IN_FOLDER } else { MOST_NAMES };
        for entry in list(&path).into_iter().take(most) {
            let at = path.join(&entry.name);
            let hidden = entry.name.starts_with('.') && entry.name.len() > 1 && entry.name != ".git";
            match entry.kind {
                EntryKind::Folder if depth < 3 && (hidden || depth > 0) => open.push((at, depth + 1)),
                EntryKind::File if depth > 0 => {
                    let prose = PROSE_ENDINGS.contains(&ending(&entry.name).to_lowercase().as_str());
                    if (prose || ending(&entry.name).len() == 3) && !is_page_among_notes(&entry.name) && !read(&at) {
                        return true;
                    }
                }
                EntryKind::File => {
                    if of_its_own(&path, &entry.name).is_some() && !entry.name.starts_with(".git") && !read(&at) {
                        return true;
                    }
                }
                EntryKind::Folder | EntryKind::Link => {}
            }
        }
    }
    false
}

/// What a file's name and place say.
enum CouldBe {
    /// A form that somebody fills in.
    Not,
    Text {
        anchor: RepoPath,
        folder: String,
        rest: String,
        needs: Needs,
    },
}

/// What has to be in a file.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Needs {
    /// Words, and no header of another tool.
    Words,
    /// A header.
    Header,
    /// Mostly sentences.
    Prose,
}

fn holds(needs: Needs, document: &Document) -> bool {
    if document.error.is_some() || document.bytes > MOST_BYTES || document.text.contains('\0') {
        return false;
    }
    match needs {
        Needs::Words => !document.text.trim().is_empty() && !has_foreign_header(&document.text),
        Needs::Header => style_of(&document.text).is_some() && !has_foreign_header(&document.text),
        Needs::Prose => is_prose(&document.text),
    }
}

fn is_ours(folder: &RepoPath) -> bool {
    folder.components().next() == Some("guidance")
}

/// The first hidden folder of a path, by its number.
fn hidden_part(folder: &RepoPath) -> Option<usize> {
    folder.components().position(|part| part.starts_with('.') && part.len() > 1)
}

const PROSE_ENDINGS: [&str; 4] = ["md", "mdx", "txt", "markdown"];

fn ending(name: &str) -> &str {
    name.rsplit_once('.').map_or("", |(stem, ending)| if stem.is_empty() { "" } else { ending })
}

/// `LICENSE.md`, and `LICENSE-APACHE.md`, `RELEASE-NOTES.md`, `OUR_CODE_OF_CONDUCT.md`.
fn is_page(name: &str) -> bool {
    let stem = name.split('.').find(|part| !part.is_empty()).unwrap_or_default();
    let stem = stem.to_lowercase().replace('-', "_");
    let part = |page: &&str| {
        stem.strip_prefix(*page).is_some_and(|rest| rest.starts_with('_')) || stem.ends_with(&format!("_{page}"))
    };
    PAGES.contains(&stem.as_str()) || stem == "notices" || stem == "licenses" || PAGES.iter().any(part)
}

/// In a folder of notes `testing.md` is about tests; `SECURITY.md` and `readme.md` are pages there too.
fn is_page_among_notes(name: &str) -> bool {
    let stem = name.split('.').next().unwrap_or_default();
    let shouted = !stem.chars().any(char::is_lowercase);
    is_page(name) && (shouted || ["readme", "changelog", "license", "licence"].contains(&stem.to_lowercase().as_str()))
}

fn in_hidden_folder(folder: &Folder, at: usize, name: &str, ignored: bool) -> Option<(String, CouldBe)> {
    let parts: Vec<&str> = folder.path.components().collect();
    let family = kebab(parts[at]);
    if family.is_empty() || ignored && folder.apart {
        return None;
    }
    let form = |text: &&str| text.to_lowercase().contains("template");
    let own = ending(name);
    let prose = PROSE_ENDINGS.contains(&own.to_lowercase().as_str());
    let short = (1..=5).contains(&own.len()) && own.chars().all(|c| c.is_ascii_alphanumeric());
    if parts[at..].iter().chain([&name]).any(form) {
        return Some((family, CouldBe::Not));
    }
    if is_page_among_notes(name) || !prose && !short {
        return None;
    }
    let inside = &parts[at..];
    let depth = inside.len().min(2);
    let mut rest: Vec<&str> = inside[depth..].to_vec();
    rest.push(name);
    let could_be = CouldBe::Text {
        anchor: RepoPath::new(&parts[..at].join("/"))?,
        folder: inside[..depth].join("/"),
        rest: rest.join("/"),
        needs: if prose { Needs::Words } else { Needs::Header },
    };
    Some((family, could_be))
}

/// A name in capitals, or a hidden file of prose.
fn of_its_own(folder: &RepoPath, name: &str) -> Option<(String, CouldBe)> {
    let (stem, ending) = name.rsplit_once('.').map_or((name, ""), |(stem, ending)| (stem, ending));
    let prose = PROSE_ENDINGS.contains(&ending.to_lowercase().as_str());
    let first = stem.split('.').next().unwrap_or_default();
    let shouted = first.len() >= 3 && first.chars().all(|c| c.is_ascii_uppercase() || matches!(c, '_' | '-'));
    let capitals = prose && shouted && !is_page(first) && !name.to_lowercase().contains("template");
    let hidden = name.starts_with('.')
        && name.len() > 3
        && (ending.is_empty() || stem.is_empty() || prose)
        && !["rc", "config", "attributes", "ignore", "lock", "version", "env"].iter().any(|end| name.ends_with(end));
    if !(capitals || hidden) {
        return None;
    }
    let word = if capitals { first } else { name.trim_start_matches('.').split('.').next().unwrap_or_default() };
    let family = kebab(word);
    let needs = if capitals { Needs::Words } else { Needs::Prose };
    let could_be = CouldBe::Text { anchor: folder.clone(), folder: String::new(), rest: name.to_owned(), needs };
    (!family.is_empty()).then_some((family, could_be))
}

/// `.zorp-sheet` beside `.zorp/` is the same assistant's.
fn join_by_first_word(found: &mut BTreeMap<String, Named>) {
    let names: Vec<String> = found.keys().cloned().collect();
    for name in &names {
        let longer = names.iter().filter(|other| {
            other.strip_prefix(name.as_str()).is_some_and(|rest| rest.starts_with('-') || is_about_rules(rest))
        });
        for other in longer {
            if let Some(joined) = found.remove(other) {
                let family = found.entry(name.clone()).or_default();
                family.files.extend(joined.files);
                family.exclusions.extend(joined.exclusions);
            }
        }
    }
    // A lone `.zorprules` is Zorp's.
    for name in names {
        let short = ["-rules", "rules", "-notes", "notes"].iter().find_map(|end| name.strip_suffix(end));
        if let Some(short) = short.filter(|short| short.len() >= 3)
            && let Some(found_here) = found.remove(&name)
        {
            let family = found.entry(short.to_owned()).or_default();
            family.files.extend(found_here.files);
            family.exclusions.extend(found_here.exclusions);
        }
    }
}

fn is_about_rules(rest: &str) -> bool {
    ["rules", "notes"].contains(&rest)
}

/// `.zorp-skip`, `.zorpignore`: the part that names the assistant.
fn exclusion_stem(name: &str) -> Option<String> {
    let rest = name.strip_prefix('.')?;
    let stem = ["-skip", "-ignore", "skip", "ignore", "-exclude", "-hide"]
        .into_iter()
        .find_map(|end| rest.strip_suffix(end))?;
    (!stem.is_empty()).then(|| kebab(stem))
}

pub(super) fn style_of(text: &str) -> Option<HeaderStyle> {
    [HeaderStyle::Yaml, HeaderStyle::Toml].into_iter().find(|style| Header::read(text, *style).block.is_some())
}

/// A header whose keys are no words is some other tool's: `"@shop/web": minor`.
fn has_foreign_header(text: &str) -> bool {
    let Some(style) = style_of(text) else { return false };
    let header = Header::read(text, style);
    let word = |name: &str| name.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '.'));
    let quoted = |at: usize| text[at..].starts_with(['"', '\'']);
    !header.keys.is_empty() && header.keys.iter().all(|key| quoted(key.name_span.start) || !word(&key.name))
}

/// Whether a text is written for somebody to read: most of its lines are several words.
fn is_prose(text: &str) -> bool {
    let lines: Vec<&str> = text.lines().map(str::trim).filter(|line| !line.is_empty()).take(200).collect();
    let wordy = |line: &&&str| {
        let words = line
            .split_whitespace()
            .filter(|word| word.chars().filter(|c| c.is_alphabetic()).count() * 2 > word.len())
            .count();
        words >= 3 && !line.contains(" = ") && !line.ends_with(['{', ';'])
    };
    !lines.is_empty() && lines.iter().filter(wordy).count() * 2 > lines.len()
}

pub(super) fn kebab(name: &str) -> String {
    let lower = name.to_lowercase();
    let parts: Vec<&str> = lower.split(|c: char| !c.is_ascii_alphanumeric()).filter(|part| !part.is_empty()).collect();
    parts.join("-")
}
