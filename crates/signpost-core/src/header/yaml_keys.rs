//! The keys of a YAML header.

use super::{Key, Problem, Scalar, Value, plain};
use crate::base::wording::lines_in;
use saphyr_parser::{Event, Parser, ScalarStyle, Span};
use std::borrow::Cow;
use std::ops::Range;

/// A key's value beyond this is read as words only: no header needs more.
const MAX_PARSED: usize = 64 << 10;
/// Brackets beyond this are nobody's patterns.
const MAX_BRACKETS: usize = 2_000;

pub(super) fn read(text: &str, block: Range<usize>) -> (Vec<Key>, Vec<Problem>) {
    let mut keys = Vec::new();
    let mut problems = Vec::new();
    for chunk in chunks(text, block, &mut problems) {
        let (value, value_span) = match properly(text, &chunk) {
            Ok((value, span, tabs)) => {
                if tabs {
                    problems.push(Problem {
                        message: "a tab stands where YAML allows only blanks".into(),
                        help: "indent with blanks".into(),
                        span: span.clone(),
                        fix: None,
                    });
                }
                (value, span)
            }
            Err(fault) => {
                let (value, span) = plain::value(text, chunk.rest.clone());
                let fault_span = if span.is_empty() { chunk.name.clone() } else { span.clone() };
                let right = quoted(text, &chunk, &value, &span);
                problems.push(fault.problem(text, fault_span, right));
                (value, span)
            }
        };
        let name = plain::scalar(text, chunk.name.clone()).text;
        keys.push(Key { name, name_span: chunk.name, value, value_span });
    }
    (keys, problems)
}

/// One top-level key with all its lines.
struct Chunk {
    name: Range<usize>,
    /// All of the lines.
    all: Range<usize>,
    /// From after the colon to the end.
    rest: Range<usize>,
}

fn chunks(text: &str, block: Range<usize>, problems: &mut Vec<Problem>) -> Vec<Chunk> {
    let mut chunks: Vec<Chunk> = Vec::new();
    let mut base = None;
    for line in lines_in(text, block) {
        let content = &text[line.clone()];
        let trimmed = content.trim();
        if trimmed.is_empty() || trimmed.starts_with('#') {
            continue;
        }
        let indent = content.len() - content.trim_start().len();
        let base = *base.get_or_insert(indent);
        if indent <= base
            && let Some((name, colon, tight)) = key_of(content)
        {
            let name = line.start + name.start..line.start + name.end;
            let rest = line.start + colon + 1..line.end;
            if tight {
                problems.push(Problem {
                    message: "a blank is missing after the colon, so YAML sees no key here".into(),
                    help: format!("write `{}: …`", &text[name.clone()]),
                    span: name.clone(),
                    fix: None,
                });
            }
            chunks.push(Chunk { name, all: line.clone(), rest });
            continue;
        }
        match chunks.last_mut() {
            Some(chunk) => {
                let goes_on = indent > base
                    || trimmed.starts_with(['-', ']', '}', '"', '\'', ','])
                    || text[chunk.rest.clone()].trim_start().starts_with(['[', '{', '"', '\'']);
                if goes_on {
                    chunk.all.end = line.end;
                    chunk.rest.end = line.end;
                } else {
                    problems.push(stray(line));
                }
            }
            None => problems.push(stray(line)),
        }
    }
    chunks
}

fn stray(span: Range<usize>) -> Problem {
    Problem {
        message: "this line is no key and belongs to none".into(),
        help: "write `key: value`, or move the text below the header".into(),
        span,
        fix: None,
    }
}

