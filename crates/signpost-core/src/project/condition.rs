//! The condition of a guidance rule: `when = "sqlx >= 0.8"`.
//!
//! A condition is one or more parts joined by `and`. A part is the name of a package, a tool or a language,
//! `not` before it turns it round, and a comparison (`>=`, `>`, `<=`, `<`, `==`) with a version may follow it.
//! A name alone asks whether a manifest names it, or states a version of it. What the manifests say is
//! compared whole: `node >= 20` holds where *every* version that they allow is at least 20. Of several sources
//! in one folder the most exact one counts; of several folders, one will do.

use crate::base::repo_path::RepoPath;
use crate::facts::version::{Span, exact};
use crate::facts::{Ecosystem, Facts, VersionFact};
use std::collections::BTreeMap;
use std::ops::Range;

/// A condition.
#[derive(Clone, Debug, PartialEq)]
pub struct Condition {
    parts: Vec<Part>,
}

#[derive(Clone, Debug, PartialEq)]
struct Part {
    negated: bool,
    name: String,
    bound: Option<(Comparison, Span)>,
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Comparison {
    AtLeast,
    Above,
    AtMost,
    Below,
    Is,
}

/// Why a condition can't be read.
#[derive(thiserror::Error, Clone, Debug, PartialEq, Eq)]
#[error("{message}")]
pub struct WhenError {
    /// What is wrong.
    pub message: String,
    /// The bytes of the condition at fault.
    pub span: Range<usize>,
}

/// The comparisons, longer ones first.
const COMPARISONS: [(&str, Comparison); 6] = [
    (">=", Comparison::AtLeast),
    ("<=", Comparison::AtMost),
    ("==", Comparison::Is),
    (">", Comparison::Above),
    ("<", Comparison::Below),
    ("=", Comparison::Is),
];

impl Condition {
    /// Reads a condition.
    ///
    /// # Errors
    /// A part has no name, or something that is no version follows a comparison.
    pub fn parse(text: &str) -> Result<Self, WhenError> {
        let mut parts = Vec::new();
        let mut at = 0;
        for piece in text.split(" and ") {
            parts.push(Part::parse(piece).map_err(|message| WhenError { message, span: at..at + piece.len() })?);
            at += piece.len() + " and ".len();
        }
        Ok(Condition { parts })
    }

    /// Whether the manifests say so, for a rule that holds below a folder.
    pub fn holds(&self, facts: &Facts<'_>, below: &RepoPath) -> bool {
        self.parts.iter().all(|part| part.holds(facts, below) != part.negated)
    }
}

impl Part {
    fn parse(text: &str) -> Result<Self, String> {
        let text = text.trim();
        let (negated, rest) = match text.strip_prefix("not ") {
            Some(rest) => (true, rest.trim()),
            None => (false, text),
        };
        let found = COMPARISONS.iter().filter_map(|(sign, what)| Some((rest.find(sign)?, sign, what)));
        let first = found.min_by_key(|(at, sign, _)| (*at, std::cmp::Reverse(sign.len())));
        let (name, bound) = match first {
            None => (rest, None),
            Some((at, sign, comparison)) => {
                let version = rest[at + sign.len()..].trim();
                let span = exact(version).filter(|_| !version.contains(char::is_whitespace));
                let span = span.ok_or_else(|| format!("`{version}` is no version"))?;
                (rest[..at].trim(), Some((*comparison, span)))
            }
        };
        if name.is_empty() || name.contains(char::is_whitespace) {
            return Err(format!(
                "`{text}` is no condition; write `NAME`, `not NAME` or `NAME >= VERSION`, joined by `and`"
            ));
        }
        Ok(Part { negated, name: name.to_owned(), bound })
    }

    fn holds(&self, facts: &Facts<'_>, below: &RepoPath) -> bool {
        let near = |folder: &RepoPath| folder.is_in(below) || below.is_in(folder);
        let stated: Vec<VersionFact> = facts
            .versions_of(&self.name)
            .into_iter()
            .filter(|fact| near(&Facts::folder_of(&fact.source.file)))
            .collect();
        let Some((comparison, bound)) = &self.bound else {
            let named = facts.manifests.iter().any(|manifest| {
                near(&manifest.file.folder()) && manifest.dependencies.keys().any(|name| *name == self.name)
            });
            return named || !stated.is_empty() || language(&self.name).is_some_and(|own| speaks(facts, own, &near));
        };
        // Of one folder the most exact source counts.
        let mut by_folder: BTreeMap<RepoPath, &VersionFact> = BTreeMap::new();
        for fact in &stated {
            let known = by_folder.entry(Facts::folder_of(&fact.source.file)).or_insert(fact);
            if fact.exact && !known.exact {
                *known = fact;
            }
        }
        let most_exact = by_folder.values().any(|fact| fact.exact);
        let counting = by_folder.values().filter(|fact| fact.exact || !most_exact);
        counting.into_iter().any(|fact| comparison.holds(&fact.span, bound))
    }
}

fn language(name: &str) -> Option<Ecosystem> {
    Some(match name {
        "rust" => Ecosystem::Rust,
        "python" => Ecosystem::Python,
        "javascript" | "node" => Ecosystem::JavaScript,
        "go" => Ecosystem::Go,
        _ => return None,
    })
}

fn speaks(facts: &Facts<'_>, ecosystem: Ecosystem, near: &dyn Fn(&RepoPath) -> bool) -> bool {
    facts.manifests.iter().any(|manifest| manifest.ecosystem == ecosystem && near(&manifest.file.folder()))
}

impl Comparison {
    fn holds(self, stated: &Span, bound: &Span) -> bool {
        match self {
            Comparison::AtLeast => stated.low >= bound.low,
            Comparison::Above => stated.low > bound.high,
            Comparison::AtMost => stated.high <= bound.high,
            Comparison::Below => stated.high < bound.low,
            Comparison::Is => stated.low >= bound.low && stated.high <= bound.high,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::files::{MemoryTree, Tree};

    #[test]
    fn conditions_ask_the_manifests() {
        let tree = MemoryTree::new()
            .with("a/Cargo.toml", "[package]\nname = \"a\"\nedition = \"2024\"\n[dependencies]\nsqlx = \"0.8\"\n")
            .with("b/package.json", r#"{"dependencies": {"left-pad": "^2.1.0"}, "engines": {"node": ">=18"}}"#);
        let index = tree.index().unwrap();
        let facts = Facts::read(&tree, &index);
        let holds =
            |text: &str, below: &str| Condition::parse(text).unwrap().holds(&facts, &RepoPath::new(below).unwrap());
        assert!(holds("sqlx >= 0.8", "") && holds("sqlx", "a") && holds("sqlx>=0.7 and rust", ""));
        assert!(!holds("sqlx >= 0.9", "") && !holds("sqlx", "b") && holds("not sqlx", "b"));
        assert!(holds("node >= 18", "b") && !holds("node < 20", "b"));
        assert!(holds("left-pad == 2 and not react", ""));
        assert!(!holds("left-pad > 2", "") && holds("left-pad < 3", ""));
        assert_eq!(Condition::parse("a and >= 2").unwrap_err().span, 6..10);
        assert!(Condition::parse("sqlx >= new").is_err() && Condition::parse("").is_err());
    }
}
