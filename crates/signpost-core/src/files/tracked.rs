//! Which files git tracks: the paths of `.git/index`, for files that an ignore pattern matches and that are tracked all
//! the same.
//!
//! Only names are read. What can't be understood (a version that is not there yet, a torn file) tracks nothing.
//!
//! Format: <https://git-scm.com/docs/index-format>, versions 2 to 4.

/// The tracked paths, from the top of the work tree, in the order of their bytes.
#[derive(Debug, Default)]
pub(super) struct Tracked {
    paths: Vec<Box<[u8]>>,
}

/// The bytes of an entry before its flags: times, device, owner, size and the object's name.
const BEFORE_FLAGS: usize = 40;
/// The flag that says that two more bytes of flags follow.
const EXTENDED: u16 = 0x4000;

impl Tracked {
    /// Reads an index. `object` is how many bytes the name of an object has: 20, or 32 in repositories of SHA-256.
    pub fn parse(bytes: &[u8], object: usize) -> Self {
        Tracked { paths: entries(bytes, object).unwrap_or_default() }
    }

    /// Whether the file is tracked.
    pub fn holds(&self, path: &str) -> bool {
        self.paths.binary_search_by(|own| (**own).cmp(path.as_bytes())).is_ok()
    }

    /// Whether a file below the folder is tracked.
    pub fn holds_below(&self, folder: &str) -> bool {
        let prefix = format!("{folder}/");
        let first = self.paths.partition_point(|own| **own < *prefix.as_bytes());
        self.paths.get(first).is_some_and(|own| own.starts_with(prefix.as_bytes()))
    }
}

fn entries(bytes: &[u8], object: usize) -> Option<Vec<Box<[u8]>>> {
    let number = |at: usize| Some(u32::from_be_bytes(bytes.get(at..at + 4)?.try_into().ok()?));
    if bytes.get(..4)? != b"DIRC" {
        return None;
    }
    let (version, count) = (number(4)?, number(8)? as usize);
    if !(2..=4).contains(&version) {
        return None;
    }
    // No more than the file can hold, whatever it says.
    let mut paths: Vec<Box<[u8]>> = Vec::with_capacity(count.min(bytes.len() / (BEFORE_FLAGS + object)));
    let mut at = 12;
    for _ in 0..count {
        let start = at;
        at += BEFORE_FLAGS + object;
        let flags = u16::from_be_bytes(bytes.get(at..at + 2)?.try_into().ok()?);
        at += if version >= 3 && flags & EXTENDED != 0 { 4 } else { 2 };
        let mut path = Vec::new();
        if version == 4 {
            let last = paths.last().map_or(&[][..], |path| path);
            let (cut, length) = offset(bytes.get(at..)?)?;
            at += length;
            path.extend_from_slice(last.get(..last.len().checked_sub(cut)?)?);
        }
        let rest = bytes.get(at..)?;
        let end = rest.iter().position(|byte| *byte == 0)?;
        path.extend_from_slice(&rest[..end]);
        at += end + 1;
        if version < 4 {
            // Entries are filled up with zeros to a multiple of eight, with one at least.
            at = start + (at - start).next_multiple_of(8);
        }
        paths.push(path.into());
    }
    // Stages of a merge name a file more than once; the order is git's own, and the search relies on it.
    paths.sort();
    paths.dedup();
    Some(paths)
}

/// A number of variable width, as in the offsets of packs, and how many bytes it takes.
fn offset(bytes: &[u8]) -> Option<(usize, usize)> {
    let mut number = usize::from(bytes.first()? & 0x7f);
    let mut at = 0;
    while bytes.get(at)? & 0x80 != 0 {
        at += 1;
        number = number.checked_add(1)?.checked_mul(128)?.checked_add(usize::from(bytes.get(at)? & 0x7f))?;
    }
    Some((number, at + 1))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::process::Command;

    #[test]
    fn what_git_writes_is_read_in_every_version() {
        let folder = tempfile::tempdir().unwrap();
        let git = |args: &[&str]| {
            let done = Command::new("git").args(args).current_dir(folder.path()).output().unwrap();
            assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
        };
        git(&["init", "-q"]);
        for path in ["a.rs", "target/keep.rs", "target/deep/x", "target-2/y", "ä/ö.rs"] {
            let file = folder.path().join(path);
            std::fs::create_dir_all(file.parent().unwrap()).unwrap();
            std::fs::write(file, "x").unwrap();
        }
        git(&["add", "a.rs", "target", "ä"]);
        // An entry with flags that only version 3 has.
        std::fs::write(folder.path().join("later"), "x").unwrap();
        git(&["add", "--intent-to-add", "later"]);
        for version in ["2", "3", "4"] {
            git(&["update-index", "--index-version", version]);
            let bytes = std::fs::read(folder.path().join(".git/index")).unwrap();
            let tracked = Tracked::parse(&bytes, 20);
            assert_eq!(tracked.paths.len(), 5, "version {version}");
            assert!(["a.rs", "target/deep/x", "ä/ö.rs", "later"].iter().all(|path| tracked.holds(path)));
            assert!(tracked.holds_below("target") && tracked.holds_below("ä"));
            assert!(!tracked.holds("target-2/y") && !tracked.holds_below("target-2") && !tracked.holds_below("a.rs"));
            // Torn anywhere, it is read or it tracks nothing.
            (0..bytes.len()).for_each(|end| drop(Tracked::parse(&bytes[..end], 20)));
        }
        assert!(Tracked::parse(b"DIRC\0\0\0\x02\xff\xff\xff\xff", 20).paths.is_empty());
    }
}
