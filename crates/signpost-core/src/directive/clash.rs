//! Which claims cannot both be followed.

use super::families::Families;
use super::{About, Claim, Modality};

/// Whether two claims about one subject cannot both be followed.
pub fn clash(families: &Families, one: &Claim, other: &Claim) -> bool {
    let (a, b) = (one.modality, other.modality);
    let against = |allowed: Modality, denied: Modality| {
        allowed.is_for() && denied.is_against() || allowed == Modality::Allow && denied == Modality::Forbid
    };
    let opposed = against(a, b) || against(b, a);
    let both_for = a.is_for() && b.is_for();
    match (&one.about, &other.about) {
        (About::Choice { family, choice, of }, About::Choice { choice: other, of: other_of, .. }) => {
            let things = families.all.get(usize::from(*family)).is_some_and(|family| family.things);
            let shared = if things && !(of.is_empty() && other_of.is_empty()) {
                of.iter().any(|thing| other_of.contains(thing))
            } else {
                of == other_of
            };
            shared && if choice == other { opposed } else { both_for }
        }
        (About::Measure { low, high, .. }, About::Measure { low: other_low, high: other_high, .. }) => {
            let disjoint = high < other_low || other_high < low;
            let exact = low == high && other_low == other_high;
            both_for && disjoint || exact && low == other_low && opposed
        }
        (About::Act { side, .. }, About::Act { side: other, .. }) => match (side, other) {
            (Some(side), Some(other)) if side != other => both_for,
            _ => side == other && opposed,
        },
        _ => false,
    }
}
