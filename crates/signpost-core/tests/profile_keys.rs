//! Every key and value that a profile may hold, with what it changes. Resolving has most of them in `brief.rs`, publishing
//! in `places.rs`; here stand the others, and the test that none is forgotten.

#![allow(clippy::unwrap_used)]

use signpost_core::base::repo_path::RepoPath;
use signpost_core::files::MemoryTree;
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Question, resolve};
use std::collections::BTreeSet;

fn tree(profile: &str, files: &[(&str, &str)]) -> MemoryTree {
    let profile = format!("name = \"us\"\n{profile}");
    let tree = MemoryTree::new().with("guidance/profiles/us.toml", profile.as_str());
    files.iter().fold(tree, |tree, (path, text)| tree.with(path, *text))
}

/// The files that are loaded when one is worked on.
fn loaded(profile: &str, files: &[(&str, &str)], file: &str) -> Vec<String> {
    let tree = tree(profile, files);
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let us = workspace.profiles.iter().find(|profile| profile.name == "us").unwrap();
    let question = Question { files: vec![RepoPath::new(file).unwrap()], start: RepoPath::root() };
    let brief = resolve(&workspace, us, &question, None).unwrap();
    brief.entries.iter().filter(|entry| entry.state.word() == "loaded").map(|entry| entry.path.to_string()).collect()
}

/// The checks that find something, with what they say.
fn found(profile: &str, files: &[(&str, &str)]) -> Vec<String> {
    crate::common::lint(&tree(profile, files), |_, findings| {
        findings.iter().map(|finding| format!("{}: {} ({})", finding.check, finding.message, finding.help)).collect()
    })
}

const NOTES: &str = "[[place]]\nid = \"notes\"\nlevel = \"folder\"\nfiles = [\"US.md\"]\n";

fn scoped(dialect: &str) -> String {
    format!(
        "[[place]]\nid = \"rules\"\nlevel = \"project\"\nfiles = [\".us/*.md\"]\nheader = \"yaml\"\n[place.keys]\npaths = \"covers\"\n[[place.decide]]\nkey = \"covers\"\npresent = true\nreach = \"scoped\"\n[place.patterns]\n{dialect}\n"
    )
}

/// Whether a rule with these patterns, as YAML, is told about a file.
fn takes(dialect: &str, patterns: &str, file: &str) -> bool {
    let rule = format!("---\ncovers: {patterns}\n---\n- Keep it.\n");
    !loaded(&scoped(dialect), &[(".us/a.md", &rule)], file).is_empty()
}

/// Keys that the assistant knows are no mistakes, their values are, and so is a file without a required one.
#[test]
fn further_keys_have_values_and_may_be_required() {
    let place = "[[place]]\nid = \"crew\"\nlevel = \"project\"\nfiles = [\".us/*.md\"]\nkind = \"role\"\nheader = \"yaml\"\n[place.keys]\nname = \"call\"\ntools = \"hands\"\nmodel = \"size\"\n[place.known]\nmode = { values = [\"ask\", \"act\"] }\nowner = { required = true }\n";
    let says = |header: &str| -> Vec<String> {
        let rule = [(".us/a.md", &*format!("---\n{header}---\nYou read with care.\n"))];
        found(place, &rule).into_iter().filter(|said| said.starts_with("header/")).collect()
    };
    // The keys `name`, `tools` and `model` themselves mean nothing to it.
    assert!(says("tools: read\nowner: jo\n")[0].contains("no key `tools`"));
    assert!(says("model: big\nowner: jo\n")[0].contains("no key `model`"));
    assert_eq!(says("call: ina\nhands: read\nsize: big\nmode: ask\nowner: jo\n"), [""; 0]);
    let tool = says("hand: read\nowner: jo\n");
    assert!(tool[0].contains("knows no key `hand`") && tool[0].contains("did you mean `hands`?"), "{tool:?}");
    let mode = says("mode: acts\nowner: jo\n");
    assert!(mode[0].contains("it takes `ask` or `act`") && mode[0].contains("did you mean `act`?"), "{mode:?}");
    let other = says("mode: never\nowner: jo\n");
    assert!(other[0].contains("(write `ask` or `act`"), "{other:?}");
    assert!(says("mode: ask\n")[0].contains("us asks for a key `owner`"), "{:?}", says("mode: ask\n"));
    assert!(says("owner:\n")[0].starts_with("header/missing-key"), "an empty one is none");
}

