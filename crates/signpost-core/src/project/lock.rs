//! `signpost.lock`: what publishing wrote last.
//!
//! A TOML file with one `[[file]]` table for each published file, sorted by path. A file that is as the lock
//! records it holds no words of its own: they are those of the guidance rules it was made from.

use crate::base::own_files::LOCK_FILE;
use crate::base::repo_path::RepoPath;
use crate::base::toml_file::{ConfigError, parse_toml};
use crate::base::wording::{toml_list, toml_text};
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::borrow::Cow;

/// The lock.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Lock {
    /// Whether adopting found that publishing would tell somebody something else, and nobody has said yet that it is meant.
    pub unconfirmed: bool,
    /// Files in the places of assistants that adopting left as they are.
    pub left: Vec<RepoPath>,
    /// What was published.
    pub file: Vec<LockedFile>,
}

/// One published file.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct LockedFile {
    /// Where it stands, from the root.
    pub path: RepoPath,
    /// The hash of its bytes, as [`hash`] writes it.
    pub hash: String,
    /// The hash that it had before, while publishing is under way: a run that was killed left either.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub was: Option<String>,
    /// The assistants that it was written for.
    pub assistants: Vec<String>,
    /// The guidance rules that it was made from.
    pub sources: Vec<RepoPath>,
}

impl LockedFile {
    /// Whether a file with these bytes is as it was published. Line ends and a byte-order mark alone are no edit: version
    /// control changes the ones from one checkout to the next, and editors the other.
    pub fn is(&self, bytes: &[u8]) -> bool {
        let known = |own: &str| self.hash == own || self.was.as_deref() == Some(own);
        let unmarked = bytes.strip_prefix("\u{feff}".as_bytes());
        known(&hash(bytes))
            || bytes.contains(&b'\r') && known(&hash(&without_carriage_returns(bytes)))
            || unmarked.is_some_and(|bytes| known(&hash(&without_carriage_returns(bytes))))
    }
}

/// A text with `\n` for every `\r\n`.
pub fn without_carriage_returns(bytes: &[u8]) -> Cow<'_, [u8]> {
    if !bytes.windows(2).any(|pair| pair == b"\r\n") {
        return Cow::Borrowed(bytes);
    }
    let mut plain = Vec::with_capacity(bytes.len());
    let mut rest = bytes.iter().copied().peekable();
    while let Some(byte) = rest.next() {
        if byte != b'\r' || rest.peek() != Some(&b'\n') {
            plain.push(byte);
        }
    }
    Cow::Owned(plain)
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
        if self.unconfirmed {
            out += "unconfirmed = true\n";
        }
        if !self.left.is_empty() {
            let left: Vec<String> = self.left.iter().map(|path| path.as_str().to_owned()).collect();
            out += &format!("left = {}\n", toml_list(&left));
        }
        for file in &self.file {
            out += &format!("\n[[file]]\npath = {}\nhash = {}\n", toml_text(file.path.as_str()), toml_text(&file.hash));
            if let Some(was) = &file.was {
                out += &format!("was = {}\n", toml_text(was));
            }
            let sources: Vec<String> = file.sources.iter().map(|path| path.as_str().to_owned()).collect();
            out += &format!("assistants = {}\nsources = {}\n", toml_list(&file.assistants), toml_list(&sources));
        }
        out
    }

    /// Whether a file is as it was published.
    pub fn records(&self, path: &RepoPath, bytes: &[u8]) -> bool {
        self.of(path).is_some_and(|file| file.is(bytes))
    }

    /// All that was published, by path: for who asks about many files.
    pub fn by_path(&self) -> FxHashMap<&RepoPath, &LockedFile> {
        self.file.iter().map(|file| (&file.path, file)).collect()
    }

    /// What was published there.
    pub fn of(&self, path: &RepoPath) -> Option<&LockedFile> {
        self.file.iter().find(|file| file.path == *path)
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
        let path = RepoPath::new("AGENTS.md").unwrap();
        assert!(lock.records(&path, b"x"));
        assert!(!lock.records(&path, b"y"));
        assert!(!lock.records(&RepoPath::new("agents.md").unwrap(), b"x"));
        assert_eq!(hash(b""), "sha256:e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
        assert!(Lock::parse("[[fil]]\n").is_err());
    }

    #[test]
    fn a_lock_that_leads_out_of_the_project_is_refused_at_its_line() {
        for path in ["../AGENTS.md", "/etc/passwd", "a/../b", "./a", "a//b"] {
            let error = Lock::parse(&format!("[[file]]\npath = \"{path}\"\n")).unwrap_err();
            assert!(error.message.contains(&format!("`{path}` is no path in the project")), "{error:?}");
            assert_eq!(error.at.line, 2, "{error:?}");
        }
    }

    #[test]
    fn what_is_written_reads_back() {
        let path = |text: &str| RepoPath::new(text).unwrap();
        let file = LockedFile {
            path: path("a \"b\"/c.md"),
            hash: hash(b"new"),
            was: Some(hash(b"old")),
            assistants: vec!["oddwick".into(), "brindle".into()],
            sources: vec![path("guidance/rules/a.md")],
        };
        let lock = Lock {
            unconfirmed: true,
            left: vec![path("e f.md")],
            file: vec![file.clone(), LockedFile { was: None, path: path("d"), ..file }],
        };
        assert_eq!(Lock::parse(&lock.to_text()).unwrap(), lock);
        assert!(lock.file[0].is(b"old") && lock.file[0].is(b"new") && !lock.file[1].is(b"old"));
    }
}
