//! A directive without its reasons, in clauses, and what part each word plays in its clause.

use super::{Part, Token};
use crate::directive::words::{Sep, VERBS, Word, words};
use std::ops::Range;

/// What a clause of its own begins with; what begins otherwise after a dash or full stop is a reason.
const STARTS: &[&str] = &[
    "never", "don't", "do", "no", "not", "avoid", "use", "prefer", "always", "only", "keep", "put", "write", "run",
    "return", "open", "add", "make", "leave", "name", "call", "set", "let", "throw", "log", "wrap", "merge", "squash",
    "rebase", "commit", "push", "store", "show", "hide", "ask", "delete", "remove", "move", "create", "import",
    "export", "convert", "handle", "catch", "check", "fix", "start", "give", "take", "choose", "go", "pass", "send",
    "read", "build", "install", "edit", "change", "follow", "mark", "document", "explain", "stop", "wait", "retry",
    "cache", "validate", "reject", "accept", "recover", "omit", "skip", "pin", "drop", "load", "format", "sort",
    "split", "mock", "everything", "nothing", "nobody", "every", "each", "all", "stay", "print", "raise", "emit",
    "limit", "tag", "reuse", "update", "prefix", "begin", "end", "declare", "define", "cut", "answer", "reply",
    "round", "compute",
];
const SOFTENERS: &[&str] = &["please", "then", "and", "but", "instead", "also", "just", "so"];
/// A clause with one of these asks for something, however it begins.
const ASKING: &[&str] = &[
    "must", "should", "shall", "forbidden", "banned", "never", "always", "required", "except", "unless", "only",
    "prohibited", "allowed", "mustn't", "shouldn't",
];
const BECAUSE: &[&str] = &["because", "otherwise", "whereas"];
const PRONOUNS: &[&str] =
    &["it", "they", "we", "this", "that", "nobody", "somebody", "everybody", "people", "these", "which", "those"];
const STATES: &[&str] = &[
    "is", "are", "was", "were", "have", "has", "had", "just", "already", "would", "will", "can", "cannot", "get",
    "got", "do", "does", "makes", "keeps", "helps", "breaks", "costs", "saves", "can't", "isn't", "don't", "doesn't",
    "needs", "takes", "gives", "reads", "hurt", "hide", "hides", "rot", "rots", "slow", "slows", "lets", "gets",
    "knows",
];
const EXPLAINING: &[&str] =
    &["a", "an", "one", "our", "the", "it", "they", "we", "this", "that", "there", "its", "their"];
const REASON_AFTER_AS: &[&str] =
    &["it", "the", "we", "they", "this", "that", "there", "most", "our", "your", "all", "each", "people", "black"];
const REASON_AFTER_SO: &[&str] = &["we", "you", "that", "they", "one", "people", "it", "the", "everybody", "nobody"];

/// The clauses of a directive that ask for something, each as its words. Reasons, examples and what stands in brackets
/// are left out.
pub(super) fn clauses(text: &str, span: Range<usize>) -> Vec<Vec<Word>> {
    let mut all = words(text, span.clone());
    super::glossary::translate(&mut all);
    let brackets = brackets(text, span);
    let mut clauses: Vec<Vec<Word>> = Vec::new();
    let mut rest = all.into_iter();
    while let Some(word) = rest.next() {
        let next = rest.as_slice().first();
        if brackets.iter().any(|inside| inside.contains(&word.span.start)) {
            continue;
        }
        let parts = matches!(word.sep, Sep::Stop | Sep::Semicolon | Sep::Dash) && !follows_abbreviation(&clauses)
            || word.sep == Sep::Comma
                && (word.is(IMPERATIVES)
                    || word.is(&["so"]) && next.is_some_and(|next| next.is(IMPERATIVES) || next.is(&["never"])))
                && clauses
                    .last()
                    .is_some_and(|clause| clause.len() > 2 && !clause[0].is(CONDITIONS) && !clause[0].is(LEADING));
        let is_long = clauses.last().is_some_and(|clause| clause.len() > 3);
        let parts = parts
            || is_long && word.sep == Sep::Colon && (word.is(IMPERATIVES) || word.is(&["set", "never", "always"]))
            || is_long && matches!(word.sep, Sep::Comma | Sep::Colon) && forbids(&word, rest.as_slice());
        if parts || clauses.is_empty() {
            clauses.push(Vec::new());
        }
        if let Some(last) = clauses.last_mut() {
            last.push(word);
        }
    }
    let mut number = 0;
    clauses.retain(|clause| {
        number += 1;
        number == 1 || asks(clause)
    });
    clauses.iter_mut().for_each(|clause| {
        cut_inclusions(clause);
        cut_reason(clause);
        cut_label(clause);
    });
    clauses.retain(|clause| !clause.is_empty());
    clauses.truncate(MOST_CLAUSES);
    clauses
}

