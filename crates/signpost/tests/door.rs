//! Hostile files under every name that is opened, and what the system does not let us see: no command hangs, fills
//! memory, reads what lies outside, or answers as if nothing were wrong.

#![cfg(unix)]
#![allow(clippy::unwrap_used)]

use crate::common::Project;
use std::ffi::OsStr;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

const COMMANDS: [&[&str]; 13] = [
    &["survey"],
    &["survey", "--facts"],
    &["at", "src/main.rs"],
    &["at", "."],
    &["lint", "--fail-on", "never"],
    &["lint", "--changed", "--fail-on", "never"],
    &["weigh"],
    &["scope", "*.rs"],
    &["parity"],
    &["profile", "draft"],
    &["publish", "--dry-run"],
    &["adopt", "--dry-run"],
    &["absorb", "--dry-run"],
];

fn project() -> Project {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("guidance/rules/a.md", "- Sand the boards\n")
        .with("AGENTS.md", "@x.md\n");
    std::fs::remove_file(project.root().join("AGENTS.md")).unwrap();
    project.run(&["publish"]).fails(0, &[]);
    Command::new("git").args(["init", "-q"]).current_dir(project.root()).output().unwrap();
    project
}

/// Runs a command that must end by itself, soon and in little memory.
#[track_caller]
fn ends(project: &Project, args: &[&str], what: &str) -> (i32, String) {
    let mut command = project.command(args);
    command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped());
    let child = command.spawn().unwrap();
    let started = Instant::now();
    let id = child.id().to_string();
    let (done, waits) = std::sync::mpsc::channel();
    std::thread::spawn(move || drop(done.send(child.wait_with_output())));
    loop {
        if let Ok(output) = waits.recv_timeout(Duration::from_millis(20)) {
            let output = output.unwrap();
            let said =
                format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr));
            assert!(!said.contains("panicked"), "{args:?} with {what}: {said}");
            return (output.status.code().unwrap_or(-1), said);
        }
        let memory = std::fs::read_to_string(format!("/proc/{id}/statm")).unwrap_or_default();
        let pages: usize = memory.split(' ').nth(1).and_then(|pages| pages.parse().ok()).unwrap_or_default();
        if started.elapsed() > Duration::from_secs(60) || pages > 200_000 {
            Command::new("kill").args(["-9", &id]).output().unwrap();
            panic!("{args:?} with {what} does not end: {pages} pages of memory");
        }
    }
}

/// Every name that some command opens. Those in one group are replaced together; the others could hide what comes after.
const NAMES: [&[&str]; 8] = [
    &[
        ".gitignore", "src/.gitignore", ".git/info/exclude", ".oo-skip", "src/.oo-skip", "AGENTS.md", "src/AGENTS.md",
        "TT.md", ".oo/notes/x.md", "BBSHEET.txt", "Cargo.toml", "Cargo.lock", "package.json", "package-lock.json",
        "pyproject.toml", "go.mod", "justfile", "Makefile", ".editorconfig", "rust-toolchain.toml", ".nvmrc",
        "README.md", "~/.tt/TT.md",
    ],
    &[".git/index"],
    &["signpost.toml"],
    &["signpost.lock"],
    &["guidance/profiles/bb.toml"],
    &["guidance/rules/a.md"],
    &["guidance/rules/b.md", "src/guidance/rules/c.md"],
    &["~/.config/signpost/profiles/p.toml"],
];

/// What may stand there instead of a file.
const THINGS: [&str; 5] = ["a link to /dev/zero", "a pipe", "a link out", "a link round", "a folder"];

fn put(project: &Project, name: &str, thing: &str) {
    let file = match name.strip_prefix("~/") {
        Some(rest) => project.home().join(rest),
        None => project.root().join(name),
    };
    std::fs::create_dir_all(file.parent().unwrap()).unwrap();
    let _ = std::fs::remove_file(&file);
    let secret = project.home().parent().unwrap().join("secret.md");
    std::fs::write(&secret, "- the secret words\n").unwrap();
    match thing {
        "a link to /dev/zero" => symlink("/dev/zero", file).unwrap(),
        "a link out" => symlink(secret, file).unwrap(),
        "a link round" => symlink(file.file_name().unwrap(), &file).unwrap(),
        "a folder" => std::fs::create_dir_all(file).unwrap(),
        _ => assert!(Command::new("mkfifo").arg(file).status().unwrap().success()),
    }
}

