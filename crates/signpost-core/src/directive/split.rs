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
        let before = at.checked_sub(1).map(|at| &rest[at]);
        let next = rest.get(at + 1);
        let is_next = |words: &[&str]| next.is_some_and(|next| next.is(words));
        let was = |words: &[&str]| before.is_some_and(|before| before.is(words));
        let here = &clauses[current];
        let negative =
            || here.words.iter().any(|word| word.is(&["never", "don't", "not", "avoid", "no", "cannot", "can't"]));
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
        let joins = matches!(word.sep, Sep::Comma | Sep::Semicolon | Sep::Dash | Sep::Colon | Sep::Stop)
            || was(&["and", "but", "then"]);
        if begin.is_none() && !closes && !word.code && at > 0 {
            begin = if matches!(word.sep, Sep::Semicolon | Sep::Dash) {
                let skip = usize::from(word.is(&["and", "but", "so"]));
                if word.is(&["because", "since", "as", "otherwise"]) {
                    Some((Kind::Reason, 0))
                } else if word.is(&["not"]) {
                    Some((Kind::Contrast, 1))
                } else if word.is(&["unless", "except"]) {
                    Some((Kind::Unless, 1))
                } else {
                    Some((Kind::Main, skip))
                }
            } else if word.is(&["instead"]) && is_next(&["of"])
                || word.is(&["rather"]) && is_next(&["than"])
                || word.is(&["as"]) && is_next(&["opposed"])
            {
                Some((Kind::Contrast, 2))
            } else if word.is(&["over"])
                && here.words.iter().any(|word| word.is(&["prefer", "favor", "favour", "choose"]))
            {
                Some((Kind::Contrast, 1))
            } else if word.is(&["in"]) && is_next(&["favor", "favour", "place"]) {
                if negative() { Some((Kind::Main, 3)) } else { Some((Kind::Contrast, 3)) }
            } else if word.is(&["not"])
                && !was(&[
                    "do", "must", "should", "shall", "can", "may", "is", "are", "does", "will", "would", "could", "if",
                    "or", "why", "be", "need", "did", "has", "have",
                ])
                && !is_next(&[
                    "only", "yet", "just", "all", "every", "necessarily", "required", "allowed", "more", "less",
                    "longer", "exceed", "be", "in",
                ])
            {
                Some((Kind::Contrast, 1))
            } else if joins
                && (word.is(&["never", "don't", "avoid", "always"])
                    || word.is(&["do"]) && is_next(&["not"])
                    || word.is(&["no"]) && !is_next(&["more", "less", "fewer", "longer", "matter", "need"])
                    || word.is(&["use", "prefer", "choose", "stick", "write"])
                        && !is_next(&["or", "and"])
                        && !was(&["or"]))
            {
                Some((Kind::Main, 0))
            } else if word.is(&["because", "since", "otherwise", "which", "whereas", "so"]) && !is_next(&["far"])
                || word.is(&["as"])
                    && is_next(&["it", "they", "we", "this", "that", "those", "these", "the"])
                    && word.sep == Sep::Comma
                || word.is(&["to"])
                    && is_next(&[
                        "avoid", "prevent", "keep", "make", "ensure", "reduce", "help", "allow", "catch", "match",
                        "minimize", "save", "improve", "maintain",
                    ])
                || word.is(&["e.g", "i.e", "eg", "ie"])
            {
                Some((Kind::Reason, 0))
            } else if word.is(&["when", "if", "whenever", "while", "once", "until", "where"]) {
                Some((Kind::When, 1))
            } else if word.is(&["unless", "except"]) || word.is(&["other", "apart"]) && is_next(&["than", "from"]) {
                Some((Kind::Unless, 1))
            } else if word.is(&["without"]) {
                if negative() { Some((Kind::Unless, 1)) } else { Some((Kind::Contrast, 1)) }
            } else if word.is(&["outside"]) {
                Some((Kind::Unless, if is_next(&["of"]) { 2 } else { 1 }))
            } else {
                None
            };
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
