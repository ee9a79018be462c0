//! Absorbing: taking a hand edit in a published file back into the rules that it came from.
//!
//! What was published, what the guidance says now, and what stands in the file are merged line by line. The
//! merged text is held against what would be published now; each change belongs to the rule whose text it
//! touches. Keys of a header are absorbed where they say the same in the guidance. What belongs to no rule (the
//! remark at the top, the headings that say what a section applies to) and what was changed on both sides is
//! left for the person, and then nothing of that file is absorbed.
//!
//! Lines are compared without their ends, and lines that nobody touched stay in the rule byte for byte.

mod header;
mod merge;
mod sections;

use crate::base::repo_path::{Location, RepoPath};
use crate::change::publish::changes::{link_mark, link_target};
use crate::change::publish::source::Source;
use crate::change::publish::{Content, Plan, Planned, PublishError, plan};
use crate::header::Header;
use crate::project::discovery::Finder;
use crate::project::lock::{Lock, LockedFile, hash, without_carriage_returns};
use crate::project::workspace::{Workspace, WorkspaceError};
use header::{edited_header, rewrite_header};
use merge::merge;
use sections::Line;
use std::collections::BTreeMap;

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

impl From<crate::files::TreeError> for AbsorbError {
    fn from(error: crate::files::TreeError) -> Self {
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
    workspace: &Workspace<'_>,
    assistants: &[String],
    files: &[RepoPath],
    archive: &Archive<'_>,
) -> Result<Absorbed, AbsorbError> {
    let lock = workspace.lock()?;
    for file in files {
        if lock.of(file).is_none() {
            return Err(AbsorbError::NotPublished(file.clone()));
        }
    }
    let project = workspace.project()?;
    let profiles = crate::change::publish::profiles(workspace, &project, assistants, &lock)?;
    let plan = plan(workspace, &project, &profiles)?;
    let names: Vec<&str> = profiles.iter().map(|profile| profile.name.as_str()).collect();
    let reader = Reader { workspace, lock: &lock, plan: &plan, archive };
    let mut absorbed = Absorbed::default();
    let mut edits: BTreeMap<RepoPath, Edit> = BTreeMap::new();
    for known in &lock.file {
        let path = known.path.clone();
        let asked = files.contains(&path);
        // Nothing is said of the files of assistants that were not asked about.
        let theirs = known.assistants.iter().any(|name| names.contains(&name.as_str())) || known.assistants.is_empty();
        if !asked && (!files.is_empty() || !theirs) {
            continue;
        }
        match reader.edited(known, &path, asked).and_then(|edited| match edited {
            Edited::Not => Ok(None),
            Edited::Already(bytes) => Ok(Some((bytes, Vec::new()))),
            Edited::Rules(bytes, rules) => {
                let together = rules.into_iter().map(|(rule, edit)| reader.combined(&edits, rule, edit));
                Ok(Some((bytes, together.collect::<Result<Vec<_>, _>>()?)))
            }
        }) {
            Ok(Some((hash, rules))) => {
                edits.extend(rules);
                absorbed.files.push((path, hash));
            }
            Ok(None) => absorbed.untouched.push(path),
            Err(refused) => absorbed.conflicts.extend(refused.into_iter().map(|refused| Conflict {
                file: path.clone(),
                line: refused.line,
                message: refused.message,
                help: refused.help,
                sides: refused.sides,
            })),
        }
    }
    for (path, edit) in edits {
        let Some(source) = plan.sources.iter().find(|source| source.path == path) else { continue };
        let old = source.rule.document.text.clone();
        let new = edit.written(source);
        if new != old {
            absorbed.rules.push(Rewritten { path, old, new });
        }
    }
    Ok(absorbed)
}

/// Why an edit is left to the person: the line, what is in the way, and what to do.
type Refused = (Option<usize>, String, String);

/// The same with both sides, where there are two.
struct Left {
    line: Option<usize>,
    message: String,
    help: String,
    sides: Option<(String, String)>,
}

impl Left {
    fn whole(message: impl Into<String>, help: impl Into<String>) -> Vec<Self> {
        vec![Left { line: None, message: message.into(), help: help.into(), sides: None }]
    }

    fn from(refused: Refused) -> Vec<Self> {
        let (line, message, help) = refused;
        vec![Left { line, message, help, sides: None }]
    }
}

/// What was found in one published file.
enum Edited {
    /// Nobody edited it.
    Not,
    /// It holds what publishing would write now; its hash.
    Already(String),
    /// Its hash, and each rule with what it is to be.
    Rules(String, Vec<(RepoPath, Edit)>),
}

/// A rule as it is to be.
#[derive(Clone, PartialEq, Eq)]
struct Edit {
    /// What stands above its text, header and all; `None` where that stays.
    head: Option<String>,
    /// The lines of its text.
    lines: Vec<Line>,
}

impl Edit {
    fn unchanged(source: &Source) -> Self {
        Edit { head: None, lines: (0..source.body.split('\n').count()).map(Line::Own).collect() }
    }

