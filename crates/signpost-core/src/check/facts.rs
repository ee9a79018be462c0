//! What rules say against what the repository states.

pub(super) mod absent_dependency;
pub(super) mod missing_command;
pub(super) mod missing_path;
pub(super) mod other_package_manager;
pub(super) mod review_due;
pub(super) mod style_mismatch;
mod style_words;
pub(super) mod version_mismatch;

use super::text::Text;
use crate::base::repo_path::RepoPath;
use crate::facts::Source;

/// `kiosk/package.json:5`.
fn place(source: &Source) -> String {
    format!("{}:{}", source.file, source.line)
}

/// The folder that a text speaks of: its own or, for a note in a hidden folder and for guidance, the one that it is
/// anchored at.
fn own_folder(text: &Text) -> RepoPath {
    let plain = |base: &&RepoPath| !base.components().any(|part| part.starts_with('.') || part == "guidance");
    text.bases.iter().filter(plain).max_by_key(|base| base.depth()).cloned().unwrap_or_else(RepoPath::root)
}
