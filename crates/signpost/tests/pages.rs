//! What people read: the output of each command on the sample project, held word by word.
//!
//! `INSTA_UPDATE=always cargo test pages` writes the pages anew; read them before you commit them.

#![allow(clippy::unwrap_used)]

use crate::common::Project;

/// A page's name and the command that prints it.
const PAGES: &[(&str, &[&str])] = &[
    ("survey", &["survey"]),
    ("zones", &["survey", "--zones"]),
    ("at", &["at", "kiosk/src/screens/DepositScreen.tsx"]),
    ("at-why-not", &["at", "ledger/migrations/0010_regrade_lots.sql", "--assistant", "oddwick", "--why-not"]),
    (
        "at-together",
        &["at", "--together", "kiosk/src/theme.ts", "ledger/views/lot_balance.sql", "--assistant", "tansel,oddwick"],
    ),
    ("at-folder", &["at", "coldstore/src", "--assistant", "oddwick"]),
    ("at-hidden", &["at", "infra/secrets/vault.pem", "--assistant", "oddwick", "--all-rules"]),
    ("at-text", &["at", "infra/site.yaml", "--assistant", "tansel", "--text"]),
    ("lint", &["lint"]),
    ("weigh", &["weigh", "--top", "4"]),
    ("scope", &["scope", "kiosk/src/*.ts", "*.sql"]),
    (
        "scope-like",
        &[
            "scope",
            "--like",
            "ledger/migrations/0001_lots.sql",
            "ledger/views/lot_balance.sql",
            "--unlike",
            "ledger/fixtures/made_up_lots.sql",
        ],
    ),
    ("profile-list", &["profile", "list"]),
    ("profile-show", &["profile", "show", "tansel"]),
    ("adopt", &["adopt", "--dry-run"]),
    ("parity", &["parity"]),
    ("parity-between", &["parity", "--between", "agents-md", "tansel"]),
    ("split", &["split", "AGENTS.md"]),
    ("draft", &["draft", "packages", "--for", "kiosk/**", "--text", "Use npm for packages, never pnpm.", "--dry-run"]),
    ("publish", &["publish", "--dry-run"]),
    ("absorb", &["absorb", "--dry-run"]),
    ("explain", &["explain", "consistency/repeated"]),
    ("explain-list", &["explain"]),
];

#[test]
fn the_pages_are_what_the_commands_print() {
    let project = Project::new();
    assert_eq!(project.run(&["tour", "--into", "kept"]).code, 0);
    let root = project.root().join("kept/hollowbarrow");
    let home = project.root().join("kept/home");
    let mut settings = insta::Settings::clone_current();
    settings.set_snapshot_path("pages");
    settings.set_prepend_module_to_snapshot(false);
    settings.set_omit_expression(true);
    for (name, command) in PAGES {
        let ran =
            crate::common::signpost().args(*command).arg("--home").arg(&home).current_dir(&root).output().unwrap();
        assert!(
            matches!(ran.status.code(), Some(0 | 1)) && ran.stderr.is_empty(),
            "{name}: {}",
            String::from_utf8_lossy(&ran.stderr)
        );
        settings.set_description(format!("signpost {}", command.join(" ")));
        settings.bind(|| insta::assert_snapshot!(*name, String::from_utf8(ran.stdout).unwrap()));
    }
}

/// Wide enough for people, and never wider than asked where words can be broken.
#[test]
fn lines_fit_the_terminal() {
    let project = Project::new();
    project.run(&["tour", "--into", "kept"]);
    let root = project.root().join("kept/hollowbarrow");
    for (columns, command) in [
        ("80", &["survey"][..]),
        ("100", &["survey"]),
        ("70", &["at", "kiosk/src/theme.ts", "--why-not"]),
        ("90", &["weigh"]),
    ] {
        let ran = crate::common::signpost()
            .args(command)
            .arg("--home")
            .arg(project.home())
            .env("COLUMNS", columns)
            .current_dir(&root)
            .output()
            .unwrap();
        let printed = String::from_utf8(ran.stdout).unwrap();
        let limit: usize = columns.parse().unwrap();
        for line in printed.lines() {
            assert!(line.chars().count() <= limit + 1, "{columns}: {line}");
        }
    }
}
