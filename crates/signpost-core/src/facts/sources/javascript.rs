//! `package.json`, `pnpm-workspace.yaml`, `deno.json`.

use super::formats::{json, line_of_key};
use super::{Gathered, style};
use crate::base::repo_path::RepoPath;
use crate::facts::model::{Commands, Dependency, Ecosystem, ManagerFact, Manifest, Source, VersionFact};
use crate::facts::version;
use serde_json::Value;
use std::collections::BTreeMap;

pub(super) fn manifest(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(value) = json(text) else { return };
    let Some(object) = value.as_object() else { return };
    let source = |line| Source { file: file.clone(), line };
    let mut dependencies = BTreeMap::new();
    for key in ["dependencies", "devDependencies", "peerDependencies", "optionalDependencies"] {
        for (name, range) in object.get(key).and_then(Value::as_object).into_iter().flatten() {
            let range = range.as_str().map(str::to_owned);
            dependencies.entry(name.clone()).or_insert(Dependency { range, line: line_of_key(text, name) });
        }
    }
    let scripts = object.get("scripts").and_then(Value::as_object);
    let names: BTreeMap<String, usize> =
        scripts.into_iter().flatten().map(|(name, _)| (name.clone(), line_of_key(text, name))).collect();
    gathered.commands.push(Commands { tool: "npm", file: file.clone(), names, open: false });
    if let Some(manager) = object.get("packageManager").and_then(Value::as_str) {
        let line = line_of_key(text, "packageManager");
        let (name, stated) = manager.split_once('@').unwrap_or((manager, ""));
        gathered.managers.push(ManagerFact {
            ecosystem: Ecosystem::JavaScript,
            name: name.to_owned(),
            source: source(line),
        });
        if let Some(span) = version::exact(stated) {
            let text = stated.split('+').next().unwrap_or(stated).to_owned();
            gathered.versions.push(VersionFact { of: name.to_owned(), text, span, exact: true, source: source(line) });
        }
    }
    for (key, exact) in [("volta", true), ("engines", false)] {
        for (of, stated) in object.get(key).and_then(Value::as_object).into_iter().flatten() {
            let Some(stated) = stated.as_str() else { continue };
            if let Some(span) = version::range(stated, Ecosystem::JavaScript) {
                let line = line_of_key(text, of);
                gathered.versions.push(VersionFact {
                    of: of.clone(),
                    text: stated.to_owned(),
                    span,
                    exact,
                    source: source(line),
                });
            }
        }
    }
    if let Some(settings) = object.get("prettier").filter(|settings| settings.is_object()) {
        style::prettier_settings(file, text, settings, gathered);
    }
    let name = object.get("name").and_then(Value::as_str).map(str::to_owned);
    gathered.manifests.push(Manifest {
        ecosystem: Ecosystem::JavaScript,
        file: file.clone(),
        name,
        dependencies,
        open: false,
    });
}

pub(super) fn pnpm_workspace(file: &RepoPath, _: &str, gathered: &mut Gathered) {
    let source = Source { file: file.clone(), line: 1 };
    gathered.managers.push(ManagerFact { ecosystem: Ecosystem::JavaScript, name: "pnpm".to_owned(), source });
}

pub(super) fn deno(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(value) = json(text) else { return };
    let names = value.get("tasks").and_then(Value::as_object);
    let names = names.into_iter().flatten().map(|(name, _)| (name.clone(), line_of_key(text, name))).collect();
    gathered.commands.push(Commands { tool: "deno", file: file.clone(), names, open: false });
}

/// `packageManager` in the manifest of a folder settles which lockfile there counts.
pub(in crate::facts) fn one_manager(managers: &mut Vec<ManagerFact>) {
    let stated: Vec<RepoPath> = managers
        .iter()
        .filter(|one| one.ecosystem == Ecosystem::JavaScript && one.source.file.name() == "package.json")
        .map(|one| one.source.file.folder())
        .collect();
    managers.retain(|one| {
        one.ecosystem != Ecosystem::JavaScript
            || one.source.file.name() == "package.json"
            || !stated.contains(&one.source.file.folder())
    });
}
