//! `signpost lint` and `explain`, run on files.

#![allow(clippy::unwrap_used)]

mod common;

use common::{Project, each};
use serde_json::Value;

fn findings(project: &Project) -> Vec<Value> {
    project.json(&["lint"])["findings"].as_array().unwrap().clone()
}

fn checks(project: &Project) -> Vec<String> {
    findings(project).iter().map(|finding| finding["check"].as_str().unwrap().to_owned()).collect()
}

fn note(header: &str) -> String {
    format!("---\n{header}\n---\n- Be kind to seeds\n")
}

/// A project in which `src/main.rs` and `docs/a.md` are all there is.
fn base() -> Project {
    Project::with_profiles().with("src/main.rs", "").with("docs/a.md", "")
}

/// Each row: a file, what it holds, the finding's check and the words it points at.
#[test]
fn each_check_fires_at_the_words_at_fault() {
    let long = "- Line\n".repeat(201);
    let rows: &[(&str, &str, &str, &str)] = &[
        ("AGENT.md", "- Be kind\n", "place/near-miss-name", ""),
        ("src/BBSHEET.txt", "x\n", "place/never-loaded", ""),
        (".oo/notes/n.md", &note("covers: *.rs"), "header/invalid", "*.rs"),
        (".oo/notes/n.md", "---\nload: each\n- never closed\n", "header/invalid", "---"),
        (".oo/notes/n.md", &note("load: each\ncover: x"), "header/unknown-key", "cover"),
        (".oo/notes/n.md", &note("load: eahc"), "header/wrong-type", "eahc"),
        (".oo/notes/n.md", &note("covers: {a: b}"), "header/wrong-type", "{a: b}"),
        (".oo/kits/k/KIT.md", &note("about: ''"), "header/missing-summary", "about"),
        (".oo/notes/n.md", &note("covers: \"{src,docs/**, *.rs\""), "scope/invalid-pattern", "{"),
        (".oo/notes/n.md", &note("covers: [\"*.rs\", \"scr/**\"]"), "scope/matches-nothing", "scr/**"),
        (".oo/notes/n.md", &note("covers: [\"**/*\"]"), "scope/matches-everything", "**/*"),
        ("AGENTS.md", &long, "size/file-too-long", "- Line"),
        ("AGENTS.md", "- Say it once only\n- Say it once only.\n", "consistency/repeated", "Say it once only."),
        ("AGENTS.md", "- Be\u{200b} kind\n", "safety/hidden-text", "\u{200b}"),
    ];
    for (path, text, check, words) in rows {
        let project = base().with(path, text);
        let found: Vec<Value> = findings(&project).into_iter().filter(|finding| finding["check"] == *check).collect();
        assert!(!found.is_empty(), "{check} does not fire on {text:?}: {:?}", checks(&project));
        let finding = &found[0];
        assert_eq!(finding["path"], *path);
        assert!(!finding["help"].as_str().unwrap().is_empty() && !finding["assistants"].as_array().unwrap().is_empty());
        let line = text.lines().nth(finding["line"].as_u64().unwrap() as usize - 1).unwrap_or_default();
        let column = |key: &str| finding[key].as_u64().unwrap() as usize - 1;
        let (start, end) = (column("column"), column("end_column"));
        let pointed: String = line.chars().skip(start).take(end - start).collect();
        assert_eq!(pointed, *words, "{check}");
    }
}

/// Each row: what is right, though it looks a little like what is not.
#[test]
fn what_is_right_is_left_alone() {
    for (path, text) in [
        (".oo/notes/n.md", note("covers: \"*.rs\"")),
        (".oo/notes/n.md", note("covers:\n  - \"src/**\"\nskips: \"*.gen.rs\"")),
        (".oo/notes/n.md", note("load: each")),
        (".oo/notes/n.md", note("about: When seeds are counted")),
        (".oo/notes/n.md", "No header at all\n".to_owned()),
        (".oo/kits/k/KIT.md", note("about: Counting seeds")),
        ("AGENTS.md", "- Line\n".to_owned() + &"\n".repeat(199)),
        ("AGENTS.md", "## Rust\n\n- Run the tests first\n\n## Python\n\n- Run the tests first\n".to_owned()),
        ("AGENTS.md", "```\nsay it once\n```\n\n> say it once\n\nsay it once\n".to_owned()),
        ("AGENTS.md", "\u{feff}- 👩\u{200d}🔬 counts\n".to_owned()),
        ("TT.md", "- One directive that stands alone\n".to_owned()),
    ] {
        let project = base().with(path, &text);
        assert_eq!(checks(&project), [""; 0], "{path} {text:?}");
    }
}

