//! Conditions: when, and for which files, a directive holds.

use super::words::{STOP, StemSet, Word, words};
use crate::base::language::{self, LANGUAGES};
use rustc_hash::FxHashSet;
use std::sync::LazyLock;

/// When, or for which files, a directive holds.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Condition {
    /// Files of a language, by its name in [`LANGUAGES`].
    Language(&'static str),
    /// Files below a folder, or of a pattern that begins so.
    Path(Box<str>),
    /// In a situation.
    When(Situation),
    /// Not in a situation.
    Unless(Situation),
    /// Below a heading that names something of its own: its stems.
    Heading(Box<str>),
}

/// A situation that a clause names.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct Situation {
    /// The languages and paths in it.
    pub files: Box<[Condition]>,
    /// Its stems, sorted.
    pub stems: Box<[Box<str>]>,
}

impl Condition {
    /// Whether it speaks of files rather than of situations.
    pub fn is_of_files(&self) -> bool {
        matches!(self, Condition::Language(_) | Condition::Path(_))
    }

    /// The file endings that it stands for, where it names a language.
    pub fn endings(&self) -> Option<&'static [&'static str]> {
        let Condition::Language(name) = self else { return None };
        LANGUAGES.iter().find(|language| language.name == *name).map(|language| language.endings)
    }
}

/// What a heading, or the line above a list, makes of what stands below it.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Frame {
    /// When and for which files it holds, sorted.
    pub conditions: Vec<Condition>,
    /// Stems of the situation or kind of thing that it names, which text below may name itself.
    pub about: Vec<String>,
    /// `## Never`: what stands below is forbidden.
    pub forbids: bool,
    /// `Examples:`: what stands below is no directive.
    pub example: bool,
    /// Its words, where it names files or a situation rather than a subject.
    pub limit: Option<Box<str>>,
}

impl Frame {
    /// Whether it says anything.
    pub fn is_condition(&self) -> bool {
        !self.conditions.is_empty() || !self.about.is_empty()
    }
}

/// Situations and kinds of things that headings name. They count as words of what stands below.
static SITUATIONS: StemSet = StemSet::new(&[
    "test", "testing", "migration", "commit", "pr", "comment", "doc", "documentation", "api", "ui", "cli", "release",
    "frontend", "backend", "production", "script", "example", "legacy", "prototype", "benchmark", "mobile", "server",
    "client", "web", "database", "notebook", "library", "app", "ios", "android", "windows", "linux", "macos",
    "staging",
]);

/// Words of headings that only sort what stands below them.
const GENERIC: &[&str] = &[
    "style", "styl", "cod", "format", "nam", "convention", "guid", "guidelin", "rul", "standard", "practic", "not",
    "important", "general", "misc", "miscellaneou", "overview", "quality", "review", "requirement", "preferenc",
    "develop", "development", "environment", "languag", "indentation", "quot", "whitespac", "layout", "deploy",
    "deployment", "ci", "build", "setup", "dependency", "packag", "manager", "management", "tool", "command",
    "security", "error", "handl", "log", "typ", "import", "fil", "structur", "architectur", "workflow", "project",
    "do", "agent", "assistant", "instruction", "work", "here", "how", "we", "thing", "be", "best", "syntax", "lint",
    "linter", "formatter", "version", "control", "git", "principl", "basic", "what", "where", "why", "expectation",
    "checklist", "process", "hous", "must", "always", "key", "core", "common", "us", "generat", "behaviour",
    "behavior", "communication", "limit", "siz", "number", "performanc", "code", "stack", "tech", "technology",
    "content", "introduction", "background", "context", "about", "top", "level", "main", "a", "function", "run",
    "stuff", "tip", "reminder", "team", "repo", "repository", "codebase", "first", "start", "get", "started", "merg",
    "branch", "local", "line", "length", "spac", "tab", "indent", "semicolon", "module", "export", "async",
    "component", "styling", "data", "http", "request", "state", "date", "time", "timeout", "retry", "coverag",
    "framework", "runtime", "write", "text", "wording", "prose", "english", "spelling", "compatibility", "support",
    "policy", "scop", "goal", "definition", "done", "message", "subject", "history", "strategy", "pull", "request",
    "filename", "identifier", "variabl", "bracket", "punctuation",
];

static GENERIC_STEMS: LazyLock<FxHashSet<&str>> = LazyLock::new(|| GENERIC.iter().copied().collect());

const FORBIDDING: &[&str] = &[
    "don't", "dont", "don'ts", "donts", "do not", "never", "avoid", "forbidden", "prohibited", "not allowed",
    "anti-patterns", "antipatterns", "anti patterns", "things to avoid", "what not to do", "must not", "never do",
    "do nots", "don't do", "off limits", "what to avoid", "never use", "do not use", "don't use", "avoid using",
    "please avoid", "never do this", "do not do", "you must not", "you must never", "things you must not do", "banned",
    "disallowed",
];

const EXAMPLES: &[&str] = &[
    "example", "examples", "bad", "wrong", "good", "right", "correct", "incorrect", "before", "after", "bad example",
    "good example", "sample", "counterexample", "e.g", "for example",
];

