//! Values that everything else is made of: paths, places in a text, words about them, tokens, languages.

pub mod ecosystem;
pub mod language;
pub mod own_files;
pub mod repo_path;
pub mod tokens;
pub mod toml_file;
pub mod wording;
