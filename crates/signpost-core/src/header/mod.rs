//! The block of keys at the top of an instruction file: YAML between `---` lines or TOML between `+++`.
//!
//! Headers in the wild are broken in known ways, and an assistant mostly reads them all the same. So this
//! module reads what a person plainly meant and notes each [`Problem`] on the way, for a check to report.
//! A header is cut into its top-level keys first and each key is read on its own, so that one bad line
//! does not spoil the others: properly, by a YAML or TOML parser, and where that fails, or reads
//! something that nobody meant (`*.ts` as an alias, `!x` as a tag), as the literal words.
//!
//! Formats: <https://yaml.org/spec/1.2.2/>, <https://toml.io/en/v1.0.0>.

mod plain;
mod toml_keys;
mod yaml_keys;

use crate::base::wording::lines_in;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::ops::Range;

/// The syntax of a header.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum HeaderStyle {
    /// The files have no header.
    #[default]
    None,
    /// YAML between `---` lines.
    Yaml,
    /// TOML between `+++` lines.
    Toml,
}

impl HeaderStyle {
    /// The line that opens and closes a header.
    pub fn fence(self) -> Option<&'static str> {
        match self {
            HeaderStyle::None => None,
            HeaderStyle::Yaml => Some("---"),
            HeaderStyle::Toml => Some("+++"),
        }
    }

    /// Keys between the lines that open and close a header; nothing where there are no keys, or no header may stand.
    pub fn fenced(self, keys: &str) -> String {
        match self.fence() {
            Some(fence) if !keys.is_empty() => format!("{fence}\n{keys}{fence}\n"),
            _ => String::new(),
        }
    }

    /// Whether a text begins with what some style would read as a header.
    pub fn begins(text: &str) -> bool {
        let mut lines = text.lines().map(str::trim_end);
        let first = lines.next().filter(|line| matches!(*line, "---" | "+++"));
        first.is_some_and(|first| lines.any(|line| line == first))
    }
}

/// A text and where it stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Scalar {
    /// The text, quotes off.
    pub text: String,
    /// Whether quotes stood around it.
    pub quoted: bool,
    /// The bytes of the file that hold it, quotes included.
    pub span: Range<usize>,
}

impl Scalar {
    /// Whether nothing is there: blanks, or YAML's unquoted `null` and `~`.
    pub fn is_empty(&self) -> bool {
        self.text.trim().is_empty() || !self.quoted && matches!(self.text.as_str(), "null" | "~")
    }
}

/// What a key holds.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Value {
    /// Nothing after the colon.
    Nothing,
    /// One string, number, boolean or date, as written.
    Scalar(Scalar),
    /// A list; items that are no scalars are kept as their words.
    List(Vec<Scalar>),
    /// Keys of its own.
    Table,
}

/// One key of a header.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Key {
    /// The key, as the file writes it, quotes off.
    pub name: String,
    /// The bytes of the key.
    pub name_span: Range<usize>,
    /// What it holds.
    pub value: Value,
    /// The bytes of the value; empty, after the colon, where there is none.
    pub value_span: Range<usize>,
}

impl Key {
    /// Whether it holds nothing: no value, `""`, blanks, `[]`, a list of empty items.
    pub fn is_empty(&self) -> bool {
        match &self.value {
            Value::Nothing => true,
            Value::Scalar(scalar) => scalar.is_empty(),
            Value::List(items) => items.iter().all(|item| item.text.trim().is_empty()),
            Value::Table => false,
        }
    }

    /// The written text of a scalar.
    pub fn scalar(&self) -> Option<&str> {
        match &self.value {
            Value::Scalar(scalar) => Some(scalar.text.as_str()),
            _ => None,
        }
    }
}

/// Something in a header that is not valid in its syntax, though it may have been understood.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Problem {
    /// What is wrong.
    pub message: String,
    /// How to mend it.
    pub help: String,
    /// The bytes at fault.
    pub span: Range<usize>,
    /// What to write in their stead, where that reads the same.
    pub fix: Option<String>,
}

/// The header of one file.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Header {
    /// The keys in order; empty where there is no header.
    pub keys: Vec<Key>,
    /// What is wrong with it.
    pub problems: Vec<Problem>,
    /// The bytes between the fences; `None` where there is no header.
    pub block: Option<Range<usize>>,
    /// Where the text after the header begins.
    pub body: usize,
}

