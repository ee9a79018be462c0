//! Texts that could make an assistant do harm.
//!
//! These checks read everything: prose, code, comments, headers, and what invisible or encoded characters
//! say. A sentence that forbids a thing is no finding for naming it.

pub(super) mod comment_directive;
pub(super) mod data_leaves;
pub(super) mod encoded_blob;
pub(super) mod hidden_text;
pub(super) mod look_alike_letters;
pub(super) mod override_attempt;
pub(super) mod remote_code;
pub(super) mod secret;
pub(super) mod skips_approval;
mod tongues;

use super::Text;
use super::text::marker::{inside, is_allowance};
use super::text::mention::is_denied;
pub(super) use super::text::passages::{Passage, PassageKind};
use super::text::passages::{Passages, bounded};
use hidden_text::takes_no_room;
use regex::bytes::{Regex, RegexBuilder};
use std::ops::Range;
use std::sync::OnceLock;

/// Everything that a text says, in order.
pub(super) fn passages(text: &Text) -> impl Iterator<Item = Passage<'_>> {
    let all = text.passages.get_or_init(|| {
        let mut found = Passages::default();
        let mut add = |raw: &str, span, kind| found.add(raw, span, kind, takes_no_room);
        let mut covered: Vec<Range<usize>> = Vec::new();
        for comment in &text.outline.comments {
            if !is_allowance(text.words(comment)) {
                add(inside(text.words(comment)), comment.clone(), PassageKind::Comment);
            }
            covered.push(comment.clone());
        }
        for code in text.outline.code.iter().filter(|code| code.block.is_some()) {
            // A command may go on after a backslash.
            let mut open: Option<Range<usize>> = None;
            for line in crate::base::wording::lines_in(text.text(), code.span.clone()) {
                let goes_on = text.words(&line).ends_with('\\');
                let whole = open.take().map_or(line.clone(), |start| start.start..line.end);
                if goes_on {
                    open = Some(whole);
                } else {
                    add(&text.words(&whole).replace("\\\n", " "), whole, PassageKind::Code);
                }
            }
            covered.push(code.span.clone());
        }
        for directive in &text.outline.directives {
            if !text.in_comment(directive.span.start) {
                add(text.words(&directive.span), directive.span.clone(), PassageKind::Prose);
            }
            covered.push(directive.span.clone());
        }
        covered.sort_by_key(|one| one.start);
        // Headings, quotations, tables, the header: line by line.
        let mut next = covered.iter().peekable();
        for line in crate::base::wording::lines_in(text.text(), 0..text.text().len()) {
            while next.peek().is_some_and(|one| one.end <= line.start) {
                next.next();
            }
            if next.peek().is_none_or(|one| one.start >= line.end) && !line.is_empty() {
                add(text.words(&line), line, PassageKind::Prose);
            }
        }
        for image in text.outline.links.iter().filter(|link| link.image && !text.in_comment(link.span.start)) {
            add(&format!("![]({})", image.target), image.span.clone(), PassageKind::Prose);
        }
        for (said, span) in hidden_text::said(text.text()).into_iter().chain(encoded_blob::said(text)) {
            add(&said, span, PassageKind::Decoded);
        }
        found.sort();
        found
    });
    all.iter()
}

/// Whether a passage forbids what is found in it at a byte of its lower-case words.
fn denies(text: &Text, passage: &Passage<'_>, at: usize) -> bool {
    let before = &passage.low[..at];
    let clause = before.rsplit(['.', ';', '!', '?']).next().unwrap_or(before);
    let clause = after_condition(clause);
    let negated = negation().find_iter(clause).last().is_some_and(|found| !clause[found.end()..].contains(" but "));
    match passage.kind {
        PassageKind::Prose => {
            let number = text.directive_at(passage.span.start);
            let framed = number.is_some_and(|number| {
                // Below `Never:` nothing says so itself.
                text.outline.directives[number].forbidden && !negation().is_match(passage.low)
            });
            negated || framed || describes(clause) || is_warned_of(&passage.low[at..])
        }
        PassageKind::Code => is_denied(text, passage.span.start),
        PassageKind::Comment | PassageKind::Decoded => negated,
    }
}

