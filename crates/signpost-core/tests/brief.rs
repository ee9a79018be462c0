//! Resolving, sentence by sentence of the design: each test names what it holds.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::{Location, RepoPath};
use signpost_core::files::index::Index;
use signpost_core::files::{Entry, Look, MemoryTree, Tree, TreeError};
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Brief, Question, State, resolve};

/// A project with one assistant `t`, whose profile is `profile` after its name.
struct Case {
    tree: MemoryTree,
    profile: String,
}

impl Case {
    fn new(profile: &str) -> Self {
        Case { tree: MemoryTree::new(), profile: format!("name = \"t\"\n{profile}") }
    }

    fn with(mut self, path: &str, text: &str) -> Self {
        self.tree = self.tree.with(path, text);
        self
    }

    fn brief_of(&self, files: &[&str], start: &str, all: bool) -> Brief {
        let tree = self.tree.clone().with("guidance/profiles/t.toml", self.profile.as_str());
        let workspace = Workspace::open(&tree, &[]).unwrap();
        let profile = workspace.profiles.iter().find(|profile| profile.name == "t").unwrap();
        let files = files.iter().map(|file| RepoPath::new(file).unwrap()).collect();
        let question = Question { files, start: RepoPath::new(start).unwrap() };
        let project = all.then(|| workspace.project().unwrap());
        resolve(&workspace, profile, &question, project.as_ref()).unwrap()
    }

    fn brief(&self, file: &str) -> Brief {
        self.brief_of(&[file], "", false)
    }

    /// `path code`, loaded ones first, then `? path` for offered, `! path` for callable ones.
    fn told(&self, file: &str) -> Vec<String> {
        told(&self.brief(file))
    }

    /// `path code` of what is left out.
    fn out(&self, file: &str) -> Vec<String> {
        out(&self.brief(file))
    }
}

fn told(brief: &Brief) -> Vec<String> {
    let line = |entry: &signpost_core::resolve::brief::Entry| match entry.state {
        State::Loaded => format!("{} {}", entry.path, entry.why.code()),
        State::Offered => format!("? {}", entry.path),
        State::Callable => format!("! {}", entry.path),
    };
    brief.entries.iter().map(line).collect()
}

fn out(brief: &Brief) -> Vec<String> {
    brief.left_out.iter().map(|left| format!("{} {}", left.what, left.why.code())).collect()
}

const NOTES: &str = "[[place]]\nid = \"notes\"\nlevel = \"folder\"\nfiles = [\"T.md\"]\n";
const SCOPED: &str = r#"
[[place]]
id = "rules"
level = "folder"
files = [".t/*.md"]
header = "yaml"
base = "folder"
reach = "called"
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
key = "skips"
present = true
reach = "scoped"
[[place.decide]]
key = "about"
present = true
reach = "offered"
"#;

fn nested(profile: &str) -> Case {
    Case::new(&format!("{profile}\n{NOTES}"))
        .with("T.md", "")
        .with("a/T.md", "")
        .with("a/b/T.md", "")
        .with("c/T.md", "")
}

#[test]
fn touched_loads_the_folders_on_the_way_the_shallower_first() {
    let case = nested("");
    assert_eq!(case.told("a/b/x.rs"), ["T.md standing", "a/T.md standing", "a/b/T.md standing"]);
    assert_eq!(case.told("a/new/file.rs"), ["T.md standing", "a/T.md standing"]);
    assert!(case.out("a/b/x.rs").is_empty(), "files elsewhere are no candidates");
}

#[test]
fn start_loads_the_folders_on_the_way_to_the_start_folder() {
    let case = nested("loads = \"start\"");
    assert_eq!(
        told(&case.brief_of(&["c/x.rs"], "a/b", false)),
        ["T.md standing", "a/T.md standing", "a/b/T.md standing"]
    );
    assert_eq!(case.told("a/b/x.rs"), ["T.md standing"]);
    let both = nested("loads = \"either\"");
    assert_eq!(told(&both.brief_of(&["c/x.rs"], "a", false)), ["T.md standing", "a/T.md standing", "c/T.md standing"]);
}

