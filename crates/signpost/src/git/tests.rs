#![allow(clippy::unwrap_used)]

use super::*;
use signpost_core::files::{DiskTree, Tree};
use tempfile::TempDir;

/// A work tree with one commit of `kept.md`, `edited.md`, `gone.md` and `sub/in.md`.
fn work_tree() -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    git(root, &["init", "-q", "-b", "main"]);
    for name in ["kept.md", "edited.md", "gone.md", "sub/in.md"] {
        write(root, name, "one\n");
    }
    commit(root, "first");
    folder
}

fn git(root: &Path, args: &[&str]) -> String {
    let given = ["-c", "user.name=Ina", "-c", "user.email=ina@example.net", "-c", "commit.gpgsign=false"];
    let output = Command::new("git").args(given).args(args).current_dir(root).output().unwrap();
    assert!(output.status.success(), "{args:?}: {}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap()
}

fn commit(root: &Path, message: &str) {
    git(root, &["add", "-A"]);
    git(root, &["commit", "-q", "-m", message]);
}

fn write(root: &Path, name: &str, text: &str) {
    let file = root.join(name);
    std::fs::create_dir_all(file.parent().unwrap()).unwrap();
    std::fs::write(file, text).unwrap();
}

fn changed_in(root: &Path) -> Vec<String> {
    let index = DiskTree::open(root, None).unwrap().index().unwrap();
    changed(root, &index).unwrap().0.iter().map(ToString::to_string).collect()
}

#[test]
fn nothing_is_changed_right_after_a_commit_or_a_touch() {
    let folder = work_tree();
    assert_eq!(changed_in(folder.path()), [""; 0]);
    // Other times, the same bytes.
    write(folder.path(), "kept.md", "one\n");
    assert_eq!(changed_in(folder.path()), [""; 0]);
}

#[test]
fn edited_staged_and_new_files_are_changed_and_deleted_and_ignored_ones_are_not() {
    let folder = work_tree();
    let root = folder.path();
    write(root, "edited.md", "two\n");
    write(root, "staged.md", "new\n");
    git(root, &["add", "staged.md"]);
    write(root, "new.md", "new\n");
    write(root, ".gitignore", "*.log\n");
    write(root, "a.log", "");
    std::fs::remove_file(root.join("gone.md")).unwrap();
    git(root, &["mv", "sub/in.md", "sub/moved.md"]);
    assert_eq!(changed_in(root), [".gitignore", "edited.md", "new.md", "staged.md", "sub/moved.md"]);
    // From a folder down, paths count from there.
    assert_eq!(changed_in(&root.join("sub")), ["moved.md"]);
}

#[test]
fn all_is_changed_before_the_first_commit() {
    let folder = tempfile::tempdir().unwrap();
    git(folder.path(), &["init", "-q"]);
    write(folder.path(), "staged.md", "");
    git(folder.path(), &["add", "-A"]);
    write(folder.path(), "new.md", "");
    assert_eq!(changed_in(folder.path()), ["new.md", "staged.md"]);
}

#[cfg(unix)]
#[test]
fn odd_names_are_whole_or_named_apart() {
    use std::os::unix::ffi::OsStrExt;
    let folder = work_tree();
    let root = folder.path();
    let names = ["two\nlines.md", "a \"quote\".md", ":(top)magic.md", "-dash.md", "ümlaut.md", " blank .md"];
    names.iter().for_each(|name| write(root, name, "one\n"));
    std::fs::write(root.join(std::ffi::OsStr::from_bytes(b"\xff.md")), "one\n").unwrap();
    commit(root, "odd");
    assert_eq!(changed_in(root), [""; 0]);
    names.iter().for_each(|name| write(root, name, "another\n"));
    std::fs::write(root.join(std::ffi::OsStr::from_bytes(b"\xff.md")), "another\n").unwrap();
    let mut expected: Vec<&str> = names.to_vec();
    expected.sort_unstable();
    assert_eq!(changed_in(root), expected);
    let index = DiskTree::open(root, None).unwrap().index().unwrap();
    assert_eq!(changed(root, &index).unwrap().1, ["\u{fffd}.md"]);
}

#[cfg(unix)]
#[test]
fn nothing_that_a_repository_names_is_run() {
    use std::os::unix::fs::PermissionsExt;
    let folder = work_tree();
    let root = folder.path();
    let trap = root.join("trap.sh");
    std::fs::write(&trap, "#!/bin/sh\ntouch \"$(dirname \"$0\")/ran\"\ncat\n").unwrap();
    std::fs::set_permissions(&trap, std::fs::Permissions::from_mode(0o755)).unwrap();
    let trap = trap.to_str().unwrap();
    write(root, ".git/info/attributes", "*.md filter=trap diff=trap\nkept.md filter=a=b\n");
    for (key, value) in [
        ("filter.trap.clean", trap),
        ("filter.trap.smudge", trap),
        ("filter.trap.process", trap),
        ("filter.trap.required", "true"),
        ("filter.a=b.clean", trap),
        ("diff.trap.textconv", trap),
        ("core.fsmonitor", trap),
        ("core.pager", trap),
        ("diff.external", trap),
    ] {
        let config = Command::new("git").args(["config", key, value]).current_dir(root).status().unwrap();
        assert!(config.success());
    }
    // In the same moment as the commit, so that git has to compare bytes, and with another length.
    write(root, "kept.md", "one\n");
    write(root, "edited.md", "two\n");
    write(root, "gone.md", "longer\n");
    assert_eq!(changed_in(root), ["edited.md", "gone.md", "trap.sh"]);
    let one = signpost_core::project::lock::hash(b"one\n");
    assert_eq!(version_with(root, &RepoPath::new("edited.md").unwrap(), &one).as_deref(), Some("one\n"));
    assert!(!root.join("ran").exists());
}

#[test]
fn an_older_text_is_found_by_its_hash() {
    let folder = work_tree();
    let root = folder.path();
    for text in ["two\n", "three\n"] {
        write(root, "sub/in.md", text);
        commit(root, text);
    }
    let hash = |text: &str| signpost_core::project::lock::hash(text.as_bytes());
    let find = |root: &Path, path: &str, text: &str| version_with(root, &RepoPath::new(path).unwrap(), &hash(text));
    for text in ["one\n", "two\n", "three\n"] {
        assert_eq!(find(root, "sub/in.md", text).as_deref(), Some(text));
        assert_eq!(find(&root.join("sub"), "in.md", text).as_deref(), Some(text));
    }
    assert_eq!(find(root, "sub/in.md", "four\n"), None);
    assert_eq!(find(root, "kept.md", "two\n"), None, "another file's text");
    assert_eq!(find(root, "--all", "one\n"), None);
    assert_eq!(find(tempfile::tempdir().unwrap().path(), "sub/in.md", "one\n"), None);
}

#[test]
fn without_a_work_tree_it_is_said_what_is_missing() {
    let folder = tempfile::tempdir().unwrap();
    let index = DiskTree::open(folder.path(), None).unwrap().index().unwrap();
    let Failure::Told(message, help) = changed(folder.path(), &index).unwrap_err() else { panic!("another failure") };
    assert!(message.starts_with("git: not a git repository"), "{message}");
    assert_eq!(help.as_deref(), Some("--changed needs a git work tree"));
}

#[cfg(unix)]
#[test]
fn a_pipe_in_the_place_of_the_index_is_not_waited_for() {
    let folder = work_tree();
    let index = DiskTree::open(folder.path(), None).unwrap().index().unwrap();
    let file = folder.path().join(".git/index");
    std::fs::remove_file(&file).unwrap();
    assert!(Command::new("mkfifo").arg(&file).status().unwrap().success());
    let Failure::Told(message, _) = changed(folder.path(), &index).unwrap_err() else { panic!("another failure") };
    assert!(message.contains(".git/index is no file"), "{message}");
}