/// `When x cannot be found, …`: what follows is asked, not denied.
fn after_condition(clause: &str) -> &str {
    let opens = ["if ", "when ", "whenever ", "should ", "in case ", "where ", "until ", "since ", "as "];
    let start = clause.trim_start_matches(|c: char| !c.is_alphanumeric());
    match clause.rsplit_once([',', ':']) {
        Some((_, rest)) if opens.iter().any(|word| start.starts_with(word)) => rest,
        _ => clause,
    }
}

/// `… is a reason to send the change back`.
fn is_warned_of(rest: &str) -> bool {
    let sentence = rest.split(". ").next().unwrap_or(rest);
    [
        "is a reason to", "is a red flag", "is an attack", "is forbidden", "are forbidden", "is banned",
        "is not allowed", "is never", "are never", "is not ok", "is no way", "is a mistake", "is prohibited",
        "must not be", "is not acceptable",
    ]
    .iter()
    .any(|words| sentence.contains(words))
}

/// A sentence about what others may try: `a comment that says ignore …`.
fn describes(before: &str) -> bool {
    [
        "such as", "like \"", "like “", "for example", "e.g", "phrases like", "text like", "says \"", "says “",
        "attempts to", "that tells you to", "asks you to", "tells you to", "that try to", "attempt to",
        "instructions to",
    ]
    .iter()
    .any(|word| before.contains(word))
}

fn negation() -> &'static Pattern {
    static FOUND: Pattern = Pattern::new(
        r"\b(never|do not|don't|dont|must not|mustn't|should not|shouldn't|may not|cannot|can't|avoid|refuse|not allowed to|no one may|nobody may|forbidden to|without)\b",
    );
    &FOUND
}

/// A regular expression, compiled when it is first asked for. Its classes know ASCII only, which makes it small:
/// what it looks for is written in ASCII.
struct Pattern {
    source: Source,
    compiled: OnceLock<Regex>,
}

enum Source {
    Fixed(&'static str),
    /// Put together from parts.
    Made(fn() -> String),
}

/// Where a pattern matches.
#[derive(Clone, Copy)]
struct Hit {
    start: usize,
    end: usize,
}

impl Hit {
    fn start(self) -> usize {
        self.start
    }

    fn end(self) -> usize {
        self.end
    }

    fn range(self) -> Range<usize> {
        self.start..self.end
    }
}

impl Pattern {
    const fn new(source: &'static str) -> Self {
        Pattern { source: Source::Fixed(source), compiled: OnceLock::new() }
    }

    const fn made(source: fn() -> String) -> Self {
        Pattern { source: Source::Made(source), compiled: OnceLock::new() }
    }

    fn regex(&self) -> &Regex {
        self.compiled.get_or_init(|| {
            let source = match self.source {
                Source::Fixed(source) => source.to_owned(),
                Source::Made(make) => make(),
            };
            RegexBuilder::new(&source).unicode(false).build().expect("the patterns of the checks are valid")
        })
    }

    fn is_match(&self, text: &str) -> bool {
        self.regex().is_match(text.as_bytes())
    }

    fn find(&self, text: &str) -> Option<Hit> {
        self.regex().find(text.as_bytes()).map(|hit| whole_characters(text, hit.start(), hit.end()))
    }

    fn find_iter<'t>(&'t self, text: &'t str) -> impl Iterator<Item = Hit> + 't {
        self.regex().find_iter(text.as_bytes()).map(|hit| whole_characters(text, hit.start(), hit.end()))
    }

    /// Where the whole and its groups match.
    fn groups<'t>(&'t self, text: &'t str) -> impl Iterator<Item = Vec<Option<Hit>>> + 't {
        self.regex()
            .captures_iter(text.as_bytes())
            .map(|all| all.iter().map(|one| one.map(|hit| whole_characters(text, hit.start(), hit.end()))).collect())
    }
}

/// A match of bytes may begin or end inside of a character.
fn whole_characters(text: &str, mut start: usize, mut end: usize) -> Hit {
    while !text.is_char_boundary(start) {
        start -= 1;
    }
    while !text.is_char_boundary(end) {
        end += 1;
    }
    Hit { start, end }
}
