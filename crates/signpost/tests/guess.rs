//! Files of assistants that nobody described: guessed by what reads, kept by `profile draft --write`, written on never.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};
use serde_json::Value;

/// Teasel keeps notes with scopes, a role and a command, one sheet in any folder and a private copy; a code host's folder
/// holds templates beside Yarrow's guides.
fn stranger() -> Project {
    let mut project = Project::new();
    for (name, header, text) in [
        ("style", "why: House style of all code\nalways: true", "- Keep functions short.\n- Never shout.\n"),
        ("sql", "why: Writing SQL by hand\nfor: \"db/**/*.sql\"", "- Never edit a merged migration.\n"),
        ("web", "why: Screens and buttons\nfor: \"web/**/*.ts, web/**/*.css\"", "- Label every button.\n"),
        ("jobs", "why: Jobs that run at night\nfor: \"jobs/**\"", "- A job can be run twice.\n"),
        ("ship", "why: How to ship a release on a Friday", "- Don't.\n"),
    ] {
        project = project.with(&format!(".teasel/notes/{name}.tsl"), format!("---\n{header}\n---\n\n{text}"));
    }
    project
        .with(".teasel/note/lost.tsl", "---\nwhy: Lost\nfor: \"db/**\"\n---\n\n- Nobody reads this.\n")
        .with(".teasel/crew/reviewer.md", "---\nname: reviewer\nabout: Reviews what was changed today\ntools: look, search\n---\n\nYou review code. Be kind.\n")
        .with(".teasel/tasks/fix.md", "Fix issue {number}:\n\n1. Read it.\n2. Write a failing test.\n3. Mend it.\n")
        .with("TEASEL.md", "# House\n\n- Use tabs.\n")
        .with("web/TEASEL.md", "- Buttons are blue.\n")
        .with("TEASEL.local.md", "- Answer in Welsh.\n")
        .with(".forge/ISSUE_TEMPLATE/bug.md", "---\nname: Bug\nabout: Something is wrong\n---\n\n**What happened?**\n")
        .with(".forge/pull_request_template.md", "## What\n\n- [ ] I wrote a test\n")
        .with(".forge/yarrow-guide.md", "# Guide\n\n- Keep it short.\n- Never shout.\n")
        .with(".forge/guides/api.guide.md", "---\ntargets: \"api/**\"\n---\n\n- Return early.\n")
        .with(".forge/guides/db.guide.md", "---\ntargets: \"db/**\"\n---\n\n- Name columns in full.\n")
        .with(".forge/guides/web.guide.md", "---\ntargets: \"web/**\"\n---\n\n- No inline styles.\n")
        .with(".fragments/brave.md", "---\n\"@shop/web\": minor\n---\n\nShow the day.\n")
        .with("README.md", "# Shop\n\nA shop.\n")
        .with("db/one.sql", "")
        .with("web/a.ts", "")
        .with("web/b.css", "")
        .with("jobs/n.py", "")
        .with("api/x.rs", "")
}

/// `path kind reach`, of one assistant.
fn read_by(survey: &Value, assistant: &str) -> Vec<String> {
    let files = survey["files"].as_array().unwrap().iter().filter(|file| file["assistant"] == assistant);
    let word = |file: &Value, key: &str| file[key].as_str().unwrap().to_owned();
    let mut all: Vec<String> =
        files.map(|file| [word(file, "path"), word(file, "kind"), word(file, "reach")].join(" ")).collect();
    all.sort();
    all
}

const TEASELS: [&str; 10] = [
    ".teasel/crew/reviewer.md role standing",
    ".teasel/notes/jobs.tsl rule scoped",
    ".teasel/notes/ship.tsl rule offered",
    ".teasel/notes/sql.tsl rule scoped",
    ".teasel/notes/style.tsl rule standing",
    ".teasel/notes/web.tsl rule scoped",
    ".teasel/tasks/fix.md called called",
    "TEASEL.local.md rule standing",
    "TEASEL.md rule standing",
    "web/TEASEL.md rule standing",
];

const YARROWS: [&str; 4] = [
    ".forge/guides/api.guide.md rule scoped",
    ".forge/guides/db.guide.md rule scoped",
    ".forge/guides/web.guide.md rule scoped",
    ".forge/yarrow-guide.md rule standing",
];

