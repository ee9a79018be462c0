//! Merging two changes of one sequence.
//!
//! Algorithm: diff3, as Khanna, Kunal and Pierce describe it (*A Formal Investigation of Diff3*, 2007): what both sides
//! left as it was holds the rest apart; in between, the side that changed something wins, and where both did, in
//! different ways, there is a conflict. Changes that touch each other count as one.

use similar::{Algorithm, DiffOp, capture_diff_slices_deadline};
use std::hash::Hash;
use std::ops::Range;
use std::time::{Duration, Instant};

/// So long a comparison looks for the smallest difference; then a larger one must do, which may end in a conflict
/// but never in a wrong merge.
const LONGEST: Duration = Duration::from_secs(1);

/// Where both sides changed the same, in different ways.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Clash {
    /// The items of the one side.
    pub ours: Range<usize>,
    /// The items of the other.
    pub theirs: Range<usize>,
}

/// The differences between two sequences.
pub(super) fn differences<T: Eq + Hash + Ord>(old: &[T], new: &[T]) -> Vec<DiffOp> {
    capture_diff_slices_deadline(Algorithm::Myers, old, new, Some(Instant::now() + LONGEST))
}

/// Both changes of `base` in one, or all conflicts.
pub(super) fn merge<T: Clone + Eq + Hash + Ord>(base: &[T], ours: &[T], theirs: &[T]) -> Result<Vec<T>, Vec<Clash>> {
    if base == ours || ours == theirs {
        return Ok(theirs.to_vec());
    }
    if base == theirs {
        return Ok(ours.to_vec());
    }
    let (in_ours, in_theirs) = (partners(base, ours), partners(base, theirs));
    let (mut merged, mut clashes) = (Vec::new(), Vec::new());
    let (mut at_base, mut at_ours, mut at_theirs) = (0, 0, 0);
    loop {
        // The next item that all three have, and what stands before it.
        let next = (at_base..base.len()).find_map(|at| Some((at, in_ours[at]?, in_theirs[at]?)));
        let (base_end, ours_end, theirs_end) = next.unwrap_or((base.len(), ours.len(), theirs.len()));
        let (old, one, other) = (&base[at_base..base_end], &ours[at_ours..ours_end], &theirs[at_theirs..theirs_end]);
        if old == one || one == other {
            merged.extend_from_slice(other);
        } else if old == other {
            merged.extend_from_slice(one);
        } else {
            clashes.push(Clash { ours: at_ours..ours_end, theirs: at_theirs..theirs_end });
        }
        if next.is_none() {
            break;
        }
        merged.push(base[base_end].clone());
        (at_base, at_ours, at_theirs) = (base_end + 1, ours_end + 1, theirs_end + 1);
    }
    if clashes.is_empty() { Ok(merged) } else { Err(clashes) }
}

/// For each item of `old`, where it stands in `new`.
fn partners<T: Eq + Hash + Ord>(old: &[T], new: &[T]) -> Vec<Option<usize>> {
    let mut partners = vec![None; old.len()];
    for op in differences(old, new) {
        if let DiffOp::Equal { old_index, new_index, len } = op {
            (0..len).for_each(|at| partners[old_index + at] = Some(new_index + at));
        }
    }
    partners
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn words(text: &str) -> Vec<&str> {
        text.split_whitespace().collect()
    }

    #[test]
    fn changes_in_different_places_merge_and_others_clash() {
        let base = words("a b c d e");
        assert_eq!(merge(&base, &words("x b c d e"), &words("a b c d")), Ok(words("x b c d")));
        assert_eq!(merge(&base, &words("a b x c d e"), &words("a b x c d e")), Ok(words("a b x c d e")));
        assert_eq!(
            merge(&base, &words("a b x d e"), &words("a b y d e")),
            Err(vec![Clash { ours: 2..3, theirs: 2..3 }])
        );
        assert_eq!(merge(&base, &words("a b d e"), &words("a b c y d e")).unwrap_err().len(), 1);
        assert_eq!(merge(&words(""), &words("a"), &words("b")).unwrap_err().len(), 1);
    }

    proptest! {
        /// A side that changes nothing takes the other as it is, and which side is which does not matter.
        #[test]
        fn sides_are_alike(base in "[ab ]{0,12}", ours in "[abc ]{0,12}", theirs in "[abc ]{0,12}") {
            let (base, ours, theirs) = (words(&base), words(&ours), words(&theirs));
            prop_assert_eq!(merge(&base, &ours, &base), Ok(ours.clone()));
            prop_assert_eq!(merge(&base, &base, &theirs), Ok(theirs.clone()));
            prop_assert_eq!(merge(&base, &ours, &ours), Ok(ours.clone()));
            let turned = merge(&base, &theirs, &ours).map_err(|clashes| clashes.len());
            prop_assert_eq!(merge(&base, &ours, &theirs).map_err(|clashes| clashes.len()), turned);
        }
    }
}
