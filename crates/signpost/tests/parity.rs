//! Whether assistants are told the same.

#![allow(clippy::unwrap_used)]

use crate::common::Project;

fn three() -> Project {
    Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("web/app.ts", "")
        .with("AGENTS.md", "- Sand the boards twice\n- Answer in Welsh\n")
        .with("TT.md", "# Notes\n\n- Sand the boards three times\n- **Answer** in Welsh!\n")
        .with(".oo/notes/a.md", "---\ncovers: \"*.rs\"\n---\n- Answer in Welsh\n- Sand the boards twice\n")
        .with("~/.tt/TT.md", "- Mine alone\n")
}

#[test]
fn differences_are_found_without_any_guidance() {
    let ran = three().run(&["parity"]);
    assert_eq!(ran.code, 1);
    assert!(
        ran.out.starts_with("3 assistants are told different things: 3 directives differ, in 2 of 2 zones."),
        "{}",
        ran.out
    );
    assert!(
        ran.out.contains("Sand the boards ‹twice›") && ran.out.contains("Sand the boards ‹three times›"),
        "{}",
        ran.out
    );
    assert!(!ran.out.contains("Mine alone"), "{}", ran.out);
    let json = three().json(&["parity"]);
    let row = |text: &str| {
        let rows = json["directives"].as_array().unwrap();
        rows.iter().find(|row| row["text"].as_str().unwrap().contains(text)).unwrap().clone()
    };
    // The notes say it for one file, the others for both.
    let welsh = row("Welsh");
    let told: Vec<_> = (0..3).map(|at| welsh["assistants"][at]["files_told"].as_u64().unwrap()).collect();
    assert_eq!((welsh["kind"].as_str(), told), (Some("reach"), vec![2, 1, 2]));
    assert_eq!(welsh["assistants"][2]["line"].as_u64(), Some(4));
    assert_eq!(row("three times")["kind"].as_str(), Some("words"));
}

#[test]
fn two_can_be_compared() {
    let project = three().with("TT.md", "- Answer in Welsh\n- Sand the boards twice\n");
    let ran = project.run(&["parity", "--between", "agents-md", "tt"]);
    assert_eq!(ran.code, 0, "{}", ran.out);
    assert!(ran.out.contains("AGENTS.md and Tt are told the same: 2 directives in 1 zone."), "{}", ran.out);
    project.run(&["parity", "--between", "agents-md", "ttt"]).fails(2, &["no assistant `ttt`", "did you mean `tt`"]);
    let alone = project.run(&["parity", "--assistant", "tt"]);
    assert!(alone.code == 0 && alone.out.contains("Only Tt is in use"), "{}", alone.out);
}

#[test]
fn differences_can_be_meant() {
    let toml = "[project]\nassistants = [\"agents-md\", \"oo\", \"tt\"]\n[[parity.allow]]\nassistants = [\"oo\"]\n\
                reason = \"the notes are for Rust\"\n[[parity.allow]]\nwords = \"sand the boards\"\nreason = \"tried out\"\n";
    let project = three().with("signpost.toml", toml);
    let ran = project.run(&["parity"]);
    assert_eq!(ran.code, 0, "{}", ran.out);
    assert!(ran.out.contains("but for what is meant to differ"), "{}", ran.out);
    assert!(project.run(&["parity", "--all"]).out.contains("the notes are for Rust"));
    let files = "[project]\nassistants = [\"agents-md\", \"tt\"]\n[[parity.allow]]\nfiles = [\"TT.md\"]\nreason = \"a trial\"\n";
    let ran = three().with("signpost.toml", files).run(&["parity", "--all"]);
    assert!(ran.out.contains("a trial") && ran.out.contains("1 directive differs"), "{}", ran.out);
    let idle = format!("{toml}[[parity.allow]]\nwords = \"plane\"\nreason = \"long gone\"\n");
    assert!(three().with("signpost.toml", &idle).run(&["parity"]).out.contains("“long gone” allows nothing any more"));
    for (entry, words) in [
        ("assistants = [\"o\"]\nreason = \"x\"", "there is no profile `o`"),
        ("paths = [\"a[\"]\nreason = \"x\"", "is no valid pattern"),
        ("reason = \" \"", "the reason is empty"),
        ("words = \"x\"", "`reason` is missing"),
    ] {
        let bad = format!("[[parity.allow]]\n{entry}\n");
        three().with("signpost.toml", &bad).run(&["parity"]).fails(2, &[words, "signpost.toml:"]);
    }
}

