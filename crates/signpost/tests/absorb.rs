//! Hand edits in published files, taken back into the rules.

#![allow(clippy::unwrap_used)]

use crate::common::Project;

fn published() -> Project {
    let project = Project::with_profiles()
        .with(
            "signpost.toml",
            "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n[publish]\nremark = true\n",
        )
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
#[cfg_attr(not(debug_assertions), ignore = "only a debug build can be made to die at a step")]
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

/// What is no part of a rule, or may be of two, is left to the person, and nothing is written.
#[test]
fn what_is_unsure_is_left_to_the_person() {
    for (file, from, to, said) in [
        // A header that is none any more would be pasted into the rule.
        (".oo/notes/rust.md", "---\n#", "Read this.\n\n---\n#", "can't be read as one any more"),
        (".oo/notes/rust.md", "\n---\n\n#", "\n\n#", "can't be read as one any more"),
        (".oo/notes/rust.md", "about: Rust", "# mine\nabout: Rust", "a remark in its header"),
        // A heading that ends a section does not stand in it.
        ("BBSHEET.txt", "- Keep names short", "- Keep names short\n\n# Files\n\n- One a type", "would end the section"),
        ("BBSHEET.txt", "# For `*.rs`", "# Tools\n\n- None\n\n# For `*.rs`", ""),
    ] {
        let project = published().edit(file, from, to);
        let before = project.files();
        let ran = project.run(&["absorb", "--dry-run"]);
        if said.is_empty() {
            // Before the next section's heading it stands in the one before, which goes on to there.
            assert_eq!(ran.code, 0, "{file}: {}", ran.out);
            continue;
        }
        assert_eq!(ran.code, 1, "{file} {to}: {}{}", ran.out, ran.err);
        assert!(ran.out.contains(said), "{said}: {}", ran.out);
        project.run(&["absorb"]);
        assert_eq!(project.files(), before);
    }
}

fn two_rules() -> Project {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\"]\n")
        .with("src/main.rs", "")
        .with("guidance/rules/a.md", "- Sand the boards\n")
        .with("guidance/rules/b.md", "- Oil the boards\n")
        .with("guidance/rules/c.md", "+++\npaths = [\"*.rs\"]\n+++\n\n- Keep names short\n");
    assert_eq!(project.run(&["publish"]).code, 0);
    project
}

/// An insertion belongs to the section that it stands in.
#[test]
fn insertions_belong_where_they_stand() {
    for (from, to, rule) in [
        ("- Sand the boards\n", "- Sand the boards\n- And the floor\n", Some("a")),
        ("- Oil the boards\n", "- And the floor\n- Oil the boards\n", Some("b")),
        ("## For `*.rs`\n", "## For `*.rs`\n\n### Files\n\n- And the floor\n", Some("c")),
        ("## For `*.rs`\n", "## For `*.rs`\n- And the floor\n", Some("c")),
        ("\n## For `*.rs`\n", "\n- And the floor\n\n## For `*.rs`\n", Some("b")),
        ("- Keep names short\n", "- Keep names short\n\n- And the floor\n", Some("c")),
        ("\n- Oil the boards\n", "\nAnd the floor.\n\n- Oil the boards\n", None),
    ] {
        let project = two_rules().edit("BBSHEET.txt", from, to);
        let ran = project.run(&["absorb"]);
        let Some(rule) = rule else {
            assert!(ran.code == 1 && ran.out.contains("stands between the texts of"), "{}", ran.out);
            continue;
        };
        assert_eq!(ran.code, 0, "{to:?}: {}{}", ran.out, ran.err);
        for name in ["a", "b", "c"] {
            let text = project.read(&format!("guidance/rules/{name}.md"));
            assert_eq!(text.contains("nd the floor"), name == rule, "{to:?}: {name} is {text}");
        }
        assert_eq!(project.run(&["publish"]).code, 0);
    }
}

/// Lines that nobody touched stay in the rule as they are: depth and form of headings, line ends, blanks, the last line.
#[test]
fn untouched_lines_keep_their_bytes() {
    let head = "+++\r\npaths = [\"*.rs\"]\r\n+++\r\n\r\n";
    let body = "Names\r\n=====\r\n\r\n- Keep names short  \r\n\r\n###### Deep\r\n\r\n    code\r\n- last";
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\"]\n")
        .with("src/main.rs", "")
        .with("guidance/rules/names.md", format!("{head}{body}"));
    assert_eq!(project.run(&["publish"]).code, 0);
    let project = project.edit("BBSHEET.txt", "- Keep names short  \n", "- Keep names short  \n- One a type\n");
    assert_eq!(project.run(&["absorb"]).code, 0);
    let right = body.replace("short  \r\n", "short  \r\n- One a type\r\n");
    assert_eq!(project.read("guidance/rules/names.md"), format!("{head}{right}"));
}

