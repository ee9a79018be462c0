//! Whether a clause asks for a thing or against it: negations are counted, two of them are none.

use super::{Part, Token};

const NEGATIONS: &[&str] =
    &["never", "not", "no", "without", "none", "nothing", "nobody", "nor", "neither", "cannot", "nowhere", "zero"];
/// Verbs and adjectives that deny what follows; by their roots.
const DENYING: &[&str] = &[
    "avoid", "forbid", "forbidden", "prohibit", "ban", "disallow", "refrain", "skip", "omit", "exclud", "discourag",
    "illegal", "unacceptable", "unacceptabl", "eschew", "abstain", "lack", "taboo", "unwelcom", "unwanted", "unwant",
    "disabl", "deactivat", "disable",
];
/// Only before `to` do these deny.
const FAILING: &[&str] = &["fail", "forget", "neglect", "miss"];
const COMPARED: &[&str] = &[
    "longer", "more", "later", "wider", "bigger", "larger", "smaller", "less", "fewer", "deeper", "matter", "higher",
    "lower", "shorter", "exceed", "exceeding", "older", "newer", "earlier", "above", "below", "over", "greater",
];

/// What a clause asks, as far as single words tell.
#[derive(Clone, Copy, Default, Debug)]
pub(super) struct Polarity {
    pub negations: u8,
    /// `need not`: neither asked for nor forbidden.
    pub need_not: bool,
    /// `never x without y`.
    pub needs_first: bool,
    /// `never … until`, `not … unless`: asked for under a condition.
    pub only_then: bool,
}

pub(super) fn is_negation(low: &str) -> bool {
    NEGATIONS.contains(&low) || low.ends_with("n't") || matches!(low, "dont" | "cant" | "mustnt")
}

