//! Differences that the project means: guidance rules for some assistants only, and the entries of `[[parity.allow]]`.

use super::{Gathered, Parity};
use crate::base::repo_path::{Location, RepoPath};
use crate::base::tokens::estimate;
use crate::base::wording::toml_list;
use crate::config::Allowed;
use crate::files::{MemoryTree, TreeError};
use crate::project::discovery::Candidate;
use crate::project::guidance;
use crate::project::rule::{Document, Rule};
use crate::project::workspace::{Assistant, Project, Workspace};
use crate::resolve::directives::lines_of;
use rustc_hash::FxHashMap;
use std::cell::Cell;
use std::sync::Arc;

/// An assistant that is told something for each entry of `[[parity.allow]]` with `paths`, so that no zone lies on both
/// sides of such a border: what holds for one file of a zone holds for all.
pub(super) fn borders(workspace: &Workspace<'_>) -> Assistant<'static> {
    let profile = guidance::profile();
    let place = Location::root(RepoPath::root());
    let entries = workspace.config.parity.allow.iter().filter(|allowed| !allowed.paths.is_empty());
    let rules = entries.enumerate().map(|(number, allowed)| {
        let paths: Vec<String> = allowed.paths.iter().map(|pattern| pattern.text().to_owned()).collect();
        let paths = toml_list(&paths);
        let file = place.join(&format!("{number}.md"));
        let text = format!("+++\nreach = \"scoped\"\npaths = {paths}\n+++\n");
        let tree = MemoryTree::new().with(file.path.as_str(), text);
        let document = Arc::new(Document::read(&tree, &file, estimate));
        let found = Candidate { place: 0, anchor: place.clone(), pattern: 0, file };
        Arc::new(Rule::read(profile, found, document))
    });
    Assistant { profile, rules: rules.collect() }
}

/// An entry of `[[parity.allow]]`, and whether it allows anything.
struct Entry<'w> {
    allowed: &'w Allowed,
    used: Cell<bool>,
}

/// Differences that the project means.
pub(super) struct Meant<'w> {
    allowed: Vec<Entry<'w>>,
    /// The words of guidance rules that are for some assistants only.
    some_only: FxHashMap<Box<str>, Vec<(RepoPath, Vec<String>)>>,
}

impl<'w> Meant<'w> {
    pub(super) fn new(workspace: &'w Workspace<'_>, project: &Project) -> Result<Self, TreeError> {
        let entry = |allowed: &'w Allowed| Entry { allowed, used: Cell::new(false) };
        let mut some_only: FxHashMap<Box<str>, Vec<(RepoPath, Vec<String>)>> = FxHashMap::default();
        for rule in workspace.guidance(project)?.iter().flat_map(|guidance| &guidance.rules) {
            let (Some(names), Some(path)) = (guidance::assistants(rule), rule.file().in_root()) else { continue };
            for line in lines_of(&rule.document.text, rule.header.body) {
                some_only.entry(line.words.clone()).or_default().push((path.clone(), names.clone()));
            }
        }
        Ok(Meant { allowed: workspace.config.parity.allow.iter().map(entry).collect(), some_only })
    }

    /// Why a difference is meant, if it is, and in which of the zones where it differs: all then, else those for which
    /// nothing allows it.
    pub(super) fn reason(&self, one: &Gathered, parity: &Parity) -> (Option<String>, Vec<usize>) {
        let all = || (0..one.differs.len()).collect();
        let words: Box<str> = crate::directive::normal(&one.text).into();
        let name = |at: usize| parity.assistants[at].as_str();
        if let Some(rules) = self.some_only.get(&words) {
            let named = |at: usize| rules.iter().any(|(_, names)| names.iter().any(|own| own == name(at)));
            let file = |at: usize| one.places[at].as_ref().map(|(file, _)| file);
            // Whoever reads the very file that it was written to for somebody else was meant as well.
            let reads_it =
                |at: usize| (0..parity.assistants.len()).any(|other| named(other) && file(other) == file(at));
            let fits = one.differs.iter().all(|(_, states)| {
                let told = |at: usize| states[at].is_some();
                let others = (0..states.len()).all(|at| named(at) || !told(at) || reads_it(at));
                // Those that one rule is for have it alike.
                let mut alike = states.iter().enumerate().filter(|(at, _)| named(*at)).map(|(_, state)| state);
                let first = alike.next();
                others && (rules.len() > 1 || alike.all(|state| Some(state) == first))
            });
            if fits {
                let only = |(path, names): &(RepoPath, Vec<String>)| format!("{path} is for {} only", names.join(", "));
                return (Some(rules.iter().map(only).collect::<Vec<_>>().join("; ")), all());
            }
        }
        let mut left: Vec<usize> = all();
        let mut allow = |entry: &Entry<'_>| {
            let Entry { allowed, used } = entry;
            let lower = allowed.words.as_ref().map(|words| words.to_lowercase());
            let in_words = lower.is_none_or(|own| one.text.to_lowercase().contains(&own) || words.contains(&*own));
            let inside = |file: &Location| allowed.files.iter().any(|pattern| pattern.matches(file.path.as_str()));
            let in_files = allowed.files.is_empty() || one.places.iter().flatten().all(|(file, _)| inside(file));
            let meant_in = |at: &usize| {
                let (zone, states) = &one.differs[*at];
                let example = parity.zones[*zone].example.as_str();
                let there = allowed.paths.is_empty() || allowed.paths.iter().any(|pattern| pattern.matches(example));
                let named = |at: usize| allowed.assistants.iter().any(|own| own.get_ref() == name(at));
                // Without the assistants that may differ, all are told the same.
                let mut others = states.iter().enumerate().filter(|(at, _)| !named(*at)).map(|(_, state)| state);
                let first = others.next();
                there && (allowed.assistants.is_empty() || others.all(|state| Some(state) == first))
            };
            let before = left.len();
            if in_words && in_files {
                left.retain(|at| !meant_in(at));
            }
            used.set(used.get() || left.len() < before);
            (left.len() < before).then(|| allowed.reason.get_ref().clone())
        };
        let reasons: Vec<String> = self.allowed.iter().filter_map(&mut allow).collect();
        if left.is_empty() { (Some(reasons.join("; ")), all()) } else { (None, left) }
    }

    pub(super) fn idle(&self) -> Vec<String> {
        let idle = self.allowed.iter().filter(|entry| !entry.used.get());
        idle.map(|entry| entry.allowed.reason.get_ref().clone()).collect()
    }
}