#[test]
fn the_first_survey_shows_every_file_and_says_that_it_guesses() {
    let project = stranger();
    let survey = project.json(&["survey"]);
    assert_eq!(read_by(&survey, "teasel"), TEASELS);
    assert_eq!(read_by(&survey, "yarrow"), YARROWS);
    assert_eq!(each(&survey["unclaimed"], "path"), [".teasel/note/lost.tsl"]);
    let guessed: Vec<(&str, bool)> = survey["assistants"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| (one["name"].as_str().unwrap(), one["guessed"].as_bool().unwrap()))
        .collect();
    assert_eq!(guessed, [("teasel", true), ("yarrow", true)]);
    let ran = project.run(&["survey"]);
    assert_eq!(ran.code, 0);
    assert!(
        ran.err.contains("note: Teasel is a guess from 10 files: `signpost profile draft --write` keeps it"),
        "{}",
        ran.err
    );
    assert!(!ran.out.contains("pull_request_template") && !ran.out.contains("brave.md"), "{}", ran.out);
    assert_eq!(survey, project.json(&["survey"]), "the same on every run");
}

#[test]
fn every_reading_command_works_on_the_guess() {
    let project = stranger();
    let at = project.json(&["at", "db/one.sql"]);
    let briefs = at["briefs"].as_array().unwrap();
    let teasel = briefs.iter().find(|brief| brief["assistant"] == "teasel").unwrap();
    assert_eq!(teasel["guessed"], true);
    let mut paths = each(&teasel["entries"], "path");
    paths.sort_unstable();
    assert!(paths.contains(&".teasel/notes/sql.tsl") && !paths.contains(&".teasel/notes/web.tsl"), "{paths:?}");
    assert_eq!(project.json(&["weigh"])["assistants"][0]["guessed"], true);
    assert_eq!(project.json(&["parity"])["guessed"], serde_json::json!(["teasel", "yarrow"]));
    assert!(project.run(&["scope", "db/**/*.sql"]).out.contains("1 file"));
    let lint = project.json(&["lint"]);
    let unknown: Vec<&Value> =
        lint["findings"].as_array().unwrap().iter().filter(|one| one["check"] == "place/unknown-assistant").collect();
    assert_eq!(unknown.len(), 2, "once an assistant: {unknown:#?}");
    assert_eq!(unknown[0]["severity"], "warning");
    let near = lint["findings"].as_array().unwrap().iter().find(|one| one["check"] == "place/near-miss-name").unwrap();
    assert_eq!(near["severity"], "warning", "what rests on a guess is a warning at most");
    assert_eq!(near["guessed"], true);
    assert!(project.run(&["lint"]).out.contains("of them rest on what an assistant is guessed to read"));
}

#[test]
fn guessing_can_be_switched_off_and_limits_nothing_that_is_asked_for() {
    let project = stranger();
    assert_eq!(project.json(&["survey", "--no-guess"])["files"], serde_json::json!([]));
    assert!(project.run(&["at", "db/one.sql", "--no-guess"]).err.is_empty());
    let off = stranger().with("signpost.toml", "[project]\nguess = false\n");
    assert_eq!(off.json(&["survey"])["files"], serde_json::json!([]));
    let limited = stranger().with("signpost.toml", "[project]\nassistants = [\"agents-md\"]\n");
    assert_eq!(limited.json(&["survey"])["files"], serde_json::json!([]));
    assert_eq!(read_by(&limited.json(&["survey", "--assistant", "teasel"]), "teasel"), TEASELS);
}

#[test]
fn nothing_is_written_on_a_guess() {
    let project = stranger();
    let before = project.files();
    let ran = project.run(&["adopt", "--yes"]);
    assert!(ran.err.contains("nothing is done for Teasel, which no profile describes"), "{}{}", ran.out, ran.err);
    project.run(&["publish"]);
    project.run(&["lint", "--fix", "--fail-on", "never"]);
    let after = project.files();
    let changed: Vec<&String> = before.keys().filter(|path| before.get(*path) != after.get(*path)).collect();
    assert!(changed.is_empty(), "{changed:?}");
}

