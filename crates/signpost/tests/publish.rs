//! Publishing: what is written, what is refused, and what a killed run leaves.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};

/// Three assistants and rules of every kind.
fn guided() -> Project {
    Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("src/lib.rs", "")
        .with("web/app.ts", "")
        .with("guidance/rules/house.md", "# House\n\n- Sand the boards before painting\n")
        .with("guidance/rules/rust.md", "+++\npaths = [\"*.rs\"]\n+++\n- Never call unwrap in the yard\n")
        .with("web/guidance/rules/texts.md", "- Write texts in Welsh\n")
}

#[test]
fn each_assistant_gets_the_rules_in_its_own_form() {
    let project = guided();
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(ran.out.starts_with("Published 3 rules for 4 assistants: 10 changes in 10 files."), "{}", ran.out);
    // A scope where it has scopes.
    assert!(project.read(".oo/notes/rust.md").contains("covers: [\"*.rs\"]\n---\n\n- Never call unwrap"));
    // The part of the project where it has folders, the root's note where one is read at most.
    assert!(project.read("web/AGENTS.md").contains("- Write texts in Welsh"));
    assert!(project.read("web/TT.own.md").contains("- Write texts in Welsh"));
    // The tightest folder of a scope, under a heading where it holds more.
    assert!(project.read("src/AGENTS.md").contains("- Never call unwrap"));
    // Sections of the one file.
    let sheet = project.read("BBSHEET.txt");
    let at = |words: &str| sheet.find(words).unwrap_or_else(|| panic!("{words} is not in {sheet}"));
    assert!(at("# House") < at("# For `*.rs`") && at("# For `*.rs`") < at("# For `web/**`"));
    assert!(ran.out.contains("over-limit") && ran.out.contains("wider-reach"), "{}", ran.out);

    assert_eq!(project.run(&["publish", "--check"]).code, 0);
    let before = project.files();
    assert!(project.run(&["publish"]).out.contains("nothing to change in 10 files"));
    assert_eq!(project.files(), before);
    // The linter reads the words where they are written.
    let repeated = |project: &Project| {
        let found = project.json(&["lint", "--only", "consistency/repeated"]);
        let places = found["findings"].as_array().unwrap().iter().map(|one| one["path"].as_str().unwrap().to_owned());
        places.collect::<Vec<_>>()
    };
    assert!(repeated(&project).is_empty(), "{:?}", repeated(&project));
    let again = project.read("guidance/rules/rust.md") + "- Oil every hinge in spring\n- Oil every hinge in spring\n";
    assert_eq!(repeated(&project.with("guidance/rules/rust.md", &*again)), ["guidance/rules/rust.md"]);
}

#[test]
fn nothing_is_written_where_it_was_only_asked() {
    let project = guided();
    let before = project.files();
    let check = project.run(&["publish", "--check"]);
    assert_eq!(check.code, 1);
    assert!(check.out.contains("10 files differ") && !check.out.contains("+- Sand the boards"), "{}", check.out);
    for lines in ["--diff", "--verbose"] {
        let check = project.run(&["publish", "--check", lines]);
        assert!(check.out.contains("+- Sand the boards"), "{}", check.out);
    }
    let dry = project.run(&["publish", "--dry-run"]);
    assert_eq!((dry.code, dry.out.contains("would change 10 files")), (0, true), "{}", dry.out);
    assert_eq!(project.run(&["publish", "--strict"]).code, 1);
    assert_eq!(project.files(), before);
}

#[test]
fn what_people_wrote_stays_and_the_ways_on_are_named() {
    let project = guided().with("AGENTS.md", "- Mine\n");
    let before = project.files();
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("Nothing was published: 1 file is in the way."), "{}", ran.out);
    assert!(ran.out.contains("signpost adopt") && ran.out.contains("signpost publish --overwrite AGENTS.md"));
    assert_eq!(project.files(), before);
    assert_eq!(project.run(&["publish", "--overwrite", "AGENTS.md"]).code, 0);

    let before = project.files();
    project
        .run(&["publish", "--overwrite", "src/main.rs"])
        .fails(2, &["src/main.rs is no file that publishing would write"]);
    assert_eq!(project.files(), before);
    let project = project.with("AGENTS.md", "- Edited\n");
    let ran = project.run(&["publish"]);
    assert!(ran.out.contains("was edited by hand") && ran.out.contains("signpost absorb AGENTS.md"), "{}", ran.out);
    assert_eq!(project.read("AGENTS.md"), "- Edited\n");
    let json = project.json(&["publish", "--check"]);
    assert_eq!(
        (json["refused"][0]["path"].as_str(), json["refused"][0]["why"].as_str()),
        (Some("AGENTS.md"), Some("edited"))
    );
}

