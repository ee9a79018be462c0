//! Reading a value as the words that stand there.

use super::{Scalar, Value};
use crate::base::wording::{lines_in, trim_range};
use std::ops::Range;

/// The value that begins at `range.start` and may go on over the lines up to `range.end`.
pub(super) fn value(text: &str, range: Range<usize>) -> (Value, Range<usize>) {
    let mut lines = lines_in(text, range.clone());
    let first = lines.next().unwrap_or(range.start..range.start);
    let rest = trim_range(text, without_comment(text, first));
    if text[rest.clone()].starts_with('[') {
        let whole = trim_range(text, without_comment(text, range.start..range.end));
        for candidate in [rest.clone(), whole] {
            if let Some(items) = flow_list(text, candidate.clone()) {
                return (Value::List(items), candidate);
            }
        }
    }
    if !rest.is_empty() {
        return (Value::Scalar(scalar(text, rest.clone())), rest);
    }
    let mut items = Vec::new();
    for line in lines {
        let line = trim_range(text, line);
        let is_item =
            text[line.clone()].strip_prefix('-').is_some_and(|rest| rest.is_empty() || rest.starts_with([' ', '\t']));
        if is_item {
            let item = trim_range(text, without_comment(text, line.start + 1..line.end));
            items.push(scalar(text, item));
        }
    }
    match (items.first(), items.last()) {
        (Some(first), Some(last)) => {
            let span = first.span.start..last.span.end;
            (Value::List(items), span)
        }
        _ => (Value::Nothing, rest),
    }
}

/// The text of a range, the quotes around it taken off.
pub(super) fn scalar(text: &str, span: Range<usize>) -> Scalar {
    let raw = &text[span.clone()];
    match unquoted(raw) {
        Some(inner) => Scalar { text: inner.to_owned(), quoted: true, span },
        None => Scalar { text: raw.to_owned(), quoted: false, span },
    }
}

/// What one pair of quotes encloses, if it encloses all of the text.
pub(crate) fn unquoted(text: &str) -> Option<&str> {
    let quote = text.chars().next().filter(|c| matches!(c, '"' | '\''))?;
    let inner = text.strip_prefix(quote)?.strip_suffix(quote)?;
    (!inner.contains(quote)).then_some(inner)
}

/// A range cut off at a `#` after blanks, outside of quotes.
fn without_comment(text: &str, range: Range<usize>) -> Range<usize> {
    let mut quote = None;
    let mut before = ' ';
    for (at, c) in text[range.clone()].char_indices() {
        match quote {
            Some(open) if c == open => quote = None,
            Some(_) => {}
            None if matches!(c, '"' | '\'') && matches!(before, ' ' | '\t' | '[' | ',') => quote = Some(c),
            None if c == '#' && matches!(before, ' ' | '\t') => {
                let rest = &text[range.start + at..range.end];
                // A comment ends with its line; a list may go on below it, which only YAML can read.
                if !rest.contains('\n') {
                    return range.start..range.start + at;
                }
            }
            None => {}
        }
        before = c;
    }
    range
}

/// `[a, b]` as literal items; commas inside quotes, brackets and braces do not separate.
fn flow_list(text: &str, span: Range<usize>) -> Option<Vec<Scalar>> {
    let inner = text[span.clone()].strip_prefix('[')?.strip_suffix(']')?;
    let base = span.start + 1;
    let (mut items, mut depth, mut quote, mut start) = (Vec::new(), 0i32, None, 0);
    let mut before = ' ';
    let mut add = |range: Range<usize>, last: bool| {
        let item = trim_range(text, base + range.start..base + range.end);
        if !(item.is_empty() && last) {
            items.push(scalar(text, item));
        }
    };
    for (at, c) in inner.char_indices() {
        match quote {
            Some(open) if c == open => quote = None,
            Some(_) => {}
            None => match c {
                '"' | '\'' if matches!(before, ' ' | '\t' | ',' | '\n') => quote = Some(c),
                '[' | '{' => depth += 1,
                ']' | '}' => depth -= 1,
                ',' if depth <= 0 => {
                    add(start..at, false);
                    start = at + 1;
                }
                _ => {}
            },
        }
        before = c;
    }
    add(start..inner.len(), true);
    Some(items)
}
