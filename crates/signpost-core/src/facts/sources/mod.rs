//! The files that state something: which there are, and a file for each kind that reads them.

mod cargo;
mod editorconfig;
pub(super) mod formats;
mod go;
pub(super) mod javascript;
mod jvm;
pub(super) mod lock;
mod others;
mod python;
mod runners;
pub mod style;
mod tasks;
mod toolchain;

use super::model::{Commands, Ecosystem, ManagerFact, Manifest, Source, VersionFact};
use super::version;
use crate::base::repo_path::RepoPath;
use lock::LockKind;
use style::StyleFact;

/// What is gathered while files are read.
#[derive(Default)]
pub(super) struct Gathered {
    pub manifests: Vec<Manifest>,
    pub commands: Vec<Commands>,
    pub versions: Vec<VersionFact>,
    pub managers: Vec<ManagerFact>,
    pub styles: Vec<StyleFact>,
    pub locks: Vec<(RepoPath, &'static LockKind)>,
}

pub(super) type Read = fn(&RepoPath, &str, &mut Gathered);

/// The files that state something, and what reads them.
pub(super) const SOURCES: &[(&str, Read)] = &[
    (".editorconfig", editorconfig::read),
    ("Cargo.toml", cargo::manifest),
    ("config.toml", cargo::config),
    ("rustfmt.toml", style::rustfmt),
    (".rustfmt.toml", style::rustfmt),
    ("rust-toolchain", toolchain::rust_plain),
    ("rust-toolchain.toml", toolchain::rust),
    ("package.json", javascript::manifest),
    ("pnpm-workspace.yaml", javascript::pnpm_workspace),
    (".prettierrc", style::prettier),
    (".prettierrc.json", style::prettier),
    (".prettierrc.yaml", style::prettier),
    (".prettierrc.yml", style::prettier),
    (".prettierrc.toml", style::prettier),
    ("biome.json", style::biome),
    ("biome.jsonc", style::biome),
    ("dprint.json", style::dprint),
    ("deno.json", javascript::deno),
    ("pyproject.toml", python::pyproject),
    ("requirements.txt", python::requirements),
    ("requirements-dev.txt", python::requirements),
    ("setup.cfg", python::setup_cfg),
    ("setup.py", python::setup_py),
    ("Pipfile", python::pipfile),
    ("ruff.toml", style::ruff),
    (".ruff.toml", style::ruff),
    (".flake8", style::flake8),
    ("tox.ini", runners::tox),
    ("noxfile.py", runners::nox),
    ("Taskfile.yml", runners::task),
    ("Taskfile.yaml", runners::task),
    ("taskfile.yml", runners::task),
    ("pom.xml", jvm::maven),
    ("build.gradle", jvm::gradle),
    ("build.gradle.kts", jvm::gradle),
    ("libs.versions.toml", jvm::catalogue),
    ("build.sbt", jvm::sbt),
    ("global.json", others::global_json),
    ("Directory.Packages.props", others::dotnet),
    ("Gemfile", others::gemfile),
    ("composer.json", others::composer),
    ("pubspec.yaml", others::pubspec),
    ("Package.swift", others::swift),
    ("mix.exs", others::mix),
    ("CMakeLists.txt", others::cmake),
    ("CMakePresets.json", others::presets),
    ("vcpkg.json", others::vcpkg),
    ("Dockerfile", others::dockerfile),
    ("compose.yaml", others::compose),
    ("compose.yml", others::compose),
    ("docker-compose.yml", others::compose),
    ("docker-compose.yaml", others::compose),
    ("deno.jsonc", javascript::deno),
    ("go.mod", go::manifest),
    ("Makefile", tasks::make),
    ("makefile", tasks::make),
    ("GNUmakefile", tasks::make),
    ("justfile", tasks::just),
    ("Justfile", tasks::just),
    (".justfile", tasks::just),
    (".nvmrc", toolchain::node),
    (".node-version", toolchain::node),
    (".python-version", toolchain::python),
    (".ruby-version", toolchain::ruby),
    (".java-version", toolchain::java),
    (".go-version", toolchain::go),
    (".tool-versions", toolchain::tool_versions),
];

/// Files known by their endings.
const ENDINGS: &[(&str, Read)] = &[
    (".csproj", others::dotnet),
    (".fsproj", others::dotnet),
    (".vbproj", others::dotnet),
    (".tf", others::terraform),
];

/// What reads a file whose name is not known.
pub(super) fn by_ending(name: &str) -> Option<Read> {
    ENDINGS.iter().find(|(ending, _)| name.ends_with(ending)).map(|(_, read)| *read)
}

impl Gathered {
    /// A version that a file pins.
    fn version(&mut self, of: &str, stated: &str, file: &RepoPath, line: usize) {
        if let Some(span) = version::exact(stated) {
            let source = Source { file: file.clone(), line };
            self.versions.push(VersionFact { of: of.to_owned(), text: stated.to_owned(), span, exact: true, source });
        }
    }

    /// A range of versions.
    fn range(&mut self, of: &str, stated: &str, ecosystem: Ecosystem, file: &RepoPath, line: usize) {
        if let Some(span) = version::range(stated, ecosystem) {
            let source = Source { file: file.clone(), line };
            self.versions.push(VersionFact { of: of.to_owned(), text: stated.to_owned(), span, exact: false, source });
        }
    }
}
