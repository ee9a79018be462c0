//! The files of one assistant, put together as the places of a profile.
//!
//! A folder or an ending that is used once beside a like one that is used many times is a mistake, and no place: with the
//! profile that is drafted, a survey says so.

use super::candidates::{Candidate, Named, candidates, kebab};
use super::family::{Family, Found, Group, Perhaps};
use super::kind::{commands, has_reach, instructs, is_personal, kind_of};
use crate::base::repo_path::{Location, RepoPath, Side};
use crate::files::{EntryKind, Look};
use crate::header::{Header, HeaderStyle};
use crate::inspect::unclaimed::skeleton;
use crate::profile::{Format, Kind, Level, ReferenceBase, ReferenceSyntax};
use crate::project::references::{mentions, resolve};
use crate::project::workspace::{Project, Workspace};
use rayon::prelude::*;
use rustc_hash::FxHashSet;
use std::collections::BTreeMap;

/// Candidates of one folder and ending.
pub(super) struct Pile {
    /// From the anchor; empty for files of their own.
    folder: String,
    /// `.guide.md`, or the whole name of a file of its own.
    last: String,
    files: Vec<Candidate>,
}

pub(super) fn families(
    workspace: &Workspace<'_>,
    project: &Project,
    below: &[RepoPath],
) -> (Vec<Family>, Vec<Perhaps>) {
    let found = candidates(workspace, project, below);
    let mut families: Vec<Family> = found.into_par_iter().map(|(name, found)| family(workspace, name, found)).collect();
    let mut perhaps: Vec<Perhaps> =
        families.iter_mut().flat_map(|family| std::mem::take(&mut family.perhaps)).collect();
    perhaps.sort();
    families.retain(|family| family.files() > 0);
    (families, perhaps)
}

fn family(workspace: &Workspace<'_>, name: String, found: Named) -> Family {
    let shared_folder = found.shared_folder;
    let mut exclusions: Vec<String> = found.exclusions.into_iter().collect();
    exclusions.sort();
    let mut piles = piles(found.files);
    let misplaced = set_mistakes_apart(&mut piles);
    let name = if shared_folder { name_of_main_file(&piles).unwrap_or(name) } else { name };
    let mut mentions = 0;
    let mut groups: Vec<Group> = Vec::new();
    let paths_elsewhere =
        |own: &Pile| piles.iter().any(|other| !std::ptr::eq(own, other) && other.files.len() >= own.files.len());
    let elsewhere: Vec<bool> = piles.iter().map(paths_elsewhere).collect();
    for (pile, elsewhere) in piles.into_iter().zip(elsewhere) {
        let id = unique_id(&groups, if pile.folder.is_empty() { &pile.last } else { &pile.folder }, &name);
        mentions += pile.files.iter().map(|file| mentions_that_lead_somewhere(workspace, &file.path)).sum::<usize>();
        groups.push(group(id, pile, elsewhere));
    }
    let mut perhaps = leave_pages(&mut groups);
    let why = "it has no header, and an ending that no other file of this assistant has";
    perhaps.extend(found.left.into_iter().map(|path| Perhaps { path, why }));
    groups.extend(at_home(workspace, &groups, &name));
    Family { name, groups, misplaced, exclusions, mentions, perhaps }
}

/// Leaves out what nobody's assistant is told: texts that ask nothing, and a lone page with a name in capitals. What asks
/// something all the same is named.
fn leave_pages(groups: &mut Vec<Group>) -> Vec<Perhaps> {
    let of_an_assistant = |group: &Group| {
        let share = |holds: &(dyn Fn(&Found) -> bool + Sync)| {
            group.files.par_iter().filter(|file| holds(file)).count() * 2 > group.files.len()
        };
        group.kind != Kind::Rule || share(&|file| has_reach(file)) || share(&|file| instructs(file))
    };
    let asked: Vec<bool> = groups.iter().map(of_an_assistant).collect();
    let any_folder = groups.iter().zip(&asked).any(|(group, asked)| *asked && group.pattern.contains('/'));
    let several = |group: &Group| group.files.len() > 1 || group.personal;
    let sure = any_folder || groups.iter().any(|group| group.pattern.starts_with('.') || several(group));
    // Beside files that are surely an assistant's, one that tells what the project is belongs to them.
    let lone = |group: &Group| {
        group.files.iter().all(|file| instructs(file) && commands(file) && !file.path.path.name().contains(['_', '-']))
    };
    let mut asked = asked.into_iter();
    let mut stays = |group: &mut Group| {
        let own = !group.pattern.contains('/');
        asked.next().unwrap_or_default() && (sure || !own || lone(group)) || own && any_folder
    };
    let mut perhaps = Vec::new();
    for group in groups.extract_if(.., |group| !stays(group)) {
        let asks = group.files.iter().filter(|file| commands(file) || instructs(file));
        let why = if group.pattern.contains('/') {
            "most files beside it ask nothing of their reader"
        } else {
            "it asks something, and stands alone as a page would"
        };
        perhaps.extend(asks.map(|file| Perhaps { path: file.path.path.clone(), why }));
    }
    perhaps
}

