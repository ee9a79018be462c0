//! Parity: whether assistants are told the same, zone by zone and directive by directive.
//!
//! Two directives are the same where their words are, whatever stands around them. What one assistant is told
//! and another is not, what differs in words, and what gets to them in another way are differences, unless the
//! project means them: a guidance rule that names its assistants, or an entry of `[[parity.allow]]` in
//! `signpost.toml` with its reason.

mod meant;
mod opposition;

use crate::base::repo_path::{Location, RepoPath};
use crate::files::TreeError;
use crate::profile::{self, Profile, Reach};
use crate::project::workspace::{Assistant, Project, Workspace};
use crate::resolve::brief::{Brief, State};
use crate::resolve::directives::{Teller, Told};
use crate::resolve::zones::{Zone, partition};
use meant::{Meant, borders};
use rustc_hash::{FxHashMap, FxHashSet};
use std::ops::Range;

/// What an assistant is told of a directive, counted in source files.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub struct Counts {
    /// It is loaded.
    pub told: usize,
    /// It is offered.
    pub offered: usize,
    /// It is callable.
    pub callable: usize,
}

impl Counts {
    fn add(&mut self, state: State, files: usize) {
        match state {
            State::Loaded => self.told += files,
            State::Offered => self.offered += files,
            State::Callable => self.callable += files,
        }
    }

    /// Files for which it is there at all.
    pub fn any(&self) -> usize {
        self.told + self.offered + self.callable
    }
}

/// One directive that differs.
#[derive(Clone, Debug)]
pub struct Row {
    /// The directive.
    pub text: String,
    /// For each assistant, in how many files it is told, offered or callable.
    pub counts: Vec<Counts>,
    /// For each assistant, where it stands.
    pub places: Vec<Option<(Location, Range<usize>)>>,
    /// Source files for which it differs.
    pub files: usize,
    /// One of them.
    pub example: RepoPath,
    /// The zones in which it differs, by number.
    pub zones: Vec<usize>,
    /// Another row that says nearly the same, or the opposite, to those who are not told this.
    pub near: Option<usize>,
    /// Whether that one can't be followed beside this.
    pub opposed: bool,
    /// Why the difference is meant.
    pub meant: Option<String>,
}

impl Row {
    /// What kind of difference it is.
    pub fn kind(&self) -> Kind {
        if self.opposed {
            Kind::Opposed
        } else if self.near.is_some() {
            Kind::Words
        } else if self.counts.iter().all(|counts| counts.any() > 0) {
            Kind::Reach
        } else {
            Kind::Missing
        }
    }
}

/// The kinds of differences.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Kind {
    /// Somebody is told what can't be followed beside it.
    Opposed,
    /// Somebody is told something else in nearly the same words.
    Words,
    /// All are told, for other files or in another way.
    Reach,
    /// Somebody is not told.
    Missing,
}

impl Kind {
    /// The word for programs.
    pub fn word(self) -> &'static str {
        match self {
            Kind::Opposed => "opposed",
            Kind::Words => "words",
            Kind::Reach => "reach",
            Kind::Missing => "missing",
        }
    }
}

/// One zone.
#[derive(Clone, Debug)]
pub struct ZoneParity {
    /// A file of it.
    pub example: RepoPath,
    /// The deepest folder that holds it.
    pub folder: RepoPath,
    /// How many files.
    pub files: usize,
    /// How many directives each assistant is told.
    pub told: Vec<usize>,
    /// How many of them differ and are not meant to.
    pub differ: usize,
}

/// The whole comparison.
#[derive(Debug, Default)]
pub struct Parity {
    /// The assistants compared, by name.
    pub assistants: Vec<String>,
    /// The zones.
    pub zones: Vec<ZoneParity>,
    /// The directives that differ, meant ones last.
    pub rows: Vec<Row>,
    /// How many directives are the same everywhere.
    pub same: usize,
    /// Reasons of `[[parity.allow]]` that allow nothing.
    pub idle: Vec<String>,
}

impl Parity {
    /// Whether nothing differs that is not meant to.
    pub fn holds(&self) -> bool {
        self.rows.iter().all(|row| row.meant.is_some())
    }
}

/// A directive while zones are gone through.
struct Gathered {
    text: String,
    counts: Vec<Counts>,
    places: Vec<Option<(Location, Range<usize>)>>,
    /// Zones in which it differs, with the assistants that have it loaded.
    differs: Vec<(usize, Vec<Option<State>>)>,
}

