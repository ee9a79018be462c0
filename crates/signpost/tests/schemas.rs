//! The JSON Schemas in `docs/schemas/` are made from the types. `UPDATE_DOCS=1 cargo test -p signpost schemas`
//! writes them anew.

#![allow(clippy::unwrap_used)]

use signpost_core::config::Config;
use signpost_core::profile::schema::ProfileFile;
use signpost_core::project::guidance::RuleHeader;
use std::path::Path;

fn held(name: &str, schema: schemars::Schema) {
    let file = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schemas").join(name);
    let text = serde_json::to_string_pretty(&schema).unwrap() + "\n";
    if std::env::var_os("UPDATE_DOCS").is_some() {
        std::fs::create_dir_all(file.parent().unwrap()).unwrap();
        std::fs::write(&file, &text).unwrap();
    }
    let written = std::fs::read_to_string(&file).unwrap_or_default();
    assert!(written == text, "docs/schemas/{name} is stale: UPDATE_DOCS=1 cargo test -p signpost schemas");
}

#[test]
fn the_schemas_are_those_of_the_types() {
    held("profile.schema.json", schemars::schema_for!(ProfileFile));
    held("signpost.schema.json", schemars::schema_for!(Config));
    held("rule.schema.json", schemars::schema_for!(RuleHeader));
}

/// Whatever the schema's words are, the parser must know the same.
#[test]
fn the_profile_of_the_docs_is_valid() {
    let docs = include_str!("../../../docs/profiles.md");
    let example =
        docs.split("## The whole file").nth(1).unwrap().split("```toml").nth(1).unwrap().split("```").next().unwrap();
    let profile =
        signpost_core::profile::Profile::parse("docs", example, signpost_core::profile::Origin::User).unwrap().0;
    assert_eq!(profile.name, "tansel");
    let settings = include_str!("../../../docs/lint.md");
    let example = settings.split("```toml").nth(1).unwrap().split("```").next().unwrap();
    signpost_core::base::toml_file::parse_toml::<Config>("docs", example).unwrap();
}
