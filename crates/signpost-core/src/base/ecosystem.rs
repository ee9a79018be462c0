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
    /// `pom.xml`, Gradle's and sbt's build files.
    Jvm,
    /// Project files and `Directory.Packages.props`.
    DotNet,
    /// `Gemfile`.
    Ruby,
    /// `composer.json`.
    Php,
    /// `pubspec.yaml`.
    Dart,
    /// `Package.swift`.
    Swift,
    /// `mix.exs`.
    Elixir,
    /// `vcpkg.json`.
    Cpp,
}

impl Ecosystem {
    /// The name for people.
    pub fn title(self) -> &'static str {
        match self {
            Ecosystem::JavaScript => "JavaScript",
            Ecosystem::Python => "Python",
            Ecosystem::Rust => "Rust",
            Ecosystem::Go => "Go",
            Ecosystem::Jvm => "JVM",
            Ecosystem::DotNet => ".NET",
            Ecosystem::Ruby => "Ruby",
            Ecosystem::Php => "PHP",
            Ecosystem::Dart => "Dart",
            Ecosystem::Swift => "Swift",
            Ecosystem::Elixir => "Elixir",
            Ecosystem::Cpp => "C++",
        }
    }
}
