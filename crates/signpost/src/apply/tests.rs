//! What is on disk after a run, after one that could not go on, and after the next.

#![allow(clippy::unwrap_used)]

use super::*;
use signpost_core::project::lock::LockedFile;
use std::os::unix::fs::{PermissionsExt, symlink};
use tempfile::TempDir;

const ALONE: Guard = Guard { _file: None };

fn change(path: &str, old: Option<&str>, new: Option<&str>) -> Change {
    let step = match (old, new) {
        (None, _) => Step::Create,
        (_, None) => Step::Remove,
        _ => Step::Update,
    };
    Change {
        path: RepoPath::new(path).unwrap(),
        old: old.map(|text| text.as_bytes().to_vec()),
        old_link: None,
        new: new.map(|text| Content::Text(text.to_owned())),
        step,
    }
}

fn lock(files: &[(&str, &str)]) -> Lock {
    let locked = |(path, text): &(&str, &str)| LockedFile {
        path: RepoPath::new(path).unwrap(),
        hash: hash(text.as_bytes()),
        ..LockedFile::default()
    };
    Lock { file: files.iter().map(locked).collect(), ..Lock::default() }
}

/// A folder with files in it, and the status that leads from them to others.
fn prepared(old: &[(&str, &str)], new: &[(&str, &str)]) -> (TempDir, Status) {
    let folder = tempfile::tempdir().unwrap();
    for (path, text) in old {
        let file = folder.path().join(path);
        fs::create_dir_all(file.parent().unwrap()).unwrap();
        fs::write(file, text).unwrap();
    }
    let find = |all: &[(&str, &str)], path: &str| all.iter().find(|one| one.0 == path).map(|one| one.1.to_owned());
    let mut paths: Vec<&str> = old.iter().chain(new).map(|one| one.0).collect();
    paths.sort_unstable();
    paths.dedup();
    let changes = paths.iter().map(|path| change(path, find(old, path).as_deref(), find(new, path).as_deref()));
    let status = Status { changes: changes.collect(), lock: lock(new), old_lock: lock(old), ..Status::default() };
    (folder, status)
}

/// A file outside of every project.
fn outside() -> PathBuf {
    std::env::temp_dir().join(format!("signpost-outside-{}", std::process::id()))
}

/// All files below a folder, the lock left out.
fn files(folder: &Path) -> Vec<(String, String)> {
    let (mut found, mut open) = (Vec::new(), vec![folder.to_path_buf()]);
    while let Some(at) = open.pop() {
        for entry in fs::read_dir(at).unwrap() {
            let path = entry.unwrap().path();
            let name = path.strip_prefix(folder).unwrap().to_string_lossy().into_owned();
            if path.is_dir() && !path.is_symlink() {
                open.push(path);
            } else if name != LOCK_FILE {
                found.push((name, fs::read_to_string(path).unwrap_or_default()));
            }
        }
    }
    found.sort();
    found
}

fn owned(files: &[(&str, &str)]) -> Vec<(String, String)> {
    files.iter().map(|(path, text)| ((*path).to_owned(), (*text).to_owned())).collect()
}

fn lock_on_disk(folder: &Path) -> Lock {
    Lock::parse(&fs::read_to_string(folder.join(LOCK_FILE)).unwrap()).unwrap()
}

#[test]
fn files_are_created_replaced_and_removed() {
    let new = [("a.md", "new a"), ("deep/down/c.md", "c")];
    let (folder, status) = prepared(&[("a.md", "old a"), ("gone/b.md", "b")], &new);
    apply(folder.path(), &status, &ALONE).unwrap();
    assert_eq!(files(folder.path()), owned(&new));
    assert!(!folder.path().join("gone").exists(), "a folder that holds nothing else goes too");
    assert_eq!(lock_on_disk(folder.path()), status.lock);
    // Nothing left to write: the lock goes, too, where it would be empty.
    let (folder, status) = prepared(&[("a.md", "a")], &[]);
    fs::write(folder.path().join(LOCK_FILE), status.old_lock.to_text()).unwrap();
    apply(folder.path(), &status, &ALONE).unwrap();
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 0);
}

