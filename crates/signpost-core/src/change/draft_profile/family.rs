//! What is gathered of one assistant before it becomes a profile.

use crate::base::repo_path::{Location, RepoPath};
use crate::header::{Header, HeaderStyle};
use crate::profile::{Kind, Level};
use crate::project::rule::Document;
use std::sync::Arc;

/// Files of one assistant.
pub struct Family {
    /// The name that they share, in kebab-case.
    pub name: String,
    pub groups: Vec<Group>,
    /// Files that look like mistakes: their folder or ending is nearly that of many others.
    pub misplaced: Vec<RepoPath>,
    /// Names of exclusion files.
    pub exclusions: Vec<String>,
    /// How many mentions of other files lead somewhere.
    pub mentions: usize,
    /// Files that are left out and could be instructions all the same.
    pub perhaps: Vec<Perhaps>,
}

/// A file that could be an instruction to an assistant, and is in no draft.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Perhaps {
    /// The file.
    pub path: RepoPath,
    /// What speaks against it.
    pub why: &'static str,
}

impl Family {
    /// How many files there are.
    pub fn files(&self) -> usize {
        self.groups.iter().map(|group| group.files.len()).sum()
    }
}

/// Files of one place.
pub struct Group {
    pub id: String,
    pub level: Level,
    pub pattern: String,
    pub files: Vec<Found>,
    pub header: HeaderStyle,
    pub kind: Kind,
    /// What speaks for the kind.
    pub kind_evidence: Option<String>,
    pub markdown: bool,
    pub personal: bool,
}

/// One file with its header.
pub struct Found {
    pub path: Location,
    pub anchor: RepoPath,
    pub header: Header,
    pub document: Arc<Document>,
}
