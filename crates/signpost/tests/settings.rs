//! Every key of `signpost.toml`, with each kind of value: what it changes, and what is said where it is wrong.

#![allow(clippy::unwrap_used)]

use crate::common::Project;

/// Check and severity of every finding in one file that says a few things.
fn findings(toml: &str) -> Vec<(String, String)> {
    let project = Project::new()
        .with("signpost.toml", toml)
        .with("src/main.rs", "")
        .with("AGENTS.md", "- Please keep it nice.\n- Use bash.\n- Use fish.\n- Be synergetic.\n- Fill in PENDING.\n");
    let json = project.json(&["lint", "--fail-on", "never"]);
    let found = json["findings"].as_array().unwrap().iter();
    let text = |one: &serde_json::Value, key: &str| one[key].as_str().unwrap().to_owned();
    found.map(|one| (text(one, "check"), text(one, "severity"))).collect()
}

fn of(toml: &str, check: &str) -> Vec<String> {
    findings(toml).into_iter().filter(|(name, _)| name == check).map(|(_, severity)| severity).collect()
}

#[test]
fn checks_and_groups_can_be_switched_and_weighed() {
    let polite = "wording/pleasantry";
    assert!(of("", polite).is_empty(), "it is off unless it is asked for");
    for (setting, severity) in [("note", "note"), ("warning", "warning"), ("error", "error")] {
        assert_eq!(of(&format!("[lint.checks]\n\"{polite}\" = \"{setting}\"\n"), polite), [severity]);
        let vague = "wording/placeholder";
        let own = "[words]\nplaceholder = [\"PENDING\"]\n";
        assert_eq!(of(&format!("{own}[lint.checks]\nwording = \"{setting}\"\n"), vague), [severity]);
        assert!(of(&format!("[lint.checks]\nwording = \"{setting}\"\n"), polite).is_empty(), "nor by its group");
    }
    assert!(of("[lint.checks]\nwording = \"off\"\n", "wording/placeholder").is_empty());
    // The check's own line wins over its group's, and what is said for some files over what holds everywhere.
    let both = "[lint.checks]\nwording = \"off\"\n\"wording/pleasantry\" = \"error\"\n";
    assert_eq!(of(both, polite), ["error"]);
    let paths =
        |paths: &str| format!("{both}[[lint.paths]]\npaths = [{paths}]\n[lint.paths.checks]\nwording = \"note\"\n");
    assert_eq!(of(&paths("\"AGENTS.md\""), polite), ["note"]);
    assert_eq!(of(&paths("\"*.txt\", \"{SAND,AGENTS}.md\""), polite), ["note"]);
    assert_eq!(of(&paths("\"src/**\""), polite), ["error"]);
}

#[test]
fn the_exit_code_is_where_the_settings_put_it() {
    let code = |fail_on: &str, severity: &str| {
        let toml = format!("[lint]\nfail_on = \"{fail_on}\"\n[lint.checks]\n\"wording/pleasantry\" = \"{severity}\"\n");
        let project =
            Project::new().with("signpost.toml", toml).with("a.rs", "").with("AGENTS.md", "- Please sand it.\n");
        project.run(&["lint"]).code
    };
    let severities = ["note", "warning", "error"];
    for (fail_on, codes) in [("note", [1, 1, 1]), ("warning", [0, 1, 1]), ("error", [0, 0, 1]), ("never", [0, 0, 0])] {
        assert_eq!(severities.map(|severity| code(fail_on, severity)), codes, "{fail_on}");
    }
}

#[test]
fn words_and_families_are_added() {
    for (key, word, check) in [
        ("vague", "nice", "wording/vague"),
        ("commonplace", "synergetic", "wording/commonplace"),
        ("pleasantry", "synergetic", "wording/pleasantry"),
        ("placeholder", "PENDING", "wording/placeholder"),
    ] {
        let with = of(&format!("[words]\n{key} = [\"{word}\"]\n"), check);
        assert_eq!(with.len(), of("", check).len() + 1, "{key}");
    }
    let asked = "[lint.checks]\n\"wording/pleasantry\" = \"note\"\n";
    assert_eq!(of(asked, "wording/pleasantry").len(), 1);
    assert!(of(&format!("[words]\nfine = [\"please\"]\n{asked}"), "wording/pleasantry").is_empty());
    assert!(of("", "consistency/contradiction").is_empty());
    assert_eq!(of("[families]\nshell = [\"bash\", \"fish\"]\n", "consistency/contradiction").len(), 1);
}

