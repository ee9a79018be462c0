//! Every document that `--format json` prints is what its schema in `docs/schemas/output/` says, and no more than that.

#![allow(clippy::unwrap_used)]

use crate::common::Project;
use serde_json::Value;
use std::path::Path;

/// The schema of a document, which takes no field that it does not name.
fn schema_of(document: &Value) -> Value {
    let name = document["schema"].as_str().unwrap_or_else(|| panic!("no schema is named in {document}"));
    let file = name.trim_start_matches("signpost.").replace("/1", ".schema.json");
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schemas/output").join(file);
    let text = std::fs::read_to_string(&path).unwrap_or_else(|error| panic!("{name}: {}: {error}", path.display()));
    let mut schema = serde_json::from_str(&text).unwrap();
    close(&mut schema);
    schema
}

fn close(schema: &mut Value) {
    match schema {
        Value::Object(object) => {
            object.values_mut().for_each(close);
            if object.get("properties").is_some_and(Value::is_object) {
                object.insert("additionalProperties".into(), false.into());
            }
        }
        Value::Array(items) => items.iter_mut().for_each(close),
        _ => {}
    }
}

#[track_caller]
fn holds(document: &Value) {
    let validator = jsonschema::validator_for(&schema_of(document)).unwrap();
    let wrong: Vec<String> =
        validator.iter_errors(document).map(|error| format!("{}: {error}", error.instance_path())).collect();
    assert!(wrong.is_empty(), "{wrong:#?}\n{document:#}");
}

/// A project about which every command has much to say.
fn rich() -> Project {
    let long = "- The ink is kept in the dark and cold, and the wax too.\n".repeat(60);
    Project::with_profiles()
        .with(".oo/notes/all.md", "---\nload: each\n---\n- Keep the ink dry.\n- Indent with tabs.\n- Please run `npm run lint`.\n")
        .with(".oo/notes/rust.md", "---\ncovers: \"*.rs\"\n---\n- Indent with spaces.\n")
        .with(".oo/notes/pick.md", "---\nabout: How to seal a letter\n---\n- Seal it with wax.\n")
        .with(".oo/notes/none.md", "---\ncovers: \"nowhere/**\"\n---\n- Never.\n")
        .with(".oo/note/wrong.md", "- Nobody reads this.\n")
        .with(".oo-skip", "hidden/\n")
        .with("TT.md", format!("# All\n\n- Keep the ink dry.\n- See @docs/a.md and @docs/gone.md\n\n## Python\n\n{long}\n## src\n\n- Use `src/a.rs` first.\n- And then `src/b.rs`.\n"))
        .with("~/.tt/TT.md", "- Answer in Welsh.\n")
        .with("docs/a.md", "- Words are words.\n")
        .with("BBSHEET.txt", format!("- Keep the ink wet.\n{long}"))
        .with("package.json", r#"{"scripts": {"test": "t"}, "dependencies": {"left": "1"}}"#)
        .with(".nvmrc", "20\n")
        .with(".editorconfig", "root = true\n[*]\nindent_style = tab\n")
        .with("src/a.rs", "").with("src/b.rs", "").with("src/c.py", "").with("hidden/x.rs", "").with("web/a.ts", "")
}

#[test]
fn reports_are_what_their_schemas_say() {
    let project = rich();
    for args in [
        &["survey"][..],
        &["survey", "--facts"],
        &["survey", "--zones"],
        &["at", "src/a.rs", "hidden/x.rs", "--why-not"],
        &["at", "src/a.rs", "web/a.ts", "--together", "--text"],
        &["at", "src"],
        &["lint"],
        &["lint", "--fix", "--dry-run"],
        &["weigh"],
        &["weigh", "--exact"],
        &["parity"],
        &["parity", "--all"],
        &["scope", "src/*.rs", "src/[a", "sr/*.rs"],
        &["scope", "--like", "src/a.rs", "--like", "src/b.rs"],
        &["profile", "list"],
        &["profile", "show", "oo"],
        &["profile", "check", "guidance/profiles/oo.toml"],
        &["profile", "draft"],
        &["explain"],
        &["explain", "wording"],
        &["split", "TT.md"],
        &["adopt", "--dry-run"],
        &["draft", "wax", "--for", "*.rs", "--text", "- Indent with tabs.", "--dry-run"],
    ] {
        holds(&project.json(args));
    }
}

#[test]
fn what_is_written_is_what_the_schemas_say() {
    let project = rich();
    holds(&project.json(&["adopt", "--yes"]));
    holds(&project.json(&["publish", "--dry-run"]));
    holds(&project.json(&["publish"]));
    let edited = project.read("TT.md").replace("Keep the ink dry.", "Keep the ink very dry.");
    let project = project.with("TT.md", edited).with(".oo/notes/rust.md", "Edited by hand.\n");
    holds(&project.json(&["publish"]));
    holds(&project.json(&["absorb", "--dry-run"]));
    holds(&project.json(&["absorb"]));
    let project = Project::new().with("package.json", r#"{"scripts": {"test": "run-tests"}}"#);
    holds(&project.json(&["init"]));
    holds(&project.json(&["init", "--yes"]));
}

#[test]
fn so_they_are_where_nothing_is_there_and_where_something_is_wrong() {
    let empty = Project::new();
    for args in [&["survey"][..], &["survey", "--facts"], &["lint"], &["weigh"], &["parity"], &["profile", "draft"]] {
        holds(&empty.json(args));
    }
    let broken = Project::with_profiles()
        .with("TT.md", b"- Not \xff UTF-8\n")
        .with("guidance/profiles/notes.txt", "no profile")
        .with("bad.toml", "name = \"bad\"\ntitle = 7\n");
    std::os::unix::fs::symlink("/nowhere", broken.root().join("BBSHEET.txt")).unwrap();
    for args in [
        &["survey"][..],
        &["lint"],
        &["at", "TT.md", "../outside.rs"],
        &["adopt", "--dry-run"],
        &["profile", "check", "bad.toml"],
    ] {
        holds(&broken.json(args));
    }
}
