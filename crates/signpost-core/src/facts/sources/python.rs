//! `pyproject.toml`, `requirements.txt`, `setup.cfg`, `Pipfile`.
//!
//! Format: <https://packaging.python.org/en/latest/specifications/pyproject-toml/>.

use super::formats::{line_of_key, line_with, toml};
use super::{Gathered, style};
use crate::base::repo_path::RepoPath;
use crate::facts::model::{Commands, Dependency, Ecosystem, ManagerFact, Manifest, Source, VersionFact};
use crate::facts::version;
use std::collections::BTreeMap;
use toml::{Table, Value};

pub(super) fn pyproject(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(table) = toml(text) else { return };
    let at = |path: &[&str]| -> Option<&Value> {
        let (first, rest) = path.split_first()?;
        rest.iter().try_fold(table.get(*first)?, |value, key| value.get(*key))
    };
    let source = |line| Source { file: file.clone(), line };
    let mut dependencies = BTreeMap::new();
    let mut requirement = |text_of: &str| {
        if let Some((name, range)) = read_requirement(text_of) {
            dependencies.entry(name.clone()).or_insert(Dependency { range, line: line_with(text, text_of) });
        }
    };
    let list = |value: &Value| -> Vec<String> {
        value.as_array().into_iter().flatten().filter_map(Value::as_str).map(str::to_owned).collect()
    };
    at(&["project", "dependencies"]).map(list).into_iter().flatten().for_each(|one| requirement(&one));
    for key in [&["project", "optional-dependencies"][..], &["dependency-groups"], &["tool", "pdm", "dev-dependencies"]]
    {
        for group in at(key).and_then(Value::as_table).into_iter().flat_map(Table::values) {
            list(group).iter().for_each(|one| requirement(one));
        }
    }
    at(&["tool", "uv", "dev-dependencies"]).map(list).into_iter().flatten().for_each(|one| requirement(&one));
    let mut tables: Vec<&Table> = Vec::new();
    for key in [&["tool", "poetry", "dependencies"][..], &["tool", "poetry", "dev-dependencies"]] {
        tables.extend(at(key).and_then(Value::as_table));
    }
    for group in at(&["tool", "poetry", "group"]).and_then(Value::as_table).into_iter().flat_map(Table::values) {
        tables.extend(group.get("dependencies").and_then(Value::as_table));
    }
    let poetry_python = at(&["tool", "poetry", "dependencies", "python"]).and_then(Value::as_str);
    for (name, value) in tables.into_iter().flatten().filter(|(name, _)| *name != "python") {
        let range = value.as_str().or_else(|| value.get("version").and_then(Value::as_str)).map(str::to_owned);
        dependencies.entry(name.clone()).or_insert(Dependency { range, line: line_of_key(text, name) });
    }
    let python = at(&["project", "requires-python"]).and_then(Value::as_str).map(|stated| (stated, "requires-python"));
    if let Some((stated, key)) = python.or(poetry_python.map(|stated| (stated, "python")))
        && let Some(span) = version::range(stated, Ecosystem::Python)
    {
        let fact = VersionFact {
            of: "python".into(),
            text: stated.into(),
            span,
            exact: false,
            source: source(line_of_key(text, key)),
        };
        gathered.versions.push(fact);
    }
    let mut names = BTreeMap::new();
    for key in [
        &["project", "scripts"][..],
        &["tool", "poetry", "scripts"],
        &["tool", "pdm", "scripts"],
        &["tool", "poe", "tasks"],
    ] {
        for name in at(key).and_then(Value::as_table).into_iter().flat_map(Table::keys) {
            names.insert(name.clone(), line_of_key(text, name));
        }
    }
    gathered.commands.push(Commands { tool: "poetry", file: file.clone(), names, open: false });
    let environments = at(&["tool", "hatch", "envs"]).and_then(Value::as_table);
    let mut scripts = BTreeMap::new();
    for (environment, value) in environments.into_iter().flatten() {
        for name in value.get("scripts").and_then(Value::as_table).into_iter().flat_map(Table::keys) {
            let line = line_of_key(text, name);
            scripts.insert(name.clone(), line);
            scripts.insert(format!("{environment}:{name}"), line);
        }
    }
    if !scripts.is_empty() {
        gathered.commands.push(Commands { tool: "hatch", file: file.clone(), names: scripts, open: false });
    }
    for (tool, key) in [("poetry", "poetry"), ("pdm", "pdm"), ("uv", "uv")] {
        if at(&["tool", key]).is_some() {
            let line = line_with(text, &format!("[tool.{key}"));
            gathered.managers.push(ManagerFact {
                ecosystem: Ecosystem::Python,
                name: tool.to_owned(),
                source: source(line),
            });
        }
    }
    style::pyproject(file, text, &table, gathered);
    let open = at(&["project", "dynamic"]).map(list).is_some_and(|all| all.iter().any(|one| one == "dependencies"));
    let name = at(&["project", "name"]).or_else(|| at(&["tool", "poetry", "name"])).and_then(Value::as_str);
    let name = name.map(str::to_owned);
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Python, file: file.clone(), name, dependencies, open });
}