    /// The whole rule: lines that stay keep their bytes, and so does what stands around the text.
    fn written(&self, source: &Source) -> String {
        let text = &source.rule.document.text;
        let (head, body) = text.split_at(source.rule.header.body);
        let head = self.head.as_deref().unwrap_or(head);
        let own: Vec<&str> = body.split_inclusive('\n').collect();
        let blank = own.iter().take_while(|line| line.trim().is_empty()).count();
        let count = source.body.split('\n').count();
        let end = if text.contains("\r\n") { "\r\n" } else { "\n" };
        let mut new: String = head.to_owned() + &own[..blank].concat();
        for line in &self.lines {
            if !new.is_empty() && !new.ends_with('\n') {
                new += end;
            }
            match line {
                Line::Own(number) => new += own.get(blank + number).copied().unwrap_or_default(),
                Line::New(words) => new += &format!("{words}{end}"),
            }
        }
        // What stands below the text belongs to its last line.
        if self.lines.last() == Some(&Line::Own(count - 1)) {
            new += &own[(blank + count).min(own.len())..].concat();
        }
        new
    }
}

struct Reader<'r, 'w> {
    workspace: &'r Workspace<'w>,
    lock: &'r Lock,
    plan: &'r Plan,
    archive: &'r Archive<'r>,
}

impl Reader<'_, '_> {
    /// Reads one published file.
    fn edited(&self, known: &LockedFile, path: &RepoPath, asked: bool) -> Result<Edited, Vec<Left>> {
        let tree = self.workspace.tree();
        let at = Location::root(path.clone());
        if let Some(target) = tree.link_target(&at) {
            if known.hash == link_mark(&target) {
                return match asked {
                    true => Err(Left::whole("it was published as a link", "absorb the file that it leads to")),
                    false => Ok(Edited::Not),
                };
            }
            let help = format!("`signpost publish --overwrite {path}` puts back what belongs there");
            return Err(Left::whole("it is a link now, and was published as something else", help));
        }
        let bytes = match tree.read(&at) {
            Ok(bytes) => bytes,
            Err(_) if !asked => return Ok(Edited::Not),
            Err(_) => return Err(Left::whole("it is not there any more", "`signpost publish` writes it anew")),
        };
        if known.is(&bytes) {
            return Ok(Edited::Not);
        }
        let own_hash = hash(&bytes);
        let Ok(edited) = String::from_utf8(bytes) else {
            return Err(Left::whole("it is not UTF-8", "save it as UTF-8"));
        };
        let Some((ours, file)) = self.text_of(path) else {
            let help = "`signpost adopt` brings what it says into the guidance anew";
            return Err(Left::whole("the rules that it was published from are gone", help));
        };
        let edited = String::from_utf8_lossy(&without_carriage_returns(edited.as_bytes())).into_owned();
        if edited == ours {
            return Ok(Edited::Already(own_hash));
        }
        // A run that was killed may have written the rules already; blank lines between sections are in none.
        if known.hash != hash(ours.as_bytes()) && words(&edited).eq(words(ours)) {
            return Ok(Edited::Already(own_hash));
        }
        let base = self.base(known, path, ours)?;
        let [base_lines, our_lines, their_lines] = [&base, ours, &edited].map(lines_of);
        let merged = merge(&base_lines, &our_lines, &their_lines).map_err(|clashes| {
            let joined = |lines: &[&str]| lines.iter().map(|line| format!("{line}\n")).collect::<String>();
            let one = |clash: merge::Clash| Left {
                line: Some(clash.theirs.start + 1),
                message: "changed here and in its rule, in different ways".to_owned(),
                help: "write in the rule what both mean, then `signpost publish --overwrite` the file".to_owned(),
                sides: Some((joined(&our_lines[clash.ours]), joined(&their_lines[clash.theirs]))),
            };
            clashes.into_iter().map(one).collect::<Vec<_>>()
        })?;
        self.rewritten(file, ours, &merged.join("\n")).map(|rules| Edited::Rules(own_hash, rules)).map_err(Left::from)
    }

    /// What publishing would write there now, with the file that says which rules stand where; of a link, where it leads.
    fn text_of(&self, path: &RepoPath) -> Option<(&str, &Planned)> {
        let find = |path: &RepoPath| self.plan.files.iter().find(|file| file.path == *path);
        let file = find(path)?;
        match &file.content {
            Content::Text(text) => Some((text, file)),
            Content::Link(target) => {
                let file = find(&path.folder().resolve(target)?)?;
                match &file.content {
                    Content::Text(text) => Some((text, file)),
                    Content::Link(_) => None,
                }
            }
        }
    }

