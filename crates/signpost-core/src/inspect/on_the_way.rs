//! What stands on the way to some files and is not read as it is meant: misnamed and misplaced files, and broken headers.

use crate::base::repo_path::{Location, RepoPath};
use crate::inspect::unclaimed::unclaimed;
use crate::profile::{Level, Profile};
use crate::project::workspace::{Project, Workspace};
use std::collections::BTreeSet;

/// A file that is not read as it is meant.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Trouble {
    /// The file.
    pub path: Location,
    /// What is wrong, in words.
    pub why: String,
}

/// Those on the way to some files, for some assistants, by path.
pub fn on_the_way(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
    files: &[RepoPath],
) -> Vec<Trouble> {
    let mut found = BTreeSet::new();
    let leads = |anchor: &RepoPath| files.iter().any(|file| file.is_in(anchor));
    for one in unclaimed(workspace, project, profiles) {
        if leads(&anchor_of(one.right().unwrap_or(&one.path))) {
            let why = format!("nobody reads it: {}", one.text(workspace.title_of(&one.assistant)));
            found.insert(Trouble { path: Location::root(one.path), why });
        }
    }
    for profile in profiles {
        for rule in workspace.rules(profile, project) {
            let here = rule.level != Level::Folder || leads(&rule.found.anchor.path);
            if let Some(problem) = rule.header.problems.first().filter(|_| here) {
                let line = rule.document.text[..problem.span.start].matches('\n').count() + 1;
                let why = format!("its header is broken in line {line}: {}", problem.message);
                found.insert(Trouble { path: rule.file().clone(), why });
            }
        }
    }
    found.into_iter().collect()
}

/// The folder that a file would be anchored at: above its first hidden folder, or its own.
fn anchor_of(path: &RepoPath) -> RepoPath {
    let folder = path.folder();
    let parts: Vec<&str> = folder.components().take_while(|part| !part.starts_with('.')).collect();
    RepoPath::new(&parts.join("/")).unwrap_or_default()
}
