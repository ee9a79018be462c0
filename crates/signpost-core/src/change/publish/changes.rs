//! A plan held against the tree and the lock: what to do, and what must not be touched.

use super::alike::{in_form_of, says_the_same};
use super::{Content, Plan, Planned};
use crate::base::repo_path::{Location, RepoPath};
use crate::files::{EntryKind, Look, Tree, TreeError};
use crate::project::discovery::Finder;
use crate::project::lock::{Lock, LockedFile, hash, without_carriage_returns};
use rustc_hash::FxHashSet;

/// What is to be done with one file.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Step {
    /// It is not there yet.
    Create,
    /// It is as it was published, and something else should stand there now.
    Update,
    /// The rules that it was made from are gone, and it is untouched.
    Remove,
    /// It is as it should be.
    Keep,
}

/// Why a file is not touched.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Refusal {
    /// It was edited by hand since it was published.
    Edited,
    /// Signpost did not write it.
    Foreign,
    /// A link stands on the way to it.
    BehindLink,
    /// Something that is no file stands there.
    NoFile,
    /// The rules that it was made from are gone, and it was edited since.
    EditedAndGone,
}

/// A file with what is to be done.
#[derive(Clone, Debug)]
pub struct Change {
    /// The file.
    pub path: RepoPath,
    /// What stands there now; `None` where nothing or a link does.
    pub old: Option<Vec<u8>>,
    /// The target of the link that stands there now.
    pub old_link: Option<String>,
    /// What should stand there; `None` where nothing should.
    pub new: Option<Content>,
    /// What to do.
    pub step: Step,
}

impl Change {
    /// A new file.
    pub fn create(path: &RepoPath, text: &str) -> Self {
        let new = Some(Content::Text(text.to_owned()));
        Change { path: path.clone(), old: None, old_link: None, new, step: Step::Create }
    }

    /// Another text, or nothing, in the place of a file.
    pub fn replace(path: &RepoPath, old: &[u8], new: Option<&str>) -> Self {
        let step = if new.is_some() { Step::Update } else { Step::Remove };
        let new = new.map(|text| Content::Text(text.to_owned()));
        Change { path: path.clone(), old: Some(old.to_vec()), old_link: None, new, step }
    }
}

/// A plan held against the tree.
#[derive(Debug, Default)]
pub struct Status {
    /// Every planned file, and those to be removed, by path.
    pub changes: Vec<Change>,
    /// The files that are not touched.
    pub refused: Vec<(RepoPath, Refusal)>,
    /// Files that were published once, still stand there, and that no assistant reads any more: a profile is gone, or
    /// its places changed. They are for the person to delete.
    pub abandoned: Vec<RepoPath>,
    /// Files beside published ones that the guidance does not know, as whoever looked for them found.
    pub beside: Vec<RepoPath>,
    /// The lock as it should be afterwards.
    pub lock: Lock,
    /// The lock as it is.
    pub old_lock: Lock,
}

impl Status {
    /// Whether every file is as publishing would write it.
    pub fn is_clean(&self) -> bool {
        self.refused.is_empty()
            && self.abandoned.is_empty()
            && self.beside.is_empty()
            && self.pending().next().is_none()
            && self.lock == self.old_lock
    }

    /// Whether more than half of what was published would go: then somebody should say that it is meant.
    pub fn removes_most(&self) -> bool {
        let removed = self.changes.iter().filter(|change| change.step == Step::Remove).count();
        removed * 2 > self.old_lock.file.len()
    }

    /// What there is to do.
    pub fn pending(&self) -> impl Iterator<Item = &Change> {
        self.changes.iter().filter(|change| change.step != Step::Keep)
    }
}

/// Holds a plan against the tree. Files in `give_up` may be overwritten whoever wrote them.
///
/// # Errors
/// A file can't be read.
pub fn status(tree: &dyn Tree, plan: &Plan, lock: &Lock, give_up: &[RepoPath]) -> Result<Status, TreeError> {
    if let Some(error) = out_of_sight(lock, tree.unread()) {
        return Err(error);
    }
    let mut status = Status { old_lock: lock.clone(), ..Status::default() };
    let known_of = lock.by_path();
    let planned: FxHashSet<&RepoPath> = plan.files.iter().map(|file| &file.path).collect();
    let still_there =
        |path: &&RepoPath| tree.look(&Location::root((*path).clone())) != Look::Nothing && !planned.contains(*path);
    status.lock.left = lock.left.iter().filter(still_there).cloned().collect();
    for file in &plan.files {
        let at = Location::root(file.path.clone());
        let entry = match entry(tree, &at)? {
            Stands::BehindLink => {
                status.refused.push((file.path.clone(), Refusal::BehindLink));
                None
            }
            Stands::Entry(entry) => entry,
        };
        if status.refused.last().is_some_and(|(path, _)| *path == file.path) {
            keep_locked(lock, &file.path, &mut status.lock);
            continue;
        }
        let known = known_of.get(&file.path).copied();
        let (old, old_link) = match &entry {
            Some(EntryKind::File) => (Some(tree.read(&at)?), None),
            Some(EntryKind::Link) => (None, tree.link_target(&at)),
            _ => (None, None),
        };
        let same = match &file.content {
            Content::Text(text) => old.as_deref().is_some_and(|old| says_the_same(old, text)),
            Content::Link(target) => old_link.as_ref() == Some(target),
        };
        let ours = known.is_some_and(|known| is_as_recorded(known, old.as_deref(), old_link.as_deref()))
            || give_up.contains(&file.path);
        let step = match entry {
            None => Step::Create,
            Some(_) if same => Step::Keep,
            Some(EntryKind::Folder) => {
                status.refused.push((file.path.clone(), Refusal::NoFile));
                continue;
            }
            Some(_) if ours => Step::Update,
            Some(_) => {
                let why = if known.is_some() { Refusal::Edited } else { Refusal::Foreign };
                status.refused.push((file.path.clone(), why));
                keep_locked(lock, &file.path, &mut status.lock);
                // It is shown what would change all the same.
                status.changes.push(Change {
                    path: file.path.clone(),
                    old,
                    old_link,
                    new: Some(file.content.clone()),
                    step: Step::Keep,
                });
                continue;
            }
        };
        let mut entry = locked(file);
        if step == Step::Keep
            && let Some(old) = &old
        {
            // It stays as it is, so what is on disk is what was published.
            entry.hash = match known {
                Some(known) if known.is(old) || known.hash == entry.hash => known.hash.clone(),
                _ => hash(&without_carriage_returns(old)),
            };
        }
        status.lock.file.push(entry);
        let new = if step == Step::Update { in_form_of(old.as_deref(), &file.content) } else { file.content.clone() };
        status.changes.push(Change { path: file.path.clone(), old, old_link, new: Some(new), step });
    }
    gone(tree, (plan, &planned), lock, give_up, &mut status)?;
    status.changes.sort_by(|a, b| a.path.cmp(&b.path));
    status.lock.file.sort_by(|a, b| a.path.cmp(&b.path));
    Ok(status)
}

