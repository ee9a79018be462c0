//! `signpost lint` and `explain`, run on files.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};
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
    let nested = base().with("TT.md", same).with("src/TT.md", format!("{same}- Sand\n"));
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
    let docs = std::fs::read_to_string(format!("{}/../../docs/lint.md", env!("CARGO_MANIFEST_DIR"))).unwrap();
    for check in list["checks"].as_array().unwrap() {
        let of = |key: &str| check[key].as_str().unwrap();
        let row = format!("| `{}` | {} | {} |", of("check"), of("severity"), of("finds"));
        assert!(docs.contains(&row), "docs/lint.md lacks: {row}");
    }
    for check in each(&list["checks"], "check") {
        let ran = project.run(&["explain", check]);
        assert_eq!(ran.code, 0);
        assert!(ran.out.starts_with(check) && ran.out.contains("Instead of") && ran.out.contains("write"), "{check}");
    }
    assert!(project.run(&["explain", "scope"]).out.contains("scope/matches-nothing"));
    project.run(&["explain", "scope/matches-nothng"]).fails(2, &["did you mean `scope/matches-nothing`?"]);
}

const MENDABLE: &str =
    "\u{feff}# Ink\r\n\r\n- Please keep the ink dark\r\n- Sand it!!!\r\n- Please keep the ink dark\r\n- a\u{200b}b";

#[test]
fn fixes_touch_nothing_else_and_a_second_run_nothing_at_all() {
    let project = base().with("AGENTS.md", MENDABLE).with(".oo/notes/n.md", note("covers: [\"src/**\", \"src/*.rs\"]"));
    let file = project.root().join("AGENTS.md");
    let dry = project.run(&["lint", "--fix", "--dry-run"]);
    assert_eq!(dry.code, 1);
    assert!(dry.out.contains("-- Please keep the ink dark") && dry.out.contains("+- Keep the ink dark"), "{}", dry.out);
    assert_eq!(std::fs::read_to_string(&file).unwrap(), MENDABLE, "a dry run writes nothing");
    let first = project.run(&["lint", "--fix"]);
    assert_eq!(first.code, 0, "{}{}", first.out, first.err);
    let mended = std::fs::read_to_string(&file).unwrap();
    assert_eq!(mended, "\u{feff}# Ink\r\n\r\n- Keep the ink dark\r\n- Sand it.\r\n- ab");
    let note = std::fs::read_to_string(project.root().join(".oo/notes/n.md")).unwrap();
    assert!(note.contains("covers: [\"src/**\"]"), "{note}");
    let again = project.run(&["lint", "--fix"]);
    assert!(again.err.contains("nothing here can be mended"), "{}", again.err);
    assert_eq!(std::fs::read_to_string(&file).unwrap(), mended);
    assert_eq!(project.run(&["lint", "--fix", "--dry-run"]).code, 0);
}

#[cfg(unix)]
#[test]
fn fixes_never_leave_the_project() {
    let outside = tempfile::tempdir().unwrap();
    let target = outside.path().join("rules.md");
    std::fs::write(&target, "- Please do\n").unwrap();
    let project = base().with("docs/real.md", "- Please do\n");
    std::os::unix::fs::symlink(&target, project.root().join("TT.md")).unwrap();
    std::os::unix::fs::symlink("docs/real.md", project.root().join("AGENTS.md")).unwrap();
    project.run(&["lint", "--fix"]);
    assert_eq!(std::fs::read_to_string(&target).unwrap(), "- Please do\n");
    assert_eq!(std::fs::read_to_string(project.root().join("docs/real.md")).unwrap(), "- Do\n");
    assert!(project.root().join("AGENTS.md").symlink_metadata().unwrap().is_symlink(), "a link stays a link");
    let broken = base();
    std::os::unix::fs::symlink("gone.md", broken.root().join("TT.md")).unwrap();
    assert_eq!(checks(&broken), ["place/broken-link"]);
}

