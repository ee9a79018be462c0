//! `at` for many files, `weigh`, `scope`, `profile` and `survey --zones`, run on files.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};
use std::io::Write;
use std::process::{Command, Stdio};

fn project() -> Project {
    Project::with_profiles()
        .with("TT.md", "Root.\n")
        .with("src/TT.md", "Source.\n")
        .with(".oo/notes/rs.md", "---\ncovers: \"*.rs\"\n---\n- Rust words to weigh\n")
        .with(".oo/notes/pick.md", "---\nabout: When seeds are counted\n---\n- Count twice\n")
        .with("BBSHEET.txt", "x ".repeat(80))
        .with("src/main.rs", "")
        .with("src/lib.rs", "")
        .with("docs/a.py", "")
}

#[test]
fn a_folder_stands_for_its_source_files() {
    let answer = project().json(&["at", "src", "--assistant", "oo"]);
    assert_eq!(each(&answer["briefs"], "file"), ["src/lib.rs", "src/main.rs"]);
    let text = project().run(&["at", "src", "docs/a.py", "--assistant", "tt"]).out;
    // What all have in common stands once, above the rest.
    assert!(text.starts_with("All 3 files\n\nTt  1 file, ≈3 tokens\n  ·  TT.md"), "{text}");
    assert!(text.contains("\nsrc/lib.rs\nsrc/main.rs\n\nTt  1 file more, ≈6 tokens in all\n  2  src/TT.md"), "{text}");
    assert!(text.contains("\ndocs/a.py\n  nothing more\n"), "{text}");
    assert_eq!(text.matches(" TT.md").count(), 1, "{text}");
}

#[test]
fn together_is_one_brief() {
    let answer = project().json(&["at", "--together", "src/main.rs", "docs/a.py"]);
    let oo = answer["briefs"].as_array().unwrap().iter().find(|brief| brief["assistant"] == "oo").unwrap();
    assert_eq!(oo["files"], serde_json::json!(["src/main.rs", "docs/a.py"]));
    assert_eq!(oo["entries"][0]["files"], serde_json::json!(["src/main.rs"]));
    let tt = answer["briefs"].as_array().unwrap().iter().find(|brief| brief["assistant"] == "tt").unwrap();
    assert_eq!(each(&tt["entries"], "path"), ["TT.md", "src/TT.md"]);
}

#[test]
fn standard_input_gives_a_list() {
    let project = project();
    let mut child = crate::common::signpost()
        .args(["at", "-", "--format", "json", "--assistant", "tt", "--home"])
        .arg(project.home())
        .current_dir(project.root())
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(b"src/main.rs\r\n\ndocs/a.py\n").unwrap();
    let output = child.wait_with_output().unwrap();
    let answer: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(each(&answer["briefs"], "file"), ["src/main.rs", "docs/a.py"]);
}

fn git(project: &Project, args: &[&str]) {
    let ran = Command::new("git")
        .args(["-c", "user.name=t", "-c", "user.email=t@example.org"])
        .args(args)
        .current_dir(project.root())
        .env("GIT_CONFIG_GLOBAL", "/dev/null")
        .output()
        .unwrap();
    assert!(ran.status.success(), "{}", String::from_utf8_lossy(&ran.stderr));
}

#[test]
fn changed_files_come_from_git() {
    let project = project().with("src/gone.rs", "").with(".gitignore", "*.log\n");
    project.run(&["at", "--changed"]).fails(2, &["--changed needs a git work tree"]);
    git(&project, &["init", "-q"]);
    git(&project, &["add", "."]);
    git(&project, &["commit", "-q", "-m", "Begin"]);
    assert!(project.run(&["at", "--changed"]).out.contains("No file is changed"));
    std::fs::remove_file(project.root().join("src/gone.rs")).unwrap();
    let project = project.with("src/main.rs", "fn main() {}\n").with("new file.py", "").with("x.log", "");
    let answer = project.json(&["at", "--changed", "--assistant", "tt"]);
    assert_eq!(each(&answer["briefs"], "file"), ["new file.py", "src/main.rs"]);
}

#[test]
fn rules_of_other_folders_are_listed_on_request() {
    let answer = project().json(&["at", "docs/a.py", "--all-rules", "--assistant", "tt"]);
    assert_eq!(answer["briefs"][0]["left_out"][0]["why"]["code"], "other-folder");
}

#[test]
fn weigh_says_what_every_conversation_costs_and_what_is_cut() {
    let project = project().with("signpost.toml", "[budget]\nbrief = 5\n");
    let weigh = project.json(&["weigh"]);
    assert_eq!(weigh["schema"], "signpost.weigh/1");
    let assistant =
        |name: &str| weigh["assistants"].as_array().unwrap().iter().find(|one| one["name"] == name).unwrap().clone();
    assert_eq!(assistant("bb")["lost"][0]["from_line"], 1);
    assert_eq!(assistant("bb")["lost"][0]["bytes"], 60);
    assert_eq!(assistant("oo")["tokens_at_start"], 0);
    assert!(assistant("oo")["tokens_summaries"].as_u64().unwrap() > 2);
    assert!(assistant("oo")["over_budget_files"].as_u64().unwrap() == 2);
    let zones = weigh["zones"].as_array().unwrap();
    let total: u64 = zones.iter().map(|zone| zone["files"].as_u64().unwrap()).sum();
    assert_eq!(total, 3);
    let text = project.run(&["weigh", "--top", "1"]).out;
    assert!(text.starts_with("Tokens in every conversation") && text.contains("is cut off in line 1"), "{text}");
    assert!(text.contains("Over the budget of 5 tokens for 2 source files"), "{text}");
}

