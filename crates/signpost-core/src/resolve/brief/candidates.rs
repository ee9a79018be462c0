//! Which rules could be in a brief, and what becomes of each.

use super::{Decided, Hidden, LeftOutWhy, Outcome, Question, Why};
use crate::base::repo_path::{Location, RepoPath};
use crate::files::ignore_file::hidden_on_the_way;
use crate::files::{Look, TreeError};
use crate::profile::{Kind, Level, Profile, Reach};
use crate::project::discovery::{Candidate, Finder, pick};
use crate::project::rule::Rule;
use crate::project::workspace::Workspace;
use crate::resolve::choice;
use rustc_hash::FxHashMap;
use std::sync::Arc;

/// The exclusion that hides a file from an assistant: git's reading of nested ignore files, so that nothing
/// below a hidden folder is shown again.
pub(super) fn hidden_by(workspace: &Workspace<'_>, profile: &Profile, file: &RepoPath) -> Option<Hidden> {
    if profile.exclusions.is_empty() {
        return None;
    }
    let (by, hit) = hidden_on_the_way(file, false, |folder, above| {
        choice::exclusions_in(profile, folder, &above, |list| {
            let location = Location::root(list.clone());
            let is_file = matches!(workspace.tree().look(&location), Look::File(_));
            is_file.then(|| workspace.document(&location).on_disk().to_vec())
        })
    })?;
    Some(Hidden { file: file.clone(), by, hit })
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
                Some(decided) => {
                    decided.files.extend(files);
                    if matches!(decided.outcome, Outcome::LeftOut(_)) && !matches!(outcome, Outcome::LeftOut(_)) {
                        decided.outcome = outcome;
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
    found: FxHashMap<(usize, Location), Vec<MaybeDropped>>,
}

impl LookUp<'_, '_> {
    /// The rules of a place at one anchor, once for all files asked about.
    fn at(&mut self, place: usize, anchor: Location) -> Result<Vec<MaybeDropped>, TreeError> {
        if let Some(found) = self.found.get(&(place, anchor.clone())) {
            return Ok(found.clone());
        }
        let found = pick(self.profile, self.finder.at(self.profile, place, &anchor)?);
        let read = |(found, by): (Candidate, Option<Location>)| {
            (self.workspace.rule(self.profile, found), by.map(|winner| LeftOutWhy::EarlierPattern { winner }))
        };
        let rules: Vec<MaybeDropped> = found.into_iter().map(read).collect();
        self.found.insert((place, anchor), rules.clone());
        Ok(rules)
    }

    /// The candidates for one file, each with the reason why `nested` or `pick` drops it.
    fn candidates(&mut self, file: &RepoPath, start: &RepoPath) -> Result<Vec<MaybeDropped>, TreeError> {
        let mut all = Vec::new();
        for (number, place) in self.profile.places.iter().enumerate() {
            match place.level {
                Level::User => all.extend(self.at(number, Location::home(RepoPath::root()))?),
                Level::Project => all.extend(self.at(number, Location::root(RepoPath::root()))?),
                Level::Folder => all.extend(self.on_the_way(number, &file.folder(), start)?),
            }
        }
        Ok(all)
    }

    fn on_the_way(
        &mut self,
        place: usize,
        touched: &RepoPath,
        start: &RepoPath,
    ) -> Result<Vec<MaybeDropped>, TreeError> {
        let mut folders = touched.way();
        folders.extend(start.way().into_iter().filter(|folder| !touched.is_in(folder)));
        let mut by_folder = Vec::new();
        for folder in folders.iter().filter(|folder| choice::loads(self.profile, folder, touched, start)) {
            let rules = self.at(place, Location::root(folder.clone()))?;
            if !rules.is_empty() {
                by_folder.push((folder, rules));
            }
        }
        let filled: Vec<&RepoPath> = by_folder.iter().map(|(folder, _)| *folder).collect();
        let Some(nearest) = choice::nearest(self.profile, &filled, touched, start) else { return Ok(Vec::new()) };
        let nearest_rules = by_folder.iter().filter(|(folder, _)| *folder == nearest).flat_map(|(_, rules)| rules);
        let winner = nearest_rules.filter(|(_, lost)| lost.is_none()).map(|(rule, _)| rule.file().clone()).next();
        let mut all = Vec::new();
        for (folder, rules) in by_folder {
            let displaced = winner.clone().filter(|_| !choice::stays(self.profile, folder, nearest));
            for (rule, lost) in rules {
                all.push((rule, displaced.clone().map(|winner| LeftOutWhy::NearerFile { winner }).or(lost)));
            }
        }
        Ok(all)
    }
}
