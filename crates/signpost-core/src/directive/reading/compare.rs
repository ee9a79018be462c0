//! Whether two directives contradict each other or say the same.

use super::lexicon::Sense;
use super::units::Role;
use super::{Number, Order, Part, Reading, Unit};

/// What two directives are to each other.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Kind {
    /// They cannot both be followed.
    Contradiction,
    /// They say the same.
    Same,
}

/// How sure that is.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Certainty {
    /// Only a reader can tell.
    Possible,
    /// More likely than not.
    Likely,
    /// As good as certain.
    Sure,
}

/// What tells.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Because {
    /// One asks for what the other forbids.
    Opposite,
    /// The same, but for words that hardly say anything.
    OppositeButWords,
    /// The same, but one says more.
    OppositeAndMore,
    /// One asks for what need not be.
    NeedNot,
    /// Another member of a family of choices.
    OtherChoice,
    /// Another value of one setting.
    OtherNumber,
    /// Another version.
    OtherVersion,
    /// Another name in the same sentence.
    OtherValue,
    /// The other way round.
    Order,
    /// One denies what the other chooses.
    DeniedChoice,
    /// Each denies what the other chooses.
    SwappedChoice,
    /// All that they say is the same.
    SameMeaning,
    /// The same, but for words that hardly say anything.
    SameButWords,
    /// One says a little more.
    SameAndMore,
    /// The same value of one setting.
    SameNumber,
    /// The same choice, set against the same.
    SameChoice,
    /// The same order.
    SameOrder,
    /// Somebody decided it.
    Decided,
}

fn score(certainty: Certainty, because: Because) -> f32 {
    match (certainty, because) {
        (Certainty::Sure, _) => 0.97,
        (Certainty::Likely, Because::OppositeAndMore) => 0.87,
        (Certainty::Likely, _) => 0.92,
        (Certainty::Possible, Because::DeniedChoice) => 0.3,
        (Certainty::Possible, Because::SameAndMore | Because::SameButWords | Because::SameMeaning) => 0.45,
        (Certainty::Possible, Because::OtherChoice) => 0.55,
        (Certainty::Possible, Because::OppositeAndMore) => 0.6,
        (Certainty::Possible, _) => 0.7,
    }
}

impl Because {
    /// In words, for who has to decide.
    pub fn words(self) -> &'static str {
        match self {
            Because::Opposite | Because::OppositeButWords => "one asks for what the other is against",
            Because::OppositeAndMore => "one asks for what the other is against, but says more",
            Because::NeedNot => "one asks for what the other leaves open",
            Because::OtherChoice => "they choose differently",
            Because::OtherNumber => "they set another value",
            Because::OtherVersion => "they name another version",
            Because::OtherValue => "the same sentence with another name in it",
            Because::Order => "they turn the order round",
            Because::DeniedChoice | Because::SwappedChoice => "one chooses what the other denies",
            Because::SameMeaning | Because::SameNumber | Because::SameChoice | Because::SameOrder => {
                "they say the same"
            }
            Because::SameButWords | Because::SameAndMore => "they say the same, but for a few words",
            Because::Decided => "somebody decided it",
        }
    }
}

/// The answer.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Verdict {
    /// What they are to each other.
    pub kind: Kind,
    /// How sure that is.
    pub certainty: Certainty,
    /// What tells.
    pub because: Because,
    /// The words of each that tell, as bytes of the directive.
    pub words: [(u32, u32); 2],
    /// How likely it is that a reader would say so too, from 0 to 1: about what was measured on labelled pairs.
    pub score: f32,
}

fn verdict(kind: Kind, because: Because, strength: i8) -> Option<Verdict> {
    let certainty = match strength {
        3.. => Certainty::Sure,
        2 => Certainty::Likely,
        1 => Certainty::Possible,
        _ => return None,
    };
    Some(Verdict { kind, certainty, because, words: [(0, 0); 2], score: score(certainty, because) })
}

