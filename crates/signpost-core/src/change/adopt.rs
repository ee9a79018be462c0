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

mod check;
pub(crate) mod cut;

use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::{MOST_WORDS, group, size};
use crate::change::publish::changes::link_mark;
use crate::change::publish::options::name_in;
use crate::change::publish::source::without_blank_lines;
use crate::directive::{MOST_DIRECTIVES, Outline, normal};
use crate::pattern::escaped;
use crate::pattern::translate::translate;
use crate::pattern::{Dialect, Pattern};
use crate::profile::{Base, Kind, Level, Nested, Profile, Reach};
use crate::project::guidance::{self, Kept};
use crate::project::lock::{Lock, LockedFile, hash};
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace};
pub use check::{CheckError, Checked, ZoneChange, check};
use cut::{Unit, atoms, squeezed, units};
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
    /// The file, for people.
    pub path: String,
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
        self.left.push(LeftAlone { path: file.to_string(), why: why.into() });
    }
}

/// The names of rules that are taken, in lower case, for file systems that know no other; and whether they were taken
/// here rather than found.
#[derive(Default)]
pub(crate) struct Names(BTreeMap<String, bool>);

impl Names {
    /// Those of the guidance that is there.
    pub fn taken(workspace: &Workspace<'_>, project: &Project) -> Result<Self, crate::files::TreeError> {
        let guidance = workspace.guidance(project)?;
        let rules = guidance.iter().flat_map(|guidance| &guidance.rules);
        Ok(Names(rules.map(|rule| (rule.file().path.as_str().to_lowercase(), false)).collect()))
    }

    /// Takes a name; whether it was free.
    fn take(&mut self, path: &RepoPath) -> bool {
        let key = path.as_str().to_lowercase();
        let free = !self.0.contains_key(&key);
        self.0.entry(key).or_insert(true);
        free
    }

    /// A file of that name in a folder, with a number where the name is taken; its text, which may depend on the name; and
    /// whether it is there already: a run that was killed may have written it.
    pub fn free(
        &mut self,
        workspace: &Workspace<'_>,
        folder: &RepoPath,
        name: &str,
        text: impl Fn(&str) -> String,
    ) -> (RepoPath, String, bool) {
        let mut number = 1;
        loop {
            let name = if number == 1 { name.to_owned() } else { format!("{name}-{number}") };
            let (path, text) = (folder.join(&format!("{name}.md")), text(&name));
            if self.take(&path) {
                return (path, text, false);
            }
            if self.is_there(workspace, &path, &text) {
                self.0.insert(path.as_str().to_lowercase(), true);
                return (path, text, true);
            }
            number += 1;
        }
    }

    /// Whether a file that was there before holds this text.
    fn is_there(&self, workspace: &Workspace<'_>, path: &RepoPath, text: &str) -> bool {
        let at = Location::root(path.clone());
        self.0.get(&path.as_str().to_lowercase()) == Some(&false)
            && matches!(workspace.tree().look(&at), crate::files::Look::File(_))
            && workspace.document(&at).text == text
    }
}

/// The folders further down whose own files keep an assistant that reads only the nearest from reading a file.
fn hidden_below(project: &Project, workspace: &Workspace<'_>, profile: &Profile, rule: &Rule) -> Vec<RepoPath> {
    if profile.nested != Nested::Nearest || rule.level != Level::Folder {
        return Vec::new();
    }
    let number = workspace.profiles.iter().position(|other| other.name == profile.name).unwrap_or_default();
    let here = &rule.found.anchor.path;
    let same_place = project.candidates[number].iter().filter(|found| found.place == rule.found.place);
    let mut below: Vec<RepoPath> =
        same_place.map(|found| found.anchor.path.clone()).filter(|folder| folder.below(here).is_some()).collect();
    below.sort();
    below.dedup();
    let all = below.clone();
    below.retain(|folder| !all.iter().any(|other| folder.below(other).is_some()));
    below
}

