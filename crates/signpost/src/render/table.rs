//! Columns that line up, with a last one that wraps.

use anstyle::Style;
use unicode_width::UnicodeWidthStr;

/// One cell.
pub struct Cell {
    text: String,
    style: Style,
    right: bool,
    /// From this character on the text is in another style.
    tail: Option<(usize, Style)>,
}

/// A cell of text.
pub fn cell(text: impl Into<String>, style: Style) -> Cell {
    Cell { text: clean(&text.into()), style, right: false, tail: None }
}

/// A cell of two texts in two styles.
pub fn cell_with_tail(text: impl Into<String>, style: Style, tail: &str, tail_style: Style) -> Cell {
    let text = clean(&text.into());
    if tail.is_empty() {
        return cell(text, style);
    }
    let from = text.chars().count();
    Cell { text: format!("{text}  {}", clean(tail)), style, right: false, tail: Some((from, tail_style)) }
}

impl Cell {
    /// One line of the wrapped text, which begins so many characters into it.
    fn painted(&self, part: &str, start: usize) -> String {
        match self.tail {
            None => super::paint(self.style, part),
            Some((from, style)) => {
                let cut = part.char_indices().nth(from.saturating_sub(start)).map_or(part.len(), |(at, _)| at);
                let (head, tail) = if from <= start { ("", part) } else { part.split_at(cut) };
                let paint = |style, text: &str| if text.is_empty() { String::new() } else { super::paint(style, text) };
                paint(self.style, head) + &paint(style, tail)
            }
        }
    }
}

/// A cell that is aligned to the right, as numbers are.
pub fn number(text: impl Into<String>) -> Cell {
    Cell { text: text.into(), style: Style::new(), right: true, tail: None }
}

/// Rows of cells; the last cell of a row wraps and is indented like its column.
pub struct Table {
    indent: usize,
    rows: Vec<Vec<Cell>>,
}

impl Table {
    /// An empty table, so many blanks from the left.
    pub fn new(indent: usize) -> Self {
        Table { indent, rows: Vec::new() }
    }

    /// Adds a row.
    pub fn row(&mut self, cells: Vec<Cell>) {
        self.rows.push(cells);
    }

    /// Writes the rows, at most `width` columns wide where that is possible.
    pub fn render(&self, width: usize, out: &mut String) {
        let columns = self.rows.iter().map(Vec::len).max().unwrap_or(0);
        let mut widths = vec![0; columns];
        for row in &self.rows {
            let but_last = row.len().min(columns).saturating_sub(1);
            for (at, cell) in row.iter().take(but_last).enumerate() {
                widths[at] = widths[at].max(cell.text.width());
            }
        }
        // A column of long paths may not push the last one off the screen.
        let fixed: usize = self.indent + widths.iter().map(|width| width + 2).sum::<usize>();
        let room = width.saturating_sub(fixed);
        for row in &self.rows {
            let mut line = " ".repeat(self.indent);
            let mut at_column = self.indent;
            for (at, cell) in row.iter().enumerate() {
                let last = at + 1 == row.len();
                if !last {
                    let gap = " ".repeat(widths[at].saturating_sub(cell.text.width()));
                    let text = super::paint(cell.style, &cell.text);
                    if cell.right {
                        line += &format!("{gap}{text}  ");
                    } else {
                        line += &format!("{text}{gap}  ");
                    }
                    at_column += widths[at] + 2;
                    continue;
                }
                let (indent, room) = if room >= 24 || at_column + cell.text.width() <= width {
                    (at_column, width.saturating_sub(at_column).max(24))
                } else {
                    line = line.trim_end().to_owned() + "\n" + &" ".repeat(self.indent + 4);
                    (self.indent + 4, width.saturating_sub(self.indent + 4).max(24))
                };
                let wrapped = wrap(&cell.text, room);
                let mut written = 0;
                for (number, part) in wrapped.iter().enumerate() {
                    if number > 0 {
                        line += &format!("\n{}", " ".repeat(indent));
                    }
                    line += &cell.painted(part, written);
                    written += part.chars().count() + 1;
                }
            }
            out.push_str(line.trim_end());
            out.push('\n');
        }
    }
}