#[test]
fn nearest_keeps_the_deepest_folder_and_names_it() {
    let case = nested("nested = \"nearest\"");
    assert_eq!(case.told("a/b/x.rs"), ["a/b/T.md standing"]);
    assert_eq!(case.out("a/b/x.rs"), ["T.md nearer-file", "a/T.md nearer-file"]);
    assert!(case.brief("a/b/x.rs").left_out[0].why.text().contains("a/b/T.md"));
    let either =
        Case::new(&format!("nested = \"nearest\"\nloads = \"either\"\n{NOTES}")).with("a/T.md", "").with("c/T.md", "");
    assert_eq!(told(&either.brief_of(&["c/x"], "a", false)), ["c/T.md standing"]);
    assert_eq!(told(&either.brief_of(&["d/x"], "a", false)), ["a/T.md standing"], "no file on the way to f");
}

#[test]
fn pick_first_reads_one_pattern_in_each_folder() {
    let place = NOTES.replace("[\"T.md\"]", "[\"T.own.md\", \"T.md\"]\npick = \"first\"");
    let case = Case::new(&place).with("T.md", "").with("a/T.md", "").with("a/T.own.md", "");
    assert_eq!(case.told("a/x"), ["T.md standing", "a/T.own.md standing"]);
    assert_eq!(case.out("a/x"), ["a/T.md earlier-pattern"]);
}

#[test]
fn nested_comes_before_pick() {
    let place = NOTES.replace("[\"T.md\"]", "[\"T.own.md\", \"T.md\"]\npick = \"first\"");
    let case = Case::new(&format!("nested = \"nearest\"\n{place}")).with("T.own.md", "").with("a/T.md", "");
    assert_eq!(case.told("a/x"), ["a/T.md standing"]);
    assert_eq!(case.out("a/x"), ["T.own.md nearer-file"]);
}

#[test]
fn reach_is_decided_by_the_first_row_that_holds() {
    let case = Case::new(SCOPED)
        .with(".t/1.md", "---\nload: each\ncovers: none/**\n---\n")
        .with(".t/2.md", "---\ncovers: \"*.rs\"\nabout: x\n---\n")
        .with(".t/3.md", "---\nabout: x\n---\n")
        .with(".t/4.md", "no header\n")
        .with(".t/5.md", "---\ncovers: \"*.py\"\n---\n");
    assert_eq!(case.told("a/x.rs"), [".t/1.md standing", ".t/2.md in-scope", "? .t/3.md", "! .t/4.md"]);
    assert_eq!(case.out("a/x.rs"), [".t/5.md out-of-scope"]);
}

#[test]
fn scopes_count_from_their_base_and_end_at_their_anchor() {
    let case = |base: &str| {
        Case::new(&SCOPED.replace("base = \"folder\"", &format!("base = \"{base}\"")))
            .with("a/.t/1.md", "---\ncovers: b/*.rs\n---\n")
            .with("a/.t/2.md", "---\ncovers: a/b/*.rs\n---\n")
            .with(".t/3.md", "---\ncovers: [\"**\"]\nskips: a/**\n---\n")
    };
    assert_eq!(case("folder").told("a/b/x.rs"), ["a/.t/1.md in-scope"]);
    assert_eq!(case("root").told("a/b/x.rs"), ["a/.t/2.md in-scope"]);
    assert_eq!(case("folder").out("a/b/x.rs"), [".t/3.md out-of-scope", "a/.t/2.md out-of-scope"]);
    assert_eq!(case("folder").told("c/x.rs"), [".t/3.md in-scope"]);
}

