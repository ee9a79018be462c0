//! What the words of a clause are: a label before a colon, conditions, the stems that carry meaning.

use super::super::condition::{Condition, Situation, of_path, of_word};
use super::super::families::{Family, Hit};
use super::super::words::{LIGHT, STOP, Sep, VERBS, Word};
use super::{Around, CHOOSING, KINDS, LIGHT_STEMS, OPENERS};

/// What the words before a colon are.
pub(super) enum Label {
    /// `Bad:`
    Example,
    /// `Indentation:`, `Never:`; what follows is read in its light.
    Taken,
    /// The beginning of the sentence.
    None,
}

pub(super) fn label(words: &[Word], around: &mut Around) -> Label {
    let plain = words.iter().map(|word| word.low.as_str()).collect::<Vec<_>>().join(" ");
    match plain.as_str() {
        "example" | "examples" | "bad" | "wrong" | "good" | "right" | "e.g" | "incorrect" | "correct" | "before"
        | "after" => {
            return Label::Example;
        }
        "never" | "don't" | "do not" | "avoid" | "forbidden" | "prohibited" | "not allowed" | "no" | "banned"
        | "don'ts" => {
            around.forbids = true;
            return Label::Taken;
        }
        "always" | "must" | "important" | "required" | "critical" | "warning" | "rule" | "note" | "remember"
        | "prefer" | "do" => {
            return if words[0].is(VERBS) || words[0].is(&["do"]) { Label::None } else { Label::Taken };
        }
        _ => {}
    }
    if words[0].is(VERBS) && words.len() > 1
        || words[0].is(&["never", "always", "do", "don't", "if", "when", "for", "in"])
    {
        return if words[0].is(&["always"]) { Label::Taken } else { Label::None };
    }
    around.label_words = words.to_vec();
    for word in words {
        match of_word(word, true) {
            Some(condition) => around.conditions.push(condition),
            None if !word.is(STOP) => around.label.push(word.stem.clone()),
            None => {}
        }
    }
    let says = !around.label.is_empty() || !around.conditions.is_empty();
    if says || !words[0].is(OPENERS) && !words[0].is(VERBS) { Label::Taken } else { Label::None }
}

/// `When merging a pull request` says no more than that the family is meant.
pub(super) fn is_vacuous(family: &Family, condition: &Condition) -> bool {
    let known = |stem: &str| family.about.iter().chain(&family.needs).any(|own| own == stem) || LIGHT_STEMS.has(stem);
    match condition {
        Condition::When(Situation { files, stems }) => files.is_empty() && stems.iter().all(|stem| known(stem)),
        _ => false,
    }
}

pub(super) fn without_language(conditions: &[Condition], name: &str) -> Vec<Condition> {
    let named = |condition: &&Condition| matches!(condition, Condition::Language(language) if *language == name);
    conditions.iter().filter(|condition| !named(condition)).cloned().collect()
}

/// The stems that carry meaning, and the conditions among the words.
pub(super) fn bag(kept: &[&Word], hits: &[Hit]) -> (Vec<String>, Vec<Condition>) {
    let (mut bag, mut conditions) = (Vec::new(), Vec::new());
    for (at, word) in kept.iter().enumerate() {
        let before = at.checked_sub(1).map(|at| kept[at]);
        let was = |words: &[&str]| before.is_some_and(|before| before.is(words));
        let kind_follows = kept.get(at + 1).is_some_and(|after| after.is(KINDS));
        let placed = kind_follows
            || was(&[
                "in", "for", "inside", "within", "all", "of", "under", "below", "on", "every", "each", "any", "with",
            ]);
        // What names a choice is no condition: `tests live in tests/`.
        let named = word.code && hits.iter().any(|hit| (hit.start..hit.end).contains(&at));
        let is_path = word.low.contains('/') || word.code && word.low.starts_with('*');
        let condition = if named {
            None
        } else if was(&["outside"]) {
            Some(Condition::Unless(Situation { files: Box::default(), stems: [word.stem.as_str().into()].into() }))
        } else if is_path && (placed || word.low.starts_with("*.")) {
            of_path(&word.low)
        } else if placed && !word.code {
            of_word(word, false)
        } else {
            None
        };
        match condition {
            Some(condition) => conditions.push(condition),
            None if !named && kind_follows && word.code && is_path => {}
            None if word.code || !word.is(STOP) => bag.push(word.stem.clone()),
            None => {}
        }
    }
    (bag, conditions)
}

/// Whether a clause's verb makes the choice rather than speaks of it.
pub(super) fn chooses(words: &[&Word], hit: &Hit) -> bool {
    let mut before = words[..hit.start].iter().filter(|word| !word.joined);
    let verb = before.find(|word| word.is(VERBS) || word.is(LIGHT));
    let own = verb.is_none_or(|verb| verb.is(LIGHT) || verb.is(CHOOSING));
    let speaks = words[..hit.start].iter().any(|word| {
        word.is(&[
            "convert", "migrate", "migrated", "migrating", "replace", "switch", "publish", "mix", "mention", "compare",
            "support", "from", "between", "like", "unlike", "published", "similar", "both", "either", "whether",
        ])
    });
    let noun = words.get(hit.end).is_some_and(|after| {
        after.sep == Sep::None
            && after.is(&[
                "registry", "token", "tokens", "account", "organization", "org", "key", "keys", "bar", "order",
                "panel", "component", "components", "stop", "stops",
            ])
    });
    own && !speaks && !noun
}

/// The stems of `all functions` in `All functions must have docstrings`, or in `docstrings for all functions`.
pub(super) fn universal(kept: &[&Word]) -> Vec<String> {
    let mut stems = Vec::new();
    for (at, word) in kept.iter().enumerate() {
        let placed = at == 0 || kept[at - 1].is(&["to", "for", "in", "on", "of", "from"]);
        if !(placed && word.is(&["all", "every", "each"])) {
            continue;
        }
        for next in kept[at + 1..].iter().take(2) {
            if next.code
                || next.sep != Sep::None
                || next.is(STOP)
                || next.is(LIGHT)
                || next.is(VERBS) && next.low != "test" && next.low != "type"
            {
                break;
            }
            stems.push(next.stem.clone());
        }
    }
    stems
}
