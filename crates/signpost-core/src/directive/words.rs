//! Words: a directive cut into what carries meaning.

use rustc_hash::FxHashSet;
use std::ops::Range;
use std::sync::OnceLock;

/// What stands between a word and the one before it.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug, Default)]
pub enum Sep {
    /// A blank, or nothing.
    #[default]
    None,
    /// An opening or closing bracket.
    Bracket,
    /// A comma.
    Comma,
    /// A colon.
    Colon,
    /// A dash or an arrow.
    Dash,
    /// A semicolon.
    Semicolon,
    /// The end of a sentence.
    Stop,
}

/// One word, or one code span.
#[derive(Clone, Debug, PartialEq)]
pub struct Word {
    /// In lower case; of code the text itself.
    pub low: String,
    /// Without its ending, so that forms of one word are the same; of code the text between backticks,
    /// unless it is a plain name.
    pub stem: String,
    /// The bytes in the file.
    pub span: Range<usize>,
    /// Whether it is code.
    pub code: bool,
    /// Whether it began with a capital.
    pub capital: bool,
    /// Whether it goes on the word before (after a hyphen or slash).
    pub joined: bool,
    /// What stands before it.
    pub sep: Sep,
}

impl Word {
    /// Whether it is one of some words.
    pub fn is(&self, words: &[&str]) -> bool {
        !self.code && words.contains(&self.low.as_str())
    }
}

/// Cuts a part of a file into words. Markup, link targets and comments are left out.
pub fn words(text: &str, span: Range<usize>) -> Vec<Word> {
    let mut found: Vec<Word> = Vec::new();
    let part = &text[span.clone()];
    let bytes = part.as_bytes();
    let (mut at, mut sep) = (0, Sep::None);
    while at < bytes.len() {
        let rest = &part[at..];
        let c = rest.chars().next().unwrap_or(' ');
        if c == '`' {
            let ticks = rest.bytes().take_while(|byte| *byte == b'`').count();
            let close = rest[ticks..].find(&rest[..ticks]).map(|close| ticks + close);
            if let Some(close) = close {
                let inner = rest[ticks..close].trim();
                if !inner.is_empty() {
                    let from = span.start + at;
                    let length = close + ticks;
                    found.push(code(inner, from..from + length, std::mem::take(&mut sep)));
                }
                at += close + ticks;
            } else {
                at += ticks;
            }
        } else if let Some(inside) = rest.strip_prefix("<!--") {
            at += inside.find("-->").map_or(rest.len(), |end| 4 + end + 3);
        } else if rest.starts_with("](") {
            at += rest.find(')').map_or(2, |end| end + 1);
        } else if is_word(c) {
            let end = rest.char_indices().find(|(_, c)| !is_word(*c)).map_or(rest.len(), |(end, _)| end);
            let end = thousands(rest, end);
            let raw = &rest[..end];
            let kept = raw.trim_end_matches(['.', '\'', '’', '!', '?', '/', '-', '_', '&']);
            let kept = if raw[kept.len()..].starts_with('/') { &raw[..=kept.len()] } else { kept };
            let from = kept.len() - kept.trim_start_matches(['.', '\'', '’', '-', '_', '&', '!', '?']).len();
            // A file ending keeps its dot.
            let from = if kept[..from].ends_with('.') && kept.len() > from { from - 1 } else { from };
            if kept.len() > from {
                split(&kept[from..], span.start + at + from, std::mem::take(&mut sep), &mut found);
            }
            let tail = &raw[kept.len()..];
            if tail.contains(['.', '!', '?']) && part[at + end..].chars().next().is_none_or(char::is_whitespace) {
                sep = sep.max(Sep::Stop);
            } else if kept.len() <= from && raw.chars().all(|c| c == '-') {
                sep = sep.max(Sep::Dash);
            }
            at += end;
        } else {
            sep = sep.max(match c {
                ',' => Sep::Comma,
                ';' => Sep::Semicolon,
                ':' => Sep::Colon,
                '—' | '–' | '→' | '⇒' => Sep::Dash,
                '(' | ')' | '[' | ']' => Sep::Bracket,
                '=' if rest.starts_with("=>") => Sep::Dash,
                '\n' if rest[1..].trim_start_matches([' ', '\t']).starts_with('\n') => Sep::Stop,
                _ => Sep::None,
            });
            if matches!(c, '<' | '>' | '≤' | '≥') {
                let length = c.len_utf8() + usize::from(rest[c.len_utf8()..].starts_with('='));
                let from = span.start + at;
                if rest[length..].trim_start().starts_with(|c: char| c.is_ascii_digit()) {
                    found.push(plain(&rest[..length], from..from + length, std::mem::take(&mut sep), false));
                }
                at += length;
            } else {
                at += c.len_utf8();
            }
        }
    }
    found
}

