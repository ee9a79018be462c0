//! Where rules meet: for which source files an assistant is told both.

use crate::base::language::oddness;
use crate::base::repo_path::RepoPath;
use crate::inspect::survey::Survey;
use crate::profile::{Level, Reach};
use crate::project::guidance;
use crate::project::rule::Rule;
use crate::resolve::zones::RuleId;
use rustc_hash::{FxHashMap, FxHashSet, FxHasher};
use std::hash::{Hash, Hasher};

/// The zones of each rule.
pub struct Overlap {
    zones_of: FxHashMap<RuleId, Vec<u32>>,
    everywhere: FxHashSet<RuleId>,
    /// The zone whose example is the likeliest to be thought of.
    plainest: usize,
    /// For each rule of each assistant its kind: rules of one kind that are told in one zone meet the same rules.
    kinds: Vec<Vec<u64>>,
}

/// The zones that a rule is told in.
#[derive(Clone, Copy)]
pub enum Told<'m> {
    /// All.
    Everywhere,
    /// Those of these numbers.
    In(&'m [u32]),
}

impl Overlap {
    pub(super) fn new(survey: &Survey<'_>) -> Self {
        let mut zones_of: FxHashMap<RuleId, Vec<u32>> = FxHashMap::default();
        for (number, zone) in survey.zones.zones.iter().enumerate() {
            zone.rules.iter().for_each(|id| zones_of.entry(*id).or_default().push(number as u32));
        }
        let kinds = survey.assistants.iter().map(|one| {
            let is_guidance = one.profile.name == guidance::PROFILE;
            one.rules.iter().map(|rule| kind(rule, is_guidance)).collect()
        });
        let everywhere = survey.zones.everywhere.iter().copied().collect();
        let zones = survey.zones.zones.iter().enumerate();
        let plainest = zones.min_by_key(|(_, zone)| oddness(&zone.example)).map_or(0, |(number, _)| number);
        Overlap { zones_of, everywhere, plainest, kinds: kinds.collect() }
    }

    fn kind(&self, id: RuleId) -> u64 {
        self.kinds[id.assistant][id.rule]
    }

    /// Where a rule is told.
    pub fn told(&self, id: RuleId) -> Told<'_> {
        if self.everywhere.contains(&id) {
            Told::Everywhere
        } else {
            Told::In(self.zones_of.get(&id).map_or(&[], Vec::as_slice))
        }
    }

    /// A file about which the rule is told.
    pub fn example(&self, survey: &Survey<'_>, id: RuleId) -> Option<RepoPath> {
        let zones = &survey.zones.zones;
        match self.told(id) {
            Told::Everywhere => zones.get(self.plainest).map(|zone| zone.example.clone()),
            Told::In(own) => plainest(survey, own.iter().copied()).map(|zone| zones[zone as usize].example.clone()),
        }
    }

    /// A file about which both are told; `Some(None)` where that needs no file.
    pub fn of(&self, survey: &Survey<'_>, one: RuleId, other: RuleId) -> Option<Option<RepoPath>> {
        if !can_meet(survey, one, other) {
            return None;
        }
        if one == other {
            return Some(self.example(survey, one));
        }
        let zones = &survey.zones.zones;
        let shared = match (self.told(one), self.told(other)) {
            (Told::Everywhere, Told::Everywhere) => (!zones.is_empty()).then_some(self.plainest as u32),
            (Told::Everywhere, Told::In(own)) | (Told::In(own), Told::Everywhere) => {
                plainest(survey, own.iter().copied())
            }
            (Told::In(one), Told::In(other)) => {
                let (few, many) = if one.len() <= other.len() { (one, other) } else { (other, one) };
                plainest(survey, few.iter().filter(|zone| many.binary_search(zone).is_ok()).copied())
            }
        };
        match shared {
            Some(zone) => Some(Some(zones[zone as usize].example.clone())),
            None => (at_start(survey.rule(one)) && at_start(survey.rule(other))).then_some(None),
        }
    }
}

/// So many zones are looked at for an example.
const MOST_EXAMPLES: usize = 16;

