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
}

impl HideLine {
    fn hit(&self) -> HideHit {
        HideHit { hides: !self.pattern.is_negative(), line: self.number, pattern: self.text.clone() }
    }
}

/// The lists of a folder and of the folders above it; the deepest speaks first.
#[derive(Debug, Clone, Default)]
pub struct HideChain(Option<Arc<Link>>);

#[derive(Debug)]
struct Link {
    /// The folder that the list's paths count from.
    folder: RepoPath,
    /// The file that holds the list.
    file: RepoPath,
    list: HideList,
    above: HideChain,
}

impl HideChain {
    /// This chain with a list in front that counts from a deeper folder; `file` holds it.
    pub fn with(&self, folder: &RepoPath, file: RepoPath, list: HideList) -> Self {
        if list.is_empty() {
            return self.clone();
        }
        HideChain(Some(Arc::new(Link { folder: folder.clone(), file, list, above: self.clone() })))
    }

    /// Whether there is no list in it.
    pub fn is_empty(&self) -> bool {
        self.0.is_none()
    }

    /// Whether the path is hidden by a line of its own. That a folder above it may be hidden is for
    /// the caller to see: below a hidden folder nothing is shown again.
    pub fn hides(&self, path: &str, is_folder: bool) -> bool {
        self.decide(path, is_folder).is_some_and(|(_, line)| !line.pattern.is_negative())
    }

    fn decide(&self, path: &str, is_folder: bool) -> Option<(&Link, &HideLine)> {
        std::iter::successors(self.0.as_deref(), |link| link.above.0.as_deref()).find_map(|link| {
            let below = match link.folder.as_str() {
                "" => path,
                folder => path.strip_prefix(folder)?.strip_prefix('/')?,
            };
            Some((link, link.list.decide(below, is_folder)?))
        })
    }
}

/// What hides a path, on the way down to it: below a hidden folder nothing is shown again. `enter` gives the chain
/// with the lists of a folder in front.
pub fn hidden_on_the_way(
    path: &RepoPath,
    is_folder: bool,
    enter: impl Fn(&RepoPath, HideChain) -> HideChain,
) -> Option<(RepoPath, HideHit)> {
    let mut chain = HideChain::default();
    for pair in path.way().windows(2) {
        let [folder, next] = pair else { continue };
        chain = enter(folder, chain);
        let decided = chain.decide(next.as_str(), next != path || is_folder);
        if let Some((link, line)) = decided.filter(|(_, line)| !line.pattern.is_negative()) {
            return Some((link.file.clone(), line.hit()));
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_line_that_matches_decides_and_is_quoted() {
        let list = HideList::parse(b"# build\n*.log\n!keep.log\n/out/\n");
        assert_eq!(
            list.decide("a/b.log", false).unwrap().hit(),
            HideHit { hides: true, line: 2, pattern: "*.log".into() }
        );
        assert!(!list.decide("a/keep.log", false).unwrap().hit().hides);
        assert!(list.decide("out", true).unwrap().hit().hides);
        assert!(list.decide("out", false).is_none());
        assert!(list.decide("a/out", true).is_none());
    }

    fn path(text: &str) -> RepoPath {
        RepoPath::new(text).unwrap()
    }

    fn chain() -> HideChain {
        HideChain::default().with(&RepoPath::root(), path(".hide"), HideList::parse(b"*.tmp\n/kept/\n")).with(
            &path("a"),
            path("a/lists/hide"),
            HideList::parse(b"!x.tmp\nb/*\n"),
        )
    }

    #[test]
    fn a_deeper_list_overrides() {
        let chain = chain();
        assert!(chain.hides("b/x.tmp", false));
        assert!(chain.hides("a/y.tmp", false));
        assert!(!chain.hides("a/x.tmp", false));
        assert!(!chain.hides("ab/c/b/y", false), "a folder whose name only begins like the list's is not below it");
    }

    #[test]
    fn nothing_below_a_hidden_folder_is_shown_again() {
        let enter = |folder: &RepoPath, above: HideChain| match folder.as_str() {
            "" => above.with(folder, path(".hide"), HideList::parse(b"out/\n")),
            "out" => above.with(folder, path("out/.hide"), HideList::parse(b"!keep.txt\n")),
            _ => above,
        };
        let hit = HideHit { hides: true, line: 1, pattern: "out/".into() };
        assert_eq!(hidden_on_the_way(&path("out/keep.txt"), false, enter), Some((path(".hide"), hit)));
        assert_eq!(hidden_on_the_way(&path("in/keep.txt"), false, enter), None);
        assert_eq!(hidden_on_the_way(&path("out"), false, enter), None, "a file of that name is no folder");
        assert!(hidden_on_the_way(&path("out"), true, enter).is_some());
    }
}