/// Files that the lock knows and the plan does not.
fn gone(
    tree: &dyn Tree,
    (plan, planned): (&Plan, &FxHashSet<&RepoPath>),
    lock: &Lock,
    give_up: &[RepoPath],
    status: &mut Status,
) -> Result<(), TreeError> {
    for known in &lock.file {
        let path = known.path.clone();
        if planned.contains(&path) {
            continue;
        }
        // Another assistant's, which is not published this time; one that was taken out is published never more.
        if plan.partial
            && !known.assistants.iter().any(|name| plan.assistants.contains(name))
            && !known.assistants.is_empty()
        {
            status.lock.file.push(known.clone());
            continue;
        }
        let at = Location::root(path.clone());
        // A lock that somebody tampered with could name any file.
        let finder = Finder::new(tree, None);
        let read = plan.profiles.iter().any(|profile| finder.owner(profile, &at).is_some());
        let entry = match entry(tree, &at)? {
            Stands::BehindLink => continue,
            Stands::Entry(entry) => entry,
        };
        let (old, old_link) = match entry {
            Some(EntryKind::File) => (Some(tree.read(&at)?), None),
            Some(EntryKind::Link) => (None, tree.link_target(&at)),
            _ => continue,
        };
        if !read {
            status.abandoned.push(path);
            status.lock.file.push(known.clone());
            continue;
        }
        if is_as_recorded(known, old.as_deref(), old_link.as_deref()) || give_up.contains(&path) {
            status.changes.push(Change { path, old, old_link, new: None, step: Step::Remove });
        } else {
            status.refused.push((path, Refusal::EditedAndGone));
            status.lock.file.push(known.clone());
        }
    }
    Ok(())
}

/// What keeps a rule out of sight that a file was made from: the plan knows nothing of it then, and would take it out of
/// what was published.
fn out_of_sight(lock: &Lock, unread: Vec<TreeError>) -> Option<TreeError> {
    let sources: Vec<RepoPath> = lock.file.iter().flat_map(|known| known.sources.iter().cloned()).collect();
    unread
        .into_iter()
        .find(|error| error.path().in_root().is_some_and(|path| sources.iter().any(|source| source.is_in(path))))
}

fn keep_locked(lock: &Lock, path: &RepoPath, next: &mut Lock) {
    next.file.extend(lock.of(path).cloned());
}

fn is_as_recorded(known: &LockedFile, bytes: Option<&[u8]>, link: Option<&str>) -> bool {
    match (bytes, link) {
        (Some(bytes), _) => known.is(bytes),
        (None, Some(link)) => {
            [Some(&known.hash), known.was.as_ref()].into_iter().flatten().any(|one| *one == link_mark(link))
        }
        (None, None) => false,
    }
}

/// What the lock records of a link.
pub fn link_mark(target: &str) -> String {
    format!("link:{target}")
}

/// Where a link leads that the lock records so.
pub fn link_target(hash: &str) -> Option<&str> {
    hash.strip_prefix("link:")
}

/// What the lock records of a file.
pub fn locked(file: &Planned) -> LockedFile {
    let hash = match &file.content {
        Content::Text(text) => hash(text.as_bytes()),
        Content::Link(target) => link_mark(target),
    };
    let (path, sources) = (file.path.clone(), file.sources.clone());
    LockedFile { path, hash, was: None, assistants: file.assistants.clone(), sources }
}

enum Stands {
    BehindLink,
    Entry(Option<EntryKind>),
}

/// What stands at a path, links not followed.
fn entry(tree: &dyn Tree, at: &Location) -> Result<Stands, TreeError> {
    for folder in at.path.folder().way().into_iter().skip(1) {
        if tree.link_target(&Location::root(folder)).is_some() {
            return Ok(Stands::BehindLink);
        }
    }
    if tree.link_target(at).is_some() {
        return Ok(Stands::Entry(Some(EntryKind::Link)));
    }
    Ok(Stands::Entry(match tree.look(at) {
        Look::File(_) | Look::Outside | Look::BrokenLink => Some(EntryKind::File),
        // What is neither file nor folder is as little to be replaced.
        Look::Folder | Look::Other => Some(EntryKind::Folder),
        Look::Unreadable => {
            let noted = tree.unread().into_iter().find(|error| error.path() == at);
            let unknown =
                || TreeError::Unreadable { path: at.clone(), why: "the system does not let us see it".into() };
            return Err(noted.unwrap_or_else(unknown));
        }
        Look::Nothing => None,
    }))
}
