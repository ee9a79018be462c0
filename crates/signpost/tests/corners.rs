//! Odd but legal surroundings: names, links, permissions, formats, other runs, repositories that would run something.

#![cfg(unix)]
#![allow(clippy::unwrap_used)]

use crate::common::{Project, git};
use std::os::unix::fs::{PermissionsExt, symlink};
use std::process::Command;
use std::time::Duration;

fn published() -> Project {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("guidance/rules/a.md", "- Sand the boards\n");
    project.run(&["publish"]).fails(0, &[]);
    project
}

#[test]
fn new_files_have_the_permissions_of_the_umask_and_old_ones_keep_theirs() {
    let mode =
        |project: &Project, file: &str| project.root().join(file).metadata().unwrap().permissions().mode() & 0o777;
    for (mask, right) in [("077", 0o600), ("022", 0o644), ("002", 0o664)] {
        let project = published().with("guidance/rules/b.md", "+++\npaths = [\"src/**\"]\n+++\n\n- Oil the boards\n");
        std::fs::set_permissions(project.root().join("AGENTS.md"), PermissionsExt::from_mode(0o640)).unwrap();
        let project = project.with("guidance/rules/a.md", "- Sand the floor\n");
        let program = env!("CARGO_BIN_EXE_signpost");
        let run = |args: &str| {
            let line = format!("umask {mask}; exec {program} {args} --home {}", project.home().display());
            assert!(Command::new("sh").args(["-c", &line]).current_dir(project.root()).status().unwrap().success());
        };
        run("publish");
        run("lint --baseline known.json --fail-on never");
        run("draft c --text 'Wax the boards'");
        for file in ["src/AGENTS.md", ".oo/notes/b.md", "known.json", "guidance/rules/c.md"] {
            assert_eq!(mode(&project, file), right, "{file} with {mask}");
        }
        assert_eq!(mode(&project, "AGENTS.md"), 0o640, "with {mask}");
    }
}

/// Killed at each step, mending leaves every file whole, and the next run takes away what was on its way.
#[test]
#[cfg_attr(not(debug_assertions), ignore = "only a debug build can be made to die at a step")]
fn a_killed_fix_leaves_nothing_about() {
    for at in 1.. {
        let project = Project::new()
            .with("AGENTS.md", "- Please sand the boards\n")
            .with("a/b/AGENTS.md", "- Please oil the floor\n");
        let killed = project.command(&["lint", "--fix"]).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
        for (file, words) in [("AGENTS.md", "and the boards"), ("a/b/AGENTS.md", "il the floor")] {
            assert!(project.read(file).trim_end().ends_with(words), "killed at {at}: {}", project.read(file));
        }
        project.run(&["lint", "--fix"]).fails(0, &[]);
        assert_eq!(project.read("AGENTS.md"), "- Sand the boards\n");
        assert_eq!(project.files().len(), 3, "killed at {at}: {:?}", project.files().keys());
        if killed.status.success() {
            assert!(at > 4, "it was killed at {at} points only");
            break;
        }
    }
}

#[test]
fn a_fix_waits_for_another_run() {
    let project = Project::new().with("AGENTS.md", "- Please sand the boards\n");
    let other = std::fs::File::open(project.root()).unwrap();
    other.lock().unwrap();
    let mut child = project.command(&["lint", "--fix"]).spawn().unwrap();
    std::thread::sleep(Duration::from_millis(400));
    assert!(child.try_wait().unwrap().is_none());
    assert_eq!(project.read("AGENTS.md"), "- Please sand the boards\n");
    drop(other);
    assert!(child.wait().unwrap().success());
    assert_eq!(project.read("AGENTS.md"), "- Sand the boards\n");
}

#[test]
fn every_command_keeps_to_its_format() {
    let project = published().with("src/AGENTS.md", "- Please sand the boards\n");
    let mends = project.json(&["lint", "--fix", "--dry-run", "--only", "wording"]);
    assert_eq!(mends["schema"], "signpost.mend/1");
    assert_eq!((mends["findings"].as_u64(), &mends["files"][0]["path"]), (Some(1), &"src/AGENTS.md".into()));
    assert_eq!(mends["files"][0]["new"], "- Sand the boards\n");
    for format in ["sarif", "markdown", "lines"] {
        project.run(&["lint", "--fix", "--dry-run", "--format", format]).fails(2, &["can't be shown in this format"]);
        project.run(&["survey", "--format", format]).fails(2, &["only lint has this format"]);
    }
    project.run(&["tour", "--format", "json"]).fails(2, &["the tour is for people"]);
    let told = project.json(&["at", "src/main.rs", "--text", "-a", "tt"]);
    assert!(told["briefs"][0]["entries"][0]["text"].as_str().unwrap().ends_with("- Sand the boards\n"), "{told}");
    assert!(project.json(&["at", "src/main.rs"])["briefs"][0]["entries"][0]["text"].is_null());
}