#[test]
fn a_scoped_rule_without_a_valid_pattern_reaches_nothing() {
    let case = Case::new(SCOPED)
        .with(".t/1.md", "---\ncovers: \"[x\"\n---\n")
        .with(".t/2.md", "---\nskips: x\n---\n")
        .with(".t/3.md", "---\ncovers: \"[x, *.rs\"\n---\n");
    assert_eq!(case.out("x.rs"), [".t/1.md no-valid-pattern", ".t/2.md no-valid-pattern"]);
    assert_eq!(case.told("x.rs"), [".t/3.md in-scope"]);
}

#[test]
fn a_list_in_the_wrong_form_holds_no_patterns() {
    let with = |form: &str, covers: &str| {
        let profile = format!("{SCOPED}\n[place.patterns]\nlist = \"{form}\"\n");
        Case::new(&profile).with(".t/1.md", &format!("---\ncovers: {covers}\n---\n")).told("x.rs")
    };
    assert_eq!(with("comma", "a, *.rs"), [".t/1.md in-scope"]);
    assert!(with("comma", "[a, \"*.rs\"]").is_empty());
    assert_eq!(with("array", "[a, \"*.rs\"]"), [".t/1.md in-scope"]);
    assert!(with("array", "\"*.rs\"").is_empty());
    assert!(with("either", "[\"a, *.rs\"]").is_empty(), "items of an array are never split");
}

#[test]
fn kinds_are_told_apart() {
    let place = |id: &str, kind: &str| {
        format!(
            "[[place]]\nid = \"{id}\"\nlevel = \"project\"\nfiles = [\"{id}.md\"]\nkind = \"{kind}\"\nheader = \"yaml\"\n"
        )
    };
    let profile = ["rule", "role", "bundle", "called"].map(|kind| place(&kind[..2], kind)).concat();
    let case = Case::new(&profile.replace("id = \"ro\"", "id = \"crew\""));
    let case = ["ru", "ro", "bu", "ca"].into_iter().fold(case, |case, name| case.with(&format!("{name}.md"), ""));
    assert_eq!(case.told("x"), ["ru.md standing", "? bu.md", "! ca.md"]);
    assert!(case.out("x").is_empty(), "a role is not spoken of");
}

#[test]
fn the_first_place_that_matches_owns_a_file() {
    let profile = "[[place]]\nid = \"one\"\nlevel = \"project\"\nfiles = [\"a/T.md\"]\n[[place]]\nid = \"two\"\nlevel = \"folder\"\nfiles = [\"T.md\", \"a/T.md\"]\n";
    let case = Case::new(profile).with("a/T.md", "").with("b/a/T.md", "").with("T.md", "");
    let places = |file: &str| {
        case.brief(file).entries.iter().map(|entry| format!("{} {}", entry.path, entry.place)).collect::<Vec<_>>()
    };
    assert_eq!(places("a/x"), ["a/T.md one", "T.md two"]);
    assert_eq!(places("b/x"), ["a/T.md one", "T.md two", "b/a/T.md two"], "the shallowest anchor is b");
}

#[test]
fn the_order_names_places_and_levels() {
    let place = |id: &str, level: &str, file: &str| {
        format!("[[place]]\nid = \"{id}\"\nlevel = \"{level}\"\nfiles = [\"{file}\"]\n")
    };
    let places = [
        place("a", "user", "u.md"),
        place("b", "project", "*.txt"),
        place("c", "folder", "f.md"),
        place("d", "folder", "g.md"),
    ]
    .concat();
    let with = |order: &str| {
        let case = Case::new(&format!("{order}\n{places}"));
        ["~/u.md", "p.txt", "o.txt", "f.md", "g.md", "s/f.md", "s/g.md"]
            .into_iter()
            .fold(case, |case, path| case.with(path, ""))
            .told("s/x")
    };
    let paths =
        |told: Vec<String>| told.iter().map(|line| line.split(' ').next().unwrap().to_owned()).collect::<Vec<_>>();
    assert_eq!(paths(with("")), ["~/u.md", "o.txt", "p.txt", "f.md", "g.md", "s/f.md", "s/g.md"]);
    assert_eq!(
        paths(with("order = [\"d\", \"folder\"]")),
        ["g.md", "s/g.md", "f.md", "s/f.md", "~/u.md", "o.txt", "p.txt"]
    );
}

