//! The keys of a TOML header.

use super::{Key, Problem, Scalar, Value, plain};
use crate::base::wording::lines_in;
use std::ops::Range;
use toml_edit::{Document, Item};

pub(super) fn read(text: &str, block: Range<usize>) -> (Vec<Key>, Vec<Problem>) {
    let fault = match parse(text, block.clone()) {
        Ok(keys) => return (keys, Vec::new()),
        Err(fault) => fault,
    };
    let mut keys = Vec::new();
    let mut problems = Vec::new();
    for chunk in chunks(text, block.clone()) {
        match parse(text, chunk.all.clone()) {
            Ok(read) => keys.extend(read),
            Err(problem) => {
                let (value, value_span) = plain::value(text, chunk.rest.clone());
                let name = plain::scalar(text, chunk.name.clone()).text;
                let span = if value_span.is_empty() { chunk.name.clone() } else { value_span.clone() };
                problems.push(Problem { span, ..problem });
                keys.push(Key { name, name_span: chunk.name, value, value_span });
            }
        }
    }
    if problems.is_empty() {
        problems.push(fault);
    }
    (keys, problems)
}

struct Chunk {
    name: Range<usize>,
    all: Range<usize>,
    rest: Range<usize>,
}

fn chunks(text: &str, block: Range<usize>) -> Vec<Chunk> {
    let mut chunks: Vec<Chunk> = Vec::new();
    for line in lines_in(text, block) {
        let content = &text[line.clone()];
        // From a table's heading on, keys belong to the table.
        if content.starts_with('[') && content.trim_end().ends_with(']') && !content.contains(['"', '*', ',']) {
            break;
        }
        let equals = content.find('=').filter(|at| {
            let name = content[..*at].trim();
            let name = plain::unquoted(name).unwrap_or(name);
            !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-' | '.'))
        });
        match (equals, chunks.last_mut()) {
            (Some(equals), _) => {
                let name = crate::base::wording::trim_range(text, line.start..line.start + equals);
                let rest = line.start + equals + 1..line.end;
                chunks.push(Chunk { name, all: line, rest });
            }
            (None, Some(chunk)) if !content.trim().is_empty() && !content.trim_start().starts_with('#') => {
                chunk.all.end = line.end;
                chunk.rest.end = line.end;
            }
            _ => {}
        }
    }
    chunks
}

fn parse(text: &str, range: Range<usize>) -> Result<Vec<Key>, Problem> {
    let base = range.start;
    let moved = |span: Range<usize>| base + span.start..base + span.end;
    let source = &text[range.clone()];
    let document = Document::parse(source).map_err(|error| Problem {
        message: format!("not valid TOML: {}", error.message().lines().next().unwrap_or_default()),
        help: "texts stand in quotes, lists in brackets: `paths = [\"*.ts\"]`".into(),
        span: moved(error.span().unwrap_or(0..source.len().min(1))),
        fix: None,
    })?;
    let scalar = |value: &toml_edit::Value| {
        let span = value.span().unwrap_or(0..0);
        match value.as_str() {
            Some(string) => Scalar { text: string.to_owned(), quoted: true, span: moved(span) },
            None => Scalar { text: source[span.clone()].to_owned(), quoted: false, span: moved(span) },
        }
    };
    let mut keys = Vec::new();
    for (name, item) in document.iter() {
        let name_span = document.key(name).and_then(|key| key.span()).unwrap_or(0..0);
        let value = match item {
            Item::None => Value::Nothing,
            Item::Value(toml_edit::Value::Array(items)) => Value::List(items.iter().map(scalar).collect()),
            Item::Value(toml_edit::Value::InlineTable(_)) | Item::Table(_) | Item::ArrayOfTables(_) => Value::Table,
            Item::Value(value) => Value::Scalar(scalar(value)),
        };
        let value_span = item.span().map_or(name_span.clone(), |span| span);
        keys.push(Key { name: name.to_owned(), name_span: moved(name_span), value, value_span: moved(value_span) });
    }
    Ok(keys)
}