#[test]
fn nothing_is_opened_that_is_no_regular_file_inside() {
    let try_all = |thing: &str| {
        for names in NAMES {
            // Where a person's own profile lies is that person's matter.
            if thing == "a link out" && names[0].starts_with("~/.config") {
                continue;
            }
            let project = project();
            names.iter().for_each(|name| put(&project, name, thing));
            for args in COMMANDS {
                let (code, said) = ends(&project, args, &format!("{thing} at {names:?}"));
                assert!((0..=2).contains(&code), "{args:?} with {thing} at {names:?}: {code} {said}");
                assert!(!said.contains("the secret words"), "{args:?} with {thing} at {names:?}: {said}");
            }
        }
    };
    std::thread::scope(|scope| THINGS.iter().for_each(|thing| drop(scope.spawn(|| try_all(thing)))));
}

/// Every other module goes through the door.
#[test]
fn files_are_opened_in_one_place() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().to_path_buf();
    let mut open = vec![crates.join("signpost/src"), crates.join("signpost-core/src")];
    let mut read = 0;
    while let Some(folder) = open.pop() {
        for entry in std::fs::read_dir(folder).unwrap().flatten() {
            let path = entry.path();
            if path.is_dir() {
                open.push(path);
                continue;
            }
            let name = path.to_string_lossy().into_owned();
            // The tour reads what it has just laid out, a test its own page and files.
            if !name.ends_with(".rs")
                || ["files/door.rs", "/tour.rs", "/reference_page.rs", "/documents.rs", "/tests.rs"]
                    .iter()
                    .any(|end| name.ends_with(end))
            {
                continue;
            }
            read += 1;
            let text = std::fs::read_to_string(&path).unwrap();
            let code = text.split("#[cfg(test)]").next().unwrap();
            for (number, line) in code.lines().enumerate() {
                for call in ["fs::read(", "read_to_string(&", "fs::read_to_string(", "File::open("] {
                    let folder_lock = name.ends_with("apply.rs") && line.contains("File::open(session.root())");
                    assert!(!line.contains(call) || folder_lock, "{name}:{}: {line}", number + 1);
                }
            }
        }
    }
    assert!(read > 100, "only {read} files were looked at");
}

/// Runs as somebody who may not read everything; tests may be run by one who may.
fn as_somebody(project: &Project, args: &[&str]) -> (i32, String, String) {
    let id = Command::new("id").arg("-u").output().unwrap().stdout;
    let output = if id.trim_ascii() != b"0" {
        project.command(args).output().unwrap()
    } else {
        use std::os::unix::process::CommandExt;
        let top = project.home().parent().unwrap().to_path_buf();
        std::fs::set_permissions(&top, PermissionsExt::from_mode(0o755)).unwrap();
        let program = top.join("program");
        // Another process copies: a thread that forks while this one writes would keep the file open, and so busy.
        let copied = Command::new("cp").arg(env!("CARGO_BIN_EXE_signpost")).arg(&program).status().unwrap();
        assert!(copied.success());
        let mut command = Command::new(program);
        command.args(args).arg("--home").arg(project.home()).current_dir(project.root());
        command.env_remove("XDG_CONFIG_HOME").env("COLUMNS", "100").env("GIT_CONFIG_COUNT", "1");
        command.env("GIT_CONFIG_KEY_0", "safe.directory").env("GIT_CONFIG_VALUE_0", "*");
        command.uid(65534).gid(65534).output().unwrap()
    };
    let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    (output.status.code().unwrap(), text(&output.stdout), text(&output.stderr))
}

fn shut(path: &Path) {
    std::fs::set_permissions(path, PermissionsExt::from_mode(0o0)).unwrap();
}

