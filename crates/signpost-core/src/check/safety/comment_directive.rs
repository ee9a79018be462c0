use super::{
    Passage, PassageKind, Pattern, data_leaves, override_attempt, passages, remote_code, skips_approval, tongues,
};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::words::{VERBS, words};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("safety/comment-directive", Severity::Warning, include_str!("comment_directive.toml"));

struct Patterns {
    addresses: Pattern,
    note: Pattern,
    modal: Pattern,
}

static PATTERNS: Patterns = Patterns {
    addresses: Pattern::new(
        r"\b(ai|llm|assistants?|agents?|language models?|models?|bots?|chatbots?|copilots?)\b.{0,40}(:|,|\bmust\b|\bshould\b|\bshall\b|\bplease\b|\balways\b|\bnever\b|\bdo not\b|\bdon't\b|\bwill\b|\breading\b|\bare to\b)|\b(if|when) you('re| are) (an? )?(ai|llm|assistant|agent|language model|bot|reading)",
    ),
    note: Pattern::new(
        r"^\W*(todo|fixme|xxx|hack|prettier|markdownlint|eslint|stylelint|vale|cspell|textlint|dprint|spell|lint|toc|tocstop|start|begin|end|stop|doctoc|generated|auto-?generated|copyright|spdx|licen[cs]e|region|endregion|section|more|badges?|omit|no toc|author|last updated|updated|version|source|status|draft|wip|table of contents|all-contributors|template|html|markdown|note to (self|editors?|authors?|maintainers?|contributors?))\b|\b(this|the|these) (file|list|section|table|page|document|block|comment|heading|paragraph|order|anchor|image|badge|line|marker|diagram)s?\b|\b(below|above)\b|\bgenerated\b|\bmaintainers?\b|\bcontributors?\b|\beditors?\b|\b(keep|sort)\b.{0,30}\b(sorted|alphabetical|order|in sync|short|up to date)\b|\bdo not (edit|remove|delete|change)\b|\bdon't (edit|remove|delete|change)\b|\bwhen (we|the next|you) (release|bump|upgrade)\b|\bremove (this|once|when|after)\b",
    ),
    modal: Pattern::new(
        r"^\W*(please )?(you (must|should|shall|are to|will)|always|never|do not|don't|from now on|when(ever)? (you|asked|editing|writing|reviewing|generating|committing)|if (you|asked|the user)|before (you|each|every|committing)|after (you|each|every))\b",
    ),
};

pub(in crate::check) fn run(_: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for passage in passages(text).filter(|one| one.kind == PassageKind::Comment) {
        if is_directive(text, &passage) {
            let message = "this instruction stands in a comment, where people don't see it";
            findings.push(
                text.finding(&INFO, passage.span.clone(), message).help("write it where people see it, or delete it"),
            );
        }
    }
}

fn is_directive(text: &Text, passage: &Passage<'_>) -> bool {
    let low = passage.low;
    let all = &PATTERNS;
    let harmful = override_attempt::found(text, passage).is_some()
        || data_leaves::found(text, passage)
        || remote_code::found(text, passage)
        || skips_approval::found(text, passage).is_some();
    if harmful || all.addresses.is_match(low) {
        return true;
    }
    if tongues::obliges(low) {
        return true;
    }
    // What a linter is told ends at two dashes; what follows is for somebody else.
    if let Some((_, rest)) = low.split_once(" -- ") {
        return rest.split_whitespace().count() > 5
            && [" you ", "always ", "never ", " add ", "must "].iter().any(|word| rest.contains(word));
    }
    if all.note.is_match(low) {
        return false;
    }
    let said = super::bounded(super::inside(text.words(&passage.span)));
    let plain = words(said, 0..said.len());
    let verb = plain.first().is_some_and(|first| {
        first.is(VERBS) && !first.is(&["see", "note", "start", "end", "begin", "list", "state", "view", "type"])
    });
    plain.len() >= 3 && (verb || all.modal.is_match(low))
}