impl Header {
    /// Reads the header of a file.
    pub fn read(text: &str, style: HeaderStyle) -> Self {
        let start = if text.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
        let mut header = Header { body: start, ..Header::default() };
        let Some(fence) = style.fence() else { return header };
        let (block, body) = match Fences::find(text, start, fence) {
            Fences::None => {
                header.problems.extend(misplaced(text, start, style));
                return header;
            }
            Fences::Open(first) => {
                header.problems.push(Problem {
                    message: "the header is never closed, so none of its keys is read".into(),
                    help: format!("close it with a line that holds just `{fence}`"),
                    span: first,
                    fix: None,
                });
                return header;
            }
            Fences::Around(block, body) => (block, body),
        };
        header.body = body;
        (header.keys, header.problems) = match style {
            HeaderStyle::Toml => toml_keys::read(text, block.clone()),
            _ => yaml_keys::read(text, block.clone()),
        };
        header.problems.extend(duplicates(&header.keys));
        header.block = Some(block);
        header
    }

    /// The style of the header that a file has, and the bytes between its fences.
    pub fn found(text: &str) -> Option<(HeaderStyle, Range<usize>)> {
        let start = if text.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
        [HeaderStyle::Yaml, HeaderStyle::Toml].into_iter().find_map(|style| {
            match Fences::find(text, start, style.fence()?) {
                Fences::Around(block, _) => Some((style, block)),
                _ => None,
            }
        })
    }

    /// The key of that name; of several, the last, as later lines override.
    pub fn get(&self, name: &str) -> Option<&Key> {
        self.keys.iter().rev().find(|key| key.name == name)
    }
}

/// The two lines around a header.
enum Fences {
    None,
    /// The first line alone.
    Open(Range<usize>),
    /// What stands between them, and where the text after them begins.
    Around(Range<usize>, usize),
}

impl Fences {
    fn find(text: &str, start: usize, fence: &str) -> Fences {
        let mut lines = lines_in(text, start..text.len());
        let Some(first) = lines.next().filter(|first| text[first.clone()].trim_end() == fence) else {
            return Fences::None;
        };
        let Some(close) = lines.find(|line| text[line.clone()].trim_end() == fence) else {
            return Fences::Open(first);
        };
        let after = |end: usize| text[end..].find('\n').map_or(text.len(), |at| end + at + 1);
        let block_start = after(first.end);
        Fences::Around(block_start..close.start.max(block_start), after(close.end))
    }
}

/// A header that somebody meant but that stands where none is read.
fn misplaced(text: &str, start: usize, style: HeaderStyle) -> Option<Problem> {
    let fence = style.fence()?;
    let mut lines = lines_in(text, start..text.len()).skip_while(|line| text[line.clone()].trim().is_empty());
    let first = lines.next()?;
    let opens = text[first.clone()].trim();
    let other = if fence == "---" { "+++" } else { "---" };
    let inner: Vec<_> = lines.by_ref().take(40).take_while(|line| text[line.clone()].trim_end() != opens).collect();
    let separator = if opens == "+++" { '=' } else { ':' };
    let keys = !inner.is_empty()
        && inner.iter().filter(|line| text[(*line).clone()].contains(separator)).count() * 2 >= inner.len();
    if !keys {
        return None;
    }
    if opens == other {
        Some(Problem {
            message: format!("this assistant reads a header between `{fence}` lines, so this one is plain text to it"),
            help: format!("write the header between `{fence}` lines"),
            span: first,
            fix: None,
        })
    } else if opens == fence {
        Some(Problem {
            message: "the header does not begin on the first line, so none of its keys is read".into(),
            help: format!("remove what stands before `{fence}`"),
            span: first,
            fix: None,
        })
    } else {
        None
    }
}

fn duplicates(keys: &[Key]) -> Vec<Problem> {
    let again = keys.iter().enumerate().filter(|(at, key)| keys[..*at].iter().any(|other| other.name == key.name));
    again
        .map(|(_, key)| Problem {
            message: format!("the key `{}` stands here a second time", key.name),
            help: "keep one of the two; the later one is read".into(),
            span: key.name_span.clone(),
            fix: None,
        })
        .collect()
}

#[cfg(test)]
mod tests;