/// Turns `only x when y` into `y before x`.
fn needs_first(tokens: &mut [Token<'_>], found: &mut Polarity) {
    let trailing =
        tokens.iter().position(|token| token.part == Part::Condition && token.is(&["when", "if", "once", "after"]));
    let prepositional = || {
        let only = tokens.iter().position(|token| token.is(&["only"]))?;
        (only + 1..tokens.len())
            .find(|at| tokens[*at].part == Part::Main && tokens[*at].is(&["on", "with", "after"]) && *at > only + 1)
    };
    let Some(from) = trailing.filter(|at| *at > 1).or_else(prepositional) else { return };
    for (at, token) in tokens.iter_mut().enumerate() {
        match token.part {
            Part::Condition if at >= from => token.part = Part::Main,
            Part::Main if at < from => token.part = Part::Order,
            _ => {}
        }
    }
    found.needs_first = true;
}

/// `turn it off`, not `off the path`.
fn is_off(main: &[usize], tokens: &[Token<'_>], number: usize) -> bool {
    main.get(number).is_some_and(|at| {
        let ends = tokens.get(at + 1).is_none_or(|next| {
            next.word.sep >= crate::directive::words::Sep::Comma
                || next.part != Part::Main
                || next.is(&["in", "for", "by", "on", "at"])
        });
        tokens[*at].is(&["off"]) && ends
    })
}

/// Counts the negations of the main part, and marks the words that carry them: they are no part of what is asked.
pub(super) fn polarity(tokens: &mut [Token<'_>]) -> Polarity {
    let main: Vec<usize> = (0..tokens.len()).filter(|at| tokens[*at].part == Part::Main).collect();
    let mut found = Polarity::default();
    let mut count: i32 = 0;
    for (number, at) in main.iter().copied().enumerate() {
        if tokens[at].word.code || tokens[at].functional {
            continue;
        }
        let low_at = |ahead: usize| main.get(number + ahead).map_or("", |at| tokens[*at].low);
        let before = if number > 0 { tokens[main[number - 1]].low } else { "" };
        let (low, next, after) = (tokens[at].low, low_at(1), low_at(2));
        let mut marked = vec![at];
        if is_negation(low) {
            if matches!(
                (low, next),
                ("without", "exception" | "exceptions")
                    | ("no", "exceptions" | "exception" | "matter" | "circumstances")
            ) || low == "without" && before == "or"
            {
                tokens[at].functional = true;
                if let Some(next) = main.get(number + 1) {
                    tokens[*next].functional = true;
                }
                continue;
            }
            let word = low == "not" || low.ends_with("n't");
            if low == "no" && COMPARED.contains(&next)
                || word && (next == "only" || next == "just" || COMPARED.contains(&next))
                || low == "never" && matches!(next, "more" | "exceed" | "longer" | "less" | "above")
                || matches!(low, "nothing" | "nobody") && next == "but"
                || low == "no" && next == "one" && after == "but"
            {
                continue;
            }
            if count == 0
                && (word && matches!(next, "need" | "have") && !(next == "have" && after != "to")
                    || word && before == "need"
                    || low.starts_with("needn't")
                    || low == "no" && next == "need")
            {
                found.need_not = true;
                tokens[at].functional = true;
                continue;
            }
            count += 1;
        } else if DENYING.contains(&tokens[at].key.as_str())
            && !(tokens[at].key == "lack" && matches!(before, "a" | "the"))
            || FAILING.contains(&tokens[at].key.as_str()) && next == "to"
            || low == "steer" && next == "clear"
        {
            count += 1;
        } else if tokens[at].key == "leav" || low == "leave" || low == "left" && matches!(before, "be" | "is" | "are") {
            let Some(ahead) = (1..6).find(|ahead| matches!(low_at(*ahead), "out" | "off" | "alone")) else { continue };
            count += 1;
            marked.push(main[number + ahead]);
        } else if matches!(low, "keep" | "stay" | "kept") {
            let Some(ahead) = (1..7).find(|ahead| {
                let (low, then) = (low_at(*ahead), low_at(ahead + 1));
                low == "out"
                    || is_off(&main, tokens, number + ahead)
                    || matches!(low, "away" | "clear") && matches!(then, "from" | "of")
                    || low == "hands" && *ahead < 3
            }) else {
                continue;
            };
            count += 1;
            marked.extend(
                (1..=ahead)
                    .filter(|one| matches!(low_at(*one), "out" | "away" | "clear" | "hands" | "your" | "off"))
                    .map(|one| main[number + one]),
            );
        } else if matches!(low, "turn" | "turned" | "switch" | "switched" | "is" | "are" | "be" | "leave")
            && (1..7).any(|ahead| is_off(&main, tokens, number + ahead))
        {
            let Some(ahead) = (1..7).find(|ahead| is_off(&main, tokens, number + ahead)) else { continue };
            count += 1;
            marked.push(main[number + ahead]);
        } else if low == "off" && next == "limits"
            || low == "read" && next == "only"
            || low == "out" && next == "of" && after == "bounds"
            || low == "hands" && next == "off"
        {
            count += 1;
            marked.push(main[number + 1]);
        } else if low == "free" && (next == "of" || matches!(before, "side" | "error")) {
            count += 1;
        } else if matches!(low, "go" | "do") && next == "without" {
            // The next word counts.
        } else {
            continue;
        }
        marked.iter().for_each(|at| tokens[*at].functional = true);
    }
    // `No x without y`: y comes first.
    if count == 2
        && let Some(without) = main.iter().copied().rfind(|at| tokens[*at].is(&["without"]) && tokens[*at].functional)
        && main.iter().any(|at| *at < without && tokens[*at].functional)
    {
        for at in main.iter().filter(|at| **at < without) {
            tokens[*at].part = Part::Order;
        }
        found.needs_first = true;
    }
    // `Only merge when it is green`: it comes first, as in `never merge without`.
    if count == 0 && tokens.iter().any(|token| token.part == Part::Main && token.is(&["only"])) {
        needs_first(tokens, &mut found);
    }
    let waits = |token: &Token<'_>| token.is(&["unless", "until"]) && token.part != Part::Main;
    if count == 1 && tokens.iter().any(waits) {
        count = 0;
        found.only_then = true;
        let from =
            tokens.iter().position(|token| token.is(&["unless"]) && token.part == Part::Exception).filter(|at| *at > 1);
        for (at, token) in tokens.iter_mut().enumerate() {
            match (token.part, from) {
                (Part::Exception, Some(_)) => token.part = Part::Main,
                (Part::Main, Some(from)) if at < from => token.part = Part::Order,
                (Part::Exception, None) => token.part = Part::Condition,
                _ => {}
            }
        }
        found.needs_first |= from.is_some();
    }
    found.negations = count.max(0) as u8 + u8::from(found.need_not);
    found
}
