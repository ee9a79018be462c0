//! Writing files whole or not at all.

use crate::apply::temporary;
use crate::exit::Failure;
use std::io::Write;
use std::path::Path;

/// Writes a file that is not there yet.
pub fn create(path: &Path, bytes: &[u8]) -> Result<(), Failure> {
    put(path, bytes).map_err(|error| {
        Failure::told(format!("cannot write {}: {error}", path.display()), "name a folder that is there")
    })
}

fn put(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut file = temporary(folder)?;
    file.write_all(bytes)?;
    file.as_file().sync_all()?;
    file.persist(path).map_err(|error| error.error)?;
    Ok(())
}
