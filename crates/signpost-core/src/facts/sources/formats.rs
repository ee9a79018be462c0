//! What several sources need: lines of keys, JSON with comments, TOML.

/// The line, from 1, that holds the first of some words; 1 where none does.
pub(in crate::facts) fn line_with(text: &str, words: &str) -> usize {
    text.find(words).map_or(1, |at| text[..at].bytes().filter(|byte| *byte == b'\n').count() + 1)
}

/// The line of a key in TOML, JSON or YAML: the first that begins with it.
pub(in crate::facts) fn line_of_key(text: &str, key: &str) -> usize {
    let found = text.lines().position(|line| {
        let line = line.trim_start().trim_start_matches(['"', '\'']);
        line.strip_prefix(key).is_some_and(|rest| rest.trim_start_matches(['"', '\'', ' ']).starts_with([':', '=']))
    });
    found.map_or_else(|| line_with(text, &format!("\"{key}\"")), |at| at + 1)
}

/// JSON with comments and trailing commas, as settings are written.
pub(in crate::facts) fn json(text: &str) -> Option<serde_json::Value> {
    if let Ok(value) = serde_json::from_str(text) {
        return Some(value);
    }
    let mut plain = String::with_capacity(text.len());
    let mut rest = text;
    let mut quoted = false;
    while let Some(c) = rest.chars().next() {
        if quoted {
            let length =
                if c == '\\' { rest.char_indices().nth(2).map_or(rest.len(), |(at, _)| at) } else { c.len_utf8() };
            plain.push_str(&rest[..length]);
            quoted = c != '"';
            rest = &rest[length..];
        } else if rest.starts_with("//") {
            rest = &rest[rest.find('\n').unwrap_or(rest.len())..];
        } else if rest.starts_with("/*") {
            rest = &rest[rest.find("*/").map_or(rest.len(), |end| end + 2)..];
        } else {
            if matches!(c, '}' | ']') {
                let kept = plain.trim_end();
                if kept.ends_with(',') {
                    plain.truncate(kept.len() - 1);
                }
            }
            quoted = c == '"';
            plain.push(c);
            rest = &rest[c.len_utf8()..];
        }
    }
    serde_json::from_str(&plain).ok()
}

pub(in crate::facts) fn toml(text: &str) -> Option<toml::Table> {
    toml::from_str(text).ok()
}
