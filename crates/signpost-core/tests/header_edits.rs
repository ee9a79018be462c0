//! Edits in the header of a published file: which go back into the rule's header, in which words, and which are refused.
//! One picture: every edit with what becomes of the rule.

#![allow(clippy::unwrap_used)]

use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::absorb::absorb;
use signpost_core::change::publish::{Content, changes, plan};
use signpost_core::files::MemoryTree;
use signpost_core::project::lock::Lock;
use signpost_core::project::workspace::Workspace;
use std::collections::BTreeMap;

const PROFILE: &str = r#"name = "us"
title = "Us"
[[place]]
id = "notes"
level = "folder"
files = [".us/*.md"]
base = "folder"
reach = "called"
header = "yaml"
[place.keys]
summary = "about"
paths = "covers"
except = "skips"
[[place.decide]]
key = "load"
is = "each"
reach = "standing"
[[place.decide]]
key = "covers"
present = true
reach = "scoped"
[[place.decide]]
key = "about"
present = true
reach = "offered"
[[place]]
id = "sheet"
level = "project"
files = ["US.md"]
header = "yaml"
[place.keys]
summary = "about"
"#;

type Files = BTreeMap<String, String>;

fn tree(files: &Files) -> MemoryTree {
    files.iter().fold(MemoryTree::new(), |tree, (path, text)| tree.with(path, text.as_str()))
}

/// A project with one rule, published.
fn published(profile: &str, path: &str, rule: &str) -> Files {
    let mut files = Files::from([
        ("guidance/profiles/us.toml".to_owned(), profile.to_owned()),
        ("signpost.toml".to_owned(), "[project]\nassistants = [\"us\"]\n[publish]\nremark = true\n".to_owned()),
        (path.to_owned(), rule.to_owned()),
    ]);
    for source in ["main.rs", "src/lib.rs", "kiosk/a.ts", "kiosk/old/b.ts"] {
        files.insert(source.to_owned(), String::new());
    }
    let lock = {
        let tree = tree(&files);
        let workspace = Workspace::open(&tree, &[]).unwrap();
        let project = workspace.project().unwrap();
        let us = workspace.profiles.iter().find(|profile| profile.name == "us").unwrap();
        let plan = plan(&workspace, &project, &[us]).unwrap();
        let lock = Lock { file: plan.files.iter().map(changes::locked).collect(), ..Lock::default() };
        for file in plan.files {
            let Content::Text(text) = file.content else { panic!("{} is a link", file.path) };
            files.insert(file.path.to_string(), text);
        }
        lock
    };
    files.insert("signpost.lock".to_owned(), lock.to_text());
    files
}

/// The rule as it becomes when `from` is replaced by `to` in its published file; or why not.
fn edited(profile: &str, path: &str, rule: &str, from: &str, to: &str) -> String {
    let mut files = published(profile, path, rule);
    let file = Lock::parse(&files["signpost.lock"]).unwrap().file[0].path.to_string();
    let text = files[&file].clone();
    assert!(text.contains(from), "{from:?} is not in {text}");
    files.insert(file, text.replacen(from, to, 1));
    let tree = tree(&files);
    let done = absorb(&Workspace::open(&tree, &[]).unwrap(), &[], &[], &|_, _| None).unwrap();
    if let Some(conflict) = done.conflicts.first() {
        assert!(done.rules.is_empty(), "nothing of a file in doubt is taken over");
        let line = conflict.line.map_or(String::new(), |line| format!("line {line}: "));
        return format!("refused: {line}{}; {}\n", conflict.message, conflict.help);
    }
    match done.rules.first() {
        None => "nothing to change\n".to_owned(),
        Some(rewritten) => {
            assert_eq!(rewritten.path, RepoPath::new(path).unwrap());
            rewritten.new.clone()
        }
    }
}

const RULE: &str = "+++\n# Whoever reads this\nsummary = \"Screens\"\npaths = [\"*.ts\", \"*.css\"] # both\nexcept = [\"kiosk/old/**\"]\n+++\n\n- Label it.\n";

