//! Path patterns, in the dialect of whoever wrote them.
//!
//! A [`Pattern`] keeps the words that the user wrote, so that messages can quote them, and is compiled
//! to one or more [`Simple`] patterns: braces are spelled out, and a path is matched component by
//! component. That is what makes a whole tree cheap, since a folder's part of the work is done once for
//! all its files (see [`Simple::enter`]), and what keeps hostile patterns cheap: matching takes time
//! proportional to pattern times path, whatever stands in them.
//!
//! What it does not do: patterns match files, never folders, and never look at the disk.
//!
//! ```
//! use signpost_core::pattern::{Dialect, Pattern};
//! let pattern = Pattern::parse("*.{ts,tsx}", &Dialect::default()).unwrap();
//! assert!(pattern.matches("kiosk/screens/home.tsx"));
//! assert!(!pattern.matches("kiosk/home.rs"));
//! ```

mod compile;
mod glob;
mod inclusion;
mod simple;
pub mod translate;

#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::ops::Range;

pub use simple::{Leaf, Simple, States, WayOn};

/// A pattern that stands for more than this many simple ones is refused.
pub const MAX_ALTERNATIVES: usize = 1024;

/// In which form a header holds its patterns.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ListForm {
    /// A list of strings only.
    Array,
    /// One string with commas only.
    Comma,
    /// Both are read.
    #[default]
    Either,
}

/// What a pattern without a slash means.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Bare {
    /// It matches at any depth below the base.
    #[default]
    AnyDepth,
    /// It matches directly in the base folder only.
    Anchored,
}

/// How one assistant reads path patterns.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Dialect {
    /// In which form a header holds patterns.
    pub list: ListForm,
    /// What a pattern without a slash means.
    pub bare: Bare,
    /// Whether `{a,b}` means a or b; otherwise braces are plain characters.
    pub braces: bool,
    /// Whether a leading `!` takes files out again; otherwise it is a plain character.
    pub negate: bool,
}

impl Default for Dialect {
    fn default() -> Self {
        Dialect { list: ListForm::Either, bare: Bare::AnyDepth, braces: true, negate: false }
    }
}

impl Dialect {
    /// How the `files` of a place are read: anchored to the anchor folder, braces, no negation.
    pub fn of_places() -> Self {
        Dialect { list: ListForm::Array, bare: Bare::Anchored, braces: true, negate: false }
    }
}

/// Why a pattern is invalid, with the bytes of the pattern at fault.
#[derive(thiserror::Error, Clone, Debug, PartialEq, Eq)]
#[error("{kind}")]
pub struct PatternError {
    /// What is wrong.
    pub kind: PatternErrorKind,
    /// Where in the pattern, in bytes.
    pub span: Range<usize>,
}

/// What is wrong with a pattern.
#[derive(thiserror::Error, Clone, Copy, Debug, PartialEq, Eq)]
pub enum PatternErrorKind {
    /// Nothing is left of it.
    #[error("the pattern is empty")]
    Empty,
    /// `[` without `]`.
    #[error("`[` is never closed")]
    UnclosedClass,
    /// `[z-a]`.
    #[error("the range is turned round: its first character comes after its last")]
    TurnedRange,
    /// `{` without `}`.
    #[error("`{{` is never closed")]
    UnclosedBrace,
    /// `}` without `{`.
    #[error("`}}` closes nothing")]
    StrayBrace,
    /// Braces that multiply beyond [`MAX_ALTERNATIVES`].
    #[error("its braces stand for more than {MAX_ALTERNATIVES} patterns")]
    TooMany,
}

/// One path pattern.
#[derive(Clone, Debug)]
pub struct Pattern {
    text: String,
    negated: bool,
    simple: Vec<Simple>,
}

impl Pattern {
    /// Reads a pattern in a dialect.
    ///
    /// # Errors
    /// The pattern is invalid; see [`PatternErrorKind`].
    pub fn parse(text: &str, dialect: &Dialect) -> Result<Self, PatternError> {
        compile::compile(text, dialect)
    }

    /// The pattern as written.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Whether it takes files out again.
    pub fn is_negated(&self) -> bool {
        self.negated
    }

    /// The patterns without braces that it stands for.
    pub fn simple(&self) -> &[Simple] {
        &self.simple
    }

    /// The patterns without braces that it stands for, in words, for dialects that have none.
    pub fn spelled_out(text: &str) -> Vec<String> {
        compile::spelled_out(text)
    }

    /// Whether it takes every path that another pattern with the same base takes. That is proved on the patterns, not
    /// tried on some paths; `false` where it does not hold, and where a proof would take too long.
    pub fn takes_all_of(&self, narrow: &Pattern) -> bool {
        inclusion::takes_all_of(self, narrow)
    }

    /// Whether it matches a path that counts from its base. Negation is not looked at.
    pub fn matches(&self, path: &str) -> bool {
        self.simple.iter().any(|simple| simple.matches(path))
    }
}

/// The patterns of one key, in order.
#[derive(Clone, Debug, Default)]
pub struct PatternSet {
    /// The valid ones.
    pub patterns: Vec<Pattern>,
}

impl PatternSet {
    /// Whether the set takes a path: the last pattern that matches decides.
    pub fn takes(&self, path: &str) -> bool {
        self.patterns.iter().rev().find(|pattern| pattern.matches(path)).is_some_and(|pattern| !pattern.negated)
    }

    /// Whether there is no valid pattern.
    pub fn is_empty(&self) -> bool {
        self.patterns.is_empty()
    }

    /// Whether a pattern of the set takes files out again.
    pub fn has_negated(&self) -> bool {
        self.patterns.iter().any(Pattern::is_negated)
    }
}

/// Splits a comma-separated string as the dialect does; gives the byte range of each item, trimmed, empty
/// ones dropped.
pub fn split_commas(text: &str, dialect: &Dialect) -> Vec<Range<usize>> {
    let mut items = Vec::new();
    let mut start = 0;
    let mut depth = 0usize;
    let mut add = |range: Range<usize>| {
        let item = &text[range.clone()];
        let trimmed = item.trim();
        if !trimmed.is_empty() {
            let from = range.start + (item.len() - item.trim_start().len());
            items.push(from..from + trimmed.len());
        }
    };
    for (at, byte) in text.bytes().enumerate() {
        match byte {
            b'{' if dialect.braces => depth += 1,
            b'}' if dialect.braces => depth = depth.saturating_sub(1),
            b',' if depth == 0 => {
                add(start..at);
                start = at + 1;
            }
            _ => {}
        }
    }
    add(start..text.len());
    items
}

/// A text that stands for itself in a pattern.
pub fn escaped(text: &str, dialect: &Dialect) -> String {
    let mut escaped = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '*' | '?' | '[' => escaped += &format!("[{c}]"),
            '{' | '}' if dialect.braces => escaped += &format!("[{c}]"),
            c => escaped.push(c),
        }
    }
    escaped
}

#[cfg(test)]
mod tests;
