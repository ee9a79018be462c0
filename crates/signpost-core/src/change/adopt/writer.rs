//! The rules that adopting writes, and what the lock is to know of the files that they come from.

use super::faithful::{Effort, Efforts};
use super::kin::akin;
use super::names::{Names, slug, stem};
use super::{Adoptee, Adoption, Difference, NewRule, Piece};
use crate::base::repo_path::{Location, RepoPath};
use crate::change::address::Address;
use crate::change::publish::changes::link_mark;
use crate::change::publish::options::name_in;
use crate::directive::Outline;
use crate::pattern::Pattern;
use crate::profile::{Kind, Level, Place, Profile};
use crate::project::guidance::{self, Kept};
use crate::project::lock::{LockedFile, hash};
use crate::project::rule::Rule;
use crate::project::workspace::Workspace;
use rustc_hash::FxHashMap;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

pub(super) struct Writer<'a, 'p> {
    pub profiles: &'a [&'p Profile],
    /// Whether assistants are in use that nothing is adopted of.
    pub others: bool,
    /// The care that each file needs.
    pub efforts: &'a Efforts,
    pub names: Names,
    /// What the header of each file holds beside, and how the note is found in its place, by profile and file.
    pub kept: BTreeMap<(usize, RepoPath), (Kept, Arc<Rule>)>,
    pub adoption: Adoption,
    /// The adopted files by path, as they are numbered there.
    number_of: FxHashMap<RepoPath, usize>,
}

impl<'a, 'p> Writer<'a, 'p> {
    pub fn new(
        profiles: &'a [&'p Profile],
        others: bool,
        efforts: &'a Efforts,
        names: Names,
        adoption: Adoption,
    ) -> Self {
        let (kept, number_of) = (BTreeMap::new(), FxHashMap::default());
        Writer { profiles, others, efforts, names, kept, adoption, number_of }
    }

    /// Writes the rules of one address.
    pub fn address(
        &mut self,
        workspace: &Workspace<'_>,
        address: &Address,
        adoptees: Vec<Adoptee>,
        choose: &mut dyn FnMut(&Difference) -> Option<usize>,
    ) {
        let mut written: BTreeMap<RepoPath, BTreeSet<RepoPath>> = BTreeMap::new();
        // Whole files in the same words are one text.
        let mut texts: Vec<Adoptee> = Vec::new();
        let mut by_words: FxHashMap<String, Vec<usize>> = FxHashMap::default();
        let mut by_file: FxHashMap<RepoPath, usize> = FxHashMap::default();
        for one in &adoptees {
            for file in &one.files {
                self.kept.insert((one.profile, file.clone()), (one.kept.clone(), one.rule.clone()));
            }
        }
        for one in adoptees {
            let same = |other: &Adoptee| {
                other.squeezed == one.squeezed && other.members.is_disjoint(&one.members) || other.files == one.files
            };
            let alone = self.efforts.of_all(&one.files) >= Effort::Alone;
            let words = by_words.get(&one.squeezed).into_iter().flatten();
            let file = one.files.first().and_then(|file| by_file.get(file));
            let found = words.chain(file).copied().filter(|number| same(&texts[*number])).min();
            match found.filter(|number| !alone || texts[*number].files == one.files) {
                Some(number) => {
                    let other = &mut texts[number];
                    by_file.extend(one.files.iter().map(|file| (file.clone(), number)));
                    other.members.extend(one.members);
                    other.files.extend(one.files);
                }
                None => {
                    by_words.entry(one.squeezed.clone()).or_default().push(texts.len());
                    by_file.extend(one.files.iter().map(|file| (file.clone(), texts.len())));
                    texts.push(one);
                }
            }
        }
        let mut kin = akin(&texts).into_iter();
        let (together, alone): (Vec<Adoptee>, Vec<Adoptee>) = texts
            .into_iter()
            .partition(|one| kin.next().unwrap_or(false) && self.efforts.of_all(&one.files) < Effort::Alone);
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
                let order = (pieces.len() > 1).then_some((number as i64 + 1) * 10);
                // A note keeps its name, and so its turn among the others.
                let name = match &own[number] {
                    Some(name) if own.iter().filter(|one| *one == &own[number]).count() == 1 => name.clone(),
                    Some(name) => {
                        let turn = own[..number].iter().filter(|one| *one == &own[number]).count() + 1;
                        format!("{name}-{turn}")
                    }
                    None => title,
                };
                self.rule(workspace, address, &name, order, piece, &mut written);
            }
        }
        for one in &alone {
            let (members, files) = (one.members.clone(), one.files.clone());
            let piece = Piece { title: String::new(), text: one.body.clone(), members, files };
            // What a file says by itself stays above what others add to it later.
            let order = self.note_name(one).is_none().then_some(10);
            let name = self.name_apart(self.name(one), &address.base, &one.rule.found.anchor.path);
            self.rule(workspace, address, &name, order, &piece, &mut written);
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
        let number = *self.number_of.entry(path.clone()).or_insert(self.adoption.files.len());
        let known = self.adoption.files.get_mut(number);
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
            let folder = &one.rule.found.anchor.path;
            heading.map_or_else(
                || slug(&if folder.is_root() { stem(one.rule.file().path.name()) } else { folder.to_string() }),
                |section| slug(&section.title),
            )
        })
    }

    /// The same with the folder of the file before it, where another rule is called so.
    fn name_apart(&self, name: String, base: &RepoPath, folder: &RepoPath) -> String {
        if folder.is_root() || !self.names.is_taken(&base.join("guidance/rules"), &name) {
            return name;
        }
        let place = slug(folder.below(base).unwrap_or(folder.as_str()));
        if name == place { name } else { format!("{place}-{name}") }
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
        // All that stands behind the wildcard is the ending: `.note.md`.
        let ending = place.files[one.rule.found.pattern].text().rsplit(['*', '/']).next().unwrap_or_default();
        let bare = rest.strip_suffix(ending).filter(|bare| ending.starts_with('.') && !bare.is_empty());
        let rest = bare.map_or_else(|| stem(rest), str::to_owned);
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
        order: Option<i64>,
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
                reach: address.explicit_reach(),
                assistants: assistants.clone(),
                order,
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

    /// Whether publishing would choose the very file by itself, as far as can be told at a glance.
    fn goes_there_anyway(&self, member: usize, rule: &Rule) -> bool {
        let places = &self.profiles[member].places;
        let takes = |place: &&Place| place.kind == Kind::Rule && !place.personal && place.level != Level::User;
        let first = places.iter().position(|place| takes(&place));
        first == Some(rule.found.place) && places.iter().filter(takes).all(|place| place.keys.paths.is_none())
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
            let named = found == Some(true)
                || match self.efforts.of(file) {
                    Effort::Items => false,
                    Effort::Named | Effort::Sections => !self.goes_there_anyway(*member, rule),
                    Effort::Alone | Effort::Left(_) => true,
                };
            if let (true, Some(path)) = (named, file.below(base)) {
                kept.named(path);
            }
            if !kept.is_empty() {
                keep.insert(self.profiles[*member].name.clone(), kept);
            }
        }
        keep
    }
}
