//! Sentences and clauses.

use super::words::{Sep, Word};

/// How a clause came about.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Kind {
    /// It stands for itself.
    Main,
    /// `instead of x`, `not x`: the opposite of the clause before.
    Contrast,
    /// `when x`.
    When,
    /// `unless x`.
    Unless,
    /// `because x`: says nothing to follow.
    Reason,
    /// In brackets.
    Aside,
}

/// Words that belong together.
pub(super) struct Clause<'w> {
    pub kind: Kind,
    pub words: Vec<&'w Word>,
}

/// Cuts a directive into sentences.
pub(super) fn sentences(words: &[Word]) -> impl Iterator<Item = &[Word]> {
    let mut rest = words;
    std::iter::from_fn(move || {
        let end = (1..rest.len()).find(|at| rest[*at].sep == Sep::Stop).unwrap_or(rest.len());
        let (sentence, more) = rest.split_at(end);
        rest = more;
        (!sentence.is_empty()).then_some(sentence)
    })
}

/// Cuts a sentence into clauses.
pub(super) fn split(rest: &[Word]) -> Vec<Clause<'_>> {
    let mut clauses: Vec<Clause<'_>> = vec![Clause { kind: Kind::Main, words: Vec::new() }];
    // The clause that goes on after a bracket closes.
    let mut outer: Option<usize> = None;
    let mut current = 0;
    let mut at = 0;
    while at < rest.len() {
        let word = &rest[at];
        let mut begin: Option<(Kind, usize)> = None;
        let mut closes = false;
        if word.sep == Sep::Bracket && at > 0 {
            match outer.take() {
                Some(main) => {
                    current = main;
                    closes = true;
                }
                None => {
                    outer = Some(current);
                    begin = Some((Kind::Aside, 0));
                }
            }
        }
        if begin.is_none() && !closes && !word.code && at > 0 {
            begin = beginning(rest, at, &clauses[current].words);
        }
        // What a condition or reason says ends with the next comma only where a new clause begins.
        if let Some((kind, skip)) = begin {
            clauses.push(Clause { kind, words: Vec::new() });
            current = clauses.len() - 1;
            at += skip;
            if skip > 0 {
                continue;
            }
        }
        if let Some(word) = rest.get(at) {
            clauses[current].words.push(word);
        }
        at += 1;
    }
    clauses
}

/// Which clause begins at a word, and how many words only begin it; `here` is what the clause holds that would go on.
fn beginning(words: &[Word], at: usize, here: &[&Word]) -> Option<(Kind, usize)> {
    let word = &words[at];
    let is_next = |list: &[&str]| words.get(at + 1).is_some_and(|next| next.is(list));
    if matches!(word.sep, Sep::Semicolon | Sep::Dash) {
        return Some(if word.is(&["because", "since", "as", "otherwise"]) {
            (Kind::Reason, 0)
        } else if word.is(&["not"]) {
            (Kind::Contrast, 1)
        } else if word.is(&["unless", "except"]) {
            (Kind::Unless, 1)
        } else {
            (Kind::Main, usize::from(word.is(&["and", "but", "so"])))
        });
    }
    if let Some(contrast) = contrast(words, at, here) {
        return Some(contrast);
    }
    if asks_anew(words, at) {
        return Some((Kind::Main, 0));
    }
    if gives_reason(words, at) {
        return Some((Kind::Reason, 0));
    }
    if word.is(&["when", "if", "whenever", "while", "once", "until", "where"]) {
        Some((Kind::When, 1))
    } else if word.is(&["unless", "except"]) || word.is(&["other", "apart"]) && is_next(&["than", "from"]) {
        Some((Kind::Unless, 1))
    } else if word.is(&["without"]) {
        Some((if is_negative(here) { Kind::Unless } else { Kind::Contrast }, 1))
    } else if word.is(&["outside"]) {
        Some((Kind::Unless, if is_next(&["of"]) { 2 } else { 1 }))
    } else {
        None
    }
}

fn is_negative(clause: &[&Word]) -> bool {
    clause.iter().any(|word| word.is(&["never", "don't", "not", "avoid", "no", "cannot", "can't"]))
}

/// `instead of x`, `rather than x`, `over x` after `prefer`, `not x`.
fn contrast(words: &[Word], at: usize, here: &[&Word]) -> Option<(Kind, usize)> {
    let word = &words[at];
    let is_next = |list: &[&str]| words.get(at + 1).is_some_and(|next| next.is(list));
    let was = |list: &[&str]| words[at - 1].is(list);
    if word.is(&["instead"]) && is_next(&["of"])
        || word.is(&["rather"]) && is_next(&["than"])
        || word.is(&["as"]) && is_next(&["opposed"])
    {
        return Some((Kind::Contrast, 2));
    }
    if word.is(&["over"]) && here.iter().any(|word| word.is(&["prefer", "favor", "favour", "choose"])) {
        return Some((Kind::Contrast, 1));
    }
    if word.is(&["in"]) && is_next(&["favor", "favour", "place"]) {
        return Some((if is_negative(here) { Kind::Main } else { Kind::Contrast }, 3));
    }
    let part_of_verb = was(&[
        "do", "must", "should", "shall", "can", "may", "is", "are", "does", "will", "would", "could", "if", "or",
        "why", "be", "need", "did", "has", "have",
    ]);
    let of_degree = is_next(&[
        "only", "yet", "just", "all", "every", "necessarily", "required", "allowed", "more", "less", "longer",
        "exceed", "be", "in",
    ]);
    (word.is(&["not"]) && !part_of_verb && !of_degree).then_some((Kind::Contrast, 1))
}

/// `…, never x`, `… and use y`: another demand of its own.
fn asks_anew(words: &[Word], at: usize) -> bool {
    let word = &words[at];
    let is_next = |list: &[&str]| words.get(at + 1).is_some_and(|next| next.is(list));
    let was = |list: &[&str]| words[at - 1].is(list);
    let joins = matches!(word.sep, Sep::Comma | Sep::Semicolon | Sep::Dash | Sep::Colon | Sep::Stop)
        || was(&["and", "but", "then"]);
    joins
        && (word.is(&["never", "don't", "avoid", "always"])
            || word.is(&["do"]) && is_next(&["not"])
            || word.is(&["no"]) && !is_next(&["more", "less", "fewer", "longer", "matter", "need"])
            || word.is(&["use", "prefer", "choose", "stick", "write"]) && !is_next(&["or", "and"]) && !was(&["or"]))
}

/// `because x`, `so that x`, `to avoid x`, `e.g. x`.
fn gives_reason(words: &[Word], at: usize) -> bool {
    let word = &words[at];
    let is_next = |list: &[&str]| words.get(at + 1).is_some_and(|next| next.is(list));
    word.is(&["because", "since", "otherwise", "which", "whereas", "so"]) && !is_next(&["far"])
        || word.is(&["as"])
            && is_next(&["it", "they", "we", "this", "that", "those", "these", "the"])
            && word.sep == Sep::Comma
        || word.is(&["to"])
            && is_next(&[
                "avoid", "prevent", "keep", "make", "ensure", "reduce", "help", "allow", "catch", "match", "minimize",
                "save", "improve", "maintain",
            ])
        || word.is(&["e.g", "i.e", "eg", "ie"])
}
