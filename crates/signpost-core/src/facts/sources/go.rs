//! `go.mod`. Format: <https://go.dev/ref/mod#go-mod-file>.

use super::Gathered;
use crate::base::repo_path::RepoPath;
use crate::facts::model::{Dependency, Ecosystem, Manifest, Source, VersionFact};
use crate::facts::version;
use std::collections::BTreeMap;

pub(super) fn manifest(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut dependencies = BTreeMap::new();
    let (mut name, mut inside) = (None, false);
    for (number, line) in text.lines().enumerate() {
        let words: Vec<&str> = line.split("//").next().unwrap_or_default().split_whitespace().collect();
        let line = number + 1;
        match &words[..] {
            ["module", path] => name = Some((*path).to_owned()),
            ["require", "("] => inside = true,
            [")"] => inside = false,
            ["require", path, stated] => {
                dependencies.insert((*path).to_owned(), Dependency { range: Some((*stated).to_owned()), line });
            }
            [path, stated] if inside => {
                dependencies.insert((*path).to_owned(), Dependency { range: Some((*stated).to_owned()), line });
            }
            ["go" | "toolchain", stated] => {
                let stated = stated.trim_start_matches("go");
                if let Some(span) = version::exact(stated) {
                    let source = Source { file: file.clone(), line };
                    let exact = words[0] == "toolchain" || !text.contains("\ntoolchain ");
                    gathered.versions.push(VersionFact { of: "go".into(), text: stated.into(), span, exact, source });
                }
            }
            _ => {}
        }
    }
    gathered.manifests.push(Manifest { ecosystem: Ecosystem::Go, file: file.clone(), name, dependencies, open: false });
}
