//! What two clauses say with their numbers.

use super::near::{Match, heavy, telling};
use super::verdict::{Because, Verdict, contradiction, same};
use crate::directive::reading::units::Role;
use crate::directive::reading::{Number, Reading, Unit};

/// What becomes of the numbers of two clauses.
#[derive(Default)]
pub(super) struct Numbers {
    pub(super) same: bool,
    pub(super) differ: bool,
    /// No value keeps both.
    pub(super) disjoint: bool,
    pub(super) soft: bool,
    /// They measure different things.
    pub(super) mismatch: bool,
    pub(super) same_bound: bool,
    /// Only one has a unit.
    pub(super) bare: bool,
    /// They bound from the same side, so that the tighter one keeps both.
    pub(super) both_bound: bool,
}

pub(super) fn numbers(one: &[Number], other: &[Number]) -> Numbers {
    let mut found = Numbers::default();
    for a in one {
        for b in other {
            // `Page size: 100` measures what `50 items a page` does.
            let bare = (a.unit == 0 || b.unit == 0) && one.len() == 1 && other.len() == 1 && !a.version && !b.version;
            if a.unit != b.unit && !bare {
                found.mismatch = true;
                continue;
            }
            found.bare |= bare && a.unit != b.unit;
            let slack = if a.version || b.version { 1e-9 } else { 0.015 };
            if (a.value - b.value).abs() <= slack * a.value.abs().max(b.value.abs()) {
                found.same = true;
                found.same_bound |= a.direction == b.direction && a.direction != 0;
                continue;
            }
            found.differ = true;
            let range = |number: &Number| match number.direction {
                -1 => (f64::MIN, number.value),
                1 => (number.value, f64::MAX),
                _ => (number.value, number.value),
            };
            let ((low, high), (other_low, other_high)) = (range(a), range(b));
            found.disjoint |= high < other_low || other_high < low || a.direction == b.direction;
            found.both_bound |= a.direction == b.direction && a.direction != 0;
            found.soft |= a.soft || b.soft;
        }
    }
    found
}

/// The answer that the numbers of two clauses give.
pub(super) fn by_number(
    one: &Reading,
    other: &Reading,
    found: &Match<'_>,
    condition: i8,
    clean: bool,
    matched_heavy: bool,
    agrees: bool,
) -> Option<Verdict> {
    let numbers = numbers(&one.numbers, &other.numbers);
    let heavy_match = found.pairs.len() > 1
        || found.pairs.iter().any(|(a, b)| !telling(&[*a], false).is_empty() || !telling(&[*b], false).is_empty());
    let [rest_a, rest_b] = &found.rest;
    let left = |rest: &[&Unit]| telling(rest, true).into_iter().filter(|unit| !unit.measure).count();
    let acts = |rest: &[&Unit]| telling(rest, false).into_iter().any(|unit| unit.role == Role::Act && !unit.measure);
    // Something that both speak of, not only something that both do.
    let thing = found.pairs.iter().any(|(a, b)| !telling(&[*a], true).is_empty() || !telling(&[*b], true).is_empty())
        || one.numbers.iter().any(|number| number.version);
    let clean = clean || [rest_a, rest_b].iter().all(|rest| heavy(rest).iter().all(|unit| unit.measure));
    if acts(rest_a) && acts(rest_b) {
        return None;
    }
    let version = one.numbers.iter().any(|number| number.version);
    if numbers.differ
        && !numbers.same
        && !numbers.soft
        && numbers.disjoint
        && (matched_heavy || version)
        && condition == 0
    {
        let known = one.numbers.iter().any(|number| number.unit != 0);
        return match (left(rest_a), left(rest_b)) {
            // A limit has one value; of `under 80` and `under 100` both can be kept.
            _ if clean => {
                let set = |reading: &Reading| reading.units.iter().any(|unit| unit.measure);
                if numbers.bare && !heavy_match {
                    return None;
                }
                let sure = !numbers.bare && (!numbers.both_bound || set(one) && set(other));
                contradiction(Because::OtherNumber, if sure { 3 } else { 2 })
            }
            _ if !thing => None,
            (0, 0) => contradiction(Because::OtherNumber, if known { 2 } else { 1 }),
            (0, _) | (_, 0) if version => contradiction(Because::OtherVersion, 2),
            (0, _) | (_, 0) => contradiction(Because::OtherNumber, 1),
            _ => None,
        };
    }
    if numbers.differ && !numbers.same && !numbers.soft && !numbers.disjoint && condition == 0 && clean && matched_heavy
    {
        // `Three times` and `up to five times`.
        let exact = |reading: &Reading| reading.numbers.iter().any(|number| number.direction == 0);
        return if exact(one) != exact(other) { contradiction(Because::OtherNumber, 1) } else { None };
    }
    if numbers.mismatch && !numbers.same {
        return None;
    }
    if numbers.same && clean && condition == 0 && matched_heavy {
        if agrees || numbers.same_bound {
            return same(Because::SameNumber, 3);
        }
        if found.turned == 0 && one.negations < 2 && other.negations < 2 {
            return contradiction(Because::Opposite, 3);
        }
    }
    None
}
