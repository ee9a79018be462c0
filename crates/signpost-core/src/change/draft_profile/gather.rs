//! Which files look like instructions to an assistant that no profile describes.

use crate::base::repo_path::{Location, RepoPath};
use crate::files::index::Folder;
use crate::files::{EntryKind, Look};
use crate::header::{Header, HeaderStyle};
use crate::inspect::unclaimed::unclaimed;
use crate::profile::{Format, Level, Profile, ReferenceBase, ReferenceSyntax};
use crate::project::references::{mentions, resolve};
use crate::project::rule::Document;
use crate::project::workspace::{Project, Workspace};
use rustc_hash::FxHashSet;
use std::collections::BTreeMap;
use std::sync::Arc;

/// Files of one assistant.
pub struct Family {
    /// The name that they share, in kebab-case.
    pub name: String,
    pub(super) groups: Vec<Group>,
    /// Names of exclusion files.
    pub(super) exclusions: Vec<String>,
    /// How many mentions of other files lead somewhere.
    pub(super) mentions: usize,
}

impl Family {
    /// How many files there are.
    pub fn files(&self) -> usize {
        self.groups.iter().map(|group| group.files.len()).sum()
    }
}

/// Files of one place.
pub(super) struct Group {
    pub id: String,
    pub level: Level,
    pub pattern: String,
    pub files: Vec<Found>,
    pub header: HeaderStyle,
    pub markdown: bool,
    pub personal: bool,
    /// All files have one name, each in a folder of its own.
    pub same_name: bool,
}

/// One file with its header.
pub(super) struct Found {
    pub path: RepoPath,
    pub anchor: RepoPath,
    pub header: Header,
}

/// Where a file stands, as a profile would say it.
struct Seen {
    path: RepoPath,
    /// The folder it is anchored at.
    anchor: RepoPath,
    /// From the anchor: `.zorp/notes`, or empty for a file of its own.
    folder: String,
    /// Below that folder.
    rest: String,
    ignored: bool,
}

/// Pages that every project has, which instruct nobody's assistant.
const PAGES: [&str; 52] = [
    "readme", "changelog", "changes", "license", "licence", "copying", "contributing", "contributors", "security",
    "code_of_conduct", "authors", "notice", "todo", "history", "news", "support", "governance", "maintainers",
    "install", "installation", "upgrading", "upgrade", "roadmap", "release", "releases", "releasing", "faq", "credits",
    "thanks", "architecture", "design", "testing", "development", "hacking", "building", "migration", "migrating",
    "glossary", "index", "style", "version", "versioning", "acknowledgements", "disclaimer", "patents", "trademark",
    "codeowners", "usage", "tutorial", "manual", "overview", "wanted",
];

pub(super) fn families(workspace: &Workspace<'_>, project: &Project, below: &[RepoPath]) -> Vec<Family> {
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
    let mut by_name: BTreeMap<String, Vec<Seen>> = BTreeMap::new();
    let mut skips: BTreeMap<String, FxHashSet<String>> = BTreeMap::new();
    for folder in project.index.folders().iter().filter(|folder| !is_ours(&folder.path)) {
        for item in folder.items().filter(|item| item.kind == EntryKind::File && !item.name.starts_with(".git")) {
            let path = folder.path.join(item.name);
            if claimed.contains(&path) || near.contains(&path) || !asked(&path) {
                continue;
            }
            if let Some(stem) = exclusion_stem(item.name) {
                skips.entry(stem).or_default().insert(item.name.to_owned());
            } else if let Some((name, seen)) = look(workspace, folder, item.name, path, item.ignored) {
                by_name.entry(name).or_default().push(seen);
            }
        }
    }
    let families = by_name.into_iter().map(|(name, seen)| {
        let exclusions = skips.get(&name).map(|names| names.iter().cloned().collect()).unwrap_or_default();
        family(workspace, name, seen, exclusions)
    });
    families.filter(|family| family.files() > 0).collect()
}

fn is_ours(folder: &RepoPath) -> bool {
    folder.components().next() == Some("guidance")
}

