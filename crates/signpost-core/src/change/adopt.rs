//! Adopting: bringing the files of assistants into the guidance.
//!
//! What several assistants are told in the same words becomes one rule; scope, reach and level stay as they are. A
//! file in a folder becomes a rule of that folder's own `guidance/`, so that it keeps its place in every brief.
//! Files that say nearly the same are cut into sections, and sections into list items and paragraphs; what
//! differs is laid side by side, and unless one version is chosen each assistant keeps its own.
//!
//! Nothing is deleted and nothing is overwritten: the result are new rules, and entries for `signpost.lock` by
//! which publishing knows the adopted files for its own. [`check`] says for every zone whether publishing would
//! tell each assistant the same as before.

mod align;
mod check;
pub(crate) mod cut;
mod names;
mod read;

use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::group;
use crate::change::publish::changes::link_mark;
use crate::change::publish::options::name_in;
use crate::directive::Outline;
use crate::pattern::Pattern;
use crate::profile::{Profile, Reach};
use crate::project::guidance::{self, Kept};
use crate::project::lock::{LockedFile, hash};
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace};
use align::akin;
pub use check::{CheckError, Checked, ZoneChange, check};
use cut::Unit;
use names::stem;
pub(crate) use names::{Names, slug};
pub(crate) use read::patterns_from;
use read::{hidden_below, read};
use rustc_hash::FxHashSet;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

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

/// What rules can share: files with the same address say the same where their words do.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord)]
struct Address {
    base: RepoPath,
    reach: Reach,
    paths: Vec<String>,
    except: Vec<String>,
    summary: Option<String>,
}

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
/// `signpost.lock` can't be read.
pub fn adopt(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
    choose: &mut dyn FnMut(&Difference) -> Option<usize>,
) -> Result<Adoption, crate::project::workspace::WorkspaceError> {
    let lock = workspace.lock()?;
    let mut adoption = Adoption::default();
    let mut by_address: BTreeMap<Address, Vec<Adoptee>> = BTreeMap::new();
    for (number, profile) in profiles.iter().enumerate() {
        for rule in workspace.rules(profile, project) {
            let hidden = hidden_below(project, workspace, profile, &rule);
            match read(workspace, profile, number, &rule, &lock, &hidden) {
                Ok(Some((address, adoptee))) => by_address.entry(address).or_default().push(adoptee),
                Ok(None) => {}
                Err(why) => adoption.leave(rule.file(), why),
            }
        }
    }
    let in_use = workspace.assistants(&[], project)?;
    let others = in_use.iter().any(|one| !profiles.iter().any(|own| own.name == one.profile.name));
    let mut writer =
        Writer { profiles, others, names: Names::taken(workspace, project)?, kept: BTreeMap::new(), adoption };
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
    adoption.rules.sort_by(|a, b| a.path.cmp(&b.path));
    adoption.files.sort_by(|a, b| a.path.cmp(&b.path));
    adoption.links = adoption.files.iter().filter(|file| file.hash.starts_with("link:")).count();
    Ok(adoption)
}

impl Adoption {
    fn leave(&mut self, file: &Location, why: impl Into<String>) {
        self.left.push(LeftAlone { path: file.clone(), why: why.into() });
    }
}

struct Writer<'a, 'p> {
    profiles: &'a [&'p Profile],
    /// Whether assistants are in use that nothing is adopted of.
    others: bool,
    names: Names,
    /// What the header of each file holds beside, and how the note is found in its place, by profile and file.
    kept: BTreeMap<(usize, RepoPath), (Kept, Arc<Rule>)>,
    adoption: Adoption,
}

