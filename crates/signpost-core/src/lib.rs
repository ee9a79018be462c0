//! The core of Signpost: what AI coding assistants are told when they work on a file.
//!
//! It knows nothing of terminals, arguments or exit codes. A [`tree::Tree`] gives it files, profiles
//! ([`profile::Profile`]) say what assistants read, a [`workspace::Workspace`] puts both together, and
//! [`brief::resolve`], [`survey::survey`], [`check::run`] and [`weigh::weigh`] answer.
//!
//! ```
//! use signpost_core::{resolve::brief, base::repo_path::RepoPath, files::MemoryTree, project::workspace::Workspace};
//!
//! let tree = MemoryTree::new().with("AGENTS.md", "- Be kind\n").with("src/main.rs", "");
//! let workspace = Workspace::open(&tree, &[]).unwrap();
//! let question =
//!     brief::Question { files: vec![RepoPath::new("src/main.rs").unwrap()], start: RepoPath::root() };
//! let brief = brief::resolve(&workspace, &workspace.profiles[0], &question, None).unwrap();
//! assert_eq!(brief.entries[0].path.to_string(), "AGENTS.md");
//! ```

pub mod base;
pub mod change;
pub mod check;
pub mod config;
pub mod directive;
pub mod facts;
pub mod files;
pub mod header;
pub mod inspect;
pub mod pattern;
pub mod profile;
pub mod project;
pub mod resolve;
