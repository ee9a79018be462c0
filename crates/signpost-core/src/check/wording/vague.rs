use super::{commonplace, is_concrete, is_fine, is_spoken_of};
use crate::check::text::phrase;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::Modality;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("wording/vague", Severity::Note, include_str!("vague.toml"));

const PHRASES: &[&str] = &[
    "appropriate", "appropriately", "as needed", "as necessary", "as appropriate", "if necessary", "when necessary",
    "where possible", "when possible", "if possible", "properly", "reasonable", "reasonably", "sensible", "be careful",
    "carefully", "good judgment", "good judgement", "use common sense", "as much as possible", "where it makes sense",
    "when it makes sense", "if it makes sense", "nicely", "elegant", "elegantly", "high quality", "high-quality",
    "robust", "clean and simple", "user-friendly", "efficiently", "make it good", "optimal", "in a good way",
    "and so on", "adequately", "adequate", "suitable",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for (directive, meaning) in text.directives() {
        let words = text.words(&directive.span);
        // A word that was said to be plain is vague only where nothing else in the directive can be checked.
        let own = context.workspace.config.words.vague.iter().map(String::as_str);
        let Some(found) = phrase::first(words, PHRASES.iter().copied().chain(own)) else { continue };
        let span = directive.span.start + found.start..directive.span.start + found.end;
        let said = text.words(&span);
        // `Prefer x where possible` says what is better, and that it is not always so.
        let weighs = said.ends_with("possible") && (meaning.modality == Modality::Prefer || words.contains("unless"));
        if weighs
            || is_concrete(words)
            || commonplace::found(words, context).is_some()
            || is_spoken_of(text, &span)
            || is_fine(context, said)
            || words.len() > 160
        {
            continue;
        }
        let message = format!("“{said}” leaves open what is meant");
        let help = "say what you would check in a review: a name, a number, a command, an example";
        findings.push(text.finding(&INFO, span, message).help(help));
    }
}