#[test]
fn a_baseline_knows_findings_wherever_they_move() {
    let project = base().with("AGENTS.md", "- Say it once only\n- Say it once only\n");
    let first = project.run(&["lint", "--baseline", "known.json"]);
    assert_eq!(first.code, 0, "{}{}", first.out, first.err);
    assert!(first.out.contains("1 finding recorded in known.json"), "{}", first.out);
    let moved =
        project.with("AGENTS.md", "# Title\n\nMore text here.\n\n- Say it once only\n- x\n- Say it once only\n");
    assert_eq!(moved.run(&["lint", "--baseline", "known.json"]).code, 0);
    let more = moved.with("AGENTS.md", "- Say it once only\n- Say it once only\n- Say it once only\n");
    let ran = more.run(&["lint", "--baseline", "known.json", "--format", "lines"]);
    assert_eq!((ran.code, ran.out.lines().count()), (1, 1), "{}", ran.out);
    let mended = more.with("AGENTS.md", "- Say it once only\n");
    assert!(mended.run(&["lint", "--baseline", "known.json"]).out.contains("1 more in it are mended"));
    mended
        .with("known.json", "{")
        .run(&["lint", "--baseline", "known.json"])
        .fails(2, &["known.json:1", "this is no baseline"]);
}

#[test]
fn allowances_hold_for_the_next_block() {
    for (text, expected) in [
        ("<!-- signpost: allow wording — quoted -->\n- Please do\n", &[][..]),
        ("<!-- signpost: allow wording/pleasantry, wording/shouting — quoted -->\n\n- Please do!!\n- Please\n", &[]),
        ("- Please do <!-- signpost: allow wording — quoted -->\n- Please do that\n", &["wording/pleasantry"]),
        ("<!-- signpost: allow wording — quoted -->\n- Please do\n\nPlease do that.\n", &["wording/pleasantry"]),
        ("`<!-- signpost: allow wording — quoted -->`\n\n- Please do\n", &["wording/pleasantry"]),
    ] {
        let project = base().with("AGENTS.md", text);
        assert_eq!(checks(&project), expected, "{text:?}");
    }
    // What did not run cannot say that an allowance is not needed.
    let project = base().with("AGENTS.md", "<!-- signpost: allow wording — quoted -->\n- Do\n");
    assert_eq!(checks(&project), ["allowance/unneeded"]);
    assert!(project.run(&["lint", "--skip", "wording"]).out.starts_with("Nothing found"));
    project.run(&["lint", "--fix"]);
    assert_eq!(std::fs::read_to_string(project.root().join("AGENTS.md")).unwrap(), "- Do\n");
}

