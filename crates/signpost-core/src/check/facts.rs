//! What rules say against what the repository states.

pub(super) mod absent_dependency;
pub(super) mod missing_command;
pub(super) mod missing_path;
pub(super) mod other_package_manager;
pub(super) mod review_due;
pub(super) mod style_mismatch;
pub(super) mod version_mismatch;

use crate::facts::Source;

/// `kiosk/package.json:5`.
fn place(source: &Source) -> String {
    format!("{}:{}", source.file, source.line)
}
