//! `pom.xml`, Gradle's build files and version catalogues, `build.sbt`.
//!
//! Formats: <https://maven.apache.org/pom.html>, <https://docs.gradle.org/current/userguide/version_catalogs.html>. Build
//! files of Gradle and sbt are programs: only what stands in them plainly is read, so they are never whole.

use super::Gathered;
use super::formats::{line_of_key, line_with, toml};
use crate::base::repo_path::RepoPath;
use crate::facts::model::{Commands, Dependency, Ecosystem, Manifest};
use std::collections::BTreeMap;
use toml::Value;

/// The text of the first element of that name, with its line.
fn element<'t>(text: &'t str, name: &str) -> Option<(&'t str, usize)> {
    let open = format!("<{name}>");
    let at = text.find(&open)? + open.len();
    let end = text[at..].find('<')?;
    Some((text[at..at + end].trim(), text[..at].matches('\n').count() + 1))
}

/// A value with `${name}` filled in.
fn filled<'t>(text: &'t str, value: &'t str) -> &'t str {
    let name = value.strip_prefix("${").and_then(|rest| rest.strip_suffix('}'));
    name.and_then(|name| element(text, name)).map_or(value, |(value, _)| value)
}

pub(super) fn maven(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    for name in ["maven.compiler.release", "maven.compiler.target", "java.version", "maven.compiler.source"] {
        if let Some((value, line)) = element(text, name) {
            gathered.version("java", filled(text, value), file, line);
            break;
        }
    }
    let mut dependencies = BTreeMap::new();
    let mut rest = text;
    while let Some(at) = rest.find("<dependency>") {
        let end = rest[at..].find("</dependency>").map_or(rest.len(), |end| at + end);
        let block = &rest[at..end];
        if let (Some((group, _)), Some((artifact, _))) = (element(block, "groupId"), element(block, "artifactId")) {
            let range = element(block, "version").map(|(value, _)| filled(text, value).to_owned());
            let line = line_with(text, &format!("<artifactId>{artifact}<"));
            dependencies.insert(format!("{group}:{artifact}"), Dependency { range, line });
        }
        rest = &rest[end..];
    }
    // What comes from a parent stands there.
    let open = text.contains("<parent>");
    let name = None;
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Jvm, file: file.clone(), name, dependencies, open });
}

/// What stands between the first quotes after some words.
fn quoted_after<'t>(text: &'t str, words: &str) -> Option<(&'t str, usize)> {
    let at = text.find(words)? + words.len();
    let rest = &text[at..];
    let open = rest.find(['"', '\'']).filter(|open| *open < 24)?;
    let value = rest[open + 1..].split(['"', '\'']).next()?;
    Some((value, text[..at].matches('\n').count() + 1))
}

pub(super) fn gradle(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let digits = |words: &str| {
        let at = text.find(words)? + words.len();
        let number: String = text[at..]
            .chars()
            .skip_while(|c| matches!(c, '(' | ' ' | '=' | '.'))
            .take_while(char::is_ascii_digit)
            .collect();
        (!number.is_empty()).then(|| (number, text[..at].matches('\n').count() + 1))
    };
    for words in
        ["jvmToolchain", "JavaLanguageVersion.of", "JavaVersion.VERSION_", "jvmTarget = \"", "sourceCompatibility = \""]
    {
        if let Some((number, line)) = digits(words) {
            gathered.version("java", &number, file, line);
            break;
        }
    }
    if let Some((value, line)) =
        quoted_after(text, "kotlin(\"jvm\") version").or_else(|| quoted_after(text, "kotlin.jvm\") version"))
    {
        gathered.version("kotlin", value, file, line);
    }
    let (mut dependencies, mut names) = (BTreeMap::new(), BTreeMap::new());
    for (number, line) in text.lines().enumerate() {
        let value = line.split(['"', '\'']).nth(1).unwrap_or_default();
        let parts: Vec<&str> = value.split(':').collect();
        if let [group, artifact, ..] = parts[..]
            && group.contains('.')
        {
            let range = parts.get(2).map(|range| (*range).to_owned());
            dependencies.insert(format!("{group}:{artifact}"), Dependency { range, line: number + 1 });
        }
        for words in ["tasks.register", "tasks.create", "task "] {
            let Some(rest) = line.trim_start().strip_prefix(words) else { continue };
            let name = rest
                .split(['"', '\''])
                .nth(1)
                .unwrap_or_else(|| rest.split([' ', '(', '{']).next().unwrap_or_default());
            if !name.is_empty() && name.chars().all(char::is_alphanumeric) {
                names.insert(name.to_owned(), number + 1);
            }
        }
    }
    gathered.commands.push(Commands { tool: "gradle", file: file.clone(), names, open: false });
    let file = file.clone();
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Jvm, file, name: None, dependencies, open: true });
}

/// `gradle/libs.versions.toml`.
pub(super) fn catalogue(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(table) = toml(text) else { return };
    let versions = table.get("versions").and_then(Value::as_table);
    for (name, value) in versions.into_iter().flatten() {
        if let Some(value) = value.as_str() {
            gathered.version(&name.to_lowercase(), value, file, line_of_key(text, name));
        }
    }
    let mut dependencies = BTreeMap::new();
    for (name, value) in table.get("libraries").and_then(Value::as_table).into_iter().flatten() {
        let module = value.get("module").or(Some(value)).and_then(Value::as_str).unwrap_or_default();
        let parts: Vec<&str> = module.split(':').collect();
        if let [group, artifact, ..] = parts[..] {
            let range = parts.get(2).map(|range| (*range).to_owned());
            dependencies.insert(format!("{group}:{artifact}"), Dependency { range, line: line_of_key(text, name) });
        }
    }
    let file = file.clone();
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Jvm, file, name: None, dependencies, open: false });
}

pub(super) fn sbt(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    if let Some((value, line)) = quoted_after(text, "scalaVersion") {
        gathered.version("scala", value, file, line);
    }
    let mut dependencies = BTreeMap::new();
    for (number, line) in text.lines().enumerate().filter(|(_, line)| line.contains('%')) {
        let mut values = line.split('"').skip(1).step_by(2);
        if let (Some(group), Some(artifact)) = (values.next(), values.next()) {
            let range = values.next().map(str::to_owned);
            dependencies.insert(format!("{group}:{artifact}"), Dependency { range, line: number + 1 });
        }
    }
    let file = file.clone();
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Jvm, file, name: None, dependencies, open: true });
}
