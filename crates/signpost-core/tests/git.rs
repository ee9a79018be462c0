//! Exclusion files and the walk give git's own answer for the same lines.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::files::{DiskTree, Tree};
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Question, resolve};
use std::collections::BTreeSet;
use std::path::Path;
use std::process::Command;

const FILES: [&str; 14] = [
    "a.log", "b.txt", "x/a.log", "x/keep.log", "x/y/b.txt", "x/y/z/c.rs", "build/out.o", "x/build/out.o",
    "src/[id].ts", "é.md", "x/.hidden", "foo bar", "!odd", "#hash",
];

fn any_line() -> impl Strategy<Value = String> {
    prop::sample::select(vec![
        "*.log", "!keep.log", "build/", "/build", "x/", "x/*", "!x/y", "**/b.txt", "x/**/c.rs", "y/z", "/x/y/*.txt",
        "*.o", "[a-c]*", "src/\\[id\\].ts", "foo bar", "foo\\ bar", "trailing \\ ", "\\!odd", "\\#hash", "# comment",
        "", "!*.log", "x/y/**", "**", "**/", "a**g", "*", "!*/", "?.txt", "é*", ".*", "/*", "!/x", "x/**",
        "!x/keep.log", "[!a]*.txt", "z/", "x/y/",
    ])
    .prop_map(str::to_owned)
}

fn git(root: &Path, args: &[&str]) -> String {
    let output = Command::new("git")
        .args(args)
        .current_dir(root)
        .env("GIT_CONFIG_GLOBAL", "/dev/null")
        .env("GIT_CONFIG_SYSTEM", "/dev/null")
        .output()
        .unwrap();
    String::from_utf8_lossy(&output.stdout).into_owned()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn hidden_files_are_those_that_git_ignores(
        root_lines in prop::collection::vec(any_line(), 0..5),
        x_lines in prop::collection::vec(any_line(), 0..4),
        tracked in prop::collection::vec(prop::sample::select(FILES.to_vec()), 0..4),
    ) {
        let folder = tempfile::tempdir().unwrap();
        let root = folder.path();
        for file in FILES {
            std::fs::create_dir_all(root.join(file).parent().unwrap()).unwrap();
            std::fs::write(root.join(file), "").unwrap();
        }
        let profile = "name = \"t\"\n[[place]]\nid = \"p\"\nlevel = \"project\"\nfiles = [\"T.md\"]\n[exclusions]\nfiles = [\".skip\"]\n";
        std::fs::create_dir_all(root.join("guidance/profiles")).unwrap();
        std::fs::write(root.join("guidance/profiles/t.toml"), profile).unwrap();
        for (place, lines) in [("", &root_lines), ("x/", &x_lines)] {
            std::fs::write(root.join(format!("{place}.skip")), lines.join("\n")).unwrap();
            std::fs::write(root.join(format!("{place}.gitignore")), lines.join("\n")).unwrap();
        }
        git(root, &["init", "-q"]);
        let listed = git(root, &["ls-files", "-z", "--others", "--exclude-standard"]);
        let kept: BTreeSet<&str> = listed.split('\0').collect();
        // What is tracked is a source file whatever the patterns say.
        tracked.iter().for_each(|file| drop(git(root, &["--literal-pathspecs", "add", "--force", file])));
        let listed_too = git(root, &["ls-files", "-z", "--others", "--cached", "--exclude-standard"]);
        let sources: BTreeSet<&str> = listed_too.split('\0').collect();
        let tree = DiskTree::open(root, None).unwrap();
        let workspace = Workspace::open(&tree, &[]).unwrap();
        let index = tree.index().unwrap();
        let profile = workspace.profiles.iter().find(|profile| profile.name == "t").unwrap();
        for file in FILES {
            let path = RepoPath::new(file).unwrap();
            let question = Question { files: vec![path.clone()], start: RepoPath::root() };
            let brief = resolve(&workspace, profile, &question, None).unwrap();
            prop_assert_eq!(brief.hidden.is_empty(), kept.contains(file), "{} with {:?} and {:?}", file, root_lines, x_lines);
            prop_assert_eq!(index.is_source(&path), sources.contains(file), "{} in the walk, with {:?} tracked", file, tracked);
        }
    }
}