/// Compares assistants.
///
/// # Errors
/// A folder can't be listed.
pub fn compare(
    workspace: &Workspace<'_>,
    project: &Project,
    assistants: Vec<Assistant<'_>>,
) -> Result<Parity, TreeError> {
    let profiles: Vec<&Profile> = assistants.iter().map(|one| one.profile).collect();
    let mut all = assistants;
    // The guidance's scopes are those that sections are written for.
    all.extend(workspace.guidance(project)?);
    all.push(borders(workspace));
    let zones = partition(workspace.tree(), &project.index, &all);
    let mut gatherer = Gatherer::new(workspace, profiles);
    let mut parity = Parity { assistants: gatherer.names(), ..Parity::default() };
    for (number, zone) in zones.zones.iter().enumerate() {
        let told = gatherer.add(number, zone)?;
        let (example, folder) = (zone.example.clone(), zone.folder.clone());
        parity.zones.push(ZoneParity { example, folder, files: zone.files, told, differ: 0 });
    }
    let meant = Meant::new(workspace, project)?;
    for directive in gatherer.gathered {
        if directive.differs.is_empty() {
            parity.same += 1;
            continue;
        }
        let (meant, left) = meant.reason(&directive, &parity);
        let zones_of: Vec<usize> = left.iter().map(|at| directive.differs[*at].0).collect();
        let files = zones_of.iter().map(|zone| zones.zones[*zone].files).sum();
        let example = zones.zones[zones_of[0]].example.clone();
        let Gathered { text, counts, places, .. } = directive;
        parity.rows.push(Row {
            text,
            counts,
            places,
            files,
            example,
            zones: zones_of,
            near: None,
            opposed: false,
            meant,
        });
    }
    parity.idle = meant.idle();
    parity.rows.sort_by(|a, b| {
        (a.meant.is_some(), std::cmp::Reverse(a.files), &a.text).cmp(&(
            b.meant.is_some(),
            std::cmp::Reverse(b.files),
            &b.text,
        ))
    });
    opposition::pair_opposed(workspace, &mut parity.rows);
    pair_near(&mut parity.rows);
    for row in parity.rows.iter().filter(|row| row.meant.is_none()) {
        for zone in &row.zones {
            parity.zones[*zone].differ += 1;
        }
    }
    Ok(parity)
}

/// Gathers what each assistant is told, zone by zone.
struct Gatherer<'a, 'w> {
    teller: Teller<'a, 'w>,
    profiles: Vec<&'a Profile>,
    /// The briefs of each assistant, by the rules that a zone gives it and whether its files are hidden.
    briefs: Vec<FxHashMap<(Vec<usize>, bool), Brief>>,
    gathered: Vec<Gathered>,
    by_words: FxHashMap<Box<str>, usize>,
}

impl<'a, 'w> Gatherer<'a, 'w> {
    fn new(workspace: &'a Workspace<'w>, profiles: Vec<&'a Profile>) -> Self {
        let briefs = profiles.iter().map(|_| FxHashMap::default()).collect();
        let (gathered, by_words) = (Vec::new(), FxHashMap::default());
        Gatherer { teller: Teller::new(workspace), profiles, briefs, gathered, by_words }
    }

    fn names(&self) -> Vec<String> {
        self.profiles.iter().map(|profile| profile.name.clone()).collect()
    }

    /// Adds a zone; how many directives each assistant has loaded there.
    fn add(&mut self, number: usize, zone: &Zone) -> Result<Vec<usize>, TreeError> {
        let told_of = self.told(zone)?;
        let mut here: FxHashMap<usize, Vec<Option<State>>> = FxHashMap::default();
        for (at, told) in told_of.iter().enumerate() {
            for directive in told {
                let row = self.row(directive);
                let states = here.entry(row).or_insert_with(|| vec![None; self.profiles.len()]);
                // Loaded once is loaded, whatever else offers it.
                states[at] = Some(states[at].map_or(directive.state, |state| state.min(directive.state)));
                let place = || (directive.file.clone(), directive.line.span.clone());
                self.gathered[row].places[at].get_or_insert_with(place);
            }
        }
        for (row, states) in here {
            for (at, state) in states.iter().enumerate() {
                if let Some(state) = state {
                    self.gathered[row].counts[at].add(*state, zone.files);
                }
            }
            if self.differ(&states) {
                self.gathered[row].differs.push((number, states));
            }
        }
        let loaded = |told: &Vec<Told>| told.iter().filter(|directive| directive.state == State::Loaded).count();
        Ok(told_of.iter().map(loaded).collect())
    }