/// A comma between digits groups thousands.
fn thousands(rest: &str, end: usize) -> usize {
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    if digits(&rest[..end]) && rest[end..].starts_with(',') {
        let group: &str = rest.get(end + 1..end + 4).unwrap_or_default();
        let goes_on = rest.get(end + 4..).is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_digit()));
        if digits(group) && !goes_on {
            return end + 4;
        }
    }
    end
}

fn is_word(c: char) -> bool {
    c.is_alphanumeric()
        || matches!(c, '\'' | '’' | '_' | '-' | '/' | '.' | '+' | '#' | '@' | '$' | '%' | '&' | '!' | '?')
}

fn code(inner: &str, span: Range<usize>, sep: Sep) -> Word {
    let name = inner.trim_start_matches('.').trim_end_matches("()").trim_end_matches('!');
    let is_name = name.len() > 1
        && name.chars().all(|c| c.is_alphanumeric() || c == '_' || c == '-')
        && name.starts_with(char::is_alphabetic);
    let stem = if is_name { stem(&name.to_lowercase()) } else { format!("`{}`", inner.to_lowercase()) };
    Word { low: inner.to_owned(), stem, span, code: true, capital: false, joined: false, sep }
}

fn plain(raw: &str, span: Range<usize>, sep: Sep, joined: bool) -> Word {
    let low = raw.to_lowercase().replace('’', "'");
    let capital = raw.starts_with(char::is_uppercase);
    let stem = stem(low.strip_suffix("'s").unwrap_or(&low));
    Word { low, stem, span, code: false, capital, joined, sep }
}

/// A word with hyphens or slashes is several, unless it is a path or a version.
fn split(raw: &str, start: usize, sep: Sep, found: &mut Vec<Word>) {
    let lettered = |part: &str| part.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '\'' | '’' | '#' | '+'));
    let parts: Vec<&str> = raw.split(['-', '/']).collect();
    let path = raw.contains('/') && (raw.contains('.') || raw.ends_with('/') || parts.len() > 2);
    if parts.len() > 1 && !path && parts.iter().all(|part| !part.is_empty() && lettered(part)) {
        let mut at = start;
        for (number, part) in parts.iter().enumerate() {
            let own = if number == 0 { sep } else { Sep::None };
            found.push(plain(part, at..at + part.len(), own, number > 0));
            at += part.len() + 1;
        }
    } else {
        found.push(plain(raw, start..start + raw.len(), sep, false));
    }
}

/// A word without its ending. Crude, but the same for the forms that matter: plurals, `-ing`, `-ed`, `-e`.
pub fn stem(word: &str) -> String {
    if word.len() < 3 || !word.chars().all(|c| c.is_alphabetic() || c == '\'') {
        return word.to_owned();
    }
    let has_vowel = |text: &str| text.contains(['a', 'e', 'i', 'o', 'u', 'y']);
    let mut base = word;
    if let Some(rest) = base.strip_suffix("ies").filter(|rest| rest.len() > 2) {
        return format!("{rest}y");
    }
    if ["ses", "xes", "zes", "ches", "shes"].iter().any(|end| base.ends_with(end)) {
        base = &base[..base.len() - 2];
    } else if base.ends_with('s')
        && !base.ends_with("ss")
        && !base.ends_with("us")
        && !base.ends_with("is")
        && base.len() > 3
    {
        base = &base[..base.len() - 1];
    }
    for ending in ["ing", "ed"] {
        if let Some(rest) = base.strip_suffix(ending).filter(|rest| rest.len() > 2 && has_vowel(rest)) {
            let mut letters = rest.chars().rev();
            let doubled = letters.next() == letters.next() && !rest.ends_with(['s', 'l', 'z', 'f', 'd']);
            base =
                if doubled { &rest[..rest.len() - rest.chars().next_back().map_or(0, char::len_utf8)] } else { rest };
            break;
        }
    }
    base.strip_suffix('e').filter(|rest| rest.len() > 1).unwrap_or(base).to_owned()
}