/// Each way in which one file of three can't be written: what is done is whole, what is not is as it was, and the lock
/// knows both, so that the next run knows all of it for its own.
#[test]
fn a_run_that_cannot_go_on_leaves_everything_whole() {
    let old = [("a.md", "old a"), ("m/b.md", "old b"), ("z.md", "old z")];
    let new = [("a.md", "new a"), ("m/b.md", "new b"), ("z.md", "new z")];
    type Break = fn(&Path);
    let ways: [(&str, Break); 3] = [
        ("somebody else has changed it meanwhile", |root| fs::write(root.join("m/b.md"), "by hand").unwrap()),
        ("it is no regular file", |root| {
            fs::remove_file(root.join("m/b.md")).unwrap();
            fs::create_dir(root.join("m/b.md")).unwrap();
            fs::write(root.join("m/b.md/x"), "").unwrap();
        }),
        ("it is a link that leads out of the project", |root| {
            let outside = outside();
            fs::remove_file(root.join("m/b.md")).unwrap();
            fs::write(&outside, "old b").unwrap();
            symlink(&outside, root.join("m/b.md")).unwrap();
        }),
    ];
    for (number, (words, harm)) in ways.iter().enumerate() {
        let (folder, status) = prepared(&old, &new);
        let root = folder.path().canonicalize().unwrap();
        harm(&root);
        let before = files(&root);
        let Err(Failure::Told(message, Some(help))) = apply(&root, &status, &ALONE) else { panic!("{number}") };
        assert!(message.contains("cannot write m/b.md") && message.contains(words), "{number}: {message}");
        assert!(help.contains("what is written so far is whole"), "{help}");
        let after = files(&root);
        let text = |all: &[(String, String)], path: &str| all.iter().find(|one| one.0 == path).map(|one| one.1.clone());
        assert_eq!(text(&after, "a.md").as_deref(), Some("new a"), "{number}");
        assert_eq!(text(&after, "z.md").as_deref(), Some("old z"), "{number}");
        assert_eq!(text(&after, "m/b.md"), text(&before, "m/b.md"), "{number}");
        let known = lock_on_disk(&root);
        for (path, was, is) in [("a.md", "old a", "new a"), ("m/b.md", "old b", "new b"), ("z.md", "old z", "new z")] {
            let file = known.file.iter().find(|file| file.path.as_str() == path).unwrap();
            assert_eq!(
                (&file.hash, file.was.as_ref()),
                (&hash(is.as_bytes()), Some(&hash(was.as_bytes()))),
                "{number}"
            );
        }
        assert!(!after.iter().any(|(path, _)| path.contains(ON_THE_WAY)), "{number}: {after:?}");
    }
    fs::remove_file(outside()).unwrap();
}

#[test]
fn nothing_new_is_written_through_a_link() {
    let (folder, status) = prepared(&[("elsewhere/x.md", "x")], &[("elsewhere/x.md", "x"), ("m/b.md", "b")]);
    symlink("elsewhere", folder.path().join("m")).unwrap();
    let Err(Failure::Told(message, _)) = apply(folder.path(), &status, &ALONE) else { panic!() };
    assert!(message.contains("m is a link, and nothing is written through links"), "{message}");
    assert_eq!(fs::read_dir(folder.path().join("elsewhere")).unwrap().count(), 1);
}

#[test]
fn a_name_that_the_system_refuses_is_named() {
    let long = format!("{}.md", "n".repeat(300));
    let (folder, status) = prepared(&[], &[("a.md", "a"), (&long, "x")]);
    let Err(Failure::Told(message, _)) = apply(folder.path(), &status, &ALONE) else { panic!() };
    assert!(message.contains("cannot write nnn") && message.to_lowercase().contains("too long"), "{message}");
    assert_eq!(files(folder.path()), owned(&[("a.md", "a")]));
}

#[test]
fn a_lock_that_cannot_be_written_stops_before_anything_else() {
    let (folder, status) = prepared(&[("a.md", "old")], &[("a.md", "new")]);
    fs::create_dir(folder.path().join(LOCK_FILE)).unwrap();
    fs::write(folder.path().join(LOCK_FILE).join("x"), "").unwrap();
    let Err(Failure::Told(message, Some(help))) = apply(folder.path(), &status, &ALONE) else { panic!() };
    assert!(message.contains("cannot write signpost.lock") && help == "nothing else was changed", "{message}");
    assert_eq!(fs::read_to_string(folder.path().join("a.md")).unwrap(), "old");
}

#[test]
fn permissions_stay_and_links_are_replaced_by_what_was_asked_for() {
    let (folder, mut status) = prepared(&[("a.md", "old"), ("b.md", "b")], &[("a.md", "new"), ("b.md", "b2")]);
    let at = |name: &str| folder.path().join(name);
    fs::set_permissions(at("a.md"), fs::Permissions::from_mode(0o640)).unwrap();
    status.changes[1].new = Some(Content::Link("a.md".to_owned()));
    apply(folder.path(), &status, &ALONE).unwrap();
    assert_eq!(fs::metadata(at("a.md")).unwrap().permissions().mode() & 0o777, 0o640);
    assert_eq!(fs::read_link(at("b.md")).unwrap().to_str(), Some("a.md"));
    // Back again: the link is what the next run expects to find.
    let mut back = change("b.md", None, Some("b3"));
    (back.old_link, back.step) = (Some("a.md".to_owned()), Step::Update);
    let status = Status { changes: vec![back], lock: lock(&[("b.md", "b3")]), ..Status::default() };
    apply(folder.path(), &status, &ALONE).unwrap();
    assert!(!at("b.md").is_symlink() && fs::read_to_string(at("b.md")).unwrap() == "b3");
    assert_eq!(fs::read_to_string(at("a.md")).unwrap(), "new", "not written through the link");
}

#[test]
fn only_what_a_killed_run_left_is_swept() {
    let folder = tempfile::tempdir().unwrap();
    let names = [".signpost-on-its-way-x1", ".signpost-on-its-way", "signpost-on-its-way-x", "a.md"];
    names.iter().for_each(|name| fs::write(folder.path().join(name), "").unwrap());
    fs::create_dir(folder.path().join(".signpost-on-its-way-folder")).unwrap();
    sweep(folder.path());
    let mut left: Vec<_> = fs::read_dir(folder.path()).unwrap().map(|entry| entry.unwrap().file_name()).collect();
    left.sort();
    assert_eq!(left, [".signpost-on-its-way", ".signpost-on-its-way-folder", "a.md", "signpost-on-its-way-x"]);
    sweep(&folder.path().join("no such folder"));
}
