//! The names of new rules, each once.

use crate::base::repo_path::{Location, RepoPath};
use crate::header::{Header, HeaderStyle};
use crate::project::workspace::{Project, Workspace};
use std::collections::BTreeMap;

/// The names of rules that are taken, in lower case, for file systems that know no other; and whether they were taken
/// here rather than found.
#[derive(Default)]
pub(crate) struct Names {
    taken: BTreeMap<String, bool>,
    /// The number to go on with for a name that was asked for before.
    next: BTreeMap<String, usize>,
}

impl Names {
    /// Those of the guidance that is there.
    pub fn taken(workspace: &Workspace<'_>, project: &Project) -> Result<Self, crate::files::TreeError> {
        let guidance = workspace.guidance(project)?;
        let rules = guidance.iter().flat_map(|guidance| &guidance.rules);
        let taken = rules.map(|rule| (rule.file().path.as_str().to_lowercase(), false)).collect();
        Ok(Names { taken, next: BTreeMap::new() })
    }

    /// Takes a name; whether it was free.
    fn take(&mut self, path: &RepoPath) -> bool {
        let key = path.as_str().to_lowercase();
        let free = !self.taken.contains_key(&key);
        self.taken.entry(key).or_insert(true);
        free
    }

    /// A file of that name in a folder, with a number where the name is taken; its text, which may depend on the name; and
    /// whether it is there already: a run that was killed may have written it.
    pub fn free(
        &mut self,
        workspace: &Workspace<'_>,
        folder: &RepoPath,
        name: &str,
        text: impl Fn(&str) -> String,
    ) -> (RepoPath, String, bool) {
        let wanted = folder.join(name).as_str().to_lowercase();
        let mut number = self.next.get(&wanted).copied().unwrap_or(1);
        loop {
            let name = if number == 1 { name.to_owned() } else { format!("{name}-{number}") };
            let path = folder.join(&format!("{name}.md"));
            number += 1;
            self.next.insert(wanted.clone(), number);
            let there = self.taken.get(&path.as_str().to_lowercase()) == Some(&false);
            if self.take(&path) {
                return (path, text(&name), false);
            }
            if there && let Some(known) = said_already(workspace, &path, &text(&name)) {
                self.taken.insert(path.as_str().to_lowercase(), true);
                return (path, known, true);
            }
        }
    }

    /// Whether a name was taken here.
    pub fn is_taken(&self, folder: &RepoPath, name: &str) -> bool {
        self.taken.get(&folder.join(&format!("{name}.md")).as_str().to_lowercase()) == Some(&true)
    }
}

/// The text of a rule that is there, where it says the same: a run that was killed may have written it. What it keeps for
/// the files of assistants is its own.
fn said_already(workspace: &Workspace<'_>, path: &RepoPath, text: &str) -> Option<String> {
    let at = Location::root(path.clone());
    if !matches!(workspace.tree().look(&at), crate::files::Look::File(_)) {
        return None;
    }
    let known = workspace.document(&at).text.clone();
    (without_kept(&known) == without_kept(text)).then_some(known)
}

/// A rule without its `[keep]` tables, which stand last in its header.
fn without_kept(text: &str) -> String {
    let block = Header::read(text, HeaderStyle::Toml).block.unwrap_or(0..0);
    let kept = text[block.clone()].find("[keep.").map_or(block.end, |at| block.start + at);
    format!("{}{}", text[..kept].trim_end(), &text[block.end..])
}

/// A path without its ending.
pub(super) fn stem(text: &str) -> String {
    match text.rsplit_once('.') {
        Some((stem, _)) if !stem.is_empty() && !stem.ends_with('/') => stem.to_owned(),
        _ => text.to_owned(),
    }
}

/// A file name made of words.
pub(crate) fn slug(words: &str) -> String {
    let mut slug = String::new();
    for c in words.chars() {
        if c.is_alphanumeric() {
            slug.extend(c.to_lowercase());
        } else if !slug.ends_with('-') && !slug.is_empty() {
            slug.push('-');
        }
        if slug.chars().count() >= 40 {
            break;
        }
    }
    let slug = slug.trim_end_matches('-');
    if slug.is_empty() { "rule".to_owned() } else { slug.to_owned() }
}
