//! Any text may hold directives.
#![no_main]

use libfuzzer_sys::fuzz_target;
use signpost_core::directive::Outline;

fuzz_target!(|text: &str| {
    let outline = Outline::read(text, 0);
    let spans = outline.directives.into_iter().map(|one| one.span).chain(outline.code.into_iter().map(|one| one.span));
    let spans = spans.chain(outline.comments).chain(outline.links.into_iter().map(|one| one.span));
    for span in spans.chain(outline.sections.into_iter().map(|one| one.span)) {
        assert!(text.get(span).is_some());
    }
});
