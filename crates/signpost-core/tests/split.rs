//! What a section of a long file is about, as splitting reads it: its heading, else what its directives name.

#![allow(clippy::unwrap_used)]

use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::split::{Decisions, SplitError, split};
use signpost_core::files::MemoryTree;
use signpost_core::project::workspace::Workspace;

const SOURCES: &[&str] = &[
    "api/Cargo.toml", "api/src/main.rs", "api/src/db.rs", "web/src/app.tsx", "web/src/views/Home.tsx", "web/src/x.css",
    "web/tests/home.test.tsx", "etl/load.py", "etl/steps/clean.py", "etl/tests/test_clean.py", "docs/words.md",
    "infra/site.tf", "infra/db/main.tf", "tools/gen.py", "a b/c.py", "Makefile",
];

/// The scope of each section of a file, with the reason; `-` where it stays for all, with what it could be about.
fn scopes(text: &str) -> String {
    scopes_in(SOURCES, text, &Decisions::default()).unwrap()
}

fn scopes_in(sources: &[&str], text: &str, decisions: &Decisions) -> Result<String, String> {
    let mut tree = sources.iter().fold(MemoryTree::new(), |tree, path| tree.with(path, ""));
    tree = tree
        .with("AGENTS.md", text)
        .with("web/package.json", r#"{"name": "web", "dependencies": {"react": "19", "zod": "4"}}"#)
        .with("etl/pyproject.toml", "[project]\nname = \"etl\"\ndependencies = [\"polars\"]\n")
        .with(
            "api/Cargo.toml",
            "[package]\nname = \"api\"\nversion = \"1.0.0\"\n[dependencies]\nsqlx = \"0.8\"\nserde = \"1\"\n",
        );
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let split =
        split(&workspace, &project, &RepoPath::new("AGENTS.md").unwrap(), decisions).map_err(|error| match error {
            SplitError::No(why, help) => format!("{why}; {help}"),
            other => other.to_string(),
        })?;
    let mut out = String::new();
    for part in &split.parts {
        let heading = part.heading.as_deref().unwrap_or("(top)");
        match &part.scope {
            None if part.perhaps.is_empty() => out += &format!("{heading}: -\n"),
            None => out += &format!("{heading}: - (perhaps {})\n", part.perhaps.join(" ")),
            Some(scope) => {
                out += &format!("{heading}: {} ({} files; {})\n", scope.patterns.join(" "), scope.files, scope.why)
            }
        }
    }
    Ok(out)
}

fn sections(all: &[(&str, &[&str])]) -> String {
    let section = |(heading, items): &(&str, &[&str])| {
        let items: String = items.iter().map(|item| format!("- {item}\n")).collect();
        format!("## {heading}\n\n{items}\n")
    };
    format!("# House\n\n- Be kind.\n\n{}", all.iter().map(section).collect::<String>())
}

#[test]
fn headings_name_folders_languages_paths_and_packages() {
    insta::assert_snapshot!(scopes(&sections(&[
        ("Web", &["Label every button."]),
        ("The web folder", &["Label every button."]),
        ("`etl/steps`", &["Steps are pure."]),
        ("etl/steps/", &["Steps are pure."]),
        ("infra/db", &["Plan before you apply."]),
        ("`*.tf` files", &["Plan before you apply."]),
        ("`web/**/*.css`", &["No colours by hand."]),
        ("Python", &["Type every function."]),
        ("Rust and Python", &["Type every function."]),
        ("TypeScript in web", &["No `any`."]),
        ("React", &["Hooks first."]),
        ("sqlx", &["Check queries at build time."]),
        ("Polars pipelines", &["Stay lazy."]),
        ("`a b/`", &["Mind the gap."]),
    ])));
}

#[test]
fn what_is_done_everywhere_is_no_place() {
    insta::assert_snapshot!(scopes(&sections(&[
        ("Tests", &["Name the case."]),
        ("Testing", &["Name the case."]),
        ("Docs", &["Short sentences."]),
        ("Tools", &["Use the newest."]),
        ("Style", &["Be brief."]),
        ("go on", &["Never stop."]),
        ("Everything in src", &["Be brief."]),
        ("nowhere/at/all", &["Be gone."]),
        ("`*.java`", &["Be gone."]),
        ("Java", &["Be gone."]),
        ("`**`", &["Be everywhere."]),
        ("https://example.net/web", &["Read it."]),
        ("`--web`", &["Use the flag."]),
    ])));
}

#[test]
fn without_a_name_in_the_heading_most_of_the_directives_decide() {
    insta::assert_snapshot!(scopes(&sections(&[
        ("Queries", &["`api/src/db.rs` holds them.", "Keep `api/src/main.rs` free of them.", "Name each."]),
        ("One of four", &["`api/src/db.rs` holds them.", "Be kind.", "Be brief.", "Be quick."]),
        ("Two parts", &["See `api/src/db.rs`.", "See `web/src/app.tsx`."]),
        ("One language", &["Python functions have types.", "Python modules have docs."]),
        ("Two languages", &["Python functions have types.", "Rust modules have docs."]),
        ("Only one, and it names", &["See `infra/site.tf`."]),
        ("Links", &["See [the words](docs/words.md)."]),
        ("Steps", &["Clean in `etl/steps/`.", "Load in `etl/load.py`."]),
    ])));
}

#[test]
fn sections_within_a_section_have_scopes_of_their_own() {
    let text = "# House\n\n- Be kind.\n\n## Code\n\n- Be brief.\n\n### Web\n\n- Label it.\n\n### Python\n\n- Type it.\n\n## Infra\n\n### Naming\n\n- Short names.\n";
    insta::assert_snapshot!(scopes(text));
}

/// An application in parts that are made alike: sections speak of the files that each part has.
const PARTS: &[&str] = &[
    "shop/models.py", "shop/views.py", "shop/services.py", "shop/migrations/1.py", "shop/templates/shop/a.html",
    "shop/tests/a.py", "mail/models.py", "mail/views.py", "mail/services.py", "mail/migrations/1.py",
    "mail/templates/mail/b.html", "mail/tests/b.py", "core/models.py", "core/clock.py", "core/migrations/1.py",
    "templates/base.html", "static/js/site.js", "static/css/site.css", "conf/queue.py", "pyproject.toml",
];

#[test]
fn files_that_each_part_has_are_a_scope() {
    let text = sections(&[
        ("Models", &["Every model has an order.", "Money is in cents."]),
        ("Migrations", &["Never edit one that is merged."]),
        ("Services and views", &["A service is a function in `services.py`.", "A view has at most 15 lines."]),
        ("Views and templates", &["Templates of a part are in `NAME/templates/NAME/`.", "No queries in templates."]),
        ("Queue", &["The queue is set up in `conf/queue.py`.", "Work is listed in `conf/queue.py`.", "Never block."]),
        ("Front end", &["No build step; modules in `static/js/`.", "No inline styles.", "No frameworks.", "Label it."]),
        ("Time", &["Take it with `core/clock.py`.", "Never from the system."]),
        ("Money", &["Round half up."]),
    ]);
    insta::assert_snapshot!(scopes_in(PARTS, &text, &Decisions::default()).unwrap());
}

#[test]
fn sections_are_decided_by_hand() {
    let text =
        sections(&[("Models", &["Money is in cents."]), ("Front end", &["No inline styles."]), ("Time", &["UTC."])]);
    let of = |scopes: &[(&str, &str)], keep: &[&str]| {
        let own = |text: &&str| (*text).to_owned();
        let scopes = scopes.iter().map(|(heading, pattern)| ((*heading).to_owned(), (*pattern).to_owned())).collect();
        scopes_in(PARTS, &text, &Decisions { scopes, keep: keep.iter().map(own).collect() })
    };
    let decided =
        of(&[("front END", "static/**"), ("Front end", "templates/**"), ("Time", "new/**")], &["Models"]).unwrap();
    assert!(decided.contains("Front end: static/** templates/** (3 files; as you said)"), "{decided}");
    assert!(decided.contains("Models: -\n") && decided.contains("Time: new/** (0 files; as you said)"), "{decided}");
    assert_eq!(
        of(&[("Frontend", "a/**")], &[]).unwrap_err(),
        "there is no section `Frontend`; did you mean `Front end`?"
    );
    assert!(of(&[], &["Nothing like it"]).unwrap_err().contains("there is no section"));
    assert!(of(&[("Time", "a[")], &[]).unwrap_err().starts_with("`a[` is no valid pattern"));
}
