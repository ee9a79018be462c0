//! Writing files whole or not at all.

use crate::exit::Failure;
use signpost_core::repo_path::RepoPath;
use signpost_core::tree::{MAX_FILE_BYTES, door};
use std::io::Write;
use std::path::Path;

/// Replaces a file of the project by new bytes: a file beside it is written and takes its place at once. The
/// file must still hold what was read, and must not be reached through a link out of the project.
pub fn replace(root: &Path, path: &RepoPath, read: &[u8], new: &[u8]) -> Result<(), Failure> {
    let failed = |why: String| Failure::told(format!("cannot write {path}: {why}"), "nothing was changed in it");
    // A link to another file of the project is written through, so that it stays a link.
    let real = root.join(path.as_str()).canonicalize().map_err(|error| failed(error.to_string()))?;
    let inside = root.canonicalize().map_err(|error| failed(error.to_string()))?;
    if !real.starts_with(&inside) {
        return Err(failed("it is a link that leads out of the project".to_owned()));
    }
    let now = door::read(&real, MAX_FILE_BYTES).map_err(|error| failed(error.to_string()))?;
    if now != read {
        return Err(failed("somebody else has changed it meanwhile; run the command again".to_owned()));
    }
    put(&real, new).map_err(|error| failed(error.to_string()))
}

/// Writes a file that is not there yet.
pub fn create(path: &Path, bytes: &[u8]) -> Result<(), Failure> {
    put(path, bytes).map_err(|error| {
        Failure::told(format!("cannot write {}: {error}", path.display()), "name a folder that is there")
    })
}

fn put(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut file = tempfile::Builder::new().prefix(".signpost-").tempfile_in(folder)?;
    file.write_all(bytes)?;
    file.as_file().sync_all()?;
    match std::fs::metadata(path) {
        Ok(old) => file.as_file().set_permissions(old.permissions())?,
        Err(_) => open_to_others(file.as_file())?,
    }
    file.persist(path).map_err(|error| error.error)?;
    Ok(())
}

/// A new file is for everybody to read, as other tools leave it.
#[cfg(unix)]
pub fn open_to_others(file: &std::fs::File) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    file.set_permissions(std::fs::Permissions::from_mode(0o644))
}

#[cfg(not(unix))]
pub fn open_to_others(_: &std::fs::File) -> std::io::Result<()> {
    Ok(())
}
