//! One file for what is the same, and links to it.

use super::{Content, Planned};
use crate::base::repo_path::{Location, RepoPath};
use crate::files::Tree;
use rustc_hash::FxHashMap;

/// Makes files with the same bytes one file, and links to it.
pub(super) fn link_same(files: &mut [Planned]) {
    let mut first: FxHashMap<String, RepoPath> = FxHashMap::default();
    let mut order: Vec<usize> = (0..files.len()).collect();
    order.sort_by_key(|number| (files[*number].path.depth(), files[*number].path.clone()));
    for number in order {
        let Content::Text(text) = &files[number].content else { continue };
        match first.get(text) {
            Some(target) => files[number].content = Content::Link(relative(target, &files[number].path)),
            None => {
                first.insert(text.clone(), files[number].path.clone());
            }
        }
    }
}

/// Keeps links from one file to another of the same text that somebody made.
pub(super) fn keep_links(files: &mut [Planned], tree: &dyn Tree) {
    let kept = |file: &Planned| {
        let target = tree.link_target(&Location::root(file.path.clone()))?;
        let leads_to = file.path.folder().resolve(&target).filter(|leads_to| *leads_to != file.path)?;
        files.iter().any(|other| other.path == leads_to && other.content == file.content).then_some(target)
    };
    let kept: Vec<Option<String>> = files.iter().map(kept).collect();
    for (file, target) in files.iter_mut().zip(kept) {
        if let Some(target) = target {
            file.content = Content::Link(target);
        }
    }
}

/// The path from a file's folder to another file.
fn relative(target: &RepoPath, from: &RepoPath) -> String {
    let folder = from.folder();
    let common = target.folder().common(&folder);
    let up = "../".repeat(folder.depth() - common.depth());
    format!("{up}{}", target.below(&common).unwrap_or(target.as_str()))
}
