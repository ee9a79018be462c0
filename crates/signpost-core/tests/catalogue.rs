//! Every check of the catalogue, by the cases of its table: a project in which it fires, and one, a little different, in
//! which it does not.

#![allow(clippy::unwrap_used)]

use signpost_core::check::info::{Case, Files};
use signpost_core::check::{CheckInfo, Finding, all};
use signpost_core::files::MemoryTree;

/// Many notes with headers, one note in any folder with references, one capped sheet.
const PROFILES: [(&str, &str); 3] = [
    (
        "guidance/profiles/oo.toml",
        r#"name = "oo"
title = "Oo"
[[place]]
id = "notes"
level = "folder"
files = [".oo/*.md"]
header = "yaml"
base = "folder"
reach = "called"
[place.keys]
summary = "about"
paths = "covers"
except = "skips"
[[place.decide]]
key = "load"
is = "each"
reach = "standing"
[[place.decide]]
key = "mode"
is = "pick"
reach = "offered"
[[place.decide]]
key = "covers"
present = true
reach = "scoped"
[[place.decide]]
key = "about"
present = true
reach = "offered"
[place.patterns]
braces = false
[exclusions]
files = [".oo-skip"]
"#,
    ),
    (
        "guidance/profiles/tt.toml",
        "name = \"tt\"\ntitle = \"Tt\"\nconflict = \"later-wins\"\n[[place]]\nid = \"notes\"\nlevel = \"folder\"\nfiles = [\"TT.md\"]\n[[place]]\nid = \"own\"\nlevel = \"folder\"\nfiles = [\"TT.own.md\"]\npersonal = true\n[references]\nsyntax = [\"at-path\"]\ndepth = 2\n",
    ),
    (
        "guidance/profiles/bb.toml",
        "name = \"bb\"\ntitle = \"Bb\"\n[[place]]\nid = \"sheet\"\nlevel = \"project\"\nfiles = [\"BB.txt\"]\nformat = \"plain\"\n[limits]\nfile_bytes = 60\n",
    ),
];

fn findings(files: &[(&str, &str)]) -> Vec<Finding> {
    let mut tree = MemoryTree::new().with("src/main.rs", "").with("src/web/a.ts", "").with("docs/a.md", "");
    for (path, text) in PROFILES.iter().chain(files) {
        tree = tree.with(path, *text);
    }
    crate::common::lint(&tree, |_, findings| findings)
}

/// Files around those of a table's cases: the parts of the demo that examples speak of.
const AROUND: &[&str] = &[
    "docs/glossary.md", "docs/words.md", "germination/stats/mean.py", "kiosk/src/app.tsx", "kiosk/src/style/theme.ts",
    "ledger/migrations/0001.sql", "ledger/src/main.rs",
];

/// What is found in a project of a case, as `path:line message`.
fn found_in(check: &str, files: &[&Files]) -> Vec<String> {
    let profiles = concat!(env!("CARGO_MANIFEST_DIR"), "/../signpost/demo/guidance/profiles");
    let mut tree = AROUND.iter().fold(MemoryTree::new(), |tree, path| tree.with(path, ""));
    for entry in std::fs::read_dir(profiles).unwrap() {
        let path = entry.unwrap().path();
        let name = format!("guidance/profiles/{}", path.file_name().unwrap().to_str().unwrap());
        tree = tree.with(&name, std::fs::read(path).unwrap());
    }
    tree = tree.with("signpost.toml", crate::common::ASKING);
    for (path, text) in files.iter().copied().flatten() {
        tree = tree.with(path, text.as_str());
    }
    crate::common::lint(&tree, |workspace, findings| {
        let own = findings.into_iter().filter(|finding| finding.check == check);
        own.map(|finding| {
            let document = workspace.document(&finding.location);
            let line = document.text[..finding.span.start].matches('\n').count() + 1;
            format!("{}:{line} {}", finding.location, finding.message)
        })
        .collect()
    })
}

#[test]
fn each_check_finds_what_its_table_says_and_nothing_in_its_good_examples() {
    for info in all() {
        for (number, case) in info.table().case.iter().enumerate() {
            let Case { at, says, around, both, bad, good } = case;
            let name = format!("{}, case {}", info.name, number + 1);
            let expected = format!("{at} {says}");
            let found = found_in(info.name, &[around, both, bad]);
            assert!(found.iter().any(|one| one.starts_with(&expected)), "{name}: {found:#?} is not {expected}");
            assert!(says.len() > 8, "{name}: `{says}` says hardly anything");
            assert_eq!(found_in(info.name, &[around, both, good]), [""; 0], "{name}");
            assert_ne!(bad, good, "{name}");
        }
    }
}

/// What takes more than a few lines is told instead of shown, and tested below.
#[test]
fn no_check_is_without_a_case() {
    let told = [
        "place/broken-link", "size/file-too-long", "size/over-limit", "size/brief-over-budget", "size/mixed-subjects",
        "reference/heavy", "place/unknown-assistant",
    ];
    for info in all() {
        assert_eq!(info.table().case.is_empty(), told.contains(&info.name), "{}", info.name);
    }
}

