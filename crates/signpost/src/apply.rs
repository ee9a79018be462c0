//! Writing many files so that a run that is killed at any moment leaves each of them whole, and the next run
//! finishes the job.
//!
//! First `signpost.lock` is written with what each file is to be *and* what it was; then each file is written
//! aside and renamed into its place; last, the lock as it should be. Whatever a killed run left is as the
//! lock records it, so that the next run knows all of it for its own. A lock of the system on the root keeps
//! two runs apart.

use crate::exit::Failure;
use crate::session::Session;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::publish::Content;
use signpost_core::change::publish::changes::{Change, Status, Step, link_mark};
use signpost_core::files::{MAX_FILE_BYTES, door};
use signpost_core::project::lock::{Lock, hash};
use signpost_core::project::workspace::LOCK_FILE;
use std::fs::{self, File};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

/// Files on their way into place begin so, and a killed run may leave some.
const ON_THE_WAY: &str = ".signpost-on-its-way-";

/// While it lives, no other run writes.
pub struct Guard {
    _file: Option<File>,
}

/// Waits until no other run writes to this project.
pub fn alone(session: &Session) -> Result<Guard, Failure> {
    // Folders can be locked where they can be opened; elsewhere a file in the temporary folder stands for them.
    let handle = File::open(session.root()).or_else(|_| {
        let name = hash(session.root().to_string_lossy().as_bytes()).replace(':', "-");
        File::options().create(true).append(true).open(std::env::temp_dir().join(format!("signpost-{name}")))
    });
    let Ok(file) = handle else {
        sweep(session.root());
        return Ok(Guard { _file: None });
    };
    match file.try_lock() {
        Ok(()) => {}
        Err(fs::TryLockError::WouldBlock) => {
            session.patiently("Waiting for another run of signpost", || file.lock()).map_err(|error| {
                Failure::told(format!("cannot wait for another run of signpost: {error}"), "try again")
            })?
        }
        // A file system without locks: what is written is still whole.
        Err(fs::TryLockError::Error(_)) => {}
    }
    // What stands on the way now was left by a run that was killed.
    sweep(session.root());
    Ok(Guard { _file: Some(file) })
}

/// Does what a status says there is to do.
pub fn apply(root: &Path, status: &Status, _alone: &Guard) -> Result<(), Failure> {
    if status.is_clean() {
        return Ok(());
    }
    let changes: Vec<&Change> = status.pending().collect();
    let journal = journal(status);
    if !changes.is_empty() && journal != status.old_lock {
        write_lock(root, &journal)?;
    }
    for change in &changes {
        one(root, change).map_err(|why| {
            let help = "what is written so far is whole; mend that and run the command again";
            Failure::told(format!("cannot write {}: {why}", change.path), help)
        })?;
    }
    if journal == status.lock && (journal == status.old_lock || !changes.is_empty()) {
        return Ok(());
    }
    write_lock(root, &status.lock)
}

/// Writes files that the lock does not speak of.
pub fn create(root: &Path, changes: Vec<Change>, lock: Lock, alone: &Guard) -> Result<(), Failure> {
    rules_then_lock(root, changes, lock.clone(), lock, alone)
}

/// Writes rules first, and only when all are there the lock that speaks of them: a lock that knew a file whose rules are
/// not written yet would let publishing take it away.
pub fn rules_then_lock(root: &Path, changes: Vec<Change>, old: Lock, new: Lock, alone: &Guard) -> Result<(), Failure> {
    let rules = Status { changes, lock: old.clone(), old_lock: old.clone(), ..Status::default() };
    apply(root, &rules, alone)?;
    apply(root, &Status { lock: new, old_lock: old, ..Status::default() }, alone)
}

