//! Rules that do not agree, or say the same.

pub(super) mod contradiction;
pub(super) mod diverged;
pub(super) mod repeated;
pub(super) mod rival_summaries;

/// Some words, shortened to fit into a message.
fn quoted(words: &str) -> String {
    let plain = words.split_whitespace().collect::<Vec<_>>().join(" ");
    match plain.char_indices().nth(70) {
        Some((at, _)) => format!("“{}…”", plain[..at].trim_end()),
        None => format!("“{}”", plain.trim_end_matches(['.', ' '])),
    }
}