/// Puts the files of one folder and ending together.
fn piles(files: Vec<Candidate>) -> Vec<Pile> {
    let compound = compound_endings(&files);
    let mut by_place: BTreeMap<(String, String), Vec<Candidate>> = BTreeMap::new();
    for file in files {
        let name = file.rest.rsplit('/').next().unwrap_or_default();
        let last = match (file.folder.is_empty(), compound.get(&file.folder)) {
            (true, _) => file.rest.clone(),
            (false, Some(ending)) if name.ends_with(ending.as_str()) => ending.clone(),
            // A file straight in the hidden folder stands for itself.
            (false, _) if !file.folder.contains('/') => name.to_owned(),
            (false, _) => name.rsplit_once('.').map_or(String::new(), |(_, ending)| format!(".{ending}")),
        };
        by_place.entry((file.folder.clone(), last)).or_default().push(file);
    }
    let mut piles: Vec<Pile> =
        by_place.into_iter().map(|((folder, last), files)| Pile { folder, last, files }).collect();
    gather_single_names(&mut piles);
    piles.iter_mut().for_each(leave_main_files);
    piles
}

/// Where each folder below has a file of one name, that is the main file, and what stands beside it is its own matter.
fn leave_main_files(pile: &mut Pile) {
    let below = |file: &Candidate| file.rest.split_once('/').map(|(folder, rest)| (folder.to_owned(), rest.to_owned()));
    let mut by_folder: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for (folder, rest) in pile.files.iter().filter_map(below) {
        by_folder.entry(folder).or_default().push(rest);
    }
    let shouted = |name: &str| !name.split('.').next().unwrap_or_default().chars().any(char::is_lowercase);
    let in_all = |name: &&String| {
        !name.contains('/')
            && by_folder.values().all(|names| names.contains(name))
            && (by_folder.len() > 1 || shouted(name))
    };
    let all_below = pile.files.iter().all(|file| file.rest.contains('/'));
    let Some(main) = by_folder.values().flatten().find(in_all).filter(|_| all_below).cloned() else { return };
    pile.files.retain(|file| below(file).is_some_and(|(_, rest)| rest == main));
}

/// Several files straight in a hidden folder that end alike are notes, not each a place of its own.
fn gather_single_names(piles: &mut Vec<Pile>) {
    let straight = |pile: &Pile| !pile.folder.is_empty() && !pile.folder.contains('/');
    let ending = |pile: &Pile| pile.last.rsplit_once('.').map(|(_, ending)| format!(".{ending}"));
    let mut counts: BTreeMap<(String, Option<String>), usize> = BTreeMap::new();
    for pile in piles.iter().filter(|pile| straight(pile)) {
        *counts.entry((pile.folder.clone(), ending(pile))).or_default() += 1;
    }
    let mut kept: Vec<Pile> = Vec::new();
    for mut pile in std::mem::take(piles) {
        let last = ending(&pile);
        if straight(&pile)
            && let Some(last) = last.clone()
            && counts[&(pile.folder.clone(), Some(last.clone()))] > 1
        {
            pile.last = last;
            if let Some(same) = kept.iter_mut().find(|other| other.folder == pile.folder && other.last == pile.last) {
                same.files.extend(pile.files);
                continue;
            }
        }
        kept.push(pile);
    }
    *piles = kept;
}

