//! Near misses of names and of patterns, in trees in memory.

#![allow(clippy::unwrap_used)]

use signpost_core::base::repo_path::RepoPath;
use signpost_core::files::{MemoryTree, Tree};
use signpost_core::inspect::pattern_search::PatternSearch;
use signpost_core::inspect::unclaimed::{Unclaimed, UnclaimedWhy, unclaimed};
use signpost_core::pattern::{Dialect, Pattern};
use signpost_core::profile::Profile;
use signpost_core::project::workspace::Workspace;

const PROFILE: &str = r#"
name = "mado"
title = "Mado"
[[place]]
id = "lore"
level = "folder"
files = [".mado/lore-notes/**/*.md"]
[[place]]
id = "sheet"
level = "project"
files = [".mado/SHEET.md", "MADO.md"]
pick = "first"
[[place]]
id = "parts"
level = "project"
files = ["mado/parts/*.txt"]
"#;

fn found(files: &[&str]) -> Vec<Unclaimed> {
    let tree = files
        .iter()
        .fold(MemoryTree::new().with("guidance/profiles/m.toml", PROFILE), |tree, path| tree.with(path, "x"));
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let profiles: Vec<&Profile> = workspace.profiles.iter().collect();
    unclaimed(&workspace, &project, &profiles)
}

/// Each row: a file, the path it should have, and a word of the reason.
#[test]
fn what_is_wrong_with_a_name_is_said() {
    for (path, right, word) in [
        ("mado/lore-notes/x.md", ".mado/lore-notes/x.md", "lacks a dot"),
        (".mado/lorenotes/x.md", ".mado/lore-notes/x.md", "nearly"),
        (".mado/lore-note/x.md", ".mado/lore-notes/x.md", "lacks a plural s"),
        (".mado/Lore-Notes/x.md", ".mado/lore-notes/x.md", "another case"),
        ("a/b/.mado/lore_notes/deep/x.md", "a/b/.mado/lore-notes/deep/x.md", "nearly"),
        ("..mado/lore-notes/x.md", ".mado/lore-notes/x.md", "one too many"),
        (".mado/lore-notes/x.txt", ".mado/lore-notes/x.md", "the ending is .txt, not .md"),
        (".mado/sheet.md", ".mado/SHEET.md", "another case"),
        (".mado/SHEETS.md", ".mado/SHEET.md", "a plural s too many"),
        ("mado.md", "MADO.md", "another case"),
        ("MADO.markdown", "MADO.md", "the ending is .markdown"),
        ("AGNETS.md", "AGENTS.md", "nearly"),
        ("kiosk/Agents.md", "kiosk/AGENTS.md", "another case"),
    ] {
        let all = found(&[path]);
        assert_eq!(all.len(), 1, "{path}: {all:?}");
        assert_eq!(all[0].right().unwrap().as_str(), right, "{path}");
        let text = all[0].text("Mado");
        assert!(text.contains(word), "{path}: {text}");
    }
}

#[test]
fn the_right_name_in_the_wrong_folder_is_said() {
    let all = found(&["kiosk/MADO.md"]);
    assert_eq!(all[0].why, UnclaimedWhy::WrongFolder { right: RepoPath::new("MADO.md").unwrap() });
    let all = found(&["kiosk/.mado/SHEET.md"]);
    assert_eq!(all[0].right().unwrap().as_str(), ".mado/SHEET.md");
    let all = found(&["mado/parts/deep/x.txt"]);
    assert!(matches!(&all[0].why, UnclaimedWhy::NotTaken { patterns } if patterns == "mado/parts/*.txt"), "{all:?}");
}

#[test]
fn a_name_that_is_taken_already_is_said() {
    let all = found(&["AGENTS.md", "AGENT.md"]);
    assert!(matches!(&all[0].why, UnclaimedWhy::NearMiss { taken: true, .. }), "{all:?}");
    let all = found(&[".mado/SHEET.md", "MADO.md"]);
    assert!(matches!(&all[0].why, UnclaimedWhy::Displaced { by } if by.to_string() == ".mado/SHEET.md"), "{all:?}");
}

