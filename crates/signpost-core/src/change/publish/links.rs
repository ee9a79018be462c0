//! One file for what is the same, and links to it.

use super::{Content, Planned};
use crate::base::repo_path::RepoPath;
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

/// The path from a file's folder to another file.
fn relative(target: &RepoPath, from: &RepoPath) -> String {
    let folder = from.folder();
    let common = target.folder().common(&folder);
    let up = "../".repeat(folder.depth() - common.depth());
    format!("{up}{}", target.below(&common).unwrap_or(target.as_str()))
}