#[test]
fn what_is_asked_for_is_what_is_said() {
    let project = base().with("AGENTS.md", "- Please do!!\n").with("src/AGENTS.md", "- Please go\n");
    let of = |args: &[&str]| {
        let ran = project.run(&[&["lint", "--format", "lines"], args].concat());
        ran.out.lines().map(|line| line.split(": ").next().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(of(&[]).len(), 3);
    assert_eq!(of(&["src"]), ["src/AGENTS.md:1:3"]);
    assert_eq!(of(&["--only", "wording/shouting"]), ["AGENTS.md:1:12"]);
    assert_eq!(of(&["--only", "shouting"]).len(), 1);
    assert_eq!(of(&["--skip", "pleasantry,shouting"]), [""; 0]);
    project.run(&["lint", "gone"]).fails(2, &["there is no file or folder gone"]);
    project.run(&["lint", "--only", "wordin"]).fails(2, &["did you mean `wording`?"]);
    project.run(&["survey", "--format", "sarif"]).fails(2, &["only lint has this format"]);
}

#[test]
fn the_same_mistake_in_many_places_is_said_once() {
    let text = "- Please a\n\n- Please b\n\n- Please c\n\n- Please d\n\n- Please e\n";
    let project = base().with("AGENTS.md", text);
    let out = project.run(&["lint"]).out;
    // A note is a line, unless it is asked to be drawn.
    assert!(
        out.contains("\n  AGENTS.md:1  “Please” says nothing here   and 4 more places  wording/pleasantry\n"),
        "{out}"
    );
    assert!(!out.contains("│"), "{out}");
    let out = project.run(&["lint", "--notes"]).out;
    assert_eq!(out.matches("says nothing here").count(), 1, "{out}");
    assert!(
        out.contains("The same in 4 more places:\n    AGENTS.md:3  “Please”\n    AGENTS.md:5  “Please”\n"),
        "{out}"
    );
    assert!(out.contains("signpost lint --fix mends 5 of them"), "{out}");
}

/// The published schema: <https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json>.
#[test]
fn sarif_is_valid() {
    let mut schema: Value = serde_json::from_str(include_str!("schemas/sarif-2.1.0.json")).unwrap();
    // As published this pattern is no regular expression (one bracket too many), so no validator takes it.
    for part in ["run", "toolComponent"] {
        schema["definitions"][part]["properties"]["language"].as_object_mut().unwrap().remove("pattern");
    }
    let validator = jsonschema::validator_for(&schema).unwrap();
    let tour = Project::new();
    tour.run(&["tour", "--into", "kept"]);
    let sample = tour.run_in(&tour.root().join("kept/hollowbarrow"), &["lint", "--format", "sarif"]).out;
    let empty = base().run(&["lint", "--format", "sarif"]).out;
    for log in [sample, empty] {
        let log: Value = serde_json::from_str(&log).unwrap();
        let errors: Vec<String> =
            validator.iter_errors(&log).map(|error| format!("{}: {error}", error.instance_path())).collect();
        assert!(errors.is_empty(), "{errors:#?}");
    }
}

#[test]
fn markdown_tables_hold_whatever_rules_say() {
    let project = base().with("AGENTS.md", "- Please a | b\n- It is <b>x</b> | fine, thank you\n");
    let out = project.run(&["lint", "--format", "markdown"]).out;
    assert!(out.starts_with("### Instruction files: 2 notes\n"), "{out}");
    for line in out.lines().filter(|line| line.starts_with("| note")) {
        let bars = line.replace("\\|", "").matches('|').count();
        assert_eq!(bars, 5, "{line}");
    }
}

/// The CI job and the hook of docs/lint.md, run as they stand there.
#[cfg(unix)]
#[test]
fn what_the_docs_have_people_copy_works() {
    let docs = std::fs::read_to_string(format!("{}/../../docs/lint.md", env!("CARGO_MANIFEST_DIR"))).unwrap();
    let script = |name: &str| {
        let after = docs
            .split(&format!("<!-- run in a test: {name} -->"))
            .nth(1)
            .unwrap_or_else(|| panic!("{name} is not in docs/lint.md"));
        after.split("```").nth(1).unwrap().split_once('\n').unwrap().1.to_owned()
    };
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_signpost"));
    let path = format!("{}:{}", program.parent().unwrap().display(), std::env::var("PATH").unwrap());
    let sh = |project: &Project, script: &str| {
        let run = std::process::Command::new("sh")
            .args(["-e", "-c", script])
            .env("PATH", &path)
            .env("HOME", project.home())
            .current_dir(project.root())
            .output()
            .unwrap();
        (run.status.code().unwrap(), String::from_utf8_lossy(&run.stdout).into_owned())
    };
    let clean = base().with("AGENTS.md", "- Be kind\n");
    let wrong = base().with("AGENTS.md", "- Say it once only\n- Say it once only\n");
    assert_eq!(sh(&clean, &script("ci")).0, 0);
    let (code, out) = sh(&wrong, &script("ci"));
    assert_eq!(code, 1);
    assert!(out.contains("AGENTS.md:2:3: warning:"), "{out}");
    for (project, expected) in [(&clean, 0), (&wrong, 1)] {
        let git = "git init -q . && git config user.email a@b.c && git config user.name n && git add -A";
        assert_eq!(sh(project, git).0, 0);
        let hook = project.root().join(".git/hooks/pre-commit");
        std::fs::write(&hook, script("hook")).unwrap();
        assert_eq!(sh(project, "chmod +x .git/hooks/pre-commit").0, 0);
        let (code, out) = sh(project, "git commit -q -m first");
        assert_eq!(code, expected, "{out}");
    }
}

#[test]
fn only_what_git_says_is_changed() {
    let project = base().with("AGENTS.md", "- Please do\n").with("src/AGENTS.md", "- Please go\n");
    let git = |args: &[&str]| {
        let who = ["-c", "user.email=a@b.c", "-c", "user.name=n"];
        assert!(
            std::process::Command::new("git")
                .args(who)
                .args(args)
                .current_dir(project.root())
                .status()
                .unwrap()
                .success()
        );
    };
    git(&["init", "-q", "."]);
    git(&["add", "-A"]);
    git(&["commit", "-q", "-m", "first"]);
    assert!(project.run(&["lint", "--changed"]).out.starts_with("Nothing found"));
    std::fs::write(project.root().join("src/AGENTS.md"), "- Please stay\n").unwrap();
    let out = project.run(&["lint", "--changed", "--format", "lines"]).out;
    assert_eq!(out.lines().count(), 1, "{out}");
    assert!(out.starts_with("src/AGENTS.md:1:3"), "{out}");
}
