//! Taking files over so that publishing writes them again as they were.
//!
//! Adopting is tried, and publishing after it, in memory. A file that would not come out as it is, or another file that
//! would come of it, is taken over with more care the next time; where no care helps it stays outside.

use super::check::{AdoptError, as_adopted};
use super::{Adoption, Difference};
use crate::base::repo_path::RepoPath;
use crate::change::publish::Content;
use crate::change::publish::changes::{Change, Step};
use crate::profile::Profile;
use crate::project::workspace::{Project, Workspace};
use std::collections::{BTreeMap, BTreeSet};

/// How much care a file needs.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug, Default)]
pub(super) enum Effort {
    /// What others say too is shared with them, item by item, and publishing chooses the name.
    #[default]
    Items,
    /// The rule keeps the name of the file.
    Named,
    /// Only whole sections are shared.
    Sections,
    /// It is a rule of its own, whatever others say.
    Alone,
    /// It stays as it is, for this reason.
    Left(String),
}

/// The care for each file that needs some.
#[derive(Default)]
pub(super) struct Efforts(BTreeMap<RepoPath, Effort>);

impl Efforts {
    pub fn of(&self, file: &RepoPath) -> Effort {
        self.0.get(file).cloned().unwrap_or_default()
    }

    /// The most that any of some files needs.
    pub fn of_all<'f>(&self, files: impl IntoIterator<Item = &'f RepoPath>) -> Effort {
        files.into_iter().filter_map(|file| self.0.get(file)).max().cloned().unwrap_or_default()
    }

    /// Takes more care of files that did not come out as they are; whether there was any.
    pub fn raise(&mut self, unlike: &BTreeMap<RepoPath, String>) -> bool {
        for (file, why) in unlike {
            let effort = self.0.entry(file.clone()).or_default();
            *effort = match effort {
                Effort::Items => Effort::Named,
                Effort::Named => Effort::Sections,
                Effort::Sections => Effort::Alone,
                Effort::Alone | Effort::Left(_) => Effort::Left(why.clone()),
            };
        }
        !unlike.is_empty()
    }
}

/// Whoever chooses between wordings, asked once for each.
pub(super) struct Asked<'c> {
    choose: &'c mut dyn FnMut(&Difference) -> Option<usize>,
    answers: Vec<Difference>,
}

impl<'c> Asked<'c> {
    pub fn new(choose: &'c mut dyn FnMut(&Difference) -> Option<usize>) -> Self {
        Asked { choose, answers: Vec::new() }
    }

    pub fn ask(&mut self, difference: &Difference) -> Option<usize> {
        if let Some(known) = self.answers.iter().find(|known| known.versions == difference.versions) {
            return known.chosen;
        }
        let chosen = (self.choose)(difference).filter(|number| *number < difference.versions.len());
        self.answers.push(Difference { chosen, ..difference.clone() });
        chosen
    }

    /// All that was asked.
    pub fn differences(self) -> Vec<Difference> {
        self.answers
    }
}

/// The adopted files that publishing would write otherwise, or somewhere else too, each with how.
pub(super) fn unlike(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
    adoption: &Adoption,
) -> Result<BTreeMap<RepoPath, String>, AdoptError> {
    // What the guidance holds already may add to the files, and that is no doing of adopting's.
    let earlier = workspace.guidance(project)?.into_iter().flat_map(|guidance| guidance.rules);
    let earlier: Vec<RepoPath> = earlier.filter_map(|rule| rule.file().in_root().cloned()).collect();
    let adopted = as_adopted(workspace, profiles, adoption, &earlier)?;
    let (plan, status) = (&adopted.plan, &adopted.status);
    let own: BTreeSet<&RepoPath> = adoption.files.iter().map(|file| &file.path).collect();
    let mut unlike = BTreeMap::new();
    let mut blame = |path: &RepoPath, why: String| {
        if own.contains(path) {
            unlike.insert(path.clone(), why);
            return;
        }
        // Something that was not there: it comes of the files that its rules were made from.
        let sources = plan.files.iter().find(|file| file.path == *path).map(|file| &file.sources);
        let rules = adoption.rules.iter().filter(|rule| sources.is_some_and(|all| all.contains(&rule.path)));
        for file in rules.flat_map(|rule| &rule.from) {
            unlike.entry(file.clone()).or_insert_with(|| format!("publishing would write {path} for it"));
        }
    };
    status.pending().for_each(|change| blame(&change.path, what_changes(change)));
    for (path, _) in &status.refused {
        blame(path, "publishing could not write it again".to_owned());
    }
    unlike.retain(|path, _| !adoption.changed.contains(path));
    Ok(unlike)
}

/// What publishing would make of a file.
fn what_changes(change: &Change) -> String {
    match (&change.old, &change.new) {
        (Some(old), Some(Content::Text(new))) => {
            let old = String::from_utf8_lossy(old);
            let same = old.lines().zip(new.lines()).take_while(|(old, new)| old == new).count();
            format!("publishing would change its line {}", same + 1)
        }
        _ if change.step == Step::Remove => "publishing would write it under another name".to_owned(),
        _ => "publishing would make another file of it".to_owned(),
    }
}
