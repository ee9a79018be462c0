//! What assistants are told, directive by directive: what parity compares, and what adopting has to keep.
//!
//! A section that publishing wrote under `` For `*.rs` `` counts only where its patterns take the file, and one
//! under `When needed:` as offered: that is what the words mean to an assistant that has no other way to read
//! them.

use crate::base::repo_path::{Location, RepoPath};
use crate::directive::Outline;
use crate::files::TreeError;
use crate::header::{Header, HeaderStyle};
use crate::pattern::{Pattern, PatternSet};
use crate::profile::{Level, Profile};
use crate::project::guidance::{self, Marker};
use crate::project::rule::Document;
use crate::project::workspace::Workspace;
use crate::resolve::brief::{Brief, Question, State, resolve};
use rustc_hash::FxHashMap;
use std::cell::RefCell;
use std::ops::Range;
use std::sync::Arc;

/// One directive of a text.
#[derive(Clone, Debug)]
pub struct Line {
    /// Its words in lower case, without punctuation: two directives with the same words say the same.
    pub words: Box<str>,
    /// Its bytes in the file.
    pub span: Range<usize>,
    /// The headings above it that are conditions, but for those that publishing writes.
    pub conditions: Vec<Box<str>>,
    only_for: Option<Arc<(PatternSet, PatternSet)>>,
    when_needed: bool,
}

/// The directives of a text.
pub type Lines = Arc<Vec<Arc<Line>>>;

/// A directive that an assistant has been told.
#[derive(Clone, Debug)]
pub struct Told {
    /// The file.
    pub file: Location,
    /// Its text.
    document: Arc<Document>,
    /// The directive.
    pub line: Arc<Line>,
    /// Whether it is loaded, offered or callable.
    pub state: State,
    /// Whether it is one person's own: from the home folder, or a personal copy.
    pub personal: bool,
}

impl Told {
    /// As it stands there, on one line.
    pub fn shown(&self) -> String {
        crate::base::wording::shorten(&self.document.text[self.line.span.clone()], 400)
    }
}

/// Reads texts and briefs, each once.
pub struct Teller<'w, 't> {
    workspace: &'w Workspace<'t>,
    lines: RefCell<FxHashMap<(Location, usize), Lines>>,
}

impl<'w, 't> Teller<'w, 't> {
    /// For a project.
    pub fn new(workspace: &'w Workspace<'t>) -> Self {
        Teller { workspace, lines: RefCell::default() }
    }

    /// The brief of a file in a conversation that started at the root.
    ///
    /// # Errors
    /// A folder can't be listed.
    pub fn brief(&self, profile: &Profile, file: &RepoPath) -> Result<Brief, TreeError> {
        let question = Question { files: vec![file.clone()], start: RepoPath::root() };
        resolve(self.workspace, profile, &question, None)
    }

    /// The directives of a brief, in order, for a file.
    pub fn told(&self, profile: &Profile, brief: &Brief, file: &RepoPath) -> Vec<Told> {
        let mut told = Vec::new();
        for entry in &brief.entries {
            // A referenced file has no header of its own.
            let style = match entry.via {
                Some(_) => HeaderStyle::None,
                None => profile.place(&entry.place).map_or(HeaderStyle::None, |place| place.header),
            };
            let place = profile.place(&entry.place);
            let personal = entry.level == Level::User || place.is_some_and(|place| place.personal);
            for line in self.lines(&entry.document, style).iter() {
                let here = line
                    .only_for
                    .as_ref()
                    .is_none_or(|scope| scope.0.takes(file.as_str()) && !scope.1.takes(file.as_str()));
                if here && line.span.end as u64 <= entry.kept {
                    let state = if line.when_needed { entry.state.max(State::Offered) } else { entry.state };
                    let document = entry.document.clone();
                    told.push(Told { file: entry.path.clone(), document, line: line.clone(), state, personal });
                }
            }
        }
        told
    }

    /// The directives of a file.
    pub fn lines(&self, document: &Document, style: HeaderStyle) -> Lines {
        let body = Header::read(&document.text, style).body;
        let key = (document.location.clone(), body);
        if let Some(lines) = self.lines.borrow().get(&key) {
            return lines.clone();
        }
        let lines = Arc::new(lines_of(&document.text, body));
        self.lines.borrow_mut().insert(key, lines.clone());
        lines
    }
}

/// The directives of a text.
pub fn lines_of(text: &str, body: usize) -> Vec<Arc<Line>> {
    let text = crate::base::wording::beginning(text);
    let outline = Outline::read(text, body.min(text.len()));
    let ours: Vec<(Range<usize>, Ours)> = outline
        .sections
        .iter()
        .filter_map(|section| Some((section.span.clone(), Ours::read(&text[section.heading.clone()])?)))
        .collect();
    let line = |one: &crate::directive::Directive| {
        let mut line = Line {
            words: one.words.clone(),
            span: one.span.clone(),
            conditions: one.conditions.to_vec(),
            only_for: None,
            when_needed: false,
        };
        for (_, mark) in ours.iter().filter(|(span, _)| span.contains(&one.span.start)) {
            match mark {
                Ours::For(scope, own) => {
                    line.only_for = Some(scope.clone());
                    line.conditions.retain(|condition| condition != own);
                }
                Ours::When(own) => {
                    line.when_needed = true;
                    line.conditions.retain(|condition| condition != own);
                }
            }
        }
        Arc::new(line)
    };
    outline.directives.iter().map(line).collect()
}

/// A heading that publishing writes.
enum Ours {
    For(Arc<(PatternSet, PatternSet)>, Box<str>),
    When(Box<str>),
}

impl Ours {
    fn read(heading: &str) -> Option<Ours> {
        let title = heading.trim_start_matches('#').trim();
        let marker = Marker::read(title)?;
        let own = crate::directive::normal(title).into();
        let set = |texts: &[String]| -> Option<PatternSet> {
            let patterns = texts.iter().map(|text| Pattern::parse(text, guidance::dialect()).ok());
            Some(PatternSet { patterns: patterns.collect::<Option<_>>()? })
        };
        Some(match marker {
            Marker::When(_) => Ours::When(own),
            Marker::For { paths, except } => Ours::For(Arc::new((set(&paths)?, set(&except)?)), own),
        })
    }
}
