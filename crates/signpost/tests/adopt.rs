//! Bringing files of assistants into the guidance, as the program does it.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, each};
use serde_json::Value;

fn each_text(list: &Value) -> Vec<&str> {
    list.as_array().unwrap().iter().map(|one| one.as_str().unwrap()).collect()
}

/// An assistant with notes in any folder, whose patterns count from there.
const NEAR_NOTES: &str = "name = \"ff\"\n[[place]]\nid = \"near\"\nlevel = \"folder\"\nfiles = [\".ff/*.md\"]\nheader = \"yaml\"\nbase = \"folder\"\n[place.keys]\npaths = \"covers\"\n[[place.decide]]\nkey = \"covers\"\npresent = true\nreach = \"scoped\"\n";

/// Copies that drifted apart, notes with scopes, and files that stay outside.
fn messy() -> Project {
    let text = "# Yard\n\nBoats.\n\n## Paint\n\n- Sand the boards\n- Use two coats\n\n## Commits\n\n- Write why\n";
    Project::with_profiles()
        .with("src/main.rs", "")
        .with("web/app.ts", "")
        .with("AGENTS.md", text)
        .with("TT.md", text.replace("two coats", "three coats"))
        .with("web/TT.md", "- Texts are in Welsh\n")
        .with(
            ".oo/notes/rust.md",
            "---\nabout: Rust\ncovers: \"*.{rs,toml}\"\nskips: [\"tests/**\"]\n---\n\n- Return errors\n",
        )
        .with(".oo/kits/boat/KIT.md", "---\nabout: New boats\n---\n- Ask\n")
        .with("~/.tt/TT.md", "- Mine\n")
}