/// Some words by their stems.
pub(super) struct StemSet {
    words: &'static [&'static str],
    without: &'static [&'static str],
    stems: OnceLock<FxHashSet<String>>,
}

impl StemSet {
    /// The stems of these words.
    pub const fn new(words: &'static [&'static str]) -> Self {
        StemSet::without(words, &[])
    }

    /// The stems of these words, but for some.
    pub const fn without(words: &'static [&'static str], without: &'static [&'static str]) -> Self {
        StemSet { words, without, stems: OnceLock::new() }
    }

    /// Whether a stem is one of them.
    pub fn has(&self, one: &str) -> bool {
        let stems = || self.words.iter().filter(|word| !self.without.contains(word)).map(|word| stem(word)).collect();
        self.stems.get_or_init(stems).contains(one)
    }
}

/// Words that carry no meaning of their own.
pub const STOP: &[&str] = &[
    "a", "an", "the", "and", "or", "to", "of", "in", "on", "for", "with", "by", "at", "as", "is", "are", "be", "been",
    "was", "were", "your", "our", "their", "its", "my", "you", "we", "they", "i", "any", "all", "every", "each",
    "both", "some", "from", "into", "than", "then", "also", "just", "very", "really", "please", "always", "strictly",
    "everywhere", "anywhere", "here", "there", "project", "codebase", "repository", "repo", "code", "directly", "new",
    "when", "which", "who", "will", "would", "only", "exclusively", "instead", "should", "must", "shall", "do", "does",
    "have", "has", "had", "via", "through", "using", "ever", "whatsoever", "possible", "that", "same", "kindly",
    "important", "note", "consistently", "explicitly", "whole", "entire", "either", "over", "too", "well", "so", "up",
    "out", "about", "across", "throughout", "own", "generally", "usually", "simply", "still", "freely", "liberally",
    "whenever", "wherever", "but", "not", "one's", "per", "if", "under",
];

/// Verbs that say no more than that a thing is used, so that `use x`, `write x` and `add x` are the same.
pub const LIGHT: &[&str] = &[
    "use", "using", "used", "uses", "write", "written", "writing", "add", "adding", "added", "include", "including",
    "put", "keep", "have", "having", "make", "insert", "provide", "prefer", "choose", "employ", "utilize", "utilise",
    "adopt", "go", "stick", "opt", "apply", "follow", "give", "ensure", "enforce", "require", "needs", "need", "call",
    "run", "running", "execute", "invoke", "default", "place", "set", "indent", "format", "rely", "pick", "introduce",
    "implement", "stay", "favor", "favour", "work",
];

