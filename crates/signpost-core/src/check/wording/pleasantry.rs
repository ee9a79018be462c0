use super::{is_fine, is_spoken_of};
use crate::check::{CheckInfo, Context, Finding, Text, phrase};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "wording/pleasantry",
    severity: Severity::Note,
    finds: "“Please”, “kindly”, “thank you” in a directive.",
    why: "It costs tokens in every conversation, and makes a rule sound like a wish.",
    mend: "Say it plainly, as the command that it is.",
    bad: "- Please run `just check` before you commit, thank you.\n",
    good: "- Run `just check` before you commit.\n",
};

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
        let mut finding =
            text.finding(&INFO, span.clone(), format!("“{said}” says nothing here")).help("say it plainly");
        // At the beginning, or right before a word, it can go without another change.
        let rest = &text.text()[span.end..directive.span.end];
        let next = rest.strip_prefix(' ').or_else(|| rest.strip_prefix(", ")).and_then(|rest| rest.chars().next());
        let simple = said.eq_ignore_ascii_case("please") || said.eq_ignore_ascii_case("kindly");
        if let Some(next) = next.filter(|next| simple && next.is_alphabetic()) {
            let gap = rest.len() - rest.trim_start_matches([' ', ',']).len();
            let capital = said.starts_with(char::is_uppercase);
            let next_span = span.end + gap..span.end + gap + next.len_utf8();
            let letter: String = if capital { next.to_uppercase().collect() } else { next.to_string() };
            finding = finding.edit(span.start..next_span.end, letter);
        }
        findings.push(finding);
    }
}
