//! Lists of hidden files in the syntax of `.gitignore`, read as git reads them.
//!
//! Used for `.gitignore` itself while walking, and for the exclusion files of a profile. Lines are
//! parsed and matched by the `gix-ignore` and `gix-glob` crates; this module adds the nesting of
//! folders and remembers which line spoke.
//!
//! Format: <https://git-scm.com/docs/gitignore>.

use crate::base::repo_path::RepoPath;
use gix_glob::pattern::Case;
use gix_glob::wildmatch::Mode;
use std::sync::Arc;

/// So many patterns of a file are read: each is held against every file below, and somebody may have made the file to
/// keep us busy.
pub const MOST_PATTERNS: usize = 10_000;

/// One file of patterns.
#[derive(Debug)]
pub struct HideList {
    lines: Vec<HideLine>,
    /// Whether there are more than [`MOST_PATTERNS`], so that the last ones are not read.
    pub cut: bool,
}

#[derive(Debug)]
struct HideLine {
    pattern: gix_glob::Pattern,
    number: usize,
    text: String,
}

/// The line of a list that decided about a path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HideHit {
    /// Whether the line hides (a line that begins with `!` shows again).
    pub hides: bool,
    /// The line's number, from 1.
    pub line: usize,
    /// The line as written.
    pub pattern: String,
}

impl HideList {
    /// Reads the lines of one file.
    pub fn parse(bytes: &[u8]) -> Self {
        let written: Vec<&[u8]> = bytes.split(|byte| *byte == b'\n').collect();
        let mut parsed = gix_ignore::parse(bytes, false);
        let lines = parsed
            .by_ref()
            .take(MOST_PATTERNS)
            .map(|(pattern, number, _)| HideLine {
                pattern,
                number,
                text: String::from_utf8_lossy(written.get(number - 1).copied().unwrap_or_default())
                    .trim_start_matches('\u{feff}')
                    .trim_end()
                    .to_owned(),
            })
            .collect();
        HideList { lines, cut: parsed.next().is_some() }
    }

    /// Whether there is nothing in it.
    pub fn is_empty(&self) -> bool {
        self.lines.is_empty()
    }

    fn decide(&self, path: &str, is_folder: bool) -> Option<&HideLine> {
        let name_at = path.rfind('/').map(|at| at + 1);
        self.lines.iter().rev().find(|line| {
            line.pattern.matches_repo_relative_path(
                path.into(),
                name_at,
                Some(is_folder),
                Case::Sensitive,
                Mode::NO_MATCH_SLASH_LITERAL,
            )
        })
    }

    /// What this list alone says of `path`, which counts from the list's own folder.
    pub fn verdict(&self, path: &str, is_folder: bool) -> Option<HideHit> {
        self.decide(path, is_folder).map(|line| HideHit {
            hides: !line.pattern.is_negative(),
            line: line.number,
            pattern: line.text.clone(),
        })
    }
}

/// The lists of a folder and of the folders above it; the deepest speaks first.
#[derive(Debug, Clone, Default)]
pub struct HideChain(Option<Arc<Link>>);

#[derive(Debug)]
struct Link {
    folder: String,
    list: HideList,
    above: HideChain,
}

impl HideChain {
    /// This chain with the list of a deeper folder in front.
    pub fn with(&self, folder: &RepoPath, list: HideList) -> Self {
        if list.is_empty() {
            return self.clone();
        }
        HideChain(Some(Arc::new(Link { folder: folder.as_str().to_owned(), list, above: self.clone() })))
    }

    /// Whether there is no list in it.
    pub fn is_empty(&self) -> bool {
        self.0.is_none()
    }

    /// Whether the path is hidden by a line of its own. That a folder above it may be hidden is for
    /// the caller to see: below a hidden folder nothing is shown again.
    pub fn hides(&self, path: &str, is_folder: bool) -> bool {
        let mut link = self.0.as_deref();
        while let Some(Link { folder, list, above }) = link {
            let inner = if folder.is_empty() {
                Some(path)
            } else {
                path.strip_prefix(folder.as_str()).and_then(|rest| rest.strip_prefix('/'))
            };
            if let Some(line) = inner.and_then(|inner| list.decide(inner, is_folder)) {
                return !line.pattern.is_negative();
            }
            link = above.0.as_deref();
        }
        false
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_line_that_matches_decides_and_is_quoted() {
        let list = HideList::parse(b"# build\n*.log\n!keep.log\n/out/\n");
        assert_eq!(list.verdict("a/b.log", false).unwrap(), HideHit { hides: true, line: 2, pattern: "*.log".into() });
        assert!(!list.verdict("a/keep.log", false).unwrap().hides);
        assert!(list.verdict("out", true).unwrap().hides);
        assert!(list.verdict("out", false).is_none());
        assert!(list.verdict("a/out", true).is_none());
    }

    #[test]
    fn a_deeper_list_overrides() {
        let chain = HideChain::default()
            .with(&RepoPath::root(), HideList::parse(b"*.tmp\n"))
            .with(&RepoPath::new("a").unwrap(), HideList::parse(b"!x.tmp\n"));
        assert!(chain.hides("b/x.tmp", false));
        assert!(chain.hides("a/y.tmp", false));
        assert!(!chain.hides("a/x.tmp", false));
    }
}
