//! Positions in a text: from byte offsets to the lines and columns that people count.

use std::ops::Range;

/// A line and a column, both from 1; the column counts characters.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Position {
    /// The line, from 1.
    pub line: usize,
    /// The column in characters, from 1.
    pub column: usize,
}

/// Where the lines of a text begin.
#[derive(Clone, Debug)]
pub struct LineIndex {
    starts: Vec<usize>,
}

impl LineIndex {
    /// Finds the lines of a text.
    pub fn new(text: &str) -> Self {
        let starts =
            std::iter::once(0).chain(text.bytes().enumerate().filter(|(_, b)| *b == b'\n').map(|(at, _)| at + 1));
        LineIndex { starts: starts.collect() }
    }

    /// The position of a byte of the text that the index was made from.
    pub fn position(&self, text: &str, byte: usize) -> Position {
        let line = self.starts.partition_point(|start| *start <= byte);
        let start = self.starts[line - 1];
        let before = text.get(start..byte.min(text.len())).unwrap_or_default();
        Position { line, column: before.trim_start_matches('\u{feff}').chars().count() + 1 }
    }

    /// The line, from 1, that holds a byte.
    pub fn line(&self, byte: usize) -> usize {
        self.starts.partition_point(|start| *start <= byte)
    }
}

/// How many lines a text has; a final line break begins none.
pub fn count_lines(bytes: &[u8]) -> usize {
    let breaks = bytes.iter().filter(|byte| **byte == b'\n').count();
    breaks + usize::from(bytes.last().is_some_and(|last| *last != b'\n'))
}

/// The lines of `text[range]` with their byte ranges, line breaks (`\n` and `\r\n`) left out.
pub fn lines_in(text: &str, range: Range<usize>) -> impl Iterator<Item = Range<usize>> + '_ {
    let mut at = range.start;
    std::iter::from_fn(move || {
        if at >= range.end {
            return None;
        }
        let end = text[at..range.end].find('\n').map_or(range.end, |found| at + found);
        let line = at..end - usize::from(text[at..end].ends_with('\r'));
        at = end + 1;
        Some(line)
    })
}

/// `range` without the blanks around it.
pub fn trim_range(text: &str, range: Range<usize>) -> Range<usize> {
    let part = &text[range.clone()];
    let start = range.start + (part.len() - part.trim_start().len());
    start..start + part.trim().len()
}

/// Some words with blanks made one, and cut after so many characters.
pub fn shorten(words: &str, most: usize) -> String {
    let plain = words.split_whitespace().collect::<Vec<_>>().join(" ");
    match plain.char_indices().nth(most) {
        Some((at, _)) => format!("{}…", plain[..at].trim_end()),
        None => plain,
    }
}

/// `1 file`, `2 files`: a count with its noun.
pub fn count(number: usize, noun: &str) -> String {
    if number == 1 { format!("1 {noun}") } else { format!("{} {noun}s", group(number)) }
}

/// `50 MB`, `200 KB`: a size for people.
pub fn size(bytes: u64) -> String {
    match bytes >> 20 {
        0 => format!("{} KB", group((bytes >> 10) as usize)),
        large => format!("{} MB", group(large as usize)),
    }
}

/// A number with a comma after each thousand.
pub fn group(number: usize) -> String {
    let digits = number.to_string();
    let mut grouped = String::new();
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(digit);
    }
    grouped
}

/// Words beyond so many bytes are not read for what they say: no assistant reads so far, and somebody may have made
/// the file to keep us busy.
pub const MOST_WORDS: usize = 128 << 10;

/// A text as far as it is read for what it says, up to the end of a line where there is one.
pub fn beginning(text: &str) -> &str {
    if text.len() <= MOST_WORDS {
        return text;
    }
    let mut end = MOST_WORDS;
    while !text.is_char_boundary(end) {
        end -= 1;
    }
    let line = text[..end].rfind('\n').filter(|at| *at > MOST_WORDS / 2);
    &text[..line.map_or(end, |at| at + 1)]
}

/// A text as TOML writes it.
pub fn toml_text(text: &str) -> String {
    toml_edit::Value::from(text).to_string()
}

/// A list of texts as TOML writes it, on one line.
pub fn toml_list(items: &[String]) -> String {
    format!("[{}]", items.iter().map(|item| toml_text(item)).collect::<Vec<_>>().join(", "))
}
