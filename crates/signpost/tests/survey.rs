//! `signpost survey`, run on files.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};

fn project() -> Project {
    Project::with_profiles()
        .with("AGENTS.md", "- Be kind\n")
        .with(".oo/notes/a.md", "---\nload: each\n---\n- A\n")
        .with(".oo/notes/deep/b.md", "---\ncovers: src/**\nskips: \"*.gen.rs\"\n---\n- B\n")
        .with(".oo/kits/k/KIT.md", "---\nabout: A kit\n---\n")
        .with("src/TT.md", "- T\n")
        .with("~/.tt/TT.md", "- Home\n")
        .with("BBSHEET.txt", "All of it\n")
        .with("src/main.rs", "")
        .with("src/x.gen.rs", "")
        .with("docs/a.txt", "")
        .with("target/out.rs", "")
        .with("target/AGENTS.md", "ignored, and found\n")
        .with(".gitignore", "target/\n")
}

#[test]
fn every_instruction_file_is_listed_with_what_it_reaches() {
    let survey = project().json(&["survey"]);
    assert_eq!(survey["schema"], "signpost.survey/1");
    assert_eq!(each(&survey["assistants"], "name"), ["agents-md", "bb", "oo", "tt"]);
    let files = survey["files"].as_array().unwrap();
    let file = |path: &str| files.iter().find(|file| file["path"] == path).unwrap();
    let rule = file(".oo/notes/deep/b.md");
    assert_eq!(rule["reach"], "scoped");
    assert_eq!(rule["patterns"][0], "src/**");
    assert_eq!(rule["except"][0], "*.gen.rs");
    assert_eq!(rule["matches"], 1);
    assert_eq!(rule["lines"], 5);
    assert_eq!(rule["kind"], "rule");
    assert_eq!(file("src/TT.md")["matches"], 2);
    assert_eq!(file("~/.tt/TT.md")["level"], "user");
    assert_eq!(file("~/.tt/TT.md")["matches"], 4, ".gitignore is a source file too");
    assert_eq!(file(".oo/kits/k/KIT.md")["reach"], "offered");
    assert_eq!(file("target/AGENTS.md")["matches"], 0);
    assert_eq!(survey["source_files"], 4);
}

#[test]
fn assistants_can_be_chosen() {
    let project = project();
    assert_eq!(each(&project.json(&["survey", "--assistant", "tt"])["assistants"], "name"), ["tt"]);
    let project = project.with("signpost.toml", "[project]\nassistants = [\"oo\"]\n");
    assert_eq!(each(&project.json(&["survey"])["assistants"], "name"), ["oo"]);
}

#[test]
fn a_file_in_the_home_folder_makes_no_assistant_be_in_use() {
    let project = Project::with_profiles().with("~/.tt/TT.md", "- Home\n").with("AGENTS.md", "");
    assert_eq!(each(&project.json(&["survey"])["assistants"], "name"), ["agents-md"]);
}

/// Each row: a file that nobody reads, and the path that it should have.
#[test]
fn near_misses_are_found() {
    for (path, right) in [
        ("AGENT.md", "AGENTS.md"),
        ("src/Agents.md", "src/AGENTS.md"),
        ("AGNETS.md", "AGENTS.md"),
        ("AGENTS.txt", "AGENTS.md"),
        (".agents.md", "AGENTS.md"),
        ("oo/notes/x.md", ".oo/notes/x.md"),
        (".oo/note/x.md", ".oo/notes/x.md"),
        (".oo/notes/x.markdown", ".oo/notes/x.md"),
        (".Oo/notes/deep/x.md", ".oo/notes/deep/x.md"),
        (".oo/kits/k/kit.md", ".oo/kits/k/KIT.md"),
        ("bbsheet.txt", "BBSHEET.txt"),
        ("sub/BBSHEET.txt", "BBSHEET.txt"),
        ("sub/.oo/notes/x.md", ".oo/notes/x.md"),
    ] {
        let survey = Project::with_profiles().with(path, "- Be kind\n").json(&["survey"]);
        let found: Vec<_> = survey["unclaimed"]
            .as_array()
            .unwrap()
            .iter()
            .map(|one| (one["path"].as_str().unwrap(), one["right"].as_str().unwrap_or("none")))
            .collect();
        assert_eq!(found, [(path, right)]);
    }
}