#[test]
fn the_title_is_what_people_read() {
    let rule = [(".us/a.md", "---\nowner: ina\n---\n- Keep it.\n")];
    let says = |profile: &str| found(profile, &rule).into_iter().find(|said| said.starts_with("header/unknown-key"));
    assert!(says(&scoped("")).unwrap().contains("us knows no key `owner`"));
    assert!(says(&format!("title = \"Old Us\"\n{}", scoped(""))).unwrap().contains("Old Us knows no key `owner`"));
}

#[test]
fn who_wins_decides_whether_two_rules_contradict() {
    let files = [("US.md", "- Indent with tabs.\n"), ("src/US.md", "- Indent with spaces.\n"), ("src/a.rs", "")];
    let checks = |conflict: &str| -> Vec<String> {
        let all = found(&format!("{conflict}{NOTES}"), &files);
        all.into_iter().filter(|said| said.starts_with("consistency/")).collect()
    };
    for unstated in ["", "conflict = \"unstated\"\n"] {
        let all = checks(unstated);
        assert!(all.len() == 1 && all[0].starts_with("consistency/contradiction"), "{all:?}");
    }
    let later = checks("conflict = \"later-wins\"\n");
    assert!(later.len() == 1 && later[0].contains("this overrides “Indent with tabs” in US.md"), "{later:?}");
    let earlier = checks("conflict = \"earlier-wins\"\n");
    assert!(
        earlier.len() == 1 && earlier[0].contains("this does not count beside “Indent with tabs” in US.md"),
        "{earlier:?}"
    );
}

#[test]
fn markdown_has_code_and_plain_text_has_none() {
    let files = [("US.md", "```\n@docs/a.md\n```\n@docs/b.md\n"), ("docs/a.md", "a"), ("docs/b.md", "b")];
    let references = "[references]\nsyntax = [\"at-path\"]\n";
    let of = |format: &str| loaded(&format!("{NOTES}{format}{references}"), &files, "x");
    assert_eq!(of(""), ["US.md", "docs/b.md"]);
    assert_eq!(of("format = \"markdown\"\n"), ["US.md", "docs/b.md"]);
    assert_eq!(of("format = \"plain\"\n"), ["US.md", "docs/a.md", "docs/b.md"]);
}

#[test]
fn references_have_a_syntax_a_base_and_a_depth() {
    let files = [
        ("in/US.md", "@a.md and [b](b.md)\n"),
        ("in/a.md", "@c.md\n"),
        ("in/b.md", ""),
        ("in/c.md", ""),
        ("a.md", ""),
        ("b.md", ""),
    ];
    let of = |references: &str| loaded(&format!("{NOTES}[references]\n{references}\n"), &files, "in/x");
    assert_eq!(of("syntax = [\"at-path\"]"), ["in/US.md", "in/a.md", "in/c.md"]);
    assert_eq!(of("syntax = [\"at-path\"]\ndepth = 1"), ["in/US.md", "in/a.md"]);
    assert_eq!(of("syntax = [\"at-path\"]\ndepth = 0"), ["in/US.md"]);
    assert_eq!(of("syntax = [\"link\"]"), ["in/US.md", "in/b.md"]);
    assert_eq!(of("syntax = [\"link\", \"at-path\"]\nfrom = \"root\""), ["in/US.md", "a.md", "b.md"]);
    assert_eq!(of("syntax = [\"at-path\"]\nfrom = \"file\""), ["in/US.md", "in/a.md", "in/c.md"]);
    assert_eq!(loaded(NOTES, &files, "in/x"), ["in/US.md"], "who says nothing of references follows none");
}