#[test]
fn ordinary_files_are_left_alone() {
    for files in [
        &["README.md", "docs/a.md", "src/mado.rs", "mado/lore/x.md"][..],
        &["docs/agents.md", "docs/orders.md", "docs/parts.md"],
        &["parts/x.txt", "lore-notes/x.md", "src/agent/mod.rs"],
        &["AGENTS.md", "kiosk/AGENTS.md", ".mado/lore-notes/x.md", "MADO.md", "mado/parts/a.txt"],
        &["AGENTS.local.md", "MADO-2.md", "sheets.md"],
    ] {
        assert_eq!(found(files), [], "{files:?}");
    }
}

#[test]
fn ignored_folders_are_not_searched_for_near_misses() {
    let tree =
        MemoryTree::new().with(".gitignore", "deps/\n").with("deps/one/AGENT.md", "x").with("deps/two/AGENTS.md", "x");
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let profiles: Vec<&Profile> = workspace.profiles.iter().collect();
    assert_eq!(unclaimed(&workspace, &project, &profiles), []);
    assert_eq!(project.candidates[0].len(), 1, "instruction files are found even where ignored");
}

const FILES: [&str; 9] = [
    "src/main.rs", "src/lib/mod.rs", "src/web/App.tsx", "src/web/App.test.tsx", "docs/guide.md", "tests/all.py",
    "tests/data/a.json", "Makefile", "build/out.rs",
];

/// Each row: a pattern that takes nothing, and the nearest one that takes something; none where there is none.
#[test]
fn the_nearest_pattern_is_found() {
    let tree = FILES.iter().fold(MemoryTree::new().with(".gitignore", "build/\n"), |tree, path| tree.with(path, ""));
    let index = tree.index().unwrap();
    let search = PatternSearch::new(&index);
    let root = RepoPath::root();
    for (pattern, near) in [
        ("scr/**/*.rs", Some("src/**/*.rs")),
        ("src/wbe/*.tsx", Some("src/web/*.tsx")),
        ("docs", Some("docs/**")),
        ("doc/guide.md", Some("docs/guide.md")),
        ("test/*.py", Some("tests/*.py")),
        ("SRC/main.rs", Some("src/main.rs")),
        ("src/*.tsx", Some("src/**/*.tsx")),
        ("web/**", Some("**/web/**")),
        ("/App.tsx", Some("**/App.tsx")),
        ("*.jsn", Some("*.json")),
        ("app/src/main.rs", Some("src/main.rs")),
        ("nothing/like/it.xyz", None),
    ] {
        let compiled = Pattern::parse(pattern, &Dialect::default()).unwrap();
        assert_eq!(search.first_match(&compiled, &root, &root), None, "{pattern}");
        let found = search.nearest(pattern, &Dialect::default(), &root, &root);
        assert_eq!(found.as_ref().map(|(near, _)| near.as_str()), near, "{pattern}");
        if let Some((near, file)) = found {
            assert!(Pattern::parse(&near, &Dialect::default()).unwrap().matches(file.as_str()));
        }
    }
}

#[test]
fn ignored_files_are_told_from_source_files() {
    let tree = FILES.iter().fold(MemoryTree::new().with(".gitignore", "build/\n"), |tree, path| tree.with(path, ""));
    let index = tree.index().unwrap();
    let search = PatternSearch::new(&index);
    let root = RepoPath::root();
    let pattern = Pattern::parse("build/**", &Dialect::default()).unwrap();
    assert_eq!(search.first_match(&pattern, &root, &root), None);
    assert_eq!(search.first_ignored(&pattern, &root).unwrap().as_str(), "build/out.rs");
}

#[test]
fn a_first_match_stays_below_the_folder_asked_about() {
    let tree = FILES.iter().fold(MemoryTree::new(), |tree, path| tree.with(path, ""));
    let index = tree.index().unwrap();
    let search = PatternSearch::new(&index);
    let path = |text: &str| RepoPath::new(text).unwrap();
    let pattern = Pattern::parse("*.rs", &Dialect::default()).unwrap();
    assert_eq!(search.first_match(&pattern, &path("src/lib"), &path("src/lib")), Some(path("src/lib/mod.rs")));
    assert_eq!(search.first_match(&pattern, &RepoPath::root(), &path("src/lib")), Some(path("src/lib/mod.rs")));
    assert_eq!(search.first_match(&pattern, &path("docs"), &path("docs")), None);
    assert_eq!(search.first_match(&pattern, &path("gone"), &path("gone")), None);
}
