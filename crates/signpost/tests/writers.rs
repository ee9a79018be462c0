//! What holds for every command that writes, on projects with odd but legal content: it touches only what it is there
//! for, tells nobody anything else, changes nothing the second time, and a run that was killed at any step is finished
//! by the next.

#![allow(clippy::unwrap_used)]

use crate::common::Project;
use proptest::prelude::*;
use serde_json::Value;
use std::collections::BTreeMap;

type Files = BTreeMap<String, String>;

/// Bodies as people leave them.
const BODIES: [&str; 14] = [
    "- Sand the boards\n- Oil the boards\n",
    "- Please sand the boards\n- Please sand the boards\n",
    "# House\n\n- Sand it\n\n## Rust files\n\n- Keep names short\n\n## Web\n\n- In `web/` write pages\n- Use `web/x.ts` as a model\n",
    "# House\r\n\r\n- Sand it\r\n\r\n## Rust files\r\n\r\n- Keep names short\r\n",
    "\u{feff}- With a mark at the beginning\n",
    "- No end of the last line",
    "Title\n=====\n\nWords.\n\n    code that is indented\n\n- last\n",
    "```sh\n# no heading\nnpm run x\n```\n\n- After code\n",
    "<!-- a remark -->\n\n- Below a remark\n\n<!-- never closed",
    "- One\n  - Two\n\n    more of it\n\n\n\n- Three  \n",
    "- Tabs\tand ümläute, 日本語 ภาษา\u{200b}ไทย\n",
    "| a | b |\n|---|---|\n| Use tabs | Never spaces |\n",
    "- A lone\rreturn, and !!value\n",
    "# Only a title\n",
];

const HEADERS: [&str; 6] = [
    "",
    "---\nload: each\n---\n\n",
    "---\nabout: What it is for\ncovers: [*.{rs,ts}, web/**]\n---\n",
    "---\ncovers: \"*.rs\"\nskips: [\"web/**\"]\nwants: [patch|minor]\n# mine\n---\n\n",
    "---\r\ncovers: [\"src/**\", \"src/*.rs\"]\r\n---\r\n",
    "---\nabout: \"Only offered\"\n---\n\n",
];

const RULE_HEADERS: [&str; 5] = [
    "",
    "+++\npaths = [\"*.rs\"] # all\n+++\n\n",
    "+++\nsummary = \"When it rains\"\nreach = \"offered\"\n+++\n",
    "+++\r\npaths = [\"web/**\", \"web/*.ts\"]\r\n+++\r\n\r\n",
    "+++\nassistants = [\"oo\", \"tt\"]\n[keep.oo]\nwants = \"x\"\n+++\n\n",
];

/// Where instruction files and rules may stand.
const PLACES: [(&str, bool); 10] = [
    ("AGENTS.md", false),
    ("src/AGENTS.md", false),
    ("TT.md", false),
    ("web/TT.md", false),
    ("BBSHEET.txt", false),
    (".oo/notes/release.md", true),
    (".oo/notes/x/release.md", true),
    (".oo/notes/It's odd, ü.md", true),
    ("docs/plain.md", false),
    (".gitignore", false),
];

const RULES: [&str; 4] =
    ["guidance/rules/a.md", "guidance/rules/sub/release.md", "guidance/rules/b c.md", "web/guidance/rules/w.md"];

fn content() -> impl Strategy<Value = Files> {
    let place = (0..PLACES.len(), 0..BODIES.len(), 0..HEADERS.len());
    let rule = (0..RULES.len(), 0..BODIES.len(), 0..RULE_HEADERS.len());
    (prop::collection::vec(place, 0..6), prop::collection::vec(rule, 0..4)).prop_map(|(places, rules)| {
        let mut files = Files::new();
        for (place, body, header) in places {
            let (path, headed) = PLACES[place];
            let header = if headed { HEADERS[header] } else { "" };
            files.insert(path.into(), format!("{header}{}", BODIES[body]));
        }
        for (rule, body, header) in rules {
            files.insert(RULES[rule].into(), format!("{}{}", RULE_HEADERS[header], BODIES[body]));
        }
        files
    })
}

fn laid_out(files: &Files) -> Project {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("web/x.ts", "")
        .with("package.json", "{\"scripts\": {\"test\": \"x\"}}");
    files.iter().fold(project, |project, (path, bytes)| project.with(path, bytes))
}

/// What each assistant is told about each file, in its words.
fn told(project: &Project) -> Value {
    let told = project.run(&["at", "src/main.rs", "web/x.ts", "new/a.md", "--text", "--format", "json"]);
    serde_json::from_str(&told.out).unwrap_or_else(|error| panic!("{error}: {}", told.err))
}

/// The files of a brief without their words and weights.
fn names(told: &Value) -> Vec<String> {
    let briefs = told["briefs"].as_array().unwrap().iter();
    briefs
        .map(|brief| {
            let entries = brief["entries"].as_array().unwrap().iter();
            let entries: Vec<String> = entries.map(|entry| format!("{} {}", entry["path"], entry["state"])).collect();
            format!("{} {}: {}", brief["file"], brief["assistant"], entries.join(", "))
        })
        .collect()
}

/// A command that writes.
struct Writer {
    args: &'static [&'static str],
    /// Whether it may change or make such a file; `old` says whether it was there.
    may: fn(path: &str, old: bool) -> bool,
    /// Whether what is told stays word for word before anything is published.
    silent: bool,
    /// Whether it says that it was done where it is run again.
    again: bool,
}

fn is_rule(path: &str) -> bool {
    path.contains("guidance/rules/")
}

