//! Whether two directives contradict each other or say the same.

mod doubt;
mod near;
mod numbers;
mod verdict;

use super::units::Role;
use super::{Number, Order, Part, Reading, Unit};
use doubt::{doubt, is_fragment};
use near::{ALIKE, Match, best, heavy, matched, most, near, same_sense, telling, weight};
use numbers::by_number;
pub use verdict::{Because, Certainty, Kind, Verdict};
use verdict::{contradiction, same};

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

/// Whether the conditions of two clauses are the same (0), only one has some (1), or they differ (2).
fn conditions(one: &Reading, other: &Reading) -> i8 {
    let (own, others) = (one.limits(), other.limits());
    if own.is_empty() && others.is_empty() {
        return if one.conditional != other.conditional { 1 } else { 0 };
    }
    let inside = |some: &[&Unit], all: &[Unit]| {
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

/// The answer for two clauses, with the words of each that tell.
fn judge(one: &Reading, other: &Reading) -> Option<Verdict> {
    let found = decide(one, other).or_else(|| doubt(one, other))?;
    let words = words(found.because, one, other).unwrap_or_default();
    Some(Verdict { words, ..found })
}

type Words = [(u32, u32); 2];

fn words(because: Because, one: &Reading, other: &Reading) -> Option<Words> {
    let (a, b) = (&one.units, &other.units);
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
        for (rest, other) in found.rest.iter_mut().zip([other, one]) {
            let limits = other.limits();
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
    let limits = own.limits();
    // They speak of one matter, or of a choice that is one everywhere.
    let matter =
        found.pairs.iter().any(|(a, b)| !telling(&[*a], false).is_empty() && !telling(&[*b], false).is_empty());
    let choice = denied.iter().any(|unit| unit.code || unit.is_choice());
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
        reading.units.iter().flat_map(Unit::choices).collect()
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
        reading
            .units
            .iter()
            .filter(|unit| unit.is_choice())
            .any(|unit| unit.span.0 <= number.span.0 && number.span.1 <= unit.span.1)
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