const MOST_CLAUSES: usize = 5;

/// After a comma these begin something else to do, rather than go on with a list.
const IMPERATIVES: &[&str] = &[
    "use", "avoid", "prefer", "convert", "return", "throw", "keep", "put", "write", "move", "add", "ask", "don't",
    "let", "leave", "import", "export", "wrap", "call", "run", "open", "store", "show", "do", "mention", "create",
    "fix",
];

fn follows_abbreviation(clauses: &[Vec<Word>]) -> bool {
    clauses
        .last()
        .and_then(|clause| clause.last())
        .is_some_and(|word| word.is(&["e.g", "i.e", "etc", "vs", "max", "min", "approx", "incl"]))
}

/// `…, squashing is not allowed`: a prohibition of its own.
fn forbids(first: &Word, rest: &[Word]) -> bool {
    let end = rest.iter().position(|word| word.sep >= Sep::Comma).unwrap_or(rest.len()).min(6);
    let is = rest[..end].iter().position(|word| word.is(&["is", "are", "must", "may"]));
    let denied = |at: usize| {
        rest.get(at + 1).is_some_and(|word| word.is(&["not", "forbidden", "banned", "prohibited", "never"]))
    };
    !first.is(&["which", "who", "that", "it", "they", "if", "when"]) && is.is_some_and(denied)
}

/// What stands between round brackets, outside of code.
fn brackets(text: &str, span: Range<usize>) -> Vec<Range<usize>> {
    let (mut found, mut open, mut code) = (Vec::new(), None, false);
    let mut before = ' ';
    for (at, c) in text[span.clone()].char_indices() {
        match c {
            '`' => code = !code,
            '(' if !code && before != ']' => open = open.or(Some(span.start + at)),
            ')' if !code => found.extend(open.take().map(|start| start..span.start + at)),
            _ => {}
        }
        before = c;
    }
    found
}

/// `…, tests included`, `…, not even in tests`: the same for all, which [`says_all`] is asked for.
fn cut_inclusions(clause: &mut Vec<Word>) {
    let mut at = 1;
    while at < clause.len() {
        let end = (at + 1..clause.len()).find(|end| clause[*end].sep >= Sep::Comma).unwrap_or(clause.len());
        let opens = clause[at].is(&["even", "including"])
            || clause[at].is(&["not"]) && clause.get(at + 1).is_some_and(|next| next.is(&["even"]));
        let closes = clause[end - 1].is(&["included", "too", "alike"]);
        if clause[at].sep == Sep::Comma && (opens || closes && end - at < 6) {
            clause.drain(at..end);
        } else {
            at = end;
        }
    }
}

/// Whether a directive says that there are no exceptions.
pub(super) fn says_all(text: &str) -> bool {
    let all = words(text, 0..text.len());
    all.windows(2).any(|pair| {
        pair[0].is(&["not"]) && pair[1].is(&["even"])
            || pair[0].is(&["no", "without"]) && pair[1].is(&["exception", "exceptions", "matter", "circumstances"])
    }) || all.iter().any(|word| word.is(&["whatever", "included", "including", "everywhere"]))
}

/// `Important:`, `Note:` say nothing.
fn cut_label(clause: &mut Vec<Word>) {
    let says_nothing = |word: &Word| {
        word.is(&["important", "note", "nb", "warning", "caution", "attention", "rule", "reminder", "remember"])
    };
    if clause.len() > 2 && says_nothing(&clause[0]) && clause[1].sep >= Sep::Comma {
        clause.remove(0);
    }
}

fn asks(clause: &[Word]) -> bool {
    let first = clause.iter().find(|word| !word.is(SOFTENERS));
    first.is_some_and(|word| word.is(STARTS)) || clause.iter().any(|word| word.is(ASKING))
}