#[test]
fn repetition_counts_only_where_both_are_told() {
    let same = "- Run the tests before you commit\n";
    let nested = base().with("TT.md", same).with("src/TT.md", same);
    let found = &findings(&nested)[0];
    assert_eq!((found["path"].as_str(), found["witness"].as_str()), (Some("src/TT.md"), Some("src/main.rs")));
    assert_eq!(found["related"][0]["path"], "TT.md");
    let siblings = base().with("docs/TT.md", same).with("src/TT.md", same);
    assert_eq!(checks(&siblings), [""; 0]);
    let two_assistants = base().with("AGENTS.md", same).with("TT.md", same);
    assert_eq!(checks(&two_assistants), [""; 0]);
}

#[test]
fn the_nearest_pattern_is_offered() {
    for (pattern, near) in [
        ("scr/**", "src/**"),
        ("src", "src/**"),
        ("main/*.rs", "**/*.rs"),
        ("./Src/*.rs", "src/*.rs"),
        ("/main.rs", "**/main.rs"),
        ("*.rss", "*.rs"),
        ("src/deep/*.rs", ""),
    ] {
        let project =
            base().with("src/lib/deep.rs", "").with(".oo/notes/n.md", note(&format!("covers: \"{pattern}\"")));
        let found = findings(&project);
        let help = found[0]["help"].as_str().unwrap();
        if near.is_empty() {
            assert!(help.contains("did you mean") || help.contains("remove it"), "{pattern}: {help}");
        } else if pattern == "main/*.rs" {
            assert!(help.contains("did you mean"), "{pattern}: {help}");
        } else {
            assert!(help.contains(&format!("`{near}`")), "{pattern}: {help}");
        }
    }
}

#[test]
fn exit_codes_follow_fail_on() {
    let clean = base().with("AGENTS.md", "- Be kind\n");
    assert_eq!(clean.run(&["lint"]).code, 0);
    assert!(clean.run(&["lint"]).out.starts_with("Nothing found"));
    let warns = base().with("AGENTS.md", "- Say it once only\n- Say it once only\n");
    for (fail_on, code) in [("note", 1), ("warning", 1), ("error", 0), ("never", 0)] {
        assert_eq!(warns.run(&["lint", "--fail-on", fail_on]).code, code, "{fail_on}");
    }
    assert_eq!(warns.run(&["lint"]).code, 1);
    let configured = warns.with("signpost.toml", "[lint]\nfail_on = \"error\"\n");
    assert_eq!(configured.run(&["lint"]).code, 0);
    assert_eq!(configured.run(&["lint", "--fail-on", "warning"]).code, 1);
}

#[test]
fn settings_change_severities() {
    let project = |settings: &str| {
        base()
            .with("AGENTS.md", "- Say it once only\n- Say it once only\n- Be\u{200b} kind\n")
            .with("signpost.toml", settings)
    };
    let severities = |settings: &str| {
        let lint = project(settings).json(&["lint"]);
        each(&lint["findings"], "severity").join(" ")
    };
    assert_eq!(severities(""), "warning error");
    assert_eq!(severities("[lint.checks]\nconsistency = \"off\"\n"), "error");
    assert_eq!(severities("[lint.checks]\nconsistency = \"off\"\n\"consistency/repeated\" = \"note\"\n"), "note error");
    assert_eq!(severities("[[lint.paths]]\npaths = [\"AGENTS.md\"]\nchecks = { safety = \"note\" }\n"), "warning note");
    project("[lint.checks]\n\"consistency/repeat\" = \"off\"\n")
        .run(&["lint"])
        .fails(2, &["signpost.toml:2:1", "did you mean `consistency/repeated`?"]);
}

#[test]
fn findings_of_several_assistants_are_said_once() {
    let again = "name = \"uu\"\n[[place]]\nid = \"p\"\nlevel = \"folder\"\nfiles = [\"TT.md\"]\n";
    let project = base().with("guidance/profiles/uu.toml", again).with("TT.md", "- Be\u{200b} kind\n");
    let found = findings(&project);
    assert_eq!(found.len(), 1);
    assert_eq!(found[0]["assistants"], serde_json::json!(["tt", "uu"]));
}

#[test]
fn output_never_holds_what_could_steer_a_terminal() {
    let project = base().with("AGENTS.md", "- \u{1b}[31mred\u{7}\u{202e} text\n- \u{1b}[31mred\u{7}\u{202e} text\n");
    let out = project.run(&["lint"]).out;
    assert!(!out.contains(['\u{1b}', '\u{7}', '\u{202e}']), "{out:?}");
}

#[test]
fn explain_teaches_every_check() {
    let project = Project::new();
    let list = project.json(&["explain"]);
    assert!(list["checks"].as_array().unwrap().len() >= 12);
    for check in each(&list["checks"], "check") {
        let ran = project.run(&["explain", check]);
        assert_eq!(ran.code, 0);
        assert!(ran.out.starts_with(check) && ran.out.contains("Instead of") && ran.out.contains("write"), "{check}");
    }
    assert!(project.run(&["explain", "scope"]).out.contains("scope/matches-nothing"));
    project.run(&["explain", "scope/matches-nothng"]).fails(2, &["did you mean `scope/matches-nothing`?"]);
}