#[test]
fn ordinary_files_are_no_near_misses() {
    let project = Project::with_profiles()
        .with("docs/agents.md", "")
        .with("docs/tools.md", "")
        .with("docs/users.md", "")
        .with("src/agent.rs", "")
        .with("src/notes/a.md", "")
        .with("README.md", "")
        .with("oo/readme.md", "")
        .with("AGENTS.md", "");
    assert_eq!(project.json(&["survey"])["unclaimed"].as_array().unwrap().len(), 0);
}

#[test]
fn a_displaced_file_is_named_with_the_one_that_displaces_it() {
    let survey = Project::with_profiles().with("a/TT.md", "").with("a/TT.own.md", "").json(&["survey"]);
    assert_eq!(each(&survey["files"], "path"), ["a/TT.own.md"]);
    assert_eq!(survey["unclaimed"][0]["path"], "a/TT.md");
    assert!(survey["unclaimed"][0]["why"].as_str().unwrap().contains("a/TT.own.md"));
}

#[test]
fn an_empty_repository_gets_a_next_step() {
    let ran = Project::new().with("main.c", "").run(&["survey"]);
    assert_eq!(ran.code, 0);
    assert!(ran.out.starts_with("No instruction files here yet"));
    for way in ["signpost init", "signpost draft NAME", "signpost profile draft", "signpost tour"] {
        assert!(ran.out.contains(way), "{}", ran.out);
    }
}

#[test]
fn the_user_s_own_profiles_count_and_the_project_s_win() {
    let mine = |name: &str, file: &str| {
        format!("name = \"{name}\"\n[[place]]\nid = \"p\"\nlevel = \"project\"\nfiles = [\"{file}\"]\n")
    };
    let project = Project::new()
        .with("~/.config/signpost/profiles/a.toml", mine("mine", "MINE.md"))
        .with("~/.config/signpost/profiles/b.toml", mine("both", "WRONG.md"))
        .with("guidance/profiles/b.toml", mine("both", "BOTH.md"))
        .with("MINE.md", "")
        .with("BOTH.md", "")
        .with("WRONG.md", "");
    assert_eq!(each(&project.json(&["survey"])["files"], "path"), ["BOTH.md", "MINE.md"]);
}

#[test]
fn facts_are_listed_with_their_places() {
    let project = Project::new()
        .with(
            "package.json",
            "{\n  \"packageManager\": \"pnpm@9.1.0\",\n  \"scripts\": {\n    \"lint\": \"x\"\n  }\n}\n",
        )
        .with(".editorconfig", "[*.rs]\nindent_size = 4\n");
    let facts = project.json(&["survey", "--facts"]);
    assert_eq!(facts["schema"], "signpost.facts/1");
    let list: Vec<String> = facts["facts"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| {
            format!("{} {}={} {}:{}", one["kind"], one["name"], one["value"], one["path"], one["line"]).replace('"', "")
        })
        .collect();
    assert_eq!(
        list,
        [
            "package manager JavaScript=pnpm package.json:2",
            "version pnpm=9.1.0 package.json:2",
            "command npm run lint= package.json:4",
            "style indent width=4 for *.rs .editorconfig:2",
        ]
    );
    let text = project.run(&["survey", "--facts"]).out;
    assert!(text.contains("Package managers  1 fact") && text.contains("package.json:4"), "{text}");
    assert!(Project::new().run(&["survey", "--facts"]).out.starts_with("No manifest"));
    project.run(&["survey", "--facts", "--zones"]).fails(2, &["cannot be used with"]);
}