#[test]
fn files_whose_rules_are_gone_go_too_unless_somebody_edited_them() {
    let project = guided();
    project.run(&["publish"]);
    std::fs::remove_file(project.root().join("web/guidance/rules/texts.md")).unwrap();
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 0, "{}", ran.out);
    assert!(!project.has("web/AGENTS.md") && !project.has("web/.oo") && project.has("web/app.ts"), "{}", ran.out);
    std::fs::remove_file(project.root().join("guidance/rules/rust.md")).unwrap();
    let project = project.with("src/AGENTS.md", "- Mine now\n");
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("its rules are gone"), "{}", ran.out);
    assert!(project.has("src/AGENTS.md") && project.has(".oo/notes/rust.md"));
}

#[test]
fn conditions_and_names_in_headers_are_held_to_what_there_is() {
    let project = guided()
        .with("Cargo.toml", "[package]\nname = \"yard\"\n[dependencies]\nserde = \"1\"\n")
        .with("guidance/rules/new.md", "+++\nwhen = \"serde >= 1\"\nassistants = [\"oo\"]\n+++\n- Derive it\n")
        .with("guidance/rules/old.md", "+++\nwhen = \"serde < 1\"\n+++\n- Write it by hand\n");
    let ran = project.run(&["publish"]);
    assert!(project.has(".oo/notes/new.md") && !project.has(".oo/notes/old.md"), "{}", ran.out);
    assert!(!project.read("AGENTS.md").contains("Derive it"));
    assert!(ran.out.contains("the manifests do not say `serde < 1`"), "{}", ran.out);
    for (header, words) in [
        ("path = [\"*.rs\"]", &["guidance/rules/bad.md", "unknown key `path`", "did you mean `paths`"][..]),
        ("assistants = [\"ooo\"]", &["there is no assistant `ooo`", "did you mean `oo`"]),
        ("when = \"serde >= soon\"", &["`soon` is no version"]),
    ] {
        let lint = guided().with("guidance/rules/bad.md", format!("+++\n{header}\n+++\n- Words\n")).run(&["lint"]);
        assert!(lint.out.contains("guidance/rules/bad.md:2"), "{}", lint.out);
        let project = guided().with("guidance/rules/bad.md", format!("+++\n{header}\n+++\n- Words\n"));
        let before = project.files();
        project.run(&["publish"]).fails(2, words);
        assert_eq!(project.files(), before);
    }
}

/// Killed at each step that changes the disk, a run leaves every file whole, and the next one finishes, even
/// where a rule was changed in between.
#[test]
#[cfg_attr(not(debug_assertions), ignore = "only a debug build can be made to die at a step")]
fn a_killed_run_leaves_each_file_whole_and_the_next_one_finishes() {
    let expected = |rule: &str, texts: bool| {
        let project = guided().with("guidance/rules/house.md", rule);
        if !texts {
            std::fs::remove_file(project.root().join("web/guidance/rules/texts.md")).unwrap();
        }
        project.run(&["publish"]);
        project.files()
    };
    let old = expected("# House\n\n- Sand the boards before painting\n", true);
    let new = expected("# House\n\n- Oil the boards after painting\n", false);
    let later = expected("# House\n\n- Wax the boards\n", true);
    let mut at = 0;
    loop {
        at += 1;
        let project = guided();
        project.run(&["publish"]);
        std::fs::remove_file(project.root().join("web/guidance/rules/texts.md")).unwrap();
        let project = project.with("guidance/rules/house.md", "# House\n\n- Oil the boards after painting\n");
        let output = project.command(&["publish"]).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
        for (file, bytes) in project.files().iter().filter(|(file, _)| !file.contains(".signpost-on-its-way-")) {
            let whole = file == "signpost.lock" || old.get(file) == Some(bytes) || new.get(file) == Some(bytes);
            assert!(whole, "killed at step {at}, {file} is neither old nor new: {}", String::from_utf8_lossy(bytes));
        }
        if output.status.success() {
            break;
        }
        let project = project
            .with("guidance/rules/house.md", "# House\n\n- Wax the boards\n")
            .with("web/guidance/rules/texts.md", "- Write texts in Welsh\n");
        let ran = project.run(&["publish"]);
        assert_eq!(ran.code, 0, "after a kill at step {at}: {}{}", ran.out, ran.err);
        assert_eq!(project.files(), later, "after a kill at step {at}");
        assert!(at < 200, "it never ends");
    }
    assert!(at > 20, "the tests kill at {at} points only");
}

#[test]
fn two_runs_at_once_do_not_mix() {
    let project = guided();
    let mut children: Vec<_> =
        (0..4).map(|_| project.command(&["publish"]).stdout(std::process::Stdio::null()).spawn().unwrap()).collect();
    assert!(children.iter_mut().all(|child| child.wait().unwrap().success()));
    assert_eq!(project.run(&["publish", "--check"]).code, 0);
    assert!(!project.files().keys().any(|file| file.contains(".signpost-")));
}

