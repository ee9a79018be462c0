//! Which of the files that a place holds are loaded for a file: what briefs and zones decide alike.
//!
//! Briefs ask for one file and say why; zones go over all folders once. Both ask here, so that they cannot differ.
//! (What `pick` leaves is [`crate::project::discovery::pick`].)

use crate::base::repo_path::RepoPath;
use crate::files::ignore_file::{HideChain, HideList};
use crate::profile::{Loads, Nested, Profile};

/// Whether the files of `folder` load in a conversation that started in `start` and works on a file in `touched`.
pub fn loads(profile: &Profile, folder: &RepoPath, touched: &RepoPath, start: &RepoPath) -> bool {
    match profile.loads {
        Loads::Touched => touched.is_in(folder),
        Loads::Start => start.is_in(folder),
        Loads::Either => touched.is_in(folder) || start.is_in(folder),
    }
}

/// Whether the files of `folder` stay where `nearest` is the folder, of those with files of the same place, that is
/// nearest to what is worked on.
pub fn stays(profile: &Profile, folder: &RepoPath, nearest: &RepoPath) -> bool {
    profile.nested == Nested::All || folder == nearest
}

/// The folder nearest to what is worked on, of those that hold files of a place: on the way to the file before the
/// way to where the conversation started.
pub fn nearest<'f>(
    profile: &Profile,
    folders: &[&'f RepoPath],
    touched: &RepoPath,
    start: &RepoPath,
) -> Option<&'f RepoPath> {
    let deepest_to = |goal: &RepoPath| {
        folders.iter().copied().filter(|folder| goal.is_in(folder)).max_by_key(|folder| folder.depth())
    };
    match profile.loads {
        Loads::Touched => deepest_to(touched),
        Loads::Start => deepest_to(start),
        Loads::Either => deepest_to(touched).or_else(|| deepest_to(start)),
    }
}

/// The chain of a profile's exclusions with those that stand in a folder in front. `read` gives the bytes of a file,
/// where there is one.
pub fn exclusions_in(
    profile: &Profile,
    folder: &RepoPath,
    above: &HideChain,
    read: impl Fn(&RepoPath) -> Option<Vec<u8>>,
) -> HideChain {
    let mut chain = above.clone();
    for name in &profile.exclusions {
        let file = folder.join(name.as_str());
        if let Some(bytes) = read(&file) {
            chain = chain.with(folder, file, HideList::parse(&bytes));
        }
    }
    chain
}