/// `.zorp-skip`, `.zorpignore`: the part that names the assistant.
fn exclusion_stem(name: &str) -> Option<String> {
    let rest = name.strip_prefix('.')?;
    let stem = ["-skip", "-ignore", "skip", "ignore", "-exclude", "-hide"]
        .into_iter()
        .find_map(|end| rest.strip_suffix(end))?;
    (!stem.is_empty()).then(|| kebab(stem))
}

/// What a file's place says of it; `None` where it does not look like an instruction file.
fn look(
    workspace: &Workspace<'_>,
    folder: &Folder,
    name: &str,
    path: RepoPath,
    ignored: bool,
) -> Option<(String, Seen)> {
    let parts: Vec<&str> = path.components().collect();
    let prose_ending = [".md", ".mdx", ".txt", ".markdown"].iter().any(|ending| name.to_lowercase().ends_with(ending));
    // A hidden folder of prose.
    if let Some(at) = parts[..parts.len() - 1].iter().position(|part| part.starts_with('.') && part.len() > 1) {
        let own_ending = name.rsplit_once('.').is_some_and(|(_, end)| end.len() <= 4 && parts[at].len() > 2);
        let text = prose_ending || own_ending && has_header(&read(workspace, &path));
        let family = kebab(parts[at]);
        let inside = &parts[at..parts.len() - 1];
        // Templates of forms are hidden prose too, but nobody's rules: they would not have patterns or reach.
        if !text || ignored && folder.apart || family.is_empty() {
            return None;
        }
        let depth = inside.len().min(2);
        let seen = Seen {
            anchor: RepoPath::new(&parts[..at].join("/"))?,
            folder: inside[..depth].join("/"),
            rest: parts[at + depth..].join("/"),
            path,
            ignored,
        };
        return Some((family, seen));
    }
    let (stem, ending) = name.rsplit_once('.').map_or((name, ""), |(stem, ending)| (stem, ending));
    let first = stem.split('.').next().unwrap_or_default();
    let shouted = first.len() >= 3 && first.chars().all(|c| c.is_ascii_uppercase() || matches!(c, '_' | '-'));
    let capitals = prose_ending && shouted && !PAGES.contains(&first.to_lowercase().as_str());
    let dot_prose = name.starts_with('.')
        && name.len() > 3
        && (ending.is_empty() || stem.is_empty() || prose_ending)
        && !["rc", "config", "attributes", "ignore", "lock", "version", "env"].iter().any(|end| name.ends_with(end))
        && is_prose(&read(workspace, &path).text);
    if !(capitals || dot_prose) || ignored && folder.apart {
        return None;
    }
    let family =
        kebab(if capitals { first } else { name.trim_start_matches('.').split('.').next().unwrap_or_default() });
    let family = ["-rules", "rules", "-notes", "notes"]
        .iter()
        .find_map(|end| family.strip_suffix(end))
        .filter(|stem| stem.len() >= 3)
        .map_or(family.clone(), |stem| stem.trim_end_matches('-').to_owned());
    let seen = Seen { anchor: path.folder(), folder: String::new(), rest: name.to_owned(), path, ignored };
    (!family.is_empty()).then_some((family, seen))
}

fn read(workspace: &Workspace<'_>, path: &RepoPath) -> Arc<Document> {
    workspace.document(&Location::root(path.clone()))
}

fn has_header(document: &Document) -> bool {
    style_of(&document.text).is_some()
}

