//! Absorbing: taking a hand edit in a published file back into the rules that it came from.
//!
//! What was published, what the guidance says now, and what stands in the file are merged line by line. The
//! merged text is held against what would be published now; each change belongs to the rule whose text it
//! touches. Keys of a header are absorbed where they say the same in the guidance. What belongs to no rule (the
//! remark at the top, the headings that say what a section applies to) and what was changed on both sides is
//! left for the person, and then nothing of that file is absorbed.
//!
//! Merging: <https://docs.rs/diffy>, the algorithm of diff3.

use crate::adopt;
use crate::discover::Candidate;
use crate::guidance::{RuleHeader, write_header};
use crate::header::{Header, HeaderStyle};
use crate::lock::hash;
use crate::profile::{Profile, Reach};
use crate::publish::compose::{Segment, higher_by};
use crate::publish::source::Source;
use crate::publish::{Content, Plan, Planned, PublishError, plan};
use crate::repo_path::{Location, RepoPath};
use crate::rule::{Document, Rule};
use crate::tree::{MemoryTree, Overlay, Tree};
use crate::workspace::{Workspace, WorkspaceError};
use similar::{DiffOp, TextDiff};
use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::Arc;

/// A rule as it will be.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Rewritten {
    /// Its file.
    pub path: RepoPath,
    /// What stands there.
    pub old: String,
    /// What will.
    pub new: String,
}

/// Why an edit can't be taken back.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Conflict {
    /// The published file.
    pub file: RepoPath,
    /// The line of it, from 1, where there is one.
    pub line: Option<usize>,
    /// What is in the way.
    pub message: String,
    /// What to do.
    pub help: String,
    /// The lines in question: what the guidance says, and what the file says.
    pub sides: Option<(String, String)>,
}

/// What absorbing would do.
#[derive(Clone, Debug, Default)]
pub struct Absorbed {
    /// The rules, by path.
    pub rules: Vec<Rewritten>,
    /// The files whose edits are in them, with the hash of what they hold.
    pub files: Vec<(RepoPath, String)>,
    /// What is left for the person; of these files nothing is absorbed.
    pub conflicts: Vec<Conflict>,
    /// Files that nobody edited.
    pub untouched: Vec<RepoPath>,
}