#[test]
fn a_file_that_cannot_be_read_is_named() {
    let project = Project::new().with("AGENTS.md", "- Be kind\n").with("src/AGENTS.md", "- Be quick\n");
    shut(&project.root().join("AGENTS.md"));
    let (code, out, err) = as_somebody(&project, &["survey"]);
    assert!(code == 2 && err.contains("cannot read AGENTS.md: permission denied"), "{out}{err}");
    assert!(out.contains("src/AGENTS.md"), "the rest is still answered: {out}");
}

#[test]
fn folders_that_cannot_be_read_are_named() {
    let project = project().with("secret/AGENTS.md", "- Please be quick\n").with("secret/x.rs", "");
    shut(&project.root().join("secret"));
    for args in [&["lint"][..], &["survey"], &["at", "secret/x.rs"], &["at", "secret/new.rs"], &["weigh"]] {
        let (code, out, err) = as_somebody(&project, args);
        assert_eq!(code, 2, "{args:?}: {out}{err}");
        assert!(err.contains("cannot read secret") && err.contains("permission denied"), "{args:?}: {err}");
        assert!(!out.contains("not there yet"), "{args:?}: {out}");
        let (_, out, _) = as_somebody(&project, &[args, &["--format", "json"]].concat());
        let json: serde_json::Value = serde_json::from_str(&out).unwrap();
        assert!(json["unread"][0]["path"].as_str().unwrap().starts_with("secret"), "{args:?}: {out}");
    }
    let (code, out, _) = as_somebody(&project, &["lint", "--format", "sarif"]);
    assert!(code == 2 && out.contains("\"executionSuccessful\": false"), "{out}");
    // What git ignores may be as it likes.
    let project = project.with(".gitignore", "secret/\n");
    assert_eq!(as_somebody(&project, &["lint"]).0, 0);
    std::fs::set_permissions(project.root().join("secret"), PermissionsExt::from_mode(0o755)).unwrap();
}

#[test]
fn rules_out_of_sight_are_not_rules_that_are_gone() {
    let project = project().with("guidance/rules/more/b.md", "- Oil the boards\n");
    project.run(&["publish"]).fails(0, &[]);
    let all = |project: &Project| {
        project.files().into_iter().filter(|(path, _)| !path.starts_with("guidance/")).collect::<Vec<_>>()
    };
    let before = all(&project);
    let more = project.root().join("guidance/rules/more");
    shut(&more);
    Command::new("chown").args(["-R", "65534", "."]).current_dir(project.root()).output().unwrap();
    let (code, out, err) = as_somebody(&project, &["publish"]);
    assert_eq!(code, 2, "{out}{err}");
    assert!(err.contains("cannot read guidance/rules/more"), "{err}");
    std::fs::set_permissions(&more, PermissionsExt::from_mode(0o755)).unwrap();
    assert_eq!(all(&project), before);
    // A whole part of the project out of sight: its rules stay in the files that others share with it.
    let project = project.with("web/guidance/rules/w.md", "- Wax the boards\n");
    project.run(&["publish"]).fails(0, &[]);
    let with_part = all(&project);
    Command::new("chown").args(["-R", "65534", "."]).current_dir(project.root()).output().unwrap();
    shut(&project.root().join("web"));
    let (code, out, err) = as_somebody(&project, &["publish"]);
    assert_eq!(code, 2, "{out}{err}");
    assert!(err.contains("cannot read web"), "{err}");
    std::fs::set_permissions(project.root().join("web"), PermissionsExt::from_mode(0o755)).unwrap();
    assert_eq!(all(&project), with_part);
    std::fs::remove_dir_all(project.root().join("web")).unwrap();
    project.run(&["publish"]).fails(0, &[]);
    // A link out, or to nowhere, is no empty guidance.
    for target in ["/etc", "nowhere"] {
        std::fs::rename(project.root().join("guidance/rules"), project.root().join("kept")).unwrap();
        symlink(target, project.root().join("guidance/rules")).unwrap();
        project.run(&["publish", "--yes"]).fails(2, &["guidance/rules"]);
        std::fs::remove_file(project.root().join("guidance/rules")).unwrap();
        // A link inside is read where it leads.
        symlink("../kept", project.root().join("guidance/rules")).unwrap();
        project.run(&["publish", "--check"]).fails(0, &[]);
        std::fs::remove_file(project.root().join("guidance/rules")).unwrap();
        std::fs::rename(project.root().join("kept"), project.root().join("guidance/rules")).unwrap();
    }
    let left = |files: Vec<(String, Vec<u8>)>| files;
    assert_eq!(left(all(&project)), before);
}