/// The lock for the time between: new files as they will be, with what they were.
fn journal(status: &Status) -> Lock {
    let mut journal = status.lock.clone();
    for file in &mut journal.file {
        let change = status.changes.iter().find(|change| change.path == file.path);
        file.was = change
            .filter(|change| change.step == Step::Update)
            .and_then(|change| change.old.as_deref().map(hash).or_else(|| change.old_link.as_deref().map(link_mark)));
    }
    for change in status.pending().filter(|change| change.step == Step::Remove) {
        journal.file.extend(status.old_lock.of(&change.path).cloned());
    }
    journal.file.sort_by(|a, b| a.path.cmp(&b.path));
    journal
}

fn write_lock(root: &Path, lock: &Lock) -> Result<(), Failure> {
    let at = RepoPath::root().join(LOCK_FILE);
    let done = if lock.file.is_empty() {
        fault();
        match fs::remove_file(root.join(LOCK_FILE)) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => Err(error),
            _ => Ok(()),
        }
    } else {
        folder_of(root, &at).and_then(|folder| put(root, &folder, LOCK_FILE, lock.to_text().as_bytes(), None))
    };
    done.map_err(|error| Failure::told(format!("cannot write {LOCK_FILE}: {error}"), "nothing else was changed"))
}

/// Creates, replaces or removes one file.
fn one(root: &Path, change: &Change) -> io::Result<()> {
    let path = where_it_lies(root, change)?;
    let folder = folder_of(root, &path)?;
    let at = folder.join(path.name());
    if !is_as_read(&at, change)? {
        return Err(io::Error::other("somebody else has changed it meanwhile"));
    }
    match &change.new {
        Some(Content::Text(text)) => put(root, &folder, path.name(), text.as_bytes(), permissions(&at)),
        Some(Content::Link(target)) => link(root, &folder, path.name(), target),
        None => {
            fault();
            fs::remove_file(&at)?;
            // Folders that held nothing else go too.
            let mut empty = folder;
            while empty != root && fs::remove_dir(&empty).is_ok() {
                empty = empty.parent().map(Path::to_path_buf).unwrap_or_else(|| root.to_path_buf());
            }
            Ok(())
        }
    }
}

/// The path of a file that was read through a link: where it really lies, so that the link stays. Everything else is
/// written where it is called.
fn where_it_lies(root: &Path, change: &Change) -> io::Result<RepoPath> {
    let here = root.join(change.path.as_str());
    if change.old.is_none() || change.new.is_none() {
        return Ok(change.path.clone());
    }
    let real = here.canonicalize()?;
    let inside = real.strip_prefix(root).ok().and_then(|path| RepoPath::new(path.to_str()?));
    inside.ok_or_else(|| io::Error::other("it is a link that leads out of the project"))
}

/// The permissions of a file that is no link.
fn permissions(at: &Path) -> Option<fs::Permissions> {
    fs::symlink_metadata(at).ok().filter(fs::Metadata::is_file).map(|meta| meta.permissions())
}

fn is_as_read(at: &Path, change: &Change) -> io::Result<bool> {
    let meta = match fs::symlink_metadata(at) {
        Ok(meta) => meta,
        Err(error) if error.kind() == io::ErrorKind::NotFound => {
            return Ok(change.old.is_none() && change.old_link.is_none());
        }
        Err(error) => return Err(error),
    };
    if meta.is_symlink() {
        return Ok(change.old_link.as_deref() == Some(&*fs::read_link(at)?.to_string_lossy()));
    }
    let now = door::read(at, MAX_FILE_BYTES).map_err(|shut| io::Error::other(shut.to_string()))?;
    Ok(meta.is_file() && change.old.as_deref() == Some(&now[..]))
}