impl Writer<'_, '_> {
    /// Writes the rules of one address.
    fn address(
        &mut self,
        workspace: &Workspace<'_>,
        address: &Address,
        adoptees: Vec<Adoptee>,
        choose: &mut dyn FnMut(&Difference) -> Option<usize>,
    ) {
        let mut written: BTreeMap<RepoPath, BTreeSet<RepoPath>> = BTreeMap::new();
        // Whole files in the same words are one text.
        let mut texts: Vec<Adoptee> = Vec::new();
        for one in &adoptees {
            for file in &one.files {
                self.kept.insert((one.profile, file.clone()), (one.kept.clone(), one.rule.clone()));
            }
        }
        for one in adoptees {
            let same = |other: &&mut Adoptee| {
                other.squeezed == one.squeezed && other.members.is_disjoint(&one.members) || other.files == one.files
            };
            match texts.iter_mut().find(same) {
                Some(other) => {
                    other.members.extend(one.members);
                    other.files.extend(one.files);
                }
                None => texts.push(one),
            }
        }
        let mut kin = akin(&texts).into_iter();
        let (together, alone): (Vec<Adoptee>, Vec<Adoptee>) =
            texts.into_iter().partition(|_| kin.next().unwrap_or(false));
        if !together.is_empty() {
            let pieces = self.align(&together, choose);
            let own: Vec<Option<String>> = pieces
                .iter()
                .map(|piece| {
                    together
                        .iter()
                        .filter(|one| !one.files.is_disjoint(&piece.files))
                        .find_map(|one| self.note_name(one))
                })
                .collect();
            for (number, piece) in pieces.iter().enumerate() {
                let title = if piece.title.is_empty() { "general".to_owned() } else { slug(&piece.title) };
                // A note keeps its name, and so its turn among the others.
                let name = match &own[number] {
                    Some(name) if own.iter().filter(|one| *one == &own[number]).count() == 1 => name.clone(),
                    Some(name) => {
                        let turn = own[..number].iter().filter(|one| *one == &own[number]).count() + 1;
                        format!("{name}-{turn}")
                    }
                    None if pieces.len() == 1 => title,
                    None => format!("{:02}-{title}", (number + 1) * 10),
                };
                self.rule(workspace, address, &name, piece, &mut written);
            }
        }
        for one in &alone {
            let (members, files) = (one.members.clone(), one.files.clone());
            let piece = Piece { title: String::new(), text: one.body.clone(), members, files };
            let name = self.name(one);
            self.rule(workspace, address, &name, &piece, &mut written);
        }
        for file in together.iter().chain(&alone).flat_map(|one| &one.files) {
            let file = Location::root(file.clone());
            self.record(workspace, &file, workspace.document(&file).on_disk(), &written);
        }
    }

    /// Notes an adopted file for the lock.
    fn record(
        &mut self,
        workspace: &Workspace<'_>,
        file: &Location,
        bytes: &[u8],
        written: &BTreeMap<RepoPath, BTreeSet<RepoPath>>,
    ) {
        let path = file.path.clone();
        // Behind a link to a folder there is nothing that publishing could replace.
        let mut folders = file.path.folder().way().into_iter().skip(1);
        if folders.any(|folder| workspace.tree().link_target(&Location::root(folder)).is_some()) {
            self.adoption
                .leave(file, "it stands behind a link; it is in the guidance now, and the file stays as it is");
            return;
        }
        let mark = workspace.tree().link_target(file).map(|target| link_mark(&target));
        let known = self.adoption.files.iter_mut().find(|known| known.path == path);
        let sources: Vec<RepoPath> = written.get(&file.path).into_iter().flatten().cloned().collect();
        let assistants = |profiles: &[&Profile]| -> Vec<String> {
            let finder = crate::project::discovery::Finder::new(workspace.tree(), None);
            let mut names: Vec<String> =
                profiles.iter().filter(|one| finder.owner(one, file).is_some()).map(|one| one.name.clone()).collect();
            names.sort();
            names
        };
        match known {
            Some(known) => {
                known.sources.extend(sources);
                known.sources.sort();
                known.sources.dedup();
            }
            None => {
                let assistants = assistants(self.profiles);
                let hash = mark.unwrap_or_else(|| hash(bytes));
                self.adoption.files.push(LockedFile { path, hash, was: None, assistants, sources });
            }
        }
    }