#[test]
fn exclusions_hide_source_files_as_git_would() {
    let profile = format!("{SCOPED}\n[exclusions]\nfiles = [\".skip\", \".skip2\"]\n");
    let case = Case::new(&profile)
        .with(".t/1.md", "---\nload: each\n---\n")
        .with(".t/2.md", "---\ncovers: \"**\"\n---\n")
        .with(".t/3.md", "---\nabout: x\n---\n")
        .with(".skip", "# first\n*.pem\nbuild/\n!keep.pem\n")
        .with("a/.skip", "!x.pem\n")
        .with("a/.skip2", "x.pem\n");
    let brief = case.brief("a/y.pem");
    assert_eq!(brief.hidden[0].by.as_str(), ".skip");
    assert_eq!((brief.hidden[0].hit.line, brief.hidden[0].hit.pattern.as_str()), (2, "*.pem"));
    assert_eq!(told(&brief), [".t/1.md standing", "? .t/3.md"]);
    assert_eq!(out(&brief), [".t/2.md hidden-file"]);
    assert!(case.brief("keep.pem").hidden.is_empty());
    assert_eq!(case.brief("a/x.pem").hidden[0].by.as_str(), "a/.skip2", "two files in one folder read as one");
    assert_eq!(case.brief("build/keep.pem").hidden[0].hit.line, 3, "below a hidden folder nothing is shown again");
}

const REFERENCES: &str = "\n[references]\nsyntax = [\"at-path\", \"link\"]\n";

#[test]
fn references_come_right_after_the_file_that_mentions_them() {
    let case = Case::new(&format!("{NOTES}{REFERENCES}"))
        .with("T.md", "See @docs/a.md, [b](docs/b.md) and `@docs/no.md`.\n")
        .with("docs/a.md", "@c.md")
        .with("docs/b.md", "@a.md again")
        .with("docs/c.md", "")
        .with("s/T.md", "@../docs/b.md");
    assert_eq!(
        case.told("s/x"),
        ["T.md standing", "docs/a.md referenced", "docs/c.md referenced", "docs/b.md referenced", "s/T.md standing"]
    );
    let brief = case.brief("s/x");
    assert_eq!(brief.entries[2].via.as_ref().unwrap().to_string(), "docs/a.md");
    assert_eq!(brief.entries[2].place, "notes");
}

#[test]
fn what_is_not_followed_is_said() {
    let case = Case::new(&format!("{NOTES}{REFERENCES}depth = 2\n"))
        .with("T.md", "@a.md @../out.md @/etc/passwd @~/home.md @gone.md @docs/")
        .with("a.md", "@b.md @T.md @a.md")
        .with("b.md", "@c.md")
        .with("c.md", "")
        .with("docs/x.md", "")
        .with("~/home.md", "");
    assert_eq!(case.told("x"), ["T.md standing", "a.md referenced", "b.md referenced"]);
    assert_eq!(
        case.out("x"),
        [
            "c.md too-deep", "T.md cycle", "a.md cycle", "../out.md outside-root", "/etc/passwd outside-root",
            "~/home.md outside-root", "gone.md missing", "docs missing"
        ]
    );
    let shallow = case.with("s/T.md", "@../c.md");
    assert!(!shallow.out("s/x").contains(&"c.md too-deep".to_owned()), "loaded by another mention");
}

#[test]
fn files_of_the_home_folder_may_reach_both() {
    let profile = format!("[[place]]\nid = \"own\"\nlevel = \"user\"\nfiles = [\"T.md\"]\n{REFERENCES}");
    let case = Case::new(&profile).with("~/T.md", "@~/h.md @sub/i.md").with("~/h.md", "").with("~/sub/i.md", "");
    assert_eq!(case.told("x"), ["~/T.md standing", "~/h.md referenced", "~/sub/i.md referenced"]);
    let root = Case::new(&format!("{profile}from = \"root\"\n")).with("~/T.md", "@docs/a.md").with("docs/a.md", "");
    assert_eq!(root.told("x"), ["~/T.md standing", "docs/a.md referenced"]);
}

