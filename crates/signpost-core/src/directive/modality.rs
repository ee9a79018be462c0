//! What a clause asks, by the words that say so.

use super::Modality;
use super::words::{VERBS, Word};

impl Modality {
    /// What `not x`, `instead of x` asks after a clause that asks this.
    pub(super) fn contrast(self) -> Modality {
        match self {
            Modality::Require => Modality::Forbid,
            Modality::Prefer => Modality::Avoid,
            _ => Modality::State,
        }
    }
}

/// What a clause asks, and which of its words say so. A negation later in the clause counts; without one, what the
/// clause begins with.
pub(super) fn modality(words: &[&Word], fragment: bool) -> (Modality, Vec<usize>) {
    let is = |at: usize, list: &[&str]| words.get(at).is_some_and(|word| word.is(list));
    for at in (0..words.len()).filter(|at| !words[*at].code) {
        match marker(words, at) {
            Marker::None => {}
            Marker::States => return (Modality::State, Vec::new()),
            Marker::Asks(modality, length) => {
                let mut marks: Vec<usize> = (at..at + length).collect();
                // `Never do x` where more says so: `must never`, `always avoid`.
                marks.extend(
                    (0..at).filter(|at| is(*at, &["always", "please", "must", "should", "shall", "you", "we"])),
                );
                if modality.is_against() && is(at + length, &["use", "using", "do", "be"]) {
                    marks.push(at + length);
                }
                return (modality, marks);
            }
        }
    }
    by_form(words, fragment)
}

/// What a word, with those behind it, says of what is asked.
enum Marker {
    /// So many words ask for this.
    Asks(Modality, usize),
    /// Nothing is asked: `no need to`, `doesn't`.
    States,
    None,
}

/// Reads the words from `at` on.
fn marker(words: &[&Word], at: usize) -> Marker {
    let is = |at: usize, list: &[&str]| words.get(at).is_some_and(|word| word.is(list));
    let asks = Marker::Asks;
    match words[at].low.as_str() {
        "is" | "are" | "be" => verdict(words, at),
        "doesn't" | "isn't" | "aren't" | "won't" | "wasn't" | "optional" => Marker::States,
        "avoid" => asks(Modality::Avoid, 1),
        "stay" | "steer" if is(at + 1, &["away", "clear"]) => asks(Modality::Avoid, 3),
        "prefer" | "favor" | "favour" | "preferably" | "ideally" if at <= 3 => asks(Modality::Prefer, 1),
        "feel" if is(at + 1, &["free"]) => asks(Modality::Allow, 3),
        "free" if is(at + 1, &["to"]) => asks(Modality::Allow, 2),
        "it's" | "it"
            if at == 0
                && (is(at + 1, &["ok", "okay", "fine"]) || is(at + 2, &["ok", "okay", "fine", "acceptable"])) =>
        {
            asks(Modality::Allow, 3)
        }
        _ => match refusal(words, at) {
            Marker::None => demand(words, at),
            refused => refused,
        },
    }
}

/// `never`, `do not`, `no`, `omit`.
fn refusal(words: &[&Word], at: usize) -> Marker {
    let is = |at: usize, list: &[&str]| words.get(at).is_some_and(|word| word.is(list));
    let next = |steps: usize| words.get(at + steps).map(|word| word.low.as_str());
    let asks = Marker::Asks;
    // `not be more than 80` bounds a number and forbids nothing.
    let bounds_number = |at: usize| {
        is(at + 1, &["more", "less", "fewer", "longer", "exceed", "be"])
            && is(at + 2, &["than", "longer", "more", "wider", "larger", "exceed"])
            || is(at + 1, &["exceed"])
    };
    let low = words[at].low.as_str();
    match low {
        "never" if is(at + 1, &["forget"]) => asks(Modality::Require, 2),
        "never" => asks(Modality::Forbid, 1),
        "no" if is(at + 1, &["need"]) => Marker::States,
        "no" if is(at + 1, &["more", "less", "fewer", "longer", "matter"]) => Marker::None,
        "no" => asks(Modality::Forbid, 1),
        "do" | "must" | "should" | "shall" | "may" | "can" | "does" | "will" if is(at + 1, &["not"]) => match next(2) {
            Some("need" | "have") if is(at + 3, &["to"]) => Marker::States,
            Some("forget" | "fail" | "neglect") => asks(Modality::Require, 3),
            Some("hesitate") => asks(Modality::Allow, 3),
            _ if low == "does" || low == "will" => Marker::States,
            _ if bounds_number(at + 1) => asks(Modality::Require, 0),
            _ => asks(Modality::Forbid, 2),
        },
        "don't" | "dont" | "mustn't" | "shouldn't" | "cannot" | "can't" => match next(1) {
            Some("forget" | "fail") => asks(Modality::Require, 2),
            Some("need" | "have") if is(at + 2, &["to"]) => Marker::States,
            _ if bounds_number(at) => asks(Modality::Require, 0),
            _ => asks(Modality::Forbid, 1),
        },
        "forbidden" | "prohibited" | "banned" | "disallowed" if at > 0 => asks(Modality::Forbid, 1),
        "refrain" => asks(Modality::Forbid, 2),
        "leave" if is(at + 1, &["out", "off"]) && at <= 1 => asks(Modality::Forbid, 2),
        "omit" | "ban" | "forbid" | "disallow" | "skip" | "exclude" if at <= 1 => asks(Modality::Forbid, 1),
        "not" if at == 0 => asks(Modality::Forbid, 1),
        _ => Marker::None,
    }
}

