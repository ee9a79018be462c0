use crate::base::wording::shorten;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::pattern::PatternErrorKind;
use crate::project::rule::PatternItem;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("scope/invalid-pattern", Severity::Error, include_str!("invalid_pattern.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for assistant in &context.survey.assistants {
        for rule in &assistant.rules {
            for item in rule.scope.paths.items.iter().chain(&rule.scope.except.items) {
                let Err(error) = &item.pattern else { continue };
                let help = match error.kind {
                    PatternErrorKind::Empty => "remove it, or write `**` for every file".to_owned(),
                    PatternErrorKind::UnclosedClass => "add the `]`; a class may not hold `/`".to_owned(),
                    PatternErrorKind::TurnedRange => "write the lower character first".to_owned(),
                    PatternErrorKind::UnclosedBrace => "add the `}`".to_owned(),
                    PatternErrorKind::StrayBrace => "remove it, or add the `{`".to_owned(),
                    PatternErrorKind::TooMany => "write several patterns with fewer braces".to_owned(),
                };
                let name = &assistant.profile.name;
                let message = format!("`{}` takes no file: {error}", shorten(&item.text, 60));
                let span = exact(&rule.document.text, item, &error.span);
                findings.push(Finding::in_rule(&INFO, name, rule, span, message).help(help));
            }
        }
    }
}

/// The bytes at fault inside of the pattern, where it stands in the file as it was read.
fn exact(text: &str, item: &PatternItem, fault: &Range<usize>) -> Range<usize> {
    let raw = &text[item.span.clone()];
    match raw.find(&item.text) {
        Some(at) if !item.text.is_empty() => item.span.start + at + fault.start..item.span.start + at + fault.end,
        _ => item.span.clone(),
    }
}
