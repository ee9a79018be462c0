//! `signpost.lock`: what publishing wrote last.
//!
//! A TOML file with one `[[file]]` table for each published file, sorted by path. A file that is as the lock
//! records it holds no words of its own: they are those of the guidance rules it was made from.

use crate::config::{ConfigError, parse_toml};
use crate::text::{toml_list, toml_text};
use crate::workspace::LOCK_FILE;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};

/// The lock.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Lock {
    /// What was published.
    pub file: Vec<LockedFile>,
}

/// One published file.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct LockedFile {
    /// Where it stands, from the root.
    pub path: String,
    /// The hash of its bytes, as [`hash`] writes it.
    pub hash: String,
    /// The hash that it had before, while publishing is under way: a run that was killed left either.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub was: Option<String>,
    /// The assistants that it was written for.
    pub assistants: Vec<String>,
    /// The guidance rules that it was made from.
    pub sources: Vec<String>,
}

impl Lock {
    /// Reads a lock.
    ///
    /// # Errors
    /// It is not what publishing writes.
    pub fn parse(text: &str) -> Result<Self, Box<ConfigError>> {
        parse_toml(LOCK_FILE, text).map_err(|mut error| {
            // Merging two branches may leave it in pieces.
            let way = "take the file of either branch, or delete it: files that are as publishing would write them are known again";
            let help = error.help.take().map(|help| format!("{help}; ")).unwrap_or_default();
            error.help = Some(format!("{help}{way}"));
            error
        })
    }

    /// The lock as it is written: a remark, then one table a file, by path.
    pub fn to_text(&self) -> String {
        let mut out = String::from("# What `signpost publish` wrote last. Commit it; it is not to be edited.\n");
        for file in &self.file {
            out += &format!("\n[[file]]\npath = {}\nhash = {}\n", toml_text(&file.path), toml_text(&file.hash));
            if let Some(was) = &file.was {
                out += &format!("was = {}\n", toml_text(was));
            }
            out += &format!("assistants = {}\nsources = {}\n", toml_list(&file.assistants), toml_list(&file.sources));
        }
        out
    }

    /// Whether a file is as it was published.
    pub fn records(&self, path: &str, bytes: &[u8]) -> bool {
        self.file.iter().any(|file| file.path == path && file.hash == hash(bytes))
    }
}

/// `sha256:` and 64 hexadecimal digits.
pub fn hash(bytes: &[u8]) -> String {
    let digest = Sha256::digest(bytes);
    digest.iter().fold(String::from("sha256:"), |text, byte| text + &format!("{byte:02x}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_lock_knows_its_files() {
        let text = format!("[[file]]\npath = \"AGENTS.md\"\nhash = \"{}\"\n", hash(b"x"));
        let lock = Lock::parse(&text).unwrap();
        assert!(lock.records("AGENTS.md", b"x"));
        assert!(!lock.records("AGENTS.md", b"y"));
        assert_eq!(hash(b""), "sha256:e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
        assert!(Lock::parse("[[fil]]\n").is_err());
    }
}