/// Breaks a text at blanks so that each line fits, a word longer than a line after a sign, or else anywhere.
pub fn wrap(text: &str, room: usize) -> Vec<String> {
    let mut lines: Vec<String> = vec![String::new()];
    for word in text.split(' ') {
        let line = lines.last_mut().expect("there is always a line");
        if line.is_empty() {
            line.push_str(word);
        } else if line.width() + 1 + word.width() <= room {
            line.push(' ');
            line.push_str(word);
        } else {
            lines.push(word.to_owned());
        }
        while lines.last().is_some_and(|line| line.width() > room) {
            let line = lines.pop().expect("there is always a line");
            let mut head = String::new();
            let mut rest = line.as_str();
            while let Some(c) = rest.chars().next() {
                if head.width() + unicode_width::UnicodeWidthChar::width(c).unwrap_or(0) > room {
                    break;
                }
                head.push(c);
                rest = &rest[c.len_utf8()..];
            }
            // A path breaks between its parts.
            if let Some(at) = head.rfind(['/', ',', '-', '_', '.']).map(|at| at + 1).filter(|at| *at * 3 >= head.len())
            {
                rest = &line[at..];
                head.truncate(at);
            }
            lines.push(head);
            lines.push(rest.to_owned());
        }
    }
    lines
}

/// Text that is safe to show: what a file says must not steer the terminal.
pub fn clean(text: &str) -> String {
    text.chars().map(|c| if c.is_control() { '\u{fffd}' } else { c }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rendered(width: usize, rows: &[&[&str]]) -> String {
        let mut table = Table::new(2);
        for row in rows {
            table.row(row.iter().map(|text| cell(*text, Style::new())).collect());
        }
        let mut out = String::new();
        table.render(width, &mut out);
        anstream::adapter::strip_str(&out).to_string()
    }

    #[test]
    fn columns_line_up_and_the_last_one_wraps() {
        let out = rendered(40, &[&["a", "one two three four five six seven"], &["bbbb", "x"]]);
        assert_eq!(out, "  a     one two three four five six\n        seven\n  bbbb  x\n");
    }

    #[test]
    fn where_there_is_no_room_the_last_column_goes_below() {
        let out = rendered(40, &[&["a/very/long/path/to/some/file.md", "why it is there"]]);
        assert_eq!(out, "  a/very/long/path/to/some/file.md\n      why it is there\n");
    }

    #[test]
    fn words_are_broken_only_where_they_must_be() {
        assert_eq!(wrap("ab cd ef", 5), ["ab cd", "ef"]);
        assert_eq!(wrap("abcdefgh", 3), ["abc", "def", "gh"]);
        assert_eq!(wrap("", 3), [""]);
    }

    #[test]
    fn wide_letters_take_two_columns() {
        let out = rendered(60, &[&["種子", "a"], &["abcd", "b"]]);
        assert_eq!(out, "  種子  a\n  abcd  b\n");
    }

    #[test]
    fn control_characters_never_get_through() {
        assert_eq!(clean("a\u{1b}[31mb\u{7}"), "a\u{fffd}[31mb\u{fffd}");
    }

    #[test]
    fn words_longer_than_a_line_break_between_their_parts() {
        assert_eq!(wrap("see ledger/.oddwick/notes/grants.md", 24), ["see", "ledger/.oddwick/notes/", "grants.md"]);
        assert_eq!(wrap("a-very-long-name-indeed", 12), ["a-very-long-", "name-indeed"]);
        // Without a sign, or where hardly anything would be left, anywhere.
        assert_eq!(wrap("abcdefghij", 4), ["abcd", "efgh", "ij"]);
        assert_eq!(wrap("a/bcdefghijkl", 8), ["a/bcdefg", "hijkl"]);
    }
}
