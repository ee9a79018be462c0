//! Any text may be a pattern, and any path may be tried on it.
#![no_main]

use libfuzzer_sys::fuzz_target;
use signpost_core::pattern::{Bare, Dialect, Pattern};

fuzz_target!(|input: (&str, &str)| {
    let (text, path) = input;
    for (braces, negate, bare) in [(true, true, Bare::AnyDepth), (false, false, Bare::Anchored)] {
        let dialect = Dialect { braces, negate, bare, ..Dialect::default() };
        match Pattern::parse(text, &dialect) {
            Ok(pattern) => {
                pattern.matches(path);
            }
            Err(error) => assert!(text.get(error.span.clone()).is_some()),
        }
    }
});
