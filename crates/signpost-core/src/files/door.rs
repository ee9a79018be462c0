//! The one door through which files of the disk are opened.
//!
//! Whoever made a repository chose what stands under each name that we read: a link to a device that never ends, a
//! pipe that nobody writes to, a link out of the project. So nothing is opened that is no regular file, nothing
//! outside of the folders that the caller names, nothing is waited for, and no more is read than was agreed.
//! A test holds every other module to this one.

use std::fs::{self, File};
use std::io::{self, Read};
use std::path::Path;

/// Why the door stays shut.
#[derive(thiserror::Error, Debug)]
pub enum Shut {
    /// There is nothing, or the system refused.
    #[error("{}", plain(.0))]
    System(#[from] io::Error),
    /// A folder, device, pipe or socket.
    #[error("it is no regular file")]
    NoFile,
    /// The links on the way lead out of every folder that may be read.
    #[error("it is a link that leads out of the project")]
    Outside,
    /// More bytes than agreed.
    #[error("at {bytes} bytes it is too large (the most is {most})")]
    TooLarge {
        /// Its size; at least so much where the system does not say.
        bytes: u64,
        /// The most that is read.
        most: u64,
    },
}

/// Opens a regular file for reading, links followed, without waiting for anybody.
///
/// # Errors
/// There is none, or it is something else.
pub fn open(path: &Path) -> Result<File, Shut> {
    // Asked before opening too: opening alone can do harm where devices are concerned.
    if !fs::metadata(path)?.is_file() {
        return Err(Shut::NoFile);
    }
    let mut options = File::options();
    options.read(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::OpenOptionsExt;
        // Should a pipe have taken its place meanwhile, opening it must not wait for a writer.
        options.custom_flags(rustix::fs::OFlags::NONBLOCK.bits().cast_signed());
    }
    let file = options.open(path)?;
    if !file.metadata()?.is_file() {
        return Err(Shut::NoFile);
    }
    Ok(file)
}

/// The bytes of a regular file that a person named, wherever it stands.
///
/// # Errors
/// There is none, it is something else, or it holds more than `most` bytes.
pub fn read(path: &Path, most: u64) -> Result<Vec<u8>, Shut> {
    let file = open(path)?;
    let bytes = file.metadata()?.len();
    if bytes > most {
        return Err(Shut::TooLarge { bytes, most });
    }
    let mut read = Vec::with_capacity(bytes as usize);
    // It may grow while it is read.
    file.take(most + 1).read_to_end(&mut read)?;
    if read.len() as u64 > most {
        return Err(Shut::TooLarge { bytes: read.len() as u64, most });
    }
    Ok(read)
}

/// The same for a file that a repository or a home folder names: it must lie in one of some folders, which are
/// free of links themselves.
///
/// # Errors
/// Likewise, or links lead out of those folders.
pub fn read_inside(path: &Path, inside: &[&Path], most: u64) -> Result<Vec<u8>, Shut> {
    let real = fs::canonicalize(path)?;
    if !inside.iter().any(|folder| real.starts_with(folder)) {
        return Err(Shut::Outside);
    }
    read(&real, most)
}

/// The same for a file that counts only where it is itself no link, as git's own lists do.
///
/// # Errors
/// Likewise, or it is a link.
pub fn read_unlinked(path: &Path, most: u64) -> Result<Vec<u8>, Shut> {
    if !fs::symlink_metadata(path)?.is_file() {
        return Err(Shut::NoFile);
    }
    read(path, most)
}

/// The same as text, bytes that are not UTF-8 refused.
///
/// # Errors
/// Likewise, or it is not UTF-8.
pub fn read_text(path: &Path, most: u64) -> Result<String, Shut> {
    let bytes = read(path, most)?;
    String::from_utf8(bytes).map_err(|_| Shut::System(io::Error::other("it is not UTF-8")))
}

/// The system's words without its error number.
pub(crate) fn plain(error: &io::Error) -> String {
    let text = error.to_string();
    let text = text.split(" (os error").next().unwrap_or_default();
    let mut chars = text.chars();
    chars.next().map(|first| first.to_lowercase().collect::<String>() + chars.as_str()).unwrap_or_default()
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;
    use std::os::unix::fs::symlink;

    #[test]
    fn only_regular_files_of_some_size_inside_are_read() {
        let folder = tempfile::tempdir().unwrap();
        let root = folder.path().canonicalize().unwrap();
        let inside = root.join("in");
        fs::create_dir(&inside).unwrap();
        fs::write(root.join("out.md"), "out").unwrap();
        fs::write(inside.join("a.md"), "abc").unwrap();
        symlink("a.md", inside.join("link.md")).unwrap();
        symlink("../out.md", inside.join("leads-out.md")).unwrap();
        symlink("/dev/zero", inside.join("zero.md")).unwrap();
        symlink("loop.md", inside.join("loop.md")).unwrap();
        rustix::fs::mknodat(
            rustix::fs::CWD,
            inside.join("pipe.md"),
            rustix::fs::FileType::Fifo,
            rustix::fs::Mode::RUSR | rustix::fs::Mode::WUSR,
            0,
        )
        .unwrap();
        let at = |name: &str, most| read_inside(&inside.join(name), &[&inside], most);
        assert_eq!(at("a.md", 3).unwrap(), b"abc");
        assert_eq!(at("link.md", 3).unwrap(), b"abc");
        assert!(matches!(at("a.md", 2), Err(Shut::TooLarge { bytes: 3, most: 2 })));
        assert!(matches!(at("leads-out.md", 9), Err(Shut::Outside)));
        assert!(matches!(at("zero.md", 9), Err(Shut::Outside)));
        assert!(matches!(read(&inside.join("zero.md"), 9), Err(Shut::NoFile)));
        assert!(matches!(at("pipe.md", 9), Err(Shut::NoFile)));
        assert!(matches!(at(".", 9), Err(Shut::NoFile)));
        assert!(matches!(at("loop.md", 9), Err(Shut::System(_))));
        assert!(matches!(read_unlinked(&inside.join("link.md"), 9), Err(Shut::NoFile)));
        assert_eq!(read_unlinked(&inside.join("a.md"), 9).unwrap(), b"abc");
    }
}