fn cut_reason(clause: &mut Vec<Word>) {
    let is = |at: usize, list: &[&str]| clause.get(at).is_some_and(|word| word.is(list));
    let number = |at: usize| clause.get(at).is_some_and(|word| word.low.starts_with(|c: char| c.is_ascii_digit()));
    let comma = |at: usize| clause.get(at).is_some_and(|word| word.sep == Sep::Comma);
    let begins = |at: usize| {
        is(at, BECAUSE) && !is(at + 1, &["of"])
            || is(at, &["since"]) && !number(at + 1)
            || is(at, &["or"]) && is(at + 1, &["else"])
            || is(at, &["so"]) && is(at + 1, REASON_AFTER_SO)
            || is(at, &["as"]) && is(at + 1, REASON_AFTER_AS) && !is(at + 2, &["is", "are"])
            || comma(at) && is(at, PRONOUNS) && (is(at + 1, STATES) || !asks(&clause[at..]))
            || comma(at) && is(at, &["the", "our", "your", "their"]) && states(&clause[at..])
            || at > 3 && clause[at].sep == Sep::Colon && is(at, EXPLAINING)
            || is(at, &["where", "wherever", "if", "when"]) && is(at + 1, &["possible", "appropriate"])
            || is(at, &["where", "wherever", "if", "when"]) && is(at + 1, &["you"]) && is(at + 2, &["can", "could"])
            || is(at, &["such"]) && is(at + 1, &["as"])
            || is(at, &["e.g", "i.e"])
            || is(at, &["for"]) && is(at + 1, &["example", "instance"])
            || comma(at) && is(at, &["as"]) && is(at + 1, &["in"])
            || comma(at) && is(at, &["for"]) && clause.len() > at + 1 && at > 3 && !is(at - 1, &["not"])
    };
    if let Some(end) = (2..clause.len()).find(|at| begins(*at)) {
        clause.truncate(end);
    }
}

/// `the linter complains`, `our users read it`: a sentence of its own.
fn states(rest: &[Word]) -> bool {
    let end = (1..rest.len().min(5))
        .find(|at| rest[*at].sep >= Sep::Comma || rest[*at].is(&["and", "or"]))
        .unwrap_or(rest.len().min(5));
    rest[..end].iter().skip(2).any(|word| {
        word.is(STATES) || word.low.ends_with('s') && !word.code && VERBS.contains(&word.low.trim_end_matches('s'))
    })
}

const CONDITIONS: &[&str] =
    &["when", "if", "while", "whenever", "until", "once", "before", "after", "where", "wherever"];
const LEADING: &[&str] = &[
    "in", "on", "for", "during", "inside", "within", "under", "with", "without", "outside", "from", "at", "as",
    "other", "apart", "unless", "except", "to",
];
const EXCEPTIONS: &[&str] = &["unless", "except", "other", "apart"];
const MARKS: &[&str] = &["never", "always", "use", "don't", "prefer", "must", "avoid", "do", "please"];

