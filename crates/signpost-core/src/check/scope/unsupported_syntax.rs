use super::idle;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::pattern::Dialect;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("scope/unsupported-syntax", Severity::Error, include_str!("unsupported_syntax.toml"));

/// What a pattern uses that the dialect does not know, and what to write.
pub(super) fn unsupported(text: &str, dialect: &Dialect) -> Option<(&'static str, String)> {
    let closes = |open: usize| text[open..].contains('}');
    if !dialect.braces && text.find('{').is_some_and(|open| closes(open) && text[open..].contains(',')) {
        return Some(("braces", format!("write one pattern for each alternative: {}", spelled_out(text))));
    }
    if !dialect.negate && text.starts_with('!') {
        return Some(("a leading `!`", "this assistant takes no files out so; name what the rule is about".to_owned()));
    }
    let extended = ["@(", "+(", "?(", "*(", "!("].iter().any(|open| text.contains(open)) && text.contains(')');
    if extended {
        return Some(("alternatives in round brackets", "write one pattern for each alternative".to_owned()));
    }
    let regular = text.starts_with('^')
        || text.ends_with('$')
        || text.contains("\\.")
        || text.contains(".*") && !text.contains("**") && !text.contains("/.*");
    if regular || text.contains('(') && text.contains('|') {
        return Some(("a regular expression", "write it as a path with `*` and `**`".to_owned()));
    }
    if text.contains('\\') {
        return Some(("backslashes", format!("write `{}`", text.replace('\\', "/"))));
    }
    if text.split('/').any(|part| part == "..") {
        return Some(("`..`", "a pattern can't leave its folder; move the rule to a folder above".to_owned()));
    }
    if text.starts_with("~/") || text.contains('$') {
        return Some(("a folder outside of the project", "patterns count from a folder of the project".to_owned()));
    }
    None
}

fn spelled_out(text: &str) -> String {
    let (Some(open), Some(close)) = (text.find('{'), text.find('}')) else { return format!("`{text}`") };
    if close < open {
        return format!("`{text}`");
    }
    let each = text[open + 1..close]
        .split(',')
        .take(8)
        .map(|one| format!("`{}{}{}`", &text[..open], one.trim(), &text[close + 1..]));
    each.collect::<Vec<_>>().join(", ")
}

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for one in idle(context) {
        let dialect = &one.rule.place_in(one.profile).dialect;
        let Some((what, help)) = unsupported(&one.item.text, dialect) else { continue };
        let message = format!("`{}` takes no file: {} does not know {what}", one.item.text, one.profile.title);
        findings.push(Finding::in_rule(&INFO, &one.profile.name, one.rule, one.item.span.clone(), message).help(help));
    }
}