#[cfg(unix)]
#[test]
fn nothing_is_written_through_links() {
    let project = guided().with("~/elsewhere/keep", "");
    std::os::unix::fs::symlink(project.home().join("elsewhere"), project.root().join(".oo")).unwrap();
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("stands behind a link"), "{}", ran.out);
    assert_eq!(std::fs::read_dir(project.home().join("elsewhere")).unwrap().count(), 1);

    // A link in the place of a file is replaced itself, and only when told to.
    let project = guided().with("~/mine.md", "mine\n");
    std::os::unix::fs::symlink(project.home().join("mine.md"), project.root().join("AGENTS.md")).unwrap();
    assert_eq!(project.run(&["publish"]).code, 1);
    assert_eq!(project.run(&["publish", "--overwrite", "AGENTS.md"]).code, 0);
    assert_eq!(std::fs::read_to_string(project.home().join("mine.md")).unwrap(), "mine\n");
}

#[cfg(unix)]
#[test]
fn files_with_the_same_bytes_can_be_links() {
    let toml = "[project]\nassistants = [\"agents-md\", \"tt\"]\n[publish]\nlinks = true\n";
    let project = guided().with("signpost.toml", toml);
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let target = std::fs::read_link(project.root().join("web/TT.own.md")).unwrap();
    assert_eq!(target.to_str(), Some("AGENTS.md"));
    assert_eq!(project.run(&["publish", "--check"]).code, 0);
    // Without links again, each is a file.
    let project = project.with("signpost.toml", toml.replace("true", "false"));
    assert_eq!(project.run(&["publish"]).code, 0);
    assert!(project.root().join("web/TT.own.md").symlink_metadata().unwrap().is_file());
}

#[test]
fn an_empty_guidance_says_how_to_begin() {
    let project = Project::with_profiles().with("AGENTS.md", "- Be kind\n");
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 0);
    assert!(ran.out.contains("holds no rule") && ran.out.contains("signpost adopt"), "{}", ran.out);
    let project = Project::new();
    project.run(&["publish"]).fails(2, &["nobody to publish for", "assistants = [\"agents-md\"]"]);
    let losses = guided().json(&["publish", "--dry-run"]);
    assert!(each(&losses["losses"], "kind").contains(&"wider-reach"));
}

#[test]
fn an_assistant_that_reads_anothers_file_gets_no_copy() {
    let profile = "name = \"yy\"\ntitle = \"Yy\"\n[[place]]\nid = \"own\"\nlevel = \"project\"\nfiles = [\".yy/*.md\"]\n\
                   [[place]]\nid = \"shared\"\nlevel = \"folder\"\nfiles = [\"AGENTS.md\"]\n";
    let project = Project::new()
        .with("signpost.toml", "[project]\nassistants = [\"yy\", \"agents-md\"]\n")
        .with("guidance/profiles/yy.toml", profile)
        .with("src/main.rs", "")
        .with("guidance/rules/house.md", "- Sand the boards\n")
        .with("guidance/rules/one.md", "+++\nassistants = [\"agents-md\"]\n+++\n- Answer in Welsh\n")
        .with("guidance/rules/yy.md", "+++\nassistants = [\"yy\"]\n+++\n- Answer in Breton\n");
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(project.read("AGENTS.md").contains("Sand") && !project.has(".yy/house.md"), "{}", ran.out);
    assert!(project.read(".yy/yy.md").contains("Breton"));
    assert!(ran.out.contains("Yy  also-read") && ran.out.contains("guidance/rules/one.md"), "{}", ran.out);
    let ran = project.run(&["publish", "--assistant", "yy"]);
    assert!(ran.out.contains("it is for agents-md, not published here"), "{}", ran.out);
}

/// Most files are never taken away without a word.
#[test]
fn most_files_go_only_when_that_is_said() {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("guidance/rules/a.md", "- Sand the boards\n")
        .with("guidance/rules/b.md", "+++\npaths = [\"*.rs\"]\n+++\n\n- Keep names short\n");
    project.run(&["publish"]).fails(0, &[]);
    let before = project.files();
    // One of two rules: fewer than half of the files.
    std::fs::remove_file(project.root().join("guidance/rules/b.md")).unwrap();
    project.run(&["publish"]).fails(0, &[]);
    let project = before.iter().fold(project, |project, (path, bytes)| project.with(path, bytes));
    std::fs::remove_dir_all(project.root().join("guidance/rules")).unwrap();
    let ran = project.run(&["publish"]);
    ran.fails(2, &["this would remove", "more than half", "--yes"]);
    assert!(project.has("AGENTS.md") && project.has("signpost.lock"));
    project.run(&["publish", "--dry-run"]).fails(0, &[]);
    project.run(&["publish", "--yes"]).fails(0, &[]);
    assert!(!project.has("AGENTS.md") && !project.has("signpost.lock"));
}

