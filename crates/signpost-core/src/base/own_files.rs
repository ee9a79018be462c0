//! The files that Signpost or version control keeps for itself, which no assistant's place owns.

use crate::base::repo_path::RepoPath;

/// The name of the settings file, which also marks the root.
pub const CONFIG_NAME: &str = "signpost.toml";
/// The file that records what publishing wrote.
pub const LOCK_FILE: &str = "signpost.lock";

/// Whether a path is Signpost's own or version control's, in whatever case, since some file systems know no other: what
/// stands in `guidance/` at the root, in the `guidance/rules/` of a part, `signpost.toml`, `signpost.lock`, `.git`. No
/// assistant's place owns it.
pub fn is_ours(path: &RepoPath) -> bool {
    let is = |part: &str, name: &str| part.eq_ignore_ascii_case(name);
    let mut before = "";
    for (at, part) in path.components().enumerate() {
        if is(part, ".git") || at == 0 && is(part, "guidance") || is(before, "guidance") && is(part, "rules") {
            return true;
        }
        before = part;
    }
    is(path.as_str(), CONFIG_NAME) || is(path.as_str(), LOCK_FILE)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn own_files_are_known_in_any_case() {
        let ours = |path: &str| is_ours(&RepoPath::new(path).unwrap());
        for path in [
            "guidance/rules/a.md", "Guidance/x", "web/guidance/rules/a.md", "SIGNPOST.toml", "signpost.lock",
            "a/.Git/x",
        ] {
            assert!(ours(path), "{path}");
        }
        for path in ["docs/guidance/a.md", "web/signpost.toml", "guidances/a.md", "rules/guidance.md", ".github/a.md"] {
            assert!(!ours(path), "{path}");
        }
    }
}
