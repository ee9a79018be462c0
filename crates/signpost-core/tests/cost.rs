//! What an answer costs is counted in folders looked at, not in seconds.

#![allow(clippy::unwrap_used)]

use signpost_core::base::repo_path::{Location, RepoPath};
use signpost_core::files::index::Index;
use signpost_core::files::{Entry, Look, MemoryTree, Tree, TreeError};
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Question, resolve};
use std::sync::atomic::{AtomicUsize, Ordering};

/// Counts the folders listed, the files read and the whole walks.
struct Counting {
    tree: MemoryTree,
    lists: AtomicUsize,
    reads: AtomicUsize,
    walks: AtomicUsize,
}

impl Tree for Counting {
    fn look(&self, at: &Location) -> Look {
        self.tree.look(at)
    }

    fn list(&self, at: &Location) -> Result<Vec<Entry>, TreeError> {
        self.lists.fetch_add(1, Ordering::Relaxed);
        self.tree.list(at)
    }

    fn read_at_most(&self, at: &Location, most: u64) -> Result<Vec<u8>, TreeError> {
        self.reads.fetch_add(1, Ordering::Relaxed);
        self.tree.read_at_most(at, most)
    }

    fn index(&self) -> Result<Index, TreeError> {
        self.walks.fetch_add(1, Ordering::Relaxed);
        self.tree.index()
    }
}

const PROFILE: &str = "name = \"t\"\n[[place]]\nid = \"n\"\nlevel = \"folder\"\nfiles = [\"T.md\"]\n[[place]]\nid = \"r\"\nlevel = \"folder\"\nfiles = [\".t/*.md\"]\n";

/// Lists, reads and walks for one brief in a project with so many other folders.
fn cost(folders: usize) -> (usize, usize, usize) {
    let mut tree =
        MemoryTree::new().with("guidance/profiles/t.toml", PROFILE).with("a/b/.t/x.md", "").with("a/T.md", "");
    for number in 0..folders {
        tree = tree.with(&format!("other{number}/deep/T.md"), "").with(&format!("other{number}/.t/y.md"), "");
    }
    let tree = Counting { tree, lists: 0.into(), reads: 0.into(), walks: 0.into() };
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let profile = workspace.profiles.iter().find(|profile| profile.name == "t").unwrap();
    let question = Question { files: vec![RepoPath::new("a/b/c/new.rs").unwrap()], start: RepoPath::root() };
    let brief = resolve(&workspace, profile, &question, None).unwrap();
    assert_eq!(brief.entries.len(), 2);
    (tree.lists.into_inner(), tree.reads.into_inner(), tree.walks.into_inner())
}

#[test]
fn a_brief_reads_the_folders_on_the_way_however_large_the_project_is() {
    let small = cost(1);
    assert_eq!(small, cost(400));
    let (lists, reads, walks) = small;
    assert!(lists <= 3 && reads == 3 && walks == 0, "{small:?}");
}