/// A file as adopting sees it; nothing where it is in the guidance already; the reason where it stays outside.
fn read(
    workspace: &Workspace<'_>,
    profile: &Profile,
    number: usize,
    rule: &Arc<Rule>,
    lock: &Lock,
    hidden: &[RepoPath],
) -> Result<Option<(Address, Adoptee)>, String> {
    let place = rule.place_in(profile);
    let Some(path) = rule.file().in_root() else { return Err("it is yours alone, in your home folder".into()) };
    if place.personal {
        return Err("it is one person's own copy".into());
    }
    match rule.kind {
        Kind::Role => return Err("it is a role, for another conversation".into()),
        Kind::Bundle => return Err("it is a bundle, which holds more than a rule".into()),
        Kind::Rule | Kind::Called => {}
    }
    if let Some(known) = lock.file.iter().find(|file| file.path == path.as_str()) {
        let link = workspace.tree().link_target(rule.file()).map(|target| link_mark(&target));
        let published = match link {
            Some(link) => known.hash == link,
            None => known.is(rule.document.on_disk()),
        };
        if published {
            return Ok(None);
        }
        return Err(format!("it was edited since it was published: `signpost absorb {path}` takes that back"));
    }
    if rule.document.error.is_some() {
        return Err("it can't be read".into());
    }
    if let Some(line) = rule.document.bad_line() {
        return Err(format!("line {line} is not UTF-8; save it as UTF-8 first"));
    }
    if rule.document.text.len() > MOST_WORDS {
        return Err(format!("at {} it is more than any assistant reads; cut it down first", size(rule.document.bytes)));
    }
    let body = rule.document.text[rule.header.body..].replace("\r\n", "\n");
    let body = without_blank_lines(body.trim_start_matches('\u{feff}')).to_owned();
    if body.is_empty() {
        return Err("it has no text".into());
    }
    let Some(units) = units(&body) else {
        let most = group(MOST_DIRECTIVES);
        return Err(format!(
            "it holds more than {most} directives, more than any assistant follows; cut it down first"
        ));
    };
    let base = if rule.level == Level::Folder { rule.found.anchor.path.clone() } else { RepoPath::root() };
    let (paths, except) = match rule.reach {
        Reach::Scoped | Reach::Offered => patterns_from(rule, &base, place.base == Base::Root, &place.dialect)?,
        Reach::Standing | Reach::Called => Default::default(),
    };
    if rule.reach == Reach::Scoped && paths.is_empty() {
        return Err("it is scoped and has no valid pattern, so it reaches no file".into());
    }
    let (mut reach, mut paths, mut except) = (rule.reach, paths, except);
    if matches!(reach, Reach::Standing | Reach::Scoped) && !hidden.is_empty() {
        // Where only the nearest file is read, those above are not told there.
        if reach == Reach::Standing {
            (reach, paths) = (Reach::Scoped, vec!["**".to_owned()]);
        }
        let below = hidden.iter().filter_map(|folder| folder.below(&base));
        except.extend(below.map(|folder| format!("{}/**", escaped(folder, guidance::dialect()))));
    }
    let summary = rule.summary.as_ref().map(|text| text.split_whitespace().collect::<Vec<_>>().join(" "));
    let address = Address { base, reach, paths, except, summary };
    Ok(Some((
        address,
        Adoptee {
            profile: number,
            rule: rule.clone(),
            squeezed: squeezed(&body),
            body,
            units,
            members: BTreeSet::from([number]),
            files: BTreeSet::from([path.clone()]),
            kept: Kept::of(&rule.document.text, &rule.header, place),
        },
    )))
}

