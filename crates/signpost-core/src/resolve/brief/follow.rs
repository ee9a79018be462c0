//! References: a file that a loaded file mentions comes right after it.
//!
//! Loaded files are placed one after the other, each followed by what it mentions, depth first. The walk
//! keeps its own stack, so that a chain of any length costs no more than its files.

use super::{Decided, Entry, LeftOut, LeftOutWhat, LeftOutWhy, State, Why};
use crate::base::repo_path::Location;
use crate::files::Look;
use crate::header::{Header, HeaderStyle};
use crate::profile::{Place, Profile};
use crate::project::references::{Mention, locate, may_reach, mentions};
use crate::project::rule::{Document, Rule};
use crate::project::workspace::Workspace;
use rustc_hash::{FxHashMap, FxHashSet};
use std::sync::Arc;

pub(super) struct Followed {
    /// What is loaded, in order.
    pub entries: Vec<Entry>,
    /// Mentions that are not followed.
    pub left_out: Vec<LeftOut>,
}

/// A mention that was come upon.
pub(crate) struct Met {
    /// The file that mentions.
    pub via: Location,
    /// Its words.
    pub mention: Mention,
    /// How many references lead from the rule to what is mentioned.
    pub depth: usize,
    /// What it comes to.
    pub outcome: Outcome,
}

/// What a mention comes to.
pub(crate) enum Outcome {
    /// The file is loaded.
    Placed(Location, Arc<Document>),
    /// It is not followed; with what it leads to, where that is in reach.
    Stopped(Stop, Option<Location>),
}

/// Why a mention is not followed.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Stop {
    /// There is no such file.
    Missing,
    /// It leads back to a file that it comes from.
    Cycle,
    /// It leads out of the project.
    OutsideRoot,
    /// Too many references in a row.
    TooDeep,
}

/// Follows the references of a rule, depth first. What is placed already is passed over; `header` says how the
/// header of a file ends.
pub(crate) fn chain(
    workspace: &Workspace<'_>,
    profile: &Profile,
    rule: &Rule,
    header: &dyn Fn(&Location) -> HeaderStyle,
    placed: &mut FxHashSet<Location>,
    met: &mut dyn FnMut(Met),
) {
    let Some(references) = &profile.references else { return };
    let format = rule.place_in(profile).format;
    let mentions_of =
        |document: &Document, body: usize| mentions(&document.text, body, format, &references.syntax).into_iter();
    let tree = workspace.tree();
    let mut stack = vec![(rule.file().clone(), mentions_of(&rule.document, rule.header.body))];
    let mut on_chain: FxHashSet<Location> = FxHashSet::from_iter([rule.file().clone()]);
    while let Some((via, rest)) = stack.last_mut() {
        let via = via.clone();
        let Some(mention) = rest.next() else {
            on_chain.remove(&via);
            stack.pop();
            continue;
        };
        let depth = stack.len();
        let outcome = match locate(tree, &via, &mention.target, references.from) {
            None => Outcome::Stopped(Stop::OutsideRoot, None),
            Some(target) if on_chain.contains(&target) => Outcome::Stopped(Stop::Cycle, Some(target)),
            Some(target) if placed.contains(&target) => continue,
            Some(target) if !may_reach(&via, &target) => Outcome::Stopped(Stop::OutsideRoot, None),
            Some(target) => {
                let look = if target.path.is_root() { Look::Folder } else { tree.look(&target) };
                match look {
                    Look::Outside => Outcome::Stopped(Stop::OutsideRoot, Some(target)),
                    Look::File(_) if depth as u64 > u64::from(references.depth) => {
                        Outcome::Stopped(Stop::TooDeep, Some(target))
                    }
                    Look::File(_) => {
                        let document = workspace.document(&target);
                        placed.insert(target.clone());
                        on_chain.insert(target.clone());
                        let body = Header::read(&document.text, header(&target)).body;
                        stack.push((target.clone(), mentions_of(&document, body)));
                        Outcome::Placed(target, document)
                    }
                    Look::Folder | Look::BrokenLink | Look::Other | Look::Unreadable | Look::Nothing => {
                        Outcome::Stopped(Stop::Missing, Some(target))
                    }
                }
            }
        };
        met(Met { via, mention, depth, outcome });
    }
}

