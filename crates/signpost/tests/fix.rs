//! What `lint --fix` writes: nothing that anybody meant is turned round or lost.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};

/// A project whose `AGENTS.md` holds a text, and the text after mending.
#[track_caller]
fn mended(text: &str) -> String {
    let project = Project::new().with("AGENTS.md", text).with("src/a.rs", "");
    project.run(&["lint", "--fix", "--fail-on", "never"]).fails(0, &[]);
    project.read("AGENTS.md")
}

/// A note whose header holds a line, after mending.
#[track_caller]
fn note_mended(line: &str) -> String {
    let note = format!("---\n{line}\n---\n\n- Sand it.\n");
    let project = Project::with_profiles().with(".oo/notes/n.md", note).with("lib/a.ts", "").with("B.tsx", "");
    project.run(&["lint", "--fix", "--fail-on", "never"]).fails(0, &[]);
    project.read(".oo/notes/n.md").lines().nth(1).unwrap().to_owned()
}

#[test]
fn headers_keep_their_patterns() {
    for (line, right) in [
        ("covers: [*.{ts,tsx}, lib/**]", "covers: [\"*.{ts,tsx}\", \"lib/**\"]"),
        ("covers: *.{ts,tsx}", "covers: \"*.{ts,tsx}\""),
        ("covers: [\"[!A-Z]*.ts\", \"*.ts\"]", "covers: [\"*.ts\"]"),
        ("covers: [\"?*.ts\", \"[a-z]*.ts\"]", "covers: [\"?*.ts\"]"),
        ("covers: [\"[!A-Z]*.ts\", \"B*.ts\"]", "covers: [\"[!A-Z]*.ts\", \"B*.ts\"]"),
        ("covers: [\"lib/**\", \"lib/*.ts\"]", "covers: [\"lib/**\"]"),
    ] {
        assert_eq!(note_mended(line), right);
    }
    let project =
        Project::with_profiles().with(".oo/notes/n.md", "---\ncovers: [*.{ts,tsx}, lib/**]\n---\n\n- Sand it.\n");
    let lint = project.json(&["lint", "--only", "header/invalid"]);
    assert!(lint["findings"][0]["help"].as_str().unwrap().contains("`[\"*.{ts,tsx}\", \"lib/**\"]`"), "{lint}");
}

#[test]
fn words_keep_their_meaning() {
    for kept in [
        "- Cast with !!value and go on.\n",
        "- Read user!!.name.\n",
        "- Do what you please with the sample data.\n",
        "- Say please when you ask the depositors for a second visit.\n",
        "- For the ledger:\n  - Run `just check` first.\n- For the kiosk:\n  - Run `just check` first.\n",
        "- Run `just check` first.\n- For the ledger:\n  - Run `just check` first.\n",
        "- Run `just check` first.\n- Run `just check` first.\n\t- in every folder that you touched\n",
        "- Run `just check` first.\n- Run `just check` first.\n\n  It takes a minute.\n",
        "- Run `just check` first.\n- Run `just check` first.\n\n      just check\n",
        "- Write ภาษา\u{200b}ไทย on the labels, and 葛\u{e0100}城 on the boxes.\n",
        "- Sort Donau\u{ad}dampf\u{ad}schiff under D.\n",
    ] {
        assert_eq!(mended(kept), kept);
    }
    assert_eq!(mended("- Please run it.\n- Sand it!!!\n"), "- Run it.\n- Sand it.\n");
    assert_eq!(
        mended("- Run `just check` first.\n- Oil it.\n- Run `just check` first.\n"),
        "- Run `just check` first.\n- Oil it.\n"
    );
}

/// A published file is mended in the guidance, so that publishing goes on.
#[test]
fn published_files_are_mended_in_the_guidance() {
    let rule = "+++\npaths = [\"src/**\", \"src/*.rs\"]\n+++\n\n<!-- signpost: allow wording/shouting — the panel -->\n- Please keep it short.\n";
    let settings = format!("[project]\nassistants = [\"agents-md\", \"oo\", \"tt\"]\n{}", crate::common::ASKING);
    let project = Project::with_profiles().with("signpost.toml", settings);
    let project = project.with("guidance/rules/short.md", rule).with("src/a.rs", "").with("b.rs", "");
    project.run(&["publish"]).fails(0, &[]);
    let published = |project: &Project| {
        project.files().into_iter().filter(|(path, _)| !path.starts_with("guidance/")).collect::<Vec<_>>()
    };
    let before = published(&project);
    let lint = project.json(&["lint"]);
    for path in each(&lint["findings"], "path") {
        assert_eq!(path, "guidance/rules/short.md", "{lint}");
    }
    assert!(each(&lint["findings"], "check").contains(&"allowance/unneeded"), "{lint}");
    project.run(&["lint", "--fix"]).fails(0, &["3 findings in 1 file mended"]);
    assert_eq!(published(&project), before, "published files are publishing's");
    assert_eq!(project.read("guidance/rules/short.md"), "+++\npaths = [\"src/**\"]\n+++\n\n- Keep it short.\n");
    project.run(&["publish"]).fails(0, &[]);
    project.run(&["publish", "--check"]).fails(0, &[]);
    assert!(project.read(".oo/notes/short.md").contains("covers: [\"src/**\"]"));
}