/// Nothing that a repository's configuration names is ever run, and submodules are other work trees.
#[test]
fn a_repository_runs_nothing() {
    let project = published();
    git(&project, &["init", "-q"]);
    git(&project, &["add", "."]);
    git(&project, &["commit", "-qm", "all"]);
    let trap = project.root().join("trap.sh");
    let sprung = project.home().join("sprung");
    std::fs::write(&trap, format!("#!/bin/sh\ntouch {}\ncat\n", sprung.display())).unwrap();
    std::fs::set_permissions(&trap, PermissionsExt::from_mode(0o755)).unwrap();
    let path = trap.display().to_string();
    for (key, value) in [
        ("filter.trap.clean", path.as_str()),
        ("filter.trap.smudge", &path),
        ("filter.trap.process", &path),
        ("diff.trap.textconv", &path),
        ("diff.trap.command", &path),
        ("diff.external", &path),
        ("gpg.program", &path),
        ("log.showSignature", "true"),
        ("core.fsmonitor", &path),
        ("core.pager", &path),
        ("core.sshCommand", &path),
        ("core.hooksPath", "."),
    ] {
        git(&project, &["config", key, value]);
    }
    std::fs::write(project.root().join(".git/info/attributes"), "* filter=trap diff=trap\n").unwrap();
    // A submodule with a change of its own.
    let inner = project.root().join("inner");
    std::fs::create_dir(&inner).unwrap();
    let project = project.with("inner/x.rs", "a").with("src/main.rs", "changed").with("new.rs", "");
    let run = |args: &[&str]| {
        assert!(
            Command::new("git")
                .args(["-c", "user.name=a", "-c", "user.email=a@example.com"])
                .args(args)
                .current_dir(&inner)
                .output()
                .unwrap()
                .status
                .success()
        )
    };
    run(&["init", "-q"]);
    run(&["add", "."]);
    run(&["commit", "-qm", "all"]);
    let added = Command::new("git")
        .args(["-c", "core.fsmonitor=false", "add", "inner"])
        .current_dir(project.root())
        .output()
        .unwrap();
    assert!(added.status.success());
    let project =
        project.with("inner/x.rs", "b").with("AGENTS.md", project_text(&["- Sand the boards", "- Oil the boards"]));
    let _ = std::fs::remove_file(&sprung);
    let at = project.json(&["at", "--changed", "-a", "oo"]);
    let files: Vec<&str> = crate::common::each(&at["briefs"], "file");
    assert_eq!(files, ["AGENTS.md", "new.rs", "src/main.rs", "trap.sh"], "{at}");
    project.run(&["lint", "--changed", "--fail-on", "never"]).fails(0, &[]);
    // Settings of the environment hold beside ours.
    let with_setting = |key: &str, value: &str| {
        let mut command = project.command(&["at", "--changed"]);
        command.env("GIT_CONFIG_COUNT", "1").env("GIT_CONFIG_KEY_0", key).env("GIT_CONFIG_VALUE_0", value);
        command.output().unwrap().status.code()
    };
    assert_eq!((with_setting("core.abbrev", "9"), with_setting("core.abbrev", "many")), (Some(0), Some(2)));
    // Absorbing looks for what was published in the history.
    let project = project.with("guidance/rules/a.md", "- Sand the boards\n\nTwice.\n");
    project.run(&["absorb", "--dry-run"]);
    // What is missing is looked for among renames.
    std::fs::rename(project.root().join("src/main.rs"), project.root().join("src/sander.rs")).unwrap();
    let project = project.with("web/TT.md", "- The sander lives in `src/main.rs`.\n");
    assert!(project.run(&["lint", "--only", "facts"]).out.contains("src/main.rs is not there"));
    assert!(!sprung.exists(), "something was run");
}

fn project_text(lines: &[&str]) -> String {
    lines.iter().map(|line| format!("{line}\n")).collect()
}

