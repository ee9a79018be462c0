//! Manifests of other ecosystems, each as plain as its format lets it: .NET, Ruby, PHP, Dart, Swift, Elixir, C++, and
//! versions of infrastructure.
//!
//! Formats: <https://learn.microsoft.com/dotnet/core/tools/global-json>, <https://bundler.io/man/gemfile.5.html>,
//! <https://getcomposer.org/doc/04-schema.md>, <https://dart.dev/tools/pub/pubspec>,
//! <https://docs.swift.org/package-manager/>, <https://hexdocs.pm/mix/Mix.Project.html>,
//! <https://cmake.org/cmake/help/latest/manual/cmake-presets.7.html>, <https://developer.hashicorp.com/terraform/language>.

use super::Gathered;
use super::formats::{json, line_of_key, line_with};
use crate::base::repo_path::RepoPath;
use crate::facts::model::{Commands, Dependency, Ecosystem, Manifest};
use serde_json::Value;
use std::collections::BTreeMap;

type Dependencies = BTreeMap<String, Dependency>;

fn manifest(ecosystem: Ecosystem, file: &RepoPath, dependencies: Dependencies, open: bool, gathered: &mut Gathered) {
    gathered.manifests.push(Manifest { ecosystem, file: file.clone(), name: None, dependencies, open });
}

/// The values between quotes of a line.
fn quoted(line: &str) -> impl Iterator<Item = &str> {
    let quote = if line.contains('"') { '"' } else { '\'' };
    line.split(quote).skip(1).step_by(2)
}

pub(super) fn global_json(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let value = json(text).unwrap_or_default();
    if let Some(version) = value.pointer("/sdk/version").and_then(Value::as_str) {
        gathered.version(".net", version, file, line_of_key(text, "version"));
    }
}

/// Project files, and the central list of versions.
pub(super) fn dotnet(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut dependencies = Dependencies::new();
    for start in ["<PackageReference", "<PackageVersion", "<GlobalPackageReference"] {
        for (at, _) in text.match_indices(start) {
            let element = text[at..].split('>').next().unwrap_or_default();
            let attribute = |name: &str| {
                let at = element.find(&format!("{name}=\""))? + name.len() + 2;
                element[at..].split('"').next()
            };
            if let Some(name) = attribute("Include").or_else(|| attribute("Update")) {
                let line = text[..at].matches('\n').count() + 1;
                dependencies
                    .insert(name.to_owned(), Dependency { range: attribute("Version").map(str::to_owned), line });
            }
        }
    }
    manifest(Ecosystem::DotNet, file, dependencies, false, gathered);
}

pub(super) fn gemfile(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut dependencies = Dependencies::new();
    let mut open = false;
    for (number, line) in text.lines().enumerate() {
        let line = line.trim();
        open |= line.starts_with("gemspec") || line.starts_with("eval_gemfile");
        if let Some(rest) = line.strip_prefix("ruby ") {
            let stated = quoted(rest).next().unwrap_or_default();
            gathered.version("ruby", stated.trim_start_matches(|c: char| !c.is_ascii_digit()), file, number + 1);
        } else if line.starts_with("gem ") {
            let mut values = quoted(line);
            if let Some(name) = values.next() {
                let range =
                    values.next().filter(|range| range.contains(|c: char| c.is_ascii_digit())).map(str::to_owned);
                dependencies.insert(name.to_owned(), Dependency { range, line: number + 1 });
            }
        }
    }
    manifest(Ecosystem::Ruby, file, dependencies, open, gathered);
}

pub(super) fn composer(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(value) = json(text) else { return };
    let mut dependencies = Dependencies::new();
    for key in ["require", "require-dev"] {
        for (name, range) in value.get(key).and_then(Value::as_object).into_iter().flatten() {
            let (range, line) = (range.as_str().map(str::to_owned), line_of_key(text, name));
            if name == "php" {
                gathered.range("php", range.as_deref().unwrap_or_default(), Ecosystem::Php, file, line);
            } else {
                dependencies.insert(name.clone(), Dependency { range, line });
            }
        }
    }
    let names = value.get("scripts").and_then(Value::as_object).into_iter().flatten();
    let names = names.map(|(name, _)| (name.clone(), line_of_key(text, name))).collect();
    gathered.commands.push(Commands { tool: "composer", file: file.clone(), names, open: false });
    manifest(Ecosystem::Php, file, dependencies, false, gathered);
}

pub(super) fn pubspec(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut dependencies = Dependencies::new();
    let mut section = "";
    for (number, line) in text.lines().enumerate() {
        let Some((key, value)) = line.split_once(':') else { continue };
        let value = value.trim().trim_matches(['"', '\'']);
        if !line.starts_with(' ') {
            section = key.trim();
        } else if line.starts_with("  ") && !line.starts_with("   ") {
            let key = key.trim();
            match section {
                "dependencies" | "dev_dependencies" => {
                    let range = (!value.is_empty()).then(|| value.to_owned());
                    dependencies.insert(key.to_owned(), Dependency { range, line: number + 1 });
                }
                "environment" if key == "sdk" => gathered.range("dart", value, Ecosystem::Dart, file, number + 1),
                "environment" if key == "flutter" => {
                    gathered.range("flutter", value, Ecosystem::Dart, file, number + 1)
                }
                _ => {}
            }
        }
    }
    manifest(Ecosystem::Dart, file, dependencies, false, gathered);
}