/// The key at the start of a line: its bytes, where the colon is, and whether a blank is missing after it.
fn key_of(line: &str) -> Option<(Range<usize>, usize, bool)> {
    let start = line.len() - line.trim_start().len();
    let content = &line[start..];
    if let Some(quote) = content.chars().next().filter(|c| matches!(c, '"' | '\'')) {
        let close = content[1..].find(quote)? + 1;
        let after = &content[close + 1..];
        let colon = after.find(':').filter(|at| after[..*at].trim().is_empty())?;
        let blank = after[colon + 1..].chars().next().is_none_or(|c| c == ' ' || c == '\t');
        return blank.then_some((start..start + close + 1, start + close + 1 + colon, false));
    }
    if content.starts_with(['[', ']', '{', '}', ',', '#', '>', '|']) || content.starts_with("- ") || content == "-" {
        return None;
    }
    let spaced = content
        .match_indices(':')
        .map(|(at, _)| at)
        .find(|at| content[at + 1..].chars().next().is_none_or(|c| matches!(c, ' ' | '\t')));
    let first = content.find(':')?;
    let word = |text: &str| !text.is_empty() && text.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-'));
    if word(&content[..first]) && Some(first) != spaced && !content[first + 1..].starts_with("//") {
        return Some((start..start + first, start + first, true));
    }
    let colon = spaced?;
    let name = content[..colon].trim_end();
    (!name.is_empty()).then_some((start..start + name.len(), start + colon, false))
}

/// Why a key was not read by the YAML parser.
enum Fault {
    Syntax(String),
    Alias,
    Tag,
    Size,
}

impl Fault {
    fn problem(self, text: &str, span: Range<usize>, right: Option<String>) -> Problem {
        let shown = right.as_deref().filter(|right| right.len() <= 64 && !right.contains('\n')).unwrap_or("\"…\"");
        let quote = |why: &str| (why.to_owned(), format!("put the value in quotes: `{shown}`"));
        let first = text[span.clone()].trim_start_matches(['[', '-', ' ']).chars().next();
        // The parser speaks of anchors where a person wrote a pattern.
        let fault = match (self, first) {
            (Fault::Syntax(_), Some('*' | '&')) => Fault::Alias,
            (fault, _) => fault,
        };
        let fixable = !matches!(fault, Fault::Size);
        let (message, help) = match fault {
            Fault::Syntax(why) => quote(&format!("not valid YAML: {why}")),
            Fault::Alias => quote("not valid YAML: a value that begins with `*` or `&` needs quotes"),
            Fault::Tag => quote("not valid YAML: a value that begins with `!` needs quotes"),
            Fault::Size => ("this value is too large for a header".to_owned(), "move it into the text".to_owned()),
        };
        Problem { message, help, span, fix: right.filter(|_| fixable) }
    }
}

/// The value with quotes around what needs them, where YAML then reads what was read from it without. `span` are its
/// bytes.
fn quoted(text: &str, chunk: &Chunk, value: &Value, span: &Range<usize>) -> Option<String> {
    // With these it would read as something else.
    let unsafe_in = |words: &str| words.is_empty() || words.contains(['\n', '\r', '\t', '\\', '"']);
    let raw = &text[span.clone()];
    if raw.is_empty() || raw.contains('\t') || raw.contains(" #") {
        return None;
    }
    let right = match value {
        Value::List(items) if items.iter().any(|item| unsafe_in(&item.text)) => return None,
        Value::List(items) if raw.starts_with('[') && !raw.contains('\n') => {
            let items: Vec<String> = items.iter().map(|item| format!("\"{}\"", item.text)).collect();
            format!("[{}]", items.join(", "))
        }
        // One item a line: each is quoted where it stands.
        Value::List(items) => {
            let (mut right, mut at) = (String::new(), span.start);
            for item in items {
                right += text.get(at..item.span.start)?;
                right += &format!("\"{}\"", item.text);
                at = item.span.end;
            }
            right + text.get(at..span.end)?
        }
        Value::Scalar(scalar) if !unsafe_in(&scalar.text) => format!("\"{}\"", scalar.text),
        _ => return None,
    };
    let source = [text.get(chunk.all.start..span.start)?, &right, text.get(span.end..chunk.all.end)?].concat();
    let (read, _) = parse(&source).ok()?;
    let words = |value: &Value| match value {
        Value::List(items) => Some((true, items.iter().map(|item| item.text.clone()).collect::<Vec<_>>())),
        Value::Scalar(scalar) => Some((false, vec![scalar.text.clone()])),
        Value::Nothing | Value::Table => None,
    };
    (words(&read) == words(value)).then_some(right)
}