const WRITERS: [Writer; 6] = [
    Writer {
        args: &["lint", "--fix", "--fail-on", "never"],
        may: |path, old| old && (path.ends_with(".md") || path.ends_with(".txt")) && !path.starts_with("docs/"),
        silent: false,
        again: true,
    },
    Writer {
        args: &["adopt", "--yes"],
        may: |path, old| is_rule(path) && !old || path == "signpost.lock",
        silent: true,
        again: true,
    },
    Writer {
        args: &["split", "AGENTS.md", "--write"],
        may: |path, old| is_rule(path) && !old || path == "signpost.lock",
        silent: true,
        again: true,
    },
    Writer {
        args: &["split", "guidance/rules/a.md", "--write"],
        may: |path, _| is_rule(path) || path == "signpost.lock",
        silent: true,
        again: false,
    },
    Writer {
        args: &["init", "--yes"],
        may: |path, old| !old && (is_rule(path) || path == "signpost.toml"),
        silent: true,
        again: true,
    },
    Writer {
        args: &["draft", "new", "--for", "*.rs", "--text", "Wax the boards."],
        may: |path, old| !old && path == "guidance/rules/new.md",
        silent: true,
        again: false,
    },
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 14, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    #[cfg_attr(not(debug_assertions), ignore = "only a debug build can be made to die at a step")]
    fn writers_touch_only_what_is_theirs_and_are_finished_by_the_next_run(
        files in content(), writer in 0..WRITERS.len(), at in 1usize..12,
    ) {
        let writer = &WRITERS[writer];
        let project = laid_out(&files);
        let (before, told_before) = (project.files(), told(&project));
        let first = project.run(writer.args);
        prop_assert!(!first.err.contains("panicked"), "{}", first.err);
        let after = project.files();
        for path in before.keys().chain(after.keys()) {
            let old = before.get(path);
            let same = old == after.get(path);
            prop_assert!(same || (writer.may)(path, old.is_some()), "{:?} changed {path}", writer.args);
            prop_assert!(after.contains_key(path), "{:?} removed {path}", writer.args);
        }
        let told_after = told(&project);
        prop_assert_eq!(names(&told_before), names(&told_after), "{:?}", writer.args);
        prop_assert!(!writer.silent || told_before == told_after, "{:?}", writer.args);
        let second = project.run(writer.args);
        prop_assert!(!writer.again || second.code == first.code || first.code == 1, "{:?}: {}{}", writer.args, second.code, second.err);
        prop_assert!(project.files() == after, "{:?} again: {}", writer.args, second.out);
        // Killed on the way and run again, it comes to the same.
        let killed = laid_out(&files);
        killed.command(writer.args).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
        killed.run(writer.args);
        prop_assert!(killed.files() == after, "{:?} killed at {}: {:?}", writer.args, at, killed.files().keys());
    }

    /// Adopting and publishing, an edit, absorbing and publishing: at each step the next run finishes what a killed one
    /// began, nothing but the assistants' files is touched by publishing, and the edit is kept.
    #[test]
    #[cfg_attr(not(debug_assertions), ignore = "only a debug build can be made to die at a step")]
    fn publishing_and_absorbing_are_finished_by_the_next_run(files in content(), at in 1usize..20, line in 0usize..30) {
        let project = laid_out(&files);
        if project.run(&["adopt", "--yes"]).code == 2 {
            return Ok(());
        }
        let run = |project: &Project, args: &[&str], at: usize| {
            project.command(args).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
            project.run(args)
        };
        let before = project.files();
        let done = run(&project, &["publish", "--yes"], at);
        if done.code != 0 {
            // A rule that is refused, or a file in the way: then nothing but what was begun is changed.
            return Ok(());
        }
        let now = project.files();
        for (path, bytes) in before.iter().filter(|(path, _)| is_rule(path) || path.starts_with("docs/") || path.ends_with(".rs")) {
            prop_assert!(now.get(path) == Some(bytes), "publishing changed {path}");
        }
        prop_assert_eq!(project.run(&["publish", "--check"]).code, 0);
        let published: Vec<String> = project.files().into_keys().filter(|path| path.ends_with("AGENTS.md") || path == "BBSHEET.txt").collect();
        let Some(path) = published.first() else { return Ok(()) };
        let text = project.read(path);
        let mut lines: Vec<&str> = text.split_inclusive('\n').collect();
        let place = line % (lines.len() + 1);
        lines.insert(place, "- Sing while you work\n");
        let edited = lines.concat();
        let project = project.with(path, &edited);
        project.command(&["absorb"]).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
        let files = || {
            let mut files = project.files();
            files.retain(|path, _| !path.contains(".signpost-on-its-way-"));
            files
        };
        let before = files();
        let done = project.run(&["absorb"]);
        if done.code != 0 {
            prop_assert!(files() == before, "what is left to the person changes nothing: {}", done.out);
            return Ok(());
        }
        let done = run(&project, &["publish"], at);
        prop_assert_eq!(done.code, 0, "{}{}", done.out, done.err);
        let rules: Vec<String> = project.files().into_keys().filter(|path| is_rule(path)).collect();
        prop_assert!(rules.iter().any(|rule| project.read(rule).contains("Sing while you work")), "{rules:?}");
        let told = project.has(path) && project.read(path).contains("Sing while you work");
        let losses = project.run(&["publish", "--dry-run"]).out;
        prop_assert!(told || losses.contains("no room below its limit"), "{path}: {losses}");
        prop_assert_eq!(project.run(&["publish", "--check"]).code, 0);
        prop_assert!(project.run(&["absorb"]).out.contains("nothing to absorb"));
    }
}
