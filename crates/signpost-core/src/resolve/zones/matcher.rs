//! What the scoped rules ask of the files directly in one folder.
//!
//! A pattern that gets on into a folder does so as one of two things: for good, because of a `**`, or for this
//! folder only. What holds for good is kept in a [`Layer`], once, however many folders stand below; a folder
//! points at the layers above it. So a folder costs what gets on *into it*, and rules and folders do not
//! multiply.

use super::AllRules;
use crate::base::repo_path::RepoPath;
use crate::files::index::Folder;
use crate::pattern::{Leaf, Simple, States, WayOn};
use crate::profile::Reach;
use crate::project::rule::Rule;
use rustc_hash::FxHashMap;
use std::sync::Arc;

/// A simple pattern of a rule that has got as far as `states`.
#[derive(Clone, Copy, Debug)]
struct Live<'a> {
    rule: u32,
    simple: &'a Simple,
    states: States,
}

/// What is asked of file names, sorted by the shape of the question.
#[derive(Debug, Default)]
struct Questions<'a> {
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
    /// Like `every` and `ending`, for rules whose exceptions decide by the whole path.
    every_but: Vec<u32>,
    ending_but: FxHashMap<&'a str, Vec<u32>>,
}

/// The ways on into folders directly below.
#[derive(Debug, Default)]
struct Ways<'a> {
    by_name: FxHashMap<&'a str, Vec<Live<'a>>>,
    others: Vec<(Live<'a>, WayOn<'a>)>,
}

/// What holds from a folder on, for all folders below.
#[derive(Debug, Default)]
struct Layer<'a> {
    above: Option<Arc<Layer<'a>>>,
    questions: Questions<'a>,
    ways: Ways<'a>,
}

/// What is asked of a folder's files.
#[derive(Debug, Default, Clone)]
pub(super) struct Matcher<'a> {
    lasting: Option<Arc<Layer<'a>>>,
    /// What holds in this folder only.
    here: Option<Arc<Layer<'a>>>,
}

/// Builds the matchers of all folders.
pub(super) struct Matchers<'a> {
    all: &'a AllRules<'a>,
    /// Scoped rules by the folder from which on they can match.
    starting: FxHashMap<&'a RepoPath, Vec<u32>>,
}

impl<'a> Matchers<'a> {
    pub fn new(all: &'a AllRules<'a>) -> Self {
        let mut starting: FxHashMap<&RepoPath, Vec<u32>> = FxHashMap::default();
        for (number, (_, rule)) in all.rules.iter().enumerate() {
            if rule.reach == Reach::Scoped && !rule.scope.paths.set.is_empty() {
                starting.entry(&rule.scope.below).or_default().push(number as u32);
            }
        }
        Matchers { all, starting }
    }