#[test]
fn keys_go_back_into_the_rule_in_its_own_words() {
    let mut picture = String::new();
    for (what, from, to) in [
        ("a pattern more", "\"*.css\"]", "\"*.css\", \"*.html\"]"),
        ("a pattern fewer", ", \"*.css\"]", "]"),
        ("another pattern", "\"*.css\"", "\"*.scss\""),
        ("in another order", "[\"*.ts\", \"*.css\"]", "[\"*.css\", \"*.ts\"]"),
        ("the same as one string", "[\"*.ts\", \"*.css\"]", "\"*.ts, *.css\""),
        ("the same on lines", "covers: [\"*.ts\", \"*.css\"]", "covers:\n  - \"*.ts\"\n  - \"*.css\""),
        ("no exception", "skips: [\"kiosk/old/**\"]\n", ""),
        ("another exception", "kiosk/old/**", "kiosk/new/**"),
        ("no patterns at all", "covers: [\"*.ts\", \"*.css\"]\nskips: [\"kiosk/old/**\"]\n", ""),
        ("a pattern that is none", "\"*.css\"", "\"[css\""),
        ("only patterns that are none", "[\"*.ts\", \"*.css\"]", "\"[css\""),
        ("another summary", "about: Screens", "about: \"Screens: big ones\""),
        ("no summary", "about: Screens\n", ""),
        ("told always", "about: Screens\n", "load: each\n"),
        ("a key that the guidance has not", "about: Screens", "about: Screens\nowner: ina"),
        ("the same with another indent", "about: Screens", "about:   Screens"),
        ("a remark", "about: Screens", "# mine\nabout: Screens"),
        ("no fence at the end", "---\n\n- Label", "\n- Label"),
        ("no fence at the start", "---\n# From", "# From"),
        ("words above the fence", "---\n# From", "Hello\n\n---\n# From"),
        ("broken YAML", "about: Screens", "about: [Screens"),
        ("a key twice", "about: Screens", "about: Screens\nabout: Screen"),
    ] {
        picture += &format!("## {what}\n{}\n", edited(PROFILE, "guidance/rules/screens.md", RULE, from, to));
    }
    insta::assert_snapshot!(picture);
}

#[test]
fn what_a_key_means_depends_on_the_rule() {
    let mut picture = String::new();
    let always = "- Label it.\n";
    let offered = "+++\nsummary = \"Screens\"\nreach = \"offered\"\n+++\n\n- Label it.\n";
    let narrow = "+++\npaths = [\"/main.rs\"]\n+++\n\n- Label it.\n";
    for (what, path, rule, from, to) in [
        ("always to scoped", "guidance/rules/a.md", always, "load: each", "covers: \"*.rs\""),
        ("always to offered", "guidance/rules/a.md", always, "load: each", "about: Screens"),
        ("always to called", "guidance/rules/a.md", always, "load: each\n", ""),
        ("offered to always", "guidance/rules/a.md", offered, "about: Screens", "load: each"),
        ("offered to scoped", "guidance/rules/a.md", offered, "about: Screens", "about: Screens\ncovers: \"*.ts\""),
        ("one file to all of that name", "guidance/rules/a.md", narrow, "\"/main.rs\"", "\"main.rs\""),
        ("in a part, a pattern from there", "kiosk/guidance/rules/a.md", narrow, "\"/main.rs\"", "\"old/**\""),
        ("in a part, told always", "kiosk/guidance/rules/a.md", narrow, "covers: [\"/main.rs\"]", "load: each"),
    ] {
        picture += &format!("## {what}\n{}\n", edited(PROFILE, path, rule, from, to));
    }
    insta::assert_snapshot!(picture);
}

#[test]
fn toml_headers_go_back_too() {
    let profile = PROFILE.replacen("header = \"yaml\"", "header = \"toml\"", 1);
    let mut picture = String::new();
    for (what, from, to) in [
        ("a pattern more", "\"*.css\"]", "\"*.css\", \"*.html\"]"),
        ("another summary", "about = \"Screens\"", "about = 'Big screens'"),
        ("a key that the guidance has not", "about = ", "owner = 1\nabout = "),
        ("broken TOML", "about = \"Screens\"", "about = \"Screens"),
        ("a remark", "about = ", "# mine\nabout = "),
    ] {
        picture += &format!("## {what}\n{}\n", edited(&profile, "guidance/rules/screens.md", RULE, from, to));
    }
    insta::assert_snapshot!(picture);
}

#[test]
fn the_header_of_a_file_of_several_rules_is_nobodys() {
    let sheet = PROFILE.split("[[place]]\nid = \"sheet\"").collect::<Vec<_>>();
    let profile = format!("name = \"us\"\ntitle = \"Us\"\n[[place]]\nid = \"sheet\"{}", sheet[1]);
    let mut files = published(&profile, "guidance/rules/a.md", "- Label it.\n");
    files.insert("guidance/rules/b.md".into(), "- Read it aloud.\n".into());
    let (text, lock) = {
        let tree = tree(&files);
        let workspace = Workspace::open(&tree, &[]).unwrap();
        let project = workspace.project().unwrap();
        let us = workspace.profiles.iter().find(|profile| profile.name == "us").unwrap();
        let plan = plan(&workspace, &project, &[us]).unwrap();
        let lock = Lock { file: plan.files.iter().map(changes::locked).collect(), ..Lock::default() };
        let Content::Text(text) = plan.files[0].content.clone() else { panic!("a link") };
        (text, lock)
    };
    files.insert("signpost.lock".into(), lock.to_text());
    files.insert("US.md".into(), format!("---\nabout: Ours\n---\n{text}"));
    let tree = tree(&files);
    let done = absorb(&Workspace::open(&tree, &[]).unwrap(), &[], &[], &|_, _| None).unwrap();
    assert!(done.rules.is_empty());
    assert!(done.conflicts[0].message.contains("several rules"), "{}", done.conflicts[0].message);
}
