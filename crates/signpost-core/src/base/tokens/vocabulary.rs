//! Counting with a public vocabulary.

/// Counts tokens with the public vocabulary `o200k` of 200,000 entries, which takes a moment to load.
pub fn exact(text: &str) -> usize {
    let vocabulary = tiktoken_rs::o200k_base_singleton();
    let mut tokens = 0;
    let mut start = 0;
    // No token spans a line break before a letter, so that a text can be counted in parts. A part is
    // limited all the same: one enormous word would take for ever, and nobody writes it.
    while start < text.len() {
        let mut end = floor(text, (start + LONGEST_COUNTED).min(text.len()));
        if end < text.len()
            && let Some(at) =
                text[start..end].match_indices('\n').map(|(at, _)| start + at + 1).rfind(|at| starts_word(&text[*at..]))
        {
            end = at;
        }
        tokens += vocabulary.encode_ordinary(&text[start..end]).len();
        start = end;
    }
    tokens
}

/// Bytes that are counted in one go.
const LONGEST_COUNTED: usize = 32_768;

fn starts_word(text: &str) -> bool {
    text.starts_with(|c: char| !c.is_whitespace())
}

fn floor(text: &str, mut at: usize) -> usize {
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

#[cfg(test)]
mod tests {
    use super::super::estimate;
    use super::*;

    #[test]
    fn the_estimate_is_near_the_count() {
        let text = include_str!("../../project/guidance.rs").repeat(3);
        let (estimate, exact) = (estimate(&text) as f64, exact(&text) as f64);
        assert!((estimate - exact).abs() / exact < 0.12, "{estimate} {exact}");
    }

    #[test]
    fn counting_in_parts_changes_nothing() {
        let text = "- Run `cargo test` before each commit.\n\n  Then push.\n".repeat(2_000);
        let whole = tiktoken_rs::o200k_base_singleton().encode_ordinary(&text).len();
        assert_eq!(exact(&text), whole);
        assert!(exact(&"x".repeat(200_000)) > 1_000);
    }
}