/// The value, its bytes, and whether tabs had to be taken for blanks.
fn properly(text: &str, chunk: &Chunk) -> Result<(Value, Range<usize>, bool), Fault> {
    let source = &text[chunk.all.clone()];
    if source.len() > MAX_PARSED || source.bytes().filter(|b| matches!(b, b'[' | b'{')).count() > MAX_BRACKETS {
        return Err(Fault::Size);
    }
    let (read, tabs) = match parse(source) {
        // A tab right after the colon is allowed, but not by this parser.
        Err(Fault::Syntax(_)) if source.contains('\t') => {
            let indented = source.lines().any(|line| line.trim_start_matches(' ').starts_with('\t'));
            (parse(&source.replace('\t', " "))?, indented)
        }
        read => (read?, false),
    };
    let base = chunk.all.start;
    let moved = |span: Range<usize>| base + span.start..base + span.end;
    let place = |scalar: Scalar| Scalar { span: moved(scalar.span), ..scalar };
    let value = match read.0 {
        Value::Scalar(scalar) => Value::Scalar(place(scalar)),
        Value::List(items) => Value::List(items.into_iter().map(place).collect()),
        other => other,
    };
    Ok((value, moved(read.1), tabs))
}

/// Parses `key: value`.
fn parse(source: &str) -> Result<(Value, Range<usize>), Fault> {
    let bytes = CharOffsets::new(source);
    let mut events = Vec::new();
    for event in Parser::new_from_str(source) {
        match event {
            Ok((event, span)) => events.push((event, bytes.range(span))),
            Err(error) => return Err(Fault::Syntax(error.info().to_owned())),
        }
    }
    let mut events = events
        .into_iter()
        .filter(|(event, _)| {
            !matches!(event, Event::StreamStart | Event::StreamEnd | Event::DocumentStart(_) | Event::DocumentEnd)
        })
        .peekable();
    let Some((Event::MappingStart(..), _)) = events.next() else { return Err(no_mapping()) };
    let Some((Event::Scalar(..), key)) = events.next() else { return Err(no_mapping()) };
    let Some((first, span)) = events.next() else { return Err(no_mapping()) };
    let tagged = |anchor: usize, tag: &Option<Cow<'_, _>>| {
        if tag.is_some() {
            Err(Fault::Tag)
        } else if anchor != 0 {
            Err(Fault::Alias)
        } else {
            Ok(())
        }
    };
    let read = match first {
        Event::Alias(_) => return Err(Fault::Alias),
        Event::Scalar(value, style, anchor, tag) => {
            tagged(anchor, &tag)?;
            if value.is_empty() && style == ScalarStyle::Plain {
                (Value::Nothing, key.end..key.end)
            } else {
                let span = trimmed(source, span);
                (
                    Value::Scalar(Scalar {
                        text: value.trim_end().to_owned(),
                        quoted: style != ScalarStyle::Plain,
                        span: span.clone(),
                    }),
                    span,
                )
            }
        }
        Event::SequenceStart(anchor, tag) => {
            tagged(anchor, &tag)?;
            sequence(source, span, &mut events)?
        }
        Event::MappingStart(anchor, tag) => {
            tagged(anchor, &tag)?;
            table(source, span, &mut events)?
        }
        _ => return Err(no_mapping()),
    };
    match events.next() {
        Some((Event::MappingEnd, _)) => Ok(read),
        _ => Err(no_mapping()),
    }
}

fn no_mapping() -> Fault {
    Fault::Syntax("a `key: value` was expected".to_owned())
}

/// A list, in brackets or one item a line; `span` is where it begins.
fn sequence<'e>(
    source: &str,
    span: Range<usize>,
    events: &mut impl Iterator<Item = (Event<'e>, Range<usize>)>,
) -> Result<(Value, Range<usize>), Fault> {
    let (items, end) = list(source, events)?;
    let bracketed = source[span.clone()].starts_with('[');
    let (start, end) = match (items.first(), items.last()) {
        (Some(first), Some(last)) if !bracketed => (first.span.start, last.span.end),
        _ => (span.start, end),
    };
    Ok((Value::List(items), trimmed(source, start..end.max(start))))
}