/// The patterns of a rule, as the guidance writes them in a folder. `from_root` says that they count from the root
/// and not from there.
pub(crate) fn patterns_from(
    rule: &Rule,
    folder: &RepoPath,
    from_root: bool,
    dialect: &Dialect,
) -> Result<(Vec<String>, Vec<String>), String> {
    let below = !folder.is_root() && from_root;
    let one = |pattern: &Pattern| -> Result<Vec<String>, String> {
        let words = translate(pattern.text(), dialect, guidance::dialect(), &RepoPath::root()).words;
        if !below {
            return Ok(words);
        }
        // They count from the root, and the rule will stand further down.
        let cut = |text: &String| {
            let rest = text.trim_start_matches('/').strip_prefix(folder.as_str())?.strip_prefix('/')?;
            Some(if rest.contains('/') { rest.to_owned() } else { format!("/{rest}") })
        };
        let any_depth = |text: &&String| !text.contains('/') || text.starts_with("**/");
        words
            .iter()
            .map(|text| cut(text).or_else(|| any_depth(&text).then(|| text.clone())))
            .collect::<Option<Vec<_>>>()
            .ok_or_else(|| format!("its pattern `{}` can't be said from {folder}/", pattern.text()))
    };
    let (mut paths, mut except) = (Vec::new(), Vec::new());
    for pattern in &rule.scope.paths.set.patterns {
        match (pattern.is_negated(), except.is_empty()) {
            (true, _) => except.extend(one(pattern)?),
            (false, true) => paths.extend(one(pattern)?),
            (false, false) => {
                return Err("its patterns take files in again after a `!`, which the guidance can't say".into());
            }
        }
    }
    for pattern in &rule.scope.except.set.patterns {
        if pattern.is_negated() {
            return Err("its exceptions have exceptions, which the guidance can't say".into());
        }
        except.extend(one(pattern)?);
    }
    Ok((paths, except))
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
        let mut written: BTreeMap<RepoPath, BTreeSet<String>> = BTreeMap::new();
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
        written: &BTreeMap<RepoPath, BTreeSet<String>>,
    ) {
        let path = file.path.as_str().to_owned();
        // Behind a link to a folder there is nothing that publishing could replace.
        let mut folders = file.path.folder().way().into_iter().skip(1);
        if folders.any(|folder| workspace.tree().link_target(&Location::root(folder)).is_some()) {
            self.adoption
                .leave(file, "it stands behind a link; it is in the guidance now, and the file stays as it is");
            return;
        }
        let mark = workspace.tree().link_target(file).map(|target| link_mark(&target));
        let known = self.adoption.files.iter_mut().find(|known| known.path == path);
        let sources: Vec<String> = written.get(&file.path).into_iter().flatten().cloned().collect();
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
        written: &mut BTreeMap<RepoPath, BTreeSet<String>>,
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
            written.entry(file.clone()).or_default().insert(path.as_str().to_owned());
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

    /// Lays the sections of files that say nearly the same side by side.
    fn align(&mut self, files: &[Adoptee], choose: &mut dyn FnMut(&Difference) -> Option<usize>) -> Vec<Piece> {
        let mut merged: Vec<(String, BTreeMap<usize, Told>)> = Vec::new();
        let mut members: Vec<usize> = files.iter().map(|one| one.profile).collect();
        members.dedup();
        for member in members {
            // Sections that come after each other stay so.
            let mut after = 0;
            let mut seen: BTreeMap<String, usize> = BTreeMap::new();
            for file in files.iter().filter(|one| one.profile == member) {
                for unit in file.units.iter().cloned() {
                    let title = unit.heading.as_deref().map(normal).unwrap_or_default();
                    let turn = seen.entry(title.clone()).or_default();
                    *turn += 1;
                    let key = format!("{title}\n{turn}");
                    let found = merged.iter().position(|(known, _)| *known == key).filter(|at| *at >= after);
                    let at = match found {
                        Some(at) => at,
                        None => {
                            let taken = merged.iter().any(|(known, _)| *known == key);
                            let key = if taken { format!("{key}\n{member}") } else { key };
                            merged.insert(after, (key, BTreeMap::new()));
                            after
                        }
                    };
                    merged[at].1.insert(member, (unit, file.members.clone(), file.files.clone()));
                    after = at + 1;
                }
            }
        }
        let mut pieces: Vec<Piece> = Vec::new();
        for (_, versions) in merged {
            for piece in self.versions(versions, choose) {
                match pieces.last_mut() {
                    // What the same assistants are told from the same files stays in one rule.
                    Some(last) if last.members == piece.members && last.files == piece.files => {
                        last.text += &format!("\n\n{}", piece.text);
                    }
                    _ => pieces.push(piece),
                }
            }
        }
        pieces
    }

    /// The pieces of one section in its versions.
    fn versions(
        &mut self,
        versions: BTreeMap<usize, Told>,
        choose: &mut dyn FnMut(&Difference) -> Option<usize>,
    ) -> Vec<Piece> {
        // Members with the same words.
        let mut groups: Vec<(String, Piece)> = Vec::new();
        for (unit, members, files) in versions.into_values() {
            let words = squeezed(&unit.text);
            match groups.iter_mut().find(|(known, _)| *known == words) {
                Some((_, piece)) => {
                    piece.members.extend(members);
                    piece.files.extend(files);
                }
                None => {
                    let title = unit.heading.clone().unwrap_or_default();
                    groups.push((words, Piece { title, text: unit.text, members, files }));
                }
            }
        }
        let mut groups: Vec<Piece> = groups.into_iter().map(|(_, piece)| piece).collect();
        if groups.len() < 2 {
            return groups;
        }
        let all: Vec<Vec<String>> = groups.iter().map(|piece| atoms(&piece.text)).collect();
        let words: Vec<BTreeSet<String>> =
            all.iter().map(|atoms| atoms.iter().map(|atom| squeezed(atom)).collect()).collect();
        let in_all = |squeezed: &String| words.iter().all(|own| own.contains(squeezed));
        let shared: Vec<String> = all[0].iter().filter(|atom| in_all(&squeezed(atom))).cloned().collect();
        let titled = !groups[0].title.is_empty();
        let is_shared = |atom: &String| in_all(&squeezed(atom));
        let is_heading = |atom: &String| atom.starts_with('#');
        let texts = shared.iter().filter(|atom| !is_heading(atom)).count();
        if texts == 0 && !titled {
            return groups;
        }
        let mut difference = Difference {
            title: groups[0].title.clone(),
            versions: groups
                .iter()
                .zip(&all)
                .map(|(piece, atoms)| Version {
                    assistants: piece.members.iter().map(|one| self.profiles[*one].name.clone()).collect(),
                    file: piece.files.first().cloned().unwrap_or_default(),
                    text: piece.text.clone(),
                    own: atoms.iter().filter(|atom| !is_shared(atom)).cloned().collect(),
                })
                .collect(),
            chosen: None,
        };
        difference.chosen = choose(&difference).filter(|number| *number < groups.len());
        let chosen = difference.chosen;
        self.adoption.differences.push(difference);
        let everybody = || groups.iter().flat_map(|piece| piece.members.iter().copied()).collect();
        let everywhere = || groups.iter().flat_map(|piece| piece.files.iter().cloned()).collect();
        if let Some(number) = chosen {
            let (title, text) = (groups[number].title.clone(), groups[number].text.clone());
            return vec![Piece { title, text, members: everybody(), files: everywhere() }];
        }
        if texts == 0 {
            return groups;
        }
        let heading = shared.iter().find(|atom| is_heading(atom)).cloned();
        let mut pieces = vec![Piece {
            title: groups[0].title.clone(),
            text: cut::joined(&shared),
            members: everybody(),
            files: everywhere(),
        }];
        for (piece, atoms) in groups.iter_mut().zip(&all) {
            let mut own: Vec<String> = atoms.iter().filter(|atom| !is_shared(atom)).cloned().collect();
            if own.is_empty() {
                continue;
            }
            own.splice(0..0, heading.clone());
            piece.text = cut::joined(&own);
            pieces.push(piece.clone());
        }
        pieces
    }
}

