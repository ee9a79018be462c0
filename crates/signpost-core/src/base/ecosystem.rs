//! Families of packages.

/// A family of packages.
#[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Debug)]
pub enum Ecosystem {
    /// `package.json`.
    JavaScript,
    /// `pyproject.toml`, `requirements.txt`, `setup.cfg`, `Pipfile`.
    Python,
    /// `Cargo.toml`.
    Rust,
    /// `go.mod`.
    Go,
}

impl Ecosystem {
    /// The name for people.
    pub fn title(self) -> &'static str {
        match self {
            Ecosystem::JavaScript => "JavaScript",
            Ecosystem::Python => "Python",
            Ecosystem::Rust => "Rust",
            Ecosystem::Go => "Go",
        }
    }
}