    /// What was published there before.
    fn base(&self, known: &LockedFile, path: &RepoPath, ours: &str) -> Result<String, Vec<Left>> {
        let (path, recorded) = match link_target(&known.hash) {
            None => (path.clone(), known.hash.as_str()),
            Some(target) => {
                let target = path.folder().resolve(target).unwrap_or_default();
                let hash = self.lock.of(&target).map_or("", |file| &file.hash);
                (target, hash)
            }
        };
        if recorded == hash(ours.as_bytes()) {
            return Ok(ours.to_owned());
        }
        (self.archive)(&path, recorded).ok_or_else(|| {
            let help = "`signpost publish --dry-run` shows both; carry the edit over by hand, then `signpost publish --overwrite`";
            Left::whole("its rules were changed too, and what was published before is not in git's history", help)
        })
    }

    /// The rules of a file as the merged text says.
    fn rewritten(&self, file: &Planned, ours: &str, merged: &str) -> Result<Vec<(RepoPath, Edit)>, Refused> {
        let gone = |what: &str| (None, format!("its assistant {what} any more"), String::new());
        let profile = self.workspace.profiles.iter().find(|profile| profile.name == file.assistants[0]);
        let profile = profile.ok_or_else(|| gone("has no profile"))?;
        let found = Finder::new(self.workspace.tree(), None).owner(profile, &Location::root(file.path.clone()));
        let found = found.ok_or_else(|| gone("does not read it"))?;
        let style = profile.places[found.place].header;
        let header = edited_header(self.plan, file, profile, &found, ours, merged)?;
        let sources: Vec<&Source> = file
            .segments
            .iter()
            .map(|segment| self.plan.sources.iter().find(|source| source.path == segment.source))
            .collect::<Option<_>>()
            .ok_or_else(|| (None, "one of its rules is gone".to_owned(), String::new()))?;
        // Keys are looked at elsewhere.
        let (start, new_start) = (Header::read(ours, style).body, Header::read(merged, style).body);
        let first = ours[..start].matches('\n').count();
        let lines =
            sections::rules(file, &sources, ours, &lines_of(&ours[start..]), first, &lines_of(&merged[new_start..]))?;
        let mut rules = Vec::new();
        for (source, lines) in sources.into_iter().zip(lines) {
            let is_blank = |line: &Line| match line {
                Line::Own(number) => source.body.split('\n').nth(*number).is_none_or(|line| line.trim().is_empty()),
                Line::New(words) => words.trim().is_empty(),
            };
            if lines.iter().all(is_blank) {
                let message = format!("all of {} was taken out", source.path);
                return Err((None, message, format!("delete {} if that is meant, then publish", source.path)));
            }
            let head = &source.rule.document.text[..source.rule.header.body];
            let head = header.as_ref().map(|header| rewrite_header(head, source, header));
            rules.push((source.path.clone(), Edit { head, lines }));
        }
        Ok(rules)
    }

    /// The edit of a rule with what other files made of it.
    fn combined(
        &self,
        edits: &BTreeMap<RepoPath, Edit>,
        path: RepoPath,
        edit: Edit,
    ) -> Result<(RepoPath, Edit), Vec<Left>> {
        let source = self.plan.sources.iter().find(|source| source.path == path);
        let (Some(known), Some(source)) = (edits.get(&path), source) else { return Ok((path, edit)) };
        let help = "write in the rule what both mean, then `signpost publish --overwrite` the files";
        let head = match (&known.head, edit.head) {
            (Some(one), Some(other)) if *one != other => {
                return Err(Left::whole("the header was changed here and in another published file", help));
            }
            (one, other) => one.clone().or(other),
        };
        let own: Vec<&str> = source.body.split('\n').collect();
        let words = |lines: &[Line]| -> String {
            let word = |line: &Line| match line {
                Line::Own(number) => own[*number].to_owned(),
                Line::New(words) => words.clone(),
            };
            lines.iter().map(|line| word(line) + "\n").collect()
        };
        let lines = merge(&Edit::unchanged(source).lines, &known.lines, &edit.lines).map_err(|clashes| {
            let one = |clash: merge::Clash| Left {
                line: None,
                message: "changed here and in another published file of its rule, in different ways".to_owned(),
                help: help.to_owned(),
                sides: Some((words(&known.lines[clash.ours]), words(&edit.lines[clash.theirs]))),
            };
            clashes.into_iter().map(one).collect::<Vec<_>>()
        })?;
        Ok((path, Edit { head, lines }))
    }
}

/// The lines of a text that are not blank.
fn words(text: &str) -> impl Iterator<Item = &str> {
    text.lines().map(str::trim_end).filter(|line| !line.is_empty())
}

/// The lines of a text without their ends; a final line end begins none.
fn lines_of(text: &str) -> Vec<&str> {
    let text = text.strip_suffix('\n').unwrap_or(text);
    text.split('\n').collect()
}