/// Of each folder the ending in two parts, `.guide.md`, that most of its files have.
fn compound_endings(files: &[Candidate]) -> BTreeMap<String, String> {
    let mut by_folder: BTreeMap<&str, (usize, BTreeMap<String, usize>)> = BTreeMap::new();
    for file in files.iter().filter(|file| file.folder.contains('/')) {
        let (all, endings) = by_folder.entry(&file.folder).or_default();
        *all += 1;
        let name = file.rest.rsplit('/').next().unwrap_or_default();
        let parts: Vec<&str> = name.split('.').collect();
        if let [first, .., kind, last] = parts[..]
            && !first.is_empty()
        {
            *endings.entry(format!(".{kind}.{last}")).or_default() += 1;
        }
    }
    let most = |(folder, (all, endings)): (&str, (usize, BTreeMap<String, usize>))| {
        let (ending, count) = endings.into_iter().max_by_key(|(_, count)| *count)?;
        (count * 2 > all).then(|| (folder.to_owned(), ending))
    };
    by_folder.into_iter().filter_map(most).collect()
}

/// Takes out what stands in a folder, or has an ending, that is nearly that of many more.
fn set_mistakes_apart(piles: &mut Vec<Pile>) -> Vec<RepoPath> {
    let sizes: Vec<(String, String, usize)> =
        piles.iter().map(|pile| (pile.folder.clone(), pile.last.clone(), pile.files.len())).collect();
    let is_mistake = |pile: &Pile| {
        sizes.iter().any(|(folder, last, size)| {
            let rare = pile.files.len() * 3 <= *size && pile.files.len() <= 3;
            let near_folder = pile.folder != *folder && alike(&pile.folder, folder);
            let near = near_folder && alike(&pile.last, last)
                || pile.folder == *folder && pile.last != *last && folder.contains('/');
            rare && near && !pile.folder.is_empty()
        })
    };
    let (wrong, right): (Vec<Pile>, Vec<Pile>) = std::mem::take(piles).into_iter().partition(is_mistake);
    *piles = right;
    wrong.into_iter().flat_map(|pile| pile.files).map(|file| file.path).collect()
}

/// What two paths or endings have in common, part by part, that differ in case, hyphens, a plural.
fn alike(one: &str, other: &str) -> bool {
    let parts = |text: &str| text.split(['/', '.']).map(skeleton).collect::<Vec<_>>();
    parts(one) == parts(other)
}

/// In a folder that is there for other things too, the main file names the assistant: `zorp-guide.md` beside
/// `guides/*.guide.md`.
fn name_of_main_file(piles: &[Pile]) -> Option<String> {
    let mains =
        piles.iter().filter(|pile| !pile.folder.is_empty() && !pile.folder.contains('/') && pile.files.len() == 1);
    mains.into_iter().find_map(|main| {
        let others = piles.iter().filter(|other| !std::ptr::eq(*other, main));
        let known: FxHashSet<String> = others
            .flat_map(|other| [&other.folder, &other.last])
            .flat_map(|text| text.split(['/', '.', '-']))
            .map(skeleton)
            .collect();
        let stem = main.last.split('.').next().unwrap_or_default();
        let parts: Vec<&str> = stem.split(['-', '_']).filter(|part| !part.is_empty()).collect();
        let own: Vec<&str> = parts.iter().copied().filter(|part| !known.contains(&skeleton(part))).collect();
        (parts.len() > own.len() && !own.is_empty()).then(|| kebab(&own.join("-")))
    })
}

fn unique_id(groups: &[Group], place: &str, family: &str) -> String {
    let last = place.rsplit('/').next().unwrap_or(place);
    let stem = last.strip_prefix('.').unwrap_or(last);
    let stem = stem.rsplit_once('.').map_or(stem, |(stem, _)| stem);
    let mut id = kebab(stem);
    id = id.strip_prefix(&format!("{family}-")).map(str::to_owned).unwrap_or(id);
    if id.is_empty() || id == family || ["user", "project", "folder"].contains(&id.as_str()) {
        id = if place.contains('/') || place.starts_with('.') { "files".to_owned() } else { "notes".to_owned() };
    }
    let taken = |id: &str| groups.iter().any(|group| group.id == id);
    let numbered = (2..).map(|number| format!("{id}-{number}"));
    std::iter::once(id.clone()).chain(numbered).find(|id| !taken(id)).unwrap_or(id)
}

