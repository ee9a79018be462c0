use super::{is_fine, is_spoken_of};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("wording/shouting", Severity::Note, include_str!("shouting.toml"));

/// Words that people shout.
const SHOUTED: &[&str] = &[
    "NEVER", "ALWAYS", "MUST", "IMPORTANT", "CRITICAL", "EVER", "STOP", "WARNING", "ABSOLUTELY", "MANDATORY",
    "REQUIRED", "ONLY", "NOT", "ALL", "DO", "DON'T", "EVERY", "ANY",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for directive in &text.outline.directives {
        let Some(found) = shouted(text.words(&directive.span)) else { continue };
        let span = directive.span.start + found.start..directive.span.start + found.end;
        if is_spoken_of(text, &span) || is_fine(context, text.words(&span)) {
            continue;
        }
        let said = text.words(&span).to_owned();
        let mut finding =
            text.finding(&INFO, span.clone(), "this shouts").help("write it in plain letters, and say why it matters");
        // Two may be somebody's operator; three at the end of a sentence are none.
        if said.chars().all(|c| c == '!') && said.len() > 2 && text.words(&directive.span).ends_with(&said) {
            finding = finding.edit(span, ".");
        }
        findings.push(finding);
    }
}

/// A row of capital words that is no name, or of exclamation marks.
fn shouted(words: &str) -> Option<Range<usize>> {
    if let Some(row) = exclaimed(words) {
        return Some(row);
    }
    let mut run: Option<(Range<usize>, usize, usize)> = None;
    let mut in_code = false;
    for (start, word) in pieces(words) {
        in_code ^= word.matches('`').count() % 2 == 1;
        let plain = word.trim_matches(|c: char| !c.is_alphanumeric() && c != '\'');
        let letters = plain.chars().filter(|c| c.is_alphabetic()).count();
        let loud = !in_code
            && !word.contains('`')
            && letters >= 2
            && !plain.contains(['_', '/', '.'])
            && plain.chars().all(|c| !c.is_lowercase());
        if loud {
            let (range, count, shouts) = run.get_or_insert((start..start, 0, 0));
            range.end = start + word.trim_end_matches(['.', ',', ':', ';', '*', '_', '!', '"', ')']).len();
            *count += 1;
            *shouts += usize::from(SHOUTED.contains(&plain));
        } else {
            if let Some(found) = loud_enough(words, run.take()) {
                return Some(found);
            }
        }
    }
    loud_enough(words, run)
}

/// A row of exclamation marks that ends what somebody says; `!!value` and `value!!.field` are code.
fn exclaimed(words: &str) -> Option<Range<usize>> {
    let mut from = 0;
    while let Some(at) = words[from..].find("!!").map(|at| from + at) {
        let end = at + words[at..].bytes().take_while(|byte| *byte == b'!').count();
        let closes = |c: char| c.is_alphanumeric() || matches!(c, ')' | '"' | '”' | '*' | '_' | '?');
        let said = words[..at].chars().next_back().is_some_and(closes);
        let rest = words[end..].trim_start_matches(['*', '_', ')', '"', '”']);
        if said && rest.chars().next().is_none_or(char::is_whitespace) {
            return Some(at..end);
        }
        from = end;
    }
    None
}

fn loud_enough(words: &str, run: Option<(Range<usize>, usize, usize)>) -> Option<Range<usize>> {
    let (range, count, shouts) = run?;
    // Two names in a row are common; a row with a shouted word in it is not a row of names.
    let loud = count >= 2 && shouts >= 1 && (shouts >= 2 || count >= 3) || count >= 5;
    let from = words[range.clone()].find(|c: char| c.is_alphanumeric()).unwrap_or(0);
    loud.then(|| range.start + from..range.end)
}

fn pieces(words: &str) -> impl Iterator<Item = (usize, &str)> {
    words.split_whitespace().map(|word| (word.as_ptr() as usize - words.as_ptr() as usize, word))
}

#[cfg(test)]
mod tests {
    use super::shouted;

    #[test]
    fn rows_of_capitals_shout_and_names_do_not() {
        for loud in [
            "NEVER EVER do this", "THIS IS VERY IMPORTANT STUFF", "Do it now!!", "you MUST ALWAYS test",
            "DO NOT TOUCH this",
        ] {
            assert!(shouted(loud).is_some(), "{loud}");
        }
        for plain in [
            "Never use JSON", "You MUST test", "Use HTTP API v2", "NEVER do this", "`DO NOT TOUCH` stands there",
            "Set MAX_SIZE and MIN_SIZE", "The SQL API", "Cast with !!value", "Read user!!.name",
            "!! is no operator here",
        ] {
            assert!(shouted(plain).is_none(), "{plain}");
        }
    }
}
