//! The only path type inside the core: a path relative to the root of the project (or to the home
//! folder), always with `/`, never with `..`.
//!
//! What a person typed is turned into a [`RepoPath`] at the edge, by the binary; what a person reads
//! is rendered from a [`Location`].
//!
//! ```
//! use signpost_core::base::repo_path::RepoPath;
//! let path = RepoPath::new("./kiosk//screens/home.ts").unwrap();
//! assert_eq!(path.as_str(), "kiosk/screens/home.ts");
//! assert_eq!(path.folder().as_str(), "kiosk/screens");
//! assert!(RepoPath::new("../elsewhere").is_none());
//! ```

use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::fmt;

/// A path below the root, with `/` between its components. The empty path is the root itself.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct RepoPath(Box<str>);

impl RepoPath {
    /// The root itself.
    pub fn root() -> Self {
        RepoPath::default()
    }

    /// Tidies `text` (`.` components, doubled and trailing slashes). `None` where it is absolute or
    /// climbs above the root.
    pub fn new(text: &str) -> Option<Self> {
        if text.starts_with('/') {
            return None;
        }
        RepoPath::root().resolve(text)
    }

    /// Follows `text` from this folder, `..` included. `None` where that climbs above the root.
    pub fn resolve(&self, text: &str) -> Option<Self> {
        let mut parts: Vec<&str> = self.components().collect();
        for part in text.split('/') {
            match part {
                "" | "." => {}
                ".." => {
                    parts.pop()?;
                }
                name => parts.push(name),
            }
        }
        Some(RepoPath(parts.join("/").into()))
    }

    /// This folder's entry `name`, which may itself hold slashes but is already tidy.
    pub fn join(&self, name: &str) -> Self {
        match (self.is_root(), name.is_empty()) {
            (true, _) => RepoPath(name.into()),
            (_, true) => self.clone(),
            _ => RepoPath(format!("{}/{name}", self.0).into()),
        }
    }

    /// The text, without a leading or trailing slash.
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// Whether this is the root.
    pub fn is_root(&self) -> bool {
        self.0.is_empty()
    }

    /// The components from the top down; none for the root.
    pub fn components(&self) -> impl Iterator<Item = &str> {
        self.0.split('/').filter(|part| !part.is_empty())
    }

    /// How many folders deep: 0 for the root.
    pub fn depth(&self) -> usize {
        self.components().count()
    }

    /// The last component; empty for the root.
    pub fn name(&self) -> &str {
        self.0.rsplit('/').next().unwrap_or_default()
    }

    /// The folder that this path stands in; the root's is the root.
    pub fn folder(&self) -> Self {
        match self.0.rsplit_once('/') {
            Some((folder, _)) => RepoPath(folder.into()),
            None => RepoPath::root(),
        }
    }

    /// This folder and every folder above it, the root first.
    pub fn way(&self) -> Vec<RepoPath> {
        let mut way = vec![RepoPath::root()];
        way.extend(self.0.match_indices('/').map(|(at, _)| RepoPath(self.0[..at].into())));
        if !self.is_root() {
            way.push(self.clone());
        }
        way
    }

    /// The part below `folder`; `None` where this path is not below it (or is it).
    pub fn below(&self, folder: &RepoPath) -> Option<&str> {
        if folder.is_root() {
            return (!self.is_root()).then_some(self.as_str());
        }
        self.0.strip_prefix(folder.as_str())?.strip_prefix('/')
    }

    /// The deepest folder that both paths are in.
    pub fn common(&self, other: &RepoPath) -> RepoPath {
        let same = self.components().zip(other.components()).take_while(|(a, b)| a == b).map(|(a, _)| a);
        RepoPath(same.collect::<Vec<_>>().join("/").into())
    }

    /// Whether this path is `folder` or below it.
    pub fn is_in(&self, folder: &RepoPath) -> bool {
        self == folder || self.below(folder).is_some()
    }
}

impl fmt::Display for RepoPath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(if self.is_root() { "." } else { &self.0 })
    }
}

impl Serialize for RepoPath {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.as_str())
    }
}

impl<'de> Deserialize<'de> for RepoPath {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = String::deserialize(deserializer)?;
        RepoPath::new(&text)
            .filter(|path| path.as_str() == text)
            .ok_or_else(|| serde::de::Error::custom(format!("`{text}` is no path in the project")))
    }
}

impl fmt::Debug for RepoPath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{self}")
    }
}

/// What a path counts from.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Side {
    /// The home folder.
    Home,
    /// The root of the project.
    Root,
}

/// A file or folder of the project, or of the home folder.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct Location {
    /// What the path counts from.
    pub side: Side,
    /// The path from there.
    pub path: RepoPath,
}

impl Location {
    /// A place in the project.
    pub fn root(path: RepoPath) -> Self {
        Location { side: Side::Root, path }
    }

    /// A place in the home folder.
    pub fn home(path: RepoPath) -> Self {
        Location { side: Side::Home, path }
    }

    /// The entry `name` of this folder.
    pub fn join(&self, name: &str) -> Self {
        Location { side: self.side, path: self.path.join(name) }
    }

    /// The folder this stands in.
    pub fn folder(&self) -> Self {
        Location { side: self.side, path: self.path.folder() }
    }

    /// The path in the project; `None` for what lies in the home folder.
    pub fn in_root(&self) -> Option<&RepoPath> {
        (self.side == Side::Root).then_some(&self.path)
    }
}

impl fmt::Display for Location {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.side {
            Side::Root => self.path.fmt(f),
            Side::Home => write!(f, "~/{}", self.path.as_str()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_way_leads_from_the_root_to_the_folder() {
        let way: Vec<String> = RepoPath::new("a/b/c").unwrap().way().iter().map(|p| p.to_string()).collect();
        assert_eq!(way, [".", "a", "a/b", "a/b/c"]);
        assert_eq!(RepoPath::root().way(), [RepoPath::root()]);
    }

    #[test]
    fn below_does_not_take_a_longer_name_for_a_folder() {
        let path = RepoPath::new("kiosk-old/a.ts").unwrap();
        assert_eq!(path.below(&RepoPath::new("kiosk").unwrap()), None);
        assert_eq!(path.below(&RepoPath::root()), Some("kiosk-old/a.ts"));
    }

    #[test]
    fn climbing_out_is_refused() {
        let folder = RepoPath::new("a/b").unwrap();
        assert_eq!(folder.resolve("../c").unwrap().as_str(), "a/c");
        assert!(folder.resolve("../../..").is_none());
        assert!(RepoPath::new("/etc/passwd").is_none());
    }
}
