//! What is stated: packages, commands, versions, package managers.

use super::version::Span;
pub use crate::base::ecosystem::Ecosystem;
use crate::base::repo_path::RepoPath;
use std::collections::BTreeMap;

/// A place that states something.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Source {
    /// The file.
    pub file: RepoPath,
    /// The line, from 1.
    pub line: usize,
}

/// A package that a manifest names.
#[derive(Clone, Debug)]
pub struct Dependency {
    /// The versions that it may have, as written.
    pub range: Option<String>,
    /// The line of the manifest.
    pub line: usize,
}

/// One manifest.
#[derive(Clone, Debug)]
pub struct Manifest {
    /// Whose packages it names.
    pub ecosystem: Ecosystem,
    /// The file.
    pub file: RepoPath,
    /// The package that it describes.
    pub name: Option<String>,
    /// The packages that it names.
    pub dependencies: BTreeMap<String, Dependency>,
    /// Whether it may name more than could be read.
    pub open: bool,
}

/// The commands that one file defines for one tool.
#[derive(Clone, Debug)]
pub struct Commands {
    /// `npm`, `make`, `just`, `cargo`, `poetry`.
    pub tool: &'static str,
    /// The file.
    pub file: RepoPath,
    /// The names with their lines.
    pub names: BTreeMap<String, usize>,
    /// Whether it may define more than could be read.
    pub open: bool,
}

/// A version that the repository states of something.
#[derive(Clone, Debug)]
pub struct VersionFact {
    /// Of what: `node`, `python`, `rust`, `go`, `edition`, or a package's name.
    pub of: String,
    /// The version or range, as written.
    pub text: String,
    /// The values that it takes.
    pub span: Span,
    /// How exact it is: a lockfile or toolchain file before a range.
    pub exact: bool,
    /// Where it stands.
    pub source: Source,
}

/// A package manager that the repository uses.
#[derive(Clone, Debug)]
pub struct ManagerFact {
    /// Whose packages.
    pub ecosystem: Ecosystem,
    /// Its name.
    pub name: String,
    /// Where that shows.
    pub source: Source,
}

/// One fact for people to read.
#[derive(Clone, Debug)]
pub struct Listed {
    /// `version`, `dependency`, `command`, `style`, `package manager`.
    pub kind: &'static str,
    /// Of what.
    pub name: String,
    /// What is stated.
    pub value: String,
    /// Where.
    pub source: Source,
}

impl Commands {
    /// How one of them is run.
    pub fn run_with(&self) -> &'static str {
        match self.tool {
            "npm" => "npm run",
            "deno" => "deno task",
            "poetry" => "run",
            "tox" => "tox -e",
            "nox" => "nox -s",
            "cmake" => "cmake --preset",
            "gradle" => "./gradlew",
            "hatch" => "hatch run",
            tool => tool,
        }
    }
}