struct Follower<'a, 't> {
    workspace: &'a Workspace<'t>,
    profile: &'a Profile,
    /// The place that reads a candidate, which says how its header ends.
    places: FxHashMap<&'a Location, usize>,
    placed: FxHashSet<Location>,
    entries: Vec<Entry>,
    left_out: Vec<LeftOut>,
    said: FxHashSet<(LeftOutWhat, &'static str)>,
}

pub(super) fn follow(workspace: &Workspace<'_>, profile: &Profile, decided: &[Decided]) -> Followed {
    let mut follower = Follower {
        workspace,
        profile,
        places: decided.iter().map(|one| (one.rule.file(), one.rule.found.place)).collect(),
        placed: FxHashSet::default(),
        entries: Vec::new(),
        left_out: Vec::new(),
        said: FxHashSet::default(),
    };
    for one in decided {
        if let super::Outcome::Loaded(why) = &one.outcome
            && !follower.placed.contains(one.rule.file())
        {
            follower.place(one.rule.file(), one.rule.document.clone(), one, why.clone(), None);
            follower.chain(one);
        }
    }
    let Follower { entries, left_out, placed, .. } = follower;
    // What is too deep at one mention and loaded by another is not left out.
    let stays = |left: &LeftOut| match (&left.why, &left.what) {
        (LeftOutWhy::TooDeep { .. }, LeftOutWhat::File(file)) => !placed.contains(file),
        _ => true,
    };
    Followed { entries, left_out: left_out.into_iter().filter(stays).collect() }
}

impl Follower<'_, '_> {
    fn place(&mut self, file: &Location, document: Arc<Document>, origin: &Decided, why: Why, via: Option<Location>) {
        self.placed.insert(file.clone());
        self.entries.push(Entry {
            path: file.clone(),
            place: origin.rule.place.clone(),
            level: origin.rule.level,
            reach: origin.rule.reach,
            state: State::Loaded,
            tokens: document.tokens(),
            cut_at_line: None,
            kept: document.bytes,
            via,
            why,
            document,
            files: origin.files.clone(),
        });
    }

    fn chain(&mut self, origin: &Decided) {
        let place = &self.profile.places[origin.rule.found.place];
        let Follower { workspace, profile, places, placed, .. } = self;
        let header = |file: &Location| places.get(file).map_or(place.header, |own| profile.places[*own].header);
        let mut met = Vec::new();
        chain(workspace, profile, &origin.rule, &header, placed, &mut |one| met.push(one));
        for Met { via, mention, outcome, .. } in met {
            match outcome {
                Outcome::Placed(target, document) => {
                    self.place(&target, document, origin, Why::Referenced { via: via.clone() }, Some(via));
                }
                Outcome::Stopped(stop, target) => {
                    let what = target.map_or(LeftOutWhat::Mention(mention.target), LeftOutWhat::File);
                    let depth = self.profile.references.as_ref().map_or(0, |references| references.depth);
                    let why = match stop {
                        Stop::OutsideRoot => LeftOutWhy::OutsideRoot { via },
                        Stop::Cycle => LeftOutWhy::Cycle { via },
                        Stop::Missing => LeftOutWhy::Missing { via },
                        Stop::TooDeep => LeftOutWhy::TooDeep { via, depth },
                    };
                    self.leave_out(what, place, why);
                }
            }
        }
    }

    /// Says why a mention is not followed, once for each file and reason.
    fn leave_out(&mut self, what: LeftOutWhat, place: &Place, why: LeftOutWhy) {
        if self.said.insert((what.clone(), why.code())) {
            self.left_out.push(LeftOut { what, place: place.id.clone(), why });
        }
    }
}
