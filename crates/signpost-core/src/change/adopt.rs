//! Adopting: bringing the files of assistants into the guidance.
//!
//! What several assistants are told in the same words becomes one rule; scope, reach and level stay as they are. A
//! file in a folder becomes a rule with that folder as its scope, or of the folder's own `guidance/` where it has one.
//! Files that say nearly the same are cut into sections, and sections into list items and paragraphs; what
//! differs is laid side by side, and unless one version is chosen each assistant keeps its own.
//!
//! Publishing afterwards writes every file as it was, which is tried before anything is written: what does not come
//! out so is taken over with more care ([`faithful`]), and where no care helps the file stays outside.
//!
//! Nothing is deleted and nothing is overwritten: the result are new rules, and entries for `signpost.lock` by
//! which publishing knows the adopted files for its own. [`check`] says for every zone whether publishing would
//! tell each assistant the same as before.

mod align;
pub(crate) mod check;
pub(crate) mod cut;
mod faithful;
mod kin;
mod names;
mod read;
mod writer;

use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::group;
use crate::change::address::Address;
use crate::profile::Profile;
use crate::project::guidance::Kept;
use crate::project::lock::{Lock, LockedFile};
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace};
pub use check::{AdoptError, Checked, ZoneChange, check};
use cut::Unit;
use faithful::{Asked, Efforts, unlike};
pub(crate) use names::{Names, slug};
use read::{Reading, read};
use rustc_hash::FxHashSet;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;
use writer::Writer;

/// A rule that adopting would write.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct NewRule {
    /// Its file.
    pub path: RepoPath,
    /// All of it.
    pub text: String,
    /// The files that it comes from.
    pub from: Vec<RepoPath>,
    /// The assistants that it is for; `None` for all.
    pub assistants: Option<Vec<String>>,
    /// Whether the very file is there already.
    pub there: bool,
}

/// A part that assistants are told in different words.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Difference {
    /// The heading that it stands under; empty at the top of a file.
    pub title: String,
    /// Each wording, with those who are told it, by name, and the file.
    pub versions: Vec<Version>,
    /// The version that was chosen, by number.
    pub chosen: Option<usize>,
}

/// One wording.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Version {
    /// The assistants, by name.
    pub assistants: Vec<String>,
    /// The first of their files.
    pub file: RepoPath,
    /// The whole text.
    pub text: String,
    /// What the other versions do not say.
    pub own: Vec<String>,
}

/// A file that is not adopted.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct LeftAlone {
    /// The file.
    pub path: Location,
    /// Why.
    pub why: String,
}

/// What adopting would do.
#[derive(Clone, Debug, Default)]
pub struct Adoption {
    /// The rules, by path.
    pub rules: Vec<NewRule>,
    /// What assistants are told in different words.
    pub differences: Vec<Difference>,
    /// The files that are not adopted.
    pub left: Vec<LeftAlone>,
    /// The adopted files, as the lock is to know them.
    pub files: Vec<LockedFile>,
    /// Adopted files that are links to others.
    pub links: usize,
    /// Files that could be in the guidance and are left as they are, for `signpost.lock` to know.
    pub apart: Vec<RepoPath>,
    /// Adopted files that will say something else, since another wording was chosen.
    pub changed: BTreeSet<RepoPath>,
}

/// A text to adopt: one file, or several in the same words.
struct Adoptee {
    /// The number of the first profile that reads it, and how it does.
    profile: usize,
    rule: Arc<Rule>,
    body: String,
    /// The text cut into sections.
    units: Vec<Unit>,
    /// The text with all blanks as one, for comparing.
    squeezed: String,
    /// All profiles that are told it.
    members: BTreeSet<usize>,
    /// All files that hold it.
    files: BTreeSet<RepoPath>,
    /// What its header holds beside.
    kept: Kept,
}

/// A section with all who are told it, and the files that hold it.
type Told = (Unit, BTreeSet<usize>, BTreeSet<RepoPath>);

/// A part of a rule to be: its text, who is told, and from which files.
#[derive(Clone)]
struct Piece {
    title: String,
    text: String,
    members: BTreeSet<usize>,
    files: BTreeSet<RepoPath>,
}

/// So many places with texts are taken over at once, so that no project fills our memory.
const MOST_AT_ONCE: usize = 2000;