fn contradiction(because: Because, strength: i8) -> Option<Verdict> {
    verdict(Kind::Contradiction, because, strength)
}

fn same(because: Because, strength: i8) -> Option<Verdict> {
    verdict(Kind::Same, because, strength)
}

/// Holds two directives against each other, each given as its clauses.
pub fn compare(one: &[Reading], other: &[Reading]) -> Option<Verdict> {
    if let ([one], [other]) = (one, other) {
        return judge(one, other);
    }
    let (mut against, mut alike) = (None::<Verdict>, Vec::new());
    for (at, a) in one.iter().enumerate() {
        for (to, b) in other.iter().enumerate() {
            match judge(a, b) {
                Some(found) if found.kind == Kind::Contradiction => {
                    against = Some(against.filter(|known| known.certainty >= found.certainty).unwrap_or(found));
                }
                Some(found) => alike.push((at, to, found)),
                None => {}
            }
        }
    }
    if alike.is_empty() {
        return against;
    }
    if against.is_some() {
        return None;
    }
    let covers = |count: usize, number: &dyn Fn(&(usize, usize, Verdict)) -> usize| {
        (0..count).all(|at| alike.iter().any(|one| number(one) == at))
    };
    let whole = covers(one.len(), &|one| one.0) || covers(other.len(), &|one| one.1);
    alike
        .first()
        .filter(|_| whole)
        .map(|(_, _, found)| Verdict { certainty: found.certainty.min(Certainty::Likely), ..*found })
}

/// How near two units are: how much alike, whether turned round, and whether two members of one family.
#[derive(Clone, Copy, Default)]
struct Near {
    alike: f32,
    turned: bool,
    other_choice: bool,
    /// Two kinds of things.
    other_kind: bool,
}

fn near(one: &Unit, other: &Unit) -> Near {
    let alike = |alike: f32| Near { alike, ..Near::default() };
    if one.key == other.key {
        return Near { alike: 1.0, turned: one.denied != other.denied, ..Near::default() };
    }
    let choices = |unit: &Unit| -> Vec<(u16, u16)> {
        let of = |sense: &Sense| match sense {
            Sense::Choice { family, member } => Some((*family, *member)),
            Sense::Concept { .. } | Sense::Kind { .. } => None,
        };
        unit.senses.iter().filter_map(of).collect()
    };
    let (own, others) = (choices(one), choices(other));
    if own.iter().any(|choice| others.contains(choice)) {
        // Two commands of one program are two commands.
        let commands = one.code && other.code && (one.words.len() > 1 || other.words.len() > 1);
        return alike(match (commands, one.words.len() > 1, other.words.len() > 1) {
            (true, true, true) => 0.25,
            (true, ..) => 0.82,
            _ => 1.0,
        });
    }
    if own.iter().any(|(family, _)| others.iter().any(|(other, _)| family == other)) {
        return Near { other_choice: true, ..Near::default() };
    }
    let kinds = |unit: &Unit| -> Vec<(u16, u16)> {
        let of = |sense: &Sense| match sense {
            Sense::Kind { family, member } => Some((*family, *member)),
            _ => None,
        };
        unit.senses.iter().filter_map(of).collect()
    };
    let (own, others) = (kinds(one), kinds(other));
    if own.iter().any(|kind| others.contains(kind)) {
        return alike(1.0);
    }
    if own.iter().any(|(family, _)| others.iter().any(|(other, _)| family == other)) {
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
fn same_sense(one: &Unit, other: &Unit) -> f32 {
    let near = near(one, other);
    if near.turned { 0.0 } else { near.alike }
}

fn best(unit: &Unit, others: &[&Unit]) -> f32 {
    others.iter().map(|other| same_sense(unit, other)).fold(0.0, f32::max)
}

fn most(units: &[&Unit], others: &[&Unit]) -> f32 {
    units.iter().map(|unit| best(unit, others)).fold(0.0, f32::max)
}

/// Units that carry meaning of their own.
fn heavy<'u>(units: &[&'u Unit]) -> Vec<&'u Unit> {
    let carries = |unit: &&&Unit| (!unit.light_act || unit.code) && (!unit.words.is_empty() || unit.weight >= 0.5);
    units.iter().filter(carries).copied().collect()
}