    /// Whether some assistant could be told as another one is, and is not.
    fn differ(&self, states: &[Option<State>]) -> bool {
        let could = |at: usize, state: State| match state {
            State::Loaded => true,
            State::Offered => can_have(self.profiles[at], Reach::Offered),
            State::Callable => can_have(self.profiles[at], Reach::Called),
        };
        let others = || states.iter().flatten().copied();
        (0..states.len()).any(|at| others().any(|state| states[at] != Some(state) && could(at, state)))
    }

    /// What each assistant is told about the files of a zone.
    fn told(&mut self, zone: &Zone) -> Result<Vec<Vec<Told>>, TreeError> {
        let mut told_of = Vec::with_capacity(self.profiles.len());
        for (at, profile) in self.profiles.iter().enumerate() {
            let rules = zone.rules.iter().filter(|id| id.assistant == at).map(|id| id.rule).collect();
            let key = (rules, zone.hidden_from.contains(&at));
            let brief = match self.briefs[at].get(&key) {
                Some(brief) => brief,
                None => {
                    let brief = self.teller.brief(profile, &zone.example)?;
                    self.briefs[at].entry(key).or_insert(brief)
                }
            };
            let mut told = self.teller.told(profile, brief, &zone.example);
            // What one person keeps is no matter of the team's; a lone reference is no directive.
            let reference = |words: &str| words.starts_with('@') && !words.contains(' ');
            told.retain(|directive| !directive.personal && !reference(&directive.line.words));
            told_of.push(told);
        }
        Ok(told_of)
    }

    /// The row of a directive, by its words.
    fn row(&mut self, directive: &Told) -> usize {
        let (gathered, number) = (&mut self.gathered, self.profiles.len());
        *self.by_words.entry(directive.line.words.clone()).or_insert_with(|| {
            gathered.push(Gathered {
                text: directive.shown(),
                counts: vec![Counts::default(); number],
                places: vec![None; number],
                differs: Vec::new(),
            });
            gathered.len() - 1
        })
    }
}

/// Whether an assistant has files of that reach at all: what only another one can have is no difference.
fn can_have(profile: &Profile, reach: Reach) -> bool {
    profile.places.iter().any(|place| match place.kind {
        profile::Kind::Called => reach == Reach::Called,
        profile::Kind::Bundle => reach == Reach::Offered,
        profile::Kind::Role => false,
        profile::Kind::Rule => place.reach == reach || place.decide.iter().any(|row| row.reach == reach),
    })
}

/// Beyond so many rows nobody compares words.
const MOST_PAIRED: usize = 1500;

/// Whether nobody is told both.
fn are_apart(one: &Row, other: &Row) -> bool {
    one.counts.iter().zip(&other.counts).all(|(one, other)| one.any() == 0 || other.any() == 0)
}

/// Finds for each row another that says nearly the same to somebody who is not told this one.
fn pair_near(rows: &mut [Row]) {
    let words: Vec<FxHashSet<String>> = rows
        .iter()
        .take(MOST_PAIRED)
        .map(|row| crate::directive::normal(&row.text).split(' ').map(str::to_owned).collect())
        .collect();
    let mut best: Vec<Option<(usize, usize)>> = vec![None; words.len()];
    for one in 0..words.len() {
        for other in one + 1..words.len() {
            let (a, b) = (&rows[one], &rows[other]);
            // One is told this, the other that.
            if !are_apart(a, b)
                || a.opposed
                || b.opposed
                || a.meant.is_some() != b.meant.is_some()
                || !a.zones.iter().any(|zone| b.zones.contains(zone))
            {
                continue;
            }
            let shared = words[one].intersection(&words[other]).count();
            let all = words[one].union(&words[other]).count();
            if shared * 2 > all || shared > 2 && shared * 2 == all {
                let score = shared * 1000 / all;
                for (this, that) in [(one, other), (other, one)] {
                    if best[this].is_none_or(|(known, _)| known < score) {
                        best[this] = Some((score, that));
                    }
                }
            }
        }
    }
    for one in 0..best.len() {
        // Only where each is the other's nearest.
        if rows[one].opposed {
            continue;
        }
        rows[one].near =
            best[one].map(|(_, other)| other).filter(|other| best[*other].is_some_and(|(_, back)| back == one));
    }
}