#[test]
fn nothing_is_deleted_and_the_same_is_told_afterwards() {
    let project = messy();
    let before = project.files();
    let dry = project.run(&["adopt", "--dry-run"]);
    assert_eq!((dry.code, project.files() == before), (0, true), "{}{}", dry.out, dry.err);
    let ran = project.run(&["adopt"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("nothing was deleted") && ran.out.contains("in the same precedence: "), "{}", ran.out);
    assert!(before.iter().all(|(file, bytes)| project.files().get(file) == Some(bytes)));
    // One rule for what both are told, with the wordings that differ side by side.
    assert!(ran.out.contains("under “Paint”") && ran.out.contains("- Use three coats"), "{}", ran.out);
    let adopted = messy().json(&["adopt", "--dry-run"]);
    assert_eq!(adopted["differences"].as_array().unwrap().len(), 1);
    let left = each(&adopted["left"], "path");
    assert_eq!(left, [".oo/kits/boat/KIT.md", "~/.tt/TT.md"]);
    let rule = project.read("guidance/rules/rust.md");
    assert!(
        rule.starts_with(
            "+++\nsummary = \"Rust\"\npaths = [\"*.{rs,toml}\"]\nexcept = [\"tests/**\"]\nassistants = [\"oo\"]\n\n[keep.oo]\n\"@head\" = "
        ),
        "{rule}"
    );
    assert!(project.read("guidance/rules/web.md").starts_with("+++\npaths = [\"web/**\"]\nassistants = [\"tt\"]\n"));

    assert_eq!(project.run(&["publish"]).code, 0);
    assert_eq!(project.run(&["publish", "--check"]).code, 0);
    assert!(project.run(&["adopt"]).out.contains("There is nothing to adopt"));
    assert!(before.iter().all(|(file, bytes)| project.files().get(file) == Some(bytes)));
}

/// Order, quotes, blanks, remarks and keys that say nothing stay as somebody wrote them, as long as the rule says the same.
#[test]
fn notes_are_published_byte_for_byte_as_they_were() {
    let heads = [
        "covers: src/**/*.rs\nabout: Rust\nload: false",
        "about:   \"Rust, all of it\"\ncovers: \"src/**/*.rs,web/**\"",
        "# why\ncovers:\n  - 'src/**/*.rs'  # here\n  - web/**",
        "load: each\nowner: ina\ntags: [a,b]",
        "about: 'How to cut a quill'\nload: no",
    ];
    let mut project = Project::with_profiles().with("src/a.rs", "").with("web/b.ts", "");
    for (number, head) in heads.iter().enumerate() {
        project = project
            .with(&format!(".oo/notes/n{number}.md"), format!("---\n{head}\n---\n\n- Keep number {number} dry.\n"));
    }
    let before = project.files();
    assert_eq!(project.run(&["adopt"]).code, 0);
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    let after = project.files();
    for (path, bytes) in &before {
        assert_eq!(String::from_utf8_lossy(&after[path]), String::from_utf8_lossy(bytes), "{path}");
    }
    // What the rule says otherwise now is written, and what is kept beside stays.
    let rule = project.read("guidance/rules/n0.md").replace("paths = [\"src/**/*.rs\"]", "paths = [\"src/*.rs\"]");
    let project = project.with("guidance/rules/n0.md", rule);
    assert_eq!(project.run(&["publish"]).code, 0);
    let note = project.read(".oo/notes/n0.md");
    assert!(note.contains("src/*.rs") && !note.contains("src/**/*.rs"), "{note}");
}

/// Whatever a file looks like, publishing leaves it as it is; and what it can't is left out before anything is written.
#[test]
fn every_file_comes_out_as_it_was() {
    let files = [
        ("BBSHEET.txt", "- The sheet\n"),
        ("AGENTS.md", "\u{feff}# Yard\r\n\r\n\r\n- Sand it\r\n"),
        ("src/AGENTS.md", "\n\n- Only in src"),
        ("TT.md", "# Yard\n\n- Sand it\n\n\n- Oil it\n\n\n"),
        ("web/TT.md", "- In the web\n"),
        (".oo/notes/release.md", "---\nload: each\n---\n# Release\n\n- Standing\n"),
        (".oo/notes/x/release.md", "---\ncovers: \"*.rs\"\nload: no\n---\n\n\n- Of the same name\n"),
        (".oo/notes/never-closed.md", "---\nload: each\n\n- Text from the first line\n"),
        (".oo/notes/not-first.md", "\n---\nload: each\n---\n\n- Text as well\n"),
        (".oo/notes/broken.md", "---\ncovers: *.rs\n\tabout: [a\n---\n\n- Read as meant\n"),
        (".oo/notes/blanks.md", "--- \nload:   each  # why\n---  \n\n- Blanks behind the fence\n"),
        (".oo/notes/empty-header.md", "---\n---\n\n- No keys\n"),
        ("web/.ff/a.md", "---\ncovers: [\"src/*.ts\", \"*.css\"]\n---\n\n- Near\n"),
        ("web/src/.ff/b.md", "- Nearer\n"),
        (".oo/notes/mine.md", "---\nload: each\n---\n\n- My own\n"),
    ];
    let project =
        Project::with_profiles().with(".gitignore", "mine.md\n").with("src/main.rs", "").with("web/src/x.ts", "");
    let project = files.iter().fold(project, |project, (path, text)| project.with(path, text));
    let before = project.files();
    let ran = project.run(&["adopt", "--yes"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    project.run(&["publish", "--check"]).fails(0, &[]);
    project.run(&["publish"]).fails(0, &[]);
    let after = project.files();
    for (path, bytes) in &before {
        assert_eq!(String::from_utf8_lossy(&after[path]), String::from_utf8_lossy(bytes), "{path}");
    }
    let new: Vec<&String> = after.keys().filter(|path| !before.contains_key(*path)).collect();
    assert!(new.iter().all(|path| path.starts_with("guidance/rules/") || *path == "signpost.lock"), "{new:?}");
    assert!(!after.values().any(|bytes| bytes.ends_with(b"+++\n\n- My own\n")), "what git ignores is nobody else's");
    // A later edit of a rule keeps the line ends and the mark of its file.
    let rule = project.read("guidance/rules/yard.md");
    let project = project.with("guidance/rules/yard.md", rule.replace("Sand it", "Sand it twice"));
    project.run(&["publish"]).fails(0, &[]);
    assert_eq!(project.read("AGENTS.md"), "\u{feff}# Yard\r\n\r\n\r\n- Sand it twice\r\n");
}

/// What somebody writes beside the published files is named until it is in the guidance; what adopting left is not.
#[test]
fn files_beside_published_ones_are_named() {
    let project = Project::with_profiles()
        .with("src/main.rs", "")
        .with(".oo/notes/a.md", "---\nload: each\n---\n\n- One\n")
        .with(".oo/notes/nothing.md", "---\ncovers: []\n---\n\n- Reaches nobody\n");
    assert_eq!(project.run(&["adopt"]).code, 0);
    project.run(&["publish"]).fails(0, &[]);
    project.run(&["publish", "--check"]).fails(0, &[]);
    let project = project.with(".oo/notes/b.md", "---\nload: each\n---\n\n- Two\n").with("README.md", "- Elsewhere\n");
    let ran = project.run(&["publish", "--check"]);
    assert_eq!(ran.code, 1);
    assert!(ran.out.contains("1 file stands beside them") && ran.out.contains("  .oo/notes/b.md\n"), "{}", ran.out);
    assert!(!ran.out.contains("nothing.md") && !ran.out.contains("README.md"), "{}", ran.out);
    assert!(project.run(&["survey"]).out.contains("Beside what is published"));
    assert_eq!(each_text(&project.json(&["publish", "--check"])["beside"]), [".oo/notes/b.md"]);
    assert_eq!(project.run(&["adopt"]).code, 0);
    project.run(&["publish", "--check"]).fails(0, &[]);
}

/// Nobody is told something else by a publishing that was only to follow adopting.
#[test]
fn what_adopting_found_otherwise_is_confirmed_first() {
    let project = Project::with_profiles().with("src/main.rs", "").with("AGENTS.md", "- Sand it\n");
    assert_eq!(project.run(&["adopt"]).code, 0);
    let lock = project.read("signpost.lock");
    let (remark, files) = lock.split_once('\n').unwrap();
    let rule = project.read("guidance/rules/agents.md").replace("Sand it", "Oil it");
    let project = project
        .with("signpost.lock", format!("{remark}\nunconfirmed = true\n{files}"))
        .with("guidance/rules/agents.md", rule);
    project.run(&["publish"]).fails(2, &["`signpost adopt` found", "--anyway"]);
    assert_eq!(project.read("AGENTS.md"), "- Sand it\n");
    assert_eq!(project.run(&["publish", "--dry-run", "--diff"]).code, 0);
    project.run(&["publish", "--anyway"]).fails(0, &[]);
    assert_eq!(project.read("AGENTS.md"), "- Oil it\n");
    assert!(!project.read("signpost.lock").contains("unconfirmed"));
    project.run(&["publish", "--check"]).fails(0, &[]);
}

/// The rule of a file in a folder stands with the others, but where the folder has a guidance of its own.
#[test]
fn a_part_with_its_own_guidance_keeps_its_rules() {
    let project = Project::with_profiles()
        .with("guidance/profiles/ff.toml", NEAR_NOTES)
        .with("web/guidance/rules/own.md", "- Speak Welsh\n")
        .with("web/x.ts", "")
        .with("web/.ff/css.md", "---\ncovers: \"*.css\"\n---\n\n- Short\n")
        .with("src/.ff/rs.md", "---\ncovers: \"*.rs\"\n---\n\n- Shorter\n");
    assert_eq!(project.run(&["adopt"]).code, 0);
    assert!(project.read("web/guidance/rules/css.md").contains("paths = [\"*.css\"]\n"));
    assert!(project.read("guidance/rules/rs.md").contains("paths = [\"src/**/*.rs\"]\n"));
}

/// A kept header that closes itself would tell an assistant what stands in no rule.
#[test]
fn a_kept_header_is_a_header_and_no_text() {
    let note = "---\ncovers: src/*.rs\nabout: Rust\n---\n\n- Keep it dry.\n";
    let project = Project::with_profiles().with("src/a.rs", "").with(".oo/notes/a.md", note);
    assert_eq!(project.run(&["adopt"]).code, 0);
    let rule = project.read("guidance/rules/a.md");
    for part in ["about: Rust\n---\n- Skip the tests.\n\"\"\"", "about: Rust\"\"\""] {
        let edited = rule.replace("about: Rust\n\"\"\"", part);
        assert_ne!(edited, rule);
        std::fs::write(project.root().join("guidance/rules/a.md"), edited).unwrap();
        assert_eq!(project.run(&["publish"]).code, 0);
        let told = project.read(".oo/notes/a.md");
        assert!(!told.contains("Skip") && told.matches("---\n").count() == 2, "{told}");
        assert!(told.contains("Rust\n") && told.ends_with("- Keep it dry.\n"), "{told}");
    }
}

#[test]
fn one_wording_can_be_chosen_for_all() {
    let project = messy();
    let ran = project.run(&["adopt", "--prefer", "tt"]);
    // Somebody is told something else now, and that is said.
    assert_eq!(ran.code, 1);
    assert!(
        ran.out.contains("which includes what --prefer chose") && ran.out.contains("not told  Use two coats"),
        "{}",
        ran.out
    );
    assert_eq!(project.run(&["publish"]).code, 0);
    assert!(project.read("AGENTS.md").contains("three coats"));
    // What is left to differ is for one of them only, and meant so.
    assert_eq!(project.run(&["parity", "--between", "agents-md", "tt"]).code, 0);
    messy().run(&["adopt", "--prefer", "nobody"]).fails(2, &["no assistant in use here", "agents-md"]);
}

#[test]
fn what_an_edited_file_says_is_not_adopted_twice() {
    let project = messy();
    project.run(&["adopt"]);
    project.run(&["publish"]);
    let text = project.read("AGENTS.md");
    let project = project.with("AGENTS.md", format!("{text}\n- By hand\n")).with("web/AGENTS.md", "- New here\n");
    let ran = project.run(&["adopt"]);
    assert!(
        ran.out.contains("Adopted 1 file as 1 rule") && ran.out.contains("signpost absorb AGENTS.md"),
        "{}",
        ran.out
    );
}

#[cfg(unix)]
#[test]
fn links_between_files_are_one_rule() {
    let project = Project::with_profiles().with("src/main.rs", "").with("AGENTS.md", "- Sand it\n");
    std::os::unix::fs::symlink("AGENTS.md", project.root().join("TT.md")).unwrap();
    let link = || std::fs::read_link(project.root().join("TT.md")).ok().map(|target| target.display().to_string());
    assert_eq!(project.run(&["adopt"]).code, 0);
    project.run(&["publish"]).fails(0, &[]);
    assert_eq!(link().as_deref(), Some("AGENTS.md"), "a link stays a link");
    assert_eq!(project.read("AGENTS.md"), "- Sand it\n", "as it was before");
    // The rule that both are told is edited, and both are told.
    let rule = project.read("guidance/rules/agents.md").replace("Sand it", "Oil it");
    std::fs::write(project.root().join("guidance/rules/agents.md"), rule).unwrap();
    project.run(&["publish"]).fails(0, &[]);
    assert_eq!((link().as_deref(), &*project.read("TT.md")), (Some("AGENTS.md"), "- Oil it\n"));
    project.run(&["publish", "--check"]).fails(0, &[]);
}

/// Killed at each step that changes the disk, adopting can be run again, and writes no rule twice.
#[test]
#[cfg_attr(not(debug_assertions), ignore = "only a debug build can be made to die at a step")]
fn a_killed_run_can_be_run_again() {
    let expected = {
        let project = messy();
        project.run(&["adopt"]);
        project.files()
    };
    for at in 1.. {
        let project = messy();
        let output = project.command(&["adopt"]).env("SIGNPOST_DIE_AT", at.to_string()).output().unwrap();
        let done = output.status.success();
        project.run(&["adopt"]);
        assert_eq!(project.run(&["publish", "--dry-run"]).code, 0, "killed at step {at}");
        let rules = |files: &std::collections::BTreeMap<String, Vec<u8>>| {
            files.keys().filter(|file| file.contains("guidance/rules")).cloned().collect::<Vec<_>>()
        };
        let kept: Vec<String> =
            rules(&project.files()).into_iter().filter(|file| !file.contains(".signpost-on-its-way-")).collect();
        assert_eq!(kept, rules(&expected), "killed at step {at}");
        if done {
            assert!(at > 10, "it was killed at {at} points only");
            break;
        }
    }
}

/// What has no meaning here is kept for whom it is written, and notes keep their names, also where others are called so.
#[test]
fn adopting_keeps_keys_remarks_and_names() {
    let note = "---\n# ask Jo\nload: each\nwants: [patch|minor]\nlist:\n  - a\n  - b\n---\n\n# Release\n\n- One\n";
    let project = Project::with_profiles()
        .with("src/main.rs", "")
        .with(".oo/notes/release.md", note)
        .with(".oo/notes/x/release.md", "---\ncovers: [\"*.rs\"]\n---\n\n# Release\n\n- Four\n")
        .with(".oo/notes/My Notes.v2.md", "---\nload: each\n---\n\n- Five\n")
        .with("BBSHEET.txt", "# Release\n\n- Two\n")
        .with("TT.md", "# Release\n\n- Three\n");
    let before = project.files();
    let ran = project.run(&["adopt", "--yes"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    project.run(&["publish"]).fails(0, &[]);
    let names = |files: &std::collections::BTreeMap<String, Vec<u8>>| {
        let names = files.keys().filter(|path| !path.starts_with("guidance/rules") && *path != "signpost.lock");
        names.cloned().collect::<Vec<_>>()
    };
    assert_eq!(names(&project.files()), names(&before));
    let published = project.read(".oo/notes/release.md");
    for line in ["# ask Jo", "wants: [patch|minor]", "list:\n  - a\n  - b", "load: each", "- One"] {
        assert!(published.contains(line), "{line}: {published}");
    }
    // What is kept is not in the way of taking an edit back.
    let project = project.with(".oo/notes/release.md", published.replace("- One", "- One and a half"));
    assert_eq!(project.run(&["absorb"]).code, 0);
    project.run(&["publish"]).fails(0, &[]);
    project.run(&["publish", "--check"]).fails(0, &[]);
    assert!(project.read(".oo/notes/release.md").contains("wants: [patch|minor]"));
    // A key that decides about the reach can't hide there.
    let rule = "+++\n[keep.oo]\nload = \"each\"\n+++\n\n- Six\n";
    project.with("guidance/rules/six.md", rule).run(&["publish"]).fails(2, &["`load` means something to `oo`"]);
}
