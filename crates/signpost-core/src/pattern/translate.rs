//! From one dialect of patterns to another, and from one base to a folder above it.
//!
//! Publishing writes the guidance's patterns as each assistant reads them; adopting goes the other way. What
//! takes which files stays the same; only where a dialect has no words for something does a translation take
//! more, and says so.

use super::{Bare, Dialect, ListForm, Pattern, compile, split_commas};
use crate::base::repo_path::RepoPath;
use crate::pattern::escaped;

/// A pattern in another dialect.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct Translated {
    /// The patterns that together take the same files.
    pub words: Vec<String>,
    /// Whether braces had to be spelled out.
    pub spelled_out: bool,
    /// Whether something was written wider than meant, since the dialect has no words for it.
    pub wider: bool,
}

/// Writes a pattern of one dialect in another. `prefix` leads from the new base down to the one that the
/// pattern counts from. Negation is not looked at: a pattern that takes files out stays one without its `!`.
pub fn translate(text: &str, from: &Dialect, to: &Dialect, prefix: &RepoPath) -> Translated {
    let text = if from.negate { text.strip_prefix('!').unwrap_or(text) } else { text };
    let same = prefix.is_root() && from.braces == to.braces && from.bare == to.bare && safe(text, to);
    if same {
        return Translated { words: vec![text.to_owned()], ..Translated::default() };
    }
    let rest = text.strip_prefix("./").unwrap_or(text);
    let anchored = rest.starts_with('/');
    let rest = rest.strip_prefix('/').unwrap_or(rest);
    let any_depth = from.bare == Bare::AnyDepth && !anchored && !rest.contains('/');
    let mut done = Translated::default();
    let forms = match (from.braces, to.braces) {
        (true, false) if rest.contains('{') => {
            let forms = Pattern::spelled_out(rest);
            done.spelled_out = forms.len() != 1 || forms[0] != rest;
            forms
        }
        // What is a plain character there has a meaning here.
        (false, true) => vec![rest.replace('{', "[{]").replace('}', "[}]")],
        _ => vec![rest.to_owned()],
    };
    let above = if prefix.is_root() { String::new() } else { format!("{}/", escaped(prefix.as_str(), to)) };
    for form in forms.iter().filter(|form| !form.is_empty()) {
        let mut words = match (any_depth, above.is_empty()) {
            (true, true) if to.bare == Bare::AnyDepth && !form.contains('/') && safe(form, to) => form.clone(),
            (true, _) => format!("{above}**/{form}"),
            (false, _) => format!("{above}{form}"),
        };
        if !any_depth && !words.contains('/') && to.bare == Bare::AnyDepth || starts_oddly(&words, to) {
            words.insert(0, '/');
        }
        if to.list == ListForm::Comma {
            let (plain, wider) = without_commas(&words, to);
            words = plain;
            done.wider |= wider;
        }
        if !done.words.contains(&words) {
            done.words.push(words);
        }
    }
    done
}

/// Whether the words mean in this dialect what they say.
fn safe(text: &str, to: &Dialect) -> bool {
    !(to.negate && text.starts_with('!'))
        && (to.list != ListForm::Comma || !without_commas(text, to).1 && is_one_item(text, to))
}

/// Whether the front of a pattern would be taken off.
fn starts_oddly(text: &str, to: &Dialect) -> bool {
    text.starts_with("./")
        || text.starts_with('/')
        || to.negate && text.starts_with('!')
        || to.list == ListForm::Comma && text.starts_with(|c: char| matches!(c, '"' | '\'') || c.is_whitespace())
}

fn is_one_item(text: &str, to: &Dialect) -> bool {
    matches!(&split_commas(text, to)[..], [item] if *item == (0..text.len())) && !text.starts_with(['"', '\''])
}

/// A pattern that a comma-separated string can hold, and whether it takes more.
fn without_commas(text: &str, to: &Dialect) -> (String, bool) {
    let closed = |text: &str| match text.chars().last() {
        Some(last) if last.is_whitespace() => format!("{}[{last}]", &text[..text.len() - last.len_utf8()]),
        _ => text.to_owned(),
    };
    let text = closed(text);
    if split_commas(&text, to).len() <= 1 {
        return (text, false);
    }
    (compile::commas_as_any(&text, to.braces), true)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn path(text: &str) -> RepoPath {
        RepoPath::new(text).unwrap()
    }

    #[test]
    fn patterns_keep_their_meaning_in_another_dialect() {
        let guidance = Dialect { list: ListForm::Array, ..Dialect::default() };
        let plain = Dialect { list: ListForm::Comma, bare: Bare::Anchored, braces: false, negate: true };
        let words = |text: &str, prefix: &str| translate(text, &guidance, &plain, &path(prefix)).words;
        assert_eq!(words("*.{ts,tsx}", ""), ["**/*.ts", "**/*.tsx"]);
        assert_eq!(words("*.sql", "ledger"), ["ledger/**/*.sql"]);
        assert_eq!(words("/main.rs", ""), ["main.rs"]);
        assert_eq!(words("!odd", ""), ["**/!odd"]);
        assert_eq!(words("a,b/*", ""), ["a?b/*"]);
        assert_eq!(translate("src/", &guidance, &guidance, &path("a[b")).words, ["a[[]b/src/"]);
        assert_eq!(translate("*.{a,b}", &guidance, &guidance, &RepoPath::root()).words, ["*.{a,b}"]);
        let anchored = Dialect { bare: Bare::Anchored, ..guidance.clone() };
        assert_eq!(translate("x.md", &anchored, &guidance, &RepoPath::root()).words, ["/x.md"]);
    }
}