#[test]
fn what_was_published_is_told_alike() {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("web/app.ts", "")
        .with("guidance/rules/a.md", "# House\n\n- Sand the boards twice\n")
        .with("guidance/rules/b.md", "+++\npaths = [\"*.rs\"]\n+++\n- Answer in Welsh\n")
        .with(
            "guidance/rules/c.md",
            "+++\nsummary = \"Adding a boat\"\nreach = \"offered\"\n+++\n1. Ask the yard first\n",
        );
    assert_eq!(project.run(&["publish"]).code, 0);
    let ran = project.run(&["parity"]);
    assert_eq!(ran.code, 0, "{}", ran.out);
    // A rule that names its assistants is meant so.
    let project = project.with("guidance/rules/d.md", "+++\nassistants = [\"oo\"]\n+++\n- Speak to Oo\n");
    assert_eq!(project.run(&["publish"]).code, 0);
    let ran = project.run(&["parity", "--all"]);
    assert!(ran.code == 0 && ran.out.contains("guidance/rules/d.md is for oo only"), "{}", ran.out);
}

/// An allowance for some files of a zone holds for those alone.
#[test]
fn an_allowance_ends_where_its_paths_end() {
    let with = |paths: &str| {
        let toml = format!(
            "[project]\nassistants = [\"agents-md\", \"tt\"]\n[[parity.allow]]\npaths = [{paths}]\nreason = \"a trial\"\n"
        );
        Project::with_profiles()
            .with("signpost.toml", &*toml)
            .with("a/one.rs", "")
            .with("b/two.rs", "")
            .with("b/three.rs", "")
            .with("AGENTS.md", "- Sand the boards twice\n")
            .with("TT.md", "- Caulk the seams\n")
    };
    let files = |paths: &str| {
        let json = with(paths).json(&["parity"]);
        let rows = json["directives"].as_array().unwrap().clone();
        rows.iter().map(|row| (row["files"].as_u64().unwrap(), row["meant"].is_string())).collect::<Vec<_>>()
    };
    assert_eq!(files("\"c/**\""), [(3, false), (3, false)], "it takes nothing");
    assert_eq!(files("\"a/**\""), [(2, false), (2, false)], "the first file of what was one zone");
    assert_eq!(files("\"b/**\""), [(1, false), (1, false)], "those after it");
    assert_eq!(files("\"a/**\", \"b/*.rs\""), [(3, true), (3, true)], "all");
    for (paths, idle) in [("\"c/**\"", true), ("\"b/**\"", false)] {
        let ran = with(paths).run(&["parity"]);
        assert_eq!(ran.out.contains("“a trial” allows nothing any more"), idle, "{}", ran.out);
        assert_eq!(ran.code, 1);
    }
    assert_eq!(with("\"**\"").run(&["parity"]).code, 0);
}

/// What nobody can follow together comes first, then what is missing, then wording; conditions above it count.
#[test]
fn what_is_told_in_opposition_comes_first() {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("AGENTS.md", "- Indent with tabs.\n- Wipe the bench at night.\n- Keep the ink in the cold room\n\n## Python\n\n- Use single quotes.\n")
        .with("TT.md", "- Indent with spaces.\n- Keep the ink in the dark room\n\n## JavaScript\n\n- Use double quotes.\n");
    let ran = project.run(&["parity"]);
    let at = |title: &str| ran.out.find(title).unwrap_or_else(|| panic!("{title}: {}", ran.out));
    assert!(at("Told the opposite  2 directives") < at("Not told to all"), "{}", ran.out);
    assert!(at("Not told to all") < at("In nearly the same words"), "{}", ran.out);
    let json = project.json(&["parity"]);
    let kind = |words: &str| {
        let rows = json["directives"].as_array().unwrap();
        rows.iter().find(|row| row["text"].as_str().unwrap().contains(words)).unwrap()["kind"]
            .as_str()
            .unwrap()
            .to_owned()
    };
    assert_eq!((&*kind("tabs"), &*kind("spaces")), ("opposed", "opposed"));
    // The one is about Python, the other about JavaScript.
    assert_ne!(kind("single quotes"), "opposed");
    assert_eq!((&*kind("Wipe"), &*kind("cold room")), ("missing", "words"));
}

/// Only one assistant has something like that, so nobody can tell the others.
#[test]
fn what_only_one_can_have_is_no_difference() {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("TT.md", "- Keep the ink dry.\n")
        .with(".oo/notes/a.md", "---\nload: each\n---\n- Keep the ink dry.\n")
        .with(".oo/notes/b.md", "---\nabout: When it rains\n---\n- Close the roof windows.\n")
        .with(".oo/kits/boat/KIT.md", "---\nabout: New boats\n---\n- Measure the hull twice.\n");
    let ran = project.run(&["parity"]);
    assert_eq!((ran.code, ran.out.contains("are told the same")), (0, true), "{}", ran.out);
    // What it is told always, the other could be told too.
    let project = project.with(".oo/notes/c.md", "---\nload: each\n---\n- Lock the gate.\n");
    let ran = project.run(&["parity"]);
    assert!(ran.code == 1 && ran.out.contains("Lock the gate."), "{}", ran.out);
}
