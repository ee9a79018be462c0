//! Lockfiles: whose they are, and the versions in them.

use super::formats::{json, line_with};
use crate::facts::model::Ecosystem;
use rustc_hash::FxHashMap;
use serde_json::Value;

/// The versions in one lockfile, by package, with their lines.
pub(in crate::facts) type Locked = FxHashMap<String, Vec<(String, usize)>>;

/// A kind of lockfile.
pub(in crate::facts) struct LockKind {
    /// Its name.
    pub name: &'static str,
    /// Whose packages it locks.
    pub ecosystem: Ecosystem,
    /// The package manager that writes it.
    pub manager: &'static str,
    /// What reads it.
    pub read: fn(&str) -> Locked,
}

const fn kind(name: &'static str, ecosystem: Ecosystem, manager: &'static str, read: fn(&str) -> Locked) -> LockKind {
    LockKind { name, ecosystem, manager, read }
}

/// All that are known.
const LOCKS: &[LockKind] = &[
    kind("Cargo.lock", Ecosystem::Rust, "cargo", packages),
    kind("package-lock.json", Ecosystem::JavaScript, "npm", npm),
    kind("npm-shrinkwrap.json", Ecosystem::JavaScript, "npm", npm),
    kind("pnpm-lock.yaml", Ecosystem::JavaScript, "pnpm", pnpm),
    kind("yarn.lock", Ecosystem::JavaScript, "yarn", yarn),
    kind("bun.lock", Ecosystem::JavaScript, "bun", bun),
    // A binary file: only that it is there is known.
    kind("bun.lockb", Ecosystem::JavaScript, "bun", |_| Locked::default()),
    kind("uv.lock", Ecosystem::Python, "uv", packages),
    kind("poetry.lock", Ecosystem::Python, "poetry", packages),
    kind("pdm.lock", Ecosystem::Python, "pdm", packages),
    kind("Pipfile.lock", Ecosystem::Python, "pipenv", pipfile),
    kind("Gemfile.lock", Ecosystem::Ruby, "bundler", gems),
];

/// The lockfile of that name.
pub(in crate::facts) fn by_name(name: &str) -> Option<&'static LockKind> {
    LOCKS.iter().find(|one| one.name == name)
}

/// Adds a version, once.
fn add(locked: &mut Locked, name: &str, version: &str, line: usize) {
    let all = locked.entry(name.to_owned()).or_default();
    if !all.iter().any(|(known, _)| known == version) {
        all.push((version.to_owned(), line));
    }
}

/// `    rails (7.1.3)`: four blanks, so that what a gem needs in turn is passed over.
fn gems(text: &str) -> Locked {
    let mut locked = Locked::default();
    for (number, line) in text.lines().enumerate() {
        let own = line.strip_prefix("    ").filter(|rest| !rest.starts_with(' '));
        if let Some((name, rest)) = own.and_then(|rest| rest.split_once(" (")) {
            add(&mut locked, name, rest.trim_end_matches(')'), number + 1);
        }
    }
    locked
}

/// `[[package]]` tables with a name and a version: Cargo's lockfile, and those of Python's managers.
fn packages(text: &str) -> Locked {
    let mut locked = Locked::default();
    let mut name: Option<(String, usize)> = None;
    for (number, line) in text.lines().enumerate() {
        let quoted = |key: &str| {
            let rest = line.strip_prefix(key)?.trim_start().strip_prefix('=')?.trim();
            Some(rest.strip_prefix('"')?.split('"').next()?.to_owned())
        };
        if line.starts_with("[[package]]") {
            name = None;
        } else if let Some(own) = quoted("name") {
            name = Some((own, number + 1));
        } else if let Some(version) = quoted("version")
            && let Some((own, _)) = name.take()
        {
            locked.entry(own).or_default().push((version, number + 1));
        }
    }
    locked
}

fn npm(text: &str) -> Locked {
    let mut locked = Locked::default();
    let Some(value) = json(text) else { return locked };
    for (path, entry) in value.get("packages").and_then(Value::as_object).into_iter().flatten() {
        // Only what stands at the top is what the project itself imports.
        if let Some(own) = path.strip_prefix("node_modules/").filter(|own| !own.contains("node_modules/"))
            && let Some(version) = entry.get("version").and_then(Value::as_str)
        {
            add(&mut locked, own, version, line_with(text, &format!("\"{path}\"")));
        }
    }
    for (own, entry) in value.get("dependencies").and_then(Value::as_object).into_iter().flatten() {
        if let Some(version) = entry.get("version").and_then(Value::as_str) {
            add(&mut locked, own, version, line_with(text, &format!("\"{own}\"")));
        }
    }
    locked
}

fn bun(text: &str) -> Locked {
    let mut locked = Locked::default();
    let Some(value) = json(text) else { return locked };
    for (own, entry) in value.get("packages").and_then(Value::as_object).into_iter().flatten() {
        if let Some((_, version)) = entry.get(0).and_then(Value::as_str).and_then(|id| id.rsplit_once('@')) {
            add(&mut locked, own, version, line_with(text, &format!("\"{own}\"")));
        }
    }
    locked
}

fn yarn(text: &str) -> Locked {
    let mut locked = Locked::default();
    let mut open: Vec<String> = Vec::new();
    for (number, line) in text.lines().enumerate() {
        if !line.starts_with([' ', '#']) && line.ends_with(':') {
            let names = line.trim_end_matches(':').split(',').map(|one| one.trim().trim_matches('"'));
            open = names.filter_map(|one| one.get(1..)?.find('@').map(|at| one[..=at].to_owned())).collect();
        } else if let Some(rest) = line.trim_start().strip_prefix("version") {
            let version = rest.trim_start_matches(':').trim().trim_matches('"');
            for own in open.drain(..) {
                add(&mut locked, &own, version, number + 1);
            }
        }
    }
    locked
}

fn pnpm(text: &str) -> Locked {
    let mut locked = Locked::default();
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
            add(&mut locked, &key[..at], &key[at + 1..], number + 1);
        }
    }
    locked
}

fn pipfile(text: &str) -> Locked {
    let mut locked = Locked::default();
    let value = json(text).unwrap_or_default();
    for key in ["default", "develop"] {
        for (name, entry) in value.get(key).and_then(Value::as_object).into_iter().flatten() {
            if let Some(version) = entry.get("version").and_then(Value::as_str) {
                let version = version.trim_start_matches('=').to_owned();
                locked.insert(name.clone(), vec![(version, line_with(text, &format!("\"{name}\"")))]);
            }
        }
    }
    locked
}
