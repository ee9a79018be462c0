//! The JSON Schemas of what `--format json` prints, in `docs/schemas/output/`, made from the types that are printed; and
//! docs/json.md, which has to name every field of theirs. `UPDATE_DOCS=1 cargo test documents` writes the schemas anew.

use crate::render;
use serde_json::{Map, Value, json};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

macro_rules! document {
    ($name:literal, $($file:ident)::+) => {
        ($name, schema_of::<$($file)::+>())
    };
}

fn schema_of<T: schemars::JsonSchema>() -> Value {
    let settings = schemars::generate::SchemaSettings::draft2020_12().for_serialize();
    settings.into_generator().into_root_schema_for::<T>().to_value()
}

/// Each document, by the `schema` that it names.
fn documents() -> Vec<(&'static str, Value)> {
    let mut all = vec![
        document!("signpost.absorb/1", render::absorb::AbsorbJson),
        document!("signpost.adopt/1", render::adopt::AdoptJson),
        document!("signpost.brief/1", render::brief::BriefsJson),
        document!("signpost.doubts/1", render::doubts::DoubtsJson),
        document!("signpost.settled/1", render::doubts::SettledJson),
        document!("signpost.draft/1", render::draft::DraftJson),
        document!("signpost.explain/1", render::explain::ExplainJson),
        document!("signpost.facts/1", render::facts::FactsJson),
        document!("signpost.init/1", render::init::InitJson),
        document!("signpost.lint/1", render::lint::LintJson),
        document!("signpost.mend/1", render::lint::MendsJson),
        document!("signpost.parity/1", render::parity::ParityJson),
        document!("signpost.profile/1", render::profile::ProfilesJson),
        document!("signpost.profile-check/1", render::profile::CheckJson),
        document!("signpost.profile-draft/1", render::profile::DraftsJson),
        document!("signpost.publish/1", render::publish::PublishJson),
        document!("signpost.scope/1", render::scope::ScopeJson),
        document!("signpost.split/1", render::split::SplitJson),
        document!("signpost.survey/1", render::survey::SurveyJson),
        document!("signpost.weigh/1", render::weigh::WeighJson),
    ];
    all.iter_mut().for_each(|(name, schema)| finish(name, schema));
    all
}

/// Names the document, and adds what every one of them has.
fn finish(name: &str, schema: &mut Value) {
    schema["title"] = name.into();
    schema["properties"]["schema"] = json!({ "const": name });
    if name == "signpost.explain/1" || name == "signpost.profile-check/1" {
        // They are made without reading a project.
        return;
    }
    let text = json!({ "type": "string" });
    schema["properties"]["unread"] = json!({
        "type": "array",
        "description": "What could not be read, or answered.",
        "items": {
            "type": "object",
            "properties": { "path": text, "why": text },
            "required": ["path", "why"],
        },
    });
    schema["required"].as_array_mut().unwrap().push("unread".into());
}

fn docs() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs")
}

#[test]
fn the_schemas_are_those_of_what_is_printed() {
    for (name, schema) in documents() {
        let name = name.trim_start_matches("signpost.").replace("/1", ".schema.json");
        let file = docs().join("schemas/output").join(&name);
        let text = serde_json::to_string_pretty(&schema).unwrap() + "\n";
        if std::env::var_os("UPDATE_DOCS").is_some() {
            std::fs::write(&file, &text).unwrap();
        }
        let written = std::fs::read_to_string(&file).unwrap_or_default();
        assert!(written == text, "docs/schemas/output/{name} is stale: UPDATE_DOCS=1 cargo test documents");
    }
}

fn fields(schema: &Value, names: &mut BTreeSet<String>) {
    match schema {
        Value::Object(object) => {
            let properties = object.get("properties").and_then(Value::as_object);
            names.extend(properties.into_iter().flat_map(Map::keys).cloned());
            object.values().for_each(|inner| fields(inner, names));
        }
        Value::Array(items) => items.iter().for_each(|inner| fields(inner, names)),
        _ => {}
    }
}

#[test]
fn the_page_names_every_field() {
    let page = std::fs::read_to_string(docs().join("json.md")).unwrap();
    let sections: Vec<&str> = page.split("\n## ").skip(1).collect();
    let titled = |section: &&&str, name: &str| section.lines().next().unwrap().contains(name);
    let mut missing = Vec::new();
    for (name, schema) in documents() {
        let quoted = format!("`{name}`");
        let own = sections.iter().find(|section| titled(section, &quoted));
        let own = own.or_else(|| sections.iter().find(|section| section.contains(&quoted)));
        let Some(own) = own else { panic!("docs/json.md says nothing of {name}") };
        // `as in` another document: what stands there is said.
        let others = sections.iter().filter(|other| {
            let named = other.lines().next().unwrap().split('`').nth(1).unwrap_or_default();
            own.contains(&format!("as in `{named}`"))
        });
        let said: Vec<&&str> = std::iter::once(own).chain(others).collect();
        let mut names = BTreeSet::new();
        fields(&schema, &mut names);
        names.remove("schema");
        names.retain(|field| !said.iter().any(|section| section.contains(&format!("`{field}`"))));
        // What every document has stands at the top of the page.
        if schema["properties"]["unread"].is_object() {
            names.retain(|field| !["unread", "path", "why"].contains(&field.as_str()));
        }
        missing.extend(names.into_iter().map(|field| format!("{name}: {field}")));
    }
    assert!(missing.is_empty(), "docs/json.md does not say what these are: {missing:#?}");
}
