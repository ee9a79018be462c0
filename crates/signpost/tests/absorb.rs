//! Hand edits in published files, taken back into the rules.

#![allow(clippy::unwrap_used)]

mod common;

use common::Project;

fn published() -> Project {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("web/app.ts", "")
        .with(
            "guidance/rules/house.md",
            "# House\n\n- Sand the boards\n- Oil the boards\n\n## Paint\n\nUse two coats.\n",
        )
        .with(
            "guidance/rules/rust.md",
            "+++\nsummary = \"Rust\"\npaths = [\"*.rs\"] # all of it\n+++\n\n# Names\n\n- Keep names short\n",
        );
    assert_eq!(project.run(&["publish"]).code, 0);
    project
}

impl Edited for Project {}

trait Edited {
    fn edit(self, file: &str, from: &str, to: &str) -> Project
    where
        Self: Into<Project>,
    {
        let project: Project = self.into();
        let text = project.read(file);
        assert!(text.contains(from), "{from:?} is not in {text}");
        project.with(file, text.replacen(from, to, 1))
    }
}

#[test]
fn an_edit_goes_back_into_its_rule_and_from_there_to_all() {
    for (file, from, to) in [
        ("AGENTS.md", "- Oil the boards", "- Oil the boards twice\n- Then wait"),
        ("TT.own.md", "Use two coats.", "Use three coats."),
        ("BBSHEET.txt", "- Sand the boards\n", ""),
        (".oo/notes/house.md", "# House", "# The house"),
    ] {
        let project = published().edit(file, from, to);
        let edited = project.read(file);
        let ran = project.run(&["absorb"]);
        assert_eq!(ran.code, 0, "{file}: {}{}", ran.out, ran.err);
        assert!(ran.out.contains("Took the edits of 1 file back into 1 rule."), "{}", ran.out);
        assert_eq!(project.run(&["publish"]).code, 0, "{file}");
        // The file is as its editor left it, and the others say the same.
        assert_eq!(project.read(file), edited);
        assert_eq!(project.run(&["publish", "--check"]).code, 0);
        assert!(project.run(&["absorb"]).out.contains("nothing to absorb"));
        if !to.is_empty() {
            let last = to.lines().last().unwrap();
            assert!(project.read("guidance/rules/house.md").contains(last) && project.read("AGENTS.md").contains(last));
        }
    }
}

