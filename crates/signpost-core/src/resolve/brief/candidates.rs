//! Which rules could be in a brief, and what becomes of each.

use super::{Decided, Hidden, LeftOutWhy, Outcome, Question, Why};
use crate::base::repo_path::{Location, RepoPath};
use crate::files::ignore_file::HideList;
use crate::files::{Look, TreeError};
use crate::profile::{Kind, Level, Loads, Nested, Pick, Profile, Reach};
use crate::project::discovery::{Candidate, Finder};
use crate::project::rule::Rule;
use crate::project::workspace::Workspace;
use rustc_hash::FxHashMap;
use std::sync::Arc;

/// The exclusion that hides a file from an assistant: git's reading of nested ignore files, so that nothing
/// below a hidden folder is shown again.
pub(super) fn hidden_by(workspace: &Workspace<'_>, profile: &Profile, file: &RepoPath) -> Option<Hidden> {
    if profile.exclusions.is_empty() || file.is_root() {
        return None;
    }
    let mut lists: Vec<(RepoPath, Vec<(RepoPath, HideList)>)> = Vec::new();
    let way = file.way();
    for pair in way.windows(2) {
        let [folder, path] = pair else { continue };
        let here = profile.exclusions.iter().filter_map(|name| {
            let at = folder.join(name.as_str());
            let location = Location::root(at.clone());
            if !matches!(workspace.tree().look(&location), Look::File(_)) {
                return None;
            }
            Some((at, HideList::parse(workspace.document(&location).on_disk())))
        });
        lists.push((folder.clone(), here.collect()));
        let is_folder = path != file;
        // The deepest folder speaks first; of several files in one, the last.
        let verdict = lists.iter().rev().find_map(|(base, lists)| {
            let rest = path.below(base)?;
            lists.iter().rev().find_map(|(at, list)| Some((at.clone(), list.verdict(rest, is_folder)?)))
        });
        if let Some((by, hit)) = verdict.filter(|(_, hit)| hit.hides) {
            return Some(Hidden { file: file.clone(), by, hit });
        }
    }
    None
}

/// Finds the candidates of all files asked about, and decides each.
pub(super) fn decide(
    workspace: &Workspace<'_>,
    profile: &Profile,
    finder: &Finder<'_>,
    question: &Question,
    hidden: &[Hidden],
) -> Result<Vec<Decided>, TreeError> {
    let mut look_up = LookUp { workspace, profile, finder, found: FxHashMap::default() };
    if question.files.is_empty() {
        return at_start(look_up, question);
    }
    let mut all: Vec<Decided> = Vec::new();
    let mut number_of: FxHashMap<Location, usize> = FxHashMap::default();
    for file in &question.files {
        for (rule, lost) in look_up.candidates(file, &question.start)? {
            let outcome = match lost {
                _ if rule.kind == Kind::Role => Outcome::Silent,
                Some(why) => Outcome::LeftOut(why),
                None => outcome(&rule, file, hidden.iter().find(|hidden| hidden.file == *file)),
            };
            let files = if matches!(outcome, Outcome::LeftOut(_)) { Vec::new() } else { vec![file.clone()] };
            match number_of.get(rule.file()).map(|number| &mut all[*number]) {
                None => {
                    number_of.insert(rule.file().clone(), all.len());
                    all.push(Decided { rule, outcome, files });
                }
                // In one conversation the strongest outcome holds.
                Some(one) => {
                    one.files.extend(files);
                    if matches!(one.outcome, Outcome::LeftOut(_)) && !matches!(outcome, Outcome::LeftOut(_)) {
                        one.outcome = outcome;
                    }
                }
            }
        }
    }
    Ok(all)
}

/// Before a file is touched: nothing scoped is told yet.
fn at_start(mut look_up: LookUp<'_, '_>, question: &Question) -> Result<Vec<Decided>, TreeError> {
    let any_file = question.start.join("\u{0}");
    let candidates = look_up.candidates(&any_file, &question.start)?;
    let decided = candidates.into_iter().map(|(rule, lost)| {
        let outcome = match lost {
            _ if rule.kind == Kind::Role => Outcome::Silent,
            Some(why) => Outcome::LeftOut(why),
            None if rule.reach == Reach::Scoped => Outcome::Silent,
            None => outcome(&rule, &any_file, None),
        };
        Decided { rule, outcome, files: Vec::new() }
    });
    Ok(decided.collect())
}

fn outcome(rule: &Rule, file: &RepoPath, hidden: Option<&Hidden>) -> Outcome {
    match rule.reach {
        Reach::Standing => Outcome::Loaded(Why::Standing { level: rule.level, folder: rule.found.anchor.path.clone() }),
        Reach::Offered => Outcome::Offered,
        Reach::Called => Outcome::Callable,
        Reach::Scoped => match in_scope(rule, file, hidden) {
            Ok(why) => Outcome::Loaded(why),
            Err(why) => Outcome::LeftOut(why),
        },
    }
}