/// A table, which no key of ours takes: only its bytes count.
fn table<'e>(
    source: &str,
    span: Range<usize>,
    events: &mut impl Iterator<Item = (Event<'e>, Range<usize>)>,
) -> Result<(Value, Range<usize>), Fault> {
    let (from, mut end) = (span.start, span.end);
    let mut depth = 1;
    let mut said = false;
    let mut scalars = 0;
    while depth > 0 {
        let Some((event, span)) = events.next() else { return Err(no_mapping()) };
        match event {
            Event::MappingStart(..) | Event::SequenceStart(..) => depth += 1,
            Event::MappingEnd | Event::SequenceEnd => depth -= 1,
            Event::Scalar(value, ..) => {
                scalars += 1;
                said |= scalars % 2 == 0 && !value.is_empty();
            }
            _ => {}
        }
        end = end.max(span.end);
    }
    // `{src,lib}` is a pattern to whoever wrote it, not a table of two keys without values.
    if !said && source[from..].starts_with('{') {
        return Err(Fault::Syntax("braces begin a table".to_owned()));
    }
    Ok((Value::Table, trimmed(source, from..end.max(from))))
}

/// The items of a sequence; what is no scalar is kept as its words.
fn list<'e>(
    source: &str,
    events: &mut impl Iterator<Item = (Event<'e>, Range<usize>)>,
) -> Result<(Vec<Scalar>, usize), Fault> {
    let mut items = Vec::new();
    loop {
        let Some((event, span)) = events.next() else { return Err(Fault::Syntax("the list has no end".to_owned())) };
        match event {
            Event::SequenceEnd => return Ok((items, span.end)),
            Event::Scalar(_, _, anchor, tag) if anchor != 0 || tag.is_some() => {
                return Err(if tag.is_some() { Fault::Tag } else { Fault::Alias });
            }
            Event::Scalar(value, style, ..) => items.push(Scalar {
                text: value.trim_end().to_owned(),
                quoted: style != ScalarStyle::Plain,
                span: trimmed(source, span),
            }),
            Event::Alias(_) => return Err(Fault::Alias),
            Event::SequenceStart(..) | Event::MappingStart(..) => {
                let (start, mut end, mut depth) = (span.start, span.end, 1);
                while depth > 0 {
                    let Some((event, span)) = events.next() else {
                        return Err(Fault::Syntax("the list has no end".to_owned()));
                    };
                    match event {
                        Event::MappingStart(..) | Event::SequenceStart(..) => depth += 1,
                        Event::MappingEnd | Event::SequenceEnd => depth -= 1,
                        _ => {}
                    }
                    if !matches!(event, Event::MappingEnd) || source[span.clone()].starts_with('}') {
                        end = end.max(span.end);
                    }
                }
                let span = trimmed(source, start..end);
                items.push(Scalar { text: source[span.clone()].to_owned(), quoted: false, span });
            }
            _ => {}
        }
    }
}

fn trimmed(source: &str, span: Range<usize>) -> Range<usize> {
    crate::base::wording::trim_range(source, span)
}

/// The parser counts characters, we count bytes.
struct CharOffsets(Option<Vec<usize>>, usize);

impl CharOffsets {
    fn new(source: &str) -> Self {
        let offsets = (!source.is_ascii()).then(|| source.char_indices().map(|(at, _)| at).collect());
        CharOffsets(offsets, source.len())
    }

    fn byte(&self, index: usize) -> usize {
        match &self.0 {
            None => index.min(self.1),
            Some(offsets) => offsets.get(index).copied().unwrap_or(self.1),
        }
    }

    fn range(&self, span: Span) -> Range<usize> {
        let start = self.byte(span.start.index());
        start..self.byte(span.end.index()).max(start)
    }
}