/// Verbs that instructions begin with.
pub const VERBS: &[&str] = &[
    "abort", "accept", "access", "add", "adopt", "align", "allow", "annotate", "append", "apply", "approve", "ask",
    "assert", "assign", "assume", "attach", "audit", "base", "batch", "begin", "branch", "break", "bump", "build",
    "cache", "call", "catch", "change", "check", "choose", "cite", "clean", "clear", "close", "collect", "comment",
    "commit", "compare", "compile", "compress", "configure", "confirm", "consider", "consult", "convert", "copy",
    "cover", "create", "cut", "debug", "declare", "decode", "default", "define", "delegate", "delete", "deploy",
    "derive", "describe", "design", "destructure", "disable", "discuss", "dispose", "divide", "document", "download",
    "drop", "edit", "emit", "enable", "encode", "end", "enforce", "ensure", "escape", "evaluate", "exclude", "execute",
    "expect", "explain", "export", "expose", "extend", "extract", "fail", "fetch", "fill", "find", "finish", "fix",
    "follow", "force", "format", "generate", "get", "give", "go", "group", "guard", "handle", "hide", "hold",
    "identify", "ignore", "implement", "import", "improve", "include", "increment", "indent", "inherit", "initialize",
    "inject", "inline", "insert", "inspect", "install", "introduce", "invoke", "isolate", "keep", "label", "launch",
    "lay", "leave", "let", "limit", "link", "lint", "list", "load", "localize", "lock", "log", "look", "maintain",
    "make", "mark", "match", "measure", "mention", "merge", "migrate", "minimize", "mock", "modify", "move", "name",
    "normalize", "note", "notify", "number", "open", "optimize", "order", "organize", "override", "parse", "pass",
    "paste", "perform", "pick", "pin", "place", "post", "prefer", "prefix", "preserve", "print", "profile",
    "propagate", "propose", "protect", "provide", "publish", "pull", "push", "put", "query", "quote", "raise", "read",
    "rebase", "rebuild", "record", "reduce", "refactor", "refer", "reference", "refuse", "regenerate", "register",
    "reject", "release", "reload", "rely", "remember", "remove", "rename", "render", "replace", "reply", "report",
    "request", "require", "reset", "resolve", "respect", "respond", "restart", "restore", "retry", "return", "reuse",
    "revert", "review", "rewrite", "roll", "round", "run", "sanitize", "save", "say", "scan", "schedule", "search",
    "select", "send", "separate", "serve", "set", "share", "ship", "show", "sign", "simplify", "skip", "sort",
    "specify", "split", "squash", "stage", "start", "state", "stay", "stick", "stop", "store", "stub", "submit",
    "suggest", "summarize", "supply", "support", "suppress", "switch", "tag", "take", "target", "tell", "terminate",
    "test", "think", "throw", "tidy", "touch", "trace", "track", "translate", "treat", "trim", "trust", "try", "turn",
    "type", "unwrap", "update", "upgrade", "upload", "use", "validate", "verify", "version", "view", "wait", "walk",
    "warn", "watch", "work", "wrap", "write", "omit", "avoid", "employ", "quote", "retain", "favor", "favour", "stop",
    "hash", "encrypt", "bundle", "seed", "spell", "capitalize", "shorten", "leave",
];

/// The number that a word spells.
pub fn number(word: &str) -> Option<f64> {
    let named =
        ["zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
    if let Some(at) = named.iter().position(|name| *name == word) {
        return Some(at as f64);
    }
    let digits = word.trim_end_matches(['%', '+']).replace(',', "");
    digits.starts_with(|c: char| c.is_ascii_digit()).then(|| digits.parse().ok()).flatten()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stems(text: &str) -> Vec<String> {
        words(text, 0..text.len()).into_iter().map(|word| word.stem).collect()
    }

    #[test]
    fn forms_of_a_word_are_the_same() {
        for forms in [
            &["quote", "quotes", "quoted", "quoting"][..],
            &["commit", "commits", "committing", "committed"],
            &["class", "classes"],
            &["dependency", "dependencies"],
            &["name", "names", "naming", "named"],
            &["string", "strings"],
            &["tab", "tabs"],
        ] {
            assert!(forms.iter().all(|form| stem(form) == stem(forms[0])), "{forms:?}");
        }
    }

    #[test]
    fn markup_is_left_out_and_code_kept() {
        assert_eq!(stems("**Never** use `.unwrap()` in [tests](a/b.md)!"), ["never", "us", "unwrap", "in", "test"]);
        assert_eq!(stems("4-space kebab-case, `npm test`"), ["4", "spac", "kebab", "cas", "`npm test`"]);
        assert_eq!(
            stems("a/b.md and/or v3.11 10,000 x <!-- y --> z"),
            ["a/b.md", "and", "or", "v3.11", "10,000", "x", "z"]
        );
    }

    #[test]
    fn separators_are_kept() {
        let all = words("Use a, not b; c: d. E", 0..21);
        let seps: Vec<Sep> = all.iter().map(|word| word.sep).collect();
        assert_eq!(seps, [Sep::None, Sep::None, Sep::Comma, Sep::None, Sep::Semicolon, Sep::Colon, Sep::Stop]);
    }
}
