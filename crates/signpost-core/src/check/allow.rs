//! Allowances in a text: `<!-- signpost: allow CHECK — reason -->` lets the next block have its findings.
//!
//! A reason is asked for, and an allowance that nothing needs is a finding itself, so that they do not pile
//! up.

use super::finding::Finding;
use super::text::Text;
use super::text::marker::to_us;
use super::{CheckInfo, all, did_you_mean};
use crate::config::Severity;
use pulldown_cmark::{Event, Options, Parser, Tag};
use std::cell::{Cell, LazyCell};
use std::ops::Range;

pub(super) const UNNEEDED: CheckInfo =
    CheckInfo::new("allowance/unneeded", Severity::Warning, include_str!("allow/unneeded.toml"));

pub(super) const NO_REASON: CheckInfo =
    CheckInfo::new("allowance/no-reason", Severity::Note, include_str!("allow/no_reason.toml"));

pub(super) const UNKNOWN: CheckInfo =
    CheckInfo::new("allowance/unknown-check", Severity::Warning, include_str!("allow/unknown_check.toml"));

/// What an allowance lets pass.
pub(super) struct Allowance {
    /// The bytes of the comment.
    comment: Range<usize>,
    /// Checks or groups, with the bytes of their names.
    checks: Vec<(String, Range<usize>)>,
    has_reason: bool,
    /// The bytes of the block.
    block: Range<usize>,
    /// Whether it is the first thing in the text, and so speaks for the file as a whole too.
    of_file: bool,
    used: Cell<bool>,
}

/// The allowances of a text.
pub(super) fn read(text: &Text) -> Vec<Allowance> {
    let mut found = Vec::new();
    let blocks = LazyCell::new(|| blocks(text.text(), text.body));
    for comment in &text.outline.comments {
        let Some(rest) = to_us(text.words(comment)).and_then(|rest| rest.strip_prefix("allow")) else { continue };
        let whole = text.text();
        let start = rest.as_ptr() as usize - whole.as_ptr() as usize;
        let (names, reason) = cut(rest);
        let mut checks = Vec::new();
        let mut at = start;
        for part in names.split(',') {
            let name = part.trim();
            let from = at + (part.len() - part.trim_start().len());
            if !name.is_empty() {
                checks.push((name.to_owned(), from..from + name.len()));
            }
            at += part.len() + 1;
        }
        let of_file = whole[text.body..comment.start].trim().is_empty();
        let block = block_after(whole, &blocks, comment);
        let has_reason = reason.chars().any(char::is_alphanumeric);
        let used = Cell::new(false);
        found.push(Allowance { comment: comment.clone(), checks, has_reason, block, of_file, used });
    }
    found
}

/// The names, and the reason after a dash or colon.
fn cut(rest: &str) -> (&str, &str) {
    let marks = [" — ", " – ", " -- ", " - ", ": ", "—", "–"];
    let at = marks.iter().filter_map(|mark| rest.find(mark).map(|at| (at, mark.len()))).min();
    at.map_or((rest, ""), |(at, length)| (&rest[..at], &rest[at + length..]))
}

/// The block that begins after a comment; the one that the comment stands in where words come before it on
/// its line.
fn block_after(text: &str, blocks: &[Range<usize>], comment: &Range<usize>) -> Range<usize> {
    let line = text[..comment.start].rfind('\n').map_or(0, |at| at + 1);
    let before = text[line..comment.start].trim_matches([' ', '\t', '-', '*', '+', '>', '\u{feff}']);
    if !before.is_empty() {
        let end = text[comment.end..].find('\n').map_or(text.len(), |at| comment.end + at);
        return line..end;
    }
    if let Some(block) = blocks.get(blocks.partition_point(|block| block.start < comment.end)) {
        return block.clone();
    }
    // A comment right above text is one HTML block with it.
    let rest = &text[comment.end..];
    let from = comment.end + (rest.len() - rest.trim_start().len());
    let end = text[from..].find("\n\n").map_or(text.len(), |at| from + at);
    from..end
}

/// The blocks of a text, by where they begin, the widest first.
fn blocks(text: &str, body: usize) -> Vec<Range<usize>> {
    let events = Parser::new_ext(&text[body..], Options::ENABLE_TABLES).into_offset_iter();
    let blocks = events.filter(|(event, _)| {
        matches!(
            event,
            Event::Start(
                Tag::Paragraph
                    | Tag::List(_)
                    | Tag::Item
                    | Tag::Heading { .. }
                    | Tag::CodeBlock(_)
                    | Tag::Table(_)
                    | Tag::BlockQuote(_)
            )
        )
    });
    blocks.map(|(_, range)| body + range.start..body + range.end).collect()
}

impl Allowance {
    fn takes(&self, finding: &Finding) -> bool {
        let named = self
            .checks
            .iter()
            .any(|(name, _)| name == finding.check || finding.check.split('/').next() == Some(name.as_str()));
        let at = finding.span.start;
        let placed = self.block.contains(&at) || self.of_file && at <= self.comment.start;
        named && placed
    }
}

/// Whether a finding of the text is allowed; notes by which allowances.
pub(super) fn takes(allowances: &[Allowance], finding: &Finding) -> bool {
    let mut allowed = false;
    for allowance in allowances.iter().filter(|one| one.takes(finding)) {
        allowance.used.set(true);
        allowed = true;
    }
    allowed
}

/// What is wrong with the allowances of a text.
pub(super) fn findings(text: &Text, allowances: &[Allowance], ran: &dyn Fn(&str) -> bool) -> Vec<Finding> {
    let mut found = Vec::new();
    for one in allowances {
        if !one.has_reason {
            let message = "this allowance does not say why";
            found.push(
                text.finding(&NO_REASON, one.comment.clone(), message).help("add ` — ` and the reason after the check"),
            );
        }
        let mut known = true;
        for (name, span) in &one.checks {
            if !all().any(|info| info.name == name || info.group() == name) {
                known = false;
                found.push(
                    text.finding(&UNKNOWN, span.clone(), format!("there is no check `{name}`"))
                        .help(did_you_mean(name)),
                );
            }
        }
        // A check that did not run can't say whether it is needed.
        let all_ran = one.checks.iter().all(|(name, _)| ran(name));
        if known && all_ran && !one.used.get() {
            let message = "nothing here needs this allowance any more";
            let whole = text.text();
            let mut span = one.comment.clone();
            // The line goes with it where nothing else stands there.
            let line = whole[..span.start].rfind('\n').map_or(0, |at| at + 1);
            let end = whole[span.end..].find('\n').map_or(whole.len(), |at| span.end + at + 1);
            if whole[line..span.start].trim().is_empty() && whole[span.end..end].trim().is_empty() && line >= text.body
            {
                span = line..end;
            }
            found.push(text.finding(&UNNEEDED, one.comment.clone(), message).help("delete it").edit(span, ""));
        }
    }
    found
}
