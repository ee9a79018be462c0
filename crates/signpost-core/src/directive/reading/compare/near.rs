//! How much two units are alike, and which of two clauses' units go together.

use crate::directive::reading::Unit;
use crate::directive::reading::lexicon::Sense;
use crate::directive::reading::units::Role;

/// How near two units are: how much alike, whether turned round, and whether two members of one family.
#[derive(Clone, Copy, Default)]
pub(super) struct Near {
    pub(super) alike: f32,
    pub(super) turned: bool,
    pub(super) other_choice: bool,
    /// Two kinds of things.
    pub(super) other_kind: bool,
}

pub(super) fn near(one: &Unit, other: &Unit) -> Near {
    let alike = |alike: f32| Near { alike, ..Near::default() };
    if one.key == other.key {
        return Near { alike: 1.0, turned: one.denied != other.denied, ..Near::default() };
    }
    if one.choices().any(|own| other.choices().any(|known| own == known)) {
        // Two commands of one program are two commands.
        let commands = one.code && other.code && (one.words.len() > 1 || other.words.len() > 1);
        return alike(match (commands, one.words.len() > 1, other.words.len() > 1) {
            (true, true, true) => 0.25,
            (true, ..) => 0.82,
            _ => 1.0,
        });
    }
    if one.choices().any(|(own, _)| other.choices().any(|(family, _)| own == family)) {
        return Near { other_choice: true, ..Near::default() };
    }
    if one.kinds().any(|own| other.kinds().any(|known| own == known)) {
        return alike(1.0);
    }
    if one.kinds().any(|(own, _)| other.kinds().any(|(family, _)| own == family)) {
        return Near { other_kind: true, ..Near::default() };
    }
    let mut turned = false;
    for sense in &one.senses {
        let Sense::Concept { number, opposite } = sense else { continue };
        for known in &other.senses {
            match known {
                Sense::Concept { number: same, opposite: side } if same == number => {
                    if side == opposite {
                        return Near { alike: 0.95, turned: one.denied != other.denied, ..Near::default() };
                    }
                    turned = true;
                }
                _ => {}
            }
        }
    }
    if turned {
        return Near { alike: 0.95, turned: one.denied == other.denied, ..Near::default() };
    }
    if one.code && other.code {
        let head = |unit: &Unit| unit.words.first().copied().unwrap_or(unit.key);
        let partial = head(one) == head(other) && (one.words.len() > 1) != (other.words.len() > 1);
        let partial = partial || head(one) == head(other) && one.words.is_empty() != other.words.is_empty();
        return alike(if partial { 0.85 } else { 0.25 });
    }
    if one.code || other.code {
        let (code, plain) = if one.code { (one, other) } else { (other, one) };
        return alike(if code.words.first() == Some(&plain.key) { 0.85 } else { 0.0 });
    }
    let shares = |unit: &Unit, whole: &Unit| {
        unit.words.contains(&whole.key) || unit.words.iter().any(|word| whole.words.contains(word))
    };
    if shares(one, other) || shares(other, one) {
        return alike(0.8);
    }
    alike(0.0)
}

/// How much two units are alike, where they mean the same and not the opposite.
pub(super) fn same_sense(one: &Unit, other: &Unit) -> f32 {
    let near = near(one, other);
    if near.turned { 0.0 } else { near.alike }
}

pub(super) fn best(unit: &Unit, others: &[&Unit]) -> f32 {
    others.iter().map(|other| same_sense(unit, other)).fold(0.0, f32::max)
}

pub(super) fn most(units: &[&Unit], others: &[&Unit]) -> f32 {
    units.iter().map(|unit| best(unit, others)).fold(0.0, f32::max)
}

/// Units that carry meaning of their own.
pub(super) fn heavy<'u>(units: &[&'u Unit]) -> Vec<&'u Unit> {
    let carries = |unit: &&&Unit| (!unit.light_act || unit.code) && (!unit.words.is_empty() || unit.weight >= 0.5);
    units.iter().filter(carries).copied().collect()
}

/// The same without fillers, and without acts where they do not matter.
pub(super) fn telling<'u>(units: &[&'u Unit], without_acts: bool) -> Vec<&'u Unit> {
    let tells = |unit: &&Unit| (!unit.filler || unit.code) && (!without_acts || unit.role != Role::Act);
    heavy(units).into_iter().filter(tells).collect()
}

