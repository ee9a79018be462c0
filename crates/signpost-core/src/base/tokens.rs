//! What a text weighs, in tokens.
//!
//! An exact count needs a vocabulary of several megabytes that takes longer to load than most answers take
//! to give. The default is therefore an estimate that knows how vocabularies split text: a common word is
//! one token with the blank before it, a long word several, a run of punctuation about one for each two
//! characters. Figures of the estimate are shown with `≈`; `docs/weight.md` states its error.

#[cfg(feature = "exact")]
mod vocabulary;
#[cfg(feature = "exact")]
pub use vocabulary::exact;

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
}
