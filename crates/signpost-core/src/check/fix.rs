//! Applying the fixes of findings to a file's bytes.
//!
//! Only the bytes that a fix names change: line endings, a byte-order mark and the end of the file stay.

use super::Finding;
use super::finding::Edit;

/// The text with the fixes of some findings of its file applied, and how many findings that mends. A fix
/// that overlaps one applied before is left for the next run.
pub fn apply(text: &str, findings: &[&Finding]) -> (String, usize) {
    let mut chosen: Vec<&Edit> = Vec::new();
    let mut mended = 0;
    for finding in findings.iter().filter(|finding| !finding.fix.is_empty()) {
        let fits = |edit: &Edit| text.get(edit.span.clone()).is_some_and(|old| old != edit.text);
        let free = |edit: &Edit| chosen.iter().all(|other| apart(other, edit));
        if finding.fix.iter().all(|edit| fits(edit) && free(edit)) {
            chosen.extend(&finding.fix);
            mended += 1;
        }
    }
    chosen.sort_by_key(|edit| (edit.span.start, edit.span.end));
    let (mut fixed, mut at) = (String::with_capacity(text.len()), 0);
    for edit in chosen {
        fixed.push_str(&text[at..edit.span.start]);
        fixed.push_str(&edit.text);
        at = edit.span.end;
    }
    fixed.push_str(&text[at..]);
    (fixed, mended)
}

/// Whether two edits leave each other alone; where one inserts, not even at the same place.
fn apart(one: &Edit, other: &Edit) -> bool {
    one.span != other.span && (one.span.end <= other.span.start || other.span.end <= one.span.start)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::repo_path::{Location, RepoPath};
    use crate::check::by_name;

    #[test]
    fn edits_apply_in_order_and_overlaps_wait() {
        let info = by_name("wording/pleasantry").unwrap();
        let at = Location::root(RepoPath::new("a.md").unwrap());
        let finding = |span: std::ops::Range<usize>, text: &str| {
            Finding::new(info, at.clone(), span.clone(), "x").edit(span, text)
        };
        let (one, two, three) = (finding(6..7, "X"), finding(0..2, ""), finding(1..4, "no"));
        let (fixed, mended) = apply("abcdefg\r\n", &[&one, &two, &three]);
        assert_eq!((fixed.as_str(), mended), ("cdefX\r\n", 2));
        assert_eq!(apply("abc", &[&finding(0..1, "a")]).1, 0, "an edit that changes nothing is none");
    }
}
