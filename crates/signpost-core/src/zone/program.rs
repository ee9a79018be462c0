//! What the scoped rules ask of the files directly in one folder.

use super::AllRules;
use crate::index::Folder;
use crate::pattern::{Leaf, States};
use crate::profile::{Level, Reach};
use crate::repo_path::RepoPath;
use crate::rule::Rule;
use rustc_hash::FxHashMap;
use std::rc::Rc;

/// A simple pattern of a rule, on its way down the folders.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
struct Live {
    rule: u32,
    pattern: u32,
    simple: u32,
    states: States,
}

/// What is asked of a folder's files, sorted by the shape of the question.
#[derive(Debug, Default)]
pub(super) struct Program {
    live: Vec<Live>,
    every: Vec<u32>,
    /// By an ending like `.ts`.
    ending: FxHashMap<String, Vec<u32>>,
    name: FxHashMap<String, Vec<u32>>,
    /// By an ending that is not the part from the last dot on.
    suffix: Vec<(String, u32)>,
    ask: Vec<Live>,
    /// Rules with exceptions: the whole path decides.
    whole: Vec<u32>,
}

/// Builds the programs of all folders, sharing those that are alike.
pub(super) struct Programs<'a> {
    all: &'a AllRules<'a>,
    /// Scoped rules by the folder from which on they can match.
    starting: FxHashMap<&'a RepoPath, Vec<u32>>,
    shared: FxHashMap<Vec<Live>, Rc<Program>>,
}

impl<'a> Programs<'a> {
    pub fn new(all: &'a AllRules<'a>) -> Self {
        let mut starting: FxHashMap<&RepoPath, Vec<u32>> = FxHashMap::default();
        for (number, (_, rule)) in all.rules.iter().enumerate() {
            if rule.reach == Reach::Scoped && !rule.scope.paths.set.is_empty() {
                starting.entry(&rule.scope.below).or_default().push(number as u32);
            }
        }
        Programs { all, starting, shared: FxHashMap::default() }
    }

    pub fn enter(&mut self, parent: Option<&Rc<Program>>, folder: &RepoPath) -> Rc<Program> {
        let started = self.starting.get(folder);
        let mut live = Vec::new();
        let mut changed = parent.is_none() || started.is_some();
        for one in parent.iter().flat_map(|parent| &parent.live) {
            let states = self.simple(one).enter(one.states, folder.name());
            changed |= states != one.states;
            if !states.is_dead() {
                live.push(Live { states, ..*one });
            }
        }
        if let (Some(parent), false) = (parent, changed) {
            return parent.clone();
        }
        for number in started.into_iter().flatten() {
            live.extend(begin(*number, self.all.rules[*number as usize].1, folder));
        }
        let all = self.all;
        let share = |live: &Vec<Live>| Rc::new(Program::new(all, live.clone()));
        self.shared.entry(live).or_insert_with_key(share).clone()
    }

    fn simple(&self, live: &Live) -> &'a crate::pattern::Simple {
        simple(self.all, live)
    }
}

fn simple<'a>(all: &AllRules<'a>, live: &Live) -> &'a crate::pattern::Simple {
    let rule: &'a Rule = all.rules[live.rule as usize].1;
    &rule.scope.paths.set.patterns[live.pattern as usize].simple()[live.simple as usize]
}

/// The states of a rule's patterns in the folder from which on it reaches.
fn begin(number: u32, rule: &Rule, folder: &RepoPath) -> Vec<Live> {
    debug_assert!(rule.level == Level::Folder || folder.is_root());
    let way = folder.below(&rule.scope.base).unwrap_or_default();
    let mut live = Vec::new();
    for (pattern, own) in rule.scope.paths.set.patterns.iter().enumerate().filter(|(_, own)| !own.is_negated()) {
        for (at, simple) in own.simple().iter().enumerate() {
            let parts = way.split('/').filter(|part| !part.is_empty());
            let states = parts.fold(simple.start(), |states, part| simple.enter(states, part));
            if !states.is_dead() {
                live.push(Live { rule: number, pattern: pattern as u32, simple: at as u32, states });
            }
        }
    }
    live
}

impl Program {
    fn new(all: &AllRules<'_>, live: Vec<Live>) -> Self {
        let mut program = Program::default();
        for one in &live {
            let rule = all.rules[one.rule as usize].1;
            let has_exceptions = rule.scope.paths.set.has_negated() || !rule.scope.except.set.is_empty();
            match simple(all, one).leaf(one.states) {
                Leaf::None => {}
                _ if has_exceptions => program.whole.push(one.rule),
                Leaf::All => program.every.push(one.rule),
                Leaf::Name(name) => program.name.entry(name.to_owned()).or_default().push(one.rule),
                Leaf::Suffix(suffix) if suffix.rfind('.') == Some(0) => {
                    program.ending.entry(suffix.to_owned()).or_default().push(one.rule);
                }
                Leaf::Suffix(suffix) => program.suffix.push((suffix.to_owned(), one.rule)),
                Leaf::Ask => program.ask.push(*one),
            }
        }
        program.whole.dedup();
        program.live = live;
        program
    }

    /// Whether the answer for a file depends on its ending alone.
    pub fn asks_only_endings(&self, name: &str) -> bool {
        self.suffix.is_empty()
            && self.ask.is_empty()
            && self.whole.is_empty()
            && (self.name.is_empty() || !self.name.contains_key(name))
    }

    /// Adds the rules that take a file, sorted, to `key`.
    pub fn taken(&self, all: &AllRules<'_>, folder: &Folder, name: &str, ending: &str, key: &mut Vec<u32>) {
        let start = key.len();
        key.extend(&self.every);
        key.extend(self.ending.get(ending).into_iter().flatten());
        key.extend(self.name.get(name).into_iter().flatten());
        key.extend(self.suffix.iter().filter(|(suffix, _)| name.ends_with(suffix.as_str())).map(|(_, rule)| rule));
        if !self.ask.is_empty() || !self.whole.is_empty() {
            let path = folder.path.join(name);
            for one in &self.ask {
                let rule = all.rules[one.rule as usize].1;
                let below = path.below(&rule.scope.base).unwrap_or_default();
                if simple(all, one).matches_leaf(one.states, below, name) {
                    key.push(one.rule);
                }
            }
            key.extend(self.whole.iter().filter(|rule| all.rules[**rule as usize].1.scope.takes(&path)));
        }
        key[start..].sort_unstable();
        let mut end = start;
        for at in start..key.len() {
            if end == start || key[end - 1] != key[at] {
                key[end] = key[at];
                end += 1;
            }
        }
        key.truncate(end);
    }
}