/// The folder of a file, made where it is not there. No part of the way may be a link: nothing is written
/// through one.
fn folder_of(root: &Path, path: &RepoPath) -> io::Result<PathBuf> {
    let mut folder = root.to_path_buf();
    for part in path.folder().components() {
        folder.push(part);
        match fs::symlink_metadata(&folder) {
            Ok(meta) if meta.is_symlink() => {
                return Err(io::Error::other(format!(
                    "{} is a link, and nothing is written through links",
                    folder.display()
                )));
            }
            Ok(_) => {}
            Err(error) if error.kind() == io::ErrorKind::NotFound => match fs::create_dir(&folder) {
                Err(error) if error.kind() != io::ErrorKind::AlreadyExists => return Err(error),
                _ => {}
            },
            Err(error) => return Err(error),
        }
    }
    Ok(folder)
}

/// Writes a file aside and moves it into its place. Aside is the root, where the next run finds what this one leaves if
/// it is killed; the place's own folder where that is another file system.
fn put(root: &Path, folder: &Path, name: &str, bytes: &[u8], permissions: Option<fs::Permissions>) -> io::Result<()> {
    let aside = |aside: &Path| -> io::Result<()> {
        let mut file = temporary(aside)?;
        fault();
        file.write_all(bytes)?;
        // A killed run loses nothing that the system has; only the record of what is under way is worth waiting for
        // the disk, since a thousand files would take seconds.
        if name == LOCK_FILE {
            file.as_file().sync_data()?;
        }
        if let Some(old) = &permissions {
            file.as_file().set_permissions(old.clone())?;
        }
        fault();
        file.persist(folder.join(name)).map_err(|error| error.error)?;
        fault();
        Ok(())
    };
    aside(root).or_else(|error| if is_elsewhere(&error) { aside(folder) } else { Err(error) })
}

/// A new file on its way, for everybody to read as far as the person's umask allows.
pub fn temporary(folder: &Path) -> io::Result<tempfile::NamedTempFile> {
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    let open = {
        use std::os::unix::fs::PermissionsExt;
        fs::Permissions::from_mode(0o666)
    };
    #[cfg(unix)]
    builder.permissions(open);
    builder.prefix(ON_THE_WAY).tempfile_in(folder)
}

/// Whether a file can't be moved from there, or not even made there.
fn is_elsewhere(error: &io::Error) -> bool {
    use io::ErrorKind::{CrossesDevices, PermissionDenied, ReadOnlyFilesystem};
    matches!(error.kind(), CrossesDevices | PermissionDenied | ReadOnlyFilesystem)
}

#[cfg(unix)]
fn link(root: &Path, folder: &Path, name: &str, target: &str) -> io::Result<()> {
    let aside = |aside: &Path| -> io::Result<()> {
        let beside = aside.join(format!("{ON_THE_WAY}link"));
        let _ = fs::remove_file(&beside);
        std::os::unix::fs::symlink(target, &beside)?;
        fault();
        fs::rename(&beside, folder.join(name))?;
        fault();
        Ok(())
    };
    aside(root).or_else(|error| if is_elsewhere(&error) { aside(folder) } else { Err(error) })
}

#[cfg(not(unix))]
fn link(_: &Path, _: &Path, _: &str, _: &str) -> io::Result<()> {
    Err(io::Error::other("links need a system that has them; set `links = false` in signpost.toml"))
}

/// Takes away what killed runs left on the way in a folder.
pub fn sweep(folder: &Path) {
    let Ok(entries) = fs::read_dir(folder) else { return };
    for entry in entries.flatten().filter(|entry| entry.file_name().to_string_lossy().starts_with(ON_THE_WAY)) {
        let _ = fs::remove_file(entry.path());
    }
}

/// A point at which the tests kill the program: before and after each step that changes the disk. Only in
/// debug builds.
fn fault() {
    #[cfg(debug_assertions)]
    {
        use std::sync::atomic::{AtomicUsize, Ordering};
        static PASSED: AtomicUsize = AtomicUsize::new(1);
        let here = PASSED.fetch_add(1, Ordering::Relaxed);
        if std::env::var("SIGNPOST_DIE_AT").is_ok_and(|at| at == here.to_string()) {
            std::process::abort();
        }
    }
}

#[cfg(all(test, unix))]
mod tests;
