//! The files that state something: which there are, and a file for each kind that reads them.

mod cargo;
mod editorconfig;
pub(super) mod formats;
mod go;
pub(super) mod javascript;
pub(super) mod lock;
mod python;
pub mod style;
mod tasks;
mod toolchain;

use super::model::{Commands, ManagerFact, Manifest, VersionFact};
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
    ("tox.ini", style::flake8),
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