#[test]
fn names_that_are_not_utf8_are_named_and_the_rest_is_answered() {
    let project = project();
    let odd = |name: &[u8]| project.root().join(OsStr::from_bytes(name));
    std::fs::create_dir_all(odd(b"odd\xff")).unwrap();
    std::fs::write(odd(b"odd\xff/AGENTS.md"), "- x\n").unwrap();
    std::fs::write(odd(b".oo/notes/n\xe9.md"), "---\nload: each\n---\n\n- x\n").unwrap();
    for args in [&["survey"][..], &["lint", "--fail-on", "never"], &["at", "."]] {
        let ran = project.run(args);
        ran.fails(2, &["odd\u{fffd}", "its name is not UTF-8"]);
        assert!(!ran.out.is_empty(), "{args:?}");
    }
    project.run(&["at", "src/main.rs"]).fails(2, &["n\u{fffd}.md", "its name is not UTF-8"]);
    // A list is answered but for what can't be.
    let list = project.home().join("list");
    std::fs::write(&list, b"src/main.rs\nodd\xff/x.rs\nsrc/other.rs\n").unwrap();
    let output =
        project.command(&["at", "-", "--format", "json"]).stdin(std::fs::File::open(&list).unwrap()).output().unwrap();
    assert_eq!(output.status.code(), Some(2));
    let json: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    let files: std::collections::BTreeSet<&str> = crate::common::each(&json["briefs"], "file").into_iter().collect();
    assert_eq!(files.into_iter().collect::<Vec<_>>(), ["src/main.rs", "src/other.rs"]);
    assert!(crate::common::each(&json["unread"], "path").contains(&"odd\u{fffd}/x.rs"), "{json}");
    let output = project.command(&["at"]).arg(OsStr::from_bytes(b"odd\xff/x.rs")).output().unwrap();
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("its name is not UTF-8"));
}

/// Texts whose cost would grow with the square of their length come to an end like others: sentences without one,
/// numbers, commands, marks that never close, sections without end.
#[test]
fn texts_made_to_explode_end() {
    const TEXTS: [&str; 16] = [
        "version 2020-01-01\n", "`npm run x`\n", "<", "us\u{435} ", "a ", "# a\n", "a\n=\n", "<!-- x --> a. ", "[a](",
        "**", "`", "Never use x over y, ", "{{", "--- \na: b\n", "use tabs, not spaces ", "\u{200b}a",
    ];
    let project = project();
    let project = TEXTS.iter().enumerate().fold(project, |project, (number, text)| {
        let text = text.repeat(6_000 / text.len());
        project.with(&format!("guidance/rules/x{number}.md"), &text).with(&format!("p{number}/AGENTS.md"), text)
    });
    let all = [
        &["lint", "--fail-on", "never"][..],
        &["publish", "--dry-run"],
        &["adopt", "--dry-run", "--yes"],
        &["at", "p0/x.rs"],
        &["split", "guidance/rules/x5.md"],
    ];
    std::thread::scope(|scope| all.iter().for_each(|args| drop(scope.spawn(|| ends(&project, args, "long texts")))));
    let edited = TEXTS.iter().fold(project, |project, text| {
        let sheet = project.read("AGENTS.md") + &text.repeat(4_000 / text.len()) + "\n";
        project.with("AGENTS.md", sheet)
    });
    ends(&edited, &["absorb", "--dry-run"], "long texts");
}