pub(super) fn weight(units: &[&Unit]) -> f32 {
    units.iter().map(|unit| unit.weight).sum()
}

/// The match of two clauses' units.
pub(super) struct Match<'u> {
    pub(super) pairs: Vec<(&'u Unit, &'u Unit)>,
    /// The places of each pair.
    pub(super) places: Vec<(usize, usize)>,
    pub(super) turned: usize,
    /// How much the pair that is least alike is.
    pub(super) weakest: f32,
    /// Whether they speak of two kinds of things.
    pub(super) other_kind: bool,
    pub(super) rest: [Vec<&'u Unit>; 2],
    /// Pairs of the rest that are two members of one family.
    pub(super) choices: Vec<(&'u Unit, &'u Unit)>,
}

pub(super) const ALIKE: f32 = 0.78;

pub(super) fn matched<'u>(one: &[&'u Unit], other: &[&'u Unit]) -> Match<'u> {
    let mut all: Vec<(f32, usize, usize, bool)> = Vec::new();
    let (mut choices, mut kinds) = (Vec::new(), Vec::new());
    let (mut near_one, mut near_other) = (vec![0.0f32; one.len()], vec![0.0f32; other.len()]);
    for (i, a) in one.iter().enumerate() {
        for (j, b) in other.iter().enumerate() {
            let near = near(a, b);
            near_one[i] = near_one[i].max(near.alike);
            near_other[j] = near_other[j].max(near.alike);
            if near.alike >= ALIKE {
                all.push((near.alike, i, j, near.turned));
            }
            if near.other_choice {
                choices.push((i, j));
            }
            kinds.extend(near.other_kind.then_some((i, j)));
        }
    }
    all.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    let (mut left, mut right) = (vec![true; one.len()], vec![true; other.len()]);
    let (mut pairs, mut places, mut turned, mut weakest) = (Vec::new(), Vec::new(), 0, 1.0f32);
    for (alike, i, j, is_turned) in all {
        if left[i] && right[j] {
            weakest = weakest.min(alike);
            (left[i], right[j]) = (false, false);
            pairs.push((one[i], other[j]));
            places.push((i, j));
            turned += usize::from(is_turned);
        }
    }
    let other_kind = kinds.iter().any(|(i, j)| left[*i] && right[*j]);
    join_compounds(one, &mut left, other, &mut right);
    join_compounds(other, &mut right, one, &mut left);
    // What is said twice on one side.
    (0..one.len()).for_each(|i| left[i] &= near_one[i] < 0.9);
    (0..other.len()).for_each(|j| right[j] &= near_other[j] < 0.9);
    let choices = choices.into_iter().filter(|(i, j)| left[*i] && right[*j]).map(|(i, j)| (one[i], other[j])).collect();
    let rest = |units: &[&'u Unit], left: &[bool]| -> Vec<&'u Unit> {
        units.iter().zip(left).filter(|(_, left)| **left).map(|(unit, _)| *unit).collect()
    };
    Match { pairs, places, turned, weakest, other_kind, rest: [rest(one, &left), rest(other, &right)], choices }
}

/// `lock file` is `lockfile`, and cargo fmt `cargo fmt`.
fn join_compounds(one: &[&Unit], left: &mut [bool], other: &[&Unit], right: &mut [bool]) {
    for (j, whole) in other.iter().enumerate().filter(|(_, whole)| !whole.code || whole.words.len() > 1) {
        if !right[j] {
            continue;
        }
        if whole.words.len() > 1 && whole.code {
            let parts: Vec<Option<usize>> =
                whole.words.iter().map(|word| one.iter().position(|unit| unit.key == *word)).collect();
            if parts.iter().all(Option::is_some) {
                right[j] = false;
                parts.into_iter().flatten().for_each(|at| left[at] = false);
            }
        } else if let Some(at) = one.iter().position(|unit| unit.with_next == whole.key && unit.with_next != 0) {
            right[j] = false;
            left[at] = false;
            if let Some(next) = left.get_mut(at + 1) {
                *next = false;
            }
        }
    }
}
