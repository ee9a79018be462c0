use super::{is_fine, is_spoken_of};
use crate::check::text::phrase;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("wording/pleasantry", Severity::Note, include_str!("pleasantry.toml"));

const PHRASES: &[&str] = &[
    "please", "kindly", "thank you", "thanks", "if you don't mind", "if you do not mind", "would you mind",
    "we would appreciate", "we'd appreciate", "it would be great if", "it would be nice if", "be so kind",
    "we kindly ask",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let own: Vec<&str> = context.workspace.config.words.pleasantry.iter().map(String::as_str).collect();
    for directive in &text.outline.directives {
        let words = text.words(&directive.span);
        let Some(found) = phrase::first(words, PHRASES.iter().copied().chain(own.iter().copied())) else { continue };
        let span = directive.span.start + found.start..directive.span.start + found.end;
        let said = text.words(&span);
        if is_spoken_of(text, &span) || is_fine(context, said) {
            continue;
        }
        let polite = said.eq_ignore_ascii_case("please");
        if polite && !is_a_wish(words, &found) {
            continue;
        }
        let mut finding =
            text.finding(&INFO, span.clone(), format!("“{said}” says nothing here")).help("say it plainly");
        // As the first word of a command it can go without another change.
        let first = text.text()[directive.span.start..span.start].chars().all(|c| matches!(c, '*' | '_'));
        let rest = &text.text()[span.end..directive.span.end];
        let next = rest.strip_prefix(' ').or_else(|| rest.strip_prefix(", ")).and_then(|rest| rest.chars().next());
        if let Some(next) = next.filter(|next| polite && first && next.is_alphabetic()) {
            let gap = rest.len() - rest.trim_start_matches([' ', ',']).len();
            let capital = said.starts_with(char::is_uppercase);
            let next_span = span.end + gap..span.end + gap + next.len_utf8();
            let letter: String = if capital { next.to_uppercase().collect() } else { next.to_string() };
            finding = finding.edit(span.start..next_span.end, letter);
        }
        // Who lists words of their own wants to hear of them.
        let own = own.iter().any(|own| own.eq_ignore_ascii_case(said));
        findings.push(finding.on_request(!own));
    }
}

/// Words before which “please” is the word itself: `please and thank you`, `please is no argument`.
const NAMES_IT: &[&str] =
    &["and", "or", "is", "are", "was", "as", "at", "in", "on", "to", "of", "means", "when", "before", "after", "if"];
/// What may come before “please” in a wish: `could you please`, `and please`.
const LEADS_IN: &[&str] = &["and", "so", "then", "but", "also", "always", "just", "or", "first"];

/// Whether “please” asks for something; in `do what you please` and `say please when you ask` it does not.
fn is_a_wish(words: &str, found: &Range<usize>) -> bool {
    let (before, after) = (words[..found.start].trim_end(), &words[found.end..]);
    let next = after.trim_start_matches([' ', ',']).split_whitespace().next().unwrap_or_default().to_lowercase();
    let next = next.trim_matches(|c: char| !c.is_alphanumeric());
    let last = before.rsplit(char::is_whitespace).next().unwrap_or_default().to_lowercase();
    if NAMES_IT.contains(&next) {
        return false;
    }
    let opens = before.trim_end_matches(['*', '_']).is_empty()
        || before.ends_with([',', ';', ':', '—', '–', '.', '!', '?', '(', ')']);
    if next.is_empty() {
        // `Sand it, please.`
        return opens && !before.is_empty();
    }
    let asks = ["could you", "would you", "can you", "will you"].iter().any(|end| before.to_lowercase().ends_with(end));
    opens || asks || LEADS_IN.contains(&last.as_str())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_wish_is_told_from_the_word() {
        let wish = |words: &str| {
            let found = phrase::first(words, ["please"]).unwrap();
            is_a_wish(words, &found)
        };
        for words in [
            "Please run it", "**Please** run it", "If it fails, please say so", "Could you please run it",
            "Run it, please.",
        ] {
            assert!(wish(words), "{words}");
        }
        for words in [
            "Do what you please",
            "Say please when you ask",
            "Please and thank you go without saying",
            "Do as you please, but test",
        ] {
            assert!(!wish(words), "{words}");
        }
    }
}
