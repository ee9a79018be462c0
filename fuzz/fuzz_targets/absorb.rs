//! Whatever is written into a published file is absorbed or refused; afterwards publishing keeps it and nothing is left
//! to do. The first bytes choose the file, and where and how it is edited.
#![no_main]
mod project;
use libfuzzer_sys::fuzz_target;
use signpost_core::change::absorb::absorb;
use signpost_core::project::lock::Lock;
use signpost_core::project::workspace::Workspace;

fuzz_target!(|data: &[u8]| {
    let [file, at, to, kind, rest @ ..] = data else { return };
    let texts = project::texts(rest);
    let (edit, rules) = texts.split_first().expect("a split has a part");
    let mut files = project::project(&rules[..rules.len().min(3)]);
    if project::publish(&mut files).is_none_or(|status| !status.refused.is_empty()) {
        return;
    }
    let Some(text) = files.get("signpost.lock") else { return };
    let mut lock = Lock::parse(text).expect("it was written by us");
    let path = lock.file[usize::from(*file) % lock.file.len()].path.to_string();
    let mut lines: Vec<&str> = files[&path].split_inclusive('\n').collect();
    let (at, to) = (usize::from(*at) % (lines.len() + 1), usize::from(*to) % 4);
    let end = (at + if kind & 1 == 0 { 0 } else { to }).min(lines.len());
    lines.splice(at..end, [*edit]);
    let edited = lines.concat();
    files.insert(path, edited);
    let before = files.clone();
    let done = absorb(&Workspace::open(&project::tree(&files), &[]).expect("it opens"), &[], &[], &|_, _| None)
        .expect("the project can be worked on");
    if !done.conflicts.is_empty() {
        assert!(done.rules.is_empty(), "one file was edited");
        return;
    }
    for rule in &done.rules {
        assert_eq!(files[rule.path.as_str()], rule.old);
        files.insert(rule.path.to_string(), rule.new.clone());
    }
    for (path, hash) in &done.files {
        lock.file.iter_mut().filter(|file| file.path == *path).for_each(|file| file.hash.clone_from(hash));
    }
    files.insert("signpost.lock".into(), lock.to_text());
    // The edit may have broken the rule's own header, which publishing then names.
    let Some(status) = project::publish(&mut files) else { return };
    assert!(status.refused.is_empty(), "{:?} {before:?} {files:?}", status.refused);
    assert!(project::publish(&mut files).is_some_and(|status| status.is_clean()), "{before:?} {files:?}");
    let again = absorb(&Workspace::open(&project::tree(&files), &[]).expect("it opens"), &[], &[], &|_, _| None)
        .expect("the project can be worked on");
    assert!(again.files.is_empty() && again.conflicts.is_empty(), "{before:?} {files:?}");
});