/// Plans what to adopt for some assistants. `choose` is asked for each difference and answers with the number of a
/// version, or with nothing for each its own.
///
/// # Errors
/// `signpost.lock` can't be read, or what is in the guidance already can't be published.
pub fn adopt(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
    choose: &mut dyn FnMut(&Difference) -> Option<usize>,
) -> Result<Adoption, AdoptError> {
    let mut asked = Asked::new(choose);
    let mut efforts = Efforts::default();
    loop {
        let mut adoption = attempt(workspace, project, profiles, &efforts, &mut |difference| asked.ask(difference))?;
        if !efforts.raise(&unlike(workspace, project, profiles, &adoption)?) {
            adoption.differences = asked.differences();
            return Ok(adoption);
        }
    }
}

/// The files of assistants as rules, to hold something against them; not to be written.
///
/// # Errors
/// `signpost.lock` can't be read.
pub fn as_rules(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
) -> Result<Vec<NewRule>, AdoptError> {
    Ok(attempt(workspace, project, profiles, &Efforts::default(), &mut |_| None)?.rules)
}

/// What adopting would do where each file is taken over with a certain care.
fn attempt(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
    efforts: &Efforts,
    choose: &mut dyn FnMut(&Difference) -> Option<usize>,
) -> Result<Adoption, AdoptError> {
    let lock = workspace.lock()?;
    let mut adoption = Adoption::default();
    let mut by_address: BTreeMap<Address, Vec<Adoptee>> = BTreeMap::new();
    let known = lock.by_path();
    let reading = Reading { workspace, project, known: &known, efforts };
    for (number, profile) in profiles.iter().enumerate() {
        for rule in workspace.rules(profile, project) {
            match read(&reading, profile, number, &rule) {
                Ok(Some((address, adoptee))) => by_address.entry(address).or_default().push(adoptee),
                Ok(None) => {}
                Err(why) => {
                    adoption.apart.extend(rule.file().in_root().filter(|path| !known.contains_key(path)).cloned());
                    adoption.leave(rule.file(), why);
                }
            }
        }
    }
    let in_use = workspace.assistants(&[], project)?;
    let others = in_use.iter().any(|one| !profiles.iter().any(|own| own.name == one.profile.name));
    let names = Names::taken(workspace, project)?;
    let mut writer = Writer::new(profiles, others, efforts, names, adoption);
    for (number, (address, adoptees)) in by_address.into_iter().enumerate() {
        if number >= MOST_AT_ONCE {
            let why = format!(
                "{} places are taken over at once; publish, then run `signpost adopt` again",
                group(MOST_AT_ONCE)
            );
            adoptees.iter().for_each(|adoptee| writer.adoption.leave(adoptee.rule.file(), &*why));
            continue;
        }
        writer.address(workspace, &address, adoptees, choose);
    }
    let mut adoption = writer.adoption;
    let mut seen = FxHashSet::default();
    adoption.left.retain(|one| seen.insert((one.path.clone(), one.why.clone())));
    adoption.apart.sort();
    adoption.apart.dedup();
    adoption.rules.sort_by(|a, b| a.path.cmp(&b.path));
    adoption.files.sort_by(|a, b| a.path.cmp(&b.path));
    adoption.links = adoption.files.iter().filter(|file| file.hash.starts_with("link:")).count();
    Ok(adoption)
}

impl Adoption {
    /// The lock as it should be once the rules are written.
    pub fn lock(&self, old: &Lock) -> Lock {
        let own: FxHashSet<&RepoPath> = self.files.iter().map(|file| &file.path).collect();
        let adopted = |path: &RepoPath| own.contains(path);
        let mut file: Vec<LockedFile> = old.file.iter().filter(|known| !adopted(&known.path)).cloned().collect();
        file.extend(self.files.iter().cloned());
        file.sort_by(|a, b| a.path.cmp(&b.path));
        let mut left: Vec<RepoPath> =
            old.left.iter().chain(&self.apart).filter(|path| !adopted(path)).cloned().collect();
        left.sort();
        left.dedup();
        Lock { unconfirmed: old.unconfirmed, left, file }
    }

    fn leave(&mut self, file: &Location, why: impl Into<String>) {
        self.left.push(LeftAlone { path: file.clone(), why: why.into() });
    }
}
