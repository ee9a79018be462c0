use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::Directive;
use crate::directive::words::words;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("wording/no-alternative", Severity::Note, include_str!("no_alternative.toml"));

/// Verbs for using a thing in place of others, where there is something to use instead.
const USING: &[&str] = &["use", "using", "call", "import", "write", "choose", "rely", "introduce"];
/// What needs no other thing in its stead.
const ENOUGH: &[&str] = &[
    "emoji", "emojis", "abbreviations", "jargon", "secrets", "secret", "slang", "comments", "todo", "todos",
    "exclamation", "filler", "profanity", "warnings", "dead", "unused", "code", "force", "real", "customer",
    "personal",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let mut all = text.directives().peekable();
    while let Some((directive, said)) = all.next() {
        if !said.modality.is_against() || said.alternative || !forbids_use(text, directive) {
            continue;
        }
        // The next sentence or item may say it.
        let next =
            all.peek().filter(|(next, _)| text.text()[directive.span.end..next.span.start].matches('\n').count() <= 2);
        if next.is_some_and(|(next, said)| next.words.contains("instead") || !next.item && said.modality.is_for()) {
            continue;
        }
        let message = "this forbids, but does not say what to use instead";
        let finding = text.finding(&INFO, directive.span.clone(), message).help("add what to use instead");
        findings.push(finding.on_request(!forbids_a_thing(context, text, directive)));
    }
}

/// Whether what is forbidden is a dependency or a command: then somebody will look for another one.
fn forbids_a_thing(context: &Context<'_, '_>, text: &Text, directive: &Directive) -> bool {
    let all = words(text.text(), directive.span.clone());
    let is_known = |words: &str| {
        let name = words.trim_matches(['`', '"', '.']).split(['.', '(', ' ']).next().unwrap_or_default();
        context.facts.names_thing(name)
    };
    all.iter().any(|word| is_known(text.words(&word.span)))
}

fn forbids_use(text: &Text, directive: &Directive) -> bool {
    let all = words(text.text(), directive.span.clone());
    let said = text.words(&directive.span);
    // A reason, an exception or a sentence more says enough.
    let more = [
        " because", " since ", "unless", "except", "outside", "instead", " without", " if ", " when ", " until",
        " only", ";", "—", " – ", ": ", " but ",
    ];
    let short = all.len() <= 9
        && !more.iter().any(|one| said.contains(one))
        && !said.trim_end_matches(['.', '!']).contains(". ");
    let verb = all.iter().position(|word| word.is(&["never", "don't", "not", "avoid"]));
    let uses = verb.is_some_and(|at| {
        let after = all.get(at + 1);
        after.is_some_and(|after| after.is(USING)) || all[at].is(&["avoid"]) && after.is_some_and(|after| after.code)
    });
    short && uses && !all.iter().any(|word| word.is(ENOUGH))
}