/// What is left of an assistant that was taken out, or of a place that changed, is named until it is gone.
#[test]
fn files_that_are_left_over_are_named() {
    let project = Project::with_profiles()
        .with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n")
        .with("src/main.rs", "")
        .with("guidance/rules/a.md", "- Sand the boards\n");
    project.run(&["publish"]).fails(0, &[]);
    // An assistant is taken out: its files go.
    let project = project.with("signpost.toml", "[project]\nassistants = [\"agents-md\", \"bb\", \"tt\"]\n");
    project.run(&["publish", "--check"]).fails(1, &[]);
    project.run(&["publish", "-a", "tt", "--check"]).fails(0, &[]);
    project.run(&["publish"]).fails(0, &[]);
    assert!(!project.has(".oo/notes/a.md"));
    project.run(&["publish", "--check"]).fails(0, &[]);
    // A place changes, and nobody reads the old file: it is for the person to delete.
    let profile = project.read("guidance/profiles/bb.toml").replace("BBSHEET.txt", "BB.txt");
    let project = project.with("guidance/profiles/bb.toml", profile);
    let ran = project.run(&["publish"]);
    ran.fails(0, &[]);
    assert!(ran.out.contains("BBSHEET.txt") && ran.out.contains("no assistant reads it any more"), "{}", ran.out);
    assert!(project.has("BB.txt") && project.has("BBSHEET.txt"));
    let ran = project.run(&["publish", "--check"]);
    assert!(ran.code == 1 && ran.out.contains("1 file is left over"), "{}", ran.out);
    assert_eq!(project.json(&["publish", "--check"])["abandoned"][0], "BBSHEET.txt");
    std::fs::remove_file(project.root().join("BBSHEET.txt")).unwrap();
    project.run(&["publish"]).fails(0, &[]);
    project.run(&["publish", "--check"]).fails(0, &[]);
}

/// No assistant's place leads into what Signpost or version control keeps.
#[test]
fn places_keep_out_of_the_guidance() {
    for (level, file) in [
        ("project", "guidance/rules/x.md"),
        ("project", "Guidance/*.md"),
        ("project", "signpost.toml"),
        ("project", "SIGNPOST.LOCK"),
        ("project", "./.git/info/x.md"),
        ("project", "{docs,.GIT}/x.md"),
        ("folder", "guidance/rules/*.md"),
    ] {
        let profile = format!("name = \"x\"\n[[place]]\nid = \"p\"\nlevel = \"{level}\"\nfiles = [\"{file}\"]\n");
        let project =
            Project::new().with("guidance/profiles/x.toml", profile).with("guidance/rules/a.md", "- Sand it\n");
        project.run(&["publish", "-a", "x"]).fails(2, &["keeps for itself", "x.toml:5"]);
    }
    // A place that would only match it by a wildcard does not own it either.
    let profile = "name = \"x\"\n[[place]]\nid = \"p\"\nlevel = \"folder\"\nfiles = [\"rules/*.md\"]\n";
    let project = Project::new()
        .with("signpost.toml", "[project]\nassistants = [\"x\"]\n")
        .with("guidance/profiles/x.toml", profile)
        .with("guidance/rules/a.md", "- Sand it\n")
        .with("src/rules/b.md", "- Oil it\n");
    let survey = project.json(&["survey"]);
    assert_eq!(crate::common::each(&survey["files"], "path"), ["src/rules/b.md"]);
    project.run(&["publish"]).fails(0, &[]);
    assert_eq!(project.json(&["publish", "--check"])["beside"], serde_json::json!(["src/rules/b.md"]));
    assert!(project.has("rules/a.md"));
}

/// What one rule keeps is not taken for the end of what another one keeps.
#[test]
fn rules_in_one_file_keep_all_that_they_keep() {
    let profile = "name = \"x\"\n[[place]]\nid = \"p\"\nlevel = \"project\"\nfiles = [\"X.md\"]\nheader = \"yaml\"\n";
    let project = Project::new()
        .with("signpost.toml", "[project]\nassistants = [\"x\"]\n")
        .with("guidance/profiles/x.toml", profile)
        .with("src/a.rs", "")
        .with("guidance/rules/a.md", "+++\n[keep.x]\nsubject = \"1\"\n+++\n\n- Sand it\n")
        .with("guidance/rules/b.md", "+++\n[keep.x]\nject = \"1\"\n+++\n\n- Oil it\n");
    project.run(&["publish"]).fails(0, &[]);
    let text = project.read("X.md");
    assert!(text.contains("\nsubject: 1\n") && text.contains("\nject: 1\n"), "{text}");
}
