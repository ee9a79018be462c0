//! `signpost at`, run on files.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};

fn project() -> Project {
    Project::with_profiles()
        .with("TT.md", "Root. See @docs/more.md\n")
        .with("docs/more.md", "More.\n")
        .with("src/TT.md", "Source.\n")
        .with("~/.tt/TT.md", "Home.\n")
        .with(".oo/notes/rs.md", "---\ncovers: \"*.rs\"\n---\n- Rust\n")
        .with(".oo/notes/py.md", "---\ncovers: [\"*.py\", \"scripts/**\"]\n---\n- Python\n")
        .with("BBSHEET.txt", "x".repeat(60) + "\n" + &"y".repeat(60) + "\n")
        .with("src/main.rs", "")
        .with(".oo-skip", "*.pem\n")
}

#[test]
fn a_brief_is_given_for_each_assistant() {
    let answer = project().json(&["at", "src/main.rs"]);
    assert_eq!((answer["schema"].as_str(), answer["start"].as_str()), (Some("signpost.brief/1"), Some(".")));
    assert_eq!(each(&answer["briefs"], "assistant"), ["bb", "oo", "tt"]);
    let [bb, oo, tt] = [0, 1, 2].map(|at| &answer["briefs"][at]);
    assert_eq!(each(&tt["entries"], "path"), ["~/.tt/TT.md", "TT.md", "docs/more.md", "src/TT.md"]);
    assert_eq!(tt["entries"][2]["why"]["code"], "referenced");
    assert_eq!(tt["entries"][2]["via"], "TT.md");
    assert_eq!(bb["entries"][0]["cut_at_line"], 2);
    assert_eq!(oo["entries"][0]["why"]["code"], "in-scope");
    assert_eq!(oo["left_out"][0]["why"]["code"], "out-of-scope");
    assert!(oo["hidden_by"].is_null());
    let hidden = project().json(&["at", "a/key.pem", "--assistant", "oo"]);
    assert_eq!(
        hidden["briefs"][0]["hidden_by"],
        serde_json::json!({"path": ".oo-skip", "line": 1, "pattern": "*.pem"})
    );
}

/// The text with each estimated weight as `≈N`.
fn without_weights(text: &str) -> String {
    let mut parts = text.split('≈');
    let head = parts.next().unwrap_or_default().to_owned();
    parts.fold(head, |text, part| text + "≈N" + part.trim_start_matches(|c: char| c.is_ascii_digit() || c == ','))
}

#[test]
fn text_puts_the_answer_first_and_reasons_on_request() {
    let project = project();
    let ran = project.run(&["at", "src/new.rs", "--assistant", "oo"]);
    assert_eq!(ran.code, 0);
    let tokens = without_weights(&ran.out);
    assert_eq!(
        tokens,
        "src/new.rs  (not there yet)\n\nOo  1 file, ≈N tokens\n  1  .oo/notes/rs.md  ≈N  the pattern *.rs takes this file\n  1 rule stays out\n\n--why-not says why rules stay out, --text prints what was told\n"
    );
    let why = project.run(&["at", "src/main.rs", "--assistant", "oo", "--why-not"]).out;
    assert!(why.contains(".oo/notes/py.md  none of its patterns matches: *.py, scripts/**"), "{why}");
}

#[test]
fn text_of_one_assistant_is_exactly_what_it_was_told() {
    let ran = project().run(&["at", "src/main.rs", "--assistant", "bb", "--text"]);
    assert_eq!(
        ran.out,
        format!("----- BBSHEET.txt, cut off in line 2 -----\n{}\n{}\n", "x".repeat(60), "y".repeat(39))
    );
}

#[test]
fn paths_count_from_the_current_folder() {
    let project = project();
    let inside = project.root().join("src");
    let ran = project.run_in(&inside, &["at", "main.rs", "../docs/a.py", "--assistant", "tt"]);
    assert!(ran.out.contains("\nsrc/main.rs\n") && ran.out.contains("\ndocs/a.py  (not there yet)\n"), "{}", ran.out);
    let absolute = project.root().join("src/main.rs");
    assert!(project.run(&["at", absolute.to_str().unwrap()]).out.starts_with("src/main.rs\n"));
    let from = project.run_in(&inside, &["at", "main.rs", "--from", ".", "--format", "json"]);
    assert!(from.out.contains("\"start\": \"src\""));
}

/// Misnamed, misplaced and broken files on the way are named with what stays out, and those elsewhere are not.
#[test]
fn why_not_names_what_nobody_reads_on_the_way() {
    let project = Project::with_profiles()
        .with("src/main.rs", "")
        .with("web/x.ts", "")
        .with(".oo/note/a.md", "- Nobody reads this\n")
        .with(".oo/notes/b.md", "---\ncovers: *.rs\n---\n- Read as meant\n")
        .with("src/tt.md", "- Nor this\n")
        .with("web/Tt.md", "- Elsewhere\n");
    let ran = project.run(&["at", "src/main.rs", "--why-not"]);
    let (_, trouble) = ran.out.split_once("On the way, and not read as it is meant\n").unwrap();
    for part in [
        ".oo/note/a.md",
        "nobody reads it: the folder note lacks a plural s",
        ".oo/notes/b.md",
        "broken in line 2",
        "src/tt.md",
    ] {
        assert!(trouble.contains(part), "{part}: {trouble}");
    }
    assert!(!trouble.contains("web/"), "{trouble}");
    let json = project.json(&["at", "src/main.rs", "--why-not"]);
    assert_eq!(crate::common::each(&json["misplaced"], "path"), [".oo/note/a.md", ".oo/notes/b.md", "src/tt.md"]);
    assert!(!project.run(&["at", "src/main.rs"]).out.contains("On the way"), "only who asks is told");
}

#[test]
fn only_assistants_with_a_candidate_on_the_way_answer() {
    let project = Project::with_profiles().with("a/TT.md", "").with("~/.tt/TT.md", "").with("b/x.c", "");
    assert_eq!(project.json(&["at", "b/x.c"])["briefs"].as_array().unwrap().len(), 0);
    assert!(project.run(&["at", "b/x.c"]).out.contains("No assistant is told anything here"));
    assert_eq!(each(&project.json(&["at", "a/x.c"])["briefs"], "assistant"), ["tt"]);
}

#[test]
fn what_is_no_file_of_the_project_is_refused() {
    let project = project();
    project.run(&["at", "../elsewhere.rs"]).fails(2, &["lies outside of the project"]);
    project.run(&["at", "/etc/passwd"]).fails(2, &["lies outside of the project"]);
    project.run(&["at", "x.rs", "--from", "gone"]).fails(2, &["there is no such folder"]);
    project.run(&["at"]).fails(2, &["FILE"]);
    project.run(&["at", "x.rs", "--assistant", "tr"]).fails(2, &["there is no assistant `tr`", "did you mean `tt`?"]);
}