#[test]
fn a_draft_that_is_kept_reads_what_was_guessed() {
    let project = stranger();
    let guess = project.json(&["survey"]);
    // A shell makes the file before the command runs.
    let project = project.with("guidance/profiles/teasel.toml", "");
    let ran = project.run(&["profile", "draft", "--write", "--yes"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("guidance/profiles/teasel.toml  10 files; 1 file looks"), "{}", ran.out);
    let kept = project.json(&["survey"]);
    assert_eq!(kept["files"], guess["files"]);
    assert_eq!(kept["unclaimed"], guess["unclaimed"]);
    assert!(kept["assistants"].as_array().unwrap().iter().all(|one| one["guessed"] == false));
    assert_eq!(project.run(&["survey"]).err, "");
    assert!(project.run(&["profile", "draft", "--write", "--yes"]).err.contains("no file here looks like"));
}

#[test]
fn a_draft_is_named_as_one_likes() {
    let project = stranger();
    assert_eq!(project.run(&["profile", "draft", "--name", "teasel=thistle-two", "--write", "--yes"]).code, 0);
    let profile = project.read("guidance/profiles/thistle-two.toml");
    assert!(profile.contains("name = \"thistle-two\"\ntitle = \"Thistle Two\"\n"), "{profile}");
    assert_eq!(read_by(&project.json(&["survey"]), "thistle-two"), TEASELS);
    project.run(&["profile", "draft", "--name", "yarrow=Yarrow Root"]).fails(2, &["kebab-case"]);
    project
        .run(&["profile", "draft", "--name", "nobody=x"])
        .fails(2, &["no file here seems to be of `nobody`", "yarrow"]);
    let project = project.with(
        "guidance/profiles/yarrow.toml",
        "name = \"other\"\n[[place]]\nid = \"a\"\nlevel = \"project\"\nfiles = [\"A.md\"]\n",
    );
    project
        .run(&["profile", "draft", "--write", "--yes"])
        .fails(2, &["guidance/profiles/yarrow.toml is there already", "--name yarrow=yarrow-2"]);
}

/// What a guess says can be read before it is kept.
#[test]
fn a_guess_can_be_shown() {
    let project = stranger();
    let shown = project.run(&["profile", "show", "teasel"]);
    assert_eq!(shown.code, 0, "{}", shown.err);
    assert!(shown.out.contains("a guess") && shown.out.contains(".teasel/notes/*.tsl"), "{}", shown.out);
    let list = project.json(&["profile", "list"]);
    let origins: Vec<&str> = each(&list["profiles"], "origin");
    assert_eq!(origins, ["built-in", "guessed", "guessed"]);
    project.run(&["profile", "show", "teasel", "--no-guess"]).fails(2, &["there is no profile `teasel`"]);
}

#[test]
fn without_a_yes_nothing_is_written() {
    let project = stranger();
    let ran = project.run(&["profile", "draft", "--write"]);
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("Nothing written; `--yes` writes without asking."), "{}", ran.out);
    assert!(!project.has("guidance/profiles/teasel.toml"));
}

#[test]
fn a_broken_profile_stops_only_what_writes() {
    let project = Project::with_profiles()
        .with("TT.md", "- Keep the ink dry.\n")
        .with("src/a.rs", "")
        .with("guidance/profiles/empty.toml", "");
    for args in
        [&["survey"][..], &["at", "src/a.rs"], &["weigh"], &["parity"], &["scope", "*.rs"], &["profile", "list"]]
    {
        let ran = project.run(args);
        ran.fails(2, &["guidance/profiles/empty.toml"]);
        assert!(!ran.out.is_empty(), "{args:?} answers what it can");
    }
    assert!(project.run(&["at", "src/a.rs"]).out.contains("TT.md"));
    let unread = &project.json(&["survey"])["unread"];
    assert_eq!(unread[0]["path"], "guidance/profiles/empty.toml");
    let lint = project.json(&["lint", "--only", "place/broken-profile"]);
    assert_eq!(each(&lint["findings"], "path"), ["guidance/profiles/empty.toml"]);
    for args in [&["publish"][..], &["adopt", "--yes"], &["init", "--yes"], &["lint", "--fix"]] {
        let before = project.files();
        project.run(args).fails(2, &["guidance/profiles/empty.toml"]);
        assert_eq!(project.files(), before, "{args:?}");
    }
    // An assistant that the settings name is not unknown only because its profile is broken.
    let project = project.with("signpost.toml", "[project]\nassistants = [\"tt\", \"empty\"]\n");
    assert!(project.run(&["at", "src/a.rs"]).out.contains("TT.md"));
}

