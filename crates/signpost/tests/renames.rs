//! What git knows of renamed files and folders, where a rule still has the old name.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, git};
use serde_json::Value;

fn found(project: &Project, check: &str) -> Vec<Value> {
    project.json(&["lint", "--only", check])["findings"].as_array().unwrap().clone()
}

/// A project whose folder `src/old/` was committed, and then renamed to `src/new/`.
fn renamed() -> Project {
    let project = Project::with_profiles()
        .with("src/old/rates.ts", "export const a = 1;\n")
        .with("src/old/in/lots.ts", "export const b = 2;\nexport const bb = 22;\n")
        .with("src/till.ts", "export const c = 3;\n");
    git(&project, &["init", "-q"]);
    git(&project, &["add", "."]);
    git(&project, &["commit", "-qm", "all"]);
    git(&project, &["mv", "src/old", "src/new"]);
    git(&project, &["commit", "-qm", "new names"]);
    project
}

#[test]
fn a_path_is_mended_wherever_it_stands() {
    let project = renamed().with(
        "AGENTS.md",
        "- Types live in `src/old/rates.ts`.\n- Read [src/old/in/lots.ts](./src/old/in/lots.ts#top) first.\n\
         - The price list lives in `src/old/`.\n- Types live in `src/shop/till.ts`.\n",
    );
    let before = found(&project, "facts/missing-path");
    let says: Vec<&str> = before.iter().map(|one| one["message"].as_str().unwrap()).collect();
    assert_eq!(says[0], "src/old/rates.ts is not there: it was renamed", "{says:?}");
    project.run(&["lint", "--fix", "--only", "facts"]).fails(1, &["4 findings in 1 file mended"]);
    let read = project.read("AGENTS.md");
    assert_eq!(
        read,
        "- Types live in `src/new/rates.ts`.\n- Read [src/new/in/lots.ts](./src/new/in/lots.ts#top) first.\n\
         - The price list lives in `src/new/`.\n- Types live in `src/shop/till.ts`.\n"
    );
    assert_eq!(found(&project, "facts/missing-path").len(), 1);
}

#[test]
fn a_pattern_is_mended_where_it_takes_something_then() {
    let note = |patterns: &str| format!("---\ncovers: {patterns}\n---\n\n- Sand the boards.\n");
    let project = renamed()
        .with(".oo/notes/a.md", note("\"src/old/**/*.ts\""))
        .with(".oo/notes/b.md", note("[src/old/in/lots.ts, src/till.ts]"))
        .with(".oo/notes/c.md", note("src/old/**/*.py"));
    let before = found(&project, "scope/matches-nothing");
    assert_eq!(before[0]["message"], "`src/old/**/*.ts` takes no file: src/old was renamed");
    project.run(&["lint", "--fix", "--only", "scope"]).fails(1, &["2 findings in 2 files mended"]);
    assert_eq!(project.read(".oo/notes/a.md"), note("\"src/new/**/*.ts\""));
    assert_eq!(project.read(".oo/notes/b.md"), note("[src/new/in/lots.ts, src/till.ts]"));
    assert_eq!(project.read(".oo/notes/c.md"), note("src/old/**/*.py"));
    let told = project.json(&["at", "src/new/in/lots.ts", "-a", "oo"]);
    assert_eq!(told["briefs"][0]["entries"].as_array().unwrap().len(), 2, "{told}");
}

#[test]
fn names_are_followed_also_where_they_are_only_staged_and_from_a_folder() {
    let project = renamed();
    git(&project, &["mv", "src/new/rates.ts", "src/new/rate.ts"]);
    let project = project
        .with("AGENTS.md", "- Types live in `src/old/rates.ts`.\n")
        .with("src/TT.md", "- Types live in `old/rates.ts`.\n");
    let says: Vec<String> =
        found(&project, "facts/missing-path").iter().map(|one| one["help"].as_str().unwrap().to_owned()).collect();
    assert_eq!(says, ["write src/new/rate.ts", "write new/rate.ts"]);
    // The same project as a folder of a larger one.
    let whole = Project::new()
        .with("part/AGENTS.md", "- Types live in `src/old/rates.ts`.\n")
        .with("part/src/old/rates.ts", "aaa\n");
    git(&whole, &["init", "-q"]);
    git(&whole, &["add", "."]);
    git(&whole, &["commit", "-qm", "all"]);
    git(&whole, &["mv", "part/src/old", "part/src/new"]);
    let part = whole.root().join("part");
    let ran = whole.run_in(&part, &["lint", "--root", ".", "--only", "facts"]);
    assert!(ran.out.contains("it was renamed"), "{}{}", ran.out, ran.err);
}

#[test]
fn what_was_renamed_and_deleted_or_never_committed_is_as_before() {
    let project = renamed();
    std::fs::remove_file(project.root().join("src/new/rates.ts")).unwrap();
    let project = project.with("AGENTS.md", "- Types live in `src/old/rates.ts`.\n");
    assert_eq!(found(&project, "facts/missing-path")[0]["message"], "src/old/rates.ts is not there");
    let fresh = Project::new().with("AGENTS.md", "- Types live in `src/old/rates.ts`.\n").with("src/new/rates.ts", "");
    assert_eq!(found(&fresh, "facts/missing-path")[0]["message"], "src/old/rates.ts is not there");
}