fn style_of(text: &str) -> Option<HeaderStyle> {
    [HeaderStyle::Yaml, HeaderStyle::Toml].into_iter().find(|style| Header::read(text, *style).block.is_some())
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

fn kebab(name: &str) -> String {
    let lower = name.to_lowercase();
    let parts: Vec<&str> = lower.split(|c: char| !c.is_ascii_alphanumeric()).filter(|part| !part.is_empty()).collect();
    parts.join("-")
}

fn family(workspace: &Workspace<'_>, name: String, seen: Vec<Seen>, exclusions: Vec<String>) -> Family {
    let mut by_place: BTreeMap<(String, String), Vec<Seen>> = BTreeMap::new();
    for one in seen {
        let ending = one
            .rest
            .rsplit('/')
            .next()
            .and_then(|name| name.rsplit_once('.'))
            .map_or("", |(_, ending)| ending)
            .to_owned();
        let key = if one.folder.is_empty() { (String::new(), one.rest.clone()) } else { (one.folder.clone(), ending) };
        by_place.entry(key).or_default().push(one);
    }
    let mut groups: Vec<Group> = Vec::new();
    let mut followed = 0;
    for ((folder, last), seen) in by_place {
        let id = unique_id(&groups, if folder.is_empty() { &last } else { &folder }, &name);
        followed += seen.iter().map(|one| mentions_that_lead_somewhere(workspace, &one.path)).sum::<usize>();
        groups.push(group(workspace, id, &folder, &last, seen));
    }
    Family { name, groups, exclusions, mentions: followed }
}

fn unique_id(groups: &[Group], place: &str, family: &str) -> String {
    let last = place.rsplit('/').next().unwrap_or(place);
    let mut id = kebab(last.trim_end_matches(".md"));
    if id.is_empty() || id == family || ["user", "project", "folder"].contains(&id.as_str()) {
        id = if place.contains('/') || place.starts_with('.') { "files".to_owned() } else { "notes".to_owned() };
    }
    let taken = |id: &str| groups.iter().any(|group| group.id == id);
    let numbered = (2..).map(|number| format!("{id}-{number}"));
    std::iter::once(id.clone()).chain(numbered).find(|id| !taken(id)).unwrap_or(id)
}

fn group(workspace: &Workspace<'_>, id: String, folder: &str, last: &str, seen: Vec<Seen>) -> Group {
    let level = if seen.iter().all(|one| one.anchor.is_root()) { Level::Project } else { Level::Folder };
    let names: FxHashSet<&str> = seen.iter().filter_map(|one| one.rest.rsplit('/').next()).collect();
    let depths: FxHashSet<usize> = seen.iter().map(|one| one.rest.matches('/').count()).collect();
    let same_name = names.len() == 1 && depths.len() == 1 && depths.contains(&1);
    let ending = if last.is_empty() { String::new() } else { format!(".{last}") };
    let pattern = if folder.is_empty() {
        last.to_owned()
    } else if same_name {
        format!("{folder}/*/{}", names.iter().next().copied().unwrap_or_default())
    } else if depths.iter().all(|depth| *depth == 0) {
        format!("{folder}/*{ending}")
    } else {
        format!("{folder}/**/*{ending}")
    };
    let documents: Vec<Arc<Document>> = seen.iter().map(|one| read(workspace, &one.path)).collect();
    let count = |style: HeaderStyle| documents.iter().filter(|one| style_of(&one.text) == Some(style)).count();
    let (yaml, toml) = (count(HeaderStyle::Yaml), count(HeaderStyle::Toml));
    let header = match (yaml, toml) {
        (0, 0) => HeaderStyle::None,
        (yaml, toml) if yaml >= toml => HeaderStyle::Yaml,
        _ => HeaderStyle::Toml,
    };
    let personal = seen.iter().all(|one| one.ignored);
    let markdown = !pattern.ends_with(".txt");
    let files = seen
        .into_iter()
        .zip(&documents)
        .map(|(one, document)| Found {
            path: one.path,
            anchor: one.anchor,
            header: Header::read(&document.text, header),
        })
        .collect();
    Group { id, level, pattern, files, header, markdown, personal, same_name }
}

fn mentions_that_lead_somewhere(workspace: &Workspace<'_>, path: &RepoPath) -> usize {
    let at = Location::root(path.clone());
    let document = workspace.document(&at);
    let found = mentions(&document.text, 0, Format::Markdown, &[ReferenceSyntax::AtPath]);
    let leads = |target: &str| {
        resolve(workspace.tree(), &at, target, ReferenceBase::File)
            .is_some_and(|to| matches!(workspace.tree().look(&to), Look::File(_)))
    };
    found.iter().filter(|mention| leads(&mention.target)).count()
}
