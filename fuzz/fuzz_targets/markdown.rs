//! Any text may be Markdown that mentions files.
#![no_main]

use libfuzzer_sys::fuzz_target;
use signpost_core::profile::{Format, ReferenceSyntax};
use signpost_core::project::references::mentions;

fuzz_target!(|text: &str| {
    for format in [Format::Markdown, Format::Plain] {
        for mention in mentions(text, 0, format, &[ReferenceSyntax::AtPath, ReferenceSyntax::Link]) {
            assert!(text.get(mention.span).is_some());
        }
    }
});
