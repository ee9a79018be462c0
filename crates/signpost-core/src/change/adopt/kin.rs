//! Which files say nearly the same as another.

use super::Adoptee;
use super::cut::{atoms, squeezed};
use std::collections::BTreeSet;

/// Which files share a section, or most of one, with a file of another assistant.
pub(super) fn akin(files: &[Adoptee]) -> Vec<bool> {
    let cut: Vec<(BTreeSet<usize>, BTreeSet<String>)> = files
        .iter()
        .map(|one| {
            let atoms = one.units.iter().flat_map(|unit| atoms(&unit.text));
            (one.members.clone(), atoms.filter(|atom| !atom.starts_with('#')).map(|atom| squeezed(&atom)).collect())
        })
        .collect();
    // Whoever has them all to itself shares nothing.
    if cut.windows(2).all(|pair| pair[0].0 == pair[1].0) {
        return vec![false; cut.len()];
    }
    let shares = |one: &(BTreeSet<usize>, BTreeSet<String>), other: &(BTreeSet<usize>, BTreeSet<String>)| {
        let shared = one.1.intersection(&other.1).count();
        one.0.is_disjoint(&other.0) && shared > 0 && shared * 4 >= one.1.len().min(other.1.len())
    };
    (0..cut.len()).map(|one| cut.iter().any(|other| shares(&cut[one], other))).collect()
}
