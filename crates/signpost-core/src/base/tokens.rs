//! What a text weighs, in tokens.
//!
//! An exact count needs a vocabulary of several megabytes that takes longer to load than most answers take
//! to give. The default is therefore an estimate that knows how vocabularies split text: a common word is
//! one token with the blank before it, a long word several, a run of punctuation about one for each two
//! characters. Figures of the estimate are shown with `≈`; `docs/weight.md` states its error.

/// A way to count tokens.
pub type Weigher = fn(&str) -> usize;

/// Estimates how many tokens a text has.
pub fn estimate(text: &str) -> usize {
    let mut hundredths = 0usize;
    let mut rest = text.chars().peekable();
    while let Some(&first) = rest.peek() {
        let mut run = |same: &dyn Fn(char) -> bool| {
            let mut length = 0;
            let mut upper = 0;
            while let Some(c) = rest.peek().copied().filter(|c| same(*c)) {
                // `camelCase` splits at its humps.
                if length > 0 && c.is_ascii_uppercase() && upper < length {
                    break;
                }
                upper += usize::from(c.is_ascii_uppercase());
                length += 1;
                rest.next();
            }
            (length, upper)
        };
        hundredths += if first.is_ascii_alphabetic() {
            let (length, upper) = run(&|c| c.is_ascii_alphabetic());
            word(length, upper)
        } else if first.is_ascii_digit() {
            run(&|c| c.is_ascii_digit()).0.div_ceil(3) * 140
        } else if first == '\n' || first == '\r' {
            run(&|c| c == '\n' || c == '\r');
            79
        } else if first.is_whitespace() {
            let (length, _) = run(&|c| c.is_whitespace() && c != '\n' && c != '\r');
            if length > 1 { 76 } else { 0 }
        } else if first.is_ascii() {
            // Control characters too: each branch takes at least the character that led to it.
            let (length, _) = run(&|c| c.is_ascii() && !c.is_ascii_alphanumeric() && !c.is_whitespace());
            if length == 1 { 75 } else { 38 + length.min(40) * 19 + length.saturating_sub(40) * 4 }
        } else if first.is_alphabetic() {
            let (length, _) = run(&|c| !c.is_ascii() && c.is_alphabetic());
            if first as u32 >= 0x2E80 { length * 85 } else { length * 45 }
        } else {
            let (length, _) = run(&|c| !c.is_ascii() && !c.is_alphabetic());
            if first as u32 >= 0xE0000 { length * 300 } else { length * 140 }
        };
    }
    hundredths.div_ceil(100)
}

/// Hundredths of a token for a run of letters. All weights here were fitted to counts of the vocabulary
/// `o200k` on a thousand Markdown files.
fn word(length: usize, upper: usize) -> usize {
    if upper > 1 {
        // Shouted words are rarely in a vocabulary.
        return 40 + length * 10;
    }
    match length {
        0..=7 => 102,
        8..=11 => 147,
        _ => 80 + (length - 11) * 32,
    }
}

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
    use super::*;

    #[test]
    fn common_words_weigh_about_one_token_each() {
        assert_eq!(estimate(""), 0);
        assert_eq!(estimate("Run the tests before each push"), 7);
        assert!((8..=14).contains(&estimate("Use `cargo test` and `cargo fmt`.")));
        assert!(estimate(&"x".repeat(10_000)) > 500);
    }

    #[test]
    fn the_estimate_is_near_the_count() {
        let text = include_str!("../../../../README.md").repeat(3);
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