#[test]
fn budgets_are_what_the_settings_say() {
    let long = "- Sand the boards.\n".repeat(30);
    let with = |toml: &str| {
        let project = Project::new().with("signpost.toml", toml).with("a.rs", "").with("AGENTS.md", &long);
        let json = project.json(&["lint", "--only", "size", "--fail-on", "never"]);
        json["findings"]
            .as_array()
            .unwrap()
            .iter()
            .map(|one| one["check"].as_str().unwrap().to_owned())
            .collect::<Vec<_>>()
    };
    assert!(with("").is_empty());
    assert_eq!(with("[budget]\nbrief = 100\n"), ["size/brief-over-budget"]);
    assert_eq!(with("[budget]\nfile_lines = 29\n"), ["size/file-too-long"]);
    assert!(with("[budget]\nfile_lines = 30\nbrief = 1000\n").is_empty());
}

#[test]
fn what_is_offered_elsewhere_stands_or_is_left_out() {
    let published = |offered: &str| {
        let toml = format!("[project]\nassistants = [\"tt\"]\n[publish]\noffered = \"{offered}\"\n");
        let rule = "+++\nreach = \"offered\"\nsummary = \"Adding a boat\"\n+++\n- Ask the yard\n";
        let project = Project::with_profiles().with("signpost.toml", toml).with("guidance/rules/a.md", rule);
        let project = project.with("guidance/rules/b.md", "- Sand it\n").with("a.rs", "");
        project.run(&["publish"]).fails(0, &[]);
        let file = ["TT.md", "TT.own.md"].into_iter().find(|file| project.has(file)).unwrap();
        project.read(file)
    };
    assert!(
        published("standing").contains("When needed: Adding a boat") && published("standing").contains("Ask the yard")
    );
    let left = published("leave-out");
    assert!(!left.contains("Ask the yard") && left.contains("Sand it"), "{left}");
}

#[test]
fn mistakes_name_their_line_and_the_nearest_that_is_right() {
    for (toml, place, words) in [
        ("[lint.checks]\n\"wording/vauge\" = \"off\"\n", "signpost.toml:2:1", "did you mean `wording/vague`?"),
        ("[lint.checks]\nwording = \"of\"\n", "signpost.toml:2:11", "did you mean `off`?"),
        ("[lint]\nfail_on = \"warn\"\n", "signpost.toml:2:11", "did you mean `warning`?"),
        ("[lint]\nfailon = \"note\"\n", "signpost.toml:2:1", "did you mean `fail_on`?"),
        ("[[lint.paths]]\npaths = [\"a[\"]\nchecks = {}\n", "signpost.toml:2:10", "is no valid pattern"),
        ("[[lint.paths]]\nchecks = {}\n", "signpost.toml:1:1", "`paths` is missing"),
        ("[[parity.allow]]\nfiles = [\"b\", \"[\"]\nreason = \"x\"\n", "signpost.toml:2:15", "is no valid pattern"),
        ("[project]\nassistants = [\"agents\"]\n", "signpost.toml:2:15", "there is no profile `agents`"),
        ("[budget]\nbrief = \"much\"\n", "signpost.toml:2:9", "a value of the wrong type"),
        ("[publish]\noffered = \"leaveout\"\n", "signpost.toml:2:11", "did you mean `leave-out`?"),
        ("[publish]\nlink = true\n", "signpost.toml:2:1", "did you mean `links`?"),
        ("[words]\nvage = []\n", "signpost.toml:2:1", "did you mean `vague`?"),
        ("[wods]\n", "signpost.toml:1:2", "did you mean `words`?"),
        ("[budget\n", "signpost.toml:1:8", ""),
    ] {
        let project = Project::new().with("signpost.toml", toml).with("AGENTS.md", "- x\n");
        for command in [&["survey"][..], &["lint"], &["at", "a.rs"], &["publish"]] {
            project.run(command).fails(2, &[place, words]);
        }
    }
}