fn group(id: String, pile: Pile, elsewhere: bool) -> Group {
    let Pile { folder, last, files } = pile;
    let level = if files.iter().all(|file| file.anchor.is_root()) { Level::Project } else { Level::Folder };
    let names: FxHashSet<&str> = files.iter().filter_map(|file| file.rest.rsplit('/').next()).collect();
    let depths: FxHashSet<usize> = files.iter().map(|file| file.rest.matches('/').count()).collect();
    let same_name = names.len() == 1 && depths.len() == 1 && depths.contains(&1);
    let pattern = if folder.is_empty() {
        last.clone()
    } else if same_name {
        format!("{folder}/*/{}", names.iter().next().copied().unwrap_or_default())
    } else if !last.starts_with('.') {
        format!("{folder}/{last}")
    } else if depths.iter().all(|depth| *depth == 0) {
        format!("{folder}/*{last}")
    } else {
        format!("{folder}/**/*{last}")
    };
    // A file of its own may stand in any folder: the next one will.
    let level = if folder.is_empty() && !pattern.starts_with('.') { Level::Folder } else { level };
    let styles: Vec<HeaderStyle> =
        files.iter().filter_map(|file| Some(Header::found(&file.document.text)?.0)).collect();
    let count = |style: HeaderStyle| styles.iter().filter(|own| **own == style).count();
    let (yaml, toml) = (count(HeaderStyle::Yaml), count(HeaderStyle::Toml));
    let header = match (yaml, toml) {
        (0, 0) => HeaderStyle::None,
        (yaml, toml) if yaml >= toml => HeaderStyle::Yaml,
        _ => HeaderStyle::Toml,
    };
    let personal = files.iter().all(|file| file.ignored || is_personal(&file.rest));
    let markdown = !pattern.ends_with(".txt");
    let found: Vec<Found> = files
        .into_iter()
        .map(|file| Found {
            header: Header::read(&file.document.text, header),
            path: Location::root(file.path),
            anchor: file.anchor,
            document: file.document,
        })
        .collect();
    let (kind, kind_evidence) = kind_of(&found, same_name, !folder.is_empty() && elsewhere);
    Group { id, level, pattern, files: found, header, kind, kind_evidence, markdown, personal }
}

/// The same files in the home folder: one that is alone, or notes in the same folder.
fn at_home(workspace: &Workspace<'_>, groups: &[Group], name: &str) -> Option<Group> {
    let tree = workspace.tree();
    let home = |path: &str| RepoPath::new(path).map(Location::home);
    let is_file = |at: &Location| matches!(tree.look(at), Look::File(_));
    let alone = groups.iter().filter(|group| group.pattern.split('/').count() == 1 && !group.personal);
    let names =
        alone.flat_map(|group| [format!(".{name}/{}", group.pattern.trim_start_matches('.')), group.pattern.clone()]);
    let mut file =
        names.filter(|path| path.contains('/') || path.starts_with('.')).filter_map(|path| home(&path)).find(is_file);
    let mut pattern = file.as_ref().map(|file| file.path.to_string());
    if file.is_none() {
        let noted = groups.iter().filter(|group| group.pattern.contains("/*") && group.kind == Kind::Rule);
        for group in noted {
            let (folder, ending) = group.pattern.split_once("/*")?;
            let folder = home(folder)?;
            let entries = tree.list(&folder).unwrap_or_default();
            let first = entries.into_iter().find(|entry| entry.kind == EntryKind::File && entry.name.ends_with(ending));
            if let Some(entry) = first {
                (file, pattern) = (Some(folder.join(&entry.name)), Some(group.pattern.clone()));
                break;
            }
        }
    }
    let (file, pattern) = (file?, pattern?);
    let model = groups.iter().find(|group| group.pattern == pattern);
    let header = model.map_or(HeaderStyle::None, |group| group.header);
    let document = workspace.document(&file);
    let found = Found { header: Header::read(&document.text, header), path: file, anchor: RepoPath::root(), document };
    Some(Group {
        id: "home".to_owned(),
        level: Level::User,
        markdown: !pattern.ends_with(".txt"),
        pattern,
        files: vec![found],
        header,
        kind: Kind::Rule,
        kind_evidence: None,
        personal: false,
    })
}

fn mentions_that_lead_somewhere(workspace: &Workspace<'_>, path: &RepoPath) -> usize {
    let at = Location { side: Side::Root, path: path.clone() };
    let document = workspace.document(&at);
    let found = mentions(&document.text, 0, Format::Markdown, &[ReferenceSyntax::AtPath]);
    let leads = |target: &str| {
        resolve(workspace.tree(), &at, target, ReferenceBase::File)
            .is_some_and(|to| matches!(workspace.tree().look(&to), Look::File(_)))
    };
    found.iter().filter(|mention| leads(&mention.target)).count()
}