#[test]
fn exact_counts_are_marked_as_such() {
    let project = Project::new().with("AGENTS.md", "Run the tests.\n").with("a.c", "");
    assert!(project.run(&["survey"]).out.contains('≈'));
    let ran = project.run(&["survey", "--exact"]);
    assert!(!ran.out.contains('≈'), "{}", ran.out);
    assert_eq!(project.json(&["survey", "--exact"])["files"][0]["tokens"], 4);
}

#[test]
fn zones_partition_the_source_files() {
    let survey = project().json(&["survey", "--zones"]);
    let zones = survey["zones"].as_array().unwrap();
    assert_eq!(
        zones.iter().map(|zone| zone["files"].as_u64().unwrap()).sum::<u64>(),
        survey["source_files"].as_u64().unwrap()
    );
    assert!(project().run(&["survey", "--zones"]).out.contains("zones of 3 source files"));
}

#[test]
fn scope_shows_what_a_pattern_takes() {
    let project = project();
    let taken = project.json(&["scope", "src/*.rs"]);
    assert_eq!(taken["trials"][0]["files"], serde_json::json!(["src/lib.rs", "src/main.rs"]));
    let nothing = project.run(&["scope", "scr/*.rs"]);
    assert_eq!(nothing.code, 1);
    assert!(nothing.out.contains("takes no file") && nothing.out.contains("src/*.rs"), "{}", nothing.out);
    let invalid = project.run(&["scope", "src/[x"]);
    assert!(invalid.code == 1 && invalid.out.contains("is not valid"), "{}", invalid.out);
    project.run(&["scope"]).fails(2, &["PATTERN"]);
}

#[test]
fn scope_makes_patterns_from_examples() {
    let project = project();
    let fits = project.json(&["scope", "--like", "src/main.rs", "src/lib.rs", "--unlike", "docs/a.py"]);
    assert_eq!(fits["fits"][0]["others"], 0);
    let text = project.run(&["scope", "--like", "docs/a.py"]).out;
    assert!(text.starts_with("Patterns that take this file") && text.contains("nothing else"), "{text}");
    project
        .run(&["scope", "--like", "docs/a.py", "--unlike", "docs/a.py"])
        .fails(2, &["both with --like and --unlike"]);
}

#[test]
fn profiles_are_listed_shown_and_checked() {
    let project = project();
    assert_eq!(each(&project.json(&["profile", "list"])["profiles"], "name"), ["agents-md", "bb", "oo", "tt"]);
    let shown = project.run(&["profile", "show", "tt"]).out;
    assert!(
        shown.contains("looks for TT.own.md, TT.md in every folder") && shown.contains("reads only the first"),
        "{shown}"
    );
    project.run(&["profile", "show", "t"]).fails(2, &["there is no profile `t`"]);
    let good = project.run(&["profile", "check", "guidance/profiles/oo.toml"]);
    assert!(good.code == 0 && good.out.contains("is a valid profile"), "{}", good.out);
    let project = project.with("bad.toml", "name = \"x\"\nlods = \"start\"\n");
    let bad = project.run(&["profile", "check", "bad.toml"]);
    assert!(bad.code == 1 && bad.out.contains("did you mean `loads`?"), "{}", bad.out);
    project.run(&["profile", "check", "gone.toml"]).fails(2, &["cannot read gone.toml"]);
}

#[test]
fn a_drafted_profile_accounts_for_the_files() {
    let project = Project::new()
        .with(".zorp/notes/a.md", "---\nalways: true\n---\n- All\n")
        .with(".zorp/notes/b.md", "---\nfor: [\"src/**\"]\n---\n- Source\n")
        .with("src/ZORP.md", "- Here\n")
        .with("ZORP.md", "- All\n")
        .with("src/main.rs", "")
        .with("README.md", "A page.\n");
    let draft = project.run(&["profile", "draft"]);
    assert_eq!(draft.code, 0);
    assert!(draft.err.contains("guidance/profiles/zorp.toml"), "{}", draft.err);
    let project = project.with("guidance/profiles/zorp.toml", &draft.out);
    let survey = project.json(&["survey"]);
    let mut files = each(&survey["files"], "path");
    files.sort_unstable();
    assert_eq!(files, [".zorp/notes/a.md", ".zorp/notes/b.md", "ZORP.md", "src/ZORP.md"]);
    let again = project.run(&["profile", "draft"]);
    assert!(again.code == 1 && again.err.contains("no file here looks like"), "{}", again.err);
}

#[test]
fn results_are_the_same_bytes_with_one_thread_or_many() {
    let project = project();
    let project = (0..400).fold(project, |project, number| project.with(&format!("d{}/f{number}.rs", number % 37), ""));
    let run = |threads: &str| {
        let ran = crate::common::signpost()
            .args(["survey", "--zones", "--format", "json", "--home"])
            .arg(project.home())
            .env("RAYON_NUM_THREADS", threads)
            .current_dir(project.root())
            .output()
            .unwrap();
        ran.stdout
    };
    let one = run("1");
    assert!(!one.is_empty() && one == run("4") && one == run("2"));
}
