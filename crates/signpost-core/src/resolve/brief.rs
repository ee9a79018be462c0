//! Resolving: what an assistant has been told when it works on a file.
//!
//! A brief is an ordered list, with a reason for each entry and for each rule that was left out. Only the
//! folders on the way to the file (and to the folder that the conversation started in) are looked at, so
//! that the answer costs the same in a repository of any size.
//!
//! The steps follow the design: candidates ([`candidates`]), reach, order, references ([`follow`]), limits
//! ([`limit`]).

mod candidates;
pub(crate) mod follow;
mod limit;
mod why;

use crate::base::repo_path::{Location, RepoPath};
use crate::files::TreeError;
use crate::files::ignore_file::HideHit;
use crate::profile::{Level, Origin, Profile, Reach};
use crate::project::discovery::Finder;
use crate::project::rule::{Document, Rule};
use crate::project::workspace::{Project, Workspace};
use rustc_hash::FxHashSet;
use std::fmt;
use std::sync::Arc;
pub use why::{LeftOutWhy, Why};

/// What is asked.
#[derive(Clone, Debug)]
pub struct Question {
    /// The files worked on; several make one conversation that touches them all, none is a conversation
    /// before a file is touched.
    pub files: Vec<RepoPath>,
    /// The folder that the conversation started in.
    pub start: RepoPath,
}

/// Everything an assistant has been told.
#[derive(Debug)]
pub struct Brief {
    /// The profile's name.
    pub assistant: String,
    /// Whether that is a guess, which nobody wrote.
    pub guessed: bool,
    /// The files worked on.
    pub files: Vec<RepoPath>,
    /// The exclusion that hides each hidden file.
    pub hidden: Vec<Hidden>,
    /// Loaded entries first, then offered, then callable ones, each in the assistant's order.
    pub entries: Vec<Entry>,
    /// The rules that stay out.
    pub left_out: Vec<LeftOut>,
    /// What is loaded weighs so many tokens.
    pub tokens: usize,
    /// Whether any rule of the project is a candidate.
    pub has_candidates: bool,
}

/// A file that an exclusion file hides.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hidden {
    /// The hidden file.
    pub file: RepoPath,
    /// The exclusion file.
    pub by: RepoPath,
    /// The line that hides it.
    pub hit: HideHit,
}

/// Whether the assistant has an entry's text.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum State {
    /// It has been told.
    Loaded,
    /// It knows the summary and may pick it.
    Offered,
    /// Somebody may name it.
    Callable,
}

impl State {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            State::Loaded => "loaded",
            State::Offered => "offered",
            State::Callable => "callable",
        }
    }
}

/// One entry of a brief.
#[derive(Clone, Debug)]
pub struct Entry {
    /// The file.
    pub path: Location,
    /// The id of its place; of a referenced file, of the file where the chain starts.
    pub place: String,
    /// Likewise.
    pub level: Level,
    /// Likewise.
    pub reach: Reach,
    /// Whether it is loaded.
    pub state: State,
    /// What it weighs, as far as it is read.
    pub tokens: usize,
    /// The line that holds the first byte that is lost.
    pub cut_at_line: Option<usize>,
    /// How many bytes are read.
    pub kept: u64,
    /// The file that mentions it.
    pub via: Option<Location>,
    /// Why it is there.
    pub why: Why,
    /// The text.
    pub document: Arc<Document>,
    /// For which of the files asked about; all where nothing distinguishes them.
    pub files: Vec<RepoPath>,
}

impl Entry {
    /// The text that the assistant is told.
    pub fn text(&self) -> std::borrow::Cow<'_, str> {
        let bytes = self.document.on_disk();
        String::from_utf8_lossy(&bytes[..bytes.len().min(self.kept as usize)])
    }
}

/// A rule that stays out, or a mention that is not followed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LeftOut {
    /// What stays out.
    pub what: LeftOutWhat,
    /// The id of its place.
    pub place: String,
    /// Why it stays out.
    pub why: LeftOutWhy,
}

/// What stays out of a brief.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum LeftOutWhat {
    /// A file.
    File(Location),
    /// A mention that leads nowhere, in its words.
    Mention(String),
}

