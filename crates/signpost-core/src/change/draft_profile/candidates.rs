//! Which files could be instructions to an assistant that no profile describes, by where they stand and how they are
//! written.
//!
//! Looked at are text files in hidden folders, Markdown with a name in capitals, and hidden files of prose. Pages that every
//! project has, templates of forms and fragments for other tools are none. No name of a real assistant is known here.

use super::kind::PERSONAL;
use crate::base::repo_path::{Location, RepoPath};
use crate::files::EntryKind;
use crate::header::Header;
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
    /// Words without a header, in a file whose ending is no text's and is nobody else's here.
    pub left: Vec<RepoPath>,
    /// Whether the hidden folder holds other things for other purposes, so that its name is not the assistant's.
    pub shared_folder: bool,
    /// Names of exclusion files.
    pub exclusions: FxHashSet<String>,
}

/// Pages that every project has, which instruct nobody's assistant.
const PAGES: [&str; 57] = [
    "readme", "changelog", "changes", "license", "licence", "copying", "contributing", "contributors", "security",
    "code_of_conduct", "authors", "notice", "todo", "history", "news", "support", "governance", "maintainers",
    "install", "installation", "upgrading", "upgrade", "roadmap", "release", "releases", "releasing", "faq", "credits",
    "thanks", "architecture", "design", "testing", "development", "hacking", "building", "migration", "migrating",
    "glossary", "index", "style", "version", "versioning", "acknowledgements", "disclaimer", "patents", "trademark",
    "codeowners", "usage", "tutorial", "manual", "overview", "wanted", "third_party", "unlicense", "funding",
    "notices", "licenses",
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
    let asked = |path: &RepoPath| below.is_empty() || below.iter().any(|folder| path.is_in(folder));
    let mut found: BTreeMap<String, Named> = BTreeMap::new();
    for folder in project.index.folders().iter().filter(|folder| !is_ours(&folder.path)) {
        for item in folder.items().filter(|item| item.kind == EntryKind::File) {
            if item.ignored && folder.apart || !could_be_named_so(&folder.path, item.name) {
                continue;
            }
            let path = folder.path.join(item.name);
            if claimed.contains(&path) || !asked(&path) {
                continue;
            }
            if let Some(stem) = exclusion_stem(item.name) {
                found.entry(stem).or_default().exclusions.insert(item.name.to_owned());
            } else if let Some((family, could_be)) = look(&folder.path, item.name) {
                found.entry(family).or_default().add(workspace, path, item.ignored, could_be);
            }
        }
    }
    if found.values().any(|named| !named.files.is_empty()) {
        // A misspelt file of a known assistant is no other assistant's.
        let profiles: Vec<&Profile> = workspace.profiles.iter().collect();
        let near: FxHashSet<RepoPath> =
            unclaimed(workspace, project, &profiles).into_iter().map(|one| one.path).collect();
        found.values_mut().for_each(|named| named.settle(&near));
    }
    join_by_first_word(&mut found);
    found.retain(|_, named| !named.files.is_empty());
    found
}

impl Named {
    fn add(&mut self, workspace: &Workspace<'_>, path: RepoPath, ignored: bool, could_be: CouldBe) {
        let CouldBe::Text { anchor, folder, rest, needs } = could_be else {
            self.shared_folder = true;
            return;
        };
        if self.files.len() + self.unsure.len() >= MOST_IN_FOLDER {
            return;
        }
        let document = workspace.document(&Location::root(path.clone()));
        let sure = holds(needs, &document);
        let candidate = Candidate { path, anchor, folder, rest, ignored, document };
        if sure {
            self.files.push(candidate);
        } else if needs == Needs::Header {
            self.unsure.push(candidate);
        }
    }

    /// Leaves what is misspelt out, and takes in what stands beside others of its kind.
    fn settle(&mut self, near: &FxHashSet<RepoPath>) {
        self.files.retain(|file| !near.contains(&file.path));
        // An ending that is this assistant's own, since so many of its files have it.
        let own = |of: &Candidate, ending_of: &str| ending(&of.rest) == ending_of;
        for file in std::mem::take(&mut self.unsure) {
            let alike = |other: &&Candidate| own(other, ending(&file.rest));
            let here = self.files.iter().filter(alike).filter(|other| other.folder == file.folder).count();
            if (here > 1 || self.files.iter().filter(alike).count() > 2)
                && !near.contains(&file.path)
                && is_prose(&file.document.text)
            {
                self.files.push(file);
            } else if !near.contains(&file.path)
                && !DATA_ENDINGS.contains(&ending(&file.rest))
                && is_prose(&file.document.text)
            {
                self.left.push(file.path);
            }
        }
        self.files.sort_by(|a, b| a.path.cmp(&b.path));
    }

    fn take_in(&mut self, other: Named) {
        self.files.extend(other.files);
        self.exclusions.extend(other.exclusions);
        self.shared_folder |= other.shared_folder;
    }
}