    /// A name for a whole file: its own in a folder of notes, else what its first heading says.
    fn name(&self, one: &Adoptee) -> String {
        self.note_name(one).unwrap_or_else(|| {
            let heading = Outline::read(&one.body, 0).sections.into_iter().next();
            heading.map_or_else(|| slug(&stem(one.rule.file().path.name())), |section| slug(&section.title))
        })
    }

    /// The name of a file in a folder of notes; `None` for a file that its place names.
    fn note_name(&self, one: &Adoptee) -> Option<String> {
        let place = one.rule.place_in(self.profiles[one.profile]);
        let file = one.rule.file().path.below(&one.rule.found.anchor.path).unwrap_or_default();
        let simple = place.files.get(one.rule.found.pattern).map(Pattern::simple).unwrap_or_default();
        let simple = simple.iter().find(|simple| simple.matches(file))?;
        if simple.literal_path().is_some() {
            return None;
        }
        let rest = file.strip_prefix(&simple.literal_folders().join("/")).unwrap_or(file).trim_start_matches('/');
        let rest = stem(rest);
        // A folder a rule: the folder is its name.
        let rest = match (rest.rsplit_once('/'), simple.last_name()) {
            (Some((folder, _)), Some(_)) => folder.to_owned(),
            _ => rest,
        };
        Some(rest.split('/').map(slug).collect::<Vec<_>>().join("/"))
    }

    /// Writes a rule under a name that is not taken.
    fn rule(
        &mut self,
        workspace: &Workspace<'_>,
        address: &Address,
        name: &str,
        piece: &Piece,
        written: &mut BTreeMap<RepoPath, BTreeSet<RepoPath>>,
    ) {
        let all = piece.members.len() == self.profiles.len() && !self.others;
        let mut names: Vec<String> = piece.members.iter().map(|one| self.profiles[*one].name.clone()).collect();
        names.sort();
        let assistants = (!all).then_some(names);
        let mut taken = std::mem::take(&mut self.names);
        // What is kept depends on the name, since a note of another name keeps its own.
        let text = |name: &str| {
            let header = guidance::RuleHeader {
                summary: address.summary.clone(),
                paths: address.paths.clone(),
                except: address.except.clone(),
                reach: explicit(address),
                assistants: assistants.clone(),
                keep: self.keep(piece, name, &address.base),
                ..guidance::RuleHeader::default()
            };
            guidance::write(&header, &piece.text)
        };
        let (path, text, there) = taken.free(workspace, &address.base.join("guidance/rules"), name, text);
        self.names = taken;
        for file in &piece.files {
            written.entry(file.clone()).or_default().insert(path.clone());
        }
        self.adoption.rules.push(NewRule {
            path,
            text,
            from: piece.files.iter().cloned().collect(),
            assistants,
            there,
        });
    }

    /// What is kept for each assistant's file of a rule of that name.
    fn keep(&self, piece: &Piece, name: &str, base: &RepoPath) -> BTreeMap<String, Kept> {
        let mut keep = BTreeMap::new();
        for member in &piece.members {
            let mut own = piece.files.iter().filter_map(|file| Some((file, self.kept.get(&(*member, file.clone()))?)));
            let Some((file, (kept, rule))) = own.next() else { continue };
            let mut kept = kept.clone();
            let place = rule.place_in(self.profiles[*member]);
            let below = file.below(&rule.found.anchor.path).unwrap_or_default();
            let found = place.files.get(rule.found.pattern).and_then(|pattern| {
                let simple = pattern.simple().iter().find(|simple| simple.matches(below))?;
                let (made_up, _, shared) = name_in(simple, pattern.text(), name, base)?;
                Some(!shared && made_up != below)
            });
            if let (Some(true), Some(path)) = (found, file.below(base)) {
                kept.named(path);
            }
            if !kept.is_empty() {
                keep.insert(self.profiles[*member].name.clone(), kept);
            }
        }
        keep
    }
}

/// The reach, where the guidance would not take it for granted.
fn explicit(address: &Address) -> Option<Reach> {
    let assumed = if address.paths.is_empty() { Reach::Standing } else { Reach::Scoped };
    (address.reach != assumed).then_some(address.reach)
}
