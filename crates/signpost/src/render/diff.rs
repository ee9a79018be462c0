//! Differences between two versions of a file.

use super::{BAD, FAINT, GOOD, STRONG, paint};
use similar::{ChangeTag, TextDiff};

/// A unified diff with three lines around each change.
pub fn unified(name: &str, old: &str, new: &str) -> String {
    let diff = TextDiff::from_lines(old, new);
    let mut out = format!("{}\n{}\n", paint(STRONG, format!("--- {name}")), paint(STRONG, format!("+++ {name}")));
    for hunk in diff.unified_diff().context_radius(3).iter_hunks() {
        out += &format!("{}\n", paint(FAINT, hunk.header()));
        for change in hunk.iter_changes() {
            let (sign, style) = match change.tag() {
                ChangeTag::Delete => ('-', BAD),
                ChangeTag::Insert => ('+', GOOD),
                ChangeTag::Equal => (' ', anstyle::Style::new()),
            };
            let line = super::snippet::shown(change.value().trim_end_matches(['\n', '\r']));
            out += &format!("{}\n", paint(style, format!("{sign}{line}")));
            if change.missing_newline() {
                out += &format!("{}\n", paint(FAINT, "\\ no line break at the end"));
            }
        }
    }
    out
}
