//! The texts that checks read: each file once, however many assistants load it, with its outline.

use super::finding::Finding;
use super::mention::{self, Command};
use super::safety::Passage;
use super::{CheckInfo, Context};
use crate::directive::families::Families;
use crate::directive::{Modality, Outline, modalities};
use crate::guidance;
use crate::lock::Lock;
use crate::profile::Profile;
use crate::repo_path::{Location, RepoPath};
use crate::rule::{Document, Rule};
use crate::survey::Survey;
use crate::text::beginning;
use crate::zone::RuleId;
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

/// In which light a directive speaks of things.
pub(super) struct Light {
    /// Whether it says that what it names is not there now.
    pub gone: bool,
    /// What the clause of each word asks.
    pub clauses: Vec<(Range<usize>, Modality)>,
}

/// One text.
pub struct Text {
    /// The file.
    pub document: Arc<Document>,
    /// Where its text begins, after the header.
    pub body: usize,
    /// What is in it.
    pub outline: Outline,
    /// The rules that it is, of all assistants.
    pub told: Vec<RuleId>,
    /// Those assistants, by name.
    pub assistants: Vec<String>,
    /// Whether it was published and not touched since, so that its words are those of the guidance.
    pub published: bool,
    /// What each directive's clauses ask, where that was looked for.
    lights: OnceLock<Vec<OnceLock<Light>>>,
    pub(super) passages: OnceLock<Vec<Passage>>,
    pub(super) commands: OnceLock<Vec<Command>>,
}

impl Text {
    /// The file.
    pub fn location(&self) -> &Location {
        &self.document.location
    }

    /// The whole text, header and all; of a file that no assistant could read, its beginning.
    pub fn text(&self) -> &str {
        beginning(&self.document.text)
    }

    /// The text of some bytes.
    pub fn words(&self, span: &Range<usize>) -> &str {
        &self.document.text[span.clone()]
    }

    /// A finding in this text.
    pub fn finding(&self, info: &CheckInfo, span: Range<usize>, message: impl Into<String>) -> Finding {
        let mut finding = Finding::new(info, self.location().clone(), span, message);
        finding.assistants.clone_from(&self.assistants);
        finding
    }

    /// The number of the directive that holds a byte.
    pub fn directive_at(&self, at: usize) -> Option<usize> {
        let after = self.outline.directives.partition_point(|one| one.span.start <= at);
        (0..after).rev().take(4).find(|number| self.outline.directives[*number].span.contains(&at))
    }

    /// In which light a directive speaks of what it mentions; read once, however much it mentions.
    pub(super) fn light(&self, number: usize) -> &Light {
        let lights = || self.outline.directives.iter().map(|_| OnceLock::new()).collect();
        self.lights.get_or_init(lights)[number].get_or_init(|| {
            let directive = &self.outline.directives[number];
            Light {
                gone: mention::says_gone(&self.words(&directive.span).to_lowercase()),
                clauses: modalities(self.text(), directive),
            }
        })
    }

    /// The titles of the sections that hold a byte, outermost first.
    pub fn sections_at(&self, at: usize) -> impl Iterator<Item = &str> {
        self.outline.sections.iter().filter(move |one| one.span.contains(&at)).map(|one| one.title.as_str())
    }

    /// Whether a byte stands in an HTML comment.
    pub fn in_comment(&self, at: usize) -> bool {
        let after = self.outline.comments.partition_point(|comment| comment.start <= at);
        after > 0 && self.outline.comments[after - 1].contains(&at)
    }

    /// The folders that a path mentioned here may count from: the root, and the file's own; for guidance the
    /// folder that holds it.
    pub fn bases(&self, context: &Context<'_, '_>) -> Vec<RepoPath> {
        let mut bases = vec![RepoPath::root()];
        let Some(path) = self.location().in_root() else { return bases };
        bases.push(path.folder());
        // Notes below a folder of their own speak of the folder that they are anchored at.
        bases.extend(self.told.iter().filter_map(|id| {
            let anchor = &context.rule(*id).found.anchor;
            anchor.in_root().cloned()
        }));
        bases.sort();
        bases.dedup();
        bases
    }
}

/// Reads the texts of all rules.
pub(super) fn read(survey: &Survey<'_>, families: &Families, lock: &Lock) -> Vec<Text> {
    let mut number_of: FxHashMap<(&Location, usize), usize> = FxHashMap::default();
    let mut found: Vec<(Arc<Document>, usize, Vec<RuleId>)> = Vec::new();
    for (assistant, one) in survey.assistants.iter().enumerate() {
        for (rule, read) in one.rules.iter().enumerate() {
            let number = *number_of.entry((read.file(), read.header.body)).or_insert_with(|| {
                found.push((read.document.clone(), read.header.body, Vec::new()));
                found.len() - 1
            });
            found[number].2.push(RuleId { assistant, rule });
        }
    }
    let read = |(document, body, told): (Arc<Document>, usize, Vec<RuleId>)| {
        let published = document.location.in_root().is_some_and(|path| lock.records(path.as_str(), document.on_disk()));
        let mut assistants: Vec<String> =
            told.iter().map(|id| survey.assistants[id.assistant].profile.name.clone()).collect();
        assistants.sort();
        assistants.dedup();
        let text = beginning(&document.text);
        let body = body.min(text.len());
        let outline = Outline::read(text, body, families);
        Text {
            document,
            body,
            outline,
            told,
            assistants,
            published,
            lights: OnceLock::new(),
            passages: OnceLock::new(),
            commands: OnceLock::new(),
        }
    };
    let mut texts: Vec<Text> = found.into_par_iter().map(read).collect();
    texts.sort_by(|a, b| a.location().cmp(b.location()));
    texts
}

impl<'a> Context<'a, '_> {
    /// The rule of a number.
    pub fn rule(&self, id: RuleId) -> &'a Rule {
        &self.survey.assistants[id.assistant].rules[id.rule]
    }

    /// The profile that reads it.
    pub fn profile(&self, id: RuleId) -> &'a Profile {
        self.survey.assistants[id.assistant].profile
    }

    /// Whether two rules can be told to one assistant.
    pub fn can_meet(&self, one: RuleId, other: RuleId) -> bool {
        if one.assistant != other.assistant {
            return false;
        }
        if self.profile(one).name != guidance::PROFILE {
            return true;
        }
        match (guidance::assistants(self.rule(one)), guidance::assistants(self.rule(other))) {
            (Some(one), Some(other)) => one.iter().any(|name| other.contains(name)),
            _ => true,
        }
    }
}
