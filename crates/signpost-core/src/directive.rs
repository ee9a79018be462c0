//! Directives: the single instructions inside a rule.
//!
//! A list item or a sentence is one; code blocks, quoted examples and tables are none. A heading that names
//! a language, a file kind or a situation is a condition on what stands below it, and so part of its
//! meaning.

use pulldown_cmark::{Event, HeadingLevel, Options, Parser, Tag, TagEnd};
use std::ops::Range;

/// One instruction.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Directive {
    /// Its words in the file.
    pub span: Range<usize>,
    /// Its words in lower case without punctuation, markup or pleasant variation of blanks.
    pub words: String,
    /// The headings above it that are conditions, likewise, outermost first.
    pub conditions: Vec<String>,
}

impl Directive {
    /// Two directives with the same key say the same.
    pub fn key(&self) -> String {
        format!("{}\n{}", self.conditions.join("\n"), self.words)
    }
}

/// Reads the directives of a text from `body` on.
pub fn directives(text: &str, body: usize) -> Vec<Directive> {
    let mut reader = Reader { text, body, found: Vec::new(), headings: Vec::new() };
    reader.read();
    reader.found
}

struct Reader<'a> {
    text: &'a str,
    body: usize,
    found: Vec<Directive>,
    headings: Vec<(HeadingLevel, String)>,
}

impl Reader<'_> {
    fn read(&mut self) {
        let source = &self.text[self.body..];
        // Depth inside of what holds no directives.
        let mut quoted = 0usize;
        let mut items = 0usize;
        // The text being gathered: its first and last byte, in a heading or not.
        let mut open: Option<Range<usize>> = None;
        let mut heading = None;
        for (event, range) in Parser::new_ext(source, Options::ENABLE_TABLES).into_offset_iter() {
            let range = self.body + range.start..self.body + range.end;
            match event {
                Event::Start(Tag::BlockQuote(_) | Tag::CodeBlock(_) | Tag::Table(_) | Tag::HtmlBlock) => {
                    self.close(&mut open, items > 0);
                    quoted += 1;
                }
                Event::End(TagEnd::BlockQuote(_) | TagEnd::CodeBlock | TagEnd::Table | TagEnd::HtmlBlock) => {
                    quoted = quoted.saturating_sub(1);
                }
                Event::Start(Tag::Heading { level, .. }) => {
                    self.close(&mut open, false);
                    heading = Some((level, range));
                }
                Event::End(TagEnd::Heading(_)) => {
                    if let Some((level, range)) = heading.take() {
                        self.headings.retain(|(other, _)| *other < level);
                        let title = self.text[range].trim_start_matches('#').trim().to_owned();
                        self.headings.push((level, title));
                    }
                    open = None;
                }
                Event::Start(Tag::Item) => {
                    self.close(&mut open, items > 0);
                    items += 1;
                }
                Event::End(TagEnd::Item) => {
                    self.close(&mut open, true);
                    items = items.saturating_sub(1);
                }
                Event::Start(Tag::List(_)) | Event::End(TagEnd::Paragraph) => self.close(&mut open, items > 0),
                Event::Text(_) | Event::Code(_) | Event::InlineHtml(_) if quoted == 0 && heading.is_none() => {
                    let span = open.get_or_insert(range.clone());
                    span.end = span.end.max(range.end);
                }
                _ => {}
            }
        }
        self.close(&mut open, items > 0);
    }

    /// Ends the text being gathered: an item is one directive, a paragraph one a sentence.
    fn close(&mut self, open: &mut Option<Range<usize>>, item: bool) {
        let Some(span) = open.take() else { return };
        let spans = if item { vec![span] } else { sentences(self.text, span) };
        let conditions: Vec<String> =
            self.headings.iter().filter(|(_, title)| is_condition(title)).map(|(_, title)| normal(title)).collect();
        for span in spans {
            let words = normal(&self.text[span.clone()]);
            if !words.is_empty() {
                self.found.push(Directive { span, words, conditions: conditions.clone() });
            }
        }
    }
}

fn sentences(text: &str, span: Range<usize>) -> Vec<Range<usize>> {
    let mut spans = Vec::new();
    let (mut start, mut in_code) = (span.start, false);
    let mut chars = text[span.clone()].char_indices().peekable();
    let mut before = ' ';
    while let Some((at, c)) = chars.next() {
        in_code ^= c == '`';
        let ends = matches!(c, '.' | '!' | '?') && chars.peek().is_none_or(|(_, next)| next.is_whitespace());
        // `e.g. this` is no end of a sentence, nor is `v1. x`.
        let short = before.is_ascii_punctuation() || text[start..span.start + at].ends_with(".g");
        if ends && !in_code && !short {
            let end = span.start + at + 1;
            spans.push(crate::text::trim_range(text, start..end));
            start = end;
        }
        before = c;
    }
    spans.push(crate::text::trim_range(text, start..span.end));
    spans.retain(|span| !span.is_empty());
    spans
}

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

const CONDITION_WORDS: [&str; 42] = [
    "when",
    "if",
    "while",
    "before",
    "after",
    "tests",
    "test",
    "testing",
    "rust",
    "python",
    "typescript",
    "javascript",
    "go",
    "java",
    "kotlin",
    "swift",
    "ruby",
    "php",
    "c",
    "c++",
    "sql",
    "css",
    "html",
    "markdown",
    "shell",
    "bash",
    "yaml",
    "toml",
    "json",
    "docs",
    "documentation",
    "migrations",
    "frontend",
    "backend",
    "api",
    "cli",
    "mobile",
    "ios",
    "android",
    "web",
    "windows",
    "linux",
];

/// Whether a heading says where or when what follows applies.
fn is_condition(title: &str) -> bool {
    title.contains('`')
        || title.contains('/')
        || title.contains("*.")
        || normal(title).split(' ').any(|word| CONDITION_WORDS.contains(&word))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(text: &str) -> Vec<String> {
        directives(text, 0).into_iter().map(|directive| directive.words).collect()
    }

    #[test]
    fn items_and_sentences_are_directives() {
        let text = "# Style\n\nUse tabs. Never use `unwrap()`, e.g. in tests! Be kind\n\n- One item. Still one.\n- Second\n  goes on\n  - nested\n\n> Quoted\n\n```\ncode\n```\n\n| a | b |\n|---|---|\n| x | y |\n";
        assert_eq!(
            words(text),
            [
                "use tabs",
                "never use `unwrap()` e.g in tests",
                "be kind",
                "one item still one",
                "second goes on",
                "nested"
            ]
        );
    }

    #[test]
    fn a_heading_that_names_a_language_is_a_condition() {
        let all = directives("## Rust\n\n- Use tabs\n\n## Style\n\n- Use tabs\n", 0);
        assert_eq!(all[0].conditions, ["rust"]);
        assert!(all[1].conditions.is_empty());
        assert_ne!(all[0].key(), all[1].key());
    }
}