/// The reach, where the guidance would not take it for granted.
fn explicit(address: &Address) -> Option<Reach> {
    let assumed = if address.paths.is_empty() { Reach::Standing } else { Reach::Scoped };
    (address.reach != assumed).then_some(address.reach)
}

/// Which files share a section, or most of one, with a file of another assistant.
fn akin(files: &[Adoptee]) -> Vec<bool> {
    let cut: Vec<(BTreeSet<usize>, BTreeSet<String>)> = files
        .iter()
        .map(|one| {
            let atoms = one.units.iter().flat_map(|unit| atoms(&unit.text));
            (one.members.clone(), atoms.filter(|atom| !atom.starts_with('#')).map(|atom| squeezed(&atom)).collect())
        })
        .collect();
    let shares = |one: &(BTreeSet<usize>, BTreeSet<String>), other: &(BTreeSet<usize>, BTreeSet<String>)| {
        let shared = one.1.intersection(&other.1).count();
        one.0.is_disjoint(&other.0) && shared > 0 && shared * 4 >= one.1.len().min(other.1.len())
    };
    (0..cut.len()).map(|one| cut.iter().any(|other| shares(&cut[one], other))).collect()
}

/// A path without its ending.
fn stem(text: &str) -> String {
    match text.rsplit_once('.') {
        Some((stem, _)) if !stem.is_empty() && !stem.ends_with('/') => stem.to_owned(),
        _ => text.to_owned(),
    }
}

/// A file name made of words.
pub(crate) fn slug(words: &str) -> String {
    let mut slug = String::new();
    for c in words.chars() {
        if c.is_alphanumeric() {
            slug.extend(c.to_lowercase());
        } else if !slug.ends_with('-') && !slug.is_empty() {
            slug.push('-');
        }
        if slug.chars().count() >= 40 {
            break;
        }
    }
    let slug = slug.trim_end_matches('-');
    if slug.is_empty() { "rule".to_owned() } else { slug.to_owned() }
}
