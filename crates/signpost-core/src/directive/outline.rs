//! From Markdown to an [`Outline`].
//!
//! Format: <https://spec.commonmark.org/0.31.2/>, with tables, strike-through and task lists.

use super::clause;
use super::condition::{self, Frame};
use super::families::Families;
use super::{Code, Directive, Link, MOST_DIRECTIVES, Outline, Said, Section, normal};
use crate::base::wording::trim_range;
use pulldown_cmark::{CodeBlockKind, Event, HeadingLevel, LinkType, Options, Parser, Tag, TagEnd};
use std::ops::Range;

impl Outline {
    /// Reads a text from `body` on.
    pub fn read(text: &str, body: usize) -> Outline {
        Outline::gather(text, body, None, MOST_DIRECTIVES).0
    }

    /// Reads a text from `body` on, and what each of its directives means; of `most` directives at most.
    pub fn with_meaning(text: &str, body: usize, families: &Families, most: usize) -> (Outline, Vec<Said>) {
        Outline::gather(text, body, Some(families), most.min(MOST_DIRECTIVES))
    }

    fn gather(text: &str, body: usize, families: Option<&Families>, most: usize) -> (Outline, Vec<Said>) {
        let mut reader = Reader {
            text,
            body,
            families,
            outline: Outline::default(),
            said: Vec::new(),
            most,
            headings: Vec::new(),
            leads: Vec::new(),
            pending: None,
            open_comment: text.len(),
        };
        reader.read();
        reader.close_sections();
        (reader.outline, reader.said)
    }
}

struct Reader<'a> {
    text: &'a str,
    body: usize,
    /// The choices to look for, where what the directives mean is asked for.
    families: Option<&'a Families>,
    outline: Outline,
    said: Vec<Said>,
    most: usize,
    /// The headings above, with what they say.
    headings: Vec<(u8, String, Frame)>,
    /// For each list that is open, what its lead-in says.
    leads: Vec<Frame>,
    /// What the paragraph or item text that came last says, where it ends with a colon.
    pending: Option<Frame>,
    /// Where a comment begins that is never closed.
    open_comment: usize,
}

fn level_number(level: HeadingLevel) -> u8 {
    level as u8
}