/// `fastapi[all]>=0.100; python_version > "3.8"`.
fn read_requirement(text: &str) -> Option<(String, Option<String>)> {
    let text = text.split([';', '#']).next()?.trim();
    let end = text.find(|c: char| !(c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.'))).unwrap_or(text.len());
    let name = &text[..end];
    let rest = text[end..].trim_start();
    let rest = if rest.starts_with('[') { rest.split_once(']').map_or("", |(_, rest)| rest) } else { rest };
    let range = rest.trim().trim_matches(['(', ')']);
    let range = (!range.is_empty() && !range.starts_with('@')).then(|| range.to_owned());
    (!name.is_empty() && name.starts_with(|c: char| c.is_ascii_alphabetic())).then(|| (name.to_owned(), range))
}

pub(super) fn requirements(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut dependencies = BTreeMap::new();
    let mut open = false;
    for (number, line) in text.lines().enumerate() {
        let line = line.trim();
        open |= line.starts_with("-r") || line.starts_with("-e") || line.contains("git+");
        if let Some((name, range)) = read_requirement(line).filter(|_| !line.starts_with(['-', '#'])) {
            dependencies.entry(name).or_insert(Dependency { range, line: number + 1 });
        }
    }
    let file = file.clone();
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Python, file, name: None, dependencies, open });
}

pub(super) fn setup_cfg(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut dependencies = BTreeMap::new();
    let mut section = "";
    let mut inside = false;
    for (number, line) in text.lines().enumerate() {
        if line.starts_with('[') {
            section = line.trim().trim_matches(['[', ']']);
            inside = false;
        } else if line.starts_with([' ', '\t']) && inside {
            if let Some((name, range)) = read_requirement(line.trim()) {
                dependencies.entry(name).or_insert(Dependency { range, line: number + 1 });
            }
        } else {
            let key = line.split('=').next().unwrap_or_default().trim();
            inside = key == "install_requires" || section == "options.extras_require";
            if key == "python_requires"
                && let Some((_, stated)) = line.split_once('=')
                && let Some(span) = version::range(stated, Ecosystem::Python)
            {
                let source = Source { file: file.clone(), line: number + 1 };
                let fact = VersionFact { of: "python".into(), text: stated.trim().into(), span, exact: false, source };
                gathered.versions.push(fact);
            }
        }
    }
    style::flake8(file, text, gathered);
    if !dependencies.is_empty() {
        let file = file.clone();
        gathered.manifests.push(Manifest { ecosystem: Ecosystem::Python, file, name: None, dependencies, open: true });
    }
}

/// A program: what it names can't be read.
pub(super) fn setup_py(file: &RepoPath, _: &str, gathered: &mut Gathered) {
    let (file, dependencies) = (file.clone(), BTreeMap::new());
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Python, file, name: None, dependencies, open: true });
}

pub(super) fn pipfile(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(table) = toml(text) else { return };
    let mut dependencies = BTreeMap::new();
    for key in ["packages", "dev-packages"] {
        for (name, value) in table.get(key).and_then(Value::as_table).into_iter().flatten() {
            let range = value.as_str().or_else(|| value.get("version").and_then(Value::as_str)).map(str::to_owned);
            dependencies.insert(name.clone(), Dependency { range, line: line_of_key(text, name) });
        }
    }
    if let Some(stated) = table.get("requires").and_then(|one| one.get("python_version")).and_then(Value::as_str)
        && let Some(span) = version::exact(stated)
    {
        let source = Source { file: file.clone(), line: line_of_key(text, "python_version") };
        gathered.versions.push(VersionFact { of: "python".into(), text: stated.into(), span, exact: true, source });
    }
    let source = Source { file: file.clone(), line: 1 };
    gathered.managers.push(ManagerFact { ecosystem: Ecosystem::Python, name: "pipenv".into(), source });
    let file = file.clone();
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Python, file, name: None, dependencies, open: false });
}