fn in_scope(rule: &Rule, file: &RepoPath, hidden: Option<&Hidden>) -> Result<Why, LeftOutWhy> {
    if let Some(hidden) = hidden {
        return Err(LeftOutWhy::HiddenFile { by: hidden.by.clone(), line: hidden.hit.line });
    }
    let scope = &rule.scope;
    if scope.paths.set.is_empty() {
        let invalid = scope.paths.items.iter().map(|item| item.text.clone()).collect();
        return Err(LeftOutWhy::NoValidPattern { invalid, present: scope.paths.present });
    }
    if scope.takes(file) {
        let pattern = scope.matching(file).map(|pattern| pattern.text().to_owned()).unwrap_or_default();
        return Ok(Why::InScope { pattern });
    }
    Err(LeftOutWhy::OutOfScope {
        patterns: scope.paths.set.patterns.iter().map(|pattern| pattern.text().to_owned()).collect(),
        except: scope.excepting(file).map(|pattern| pattern.text().to_owned()),
        below: file.below(&scope.below).is_none().then(|| scope.below.clone()),
    })
}

/// A rule, and why `nested` or `pick` drops it.
type MaybeDropped = (Arc<Rule>, Option<LeftOutWhy>);

struct LookUp<'a, 't> {
    workspace: &'a Workspace<'t>,
    profile: &'a Profile,
    finder: &'a Finder<'a>,
    found: FxHashMap<(usize, Location), Vec<Arc<Rule>>>,
}

impl LookUp<'_, '_> {
    fn at(&mut self, place: usize, anchor: &Location) -> Result<Vec<Arc<Rule>>, TreeError> {
        let key = (place, anchor.clone());
        if !self.found.contains_key(&key) {
            let found: Vec<Candidate> = self.finder.at(self.profile, place, anchor)?;
            let rules = found.into_iter().map(|found| self.workspace.rule(self.profile, found)).collect();
            self.found.insert(key.clone(), rules);
        }
        Ok(self.found[&key].clone())
    }

    /// The candidates for one file, each with the reason why `nested` or `pick` drops it.
    fn candidates(&mut self, file: &RepoPath, start: &RepoPath) -> Result<Vec<MaybeDropped>, TreeError> {
        let mut all = Vec::new();
        for (number, place) in self.profile.places.iter().enumerate() {
            match place.level {
                Level::User => all.extend(self.picked(number, &Location::home(RepoPath::root()))?),
                Level::Project => all.extend(self.picked(number, &Location::root(RepoPath::root()))?),
                Level::Folder => all.extend(self.on_the_way(number, file, start)?),
            }
        }
        Ok(all)
    }

    fn on_the_way(&mut self, place: usize, file: &RepoPath, start: &RepoPath) -> Result<Vec<MaybeDropped>, TreeError> {
        let (to_file, to_start) = (file.folder().way(), start.way());
        let ways: &[&Vec<RepoPath>] = match self.profile.loads {
            Loads::Touched => &[&to_file],
            Loads::Start => &[&to_start],
            Loads::Either => &[&to_file, &to_start],
        };
        let mut folders: Vec<&RepoPath> = Vec::new();
        for folder in ways.iter().copied().flatten() {
            if !folders.contains(&folder) {
                folders.push(folder);
            }
        }
        let mut by_folder = Vec::new();
        for folder in folders {
            let rules = self.picked(place, &Location::root(folder.clone()))?;
            if !rules.is_empty() {
                by_folder.push((folder, rules));
            }
        }
        if self.profile.nested == Nested::All {
            return Ok(by_folder.into_iter().flat_map(|(_, rules)| rules).collect());
        }
        // The deepest folder on the first way that has any; a way's folders come from the root down.
        let nearest = ways
            .iter()
            .find_map(|way| way.iter().rev().find(|folder| by_folder.iter().any(|(other, _)| other == folder)));
        let winner = nearest.and_then(|nearest| {
            let (_, rules) = by_folder.iter().find(|(folder, _)| *folder == nearest)?;
            rules.iter().find(|(_, lost)| lost.is_none()).map(|(rule, _)| rule.file().clone())
        });
        let mut all = Vec::new();
        for (folder, rules) in by_folder {
            for (rule, lost) in rules {
                let lost = match &winner {
                    Some(winner) if Some(folder) != nearest => Some(LeftOutWhy::NearerFile { winner: winner.clone() }),
                    _ => lost,
                };
                all.push((rule, lost));
            }
        }
        Ok(all)
    }

    /// The rules of a place at one anchor; with `pick = "first"` only those of one pattern stay.
    fn picked(&mut self, place: usize, anchor: &Location) -> Result<Vec<MaybeDropped>, TreeError> {
        let rules = self.at(place, anchor)?;
        let first = rules.iter().map(|rule| rule.found.pattern).min();
        let winner = rules.iter().find(|rule| Some(rule.found.pattern) == first).map(|rule| rule.file().clone());
        let pick = self.profile.places[place].pick;
        Ok(rules
            .into_iter()
            .map(|rule| {
                let loses = pick == Pick::First && Some(rule.found.pattern) != first;
                let why = winner.clone().filter(|_| loses).map(|winner| LeftOutWhy::EarlierPattern { winner });
                (rule, why)
            })
            .collect())
    }
}