    pub fn enter(&self, parent: Option<&Matcher<'a>>, folder: &RepoPath) -> Matcher<'a> {
        let mut arrived: Vec<Live<'a>> = Vec::new();
        for layer in parent.into_iter().flat_map(Matcher::layers) {
            layer.ways.lead_into(folder.name(), &mut arrived);
        }
        for number in self.starting.get(folder).into_iter().flatten() {
            self.begin(*number, folder, &mut arrived);
        }
        let above = parent.and_then(|parent| parent.lasting.clone());
        if arrived.is_empty() {
            return Matcher { lasting: above, here: None };
        }
        let (mut lasting, mut here) = (Layer { above: above.clone(), ..Layer::default() }, Layer::default());
        let (mut any_lasting, mut any_here) = (false, false);
        for one in arrived {
            let (for_good, only_here) = one.simple.split(one.states);
            if !for_good.is_dead() {
                lasting.add(self.all, Live { states: for_good, ..one });
                any_lasting = true;
            }
            if !only_here.is_dead() {
                here.add(self.all, Live { states: only_here, ..one });
                any_here = true;
            }
        }
        let lasting = if any_lasting { Some(Arc::new(lasting)) } else { above };
        Matcher { lasting, here: any_here.then(|| Arc::new(here)) }
    }

    /// The states of a rule's patterns in the folder from which on it reaches.
    fn begin(&self, number: u32, folder: &RepoPath, arrived: &mut Vec<Live<'a>>) {
        let rule: &'a Rule = self.all.rules[number as usize].1;
        let way = folder.below(&rule.scope.base).unwrap_or_default();
        for own in rule.scope.paths.set.patterns.iter().filter(|own| !own.is_negated()) {
            for simple in own.simple() {
                let parts = way.split('/').filter(|part| !part.is_empty());
                let states = parts.fold(simple.start(), |states, part| simple.enter(states, part));
                if !states.is_dead() {
                    arrived.push(Live { rule: number, simple, states });
                }
            }
        }
    }
}

impl<'a> Ways<'a> {
    /// Adds what gets on into the folder of that name.
    fn lead_into(&self, name: &str, arrived: &mut Vec<Live<'a>>) {
        if !self.by_name.is_empty() {
            arrived.extend(self.by_name.get(name).into_iter().flatten());
        }
        let fitting = self.others.iter().filter(|(one, way)| one.simple.way_fits(way, name));
        arrived.extend(fitting.map(|(one, way)| Live { states: way.states, ..*one }));
    }
}

impl<'a> Layer<'a> {
    fn add(&mut self, all: &AllRules<'_>, one: Live<'a>) {
        for way in one.simple.ways_on(one.states) {
            match way.name {
                Some(name) => self.ways.by_name.entry(name).or_default().push(Live { states: way.states, ..one }),
                None => self.ways.others.push((one, way)),
            }
        }
        let rule = all.rules[one.rule as usize].1;
        let exceptions = has_exceptions(rule);
        let questions = &mut self.questions;
        match one.simple.leaf(one.states) {
            Leaf::None => {}
            Leaf::All if exceptions => questions.every_but.push(one.rule),
            Leaf::All => questions.every.push(one.rule),
            Leaf::Name(name) => questions.name.entry(name).or_default().push(one.rule),
            Leaf::Suffix(suffix) if suffix.rfind('.') == Some(0) => {
                let by_ending = if exceptions { &mut questions.ending_but } else { &mut questions.ending };
                by_ending.entry(suffix).or_default().push(one.rule);
            }
            Leaf::Suffix(suffix) => questions.suffix.push((suffix, one.rule)),
            Leaf::Ask if one.simple.needs_path() => questions.ask_path.push(one),
            Leaf::Ask => questions.ask.push(one),
        }
    }
}

fn has_exceptions(rule: &Rule) -> bool {
    rule.scope.paths.set.has_negated() || !rule.scope.except.set.is_empty()
}

impl<'a> Matcher<'a> {
    fn layers(&self) -> impl Iterator<Item = &Layer<'a>> {
        let lasting = std::iter::successors(self.lasting.as_deref(), |layer| layer.above.as_deref());
        self.here.as_deref().into_iter().chain(lasting)
    }

    /// Adds the rules that take a file for more than its ending; none for most files.
    pub fn taken_by_name(&self, all: &AllRules<'_>, folder: &Folder, name: &str, ending: &str, taken: &mut Vec<u32>) {
        let mut path = None;
        for Questions { name: by_name, suffix, ask, ask_path, every_but, ending_but, .. } in
            self.layers().map(|layer| &layer.questions)
        {
            let start = taken.len();
            if !by_name.is_empty() {
                taken.extend(by_name.get(name).into_iter().flatten());
            }
            taken.extend(suffix.iter().filter(|(suffix, _)| name.ends_with(suffix)).map(|(_, rule)| rule));
            taken.extend(ask.iter().filter(|one| one.simple.matches_leaf(one.states, "", name)).map(|one| one.rule));
            taken.extend(every_but);
            if !ending_but.is_empty() {
                taken.extend(ending_but.get(ending).into_iter().flatten());
            }
            for one in ask_path {
                let path = path.get_or_insert_with(|| folder.path.join(name));
                let below = path.below(&all.rules[one.rule as usize].1.scope.base).unwrap_or_default();
                if one.simple.matches_leaf(one.states, below, name) {
                    taken.push(one.rule);
                }
            }
            let mut at = start;
            while at < taken.len() {
                let rule = all.rules[taken[at] as usize].1;
                if has_exceptions(rule) && !rule.scope.takes(path.get_or_insert_with(|| folder.path.join(name))) {
                    taken.swap_remove(at);
                } else {
                    at += 1;
                }
            }
        }
    }

    /// Adds the rules that take every file with that ending.
    pub fn taken_by_ending(&self, ending: &str, taken: &mut Vec<u32>) {
        for questions in self.layers().map(|layer| &layer.questions) {
            taken.extend(&questions.every);
            taken.extend(questions.ending.get(ending).into_iter().flatten());
        }
    }
}
