//! Any two texts are held against each other, and what tells is words of theirs.
#![no_main]

use libfuzzer_sys::fuzz_target;
use signpost_core::directive::reading::compare::compare;
use signpost_core::directive::reading::{Reading, lexicon::Lexicon};

fuzz_target!(|text: &str| {
    let (one, other) = text.split_once('\n').unwrap_or((text, text));
    let read = |words: &str| Reading::all(words, &[], false, Lexicon::built_in());
    for (one, other) in [(one, other), (other, one)] {
        let Some(verdict) = compare(&read(one), &read(other)) else { continue };
        for (text, (start, end)) in [one, other].into_iter().zip(verdict.words) {
            assert!(text.get(start as usize..end as usize).is_some());
        }
    }
});