/// The same without fillers, and without acts where they do not matter.
fn telling<'u>(units: &[&'u Unit], without_acts: bool) -> Vec<&'u Unit> {
    let tells = |unit: &&Unit| (!unit.filler || unit.code) && (!without_acts || unit.role != Role::Act);
    heavy(units).into_iter().filter(tells).collect()
}

fn weight(units: &[&Unit]) -> f32 {
    units.iter().map(|unit| unit.weight).sum()
}

/// Whether the conditions of two clauses are the same (0), only one has some (1), or they differ (2).
fn conditions(one: &Reading, other: &Reading) -> i8 {
    let limits = |reading: &Reading| -> Vec<Unit> {
        let units = reading.units.iter().filter(|unit| matches!(unit.part, Part::Condition | Part::Exception));
        units.cloned().collect()
    };
    let (own, others) = (limits(one), limits(other));
    if own.is_empty() && others.is_empty() {
        return if one.conditional != other.conditional { 1 } else { 0 };
    }
    let inside = |some: &[Unit], all: &[Unit]| {
        let all: Vec<&Unit> = all.iter().collect();
        some.iter().all(|unit| best(unit, &all) >= 0.8)
    };
    if inside(&own, &other.units) && inside(&others, &one.units) {
        0
    } else if !own.is_empty() && !others.is_empty() {
        2
    } else {
        1
    }
}

/// The match of two clauses' units.
struct Match<'u> {
    pairs: Vec<(&'u Unit, &'u Unit)>,
    /// The places of each pair.
    places: Vec<(usize, usize)>,
    turned: usize,
    /// How much the pair that is least alike is.
    weakest: f32,
    /// Whether they speak of two kinds of things.
    other_kind: bool,
    rest: [Vec<&'u Unit>; 2],
    /// Pairs of the rest that are two members of one family.
    choices: Vec<(&'u Unit, &'u Unit)>,
}

const ALIKE: f32 = 0.78;