/// Reads a heading. `top` is the title of the file, which seldom limits anything.
pub fn heading(title: &str, top: bool) -> Frame {
    let all = words(title, 0..title.len());
    let lead = |list: &[&str]| {
        let plain = super::normal(title);
        list.contains(&plain.as_str())
    };
    let mut frame = Frame { forbids: lead(FORBIDDING), example: lead(EXAMPLES), ..Frame::default() };
    if frame.forbids || frame.example {
        return frame;
    }
    let mut rest: Vec<&Word> = Vec::new();
    for word in &all {
        if let Some(condition) = of_word(word, true) {
            frame.conditions.push(condition);
        } else if !word.is(STOP) {
            rest.push(word);
        }
    }
    if top {
        frame.conditions.retain(|condition| matches!(condition, Condition::Language(_)));
        frame.limit = (!frame.conditions.is_empty()).then(|| title.into());
        return frame;
    }
    let opens =
        all.first().is_some_and(|word| word.is(&["when", "if", "while", "before", "after", "during", "unless"]));
    let unknown: Vec<&str> = rest
        .iter()
        .filter(|word| !GENERIC_STEMS.contains(word.stem.as_str()) && !is_situation(word))
        .map(|word| word.stem.as_str())
        .collect();
    if opens || !unknown.is_empty() {
        let words: Vec<&str> = rest.iter().map(|word| word.stem.as_str()).collect();
        frame.conditions.push(Condition::Heading(words.join(" ").into()));
    } else {
        frame.about = rest.iter().filter(|word| is_situation(word)).map(|word| word.stem.clone()).collect();
    }
    frame.conditions.sort();
    frame.conditions.dedup();
    let limits = opens || frame.conditions.iter().any(Condition::is_of_files);
    frame.limit = limits.then(|| title.into());
    frame
}

fn is_situation(word: &Word) -> bool {
    SITUATIONS.has(&word.stem)
}

/// The line above a list, which ends with a colon: `In Python files:`, `Never:`.
pub fn lead_in(text: &str) -> Frame {
    let mut frame = heading(text.trim_end_matches([':', ' ', '*', '_']), false);
    let all = words(text, 0..text.len());
    // `We use the following tools:` limits nothing, only what begins like a condition does.
    let opens = all.first().is_some_and(|word| {
        word.is(&[
            "when", "if", "while", "before", "after", "during", "unless", "in", "for", "inside", "within", "on",
            "under",
        ])
    });
    if !opens {
        frame.conditions.retain(|condition| !matches!(condition, Condition::Heading(_)));
        frame.conditions.retain(|_| all.len() <= 3);
        frame.about.clear();
        frame.limit = frame.limit.filter(|_| all.len() <= 3);
    } else if frame.is_condition() {
        frame.limit = Some(text.trim_end_matches([':', ' ', '*', '_']).into());
    }
    let first: Vec<&str> = all.iter().take(3).map(|word| word.low.as_str()).collect();
    frame.forbids |= matches!(
        first[..],
        ["never", ..] | ["avoid", ..] | ["do", "not", ..] | ["don't", ..] | ["please", "don't" | "avoid" | "never", ..]
    );
    frame
}

/// The condition that one word is: a language, a file kind, a path.
pub fn of_word(word: &Word, in_heading: bool) -> Option<Condition> {
    if word.code {
        return of_path(&word.low);
    }
    if let Some(kind) = of_ending(&word.low) {
        return Some(kind);
    }
    let language = language::by_name(&word.low)?;
    // `Go` and `go`, `C` and `c`.
    if language.is_word
        && !(word.capital && (in_heading || language.name != "go" || word.sep == super::words::Sep::None))
    {
        return None;
    }
    Some(Condition::Language(language.name))
}

fn of_ending(text: &str) -> Option<Condition> {
    let ending = text.strip_prefix("**/").unwrap_or(text);
    let ending = ending.strip_prefix('*').unwrap_or(ending).strip_prefix('.')?;
    let known = language::by_ending(ending)?;
    Some(Condition::Language(known.name))
}

/// `kiosk/`, `*.py`, `src/**/*.rs`: a place in the tree. A command or a name is none.
pub fn of_path(code: &str) -> Option<Condition> {
    if let Some(kind) = of_ending(code) {
        return Some(kind);
    }
    let text = code.strip_prefix("./").unwrap_or(code);
    let plain = !text.is_empty()
        && !text.contains([' ', '(', ')', '"', '\'', '=', ':', '$', '<', '@', '\\', '&', '|', ';'])
        && text.contains('/')
        && !text.starts_with(['/', '-', '~']);
    plain.then(|| Condition::Path(text.trim_end_matches("**").trim_end_matches('*').trim_end_matches('/').into()))
}

/// `when x`: the languages and paths that a clause is about, or else the situation.
pub(super) fn when(words: &[&Word], conditions: &mut Vec<Condition>) {
    let situation = situation(words);
    if situation.stems.is_empty() {
        conditions.extend(situation.files);
    } else {
        conditions.push(Condition::When(situation));
    }
}

/// `unless x`.
pub(super) fn unless(words: &[&Word], conditions: &mut Vec<Condition>) {
    conditions.push(Condition::Unless(situation(words)));
}

fn situation(words: &[&Word]) -> Situation {
    let (mut files, mut stems) = (Vec::new(), Vec::new());
    for word in words {
        if let Some(condition) = of_word(word, false) {
            files.push(condition);
        } else if !word.is(STOP) && !word.is(EDITING) {
            stems.push(word.stem.as_str());
        }
    }
    stems.sort_unstable();
    Situation { files: files.into(), stems: stems.into_iter().map(Into::into).collect() }
}

/// What one does to any file: `when editing Python files` is about Python.
const EDITING: &[&str] = &[
    "file", "files", "writing", "editing", "working", "work", "write", "edit", "touching", "changing", "modifying",
    "source", "sources",
];