/// A file that several names lead to is mended once.
#[test]
fn links_to_one_file_are_mended_once() {
    let project = Project::new().with("shared.md", "- Please sand the boards\n").with("src/a.rs", "");
    symlink("shared.md", project.root().join("AGENTS.md")).unwrap();
    symlink("../shared.md", project.root().join("src/AGENTS.md")).unwrap();
    project.run(&["lint", "--fix", "--fail-on", "never"]).fails(0, &["1 finding in 1 file mended"]);
    assert_eq!(project.read("shared.md"), "- Sand the boards\n");
    assert!(project.root().join("AGENTS.md").symlink_metadata().unwrap().is_symlink());
}

/// Another work tree of a repository shares its list of ignored files.
#[test]
fn a_linked_work_tree_knows_what_is_ignored() {
    let project = published();
    git(&project, &["init", "-q"]);
    git(&project, &["add", "."]);
    git(&project, &["commit", "-qm", "all"]);
    std::fs::write(project.root().join(".git/info/exclude"), "*.tmp\n").unwrap();
    let other = project.home().join("other");
    git(&project, &["worktree", "add", "-q", other.to_str().unwrap()]);
    std::fs::write(other.join("x.tmp"), "").unwrap();
    std::fs::write(other.join("y.rs"), "").unwrap();
    let ran = project.run_in(&other, &["scope", "/*", "--format", "json"]);
    assert!(ran.out.contains("y.rs") && !ran.out.contains("x.tmp"), "{}", ran.out);
}

#[test]
fn rules_may_be_links_and_be_called_anything() {
    let project = published();
    let rules = project.root().join("guidance/rules");
    // A rule that is a link is mended where it lies.
    std::fs::rename(rules.join("a.md"), project.root().join("shared.md")).unwrap();
    symlink("../../shared.md", rules.join("a.md")).unwrap();
    project.run(&["publish", "--check"]).fails(0, &[]);
    let text = project.read("AGENTS.md").replace("Sand the boards", "Sand the floor");
    let project = project.with("AGENTS.md", text);
    assert_eq!(project.run(&["absorb"]).code, 0);
    assert_eq!(project.read("shared.md"), "- Sand the floor\n");
    assert!(rules.join("a.md").symlink_metadata().unwrap().is_symlink());
    project.run(&["publish"]).fails(0, &[]);
    // A name ends no remark and begins no line of a header.
    let project = project
        .with("guidance/rules/x\nload: each\ny.md", "+++\npaths = [\"*.rs\"]\n+++\n\n- Keep names short\n")
        .with("guidance/rules/z --> - Obey.md", "- Wax the boards\n");
    project.run(&["publish"]).fails(0, &[]);
    for (path, bytes) in
        project.files().into_iter().filter(|(path, _)| !path.starts_with("guidance") && path != "signpost.lock")
    {
        let text = String::from_utf8(bytes).unwrap();
        assert!(!text.contains("\nload: each\ny") && !text.contains("--> - Obey"), "{path}: {text}");
    }
    project.run(&["publish", "--check"]).fails(0, &[]);
    // Code at the beginning of a rule stays code.
    let project = project.with("guidance/rules/code.md", "+++\npaths = [\"*.md\"]\n+++\n\n    make all\n\nRun that.\n");
    project.run(&["publish"]).fails(0, &[]);
    assert!(project.read(".oo/notes/code.md").contains("\n\n    make all\n\nRun that.\n"));
}

/// A file that is there already is nothing to speak of again, whoever mentions it.
#[test]
fn a_home_file_that_is_mentioned_again_is_no_escape() {
    let project = Project::with_profiles()
        .with("~/.tt/TT.md", "@more.md\n")
        .with("~/.tt/more.md", "- Mine\n")
        .with("TT.md", "@~/.tt/more.md\n@~/.tt/other.md\n")
        .with("src/main.rs", "");
    let brief = project.json(&["at", "src/main.rs", "-a", "tt"]);
    let left: Vec<&str> = crate::common::each(&brief["briefs"][0]["left_out"], "path");
    assert_eq!(left, ["~/.tt/other.md"], "{brief}");
}

#[test]
fn errors_name_what_was_to_be_done() {
    let project = published();
    std::fs::create_dir_all(project.root().join("elsewhere")).unwrap();
    std::fs::rename(project.root().join("guidance/rules"), project.root().join("elsewhere/rules")).unwrap();
    symlink("../elsewhere/rules", project.root().join("guidance/rules")).unwrap();
    let ran = project.run(&["draft", "b", "--text", "Oil the boards"]);
    ran.fails(2, &["cannot write guidance/rules/b.md", "is a link"]);
    assert!(!ran.err.contains("publish"), "{}", ran.err);
}
