//! `Cargo.toml`, `.cargo/config.toml`.
//!
//! Formats: <https://doc.rust-lang.org/cargo/reference/manifest.html>.

use super::Gathered;
use super::formats::{line_of_key, toml};
use crate::base::repo_path::RepoPath;
use crate::facts::model::{Commands, Dependency, Ecosystem, ManagerFact, Manifest, Source, VersionFact};
use crate::facts::version;
use std::collections::BTreeMap;
use toml::{Table, Value};

pub(super) fn manifest(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(table) = toml(text) else { return };
    let package = table.get("package").and_then(Value::as_table);
    let workspace = table.get("workspace").and_then(Value::as_table);
    let shared = workspace.and_then(|workspace| workspace.get("package")).and_then(Value::as_table);
    for (of, key) in [("rust", "rust-version"), ("edition", "edition")] {
        let stated = [package, shared].into_iter().flatten().find_map(|table| table.get(key).and_then(Value::as_str));
        let Some(stated) = stated else { continue };
        let Some(mut span) = version::exact(stated) else { continue };
        let source = Source { file: file.clone(), line: line_of_key(text, key) };
        // `rust-version` is the least that will do.
        if of == "rust" {
            span.high = f64::INFINITY;
        }
        gathered.versions.push(VersionFact {
            of: of.to_owned(),
            text: stated.to_owned(),
            span,
            exact: of == "edition",
            source,
        });
    }
    let mut dependencies = BTreeMap::new();
    let mut tables: Vec<&Table> = vec![&table];
    tables.extend(
        table.get("target").and_then(Value::as_table).into_iter().flat_map(Table::values).filter_map(Value::as_table),
    );
    tables.extend(workspace);
    for table in tables {
        for key in ["dependencies", "dev-dependencies", "build-dependencies"] {
            for (name, value) in table.get(key).and_then(Value::as_table).into_iter().flatten() {
                let range = value.as_str().or_else(|| value.get("version").and_then(Value::as_str)).map(str::to_owned);
                let real = value.get("package").and_then(Value::as_str).unwrap_or(name);
                let known: &mut Dependency = dependencies
                    .entry(real.to_owned())
                    .or_insert_with(|| Dependency { range: None, line: line_of_key(text, name) });
                known.range = known.range.take().or(range);
            }
        }
    }
    let name = package.and_then(|package| package.get("name")).and_then(Value::as_str).map(str::to_owned);
    let targets =
        ["bin", "example", "bench", "test"].into_iter().flat_map(|key| table.get(key).and_then(Value::as_array));
    let targets: BTreeMap<String, usize> = targets
        .flatten()
        .filter_map(|one| one.get("name").and_then(Value::as_str))
        .map(|name| (name.to_owned(), crate::facts::sources::formats::line_with(text, &format!("\"{name}\""))))
        .collect();
    if !targets.is_empty() {
        gathered.commands.push(Commands { tool: "cargo run --bin", file: file.clone(), names: targets, open: false });
    }
    gathered.managers.push(ManagerFact {
        ecosystem: Ecosystem::Rust,
        name: "cargo".to_owned(),
        source: Source { file: file.clone(), line: 1 },
    });
    gathered.manifests.push(Manifest {
        ecosystem: Ecosystem::Rust,
        file: file.clone(),
        name,
        dependencies,
        open: false,
    });
}

/// Aliases are commands.
pub(super) fn config(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(table) = toml(text) else { return };
    let Some(aliases) = table.get("alias").and_then(Value::as_table) else { return };
    let names = aliases.keys().map(|name| (name.clone(), line_of_key(text, name))).collect();
    gathered.commands.push(Commands { tool: "cargo", file: file.clone(), names, open: false });
}