#[test]
fn a_mentioned_candidate_stands_where_it_is_mentioned() {
    let case = Case::new(&format!("{SCOPED}{REFERENCES}"))
        .with(".t/1.md", "---\nload: each\n---\n@3.md @2.md @4.md")
        .with(".t/2.md", "---\nload: each\n---\n")
        .with(".t/3.md", "---\nabout: x\n---\n")
        .with(".t/4.md", "---\ncovers: none\n---\n");
    assert_eq!(case.told("x"), [".t/1.md standing", ".t/3.md referenced", ".t/2.md referenced", ".t/4.md referenced"]);
    assert!(case.out("x").is_empty());
    let header =
        Case::new(&format!("{SCOPED}{REFERENCES}")).with(".t/1.md", "---\nload: each\nabout: \"@no.md\"\n---\n");
    assert!(header.out("x").is_empty(), "only text after the header counts");
}

#[test]
fn limits_cut_or_skip_down_the_list() {
    let with = |limits: &str| {
        let profile = format!("{NOTES}[limits]\n{limits}\n");
        Case::new(&profile).with("T.md", "12345678\n12345678\n").with("a/T.md", "").with("a/b/T.md", "1234\n")
    };
    let cut = with("file_bytes = 10").brief("a/b/x");
    assert_eq!(cut.entries.iter().map(|entry| entry.cut_at_line).collect::<Vec<_>>(), [Some(2), None, None]);
    assert_eq!(cut.entries[0].text(), "12345678\n1");
    assert_eq!(with("file_bytes = 9").brief("x").entries[0].cut_at_line, Some(2));
    assert_eq!(with("file_bytes = 8").brief("x").entries[0].cut_at_line, Some(1));
    assert_eq!(with("file_bytes = 18").brief("x").entries[0].cut_at_line, None);
    let total = with("total_bytes = 20").brief("a/b/x");
    assert_eq!(
        total.entries.iter().map(|entry| (entry.kept, entry.cut_at_line)).collect::<Vec<_>>(),
        [(18, None), (0, None), (2, Some(1))]
    );
    let full = with("total_bytes = 18").brief("a/b/x");
    assert_eq!(
        (told(&full), out(&full)),
        (vec!["T.md standing".into(), "a/T.md standing".into()], vec!["a/b/T.md over-limit".into()])
    );
    let skip = with("total_bytes = 17\nexcess = \"skip\"").brief("a/b/x");
    assert_eq!(
        (told(&skip), out(&skip)),
        (vec!["a/T.md standing".into(), "a/b/T.md standing".into()], vec!["T.md over-limit".into()])
    );
}

#[test]
fn several_files_make_one_conversation() {
    let case = nested("").with("a/x", "").with("c/y", "");
    assert_eq!(
        told(&case.brief_of(&["a/x", "c/y"], "", false)),
        ["T.md standing", "a/T.md standing", "c/T.md standing"]
    );
    let scoped = Case::new(SCOPED)
        .with(".t/1.md", "---\ncovers: \"*.rs\"\n---\n")
        .with(".t/2.md", "---\ncovers: \"*.py\"\n---\n");
    let brief = scoped.brief_of(&["x.rs", "y.py", "z.rs"], "", false);
    let files: Vec<String> = brief.entries[0].files.iter().map(ToString::to_string).collect();
    assert_eq!(files, ["x.rs", "z.rs"]);
    assert!(brief.left_out.is_empty());
}

#[test]
fn other_folders_are_listed_when_all_rules_are_asked_for() {
    let case = nested("");
    assert_eq!(out(&case.brief_of(&["c/x"], "", true)), ["a/T.md other-folder", "a/b/T.md other-folder"]);
}

/// A tree that lists its folders from the end.
struct Backwards(MemoryTree);

