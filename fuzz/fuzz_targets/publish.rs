//! Publishing whatever rules hold changes nothing the second time.
#![no_main]
mod project;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let texts = project::texts(data);
    let mut files = project::project(&texts[..texts.len().min(4)]);
    let Some(first) = project::publish(&mut files) else { return };
    assert!(first.refused.is_empty() && first.abandoned.is_empty());
    let second = project::publish(&mut files).expect("it was published before");
    assert!(second.is_clean(), "{:?} {files:?}", second.pending().collect::<Vec<_>>());
});
