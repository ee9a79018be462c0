//! What the scoped rules ask of the files directly in one folder.

use super::AllRules;
use crate::index::Folder;
use crate::pattern::{Leaf, Simple, States};
use crate::profile::Reach;
use crate::repo_path::RepoPath;
use crate::rule::Rule;
use rustc_hash::{FxHashMap, FxHashSet};
use std::hash::{Hash, Hasher};
use std::sync::Arc;

/// A simple pattern of a rule, on its way down the folders.
#[derive(Clone, Copy, Debug)]
struct Live<'a> {
    rule: u32,
    /// The pattern's number among those of all rules, which stands for it.
    number: u32,
    simple: &'a Simple,
    states: States,
}

impl PartialEq for Live<'_> {
    fn eq(&self, other: &Self) -> bool {
        self.number == other.number && self.states == other.states
    }
}

impl Eq for Live<'_> {}

impl Hash for Live<'_> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.number, self.states).hash(state);
    }
}

/// What is asked of a folder's files, sorted by the shape of the question.
#[derive(Debug, Default)]
pub(super) struct Program<'a> {
    live: Vec<Live<'a>>,
    /// Where only these names of folders change anything further down.
    changed_only_by: Option<FxHashSet<&'a str>>,
    every: Vec<u32>,
    /// By an ending like `.ts`.
    ending: FxHashMap<&'a str, Vec<u32>>,
    name: FxHashMap<&'a str, Vec<u32>>,
    /// By an ending that is not the part from the last dot on.
    suffix: Vec<(&'a str, u32)>,
    /// To be asked with the file's name.
    ask: Vec<Live<'a>>,
    /// To be asked with the file's path.
    ask_path: Vec<Live<'a>>,
    /// Rules with exceptions: the whole path decides.
    whole: Vec<u32>,
}

/// Builds the programs of all folders, sharing those that are alike.
pub(super) struct Programs<'a> {
    all: &'a AllRules<'a>,
    /// Scoped rules by the folder from which on they can match.
    starting: FxHashMap<&'a RepoPath, Vec<u32>>,
    shared: FxHashMap<Vec<Live<'a>>, Arc<Program<'a>>>,
    patterns: u32,
}

impl<'a> Programs<'a> {
    pub fn new(all: &'a AllRules<'a>) -> Self {
        let mut starting: FxHashMap<&RepoPath, Vec<u32>> = FxHashMap::default();
        for (number, (_, rule)) in all.rules.iter().enumerate() {
            if rule.reach == Reach::Scoped && !rule.scope.paths.set.is_empty() {
                starting.entry(&rule.scope.below).or_default().push(number as u32);
            }
        }
        Programs { all, starting, shared: FxHashMap::default(), patterns: 0 }
    }

    pub fn enter(&mut self, parent: Option<&Arc<Program<'a>>>, folder: &RepoPath) -> Arc<Program<'a>> {
        let started = self.starting.get(folder).cloned();
        let name = folder.name();
        if let (Some(parent), None) = (parent, &started)
            && parent.changed_only_by.as_ref().is_some_and(|names| !names.contains(name))
        {
            return parent.clone();
        }
        let mut live: Vec<Live<'a>> = Vec::new();
        for one in parent.iter().flat_map(|parent| &parent.live) {
            let states = one.simple.enter(one.states, name);
            if !states.is_dead() {
                live.push(Live { states, ..*one });
            }
        }
        for number in started.into_iter().flatten() {
            self.begin(number, folder, &mut live);
        }
        let all = self.all;
        self.shared.entry(live).or_insert_with_key(|live| Arc::new(Program::new(all, live.clone()))).clone()
    }

    /// The states of a rule's patterns in the folder from which on it reaches.
    fn begin(&mut self, number: u32, folder: &RepoPath, live: &mut Vec<Live<'a>>) {
        let rule: &'a Rule = self.all.rules[number as usize].1;
        let way = folder.below(&rule.scope.base).unwrap_or_default();
        for own in rule.scope.paths.set.patterns.iter().filter(|own| !own.is_negated()) {
            for simple in own.simple() {
                let parts = way.split('/').filter(|part| !part.is_empty());
                let states = parts.fold(simple.start(), |states, part| simple.enter(states, part));
                self.patterns += 1;
                if !states.is_dead() {
                    live.push(Live { rule: number, number: self.patterns, simple, states });
                }
            }
        }
    }
}

impl<'a> Program<'a> {
    fn new(all: &AllRules<'_>, live: Vec<Live<'a>>) -> Self {
        let mut program = Program { changed_only_by: Some(FxHashSet::default()), ..Program::default() };
        for one in &live {
            let rule = all.rules[one.rule as usize].1;
            match (one.simple.changed_only_by(one.states), &mut program.changed_only_by) {
                (Some(names), Some(all)) => all.extend(names),
                (None, all) => *all = None,
                (Some(_), None) => {}
            }
            let has_exceptions = rule.scope.paths.set.has_negated() || !rule.scope.except.set.is_empty();
            match one.simple.leaf(one.states) {
                Leaf::None => {}
                _ if has_exceptions => program.whole.push(one.rule),
                Leaf::All => program.every.push(one.rule),
                Leaf::Name(name) => program.name.entry(name).or_default().push(one.rule),
                Leaf::Suffix(suffix) if suffix.rfind('.') == Some(0) => {
                    program.ending.entry(suffix).or_default().push(one.rule);
                }
                Leaf::Suffix(suffix) => program.suffix.push((suffix, one.rule)),
                Leaf::Ask if one.simple.needs_path() => program.ask_path.push(*one),
                Leaf::Ask => program.ask.push(*one),
            }
        }
        program.whole.sort_unstable();
        program.whole.dedup();
        program.live = live;
        program
    }

    /// Adds the rules that take a file for more than its ending; none for most files.
    pub fn taken_by_name(&self, all: &AllRules<'_>, folder: &Folder, name: &str, taken: &mut Vec<u32>) {
        if !self.name.is_empty() {
            taken.extend(self.name.get(name).into_iter().flatten());
        }
        taken.extend(self.suffix.iter().filter(|(suffix, _)| name.ends_with(suffix)).map(|(_, rule)| rule));
        let asked = |one: &&Live<'_>| one.simple.matches_leaf(one.states, "", name);
        taken.extend(self.ask.iter().filter(asked).map(|one| one.rule));
        if !self.ask_path.is_empty() || !self.whole.is_empty() {
            let path = folder.path.join(name);
            for one in &self.ask_path {
                let below = path.below(&all.rules[one.rule as usize].1.scope.base).unwrap_or_default();
                if one.simple.matches_leaf(one.states, below, name) {
                    taken.push(one.rule);
                }
            }
            taken.extend(self.whole.iter().filter(|rule| all.rules[**rule as usize].1.scope.takes(&path)));
        }
    }

    /// Adds the rules that take every file with that ending.
    pub fn taken_by_ending(&self, ending: &str, taken: &mut Vec<u32>) {
        taken.extend(&self.every);
        taken.extend(self.ending.get(ending).into_iter().flatten());
    }
}
