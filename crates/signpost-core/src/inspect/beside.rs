//! Files beside published ones that the guidance does not know: somebody wrote into an assistant's folder, and the others
//! are not told.

use crate::base::repo_path::{Location, RepoPath};
use crate::files::Tree;
use crate::profile::{Kind, Level, Profile};
use crate::project::discovery::Finder;
use crate::project::lock::Lock;
use crate::project::workspace::{Project, Workspace};
use std::collections::{BTreeSet, HashSet};

/// Those of some assistants, by path. What adopting left where it is, one person's own files, bundles and roles are none.
pub fn beside(workspace: &Workspace<'_>, project: &Project, profiles: &[&Profile], lock: &Lock) -> Vec<RepoPath> {
    let mut found = BTreeSet::new();
    if lock.file.is_empty() {
        return Vec::new();
    }
    let known: HashSet<&RepoPath> = lock.file.iter().map(|file| &file.path).chain(&lock.left).collect();
    let finder = Finder::new(workspace.tree(), None);
    for (profile, candidates) in workspace.profiles.iter().zip(&project.candidates) {
        if !profiles.iter().any(|own| own.name == profile.name) {
            continue;
        }
        let published = lock.file.iter().filter(|file| file.assistants.contains(&profile.name));
        let places: BTreeSet<usize> = published
            .filter_map(|file| Some(finder.owner(profile, &Location::root(file.path.clone()))?.place))
            .collect();
        for candidate in candidates.iter().filter(|candidate| places.contains(&candidate.place)) {
            let place = &profile.places[candidate.place];
            let Some(path) = candidate.file.in_root() else { continue };
            let adoptable = matches!(place.kind, Kind::Rule | Kind::Called) && !place.personal;
            if adoptable && place.level != Level::User && !known.contains(path) && !is_ignored(project, path) {
                found.insert(path.clone());
            }
        }
    }
    // A link to a published file says nothing of its own.
    found.into_iter().filter(|path| !leads_to_known(workspace.tree(), path, &known)).collect()
}

/// Whether git ignores a file of the project.
pub fn is_ignored(project: &Project, path: &RepoPath) -> bool {
    let item = project.index.folder(&path.folder()).and_then(|folder| folder.get(path.name()));
    item.is_some_and(|item| item.ignored)
}

fn leads_to_known(tree: &dyn Tree, path: &RepoPath, known: &HashSet<&RepoPath>) -> bool {
    let target = tree.link_target(&Location::root(path.clone()));
    target.and_then(|target| path.folder().resolve(&target)).is_some_and(|target| known.contains(&target))
}
