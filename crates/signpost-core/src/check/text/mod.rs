//! The texts that checks read: each file once, however many assistants load it, with its outline.

pub(super) mod items;
pub(super) mod marker;
pub(super) mod mention;
pub(super) mod passages;
pub(super) mod phrase;

use super::finding::Finding;
use super::info::CheckInfo;
use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::beginning;
use crate::directive::families::Families;
use crate::directive::{Directive, Modality, Outline, Said, modalities, modality_at};
use crate::inspect::survey::Survey;
use crate::project::lock::Lock;
use crate::project::rule::{Document, Rule};
use crate::resolve::zones::RuleId;
use mention::Command;
use passages::Passages;
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
    /// What each of its directives means.
    pub said: Vec<Said>,
    /// The folders that a path mentioned here may count from: the root, and the file's own; for guidance the
    /// folder that holds it.
    pub bases: Vec<RepoPath>,
    /// The rules that it is, of all assistants.
    pub told: Vec<RuleId>,
    /// Those assistants, by name.
    pub assistants: Vec<String>,
    /// Whether it was published and not touched since, so that its words are those of the guidance.
    pub published: bool,
    /// What each directive's clauses ask, where that was looked for.
    lights: OnceLock<Vec<OnceLock<Light>>>,
    pub(super) passages: OnceLock<Passages>,
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

    /// Where reading for the meaning ends: of a text with too many directives after the last one that is read. What
    /// could do harm is looked for in all of it.
    pub fn read_to(&self) -> usize {
        let last = self.outline.directives.last().filter(|_| self.outline.cut);
        last.map_or(self.text().len(), |last| last.span.end)
    }

    /// Its directives, with what each means.
    pub fn directives(&self) -> impl Iterator<Item = (&Directive, &Said)> {
        self.outline.directives.iter().zip(&self.said)
    }

    /// Its directives and, after them, the rows of its tables.
    pub fn statements(&self) -> impl Iterator<Item = &Directive> {
        self.outline.directives.iter().chain(&self.outline.rows)
    }

    /// The bytes of one of its [`statements`](Self::statements).
    pub fn statement(&self, number: usize) -> &Range<usize> {
        let directives = &self.outline.directives;
        &directives.get(number).unwrap_or_else(|| &self.outline.rows[number - directives.len()]).span
    }

    /// What the clause around a byte of a directive asks.
    pub(super) fn modality_at(&self, number: usize, at: usize) -> Option<Modality> {
        modality_at(self.said[number].modality, &self.light(number).clauses, at)
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
}

fn bases<'r>(location: &Location, rules: impl Iterator<Item = &'r Rule>) -> Vec<RepoPath> {
    let mut bases = vec![RepoPath::root()];
    let Some(path) = location.in_root() else { return bases };
    bases.push(path.folder());
    // Notes below a folder of their own speak of the folder that they are anchored at.
    bases.extend(rules.filter_map(|rule| rule.found.anchor.in_root().cloned()));
    bases.sort();
    bases.dedup();
    bases
}

/// So many directives are read of all texts: a hostile project is to fill neither memory nor time.
const MOST_DIRECTIVES: usize = 40_000;
/// A directive of fewer bytes is rare.
const SHORT_DIRECTIVE: usize = 40;

/// How many directives of each text are read, so that those of all are no more than [`MOST_DIRECTIVES`]. What short texts
/// leave of their share is for the long ones.
fn share(mut lengths: Vec<usize>) -> usize {
    lengths.sort_unstable();
    let (mut left, mut texts) = (MOST_DIRECTIVES, lengths.len());
    for length in lengths {
        let likely = length / SHORT_DIRECTIVE + 1;
        if likely * texts > left {
            return (left / texts).max(1);
        }
        left -= likely;
        texts -= 1;
    }
    MOST_DIRECTIVES
}

/// What is said of those that are not listed.
pub(super) fn not_listed(info: &CheckInfo, text: &Text, number: usize) -> Finding {
    let message =
        format!("{} more like these stand in this file and are not listed", crate::base::wording::group(number));
    text.finding(info, 0..0, message).help("mend those that are listed, then look again")
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
    let most = share(found.iter().map(|(document, ..)| beginning(&document.text).len()).collect());
    let read = |(document, body, told): (Arc<Document>, usize, Vec<RuleId>)| {
        let published = document.location.in_root().is_some_and(|path| lock.records(path, document.on_disk()));
        let mut assistants: Vec<String> =
            told.iter().map(|id| survey.assistants[id.assistant].profile.name.clone()).collect();
        assistants.sort();
        assistants.dedup();
        let text = beginning(&document.text);
        let body = body.min(text.len());
        let (outline, said) = Outline::with_meaning(text, body, families, most);
        let bases = bases(&document.location, told.iter().map(|id| survey.rule(*id)));
        Text {
            document,
            bases,
            body,
            outline,
            said,
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

#[cfg(test)]
mod tests {
    use super::{MOST_DIRECTIVES, share};

    #[test]
    fn many_texts_share_what_is_read() {
        assert_eq!(share(vec![]), MOST_DIRECTIVES);
        assert_eq!(share(vec![3_000; 500]), MOST_DIRECTIVES, "there is enough for all");
        assert_eq!(share(vec![20_000; 500]), 80);
        // A thousand short ones of 11 each leave 29,000 for ten long ones.
        let mixed = [vec![400; 1000], vec![1_000_000; 10]].concat();
        assert_eq!(share(mixed), 2_900);
        assert_eq!(share(vec![1_000_000; 100_000]), 1, "never none");
    }
}
