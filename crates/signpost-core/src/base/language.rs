//! Languages and file kinds by the names that people write, and the endings of their files.

use crate::base::repo_path::RepoPath;

/// A language or file kind.
#[derive(Debug, PartialEq, Eq)]
pub struct Language {
    /// Its name in lower case.
    pub name: &'static str,
    /// Other names, in lower case.
    pub also: &'static [&'static str],
    /// The endings of its files, without the dot; a name without an ending where there is none.
    pub endings: &'static [&'static str],
    /// Whether its name is an ordinary word too, so that only the capital tells them apart.
    pub is_word: bool,
}

const fn language(name: &'static str, also: &'static [&'static str], endings: &'static [&'static str]) -> Language {
    Language { name, also, endings, is_word: false }
}

const fn word(name: &'static str, also: &'static [&'static str], endings: &'static [&'static str]) -> Language {
    Language { name, also, endings, is_word: true }
}

/// All that are known.
pub const LANGUAGES: &[Language] = &[
    language("rust", &[], &["rs"]),
    language("python", &["py"], &["py", "pyi"]),
    language("typescript", &["ts"], &["ts", "tsx", "mts", "cts"]),
    language("javascript", &["js"], &["js", "jsx", "mjs", "cjs"]),
    word("go", &["golang"], &["go"]),
    language("java", &[], &["java"]),
    language("kotlin", &[], &["kt", "kts"]),
    word("swift", &[], &["swift"]),
    language("ruby", &[], &["rb"]),
    language("php", &[], &["php"]),
    word("c", &[], &["c", "h"]),
    language("c++", &["cpp"], &["cpp", "cc", "cxx", "hpp", "hh"]),
    language("c#", &["csharp"], &["cs"]),
    language("sql", &[], &["sql"]),
    language("css", &["scss", "stylesheet", "stylesheets"], &["css", "scss", "less"]),
    language("html", &[], &["html", "htm"]),
    language("markdown", &[], &["md", "markdown", "mdx"]),
    language("bash", &["shell script", "shell scripts"], &["sh", "bash"]),
    language("yaml", &["yml"], &["yaml", "yml"]),
    language("toml", &[], &["toml"]),
    language("json", &[], &["json", "jsonc"]),
    language("makefile", &["makefiles"], &["Makefile", "mk"]),
    language("dockerfile", &["dockerfiles"], &["Dockerfile"]),
    language("vue", &[], &["vue"]),
    language("svelte", &[], &["svelte"]),
    language("scala", &[], &["scala"]),
    language("elixir", &[], &["ex", "exs"]),
    language("haskell", &[], &["hs"]),
    language("lua", &[], &["lua"]),
    language("dart", &[], &["dart"]),
    language("terraform", &[], &["tf"]),
    language("graphql", &[], &["graphql", "gql"]),
];

/// Whether files of that ending hold code rather than words or settings.
pub fn is_code(ending: &str) -> bool {
    let others = ["markdown", "yaml", "toml", "json"];
    LANGUAGES.iter().any(|one| !others.contains(&one.name) && one.endings.contains(&ending))
}

/// Nobody thinks of a file of this oddness first.
pub const MOST_ODD: u8 = 2;

/// How unlikely it is that somebody thinks of a file when asked for an example: code is thought of before pages and
/// settings, and those before hidden files, lists of owners and lockfiles.
pub fn oddness(path: &RepoPath) -> u8 {
    let hidden = path.folder().components().any(|part| part.starts_with('.'));
    if hidden { MOST_ODD } else { oddness_of_name(path.name()) }
}

/// The same of a file in a folder that is not hidden.
pub fn oddness_of_name(name: &str) -> u8 {
    let ending = name.rsplit_once('.').map_or("", |(stem, ending)| if stem.is_empty() { "" } else { ending });
    if ending.is_empty() || name.starts_with('.') || ending == "lock" || name.contains("-lock.") {
        return MOST_ODD;
    }
    u8::from(!is_code(ending))
}

/// The number in [`LANGUAGES`] of the language of that name, in lower case.
pub fn number(name: &str) -> Option<usize> {
    LANGUAGES.iter().position(|one| one.name == name || one.also.contains(&name))
}

/// The language of that name, in lower case.
pub fn by_name(name: &str) -> Option<&'static Language> {
    number(name).map(|number| &LANGUAGES[number])
}

/// The language of files with that ending (without the dot), or of that whole name.
pub fn by_ending(ending: &str) -> Option<&'static Language> {
    LANGUAGES.iter().find(|one| one.endings.contains(&ending))
}