/// What most files of a tree are not, told from the first letters: it is asked of every file.
fn could_be_named_so(folder: &RepoPath, name: &str) -> bool {
    let first = name.as_bytes().first().copied().unwrap_or_default();
    !name.starts_with(".git") && (first == b'.' || first.is_ascii_uppercase() || hidden_part(folder).is_some())
}

/// What a file's place and name say; `None` for one that is nobody's instruction.
fn look(folder: &RepoPath, name: &str) -> Option<(String, CouldBe)> {
    match hidden_part(folder) {
        Some(at) => in_hidden_folder(folder, at, name),
        None => of_its_own(folder, name),
    }
}

/// Whether a candidate that no profile reads stands in a folder, or in a hidden one below it. Of a folder with very many
/// files only the first are looked at.
pub(super) fn stands_in(workspace: &Workspace<'_>, folder: &RepoPath) -> bool {
    let finder = Finder::new(workspace.tree(), None);
    let read = |at: &Location| workspace.profiles.iter().any(|profile| finder.owner(profile, at).is_some());
    let is_candidate = |folder: &RepoPath, name: &str| {
        let Some((_, CouldBe::Text { needs, .. })) = look(folder, name) else { return false };
        let at = Location::root(folder.join(name));
        !read(&at) && holds(needs, &workspace.document(&at))
    };
    let mut open: Vec<RepoPath> = vec![folder.clone()];
    let mut left = MOST_IN_FOLDER;
    while let Some(path) = open.pop() {
        let inside = path != *folder;
        let entries = workspace.tree().list(&Location::root(path.clone())).unwrap_or_default();
        let most = if inside { MOST_NAMES } else { MOST_IN_FOLDER }.min(left);
        left -= entries.len().min(most);
        for entry in entries.into_iter().take(most) {
            let hidden = entry.name.starts_with('.') && entry.name.len() > 1 && entry.name != ".git";
            match entry.kind {
                EntryKind::Folder if hidden || inside => open.push(path.join(&entry.name)),
                EntryKind::File if could_be_named_so(&path, &entry.name) && is_candidate(&path, &entry.name) => {
                    return true;
                }
                _ => {}
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
        Needs::Header => Header::found(&document.text).is_some() && !has_foreign_header(&document.text),
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

/// Files for programs, whatever words stand in them.
const DATA_ENDINGS: [&str; 12] =
    ["json", "jsonc", "json5", "toml", "yaml", "yml", "xml", "html", "js", "ts", "py", "sh"];
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
    PAGES.contains(&stem.as_str()) || PAGES.iter().any(part)
}

/// In a folder of notes `testing.md` is about tests; `SECURITY.md` and `readme.md` are pages there too.
fn is_page_among_notes(name: &str) -> bool {
    let stem = name.split('.').next().unwrap_or_default();
    let shouted = !stem.chars().any(char::is_lowercase);
    is_page(name) && (shouted || ["readme", "changelog", "license", "licence"].contains(&stem.to_lowercase().as_str()))
}

fn in_hidden_folder(folder: &RepoPath, at: usize, name: &str) -> Option<(String, CouldBe)> {
    let parts: Vec<&str> = folder.components().collect();
    let family = kebab(parts[at]);
    if family.is_empty() {
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
        && (ending.is_empty() || stem.is_empty() || prose || PERSONAL.contains(&ending))
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

/// `.zorp-sheet` and `.zorprules` beside `.zorp/` are the same assistant's; a lone `.zorprules` is Zorp's.
fn join_by_first_word(found: &mut BTreeMap<String, Named>) {
    let about_rules = |rest: &str| ["rules", "notes"].contains(&rest);
    let names: Vec<String> = found.keys().cloned().collect();
    for name in &names {
        let beside = names.iter().find(|short| {
            let rest = name.strip_prefix(short.as_str()).unwrap_or_default();
            rest.starts_with('-') || about_rules(rest)
        });
        let lone = || ["-rules", "rules", "-notes", "notes"].iter().find_map(|end| name.strip_suffix(end));
        let short = beside.map(String::as_str).or_else(|| lone().filter(|short| short.len() >= 3));
        if let Some(short) = short
            && let Some(joined) = found.remove(name)
        {
            found.entry(short.to_owned()).or_default().take_in(joined);
        }
    }
}

/// `.zorp-skip`, `.zorpignore`: the part that names the assistant.
fn exclusion_stem(name: &str) -> Option<String> {
    let rest = name.strip_prefix('.')?;
    let stem = ["-skip", "-ignore", "skip", "ignore", "-exclude", "-hide"]
        .into_iter()
        .find_map(|end| rest.strip_suffix(end))?;
    (!stem.is_empty()).then(|| kebab(stem))
}

/// A header whose keys are no words is some other tool's: `"@shop/web": minor`.
fn has_foreign_header(text: &str) -> bool {
    let Some((style, block)) = Header::found(text) else { return false };
    // All keys have to be so, the first one too.
    let first = text[block].trim_start().split([':', '=']).next().unwrap_or_default();
    let word = |name: &str| name.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '.'));
    if word(first.trim_end()) {
        return false;
    }
    let header = Header::read(text, style);
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
