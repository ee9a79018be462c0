//! Any bytes may stand at the top of a file.
#![no_main]

use libfuzzer_sys::fuzz_target;
use signpost_core::header::{Header, HeaderStyle};

fuzz_target!(|text: &str| {
    for style in [HeaderStyle::None, HeaderStyle::Yaml, HeaderStyle::Toml] {
        let header = Header::read(text, style);
        assert!(text.is_char_boundary(header.body));
        for key in &header.keys {
            assert!(text.get(key.name_span.clone()).is_some());
            assert!(text.get(key.value_span.clone()).is_some());
        }
        for problem in &header.problems {
            assert!(text.get(problem.span.clone()).is_some());
        }
    }
});