/// Why nothing can be absorbed.
#[derive(thiserror::Error, Debug)]
pub enum AbsorbError {
    /// The project can't be worked on.
    #[error(transparent)]
    Workspace(#[from] WorkspaceError),
    /// A rule's header is wrong.
    #[error(transparent)]
    Publish(#[from] PublishError),
    /// The file was never published.
    #[error("{0} was not published, so there is no rule to take it back into")]
    NotPublished(RepoPath),
}

impl From<crate::tree::TreeError> for AbsorbError {
    fn from(error: crate::tree::TreeError) -> Self {
        AbsorbError::Workspace(error.into())
    }
}

/// Finds older texts by their hash: of a path, the text with that hash, where somebody has it.
pub type Archive<'a> = dyn Fn(&RepoPath, &str) -> Option<String> + 'a;

/// Takes the edits of some published files back; of all that are edited, where none is named.
///
/// # Errors
/// A file was never published, or the project can't be worked on.
pub fn absorb(
    tree: &dyn Tree,
    user_profiles: &[(String, String)],
    assistants: &[String],
    files: &[RepoPath],
    archive: &Archive<'_>,
) -> Result<Absorbed, AbsorbError> {
    let workspace = Workspace::open(tree, user_profiles)?;
    let lock = workspace.lock()?;
    for file in files {
        if !lock.file.iter().any(|known| known.path == file.as_str()) {
            return Err(AbsorbError::NotPublished(file.clone()));
        }
    }
    let before = planned(&workspace, assistants)?;
    let mut absorbed = Absorbed::default();
    let mut rules: BTreeMap<RepoPath, (String, String)> = BTreeMap::new();
    let asked = |path: &RepoPath| files.is_empty() || files.contains(path);
    for known in &lock.file {
        let Some(path) = RepoPath::new(&known.path).filter(|path| asked(path)) else { continue };
        let at = Location::root(path.clone());
        let mut conflict = |line, message: &str, help: &str, sides| {
            let (message, help) = (message.to_owned(), help.to_owned());
            absorbed.conflicts.push(Conflict { file: path.clone(), line, message, help, sides });
        };
        if tree.link_target(&at).is_some() || known.hash.starts_with("link:") {
            if files.contains(&path) {
                conflict(None, "it is, or was published as, a link", "absorb the file that it leads to", None);
            }
            continue;
        }
        let Ok(bytes) = tree.read(&at) else {
            if files.contains(&path) {
                conflict(None, "it is not there any more", "`signpost publish` writes it anew", None);
            }
            continue;
        };
        if known.hash == hash(&bytes) || known.was.as_deref() == Some(&hash(&bytes)) {
            absorbed.untouched.push(path);
            continue;
        }
        let Ok(edited) = String::from_utf8(bytes.clone()) else {
            conflict(None, "it is not UTF-8", "save it as UTF-8", None);
            continue;
        };
        // What the rules say with the edits of the files before this one.
        let mut overlay = Overlay::new(tree);
        rules.iter().for_each(|(path, (_, new))| overlay.write(path.clone(), new.as_bytes()));
        let now_workspace = Workspace::open(&overlay, user_profiles)?;
        let now = planned(&now_workspace, assistants)?;
        let (Some((ours, now_file)), was) = (text_of(&now, &path), text_of(&before, &path)) else {
            let help = "`signpost adopt` brings what it says into the guidance anew";
            conflict(None, "the rules that it was published from are gone", help, None);
            continue;
        };
        if edited == ours {
            absorbed.files.push((path, hash(&bytes)));
            continue;
        }
        let base = match was {
            Some((text, _)) if known.hash == hash(text.as_bytes()) => Some(text.to_owned()),
            _ => archive(&path, &known.hash),
        };
        let Some(base) = base else {
            let help = "`signpost publish --dry-run` shows both; carry the edit over by hand, then `signpost publish --overwrite`";
            conflict(
                None,
                "its rules were changed too, and what was published before is not in git's history",
                help,
                None,
            );
            continue;
        };
        let ending = if edited.contains("\r\n") { edited.replace("\r\n", "\n") } else { edited.clone() };
        let merged = if base == ours { Ok(ending) } else { diffy::merge(&base, ours, &ending) };
        let merged = match merged {
            Ok(merged) => merged,
            Err(marked) => {
                for (line, sides) in conflicts_in(&marked) {
                    let help = "write in the rule what both mean, then `signpost publish --overwrite` the file";
                    conflict(Some(line), "changed here and in its rule, in different ways", help, Some(sides));
                }
                continue;
            }
        };
        match rewritten(&now_workspace, &now, now_file, ours, &merged) {
            Ok(new) => {
                for (rule, old, new) in new {
                    rules.entry(rule).and_modify(|(_, known)| known.clone_from(&new)).or_insert((old, new));
                }
                absorbed.files.push((path, hash(&bytes)));
            }
            Err((line, message, help)) => conflict(line, &message, &help, None),
        }
    }
    absorbed.rules = rules.into_iter().map(|(path, (old, new))| Rewritten { path, old, new }).collect();
    Ok(absorbed)
}

fn planned(workspace: &Workspace<'_>, assistants: &[String]) -> Result<Plan, AbsorbError> {
    let project = workspace.project()?;
    let lock = workspace.lock()?;
    let profiles = crate::publish::profiles(workspace, &project, assistants, &lock)?;
    Ok(plan(workspace, &project, &profiles)?)
}

fn text_of<'p>(plan: &'p Plan, path: &RepoPath) -> Option<(&'p str, &'p Planned)> {
    let file = plan.files.iter().find(|file| file.path == *path)?;
    match &file.content {
        Content::Text(text) => Some((text, file)),
        Content::Link(_) => None,
    }
}

type Refused = (Option<usize>, String, String);

/// The rules of a file as the merged text says, each with what it was.
fn rewritten(
    workspace: &Workspace<'_>,
    plan: &Plan,
    file: &Planned,
    ours: &str,
    merged: &str,
) -> Result<Vec<(RepoPath, String, String)>, Refused> {
    let profile = workspace.profiles.iter().find(|profile| profile.name == file.assistants[0]);
    let profile = profile.ok_or_else(|| (None, "its assistant has no profile any more".to_owned(), String::new()))?;
    let finder = crate::discover::Finder::new(workspace.tree(), None);
    let found = finder.owner(profile, &Location::root(file.path.clone()));
    let found = found.ok_or_else(|| (None, "its assistant does not read it any more".to_owned(), String::new()))?;
    let style = profile.places[found.place].header;
    let header = edited_header(plan, file, profile, &found, ours, merged)?;
    let bodies = segments(file, ours, merged, style)?;
    let mut new = Vec::new();
    for (number, segment) in file.segments.iter().enumerate() {
        let Some(source) = plan.sources.iter().find(|source| source.path == segment.source) else { continue };
        let document = &source.rule.document;
        let (head, _) = document.text.split_at(source.rule.header.body);
        let head = match &header {
            Some(header) => rewrite_header(head, source, header),
            None => head.to_owned(),
        };
        let body = higher_by(bodies[number].trim_matches(['\n', ' ', '\t', '\r']), segment.deeper);
        if body.trim().is_empty() {
            let line = ours[..segment.span.start].lines().count() + 1;
            let message = format!("all of {} was taken out", source.path);
            return Err((Some(line), message, format!("delete {} if that is meant, then publish", source.path)));
        }
        let body = if body == source.body {
            document.text[source.rule.header.body..].to_owned()
        } else {
            laid_out(document, source, &body)
        };
        let text = format!("{head}{body}");
        if text != document.text {
            new.push((source.path.clone(), document.text.clone(), text));
        }
    }
    Ok(new)
}

/// The new text with the blank lines and line ends that stood around the old one.
fn laid_out(document: &Document, source: &Source, body: &str) -> String {
    let old = &document.text[source.rule.header.body..];
    let before = &old[..old.len() - old.trim_start_matches(['\n', '\r']).len()];
    let body = if document.text.contains("\r\n") { body.replace('\n', "\r\n") } else { body.to_owned() };
    let end = if document.text.contains("\r\n") { "\r\n" } else { "\n" };
    format!("{before}{body}{end}")
}

/// What each segment says in the merged text.
fn segments(file: &Planned, ours: &str, merged: &str, style: HeaderStyle) -> Result<Vec<String>, Refused> {
    // Keys are looked at elsewhere.
    let (start, new_start) = (Header::read(ours, style).body, Header::read(merged, style).body);
    let above = ours[..start].lines().count();
    let (ours, merged) = (&ours[start..], &merged[new_start..]);
    let starts: Vec<usize> = line_starts(ours);
    let line_at = |byte: usize| starts.partition_point(|start| *start <= byte) - 1;
    // The lines of each segment, the last one included.
    let lines: Vec<Range<usize>> = file
        .segments
        .iter()
        .map(|Segment { span, .. }| span.start - start..span.end - start)
        .map(|span| line_at(span.start)..line_at(span.end.saturating_sub(1).max(span.start)) + 1)
        .collect();
    let new_lines: Vec<&str> = merged.split_inclusive('\n').collect();
    let mut bodies: Vec<String> = vec![String::new(); lines.len()];
    let diff = TextDiff::from_lines(ours, merged);
    let old_lines: Vec<&str> = ours.split_inclusive('\n').collect();
    // Where something between the segments was changed: nobody's, unless it is blank.
    let nobody = |line: usize, words: &str| -> Refused {
        let message = format!("“{}” belongs to no rule, and was changed", crate::text::shorten(words, 60));
        (Some(above + line + 1), message, "what a section applies to is said in the header of its rule".to_owned())
    };
    for op in diff.ops() {
        match *op {
            DiffOp::Equal { old_index, len, .. } => {
                for (line, words) in old_lines.iter().enumerate().skip(old_index).take(len) {
                    if let Some(number) = lines.iter().position(|range| range.contains(&line)) {
                        bodies[number] += words;
                    }
                }
            }
            DiffOp::Delete { old_index, old_len, .. } => {
                if let Some(line) =
                    outside(&lines, old_index..old_index + old_len).find(|line| !old_lines[*line].trim().is_empty())
                {
                    return Err(nobody(line, old_lines[line]));
                }
            }
            DiffOp::Insert { old_index, new_index, new_len } => {
                let added: String = new_lines[new_index..new_index + new_len].concat();
                match owner(&lines, old_index, &added) {
                    Some(number) => push(&mut bodies[number], &added, old_index >= lines[number].end),
                    None if added.trim().is_empty() => {}
                    None => return Err(nobody(old_index, &added)),
                }
            }
            DiffOp::Replace { old_index, old_len, new_index, new_len } => {
                let added: String = new_lines[new_index..new_index + new_len].concat();
                let touched: Vec<usize> = (0..lines.len())
                    .filter(|number| lines[*number].start < old_index + old_len && old_index < lines[*number].end)
                    .collect();
                let foreign =
                    outside(&lines, old_index..old_index + old_len).find(|line| !old_lines[*line].trim().is_empty());
                match (&touched[..], foreign) {
                    ([one], None) => push(&mut bodies[*one], &added, false),
                    (_, Some(line)) => return Err(nobody(line, old_lines[line])),
                    (_, None) if added.trim().is_empty() => {}
                    ([], None) => match owner(&lines, old_index, &added) {
                        Some(number) => push(&mut bodies[number], &added, old_index >= lines[number].end),
                        None => return Err(nobody(old_index, &added)),
                    },
                    _ => {
                        let message = "one change goes over the texts of several rules".to_owned();
                        return Err((
                            Some(above + old_index + 1),
                            message,
                            "change one rule after the other".to_owned(),
                        ));
                    }
                }
            }
        }
    }
    Ok(bodies)
}

/// Adds lines; below the last one they stand apart only where an empty line says so.
fn push(body: &mut String, added: &str, below: bool) {
    if below && !body.is_empty() && !body.ends_with('\n') {
        body.push('\n');
    }
    *body += added;
}

/// The lines that are in no segment.
fn outside(lines: &[Range<usize>], asked: Range<usize>) -> impl Iterator<Item = usize> {
    asked.filter(move |line| !lines.iter().any(|range| range.contains(line)))
}

/// The segment that lines inserted before a line belong to: the one around it, else the one that ends last before.
fn owner(lines: &[Range<usize>], at: usize, added: &str) -> Option<usize> {
    if let Some(inside) = lines.iter().position(|range| range.start < at && at < range.end) {
        return Some(inside);
    }
    // A new first line of a text, or words after the last one.
    let begins = lines.iter().position(|range| range.start == at);
    let before = (0..lines.len()).filter(|number| lines[*number].end <= at).max_by_key(|number| lines[*number].end);
    if added.trim_start_matches('\n').starts_with('#') { before.or(begins) } else { begins.or(before) }
}

fn line_starts(text: &str) -> Vec<usize> {
    std::iter::once(0).chain(text.match_indices('\n').map(|(at, _)| at + 1)).collect()
}

/// The conflicts of a marked-up merge: the line in the guidance's version, and both sides.
fn conflicts_in(marked: &str) -> Vec<(usize, (String, String))> {
    let mut found = Vec::new();
    let mut line = 0;
    let (mut ours, mut theirs) = (String::new(), String::new());
    let mut side = 0;
    for text in marked.split_inclusive('\n') {
        match (side, text) {
            (0, text) if text.starts_with("<<<<<<<") => (side, ours, theirs) = (1, String::new(), String::new()),
            (1, text) if text.starts_with("|||||||") => side = 2,
            (1 | 2, text) if text.starts_with("=======") => side = 3,
            (3, text) if text.starts_with(">>>>>>>") => {
                found.push((line + 1, (ours.clone(), theirs.clone())));
                line += theirs.lines().count();
                side = 0;
            }
            (1, text) => ours += text,
            (2, _) => {}
            (3, text) => theirs += text,
            _ => line += 1,
        }
    }
    found
}

/// What an edited header says, in the guidance's words; nothing where it was not edited.
struct EditedHeader {
    summary: Option<String>,
    /// The patterns before and after, where they differ.
    paths: Option<(Vec<String>, Vec<String>)>,
    except: Option<(Vec<String>, Vec<String>)>,
    reach: Option<Reach>,
}

fn edited_header(
    plan: &Plan,
    file: &Planned,
    profile: &Profile,
    found: &Candidate,
    ours: &str,
    merged: &str,
) -> Result<Option<EditedHeader>, Refused> {
    let location = Location::root(file.path.clone());
    let style = profile.places[found.place].header;
    let keys = |text: &str| {
        let header = Header::read(text, style);
        header.keys.iter().map(|key| (key.name.clone(), text[key.value_span.clone()].to_owned())).collect::<Vec<_>>()
    };
    let broken = Header::read(merged, style).problems.into_iter().next();
    if keys(ours) == keys(merged) && broken.is_none() {
        return Ok(None);
    }
    let line = Some(2);
    let refuse =
        |message: String| -> Refused { (line, message, format!("edit the header of {} instead", file.sources[0])) };
    if let Some(problem) = broken {
        return Err(refuse(format!("its header is broken: {}", problem.message)));
    }
    let [only] = &file.sources[..] else {
        return Err(refuse("the header of a file made from several rules was changed".to_owned()));
    };
    let read = |text: &str| {
        let tree = MemoryTree::new().with(file.path.as_str(), text);
        let document = Arc::new(Document::read(&tree, &location, crate::weight::estimate));
        Rule::read(profile, found.clone(), document)
    };
    let (old, new) = (read(ours), read(merged));
    let place = &profile.places[found.place];
    let known = place.known_keys();
    if let Some(key) = new.header.keys.iter().find(|key| !known.contains(&key.name.as_str())) {
        return Err(refuse(format!("the guidance has nothing for the key `{}`", key.name)));
    }
    let source = plan.sources.iter().find(|source| source.path == *only);
    let base = source.map(|source| source.base.clone()).unwrap_or_default();
    let from_root = place.base == crate::profile::Base::Root || found.anchor.path != base;
    let patterns = |rule: &Rule| adopt::patterns_from(rule, &base, from_root, &place.dialect).map_err(&refuse);
    let ((old_paths, old_except), (new_paths, new_except)) = (patterns(&old)?, patterns(&new)?);
    if new.reach == Reach::Scoped && new_paths.is_empty() {
        return Err(refuse("its patterns take nothing any more".to_owned()));
    }
    Ok(Some(EditedHeader {
        summary: new.summary.clone().filter(|_| new.summary != old.summary),
        paths: (old_paths != new_paths).then_some((old_paths, new_paths)),
        except: (old_except != new_except).then_some((old_except, new_except)),
        reach: (old.reach != new.reach).then_some(new.reach),
    }))
}

/// A rule's header with what was edited.
fn rewrite_header(head: &str, source: &Source, edited: &EditedHeader) -> String {
    let (paths, except) = source.patterns();
    let owned = |list: Vec<&str>| list.into_iter().map(str::to_owned).collect::<Vec<_>>();
    // What was there stays as the rule writes it, in its place; what is new comes after.
    let changed = |own: Vec<String>, change: &Option<(Vec<String>, Vec<String>)>| match change {
        None => own,
        Some((old, new)) => {
            let gone: Vec<&String> = old.iter().filter(|one| !new.contains(one)).collect();
            let mut list: Vec<String> = own.iter().filter(|one| !gone.contains(one)).cloned().collect();
            let kept_all = list.len() + gone.len() == own.len();
            if !kept_all {
                return new.clone();
            }
            list.extend(new.iter().filter(|one| !old.contains(one)).cloned());
            list
        }
    };
    let paths = changed(owned(paths), &edited.paths);
    let except = changed(owned(except), &edited.except);
    let assumed = if paths.is_empty() { Reach::Standing } else { Reach::Scoped };
    let reach = edited.reach.unwrap_or(source.reach);
    let header = RuleHeader {
        summary: edited.summary.clone().or_else(|| source.rule.summary.clone()),
        paths: if reach == Reach::Standing && edited.reach.is_some() { Vec::new() } else { paths },
        except: if reach == Reach::Standing && edited.reach.is_some() { Vec::new() } else { except },
        reach: (reach != assumed).then_some(reach),
        ..RuleHeader::default()
    };
    write_header(head, &header)
}