/// Of the first few zones the one whose example is the likeliest to be thought of.
fn plainest(survey: &Survey<'_>, zones: impl Iterator<Item = u32>) -> Option<u32> {
    zones.take(MOST_EXAMPLES).min_by_key(|zone| oddness(&survey.zones.zones[*zone as usize].example))
}

/// What decides whether a rule meets another where both are told: whom it is for, its place, and its patterns.
fn kind(rule: &Rule, is_guidance: bool) -> u64 {
    let mut hasher = FxHasher::default();
    let audience = is_guidance.then(|| guidance::assistants(rule)).flatten();
    (audience, rule.level, rule.found.anchor.path.depth(), rule.reach).hash(&mut hasher);
    (rule.scope.base.as_str(), rule.scope.below.as_str()).hash(&mut hasher);
    for patterns in [&rule.scope.paths, &rule.scope.except] {
        patterns.items.len().hash(&mut hasher);
        patterns.items.iter().for_each(|item| item.text.hash(&mut hasher));
    }
    hasher.finish()
}

/// Whether two rules can be told to one assistant.
fn can_meet(survey: &Survey<'_>, one: RuleId, other: RuleId) -> bool {
    if one.assistant != other.assistant {
        return false;
    }
    if survey.profile(one).name != guidance::PROFILE {
        return true;
    }
    match (guidance::assistants(survey.rule(one)), guidance::assistants(survey.rule(other))) {
        (Some(one), Some(other)) => one.iter().any(|name| other.contains(name)),
        _ => true,
    }
}

/// Whether it is told before a file is touched.
fn at_start(rule: &Rule) -> bool {
    rule.reach == Reach::Standing && (rule.level != Level::Folder || rule.found.anchor.path.is_root())
}

/// Rules gathered one after another, to find those that a further one meets without trying each.
#[derive(Default)]
pub(super) struct Crowd {
    by_zone: FxHashMap<(usize, u32), Vec<Member>>,
    everywhere: FxHashMap<usize, Vec<Member>>,
    any: FxHashMap<usize, Vec<Member>>,
}

/// A number of the caller's, and the kind of its rule.
type Member = (u64, u32);

/// So many of a kind are kept for a zone: enough to name a partner. Whether two rules meet depends on their kinds, so that
/// one that is not kept has a like that is.
const MOST_OF_A_KIND: usize = 12;
/// So many partners are tried for one rule. More kinds in one zone than that were made to keep us busy.
const MOST_TRIED: usize = 600;

impl Crowd {
    /// Adds a rule under a number of the caller's.
    pub fn add(&mut self, overlap: &Overlap, id: RuleId, number: usize) {
        let kind = overlap.kind(id);
        let push = |list: &mut Vec<Member>| {
            if list.iter().filter(|(other, _)| *other == kind).count() < MOST_OF_A_KIND {
                list.push((kind, number as u32));
            }
        };
        push(self.any.entry(id.assistant).or_default());
        match overlap.told(id) {
            Told::Everywhere => push(self.everywhere.entry(id.assistant).or_default()),
            Told::In(zones) => {
                zones.iter().for_each(|zone| push(self.by_zone.entry((id.assistant, *zone)).or_default()))
            }
        }
    }

    /// The numbers of rules that may be told where a rule is, the first ones first. Whether they meet is for
    /// [`Overlap::of`] to say.
    pub fn partners(&self, overlap: &Overlap, id: RuleId) -> Vec<usize> {
        let everywhere = self.everywhere.get(&id.assistant).into_iter().flatten();
        let mut found: Vec<u32> = everywhere.map(|(_, number)| *number).collect();
        match overlap.told(id) {
            Told::In(zones) if !zones.is_empty() => {
                for zone in zones {
                    let here = self.by_zone.get(&(id.assistant, *zone)).into_iter().flatten();
                    found.extend(here.map(|(_, number)| *number));
                    if found.len() > 4 * MOST_TRIED {
                        break;
                    }
                }
            }
            _ => found.extend(self.any.get(&id.assistant).into_iter().flatten().map(|(_, number)| *number)),
        }
        found.sort_unstable();
        found.dedup();
        found.truncate(MOST_TRIED);
        found.into_iter().map(|number| number as usize).collect()
    }
}