/// A main file in each folder below, and what stands beside it is its own.
#[test]
fn bundles_are_known_by_their_main_files() {
    let skill = |name: &str| {
        format!("---\nname: {name}\nabout: Does what {name} is for, step by step\n---\n\nRead it first.\n")
    };
    let project = Project::new()
        .with(".teasel/skills/move/SKILL.md", skill("move"))
        .with(".teasel/skills/move/tables.md", "# Tables\n\n- Name each column.\n")
        .with(".teasel/skills/slow/SKILL.md", skill("slow"))
        .with(".teasel/skills/slow/scripts/run.py", "")
        .with("TEASEL.md", "- Use tabs.\n");
    let survey = project.json(&["survey"]);
    let expected = [
        ".teasel/skills/move/SKILL.md bundle offered",
        ".teasel/skills/slow/SKILL.md bundle offered",
        "TEASEL.md rule standing",
    ];
    assert_eq!(read_by(&survey, "teasel"), expected);
}

/// One file at the root is enough, where it speaks to somebody who does things.
#[test]
fn a_lone_name_in_capitals_has_to_ask_for_something() {
    let of = |name: &str, text: &str| {
        let project = Project::new().with(name, text).with("a.rs", "");
        project.json(&["survey"])["files"].as_array().unwrap().len()
    };
    let asks = "# Rook\n\n- Run `make test`.\n- Never edit generated files.\n- Prefer small functions.\n";
    assert_eq!(of("ROOK.md", asks), 1);
    for (name, text) in [
        ("ROOK.md", "# Rook\n\nRook is a bird. It lives in fields and eats what it finds there.\n"),
        ("UNICODE.md", "An implementation must support letters. Matching is done by code points.\n"),
        ("SUMMARY.md", "- [Use it](use.md)\n- [Run it](run.md)\n"),
        ("OUR_CODE_OF_CONDUCT.md", asks),
        ("LICENSE-APACHE.md", asks),
        ("RELEASE-NOTES.md", asks),
    ] {
        assert_eq!(of(name, text), 0, "{name}: {text}");
    }
}

/// Notes for people in a hidden folder ask nothing of anybody.
#[test]
fn hidden_folders_of_other_prose_are_nobodys() {
    let project = Project::new()
        .with(".decisions/0001-store.md", "# Store\n\nThe store is one file. It was chosen because it is simple.\n")
        .with(".decisions/0002-queue.md", "# Queue\n\nJobs wait in a table. That was enough so far.\n")
        .with(".journal/monday.md", "It rained. The build was red all day.\n")
        .with("a.rs", "");
    assert_eq!(project.json(&["survey"])["files"], serde_json::json!([]));
}

/// Of files that no profile could describe nothing is guessed.
#[test]
fn pages_forms_and_other_tools_files_are_nobodys() {
    let project = Project::new()
        .with("README.md", "# Shop\n\nUse it.\n")
        .with("CONTRIBUTING.md", "- Run the tests.\n")
        .with(".forge/ISSUE_TEMPLATE/bug.md", "**What happened?**\n")
        .with(".forge/PULL_REQUEST_TEMPLATE.md", "## What\n")
        .with(".fragments/a.md", "---\n\"@shop/web\": minor\n---\n\nShow the day.\n")
        .with(".fragments/README.md", "How this works.\n")
        .with(".tool/config.yml", "a: 1\n")
        .with("docs/adr/0001-use-it.md", "# Use it\n\nWe use it.\n");
    assert_eq!(project.json(&["survey"])["files"], serde_json::json!([]));
    let ran = project.run(&["profile", "draft"]);
    assert_eq!(ran.code, 1, "{}", ran.out);
}
