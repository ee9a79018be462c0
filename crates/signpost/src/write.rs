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

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;

    fn names(folder: &Path) -> Vec<String> {
        let entries = std::fs::read_dir(folder).unwrap().flatten();
        let mut names: Vec<String> = entries.map(|entry| entry.file_name().to_string_lossy().into_owned()).collect();
        names.sort();
        names
    }

    #[test]
    fn a_file_is_there_whole_and_nothing_beside_it() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.md");
        create(&path, b"one\n\xff\0").unwrap();
        assert_eq!(std::fs::read(&path).unwrap(), b"one\n\xff\0");
        assert_eq!(names(folder.path()), ["a.md"]);
    }

    #[test]
    fn where_it_can_not_be_written_nothing_is_left() {
        let folder = tempfile::tempdir().unwrap();
        let Failure::Told(message, help) = create(&folder.path().join("no/a.md"), b"x").unwrap_err() else {
            panic!("another failure")
        };
        assert!(message.starts_with("cannot write ") && message.contains("no/a.md"), "{message}");
        assert_eq!(help.as_deref(), Some("name a folder that is there"));
        // A folder stands in the place of the file: it stays, and so does what is in it.
        let taken = folder.path().join("taken");
        std::fs::create_dir(&taken).unwrap();
        std::fs::write(taken.join("inside"), "x").unwrap();
        assert!(create(&taken, b"x").is_err());
        assert_eq!((names(folder.path()), names(&taken)), (vec!["taken".to_owned()], vec!["inside".to_owned()]));
    }

    /// A link is replaced, and what it leads to stays as it is.
    #[cfg(unix)]
    #[test]
    fn nothing_is_written_through_a_link() {
        let folder = tempfile::tempdir().unwrap();
        let (other, link) = (folder.path().join("other"), folder.path().join("link"));
        std::fs::write(&other, "kept").unwrap();
        std::os::unix::fs::symlink(&other, &link).unwrap();
        create(&link, b"new").unwrap();
        assert_eq!(
            (std::fs::read(&other).unwrap(), std::fs::read(&link).unwrap()),
            (b"kept".to_vec(), b"new".to_vec())
        );
        assert!(link.symlink_metadata().unwrap().is_file());
    }
}