impl Tree for Backwards {
    fn look(&self, at: &Location) -> Look {
        self.0.look(at)
    }

    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError> {
        self.0.list(at).map(|entries| entries.into_iter().rev().collect())
    }

    fn read_at_most(&self, at: &Location, most: u64) -> Result<Vec<u8>, TreeError> {
        self.0.read_at_most(at, most)
    }

    fn index(&self) -> Result<Index, TreeError> {
        self.0.index()
    }
}

fn random_project() -> impl Strategy<Value = Vec<(String, String)>> {
    let folder = prop::sample::select(vec!["", "a/", "a/b/", "c/"]);
    let text = prop::sample::select(vec![
        "---\nload: each\n---\n@../T.md @a/x.md",
        "---\ncovers: \"*.rs\"\n---\n",
        "---\nabout: x\n---\n[y](x.md)",
        "@c/gone.md @.t/1.md",
    ]);
    let name = prop::sample::select(vec![".t/1.md", ".t/2.md", "T.md", "x.md"]);
    prop::collection::vec((folder, name, text), 0..8).prop_map(|files| {
        files.into_iter().map(|(folder, name, text)| (format!("{folder}{name}"), text.to_owned())).collect()
    })
}

fn project(files: &[(String, String)]) -> Case {
    let case = Case::new(&format!("{SCOPED}{NOTES}{REFERENCES}"));
    files.iter().fold(case, |case, (path, text)| case.with(path, text))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn never_mentions_a_file_that_is_not_there(files in random_project()) {
        let brief = project(&files).brief("a/b/f.rs");
        for entry in &brief.entries {
            prop_assert!(files.iter().any(|(path, _)| *path == entry.path.to_string()));
        }
        for left in brief.left_out.iter().filter(|left| !matches!(left.why.code(), "missing" | "outside-root")) {
            prop_assert!(files.iter().any(|(path, _)| *path == left.what.to_string()), "{}", left.what);
        }
    }

    #[test]
    fn the_order_in_which_folders_list_their_files_changes_nothing(files in random_project()) {
        let case = project(&files);
        let tree = case.tree.clone().with("guidance/profiles/t.toml", case.profile.as_str());
        let answer = |tree: &dyn Tree| {
            let workspace = Workspace::open(tree, &[]).unwrap();
            let profile = workspace.profiles.iter().find(|profile| profile.name == "t").unwrap();
            let question = Question { files: vec![RepoPath::new("a/b/f.rs").unwrap()], start: RepoPath::root() };
            let brief = resolve(&workspace, profile, &question, None).unwrap();
            (told(&brief), out(&brief))
        };
        prop_assert_eq!(answer(&tree), answer(&Backwards(tree.clone())));
    }

    #[test]
    fn a_file_elsewhere_changes_nothing(files in random_project()) {
        let before = project(&files);
        let after = project(&files).with("z/T.md", "new").with("z/.t/1.md", "new").with("a/b/other.rs", "");
        prop_assert_eq!(before.told("a/b/f.rs"), after.told("a/b/f.rs"));
        prop_assert_eq!(before.out("a/b/f.rs"), after.out("a/b/f.rs"));
    }

    #[test]
    fn nothing_is_told_twice_or_beyond_the_limit(files in random_project(), total in 1u64..120, cut: bool) {
        let mut case = project(&files);
        case.profile += &format!("[limits]\ntotal_bytes = {total}\nexcess = \"{}\"\n", if cut { "cut" } else { "skip" });
        let brief = case.brief("a/b/f.rs");
        let loaded: Vec<_> = brief.entries.iter().filter(|entry| entry.state == State::Loaded).collect();
        prop_assert!(loaded.iter().map(|entry| entry.kept).sum::<u64>() <= total);
        let mut paths: Vec<_> = brief.entries.iter().map(|entry| entry.path.clone()).collect();
        paths.sort();
        paths.dedup();
        prop_assert_eq!(paths.len(), brief.entries.len());
    }
}