/// `UPDATE_DOCS=1 cargo test catalogue` writes the list anew.
#[test]
fn the_docs_list_every_check() {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/lint.md");
    let page = std::fs::read_to_string(file).unwrap();
    let row = |info: &CheckInfo| format!("| `{}` | {} | {} |\n", info.name, info.severity.name(), info.table().finds);
    let (before, rest) = page.split_once("|---|---|---|\n").unwrap();
    let after = rest.split_once("\n\n").unwrap().1;
    let right = format!("{before}|---|---|---|\n{}\n{after}", all().map(row).collect::<String>());
    if std::env::var_os("UPDATE_DOCS").is_some() {
        std::fs::write(file, &right).unwrap();
    }
    assert!(page == right, "docs/lint.md is stale: UPDATE_DOCS=1 cargo test catalogue");
}

#[test]
fn what_is_too_large_is_found() {
    let long = "- The ink is kept in the dark and cold\n".repeat(201);
    let checks = |files: &[(&str, &str)]| findings(files).into_iter().map(|one| one.check).collect::<Vec<_>>();
    assert!(checks(&[("AGENTS.md", &long)]).contains(&"size/file-too-long"));
    assert!(checks(&[("AGENTS.md", &long)]).contains(&"size/brief-over-budget"));
    assert!(checks(&[("TT.md", "@docs/long.md\n"), ("docs/long.md", &long)]).contains(&"reference/heavy"));
    let sheet = "The first line is short.\nThe second one is so long that it can't be read to its end.\n";
    assert!(checks(&[("BB.txt", sheet)]).contains(&"size/over-limit"));
    assert!(!checks(&[("BB.txt", "Short.\n")]).contains(&"size/over-limit"));
    let half = "- The ink is kept in the dark and cold\n".repeat(120);
    assert!(!checks(&[("AGENTS.md", &half)]).contains(&"size/brief-over-budget"));
    // Scoped to what is not the same, two halves are never told together.
    let (one, other) = (format!("---\ncovers: \"*.rs\"\n---\n{half}"), format!("---\ncovers: \"*.ts\"\n---\n{half}"));
    assert!(!checks(&[(".oo/a.md", &one), (".oo/b.md", &other)]).contains(&"size/brief-over-budget"));
    let parts = format!(
        "# All\n\n- Be kind\n\n## Rust\n\n{0}\n## TypeScript\n\n{0}\n## Python\n\n{0}\n",
        "- Ink is kept in the cold\n".repeat(20)
    );
    // What most of the project is in is no part of it.
    let found = findings(&[("AGENTS.md", &parts), ("src/b.rs", ""), ("tools/a.py", "")]);
    let mixed = found.iter().find(|one| one.check == "size/mixed-subjects").unwrap();
    assert!(mixed.message.contains("(TypeScript, Python)") && mixed.related.len() == 1, "{}", mixed.message);
}

/// A published file speaks through the guidance, as long as nobody has touched it.
#[test]
fn published_files_are_not_read_again() {
    let rule = "+++\nassistants = [\"tt\"]\n+++\n- Please do.\n";
    let lock =
        format!("[[file]]\npath = \"TT.md\"\nhash = \"{}\"\n", signpost_core::project::lock::hash(b"- Please do.\n"));
    let places = |text: &str| -> Vec<(String, Vec<String>)> {
        let asking = ("signpost.toml", crate::common::ASKING);
        let found = findings(&[("guidance/rules/a.md", rule), ("TT.md", text), ("signpost.lock", &lock), asking]);
        let of = found.into_iter().filter(|one| one.check == "wording/pleasantry");
        of.map(|one| (one.location.to_string(), one.assistants)).collect()
    };
    let guidance = ("guidance/rules/a.md".to_owned(), vec!["tt".to_owned()]);
    assert_eq!(places("- Please do.\n"), std::slice::from_ref(&guidance));
    assert_eq!(places("- Please do it.\n"), [("TT.md".to_owned(), vec!["tt".to_owned()]), guidance]);
}

/// Guidance rules for different assistants never meet.
#[test]
fn guidance_rules_meet_where_their_assistants_do() {
    let fires = |one: &str, other: &str| {
        let rule = |header: &str, text: &str| format!("+++\n{header}\n+++\n- {text}\n");
        let (a, b) = (rule(one, "Indent with tabs."), rule(other, "Indent with spaces."));
        findings(&[("guidance/rules/a.md", &a), ("guidance/rules/b.md", &b)])
            .iter()
            .any(|one| one.check == "consistency/contradiction")
    };
    assert!(fires("", ""));
    assert!(fires("assistants = [\"tt\"]", "assistants = [\"tt\", \"oo\"]"));
    assert!(!fires("assistants = [\"tt\"]", "assistants = [\"oo\"]"));
    assert!(!fires("paths = [\"*.rs\"]", "paths = [\"*.ts\"]"));
}

/// A project's own families and words count.
#[test]
fn families_and_words_can_be_added() {
    let config = "[families]\nshell = [\"bash\", \"fish\"]\n[words]\nvague = [\"nice\"]\nfine = [\"please\"]\n";
    let rules = "- Use fish.\n- Use bash.\n- Make it nice.\n- Please do.\n";
    let found: Vec<&str> =
        findings(&[("AGENTS.md", rules), ("signpost.toml", config)]).into_iter().map(|one| one.check).collect();
    assert_eq!(found, ["consistency/contradiction", "wording/vague"]);
    assert!(findings(&[("AGENTS.md", "- Use fish.\n- Use bash.\n")]).is_empty());
}
