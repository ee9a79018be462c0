use crate::check::text::phrase;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("wording/placeholder", Severity::Warning, include_str!("placeholder.toml"));

const PHRASES: &[&str] = &[
    "lorem ipsum", "describe your project here", "describe the project here", "fill in here", "fill me in",
    "to be filled in", "to be written", "your project name", "your text here", "add your", "insert your",
    "insert here", "replace this with", "replace with your", "coming soon", "put your", "to be determined",
    "to be decided",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let own = &context.workspace.config.words.placeholder;
    let spans = text.outline.directives.iter().map(|one| one.span.clone());
    let spans = spans.chain(text.outline.sections.iter().map(|one| one.heading.clone()));
    for span in spans {
        let words = text.words(&span);
        let Some(found) = unfilled(words, own) else { continue };
        let at = span.start + found.start..span.start + found.end;
        if super::is_spoken_of(text, &at) {
            continue;
        }
        findings.push(text.finding(&INFO, at, "this was to be filled in").help("fill it in, or delete it"));
    }
}

/// Whether a line of a text was to be filled in and is not: the number of the first one, from 0.
pub fn first_unfilled(text: &str) -> Option<usize> {
    let bare = |line: &str| line.trim_start_matches([' ', '\t', '-', '*', '+', '#']).to_owned();
    text.lines().position(|line| unfilled(&bare(line), &[]).is_some())
}

/// The bytes of what was not filled in.
fn unfilled(words: &str, own: &[String]) -> Option<Range<usize>> {
    let start = words.trim_start_matches(['#', ' ', '*', '_', '[', '(']);
    let from = words.len() - start.len();
    for mark in ["TODO", "TBD", "FIXME", "XXX", "TBA"] {
        // As a mark it begins or ends the text; elsewhere it is spoken of.
        if let Some(rest) = start.strip_prefix(mark)
            && (rest.is_empty()
                || rest.starts_with([':', ' ', '.', ')', ']', '*', '-'])
                    && !rest.starts_with(" comment")
                    && !rest.starts_with(" list")
                    && !rest.starts_with(" mark"))
            && !rest.starts_with(" in ")
            && !rest.starts_with(" and ")
            && !rest.starts_with(" notes")
        {
            return Some(from..from + mark.len());
        }
        let end = words.trim_end_matches(['.', ' ', '*', '_', ')', ']']);
        if end.ends_with(mark) && (end[..end.len() - mark.len()].trim_end().ends_with([':', '(', '—', '–', '-', '[']))
        {
            return Some(end.len() - mark.len()..end.len());
        }
    }
    if let Some(found) = phrase::first(words, PHRASES.iter().copied().chain(own.iter().map(String::as_str))) {
        let short = words.len() < 100;
        return short.then_some(found);
    }
    bracketed(words)
}

/// `[project name]`, `{{name}}`, `<your team>`: a gap, where it is no link, no code and no parameter.
fn bracketed(words: &str) -> Option<Range<usize>> {
    let mut in_code = false;
    for (at, c) in words.char_indices() {
        in_code ^= c == '`';
        if in_code {
            continue;
        }
        let rest = &words[at..];
        let inner = |open: &str, close: &str| -> Option<(usize, String)> {
            let inside = rest.strip_prefix(open)?;
            let end = inside.find(close)?;
            Some((open.len() + end + close.len(), inside[..end].to_lowercase()))
        };
        if let Some((length, text)) = inner("{{", "}}")
            && !text.is_empty()
        {
            return Some(at..at + length);
        }
        let gap = |text: &str| {
            let first = text.split_whitespace().next().unwrap_or_default();
            let words = text.split_whitespace().count();
            let asks = [
                "your", "insert", "describe", "project", "name", "add", "fill", "enter", "company", "team", "list",
                "brief",
            ];
            text.len() < 60
                && (asks.contains(&first) && words >= 2
                    || matches!(text, "placeholder" | "name" | "description" | "todo" | "tbd" | "..." | "…"))
                && text.chars().all(|c| c.is_alphanumeric() || " -'.,/&…".contains(c))
        };
        if let Some((length, text)) = inner("[", "]")
            && !words[at + length..].starts_with(['(', '[', ':'])
            && gap(&text)
        {
            return Some(at..at + length);
        }
        if let Some((length, text)) = inner("<", ">")
            && gap(&text)
            && text.contains(' ')
        {
            return Some(at..at + length);
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::unfilled;

    #[test]
    fn gaps_are_found_and_talk_of_gaps_is_not() {
        for gap in [
            "TODO: describe the tests", "[Project name]", "Deploys go to {{ host }}", "The owner is <your team>",
            "Coverage: TBD", "Lorem ipsum dolor", "Add your rules here",
        ] {
            assert!(unfilled(gap, &[]).is_some(), "{gap}");
        }
        for fine in [
            "Never leave TODO comments", "TODO comments name an issue", "Use `<name>` for it", "- [x] done",
            "[docs](docs/a.md)", "Run `just test {{name}}`", "Mark gaps with TODO", "Use Vec<T>",
        ] {
            assert!(unfilled(fine, &[]).is_none(), "{fine}");
        }
    }
}
