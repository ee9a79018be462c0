use super::{is_concrete, is_fine};
use crate::check::text::phrase;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("wording/commonplace", Severity::Note, include_str!("commonplace.toml"));

const PHRASES: &[&str] = &[
    "best practices",
    "best practice",
    "clean code",
    "clean, readable",
    "clean and readable",
    "readable code",
    "maintainable code",
    "well-structured code",
    "meaningful variable names",
    "meaningful names",
    "descriptive variable names",
    "descriptive names",
    "write good code",
    "quality code",
    "bug-free",
    "you are an expert",
    "you are a senior",
    "you are an experienced",
    "world-class",
    "think step by step",
    "be helpful",
    "do your best",
    "industry standards",
    "industry standard",
    "production-ready code",
    "keep it simple",
    "don't repeat yourself",
    "do not repeat yourself",
    "solid principles",
    "dry principle",
    "kiss principle",
    "avoid code duplication",
    "write efficient code",
    "self-documenting code",
    "handle errors gracefully",
    "handle errors properly",
    "write tests for your code",
    "well-documented code",
    "idiomatic code",
    "easy to read",
    "easy to understand",
    "separation of concerns",
    "make sure the code works",
    "make sure your code works",
    "code should be readable",
    "be concise and clear",
    "follow the instructions",
    "follow instructions carefully",
    "write secure code",
    "avoid bugs",
    "modular code",
    "clear and concise",
];

/// The words of a directive that say nothing new.
pub(super) fn found(words: &str, context: &Context<'_, '_>) -> Option<Range<usize>> {
    let own = context.workspace.config.words.commonplace.iter().map(String::as_str);
    // What names something particular is no commonplace.
    let short = words.len() <= 140 && !is_concrete(words);
    phrase::first(words, PHRASES.iter().copied().chain(own)).filter(|_| short)
}

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for directive in &text.outline.directives {
        let words = text.words(&directive.span);
        let Some(found) = found(words, context) else { continue };
        if is_fine(context, &words[found.clone()]) || super::is_spoken_of(text, &directive.span) {
            continue;
        }
        // Only these words: the rest of the directive may say something.
        let span = directive.span.start + found.start..directive.span.start + found.end;
        let message = "any assistant does this without being told";
        findings.push(text.finding(&INFO, span, message).help("delete it, or say what is particular here"));
    }
}