/// `is forbidden`, `are not allowed`, `is preferred`.
fn verdict(words: &[&Word], at: usize) -> Marker {
    let is = |at: usize, list: &[&str]| words.get(at).is_some_and(|word| word.is(list));
    let asks = Marker::Asks;
    if is(at + 1, &["not"]) {
        let refused = ["allowed", "permitted", "acceptable", "welcome", "tolerated", "ok", "okay", "fine", "wanted"];
        if is(at + 2, &refused) {
            return asks(Modality::Forbid, 3);
        }
    }
    if words[at].low == "be" {
        return Marker::None;
    }
    if is(at + 1, &["not"]) && is(at + 2, &["required", "needed", "necessary", "mandatory"]) {
        Marker::States
    } else if is(at + 1, &["forbidden", "prohibited", "banned", "disallowed", "off-limits", "verboten"]) {
        asks(Modality::Forbid, 2)
    } else if is(at + 1, &["discouraged"]) {
        asks(Modality::Avoid, 2)
    } else if is(at + 1, &["required", "mandatory", "obligatory", "compulsory"]) {
        asks(Modality::Require, 2)
    } else if is(at + 1, &["preferred", "recommended"]) {
        asks(Modality::Prefer, 2)
    } else if is(at + 1, &["allowed", "permitted", "acceptable", "fine", "ok", "okay", "welcome"]) {
        asks(Modality::Allow, 2)
    } else {
        Marker::None
    }
}

/// `must`, `always`, `have to`, `may`.
fn demand(words: &[&Word], at: usize) -> Marker {
    let is = |at: usize, list: &[&str]| words.get(at).is_some_and(|word| word.is(list));
    let asks = Marker::Asks;
    match words[at].low.as_str() {
        "may" | "can" | "could" => asks(Modality::Allow, 1),
        // `must never`, `always avoid x`, `always prefer x`: the next word says it.
        "must" | "shall" | "should" if is(at + 1, &["never"]) => Marker::None,
        "always" if is(at + 1, &["avoid", "prefer", "omit", "skip", "leave"]) => Marker::None,
        "must" | "shall" | "should" | "always" => asks(Modality::Require, 1),
        "need" | "needs" | "has" | "have" if is(at + 1, &["to"]) => asks(Modality::Require, 2),
        "ensure" if at == 0 => asks(Modality::Require, 1),
        "make" if at == 0 && is(1, &["sure"]) => asks(Modality::Require, 2),
        _ => Marker::None,
    }
}

/// Without a word that asks: what a clause begins with, and whether it has a verb that speaks.
fn by_form(words: &[&Word], fragment: bool) -> (Modality, Vec<usize>) {
    let first = words.iter().position(|word| {
        !word.is(&[
            "please", "then", "also", "just", "and", "but", "only", "first", "finally", "instead", "generally",
            "kindly", "strictly", "consistently", "explicitly", "simply",
        ])
    });
    let Some(first) = first else { return (Modality::State, Vec::new()) };
    if words[first].is(VERBS)
        && !(first == 0 && words.get(1).is_some_and(|next| next.is(&["is", "are", "was", "were", "has", "have"])))
    {
        return (Modality::Require, (0..first).collect());
    }
    let ours = words[first].is(&["we", "the", "this", "our", "i", "all", "every", "each"]);
    let verb = words.iter().take(6).position(|word| {
        word.is(&[
            "use", "uses", "prefer", "indent", "indents", "format", "run", "follow", "follows", "write", "name",
            "target", "targets", "require", "requires",
        ])
    });
    if ours && let Some(verb) = verb {
        let mut marks: Vec<usize> = (0..=verb).collect();
        marks.retain(|at| !words[first].is(&["all", "every", "each"]) || *at >= verb);
        return (Modality::Require, marks);
    }
    if words.iter().any(|word| word.is(&["use", "uses"])) && words.len() <= 8 && fragment {
        return (Modality::Require, Vec::new());
    }
    let finite = words.iter().any(|word| {
        word.is(&[
            "was", "were", "has", "had", "does", "did", "will", "would", "comes", "stands", "lives", "contains",
            "holds", "means", "gets", "makes", "handles", "talks", "reads", "writes", "supports", "returns",
            "provides", "includes",
        ])
    });
    if !finite
        && (fragment && words.len() <= 10 || words.iter().any(|word| word.is(&["is", "are"])) && words.len() <= 10)
    {
        return (Modality::Require, Vec::new());
    }
    (Modality::State, Vec::new())
}
/// Whether a clause asks for something only by being there: it has no word that asks, and does not begin with
/// a verb.
pub(super) fn is_weak(words: &[&Word], marks: &[usize]) -> bool {
    let asks = words.iter().any(|word| {
        word.is(&[
            "must", "shall", "should", "always", "need", "needs", "ensure", "required", "mandatory", "has", "have",
        ])
    });
    let first = words.iter().find(|word| {
        !word.is(&["please", "then", "also", "just", "and", "but", "only", "first", "finally", "instead"])
    });
    let verb = first.is_some_and(|first| first.is(VERBS));
    marks.is_empty() && !asks && !verb
}
