//! `package.json`, the lockfiles of its package managers, `deno.json`.

use super::{
    Commands, Dependency, Ecosystem, Gathered, Locked, ManagerFact, Manifest, Source, VersionFact, json, line_of_key,
    line_with, style, version,
};
use crate::repo_path::RepoPath;
use serde_json::Value;
use std::collections::BTreeMap;

/// The lockfiles, and whose they are.
pub(super) const LOCKS: &[(&str, &str)] = &[
    ("package-lock.json", "npm"),
    ("npm-shrinkwrap.json", "npm"),
    ("pnpm-lock.yaml", "pnpm"),
    ("yarn.lock", "yarn"),
    ("bun.lock", "bun"),
    ("bun.lockb", "bun"),
];

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

pub(super) fn lock(file: &RepoPath, _: &str, gathered: &mut Gathered) {
    gathered.locks.push(file.clone());
    if let Some((_, manager)) = LOCKS.iter().find(|(name, _)| *name == file.name()) {
        let source = Source { file: file.clone(), line: 1 };
        gathered.managers.push(ManagerFact { ecosystem: Ecosystem::JavaScript, name: (*manager).to_owned(), source });
    }
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
pub(super) fn one_manager(managers: &mut Vec<ManagerFact>) {
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

/// The versions that a lockfile holds.
pub(super) fn locked(name: &str, text: &str) -> Locked {
    let mut locked = Locked::default();
    let mut add = |name: &str, version: &str, line: usize| {
        let all = locked.entry(name.to_owned()).or_default();
        if !all.iter().any(|(known, _)| known == version) {
            all.push((version.to_owned(), line));
        }
    };
    match name {
        "package-lock.json" | "npm-shrinkwrap.json" => {
            let Some(value) = json(text) else { return locked };
            for (path, entry) in value.get("packages").and_then(Value::as_object).into_iter().flatten() {
                // Only what stands at the top is what the project itself imports.
                if let Some(own) = path.strip_prefix("node_modules/").filter(|own| !own.contains("node_modules/"))
                    && let Some(version) = entry.get("version").and_then(Value::as_str)
                {
                    add(own, version, line_with(text, &format!("\"{path}\"")));
                }
            }
            for (own, entry) in value.get("dependencies").and_then(Value::as_object).into_iter().flatten() {
                if let Some(version) = entry.get("version").and_then(Value::as_str) {
                    add(own, version, line_with(text, &format!("\"{own}\"")));
                }
            }
        }
        "bun.lock" => {
            let Some(value) = json(text) else { return locked };
            for (own, entry) in value.get("packages").and_then(Value::as_object).into_iter().flatten() {
                if let Some((_, version)) = entry.get(0).and_then(Value::as_str).and_then(|id| id.rsplit_once('@')) {
                    add(own, version, line_with(text, &format!("\"{own}\"")));
                }
            }
        }
        "yarn.lock" => {
            let mut open: Vec<String> = Vec::new();
            for (number, line) in text.lines().enumerate() {
                if !line.starts_with([' ', '#']) && line.ends_with(':') {
                    let names = line.trim_end_matches(':').split(',').map(|one| one.trim().trim_matches('"'));
                    open = names.filter_map(|one| one.get(1..)?.find('@').map(|at| one[..=at].to_owned())).collect();
                } else if let Some(rest) = line.trim_start().strip_prefix("version") {
                    let version = rest.trim_start_matches(':').trim().trim_matches('"');
                    for own in open.drain(..) {
                        add(&own, version, number + 1);
                    }
                }
            }
        }
        "pnpm-lock.yaml" => {
            // `  react@18.2.0:` or `  /react@18.2.0:` or `  /react/18.2.0:`
            let mut inside = false;
            for (number, line) in text.lines().enumerate() {
                if !line.starts_with(' ') && !line.is_empty() {
                    inside = line.starts_with("packages:") || line.starts_with("snapshots:");
                    continue;
                }
                let Some(key) = line.strip_prefix("  ").filter(|rest| inside && !rest.starts_with(' ')) else {
                    continue;
                };
                let key = key.trim_end().trim_end_matches(':').trim_matches(['\'', '"']).trim_start_matches('/');
                let key = key.split('(').next().unwrap_or(key);
                let at = key.get(1..).and_then(|rest| rest.rfind('@')).map(|at| at + 1);
                if let Some(at) = at.or_else(|| key.rfind('/')) {
                    add(&key[..at], &key[at + 1..], number + 1);
                }
            }
        }
        _ => {}
    }
    locked
}
