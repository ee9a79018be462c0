//! Patterns from examples: they always fit, whatever the names.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::files::{MemoryTree, Tree};
use signpost_core::inspect::pattern_suggest::{from_examples, near_misses, try_patterns};
use signpost_core::pattern::{Bare, Dialect, ListForm, Pattern};

fn paths(texts: &[&str]) -> Vec<RepoPath> {
    texts.iter().map(|text| RepoPath::new(text).unwrap()).collect()
}

fn tree(files: &[&str]) -> MemoryTree {
    files.iter().fold(MemoryTree::new(), |tree, file| tree.with(file, ""))
}

const FILES: &[&str] = &[
    "src/a.ts", "src/b.ts", "src/a.test.ts", "src/deep/c.ts", "src/deep/c.test.ts", "lib/d.ts", "lib/e.py", "x.ts",
    "src/screens/HomeScreen.tsx", "src/screens/EndScreen.tsx", "src/screens/parts/Box.tsx",
];

/// Each row: examples, counter-examples, and the first pattern offered.
#[test]
fn the_pattern_that_a_person_would_write_comes_first() {
    let index = tree(FILES).index().unwrap();
    for (like, unlike, best) in [
        (&["src/a.test.ts", "src/deep/c.test.ts"][..], &["src/a.ts"][..], "**/*.test.ts"),
        (&["lib/d.ts", "lib/e.py"], &[], "lib/"),
        (&["src/a.ts", "src/b.ts"], &["src/a.test.ts", "src/deep/c.ts"], "src/"),
        (
            &["src/screens/HomeScreen.tsx", "src/screens/EndScreen.tsx"],
            &["src/screens/parts/Box.tsx"],
            "**/*Screen.tsx",
        ),
    ] {
        let fits = from_examples(&index, &paths(like), &paths(unlike), &Dialect::default());
        assert!(fits[0].patterns[0].starts_with(best), "{like:?}: {fits:?}");
    }
    assert!(from_examples(&index, &paths(&["x.ts"]), &paths(&["x.ts"]), &Dialect::default()).is_empty());
}

#[test]
fn dialects_that_agree_are_one_answer() {
    let index = tree(FILES).index().unwrap();
    let anchored = Dialect { bare: Bare::Anchored, ..Dialect::default() };
    let dialects =
        [("a".to_owned(), Dialect::default()), ("b".to_owned(), Dialect::default()), ("c".to_owned(), anchored)];
    let trials = try_patterns(&index, &["*.ts".to_owned()], &dialects);
    assert_eq!(
        trials.iter().map(|trial| (trial.dialects.len(), trial.taken.len())).collect::<Vec<_>>(),
        [(2, 7), (1, 1)]
    );
    assert_eq!(trials[0].folders[0], ("src".to_owned(), 5));
    let near = near_misses(&index, &["src/*.ts".to_owned()], &Dialect::default());
    assert!(near.iter().any(|near| near.pattern == "src/**/*.ts" && near.more == 2), "{near:?}");
}

fn any_path() -> impl Strategy<Value = String> {
    prop::collection::vec("[ab!{}*?\\[\\], .é-]{1,3}", 1..4)
        .prop_map(|parts| parts.join("/"))
        .prop_filter("tidy", |path| RepoPath::new(path).is_some_and(|tidy| tidy.as_str() == path))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 600, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn fits_take_their_examples_and_no_counter_example(
        files in prop::collection::hash_set(any_path(), 2..8),
        split in 1usize..4,
        braces: bool,
        negate: bool,
        any_depth: bool,
    ) {
        let bare = if any_depth { Bare::AnyDepth } else { Bare::Anchored };
        let dialect = Dialect { list: ListForm::Array, bare, braces, negate };
        let files: Vec<RepoPath> = files.iter().map(|file| RepoPath::new(file).unwrap()).collect();
        let (like, unlike) = files.split_at(split.min(files.len() - 1));
        let index = MemoryTree::new().index().unwrap();
        let fits = from_examples(&index, like, unlike, &dialect);
        prop_assert!(!fits.is_empty());
        for fit in fits {
            let patterns: Vec<Pattern> = fit.patterns.iter().map(|text| Pattern::parse(text, &dialect).unwrap()).collect();
            let takes = |file: &RepoPath| patterns.iter().any(|pattern| pattern.matches(file.as_str()));
            prop_assert!(patterns.iter().all(|pattern| !pattern.is_negated()));
            prop_assert!(like.iter().all(takes), "{:?} of {:?}", fit, like);
            prop_assert!(!unlike.iter().any(takes), "{:?} against {:?}", fit, unlike);
        }
    }
}

/// The folder of the examples comes before a folder of that name anywhere, words before letters, and all of the folder is
/// among what is offered.
#[test]
fn the_folder_of_the_examples_is_preferred() {
    let tree = [
        "internal/api/routes.go", "internal/api/server.go", "internal/store/db.go", "cmd/main.go",
        "web/src/pages/CartPage.tsx", "web/src/pages/ChartPage.tsx", "web/src/pages/HomePage.tsx", "web/src/app.tsx",
    ];
    let tree = tree.into_iter().fold(MemoryTree::new(), |tree, path| tree.with(path, ""));
    let index = tree.index().unwrap();
    let fits = |like: &[&str]| -> Vec<String> {
        let like: Vec<RepoPath> = like.iter().map(|path| RepoPath::new(path).unwrap()).collect();
        from_examples(&index, &like, &[], &Dialect::default()).into_iter().map(|fit| fit.patterns.join(" ")).collect()
    };
    let api = fits(&["internal/api/routes.go", "internal/api/server.go"]);
    assert_eq!(api[0], "internal/api/*.go", "{api:?}");
    let pages = fits(&["web/src/pages/CartPage.tsx", "web/src/pages/ChartPage.tsx"]);
    assert!(pages.contains(&"web/src/pages/**".to_owned()) && pages.contains(&"**/*Page.tsx".to_owned()), "{pages:?}");
    assert!(!pages.iter().any(|text| text.contains("artPage") || text.contains("tPage")), "{pages:?}");
}
