//! Beginning, writing a new rule, and splitting a long one.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};

/// A project of two parts that states facts about itself.
fn shop() -> Project {
    let project = Project::new()
        .with("README.md", "# The Boat Shop\n\nBoats.\n")
        .with("web/package.json", r#"{"name": "web", "scripts": {"test": "vitest", "lint": "eslint ."}, "dependencies": {"react": "19.0.0"}}"#)
        .with("web/pnpm-lock.yaml", "lockfileVersion: '9.0'\n")
        .with("web/src/app.tsx", "")
        .with("web/src/app.test.tsx", "")
        .with("yard/Cargo.toml", "[package]\nname = \"yard\"\nedition = \"2024\"\n[dependencies]\nserde = \"1\"\n")
        .with("yard/src/main.rs", "")
        .with("Makefile", "check:\n\ttrue\n");
    std::fs::remove_file(project.root().join("signpost.toml")).unwrap();
    project
}

fn init(project: &Project, args: &[&str]) -> crate::common::Ran {
    let root = project.root();
    project.run(&[&["init", "--root", root.to_str().unwrap()], args].concat())
}

#[test]
fn init_writes_facts_and_nothing_else() {
    let project = shop();
    let before = project.files();
    let asked = init(&project, &[]);
    assert_eq!(asked.code, 1);
    assert!(asked.out.contains("# The Boat Shop") && asked.out.contains("Nothing was written"), "{}", asked.out);
    assert_eq!(project.files(), before);

    let ran = init(&project, &["--yes"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert_eq!(
        project.read("guidance/rules/layout.md"),
        "+++\norder = 20\n+++\n\n# Layout\n\n- `web/`: TypeScript, package `web`\n- `yard/`: Rust, package `yard`\n"
    );
    let stack = project.read("guidance/rules/stack.md");
    assert!(stack.contains("(`web/`): react 19.0.0") && stack.contains("serde 1"), "{stack}");
    let commands = project.read("guidance/rules/commands.md");
    assert!(
        commands.contains("`make check`") && commands.contains("In `web/`: `pnpm run test`, `pnpm run lint`"),
        "{commands}"
    );
    assert!(commands.contains("In `yard/`: `cargo test`"), "{commands}");
    assert!(project.read("signpost.toml").contains("assistants = [\"agents-md\"]"));
    // What a person has to say is left to fill in, and only that.
    let lint = project.json(&["lint"]);
    assert_eq!(each(&lint["findings"], "check"), ["wording/placeholder"]);
    let published = project.run(&["publish"]);
    assert_eq!(published.code, 0);
    assert!(published.out.contains("still to be filled in: guidance/rules/project.md:7\n"), "{}", published.out);
    // The sheet begins with what the project is, whatever the rules are called.
    assert!(project.read("AGENTS.md").starts_with("# The Boat Shop\n"), "{}", project.read("AGENTS.md"));

    // A second time nothing is overwritten.
    let project = project.with("guidance/rules/stack.md", "Mine\n");
    std::fs::remove_file(project.root().join("guidance/rules/layout.md")).unwrap();
    let ran = init(&project, &["--yes"]);
    assert!(ran.out.contains("Wrote 1 file.") && ran.out.contains("is there already"), "{}", ran.out);
    assert_eq!(project.read("guidance/rules/stack.md"), "Mine\n");
    assert!(init(&project, &[]).out.contains("There is nothing to write"));
}

#[test]
fn a_dry_run_of_init_shows_and_writes_nothing() {
    let project = shop();
    let before = project.files();
    let ran = init(&project, &["--dry-run"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("guidance/rules/") && ran.out.ends_with("Nothing written: a dry run.\n"), "{}", ran.out);
    assert_eq!(project.files(), before);
    init(&project, &["--dry-run", "--yes"]).fails(2, &["cannot be used with"]);
}

/// A command that is called otherwise elsewhere.
#[test]
fn likely_words_get_a_tip() {
    let project = shop();
    project.run(&["check"]).fails(2, &["unrecognized subcommand 'check'", "tip: `signpost lint` checks"]);
    project.run(&["sync"]).fails(2, &["tip: `signpost publish` writes"]);
    project.run(&["xyzzy"]).fails(2, &["unrecognized subcommand"]);
    assert_eq!(project.run(&["--help"]).code, 0);
    assert_eq!(project.run(&["--version"]).code, 0);
}

#[test]
fn init_of_nothing_still_marks_the_root() {
    let project = Project::new();
    std::fs::remove_file(project.root().join("signpost.toml")).unwrap();
    assert_eq!(init(&project, &["--yes"]).code, 0);
    let files: Vec<String> = project.files().into_keys().collect();
    assert_eq!(files, ["guidance/rules/project.md", "signpost.toml"]);
    assert!(project.read("guidance/rules/project.md").starts_with("+++\norder = 10\n+++\n\n# root\n\nTODO: "));
}

#[test]
fn a_draft_tells_what_it_reaches_weighs_and_meets() {
    let project =
        shop().with("AGENTS.md", "- Always use npm for packages\n- Answer in Welsh\n").with("signpost.toml", "");
    let ran = project.run(&[
        "draft",
        "web/packages",
        "--for",
        "web/**",
        "--text",
        "- Never use npm for packages\n- Answer in Welsh",
    ]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("Wrote guidance/rules/web/packages.md."), "{}", ran.out);
    assert!(ran.out.contains("4 of 8 source files, such as web/src/app.test.tsx"), "{}", ran.out);
    assert!(
        ran.out.contains("contradicts  “Always use npm for packages”") && ran.out.contains("AGENTS.md"),
        "{}",
        ran.out
    );
    assert!(ran.out.contains("repeats      “Answer in Welsh"), "{}", ran.out);
    assert!(
        project.read("guidance/rules/web/packages.md").starts_with("+++\npaths = [\"web/**\"]\n+++\n\n- Never use npm")
    );
    project.run(&["draft", "web/packages", "--text", "- Other"]).fails(2, &["is there already"]);
}

#[test]
fn a_draft_can_be_made_from_examples() {
    let project =
        shop().with("signpost.toml", "").with("bad.tsx", "let a = 1\n").with("good.tsx", "```\nconst a = 1\n");
    let like = ["draft", "tests", "--like", "web/src/app.test.tsx", "--wrong", "bad.tsx", "--right", "good.tsx"];
    assert_eq!(project.run(&[&like[..], &["--text", "Prefer constants"]].concat()).code, 0);
    let rule = project.read("guidance/rules/tests.md");
    assert!(rule.contains("*.test.tsx\"]"), "{rule}");
    assert!(
        rule.contains("Wrong:\n\n```ts\nlet a = 1\n```") && rule.contains("Right:\n\n````ts\n```\nconst a = 1\n````"),
        "{rule}"
    );

    let offered = project.json(&["draft", "sums", "--offered", "Adding a\nboat", "--text", "1. Ask", "--dry-run"]);
    assert_eq!(
        offered["text"].as_str(),
        Some("+++\nsummary = \"Adding a boat\"\nreach = \"offered\"\n+++\n\n1. Ask\n")
    );
    assert_eq!(offered["written"].as_bool(), Some(false));
    assert!(!project.has("guidance/rules/sums.md"));

    project.run(&["draft", "empty"]).fails(2, &["has no words", "--text"]);
    project.run(&["draft", "../out", "--text", "x"]).fails(2, &["is no name for a rule"]);
    project.run(&["draft", "x", "--for", "a[", "--text", "x"]).fails(2, &["is no valid pattern", "never closed"]);
    project.run(&["draft", "x", "--wrong", "nowhere.rs", "--right", "good.tsx"]).fails(2, &["cannot read nowhere.rs"]);
}

const LONG: &str = "# The yard\n\nBoats are built here.\n\n## Rust\n\n- Return errors\n- Name crates after woods\n\n\
    ## Screens\n\n- Texts of `web/src/app.tsx` are in Welsh\n- Keep `web/src/` free of state\n\n## React\n\n- Use hooks\n\n\
    ## Tests\n\n- Run them before you say that you are done\n\n## Commits\n\n- Write why\n";

#[test]
fn a_long_file_falls_into_scoped_rules() {
    let project = shop().with("AGENTS.md", LONG).with("signpost.toml", "");
    let ran = project.run(&["split", "AGENTS.md"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(ran.out.starts_with("AGENTS.md falls apart: 3 sections get a scope, 3 stay for all files."), "{}", ran.out);
    let split = project.json(&["split", "AGENTS.md"]);
    let scope = |number: usize| split["parts"][number]["patterns"][0].as_str();
    assert_eq!([scope(1), scope(2), scope(3), scope(4)], [Some("*.rs"), Some("web/src/**"), Some("web/**"), None]);
    // Every part of the project is told less.
    for zone in split["zones"].as_array().unwrap() {
        assert!(zone["after"].as_u64() < zone["before"].as_u64(), "{zone}");
    }
    let before = project.files();
    assert_eq!(project.run(&["split", "AGENTS.md", "--write"]).code, 0);
    assert_eq!(project.read("AGENTS.md").as_bytes(), before["AGENTS.md"]);
    assert_eq!(
        project.read("guidance/rules/rust.md"),
        "+++\npaths = [\"*.rs\"]\n+++\n\n## Rust\n\n- Return errors\n- Name crates after woods\n"
    );
    assert_eq!(project.run(&["publish"]).code, 0);
    assert!(!project.read("AGENTS.md").contains("Texts of") && project.read("web/src/AGENTS.md").contains("Texts of"));
    project.run(&["split", "AGENTS.md"]).fails(2, &["AGENTS.md is published", "guidance/rules/agents.md"]);
}

#[test]
fn a_guidance_rule_can_be_split_too() {
    let project = shop()
        .with("guidance/rules/all.md", format!("+++\nassistants = [\"agents-md\"]\n+++\n\n{LONG}"))
        .with("signpost.toml", "");
    assert_eq!(project.run(&["split", "guidance/rules/all.md", "--write"]).code, 0);
    let rest = project.read("guidance/rules/all.md");
    assert!(
        rest.starts_with("+++\nassistants = [\"agents-md\"]\n+++\n\n# The yard") && !rest.contains("Return errors"),
        "{rest}"
    );
    assert!(project.read("guidance/rules/rust.md").contains("paths = [\"*.rs\"]\nassistants = [\"agents-md\"]"));
    let again = project.run(&["split", "guidance/rules/all.md"]);
    assert_eq!(again.code, 1);
    assert!(again.out.contains("stays as it is"), "{}", again.out);
    project.run(&["split", "guidance/rules/rust.md"]).fails(2, &["is scoped already"]);
    project.run(&["split", "README.md"]).fails(2, &["is no instruction file", "signpost survey"]);
}

/// Nothing is lost and nothing is deleted by splitting, and a run that was killed is finished by the next.
#[test]
#[cfg_attr(not(debug_assertions), ignore = "only a debug build can be made to die at a step")]
fn splitting_loses_nothing_and_is_finished_by_the_next_run() {
    let text = "# House\n\n## Empty\n\n## Rust\n\n- Keep names short\n\n## Web\n\n- Use `web/` for pages\n- In `web/` nothing else\n";
    let base = || {
        Project::with_profiles()
            .with("signpost.toml", "[project]\nassistants = [\"agents-md\"]\n")
            .with("src/a.rs", "")
            .with("web/b.ts", "")
            .with("c.md", "")
    };
    for (file, whole) in
        [("guidance/rules/all.md", text), ("AGENTS.md", text), ("guidance/rules/parts.md", &text[18..])]
    {
        for at in 1.. {
            let project = base().with(file, whole);
            let killed =
                project.command(&["split", file, "--write"]).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
            assert!(project.has(file), "{file}, killed at {at}");
            let again = project.run(&["split", file, "--write"]);
            assert!(!again.err.contains("is published"), "{file}, killed at {at}: {}", again.err);
            let rules = project.files().into_iter().filter(|(path, _)| path.starts_with("guidance/rules/"));
            let rules: Vec<(String, String)> =
                rules.map(|(path, bytes)| (path, String::from_utf8(bytes).unwrap())).collect();
            for line in whole.lines().filter(|line| !line.is_empty()) {
                let times =
                    rules.iter().map(|(_, text)| text.lines().filter(|own| *own == line).count()).sum::<usize>();
                assert_eq!(times, 1, "{file}, killed at {at}: {line:?} in {rules:?}");
            }
            assert!(project.has(file));
            if killed.status.success() {
                assert!(at > 4, "{file} was killed at {at} points only");
                break;
            }
        }
    }
}

/// Of many commands the first are an overview, and the others are named for people to choose from.
#[test]
fn init_names_the_commands_that_it_leaves_out() {
    let scripts: Vec<String> = (0..12).map(|number| format!("\"job{number}\": \"x\"")).collect();
    let project =
        Project::new().with("package.json", format!("{{\"scripts\": {{\"test\": \"x\", {}}}}}", scripts.join(", ")));
    let ran = init(&project, &["--dry-run"]);
    assert!(ran.out.contains("5 more commands left out, for you to choose from: `npm run job5`"), "{}", ran.out);
    let json = project.json(&["init", "--dry-run"]);
    assert_eq!(json["more_commands"].as_array().unwrap().len(), 5);
    assert!(!ran.out.contains("`npm run test`, `npm run test`"));
}

/// The options of every command are explained once; each command says where.
#[test]
fn help_does_not_repeat_itself() {
    let project = Project::new();
    let help = |args: &[&str]| project.run(&[args, &["--help"]].concat()).out;
    assert!(help(&[]).contains("--root <DIR>") && help(&[]).contains("--exact"));
    for command in [&["survey"][..], &["at"], &["lint"], &["publish"], &["profile", "draft"]] {
        let help = help(command);
        assert!(!help.contains("--root <DIR>") && !help.contains("--exact\n"), "{help}");
        assert!(help.contains("`signpost --help` explains them"), "{help}");
        // Formats are listed where there are more than two.
        assert_eq!(help.contains("sarif"), command == ["lint"], "{help}");
    }
    // They work all the same, before the command and after it.
    assert_eq!(project.run(&["survey", "--root", ".", "--exact", "--color", "never"]).code, 0);
    assert_eq!(project.run(&["--no-guess", "survey"]).code, 0);
}

/// A comma in a pattern is explained to who means two.
#[test]
fn a_comma_in_a_pattern_is_explained() {
    let project = Project::new().with("src/a.ts", "").with("web/b.tsx", "");
    let ran = project.run(&["scope", "src/*.ts, web/*.{ts,tsx}"]);
    assert_eq!(ran.code, 1);
    assert!(
        ran.out.contains("is one pattern here") && ran.out.contains("signpost scope 'src/*.ts' 'web/*.{ts,tsx}'"),
        "{}",
        ran.out
    );
    assert!(!project.run(&["scope", "web/*.{ts,tsx}"]).out.contains("one pattern"));
}