#[test]
fn sections_know_their_rule_and_headings_their_depth() {
    let project =
        published().edit("BBSHEET.txt", "- Keep names short", "- Keep names long\n\n### Files\n\n- One a type");
    let ran = project.run(&["absorb", "BBSHEET.txt"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let rule = project.read("guidance/rules/rust.md");
    assert!(rule.ends_with("# Names\n\n- Keep names long\n\n## Files\n\n- One a type\n"), "{rule}");
    assert!(rule.starts_with("+++\nsummary = \"Rust\"\npaths = [\"*.rs\"] # all of it\n+++\n"), "{rule}");
    // What a section applies to is said elsewhere.
    let project = published().edit("BBSHEET.txt", "# For `*.rs`", "# For `*.c`");
    let before = project.files();
    let ran = project.run(&["absorb"]);
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("belongs to no rule") && ran.out.contains("BBSHEET.txt:"), "{}", ran.out);
    assert_eq!(project.files(), before);
}

#[test]
fn keys_of_a_header_go_back_too() {
    let project = published()
        .edit(".oo/notes/rust.md", "covers: [\"*.rs\"]", "covers: [\"*.rs\", \"web/**\"]\nskips: \"*.test.rs\"")
        .edit(".oo/notes/rust.md", "about: Rust", "about: Rust and the web");
    let ran = project.run(&["absorb"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let rule = project.read("guidance/rules/rust.md");
    assert!(rule.contains("summary = \"Rust and the web\"\npaths = [\"*.rs\", \"web/**\"]"), "{rule}");
    assert!(rule.contains("except = [\"*.test.rs\"]"), "{rule}");
    assert_eq!(project.run(&["publish"]).code, 0);
    // A key that the guidance has no word for.
    let project = published().edit(".oo/notes/rust.md", "about: Rust", "about: Rust\nowner: me");
    let ran = project.run(&["absorb"]);
    assert!(ran.code == 1 && ran.out.contains("nothing for the key `owner`"), "{}", ran.out);
}

#[test]
fn edits_on_both_sides_are_merged_where_they_can_be() {
    // Two files were edited, in different places, and both go into the rule.
    let project = published()
        .edit("AGENTS.md", "- Sand the boards", "- Sand the boards well")
        .edit("TT.own.md", "Use two coats.", "Use three coats.");
    assert_eq!(project.run(&["absorb"]).code, 0);
    let rule = project.read("guidance/rules/house.md");
    assert!(rule.contains("- Sand the boards well") && rule.contains("Use three coats."), "{rule}");
    assert_eq!(project.run(&["publish"]).code, 0);

    // The same line in different words is left to the person, with both sides shown.
    let project = published()
        .edit("AGENTS.md", "Use two coats.", "Use four coats.")
        .edit("TT.own.md", "Use two coats.", "Use three coats.");
    let ran = project.run(&["absorb"]);
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("Use four coats.") && ran.out.contains("in different ways"), "{}", ran.out);
    assert!(project.read("TT.own.md").contains("three") && project.read("AGENTS.md").contains("four"));
}

#[test]
fn what_was_published_is_found_in_the_history() {
    let project = published();
    let git = |args: &[&str]| {
        let done = std::process::Command::new("git")
            .args(["-c", "user.name=a", "-c", "user.email=a@example.com", "-c", "commit.gpgsign=false"])
            .args(args)
            .current_dir(project.root())
            .output()
            .unwrap();
        assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    };
    git(&["init", "-q"]);
    // Both sides changed, and nothing is known of what was before.
    let project = {
        let project = project.edit("AGENTS.md", "Use two coats.", "Use three coats.").edit(
            "guidance/rules/house.md",
            "- Sand the boards\n",
            "- Sand the boards\n- Sand the floor\n",
        );
        let ran = project.run(&["absorb"]);
        assert!(ran.code == 1 && ran.out.contains("not in git's history"), "{}", ran.out);
        project.edit("AGENTS.md", "Use three coats.", "Use two coats.")
    };
    let git = |args: &[&str]| {
        std::process::Command::new("git")
            .args(["-c", "user.name=a", "-c", "user.email=a@example.com", "-c", "commit.gpgsign=false"])
            .args(args)
            .current_dir(project.root())
            .output()
            .unwrap()
    };
    git(&["add", "."]);
    git(&["commit", "-qm", "all"]);
    let project = project.edit("AGENTS.md", "Use two coats.", "Use three coats.");
    let ran = project.run(&["absorb"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let rule = project.read("guidance/rules/house.md");
    assert!(rule.contains("Use three coats.") && rule.contains("- Sand the floor"), "{rule}");
    assert_eq!(project.run(&["publish"]).code, 0);
}

#[test]
fn what_can_not_be_absorbed_is_said() {
    let project = published();
    project.run(&["absorb", "web/app.ts"]).fails(2, &["was not published", "signpost adopt"]);
    let project = project.edit("AGENTS.md", "# House", "Read this first.\n\n# House");
    assert_eq!(project.run(&["absorb", "--dry-run"]).code, 0);
    let project = project.with(".oo/notes/house.md", "---\nload: each\n---\n");
    let ran = project.run(&["absorb", ".oo/notes/house.md"]);
    assert!(ran.code == 1 && ran.out.contains("was taken out"), "{}", ran.out);
}

/// Killed at each step that changes the disk, absorbing loses no edit, and the next run finishes.
#[test]
fn a_killed_run_loses_no_edit() {
    for at in 1.. {
        let project = published().edit("AGENTS.md", "Use two coats.", "Use three coats.");
        let output = project.command(&["absorb"]).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
        assert!(project.read("AGENTS.md").contains("Use three coats."), "killed at step {at}");
        let done = output.status.success();
        assert_eq!(project.run(&["absorb"]).code, 0, "killed at step {at}");
        assert_eq!(project.run(&["publish"]).code, 0, "killed at step {at}");
        assert!(project.read("guidance/rules/house.md").contains("Use three coats."), "killed at step {at}");
        assert!(project.read("TT.own.md").contains("Use three coats."), "killed at step {at}");
        if done {
            assert!(at > 5, "it was killed at {at} points only");
            break;
        }
    }
}