#[test]
fn texts_without_a_last_line_end_and_with_lone_returns_are_merged() {
    let project = published();
    let text = project.read("AGENTS.md");
    // A lone carriage return is no line end, to nobody.
    let project = project.with("AGENTS.md", text.replace("Use two coats.", "Use two\rcoats."));
    let ran = project.run(&["absorb"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(project.read("guidance/rules/house.md").contains("Use two\rcoats."));

    // Both sides change the last line, which has no end.
    let project = published();
    let committed = |project: &Project, args: &[&str]| {
        let ran = std::process::Command::new("git")
            .args(["-c", "user.name=a", "-c", "user.email=a@example.com", "-c", "commit.gpgsign=false"])
            .args(args)
            .current_dir(project.root())
            .output()
            .unwrap();
        assert!(ran.status.success());
    };
    committed(&project, &["init", "-q"]);
    committed(&project, &["add", "."]);
    committed(&project, &["commit", "-qm", "all"]);
    let text = project.read("AGENTS.md");
    let edited = text.trim_end().replace("Use two coats.", "Use three coats.");
    let rule = project.read("guidance/rules/house.md").trim_end().replace("Use two coats.", "Use four coats.");
    let project = project.with("AGENTS.md", edited).with("guidance/rules/house.md", &rule);
    let ran = project.run(&["absorb"]);
    assert_eq!(ran.code, 1, "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("Use three coats.") && ran.out.contains("Use four coats."), "{}", ran.out);
    assert!(!ran.out.contains("<<<<"), "{}", ran.out);
    assert_eq!(project.read("guidance/rules/house.md"), rule);
}

/// Version control may write other line ends: that is no edit.
#[test]
fn line_ends_alone_are_no_edit() {
    let project = published();
    let files: Vec<String> =
        ["AGENTS.md", "BBSHEET.txt", ".oo/notes/rust.md", "guidance/rules/house.md"].map(str::to_owned).into();
    let project = files.iter().fold(project, |project, file| {
        let text = project.read(file).replace('\n', "\r\n");
        project.with(file, text)
    });
    project.run(&["publish", "--check"]).fails(0, &[]);
    assert!(project.run(&["absorb"]).out.contains("nothing to absorb"));
    assert!(project.run(&["lint", "--skip", "size"]).out.starts_with("Nothing found"));
    // An edit in such a file goes back like any other.
    let project = project.edit("AGENTS.md", "Use two coats.\r\n", "Use three coats.\r\n");
    assert_eq!(project.run(&["absorb"]).code, 0);
    assert!(project.read("guidance/rules/house.md").ends_with("## Paint\r\n\r\nUse three coats.\r\n"));
    project.run(&["publish"]).fails(0, &[]);
}

#[cfg(unix)]
#[test]
fn an_edited_file_in_the_place_of_a_link_is_absorbed() {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"tt\"]\n[publish]\nlinks = true\n")
        .with("src/main.rs", "")
        .with("guidance/rules/a.md", "- Sand the boards\n");
    assert_eq!(project.run(&["publish"]).code, 0);
    let link = ["AGENTS.md", "TT.own.md", "TT.md"]
        .into_iter()
        .find(|file| project.root().join(file).symlink_metadata().is_ok_and(|meta| meta.is_symlink()));
    let link = link.expect("one of two equal files is a link");
    let text = project.read(link);
    std::fs::remove_file(project.root().join(link)).unwrap();
    let project = project.with(link, format!("{text}- Oil the boards\n"));
    assert_eq!(project.run(&["publish"]).code, 1);
    let ran = project.run(&["absorb"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert_eq!(project.read("guidance/rules/a.md"), "- Sand the boards\n- Oil the boards\n");
    project.run(&["publish"]).fails(0, &[]);
    assert!(project.root().join(link).symlink_metadata().unwrap().is_symlink());
    project.run(&["publish", "--check"]).fails(0, &[]);
}

#[test]
fn one_assistant_s_edits_are_asked_for_alone() {
    let project = published()
        .edit(".oo/notes/house.md", "Use two coats.", "Use three coats.")
        .edit("BBSHEET.txt", "# For `*.rs`", "# For `*.c`");
    let ran = project.run(&["absorb", "-a", "oo"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(!ran.out.contains("BBSHEET"), "{}", ran.out);
}
