//! What two files may differ in and still be the same to everybody who reads them, and keeping a file's own way of it.
//!
//! Line ends, a byte-order mark, blank lines at the beginning, at the end and below the header, and more than one blank line
//! in a row outside code: nobody's words. A file that differs in nothing else is left as it is.

use super::Content;
use crate::header::HeaderStyle;
use crate::project::lock::without_carriage_returns;
use std::borrow::Cow;

const MARK: &[u8] = "\u{feff}".as_bytes();

/// Whether a file says word for word what a text does.
pub(super) fn says_the_same(file: &[u8], text: &str) -> bool {
    let plain = without_carriage_returns(file.strip_prefix(MARK).unwrap_or(file));
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    if *plain == *text.as_bytes() {
        return true;
    }
    std::str::from_utf8(&plain).is_ok_and(|plain| settled(plain) == settled(text))
}

/// The lines that count.
fn settled(text: &str) -> Vec<&str> {
    let is_blank = |line: &str| line.trim().is_empty();
    let blank = text.lines().take_while(|line| is_blank(line)).count();
    let has_header = HeaderStyle::begins(text.trim_start());
    let mut lines: Vec<&str> = Vec::new();
    let mut all = text.trim_end().lines().skip(blank).peekable();
    if blank > 0 && has_header {
        // Not on the first line, it begins no header.
        lines.push("");
    }
    let mut skip_blank = false;
    if let Some(first) = all.peek().map(|line| line.trim_end()).filter(|_| blank == 0 && has_header) {
        lines.extend(all.next());
        for line in all.by_ref() {
            lines.push(line);
            if line.trim_end() == first {
                skip_blank = true;
                break;
            }
        }
    }
    let mut code: Option<&str> = None;
    for line in all {
        if code.is_none() && is_blank(line) && (skip_blank || lines.last().is_some_and(|last| is_blank(last))) {
            continue;
        }
        skip_blank = false;
        let fence = ["```", "~~~"].into_iter().find(|fence| line.trim_start().starts_with(fence));
        code = match (code, fence) {
            (None, fence) => fence,
            (Some(open), Some(fence)) if open == fence => None,
            (open, _) => open,
        };
        lines.push(if code.is_none() && is_blank(line) { "" } else { line });
    }
    lines
}

/// A text with the line ends and the mark at the beginning that the file had.
pub(super) fn in_form_of(old: Option<&[u8]>, new: &Content) -> Content {
    let (Some(old), Content::Text(text)) = (old, new) else { return new.clone() };
    let breaks = old.iter().filter(|byte| **byte == b'\n').count();
    let with_returns = breaks > 0 && old.windows(2).filter(|pair| pair == b"\r\n").count() == breaks;
    let mut text = Cow::Borrowed(text.as_str());
    if with_returns {
        text = Cow::Owned(text.replace("\r\n", "\n").replace('\n', "\r\n"));
    }
    if old.starts_with(MARK) && !text.starts_with('\u{feff}') {
        text = Cow::Owned(format!("\u{feff}{text}"));
    }
    Content::Text(text.into_owned())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blank_lines_and_line_ends_are_nobody_s_words() {
        let text = "---\na: b\n---\n\n# X\n\n- one\n\n```sh\na\n\n\nb\n```\n";
        for same in [
            "---\na: b\n---\n# X\n\n- one\n\n```sh\na\n\n\nb\n```",
            "\u{feff}---\r\na: b\r\n---\r\n\r\n\r\n# X\r\n \r\n\r\n- one\r\n\r\n```sh\r\na\r\n\r\n\r\nb\r\n```\r\n\r\n",
        ] {
            assert!(says_the_same(same.as_bytes(), text), "{same:?}");
        }
        for other in [
            text.replace("a\n\n\nb", "a\n\nb"),
            text.replace("# X\n\n", "# X\n"),
            text.replace("- one\n\n", "- one\n"),
            text.replace("- one", "-  one"),
            text.replace("a: b\n", "a: b\n\n"),
            format!("\n{text}"),
        ] {
            assert!(!says_the_same(other.as_bytes(), text), "{other:?}");
        }
        assert!(!says_the_same(b"\xff", text));
    }

    #[test]
    fn a_file_keeps_its_line_ends_and_mark() {
        let new = Content::Text("a\nb\n".to_owned());
        let form = |old: &str| in_form_of(Some(old.as_bytes()), &new);
        assert_eq!(form("x\r\ny\r\n"), Content::Text("a\r\nb\r\n".to_owned()));
        assert_eq!(form("x\r\ny\n"), new);
        assert_eq!(form("\u{feff}x\n"), Content::Text("\u{feff}a\nb\n".to_owned()));
        assert_eq!(form(""), new);
        assert_eq!(in_form_of(None, &new), new);
        let link = Content::Link("a".to_owned());
        assert_eq!(in_form_of(Some(b"x\r\n"), &link), link);
    }
}