/// Says of each word what part it plays; whether one thing is set against another.
pub(super) fn parts(tokens: &mut [Token<'_>]) -> bool {
    let count = tokens.len();
    let end_from = |tokens: &[Token<'_>], from: usize| {
        (from + 1..count).find(|at| tokens[*at].word.sep >= Sep::Comma).unwrap_or(count)
    };
    // `In Python files, …`, `When x, …`.
    if let Some(first) = tokens.first()
        && (first.is(CONDITIONS) || first.is(LEADING))
    {
        let mut end = end_from(tokens, 0);
        if end == count && first.is(CONDITIONS) {
            end = (2..count).find(|at| tokens[*at].is(MARKS)).unwrap_or(count);
        }
        if end < count {
            let part = if first.is(EXCEPTIONS) { Part::Exception } else { Part::Condition };
            tokens[..end].iter_mut().for_each(|token| token.part = part);
        }
    }
    let mut at = 1;
    while at < count {
        let token = &tokens[at];
        let is_once = token.is(&["once"]) && tokens.get(at + 1).is_none_or(|next| next.word.sep != Sep::None);
        let opens = token.part == Part::Main
            && (token.is(CONDITIONS)
                || token.is(&["unless", "except"])
                || other_than(tokens, at)
                || all_but(tokens, at))
            && !is_once
            && !(token.is(&["after", "before"]) && is_measure(&tokens[at + 1..]))
            // One after the other.
            && !(token.is(&["after"]) && tokens[at - 1].is(&["one", "day"]));
        if opens {
            let end = end_from(tokens, at);
            let part = match token.low {
                "unless" | "except" | "other" | "apart" | "but" => Part::Exception,
                "before" | "after" => Part::Order,
                _ => Part::Condition,
            };
            tokens[at..end].iter_mut().for_each(|token| token.part = part);
            at = end;
        } else {
            at += 1;
        }
    }
    in_turn(tokens);
    contrasts(tokens)
}

/// `A first, then B`, `A first and B afterwards`, `A stands above B`: what comes second is the order's part.
fn in_turn(tokens: &mut [Token<'_>]) {
    let main = |token: &Token<'_>| token.part == Part::Main;
    let placed = tokens
        .iter()
        .any(|token| token.is(&["come", "comes", "stand", "stands", "go", "goes", "put", "place", "placed"]));
    let above = tokens
        .iter()
        .position(|token| main(token) && token.is(&["above", "ahead", "below", "behind", "precede", "precedes"]));
    if let Some(above) =
        above.filter(|at| placed && *at > 0 && tokens.get(at + 1).is_some_and(|next| next.number().is_none()))
    {
        tokens[above..].iter_mut().for_each(|token| token.part = Part::Order);
        return;
    }
    let last =
        tokens.iter().position(|token| main(token) && token.is(&["then", "afterwards", "last", "second", "after"]));
    let Some(last) = last.filter(|at| *at > 0) else { return };
    let first = tokens[..last].iter().any(|token| token.is(&["first"]));
    let from = if tokens[last].is(&["then"]) {
        last
    } else if first {
        let joins = |at: &usize| tokens[*at].is(&["and"]) || tokens[*at].word.sep == Sep::Comma;
        match (1..last).rev().find(joins) {
            Some(at) => at,
            None => return,
        }
    } else {
        return;
    };
    tokens[from..].iter_mut().filter(|token| main(token)).for_each(|token| token.part = Part::Order);
}

/// `everywhere but in x`.
fn all_but(tokens: &[Token<'_>], at: usize) -> bool {
    tokens[at].is(&["but"]) && tokens[at - 1].is(&["everywhere", "everything", "all", "everybody", "anything"])
}

/// `after 15 minutes`, `after an hour`: how long, not what comes first.
fn is_measure(rest: &[Token<'_>]) -> bool {
    let [first, second, ..] = rest else { return false };
    if first.is(&["half"]) && second.is(&["a", "an"]) {
        return true;
    }
    first.number().is_some()
        && (super::numbers::is_unit(second.low) || first.low.starts_with(|c: char| c.is_ascii_digit()))
}

fn other_than(tokens: &[Token<'_>], at: usize) -> bool {
    let next = |list: &[&str]| tokens.get(at + 1).is_some_and(|next| next.is(list));
    tokens[at].is(&["other"]) && next(&["than"]) || tokens[at].is(&["apart"]) && next(&["from"])
}

/// `…, not x`, `rather than x`, `instead of x`, `over x` after *prefer*.
fn contrasts(tokens: &mut [Token<'_>]) -> bool {
    let count = tokens.len();
    let mut found = false;
    let next_is = |tokens: &[Token<'_>], at: usize, list: &[&str]| tokens.get(at + 1).is_some_and(|next| next.is(list));
    let comma_from = |tokens: &[Token<'_>], from: usize| {
        (from + 1..count).find(|at| tokens[*at].word.sep >= Sep::Comma).unwrap_or(count)
    };
    for at in 1..count {
        if !matches!(tokens[at].part, Part::Main | Part::Condition) {
            continue;
        }
        let token = &tokens[at];
        let apart = token.word.sep >= Sep::Comma;
        let denied =
            token.is(&["not", "never", "no"]) && apart && !next_is(tokens, at, &["only", "even", "later", "more"]);
        let rather = token.is(&["rather"]) && next_is(tokens, at, &["than"])
            || token.is(&["instead"]) && next_is(tokens, at, &["of"])
            || token.is(&["as"]) && next_is(tokens, at, &["opposed"])
            || (token.is(&["over"])
                || token.is(&["to"])
                    && !next_is(tokens, at, VERBS)
                    && !next_is(tokens, at, &["have", "be", "the", "do"]))
                && tokens[..at].iter().any(|one| one.is(PREFERRING))
                && !apart;
        if denied || rather {
            let end = comma_from(tokens, at);
            tokens[at..end].iter_mut().for_each(|token| token.part = Part::Contrast);
            found = true;
        }
    }
    if tokens.first().is_some_and(|first| first.is(&["instead", "rather"])) {
        let end = comma_from(tokens, 0);
        if end < count {
            tokens[..end].iter_mut().for_each(|token| token.part = Part::Contrast);
            found = true;
        }
    }
    found
}

const PREFERRING: &[&str] = &["prefer", "preferred", "favour", "favor", "preferable"];