#[test]
fn a_row_holds_where_a_key_is_there_is_absent_or_is_a_value() {
    let place = "[[place]]\nid = \"rules\"\nlevel = \"project\"\nfiles = [\".us/*.md\"]\nheader = \"yaml\"\nreach = \"called\"\n";
    let row = |condition: &str| format!("{place}[[place.decide]]\nkey = \"mode\"\n{condition}\nreach = \"standing\"\n");
    let holds = |condition: &str, header: &str| {
        let rule = format!("---\n{header}\n---\n- Keep it.\n");
        !loaded(&row(condition), &[(".us/a.md", &rule)], "x").is_empty()
    };
    assert!(
        holds("absent = true", "other: 1") && holds("absent = true", "mode:") && !holds("absent = true", "mode: 1")
    );
    assert!(
        holds("present = true", "mode: 1") && !holds("present = true", "mode:") && !holds("present = true", "x: 1")
    );
    assert!(
        holds("is = \"on\"", "mode: on") && holds("is = \"on\"", "mode: 'on'") && !holds("is = \"on\"", "mode: off")
    );
    assert!(holds("is = true", "mode: true") && holds("is = 7", "mode: 7") && !holds("is = 7", "mode: 77"));
}

#[test]
fn bare_names_match_at_any_depth_or_are_anchored() {
    for dialect in ["", "bare = \"any-depth\""] {
        assert!(takes(dialect, "\"*.rs\"", "a.rs") && takes(dialect, "\"*.rs\"", "src/deep/a.rs"));
    }
    let anchored = "bare = \"anchored\"";
    assert!(takes(anchored, "\"*.rs\"", "a.rs") && !takes(anchored, "\"*.rs\"", "src/a.rs"));
    assert!(takes(anchored, "\"**/*.rs\"", "src/a.rs"));
}

#[test]
fn braces_are_alternatives_or_letters() {
    for dialect in ["", "braces = true"] {
        assert!(takes(dialect, "\"*.{rs,ts}\"", "a.ts") && !takes(dialect, "\"*.{rs,ts}\"", "a.{rs,ts}"));
    }
    assert!(!takes("braces = false", "\"*.{rs,ts}\"", "a.ts"));
    assert!(takes("braces = false", "[\"*.{rs,ts}\"]", "a.{rs,ts}"));
}

#[test]
fn a_leading_sign_takes_out_or_is_a_letter() {
    let patterns = "[\"src/**\", \"!src/old/**\"]";
    assert!(takes("negate = true", patterns, "src/a.rs") && !takes("negate = true", patterns, "src/old/a.rs"));
    for dialect in ["", "negate = false"] {
        assert!(takes(dialect, patterns, "src/old/a.rs"));
        assert!(takes(dialect, "[\"!a/**\"]", "!a/b.rs"));
    }
}

#[test]
fn lists_are_arrays_or_one_string() {
    let (array, string) = ("[\"*.rs\", \"*.ts\"]", "\"*.rs, *.ts\"");
    for dialect in ["", "list = \"either\""] {
        assert!(takes(dialect, array, "a.ts") && takes(dialect, string, "a.ts"), "{dialect}");
    }
    assert!(takes("list = \"array\"", array, "a.ts") && !takes("list = \"array\"", string, "a.ts"));
    assert!(takes("list = \"comma\"", string, "a.ts") && !takes("list = \"comma\"", array, "a.ts"));
}

