//! Files that say nearly the same, laid side by side: what all are told becomes one piece, and what differs a choice.

use super::cut::{atoms, squeezed};
use super::faithful::Effort;
use super::writer::Writer;
use super::{Adoptee, Difference, Piece, Told, Version, cut};
use crate::directive::normal;
use std::collections::{BTreeMap, BTreeSet};

/// One piece for all who are told a section in the same words.
fn with_the_same_words(versions: BTreeMap<usize, Told>) -> Vec<Piece> {
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
    groups.into_iter().map(|(_, piece)| piece).collect()
}

impl Writer<'_, '_> {
    /// Lays the sections of files that say nearly the same side by side.
    pub(super) fn align(
        &mut self,
        files: &[Adoptee],
        choose: &mut dyn FnMut(&Difference) -> Option<usize>,
    ) -> Vec<Piece> {
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
        let mut groups = with_the_same_words(versions);
        let files = groups.iter().flat_map(|piece| &piece.files);
        if groups.len() < 2 || self.efforts.of_all(files) >= Effort::Sections {
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
        let version = |(piece, atoms): (&Piece, &Vec<String>)| Version {
            assistants: piece.members.iter().map(|number| self.profiles[*number].name.clone()).collect(),
            file: piece.files.first().cloned().unwrap_or_default(),
            text: piece.text.clone(),
            own: atoms.iter().filter(|atom| !is_shared(atom)).cloned().collect(),
        };
        let versions = groups.iter().zip(&all).map(version).collect();
        let mut difference = Difference { title: groups[0].title.clone(), versions, chosen: None };
        difference.chosen = choose(&difference).filter(|number| *number < groups.len());
        let chosen = difference.chosen;
        let everybody = || groups.iter().flat_map(|piece| piece.members.iter().copied()).collect();
        let everywhere = || groups.iter().flat_map(|piece| piece.files.iter().cloned()).collect::<BTreeSet<_>>();
        if let Some(number) = chosen {
            self.adoption.changed.extend(everywhere());
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