impl fmt::Display for LeftOutWhat {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            LeftOutWhat::File(file) => file.fmt(f),
            LeftOutWhat::Mention(words) => f.write_str(words),
        }
    }
}

/// A candidate whose reach is decided.
pub(crate) struct Decided {
    pub rule: Arc<Rule>,
    pub outcome: Outcome,
    pub files: Vec<RepoPath>,
}

/// What becomes of a candidate before references and limits.
pub(crate) enum Outcome {
    Loaded(Why),
    Offered,
    Callable,
    LeftOut(LeftOutWhy),
    /// Instructions for another conversation: not spoken of.
    Silent,
}

/// Answers a question for one assistant.
///
/// With the whole project, rules of other folders are listed as left out too.
///
/// # Errors
/// A folder cannot be listed.
pub fn resolve(
    workspace: &Workspace<'_>,
    profile: &Profile,
    question: &Question,
    all_rules: Option<&Project>,
) -> Result<Brief, TreeError> {
    resolve_with(workspace, profile, question, all_rules, None)
}

/// The same where the project was walked anyway, so that nothing is looked up on disk again: for many questions.
///
/// # Errors
/// Likewise.
pub fn resolve_with(
    workspace: &Workspace<'_>,
    profile: &Profile,
    question: &Question,
    all_rules: Option<&Project>,
    walked: Option<&Project>,
) -> Result<Brief, TreeError> {
    let finder = Finder::new(workspace.tree(), walked.map(|project| &project.index));
    let hidden: Vec<Hidden> =
        question.files.iter().filter_map(|file| candidates::hidden_by(workspace, profile, file)).collect();
    let mut decided = candidates::decide(workspace, profile, &finder, question, &hidden)?;
    decided.sort_by_cached_key(|one| one.rule.sort_key(profile));
    let known: FxHashSet<Location> = decided.iter().map(|one| one.rule.file().clone()).collect();
    let has_candidates = known.iter().any(|file| file.in_root().is_some());

    let followed = follow::follow(workspace, profile, &decided);
    let placed: FxHashSet<&Location> = followed.entries.iter().map(|entry| &entry.path).collect();
    let mut left_out = Vec::new();
    let mut waiting = Vec::new();
    for Decided { rule, outcome, files } in &decided {
        if placed.contains(rule.file()) {
            continue;
        }
        let entry = |state, why| Entry {
            path: rule.file().clone(),
            place: rule.place.clone(),
            level: rule.level,
            reach: rule.reach,
            state,
            tokens: rule.document.tokens(),
            cut_at_line: None,
            kept: rule.document.bytes,
            via: None,
            why,
            document: rule.document.clone(),
            files: files.clone(),
        };
        match outcome {
            Outcome::Offered => waiting.push(entry(State::Offered, Why::Offered { summary: rule.summary.clone() })),
            Outcome::Callable => waiting.push(entry(State::Callable, Why::Callable)),
            Outcome::LeftOut(why) => left_out.push(LeftOut {
                what: LeftOutWhat::File(rule.file().clone()),
                place: rule.place.clone(),
                why: why.clone(),
            }),
            Outcome::Loaded(_) | Outcome::Silent => {}
        }
    }
    if let Some(project) = all_rules {
        for rule in workspace.rules(profile, project) {
            if rule.takes_part() && !known.contains(rule.file()) && !placed.contains(rule.file()) {
                let folder = rule.found.anchor.path.clone();
                let why = LeftOutWhy::OtherFolder { folder };
                left_out.push(LeftOut { what: LeftOutWhat::File(rule.file().clone()), place: rule.place.clone(), why });
            }
        }
    }
    let (mut entries, over) = limit::apply(profile, followed.entries);
    left_out.extend(over);
    left_out.extend(followed.left_out);
    let tokens = entries.iter().map(|entry| entry.tokens).sum();
    waiting.sort_by_key(|entry| entry.state);
    entries.extend(waiting);
    Ok(Brief {
        assistant: profile.name.clone(),
        guessed: profile.origin == Origin::Guessed,
        files: question.files.clone(),
        hidden,
        entries,
        left_out,
        tokens,
        has_candidates,
    })
}