impl Reader<'_> {
    fn read(&mut self) {
        let source = &self.text[self.body..];
        let options = Options::ENABLE_TABLES | Options::ENABLE_STRIKETHROUGH | Options::ENABLE_TASKLISTS;
        let events: Vec<(Event<'_>, Range<usize>)> = Parser::new_ext(source, options)
            .into_offset_iter()
            .map(|(event, range)| (event, self.body + range.start..self.body + range.end))
            .collect();
        self.find_code(&events);
        self.find_comments();
        // Depth inside of what holds no directives.
        let (mut quoted, mut struck) = (0usize, 0usize);
        let mut items = 0usize;
        // The text being gathered: its first and last byte.
        let mut open: Option<Range<usize>> = None;
        let mut heading = None;
        for (event, range) in events {
            if range.start >= self.open_comment {
                break;
            }
            match event {
                Event::Start(Tag::BlockQuote(_) | Tag::CodeBlock(_) | Tag::Table(_) | Tag::HtmlBlock) => {
                    self.close(&mut open, items > 0);
                    quoted += 1;
                }
                Event::End(TagEnd::BlockQuote(_) | TagEnd::CodeBlock | TagEnd::Table | TagEnd::HtmlBlock) => {
                    quoted = quoted.saturating_sub(1);
                }
                Event::End(TagEnd::TableRow) if quoted == 1 => self.row(range),
                Event::Start(Tag::Strikethrough) => struck += 1,
                Event::End(TagEnd::Strikethrough) => struck = struck.saturating_sub(1),
                Event::Start(Tag::Heading { level, .. }) => {
                    self.close(&mut open, false);
                    heading = Some((level_number(level), range));
                }
                Event::End(TagEnd::Heading(_)) => {
                    if let Some((level, range)) = heading.take().filter(|_| quoted == 0) {
                        self.heading(level, range);
                    }
                    open = None;
                }
                Event::Start(Tag::List(_)) => {
                    self.close(&mut open, items > 0);
                    self.leads.push(self.pending.take().unwrap_or_default());
                }
                Event::End(TagEnd::List(_)) => {
                    self.leads.pop();
                    self.pending = None;
                }
                Event::Start(Tag::Item) => {
                    self.close(&mut open, items > 0);
                    self.pending = None;
                    items += 1;
                }
                Event::End(TagEnd::Item) => {
                    self.close(&mut open, true);
                    items = items.saturating_sub(1);
                }
                Event::Start(Tag::Paragraph) => self.pending = None,
                Event::End(TagEnd::Paragraph) => self.close(&mut open, items > 0),
                Event::Text(_) | Event::Code(_) | Event::InlineHtml(_)
                    if quoted == 0 && struck == 0 && heading.is_none() && !self.in_comment(range.start) =>
                {
                    let span = open.get_or_insert(range.clone());
                    span.end = span.end.max(range.end);
                }
                _ => {}
            }
        }
        self.close(&mut open, items > 0);
    }

    fn find_code(&mut self, events: &[(Event<'_>, Range<usize>)]) {
        let mut block: Option<(String, Option<Range<usize>>)> = None;
        for (event, range) in events {
            match event {
                Event::Code(inner) => {
                    let raw = &self.text[range.clone()];
                    let at = raw
                        .find(inner.as_ref())
                        .map_or(range.clone(), |at| range.start + at..range.start + at + inner.len());
                    self.outline.code.push(Code { span: at, block: None });
                }
                Event::Start(Tag::CodeBlock(kind)) => {
                    let language = match kind {
                        CodeBlockKind::Fenced(info) => {
                            info.split([' ', ',', '{']).next().unwrap_or_default().to_lowercase()
                        }
                        CodeBlockKind::Indented => String::new(),
                    };
                    block = Some((language, None));
                }
                Event::Text(_) => {
                    if let Some((_, span)) = &mut block {
                        let span = span.get_or_insert(range.clone());
                        span.end = range.end;
                    }
                }
                Event::End(TagEnd::CodeBlock) => {
                    if let Some((language, Some(span))) = block.take() {
                        self.outline.code.push(Code { span, block: Some(language) });
                    }
                }
                Event::Start(Tag::Link { link_type, dest_url, .. }) => {
                    self.link(dest_url, range, matches!(link_type, LinkType::Inline | LinkType::Autolink), false);
                }
                Event::Start(Tag::Image { dest_url, .. }) => self.link(dest_url, range, true, true),
                _ => {}
            }
        }
    }

    fn link(&mut self, target: &str, range: &Range<usize>, stands_here: bool, image: bool) {
        let inside = stands_here.then(|| self.text[range.clone()].rfind(target)).flatten();
        let span = inside.map_or(range.clone(), |at| range.start + at..range.start + at + target.len());
        self.outline.links.push(Link { target: target.to_owned(), span, image });
    }

    /// Comments, wherever no code is; one that never closes runs to the end.
    fn find_comments(&mut self) {
        let mut code = self.outline.code.iter().peekable();
        let mut from = self.body;
        while let Some(at) = self.text[from..].find("<!--").map(|at| from + at) {
            while code.peek().is_some_and(|code| code.span.end <= at) {
                code.next();
            }
            if code.peek().is_some_and(|code| code.span.contains(&at)) {
                from = at + 4;
                continue;
            }
            match self.text[at + 4..].find("-->").map(|end| at + 4 + end + 3) {
                Some(end) => {
                    self.outline.comments.push(at..end);
                    from = end;
                }
                None => {
                    self.outline.comments.push(at..self.text.len());
                    self.open_comment = at;
                    break;
                }
            }
        }
        let open = self.open_comment;
        self.outline.code.retain(|code| code.span.start < open);
    }

    fn in_comment(&self, at: usize) -> bool {
        let after = self.outline.comments.partition_point(|comment| comment.start <= at);
        after > 0 && self.outline.comments[after - 1].contains(&at)
    }

    fn without_comments(&self, span: &Range<usize>) -> std::borrow::Cow<'_, str> {
        let first = self.outline.comments.partition_point(|one| one.end <= span.start);
        let mut inside = self.outline.comments[first..].iter().take_while(|one| one.start < span.end).peekable();
        if inside.peek().is_none() {
            return self.text[span.clone()].into();
        }
        let (mut kept, mut at) = (String::new(), span.start);
        for comment in inside {
            kept.push_str(&self.text[at..comment.start.max(at)]);
            at = comment.end.min(span.end);
        }
        kept.push_str(&self.text[at..span.end]);
        kept.into()
    }

    fn heading(&mut self, level: u8, range: Range<usize>) {
        self.headings.retain(|(other, ..)| *other < level);
        let range = trim_range(self.text, range);
        let title = self.text[range.clone()].lines().next().unwrap_or_default();
        let title = title.trim_start_matches('#').trim_end_matches('#').trim().to_owned();
        let top = level == 1 && self.headings.is_empty();
        let frame = if self.is_full() { Frame::default() } else { condition::heading(&title, top) };
        self.outline.sections.push(Section { title: title.clone(), level, heading: range.clone(), span: range });
        self.headings.push((level, title, frame));
        self.pending = None;
    }

    fn close_sections(&mut self) {
        let sections = &mut self.outline.sections;
        for at in 0..sections.len() {
            let level = sections[at].level;
            let next = sections[at + 1..].iter().find(|other| other.level <= level);
            sections[at].span.end = next.map_or(self.text.len(), |next| next.heading.start);
        }
    }

    /// Ends the text being gathered: an item is one directive, a paragraph one a sentence.
    fn close(&mut self, open: &mut Option<Range<usize>>, item: bool) {
        let Some(span) = open.take() else { return };
        let span = trim_range(self.text, span);
        if self.is_full() {
            self.outline.cut |= !span.is_empty();
            return;
        }
        let text = &self.text[span.clone()];
        let spans = if item { vec![span.clone()] } else { sentences(self.text, span.clone()) };
        let leads_in = text.trim_end_matches(['*', '_', ' ']).ends_with(':');
        for span in spans.into_iter().flat_map(|span| bounded(self.text, span)) {
            self.directive(span, item);
        }
        self.pending = leads_in.then(|| condition::lead_in(text.rsplit(['\n', '.']).next().unwrap_or(text)));
    }

    /// Whether nothing that follows is read for its meaning any more.
    fn is_full(&self) -> bool {
        self.outline.directives.len() >= self.most
    }

    fn directive(&mut self, span: Range<usize>, item: bool) {
        if self.is_full() {
            self.outline.cut = true;
            return;
        }
        let words = normal(&self.without_comments(&span));
        let frames = || self.headings.iter().map(|(.., frame)| frame).chain(&self.leads);
        if words.is_empty() || frames().any(|frame| frame.example) {
            return;
        }
        let headings = self.headings.iter().filter(|(.., frame)| frame.is_condition());
        let conditions: Vec<Box<str>> = headings.map(|(_, title, _)| normal(title).into()).collect();
        if let Some(families) = self.families {
            let frame = Frame {
                conditions: frames().flat_map(|frame| frame.conditions.iter().cloned()).collect(),
                about: frames().flat_map(|frame| frame.about.iter().cloned()).collect(),
                forbids: frames().any(|frame| frame.forbids),
                ..Frame::default()
            };
            self.said.push(clause::read(self.text, span.clone(), item, &frame, families));
        }
        let directive = self.made(span, words, conditions.into(), item);
        self.outline.directives.push(directive);
    }

    fn made(&self, span: Range<usize>, words: String, conditions: Box<[Box<str>]>, item: bool) -> Directive {
        let frames = || self.headings.iter().map(|(.., frame)| frame).chain(&self.leads);
        let limits: Vec<Box<str>> = frames().filter_map(|frame| frame.limit.clone()).collect();
        let forbidden = frames().any(|frame| frame.forbids);
        Directive { span, words: words.into(), conditions, item, limits: limits.into(), forbidden }
    }

    /// A row of a table, which names a thing and says something of it.
    fn row(&mut self, range: Range<usize>) {
        let span = trim_range(self.text, range);
        let words = normal(&self.without_comments(&span));
        if self.outline.rows.len() < MOST_ROWS && span.len() <= LONGEST && !words.is_empty() && !self.is_full() {
            let row = self.made(span, words, Box::default(), true);
            self.outline.rows.push(row);
        }
    }
}

/// So many rows of tables are read of a text.
const MOST_ROWS: usize = 200;

/// A directive is no longer than this, in bytes. Nobody writes one that is, but for those who want to keep us busy: what
/// the words around a word mean is asked again for each of them.
const LONGEST: usize = 2048;

/// A span in pieces that are not too long, cut between words where there are any.
fn bounded(text: &str, span: Range<usize>) -> Vec<Range<usize>> {
    let mut pieces = Vec::new();
    let mut start = span.start;
    while span.end - start > LONGEST {
        let mut end = start + LONGEST;
        while !text.is_char_boundary(end) {
            end -= 1;
        }
        let cut = text[start..end].rfind(char::is_whitespace).filter(|at| *at > 0).map_or(end, |at| start + at);
        pieces.push(trim_range(text, start..cut));
        start = cut;
    }
    pieces.push(trim_range(text, start..span.end));
    pieces.retain(|piece| !piece.is_empty());
    pieces
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
        let so_far = &text[start..span.start + at];
        let short = before.is_ascii_punctuation() && !matches!(before, '`' | ')' | '"' | '\'' | '*' | '_')
            || [".g", "i.e", "etc", " vs"].iter().any(|end| so_far.ends_with(end));
        if ends && !in_code && !short {
            let end = span.start + at + 1;
            spans.push(trim_range(text, start..end));
            start = end;
        }
        before = c;
    }
    spans.push(trim_range(text, start..span.end));
    spans.retain(|span| !span.is_empty());
    spans
}