pub(super) fn swift(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let first = text.lines().next().unwrap_or_default();
    if let Some((_, version)) = first.split_once("swift-tools-version:") {
        gathered.version("swift", version.trim(), file, 1);
    }
    let mut dependencies = Dependencies::new();
    for (at, _) in text.match_indices(".package(") {
        let call = text[at..].split(')').next().unwrap_or_default();
        if let Some(url) = quoted(call).next() {
            let name = url.rsplit('/').next().unwrap_or(url).trim_end_matches(".git");
            let line = text[..at].matches('\n').count() + 1;
            dependencies.insert(name.to_owned(), Dependency { range: None, line });
        }
    }
    manifest(Ecosystem::Swift, file, dependencies, true, gathered);
}

pub(super) fn mix(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let (mut dependencies, mut names) = (Dependencies::new(), BTreeMap::new());
    let mut in_aliases = false;
    for (number, line) in text.lines().enumerate() {
        let words = line.trim();
        if let Some(rest) = words.split_once("elixir:").map(|(_, rest)| rest) {
            gathered.range("elixir", quoted(rest).next().unwrap_or_default(), Ecosystem::Elixir, file, number + 1);
        }
        if words.starts_with("defp ") || words.starts_with("def ") {
            in_aliases = words.contains("aliases");
        }
        for part in words.split('{').skip(1) {
            let Some(name) = part.trim_start().strip_prefix(':').and_then(|rest| rest.split([',', '}']).next()) else {
                continue;
            };
            let range = quoted(part).next().map(str::to_owned);
            dependencies.insert(name.trim().to_owned(), Dependency { range, line: number + 1 });
        }
        if in_aliases {
            let mut depth = 0usize;
            for part in words.split_inclusive([',', '[', ']']) {
                let name = part.trim_start_matches(['[', ' ']).split(": [").next().unwrap_or_default();
                let name = name.split(':').next().unwrap_or_default().trim().trim_matches('"');
                if depth < 2
                    && part.contains(':')
                    && !name.is_empty()
                    && name.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '.'))
                {
                    names.entry(name.to_owned()).or_insert(number + 1);
                }
                depth = depth + part.matches('[').count() - part.matches(']').count().min(depth);
            }
        }
    }
    gathered.commands.push(Commands { tool: "mix", file: file.clone(), names, open: false });
    manifest(Ecosystem::Elixir, file, dependencies, false, gathered);
}

pub(super) fn cmake(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    for (words, of) in [("CMAKE_CXX_STANDARD ", "c++"), ("CMAKE_C_STANDARD ", "c")] {
        if let Some(at) = text.find(words) {
            let number: String =
                text[at + words.len()..].trim_start().chars().take_while(char::is_ascii_digit).collect();
            gathered.version(of, &number, file, text[..at].matches('\n').count() + 1);
        }
    }
}

pub(super) fn presets(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(value) = json(text) else { return };
    let mut names = BTreeMap::new();
    for kind in ["configurePresets", "buildPresets", "testPresets", "workflowPresets"] {
        for preset in value.get(kind).and_then(Value::as_array).into_iter().flatten() {
            if let Some(name) = preset.get("name").and_then(Value::as_str) {
                names.insert(name.to_owned(), line_with(text, &format!("\"{name}\"")));
            }
        }
    }
    let open = value.get("include").is_some();
    gathered.commands.push(Commands { tool: "cmake", file: file.clone(), names, open });
}

pub(super) fn vcpkg(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(value) = json(text) else { return };
    let named = |one: &Value| one.as_str().or_else(|| one.get("name").and_then(Value::as_str)).map(str::to_owned);
    let all = value.get("dependencies").and_then(Value::as_array).into_iter().flatten().filter_map(named);
    let dependencies = all
        .map(|name| {
            let line = line_with(text, &format!("\"{name}\""));
            (name, Dependency { range: None, line })
        })
        .collect();
    manifest(Ecosystem::Cpp, file, dependencies, false, gathered);
}

pub(super) fn terraform(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    for (number, line) in text.lines().enumerate() {
        if line.trim_start().starts_with("required_version") {
            gathered.range("terraform", quoted(line).next().unwrap_or_default(), Ecosystem::Ruby, file, number + 1);
        }
    }
}

/// The version of an image's tag: `postgres:16-alpine`.
fn image(name: &str, file: &RepoPath, line: usize, gathered: &mut Gathered) {
    let Some((name, tag)) = name.trim().trim_matches(['"', '\'']).rsplit_once(':') else { return };
    let of = match name.rsplit('/').next().unwrap_or(name) {
        "postgres" | "postgis" => "postgresql",
        "golang" => "go",
        "openjdk" | "eclipse-temurin" => "java",
        other => other,
    };
    let known = [
        "postgresql", "python", "node", "ruby", "go", "java", "php", "redis", "mysql", "mariadb", "mongo", "elixir",
        "rust",
    ];
    if known.contains(&of) {
        gathered.version(of, tag.split('-').next().unwrap_or(tag), file, line);
    }
}

pub(super) fn dockerfile(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    for (number, line) in text.lines().enumerate() {
        if let Some(rest) = line.strip_prefix("FROM ") {
            image(
                rest.split_whitespace().find(|word| !word.starts_with("--")).unwrap_or_default(),
                file,
                number + 1,
                gathered,
            );
        }
    }
}

pub(super) fn compose(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    for (number, line) in text.lines().enumerate() {
        if let Some(rest) = line.trim_start().strip_prefix("image:") {
            image(rest, file, number + 1, gathered);
        }
    }
}
