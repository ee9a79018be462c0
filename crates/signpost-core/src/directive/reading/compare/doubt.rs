//! What no rule tells: two clauses that speak of the same and are opposed in something.

use super::near::{Match, matched, telling, weight};
use super::numbers::numbers;
use super::verdict::{Because, Verdict, contradiction};
use crate::directive::reading::units::Role;
use crate::directive::reading::{Reading, Unit};

/// What only a reader can tell: they speak of the same, and something in them is opposed.
pub(super) fn doubt(one: &Reading, other: &Reading) -> Option<Verdict> {
    let (a, b): (Vec<&Unit>, Vec<&Unit>) = (one.units.iter().collect(), other.units.iter().collect());
    if one.reported || other.reported || is_fragment(one, &a) || is_fragment(other, &b) {
        return None;
    }
    let found = matched(&a, &b);
    if found.other_kind {
        return None;
    }
    let total = weight(&telling(&a, false)).min(weight(&telling(&b, false)));
    let shared: f32 = found
        .pairs
        .iter()
        .filter(|(a, b)| !telling(&[*a], false).is_empty() && !telling(&[*b], false).is_empty())
        .map(|(a, b)| a.weight.min(b.weight))
        .sum();
    let thing = |unit: &Unit| !telling(&[unit], true).is_empty();
    let of_one_thing = found.pairs.iter().any(|(a, b)| thing(a) && thing(b));
    if shared < 0.9 || shared < DOUBT * total || !of_one_thing {
        return None;
    }
    let numbers = numbers(&one.numbers, &other.numbers);
    let most = weight(&telling(&a, false)).max(weight(&telling(&b, false)));
    if shared < DOUBT_OF_BOTH * most {
        return None;
    }
    // The more they share, the likelier it is; never as likely as what a rule tells.
    let likely =
        |found: Option<Verdict>| found.map(|found| Verdict { score: 0.2 + 0.3 * (shared / most).min(1.0), ..found });
    likely(if (one.affirms == other.affirms) != found.turned.is_multiple_of(2) && !one.need_not && !other.need_not {
        contradiction(Because::OppositeAndMore, 1)
    } else if numbers.differ && !numbers.same {
        contradiction(Because::OtherNumber, 1)
    } else if !found.choices.is_empty() && one.affirms && other.affirms {
        contradiction(Because::OtherChoice, 1)
    } else if one.affirms && other.affirms && other_values(&found) {
        contradiction(Because::OtherValue, 1)
    } else {
        None
    })
}

/// Whether each has one thing of its own, in the same place of the sentence.
fn other_values(found: &Match<'_>) -> bool {
    let own = |rest: &[&Unit]| -> Option<Role> {
        match telling(rest, false)[..] {
            [unit] => Some(unit.role),
            _ => None,
        }
    };
    let (a, b) = (own(&found.rest[0]), own(&found.rest[1]));
    a.is_some() && a == b && a == Some(Role::Value)
}

/// So much of what the shorter one says the other has to say too.
const DOUBT: f32 = 0.5;
/// So much of what the longer one says.
const DOUBT_OF_BOTH: f32 = 0.3;

/// A lone word, a command or a heading's words say nothing: `Tests`, `make lint`, `Services and selectors`.
pub(super) fn is_fragment(reading: &Reading, main: &[&Unit]) -> bool {
    let silent = reading.negations == 0 && reading.numbers.is_empty() && !reading.asks;
    let acts = main.iter().any(|unit| unit.verbal || unit.light_act || unit.core_act);
    silent && (main.len() < 2 || !acts && !main.iter().any(|unit| unit.is_choice()))
}