fn matched<'u>(one: &[&'u Unit], other: &[&'u Unit]) -> Match<'u> {
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

/// What becomes of the numbers of two clauses.
#[derive(Default)]
struct Numbers {
    same: bool,
    differ: bool,
    /// No value keeps both.
    disjoint: bool,
    soft: bool,
    /// They measure different things.
    mismatch: bool,
    same_bound: bool,
    /// Only one has a unit.
    bare: bool,
    /// They bound from the same side, so that the tighter one keeps both.
    both_bound: bool,
}

fn numbers(one: &[Number], other: &[Number]) -> Numbers {
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

/// The answer for two clauses, with the words of each that tell.
fn judge(one: &Reading, other: &Reading) -> Option<Verdict> {
    let found = decide(one, other).or_else(|| doubt(one, other))?;
    let words = words(found.because, one, other).unwrap_or_default();
    Some(Verdict { words, ..found })
}

type Words = [(u32, u32); 2];

fn words(because: Because, one: &Reading, other: &Reading) -> Option<Words> {
    let all = |reading: &'_ Reading| -> Vec<Unit> { reading.units.clone() };
    let (a, b) = (all(one), all(other));
    let pairs = || a.iter().flat_map(|unit| b.iter().map(move |other| (unit, other)));
    let spans = |(a, b): (&Unit, &Unit)| [a.span, b.span];
    match because {
        Because::OtherNumber | Because::OtherVersion => {
            let numbers = one.numbers.iter().flat_map(|a| other.numbers.iter().map(move |b| (a, b)));
            let differ =
                |(a, b): &(&Number, &Number)| (a.unit == b.unit || a.unit == 0 || b.unit == 0) && a.value != b.value;
            numbers.into_iter().find(differ).map(|(a, b)| [a.span, b.span])
        }
        Because::OtherChoice => pairs().find(|(a, b)| near(a, b).other_choice).map(spans),
        Because::OtherValue => pairs()
            .find(|(a, b)| a.code && b.code && a.key != b.key && a.role == Role::Value && b.role == Role::Value)
            .map(spans),
        Because::DeniedChoice | Because::SwappedChoice => {
            let denied = |unit: &Unit| unit.part == Part::Contrast;
            pairs().filter(|(a, b)| denied(a) != denied(b)).find(|(a, b)| same_sense(a, b) >= 0.8).map(spans)
        }
        _ => {
            // Of several the first.
            let alike: Vec<(&Unit, &Unit)> = pairs().filter(|(a, b)| near(a, b).alike >= ALIKE).collect();
            alike.into_iter().rev().max_by(|(a, _), (b, _)| a.weight.total_cmp(&b.weight)).map(spans)
        }
    }
}

fn decide(one: &Reading, other: &Reading) -> Option<Verdict> {
    if one.reported || other.reported {
        return None;
    }
    fn main(reading: &Reading) -> Vec<&Unit> {
        reading.units.iter().filter(|unit| matches!(unit.part, Part::Main | Part::Order)).collect()
    }
    let (a, b) = (main(one), main(other));
    if a.is_empty() || b.is_empty() || is_fragment(one, &a) || is_fragment(other, &b) {
        return None;
    }
    let mut condition = conditions(one, other);
    if one.conditional && other.conditional && one.condition_denied != other.condition_denied {
        condition = 2;
    }
    let both_for = one.affirms == other.affirms;
    if let (Some(Order::Before | Order::After), Some(Order::Before | Order::After)) = (one.order, other.order) {
        match (both_for, same_order(one, other)) {
            (true, Some(false)) => return contradiction(Because::Order, 3),
            (true, Some(true)) => return same(Because::SameOrder, 3),
            (false, Some(true)) => return contradiction(Because::Opposite, 2),
            (false, Some(false)) => return None,
            // The same occasion, and other acts.
            (_, None) if one.order == other.order && same_occasion(one, other) => {}
            (_, None) => return None,
        }
    }
    let mut found = matched(&a, &b);
    if found.other_kind {
        return None;
    }
    if condition == 0 {
        // What one says as a condition the other may say in passing.
        let limits = |reading: &Reading| -> Vec<Unit> {
            let units = reading.units.iter().filter(|unit| matches!(unit.part, Part::Condition | Part::Exception));
            units.cloned().collect()
        };
        for (rest, other) in found.rest.iter_mut().zip([other, one]) {
            let limits = limits(other);
            let limits: Vec<&Unit> = limits.iter().collect();
            rest.retain(|unit| best(unit, &limits) < 0.8);
        }
    }
    for (rest, said_of) in found.rest.iter_mut().zip([&other.said_of, &one.said_of]) {
        let said_of: Vec<&Unit> = said_of.iter().collect();
        rest.retain(|unit| best(unit, &said_of) < 0.8);
    }
    let [rest_a, rest_b] = &found.rest;
    let (heavy_a, heavy_b) = (heavy(rest_a), heavy(rest_b));
    let clean = heavy_a.is_empty() && heavy_b.is_empty();
    let vague = found.weakest < 0.85;
    let matched_weight: f32 = found.pairs.iter().map(|(a, b)| a.weight.min(b.weight)).sum();
    // The same condition is something in common too.
    let matched_weight =
        matched_weight + if condition == 0 && one.conditional && other.conditional { 0.5 } else { 0.0 };
    let matched_heavy = found.pairs.iter().any(|(a, b)| !heavy(&[a]).is_empty() || !heavy(&[b]).is_empty());
    let agrees = both_for == found.turned.is_multiple_of(2);
    let hard = !one.need_not && !other.need_not;
    let excepts = one.excepts || other.excepts;
    let without_exception = one.without_exception || other.without_exception;
    if condition == 0
        && let Some(verdict) = by_contrast(one, other, &a, &b, &found)
    {
        return verdict;
    }
    let counts =
        |reading: &Reading| reading.numbers.iter().any(|number| number.unit != 0 || number.value.fract() != 0.0);
    if !one.numbers.is_empty() && !other.numbers.is_empty() {
        return by_number(one, other, &found, condition, clean, !found.pairs.is_empty(), agrees);
    }
    if !found.choices.is_empty() {
        return by_choice(one, other, &found, condition);
    }
    if counts(one) || counts(other) {
        return None;
    }
    if let Some(found) = by_value(one, other, &found, condition, matched_weight) {
        return Some(found);
    }
    let strict = telling(rest_a, false).is_empty() && telling(rest_b, false).is_empty();
    if condition == 0 && matched_heavy && !agrees && found.turned <= 1 {
        if clean {
            let limits = one.only || other.only || one.only_then || other.only_then;
            return match () {
                () if vague || is_other_thing(&found) => contradiction(Because::Opposite, 1),
                () if !hard => contradiction(Because::NeedNot, 2),
                () if limits && !(one.only && other.only) => contradiction(Because::Opposite, 1),
                () => contradiction(Because::Opposite, if !excepts || without_exception { 3 } else { 2 }),
            };
        }
        if strict {
            return contradiction(
                Because::OppositeButWords,
                if hard && !excepts && !vague && !is_other_thing(&found) { 2 } else { 1 },
            );
        }
        // When something is done says less than what is done.
        let (mut extra_a, mut extra_b) = (telling(rest_a, false), telling(rest_b, false));
        if one.order.is_none() != other.order.is_none() {
            extra_a.retain(|unit| unit.part != Part::Order);
            extra_b.retain(|unit| unit.part != Part::Order);
        }
        if (extra_a.is_empty() || extra_b.is_empty())
            && weight(&extra_a) + weight(&extra_b) <= 1.3
            && matched_weight >= 1.0
        {
            let extra = extra_a.first().or(extra_b.first());
            let asking = if extra_a.is_empty() { other.affirms } else { one.affirms };
            let thing = |unit: &Unit| !telling(&[unit], true).is_empty();
            if !found.pairs.iter().any(|(a, b)| thing(a) && thing(b)) {
                return None;
            }
            let act = extra.is_some_and(|unit| unit.role == Role::Act);
            let scope = extra.is_some_and(|unit| unit.role == Role::Value && unit.words.len() > 1);
            let likely = !vague
                && hard
                && !excepts
                && !scope
                && (asking && matched_weight >= 2.2 || act && matched_weight >= 1.5);
            return contradiction(Because::OppositeAndMore, if likely { 2 } else { 1 });
        }
        return None;
    }
    // Asked for in one case, and forbidden without one.
    let open_case = |asking: &Reading, denying: &Reading| {
        asking.affirms && asking.conditional && !denying.conditional && !asking.only
    };
    if condition == 1
        && clean
        && matched_heavy
        && !agrees
        && found.turned == 0
        && hard
        && (open_case(one, other) || open_case(other, one))
    {
        return contradiction(Because::OppositeAndMore, 1);
    }
    if condition == 0 && matched_heavy && agrees && found.turned != 1 {
        let force = |reading: &Reading| (reading.need_not, reading.allows && reading.affirms);
        let inverted = found.places.iter().any(|(i, j)| found.places.iter().any(|(k, l)| i < k && j > l));
        let ordered = |reading: &Reading| matches!(reading.order, Some(Order::First | Order::Last));
        if clean && inverted && ordered(one) && ordered(other) {
            return contradiction(Because::Order, 2);
        }
        if (one.order.is_some() || other.order.is_some()) && one.order != other.order || force(one) != force(other) {
            return None;
        }
        // Of what is left over on either side nothing says anything of its own.
        let over: Vec<&&Unit> = rest_a.iter().chain(rest_b).collect();
        let plain = clean && over.iter().all(|unit| unit.core_act || unit.filler && !unit.light_act) && over.len() <= 4;
        if plain && found.turned == 0 && matched_weight >= 1.2 {
            return same(Because::SameMeaning, if over.len() <= 3 { 3 } else { 2 });
        }
        let whole = rest_a.is_empty() && rest_b.is_empty() && !one.affirms && !other.affirms;
        if plain && (matched_weight >= 1.2 || whole && found.turned == 0 && matched_weight >= 1.0) {
            return same(Because::SameMeaning, 2);
        }
        if found.turned == 0 {
            let (extra_a, extra_b) = (telling(rest_a, false), telling(rest_b, false));
            let quiet = over.iter().all(|unit| unit.core_act || !unit.light_act);
            if strict && quiet && matched_weight >= 1.6 {
                return same(Because::SameButWords, 2);
            }
            if (extra_a.is_empty() || extra_b.is_empty())
                && weight(&extra_a) + weight(&extra_b) <= 1.0
                && matched_weight >= 2.2
                && quiet
            {
                return same(Because::SameAndMore, 1);
            }
        }
    }
    None
}

/// What only a reader can tell: they speak of the same, and something in them is opposed.
fn doubt(one: &Reading, other: &Reading) -> Option<Verdict> {
    let all = |reading: &'_ Reading| -> Vec<Unit> { reading.units.clone() };
    let (a, b) = (all(one), all(other));
    let (a, b): (Vec<&Unit>, Vec<&Unit>) = (a.iter().collect(), b.iter().collect());
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
fn is_fragment(reading: &Reading, main: &[&Unit]) -> bool {
    let chosen = |unit: &&&Unit| unit.senses.iter().any(|sense| matches!(sense, Sense::Choice { .. }));
    let silent = reading.negations == 0 && reading.numbers.is_empty() && !reading.asks;
    let acts = main.iter().any(|unit| unit.verbal || unit.light_act || unit.core_act);
    silent && (main.len() < 2 || !acts && main.iter().filter(chosen).count() == 0)
}

/// Whether what is turned round is what they speak of, not what they ask: public functions here, private ones there.
fn is_other_thing(found: &Match<'_>) -> bool {
    let acts =
        found.pairs.iter().any(|(a, b)| (a.role == Role::Act || b.role == Role::Act) && !heavy(&[a, b]).is_empty());
    let turned = found.pairs.iter().filter(|(a, b)| near(a, b).turned);
    let subject = |a: &Unit, b: &Unit| found.pairs.iter().any(|(c, d)| c.span.0 > a.span.0 && d.span.0 > b.span.0);
    turned.clone().count() == 1
        && turned.into_iter().all(|(a, b)| {
            a.role == Role::Thing && b.role == Role::Thing && subject(a, b) && (acts || a.span.0 == 0 || b.span.0 == 0)
        })
}

/// Whether two clauses put the same acts in the same order; `None` where they speak of others.
fn same_order(one: &Reading, other: &Reading) -> Option<bool> {
    fn acts(reading: &Reading) -> (Vec<&Unit>, Vec<&Unit>) {
        let later = |unit: &&Unit| matches!(unit.part, Part::Order | Part::Condition);
        let (second, first): (Vec<&Unit>, Vec<&Unit>) =
            reading.units.iter().filter(|unit| unit.part != Part::Contrast).partition(later);
        (or_all(first), or_all(second))
    }
    let ((a_first, a_second), (b_first, b_second)) = (acts(one), acts(other));
    if [&a_first, &a_second, &b_first, &b_second].iter().any(|units| units.is_empty()) {
        return None;
    }
    let alike = |own: &[&Unit], others: &[&Unit]| {
        own.iter().all(|unit| best(unit, others) > 0.75) && others.iter().all(|unit| best(unit, own) > 0.75)
    };
    let same_word = one.order == other.order;
    if alike(&a_first, &b_first) && alike(&a_second, &b_second) {
        Some(same_word)
    } else if alike(&a_first, &b_second) && alike(&a_second, &b_first) {
        Some(!same_word)
    } else {
        None
    }
}

/// Whether two clauses speak of what is before or after the same.
fn same_occasion(one: &Reading, other: &Reading) -> bool {
    fn occasion(reading: &Reading) -> Vec<&Unit> {
        reading.units.iter().filter(|unit| unit.part == Part::Order).collect()
    }
    let (own, others) = (occasion(one), occasion(other));
    !own.is_empty()
        && own.iter().all(|unit| best(unit, &others) > 0.75)
        && others.iter().all(|unit| best(unit, &own) > 0.75)
}

/// The units that tell, or all where none does.
fn or_all(units: Vec<&Unit>) -> Vec<&Unit> {
    let tell = telling(&units, false);
    if tell.is_empty() { units } else { tell }
}

/// What one denies the other asks for. `None` where contrasts tell nothing.
fn by_contrast(one: &Reading, other: &Reading, a: &[&Unit], b: &[&Unit], found: &Match<'_>) -> Option<Option<Verdict>> {
    fn denied(reading: &Reading) -> Vec<&Unit> {
        reading.units.iter().filter(|unit| unit.part == Part::Contrast).collect()
    }
    let (denied_a, denied_b) = (denied(one), denied(other));
    let both_for = one.affirms == other.affirms;
    let [rest_a, rest_b] = &found.rest;
    if denied_a.is_empty() && denied_b.is_empty() {
        return None;
    }
    if !denied_a.is_empty() && !denied_b.is_empty() {
        let same_denied = most(&denied_a, &denied_b);
        if most(&denied_a, b) >= 0.85 && most(&denied_b, a) >= 0.85 && same_denied < 0.85 {
            return Some(if both_for { contradiction(Because::SwappedChoice, 3) } else { None });
        }
        if same_denied >= 0.85 && both_for {
            let whole = most(a, b) >= 0.85 && telling(rest_a, false).is_empty() && telling(rest_b, false).is_empty();
            return Some(if whole { same(Because::SameChoice, 3) } else { None });
        }
        return None;
    }
    let ((denied, asked), (own_asked, own, against)) =
        if denied_a.is_empty() { ((&denied_b, a), (b, other, one)) } else { ((&denied_a, b), (a, one, other)) };
    let rest = if denied_a.is_empty() { rest_a } else { rest_b };
    let counts = |reading: &Reading| !reading.numbers.is_empty();
    let limits: Vec<&Unit> =
        own.units.iter().filter(|unit| matches!(unit.part, Part::Condition | Part::Exception)).collect();
    // They speak of one matter, or of a choice that is one everywhere.
    let matter =
        found.pairs.iter().any(|(a, b)| !telling(&[*a], false).is_empty() && !telling(&[*b], false).is_empty());
    let choice =
        denied.iter().any(|unit| unit.code || unit.senses.iter().any(|sense| matches!(sense, Sense::Choice { .. })));
    if (matter || choice)
        && most(denied, asked) >= 0.8
        && !asked.iter().any(|unit| best(unit, denied) >= 0.8 && best(unit, own_asked) >= 0.85)
        && most(&limits, asked) < 0.8
        && !counts(one)
        && !counts(other)
    {
        let left = telling(rest, false).into_iter().filter(|unit| best(unit, denied) < 0.7).count();
        if left == 0 && own.affirms == against.affirms && !(one.excepts || other.excepts) {
            return Some(contradiction(Because::DeniedChoice, if one.allows || other.allows { 2 } else { 3 }));
        }
        if left == 1 && own.affirms == against.affirms && !(one.excepts || other.excepts) {
            return Some(contradiction(Because::DeniedChoice, 1));
        }
        if left == 0 && own.affirms && !against.affirms {
            return Some(None);
        }
    }
    None
}

fn by_number(
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

/// The same sentence with another name in it: `start with `A_`` and `start with `B_``.
fn by_value(one: &Reading, other: &Reading, found: &Match<'_>, condition: i8, matched_weight: f32) -> Option<Verdict> {
    let [rest_a, rest_b] = &found.rest;
    let (left_a, left_b) = (telling(rest_a, true), telling(rest_b, true));
    let ([a], [b]) = (&left_a[..], &left_b[..]) else { return None };
    let placed = a.role == Role::Value && b.role == Role::Value;
    let code = a.code && b.code;
    let plain = one.affirms && other.affirms && !one.allows && !other.allows && condition == 0;
    let whole = one.order.is_none() && other.order.is_none() && found.turned == 0;
    let acts = |rest: &[&Unit]| rest.iter().all(|unit| unit.core_act || unit.role == Role::Value && !unit.light_act);
    let matter = found.pairs.iter().any(|(a, b)| !telling(&[*a], true).is_empty() && !telling(&[*b], true).is_empty());
    let plain = plain && matter && acts(rest_a) && acts(rest_b) && !one.only && !other.only;
    (plain && whole && code && placed && matched_weight >= 0.9).then(|| contradiction(Because::OtherValue, 2)).flatten()
}

fn by_choice(one: &Reading, other: &Reading, found: &Match<'_>, condition: i8) -> Option<Verdict> {
    fn members(reading: &Reading) -> Vec<(u16, u16)> {
        let of = |sense: &Sense| match sense {
            Sense::Choice { family, member } => Some((*family, *member)),
            Sense::Concept { .. } | Sense::Kind { .. } => None,
        };
        reading.units.iter().flat_map(|unit| unit.senses.iter().filter_map(of)).collect()
    }
    let (own, others) = (members(one), members(other));
    let of = |all: &[(u16, u16)], family: u16| {
        let mut found: Vec<u16> = all.iter().filter(|(of, _)| *of == family).map(|(_, member)| *member).collect();
        found.sort_unstable();
        found.dedup();
        found
    };
    let (mut clash, mut several) = (false, false);
    for (family, _) in &own {
        let (a, b) = (of(&own, *family), of(&others, *family));
        if b.is_empty() {
            continue;
        }
        clash |= !a.iter().any(|member| b.contains(member));
        several |= a.len() > 1 || b.len() > 1;
    }
    let [rest_a, rest_b] = &found.rest;
    let without = |rest: &[&Unit], chosen: &dyn Fn(&&(&Unit, &Unit)) -> u64| -> usize {
        let left: Vec<&Unit> =
            rest.iter().filter(|unit| !found.choices.iter().any(|pair| chosen(&pair) == unit.key)).copied().collect();
        telling(&left, true).len()
    };
    let (left_a, left_b) = (without(rest_a, &|pair| pair.0.key), without(rest_b, &|pair| pair.1.key));
    // `2 spaces` is a choice too.
    let in_choice = |reading: &Reading, number: &Number| {
        let chosen = |unit: &&Unit| unit.senses.iter().any(|sense| matches!(sense, Sense::Choice { .. }));
        reading.units.iter().filter(chosen).any(|unit| unit.span.0 <= number.span.0 && number.span.1 <= unit.span.1)
    };
    let counts = [one, other].iter().any(|reading| reading.numbers.iter().any(|number| !in_choice(reading, number)));
    // A tool that all of a project goes through is chosen once, whatever the occasion.
    let everywhere = found.choices.iter().any(|(a, b)| a.code || b.code) && one.order != Some(Order::Before);
    let condition = if everywhere && condition == 1 { 0 } else { condition };
    if clash && !several && one.affirms && other.affirms && condition == 0 && !counts && !(one.allows || other.allows) {
        return match (left_a, left_b) {
            (0, 0) => contradiction(Because::OtherChoice, 3),
            (0, _) | (_, 0) => {
                let tells = |pair: &&(&Unit, &Unit)| {
                    !telling(&[pair.0], false).is_empty() && !telling(&[pair.1], false).is_empty()
                };
                let likely = left_a + left_b == 1 && found.pairs.iter().filter(tells).count() > 1;
                contradiction(Because::OtherChoice, if likely { 2 } else { 1 })
            }
            _ => None,
        };
    }
    None
}