#[test]
fn a_personal_copy_is_to_be_ignored_by_git_and_others_are_not() {
    let place =
        |personal: &str| format!("[[place]]\nid = \"mine\"\nlevel = \"project\"\nfiles = [\"US.mine.md\"]\n{personal}");
    let of = |personal: &str, ignored: &str| -> Vec<String> {
        let all = found(&place(personal), &[("US.mine.md", "- Keep it.\n"), (".gitignore", ignored), ("a.rs", "")]);
        all.iter().map(|said| said.split(':').next().unwrap().to_owned()).collect()
    };
    assert_eq!(of("personal = true\n", ""), ["place/personal-not-ignored"]);
    assert_eq!(of("personal = true\n", "*.mine.md\n"), [""; 0]);
    assert_eq!(of("personal = false\n", "*.md\n"), ["place/ignored-by-git"]);
    // A pattern that plainly means such files is no accident.
    for meant in ["*.mine.md\n", "US.mine.md\n", "/US.mine.md\n"] {
        assert_eq!(of("personal = false\n", meant), [""; 0], "{meant}");
    }
    for broad in ["US*\n", "/US.*\n", "*.m*\n"] {
        assert_eq!(of("personal = false\n", broad), ["place/ignored-by-git"], "{broad}");
    }
    assert_eq!(of("", ""), [""; 0]);
}

#[test]
fn pick_reads_all_patterns_or_the_first_that_has_a_file() {
    let files = [("US.own.md", ""), ("US.md", ""), ("a/US.md", "")];
    let of = |pick: &str| {
        loaded(&NOTES.replace("[\"US.md\"]", &format!("[\"US.own.md\", \"US.md\"]\n{pick}")), &files, "a/x")
    };
    for all in ["", "pick = \"all\""] {
        assert_eq!(of(all), ["US.md", "US.own.md", "a/US.md"], "{all}");
    }
    assert_eq!(of("pick = \"first\""), ["US.own.md", "a/US.md"]);
}

#[test]
fn what_is_said_outright_is_what_is_taken_for_granted() {
    let files = [("US.md", ""), ("a/US.md", "")];
    let said =
        "loads = \"touched\"\nnested = \"all\"\nconflict = \"unstated\"\norder = [\"user\", \"project\", \"folder\"]\n";
    let place = "pick = \"all\"\nkind = \"rule\"\nformat = \"markdown\"\nheader = \"none\"\nbase = \"root\"\nreach = \"standing\"\n";
    assert_eq!(loaded(&format!("{said}{NOTES}{place}"), &files, "a/x"), loaded(NOTES, &files, "a/x"));
    let limits = |excess: &str| format!("{NOTES}[limits]\nfile_bytes = 3\n{excess}");
    let long = [("US.md", "12345\n")];
    assert_eq!(loaded(&limits(""), &long, "x"), ["US.md"]);
    assert_eq!(loaded(&limits("excess = \"cut\"\n"), &long, "x"), ["US.md"]);
    assert_eq!(loaded(&limits("excess = \"skip\"\n"), &long, "x"), [""; 0]);
}

fn words_of(schema: &serde_json::Value, words: &mut BTreeSet<String>) {
    match schema {
        serde_json::Value::Object(object) => {
            words.extend(
                object
                    .get("properties")
                    .and_then(|all| all.as_object())
                    .into_iter()
                    .flat_map(|all| all.keys().cloned()),
            );
            let constants = object
                .get("const")
                .into_iter()
                .chain(object.get("enum").and_then(|all| all.as_array()).into_iter().flatten());
            words.extend(constants.filter_map(|word| Some(word.as_str()?.to_owned())));
            object.values().for_each(|inner| words_of(inner, words));
        }
        serde_json::Value::Array(items) => items.iter().for_each(|inner| words_of(inner, words)),
        _ => {}
    }
}

/// The schema is made from the types: a new key or value fails here until a test speaks of it.
#[test]
fn no_key_and_no_value_is_without_a_test() {
    let schema = include_str!("../../../docs/schemas/profile.schema.json");
    let tests = [include_str!("brief.rs"), include_str!("places.rs"), include_str!("profile_keys.rs")].concat();
    let mut words = BTreeSet::new();
    words_of(&serde_json::from_str(schema).unwrap(), &mut words);
    assert!(words.len() > 60, "{words:?}");
    let tested = |word: &String| {
        let inside = |c: char| c.is_alphanumeric() || c == '_' || c == '-';
        tests.split(|c: char| !inside(c)).any(|other| other == word)
    };
    let untested: Vec<&String> = words.iter().filter(|word| !tested(word)).collect();
    assert!(untested.is_empty(), "{untested:?}");
}
