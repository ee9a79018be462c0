//! The tour, pipes and colour.

#![allow(clippy::unwrap_used)]

use crate::common::Project;

#[test]
fn the_tour_shows_each_command_before_its_output() {
    let project = Project::new();
    let ran = project.run(&["tour", "--into", "kept"]);
    assert_eq!(ran.code, 0, "{}", ran.err);
    let at = |words: &str| ran.out.find(words).unwrap_or_else(|| panic!("{words} is not in the tour"));
    assert!(at("$ signpost survey") < at("instruction files for 4 assistants"));
    assert!(at("$ signpost at kiosk/") < at("Tansel  9 files"));
    assert!(at("$ signpost lint docs") < at("safety/hidden-text"));
    assert!(at("$ signpost adopt") < at("same as before, in the same precedence"));
    assert!(at("$ signpost publish\n") < at("$ signpost parity") && at("$ signpost parity") < at("$ signpost absorb"));
    assert!(at("$ signpost absorb") < at("back into 1 rule") && at("back into 1 rule") < at("files are as publishing"));
    // What writes runs on a copy.
    assert!(!project.root().join("kept/hollowbarrow/signpost.lock").exists());
    assert!(project.root().join("kept/hollowbarrow/signpost.toml").is_file());
    project.run(&["tour", "--into", "kept"]).fails(2, &["kept is not empty"]);
}

/// The sample project has each kind of mistake at least once, and enough that is right.
#[test]
fn every_check_finds_something_in_the_sample_project() {
    let project = Project::new();
    project.run(&["tour", "--into", "kept"]);
    let root = project.root().join("kept/hollowbarrow");
    let explained = project.json(&["explain"]);
    let mut lint = project.run_in(&root, &["lint", "--format", "json"]).out;
    // Some are off unless asked for.
    lint += &project.run_in(&root, &["lint", "--only", "wording", "--format", "json"]).out;
    // All of its assistants have profiles, without a mistake: else nothing could be published there.
    let of_profiles = ["place/broken-profile", "place/unknown-assistant"];
    for check in crate::common::each(&explained["checks"], "check").into_iter().filter(|it| !of_profiles.contains(it)) {
        assert!(lint.contains(&format!("\"{check}\"")), "{check} finds nothing in demo/");
    }
}

#[test]
fn a_pipe_that_closes_early_is_no_error() {
    use std::io::Read;
    use std::process::Stdio;
    let project = Project::new();
    let mut child = crate::common::signpost()
        .args(["explain", "--home"])
        .arg(project.home())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    drop(child.stdout.take());
    // As a shell shows the system's own tools that a closed pipe ended.
    assert_eq!(child.wait().unwrap().code(), Some(141));
    let mut said = String::new();
    child.stderr.take().unwrap().read_to_string(&mut said).unwrap();
    assert_eq!(said, "");
}

#[test]
fn colour_is_only_for_terminals_and_on_request() {
    let project = Project::new().with("AGENTS.md", "- Be kind\n");
    assert!(!project.run(&["survey"]).out.contains('\u{1b}'));
    assert!(project.run(&["survey", "--color", "always"]).out.contains('\u{1b}'));
}
