//! A directive without its reasons, in clauses, and what part each word plays in its clause.

use super::{Part, Token};
use crate::directive::words::{Sep, Word, words};
use std::ops::Range;

/// What a clause of its own begins with; what begins otherwise after a dash or full stop is a reason.
const STARTS: &[&str] = &[
    "never", "don't", "do", "no", "not", "avoid", "use", "prefer", "always", "only", "keep", "put", "write", "run", "return",
    "open", "add", "make", "leave", "name", "call", "set", "let", "throw", "log", "wrap", "merge", "squash", "rebase",
    "commit", "push", "store", "show", "hide", "ask", "delete", "remove", "move", "create", "import", "export",
    "convert", "handle", "catch", "check", "fix", "start", "give", "take", "choose", "go", "pass", "send", "read",
    "build", "install", "edit", "change", "follow", "mark", "document", "explain", "stop", "wait", "retry", "cache",
    "validate", "reject", "accept", "recover", "omit", "skip", "pin", "drop", "load", "format", "sort", "split", "mock",
    "everything", "nothing", "nobody", "every", "each", "all", "stay", "print", "raise", "emit", "limit", "tag",
    "reuse", "update", "prefix", "begin", "end", "declare", "define", "cut", "answer", "reply", "round", "compute",
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
    "is", "are", "was", "were", "have", "has", "had", "just", "already", "would", "will", "can", "cannot", "get", "got",
    "do", "does", "makes", "keeps", "helps", "breaks", "costs", "saves", "can't", "isn't", "don't", "doesn't", "needs",
    "takes", "gives", "reads", "hurt", "hide", "hides", "rot", "rots", "slow", "slows", "lets", "gets", "knows",
];
const REASON_AFTER_AS: &[&str] =
    &["it", "the", "we", "they", "this", "that", "there", "most", "our", "your", "all", "each", "people", "black"];
const REASON_AFTER_SO: &[&str] = &["we", "you", "that", "they", "one", "people", "it", "the", "everybody", "nobody"];

/// The clauses of a directive that ask for something, each as its words. Reasons, examples and what stands in brackets
/// are left out.
pub(super) fn clauses(text: &str, span: Range<usize>) -> Vec<Vec<Word>> {
    let all = words(text, span.clone());
    let brackets = brackets(text, span);
    let mut clauses: Vec<Vec<Word>> = Vec::new();
    for word in all {
        if brackets.iter().any(|inside| inside.contains(&word.span.start)) {
            continue;
        }
        let parts = matches!(word.sep, Sep::Stop | Sep::Semicolon | Sep::Dash) && !follows_abbreviation(&clauses);
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
    clauses.iter_mut().for_each(cut_reason);
    clauses.retain(|clause| !clause.is_empty());
    clauses.truncate(MOST_CLAUSES);
    clauses
}

const MOST_CLAUSES: usize = 5;

fn follows_abbreviation(clauses: &[Vec<Word>]) -> bool {
    clauses.last().and_then(|clause| clause.last()).is_some_and(|word| word.is(&["e.g", "i.e", "etc", "vs"]))
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

fn asks(clause: &[Word]) -> bool {
    let first = clause.iter().find(|word| !word.is(SOFTENERS));
    first.is_some_and(|word| word.is(STARTS)) || clause.iter().any(|word| word.is(ASKING))
}

fn cut_reason(clause: &mut Vec<Word>) {
    let is = |at: usize, list: &[&str]| clause.get(at).is_some_and(|word| word.is(list));
    let number = |at: usize| clause.get(at).is_some_and(|word| word.low.starts_with(|c: char| c.is_ascii_digit()));
    let comma = |at: usize| clause.get(at).is_some_and(|word| word.sep == Sep::Comma);
    let begins = |at: usize| {
        is(at, BECAUSE)
            || is(at, &["since"]) && !number(at + 1)
            || is(at, &["or"]) && is(at + 1, &["else"])
            || is(at, &["so"]) && is(at + 1, REASON_AFTER_SO)
            || is(at, &["as"]) && is(at + 1, REASON_AFTER_AS) && !is(at + 2, &["is", "are"])
            || comma(at) && is(at, PRONOUNS) && is(at + 1, STATES)
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

const CONDITIONS: &[&str] = &["when", "if", "while", "whenever", "until", "once", "before", "after", "where", "wherever"];
const LEADING: &[&str] = &[
    "in", "on", "for", "during", "inside", "within", "under", "with", "without", "outside", "from", "at", "as", "other",
    "apart", "unless", "except",
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
            && (token.is(CONDITIONS) || token.is(&["unless", "except"]) || other_than(tokens, at))
            && !is_once;
        if opens {
            let end = end_from(tokens, at);
            let part = match token.low {
                "unless" | "except" | "other" | "apart" => Part::Exception,
                "before" | "after" => Part::Order,
                _ => Part::Condition,
            };
            tokens[at..end].iter_mut().for_each(|token| token.part = part);
            at = end;
        } else {
            at += 1;
        }
    }
    contrasts(tokens)
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
        let denied = token.is(&["not", "never", "no"]) && apart && !next_is(tokens, at, &["only", "even", "later", "more"]);
        let rather = token.is(&["rather"]) && next_is(tokens, at, &["than"])
            || token.is(&["instead"]) && next_is(tokens, at, &["of"])
            || token.is(&["as"]) && next_is(tokens, at, &["opposed"])
            || token.is(&["over", "to"]) && tokens[..at].iter().any(|one| one.is(PREFERRING)) && !apart;
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
