//! Directives: the single instructions inside a rule, read for what they say.
//!
//! An [`Outline`] is a text's structure: its directives, code, comments, links and sections. A list item or
//! a sentence is one directive; code blocks, quoted examples and tables are none. A heading that names a
//! language, a file kind or a situation is a condition on what stands below it, and so part of its meaning.
//!
//! What a directive says is, where that is asked for, read into [`Claim`]s: a modality (require, forbid, prefer, avoid, allow) of one
//! choice of a [`families`] family, of a number with measure and direction, or of an act in normalised
//! words. What cannot be read makes no claim: comparing is for claims alone, and silence is better than a
//! false alarm.
//!
//! ```
//! use signpost_core::directive::{About, Modality, Outline, families::Families};
//! let (outline, said) = Outline::with_meaning("- Use pnpm, never npm.\n", 0, Families::built_in(), 100);
//! assert!(outline.directives[0].item);
//! let claims = &said[0].claims;
//! assert_eq!(claims[0].modality, Modality::Require);
//! assert_eq!(claims[1].modality, Modality::Forbid);
//! assert!(matches!(claims[1].about, About::Choice { .. }));
//! ```

pub mod clash;
mod clause;
pub mod condition;
pub use condition::Condition;
pub mod families;
pub mod measure;
mod modality;
mod outline;
pub mod reading;
mod split;
pub mod words;

use std::ops::Range;

/// What a directive asks.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Modality {
    /// It must be so.
    Require,
    /// It is better so.
    Prefer,
    /// It may be so.
    Allow,
    /// It is better not so.
    Avoid,
    /// It must not be so.
    Forbid,
    /// Nothing: it says how things are.
    State,
}

impl Modality {
    /// Whether it is for the thing.
    pub fn is_for(self) -> bool {
        matches!(self, Modality::Require | Modality::Prefer)
    }

    /// Whether it is against the thing.
    pub fn is_against(self) -> bool {
        matches!(self, Modality::Forbid | Modality::Avoid)
    }
}

/// What a claim is about.
#[derive(Clone, PartialEq, Debug)]
pub enum About {
    /// A choice of a family.
    Choice {
        /// The family's number.
        family: u16,
        /// The choice's number in the family.
        choice: u16,
        /// Stems of the kinds of things, or of whatever else limits it, sorted.
        of: Box<[Box<str>]>,
    },
    /// A number.
    Measure {
        /// What is measured.
        of: Box<str>,
        /// The least value that follows it.
        low: f64,
        /// The greatest one.
        high: f64,
    },
    /// Anything else: what is to be done.
    Act {
        /// Its stems, sorted, with a word of a pair of opposites written as the pair.
        key: Box<str>,
        /// Which of the two opposites, where there is one.
        side: Option<bool>,
    },
}

/// One thing that a directive says.
#[derive(Clone, PartialEq, Debug)]
pub struct Claim {
    /// What it asks.
    pub modality: Modality,
    /// Of what.
    pub about: About,
    /// When and for which files, sorted.
    pub conditions: Box<[Condition]>,
}

/// One instruction.
#[derive(Clone, PartialEq, Debug)]
pub struct Directive {
    /// Its words in the file.
    pub span: Range<usize>,
    /// Its words in lower case without punctuation, markup or pleasant variation of blanks.
    pub words: Box<str>,
    /// The headings above it that are conditions, likewise, outermost first.
    pub conditions: Box<[Box<str>]>,
    /// Whether it is a list item rather than a sentence.
    pub item: bool,
    /// The headings and lead-ins above it that say for which files, or when, it holds.
    pub limits: Box<[Box<str>]>,
    /// Whether it stands below `Never:` or the like.
    pub forbidden: bool,
}

/// What a directive means.
#[derive(Clone, PartialEq, Debug)]
pub struct Said {
    /// What it asks as a whole.
    pub modality: Modality,
    /// Whether it says, beside what is forbidden, what to do instead.
    pub alternative: bool,
    /// What it says, one by one.
    pub claims: Box<[Claim]>,
}

impl Directive {
    /// Two directives with the same key say the same.
    pub fn key(&self) -> String {
        format!("{}\n{}", self.conditions.join("\n"), self.words)
    }
}

/// A code span or block.
#[derive(Clone, PartialEq, Debug)]
pub struct Code {
    /// The bytes of the code itself, without backticks or fences.
    pub span: Range<usize>,
    /// A block's language, where one is given; `None` for a span in a line.
    pub block: Option<String>,
}

/// A link or image.
#[derive(Clone, PartialEq, Debug)]
pub struct Link {
    /// Where it leads.
    pub target: String,
    /// The bytes of the target, or of the link where it stands elsewhere.
    pub span: Range<usize>,
    /// Whether it is an image.
    pub image: bool,
}

/// A heading with what stands below it.
#[derive(Clone, PartialEq, Debug)]
pub struct Section {
    /// The heading's words.
    pub title: String,
    /// Its depth, from 1.
    pub level: u8,
    /// The heading's bytes.
    pub heading: Range<usize>,
    /// Heading and text, up to the next heading of this or a higher level.
    pub span: Range<usize>,
}

/// A text's structure.
#[derive(Clone, PartialEq, Debug, Default)]
pub struct Outline {
    /// The directives, in order.
    pub directives: Vec<Directive>,
    /// Rows of tables, in order: they say something too, and are no directives of their own.
    pub rows: Vec<Directive>,
    /// Code, in order.
    pub code: Vec<Code>,
    /// HTML comments, in order.
    pub comments: Vec<Range<usize>>,
    /// Links, in order.
    pub links: Vec<Link>,
    /// Sections, in order of their headings.
    pub sections: Vec<Section>,
    /// Whether there are more directives than were to be read.
    pub cut: bool,
}

/// So many directives of a text are read: no assistant follows as many, and somebody may have made the text to keep us
/// busy.
pub const MOST_DIRECTIVES: usize = 1500;

/// The words that make up the meaning: lower case, code kept as it is, the rest without punctuation.
pub fn normal(text: &str) -> String {
    let mut words: Vec<String> = Vec::new();
    for (number, part) in text.split('`').enumerate() {
        if number % 2 == 1 {
            words.push(format!("`{}`", part.trim()));
            continue;
        }
        for word in part.split_whitespace() {
            let word =
                word.trim_matches(|c: char| !c.is_alphanumeric() && !matches!(c, '<' | '>' | '=' | '$' | '#' | '@'));
            if !word.is_empty() {
                words.push(word.to_lowercase().replace('’', "'"));
            }
        }
    }
    words.join(" ")
}

/// For each word of a directive what its clause asks.
pub fn modalities(text: &str, directive: &Directive) -> Vec<(Range<usize>, Modality)> {
    clause::modalities(text, directive.span.clone(), directive.item)
}

/// What the clause around a byte of a directive asks: `never npm` forbids in `Use pnpm, never npm`. `read` are the
/// directive's [`modalities`], `whole` is what it asks as a whole.
pub fn modality_at(whole: Modality, read: &[(Range<usize>, Modality)], at: usize) -> Option<Modality> {
    let after = read.partition_point(|(span, _)| span.end <= at);
    let own = read.get(after).filter(|(span, _)| span.contains(&at)).map(|(_, modality)| *modality)?;
    // Below a heading that forbids, what asks for nothing else is forbidden.
    let framed = whole.is_against() && read.first().is_some_and(|(_, first)| !first.is_against());
    Some(if framed && !own.is_against() { Modality::Forbid } else { own })
}

#[cfg(test)]
mod tests;
