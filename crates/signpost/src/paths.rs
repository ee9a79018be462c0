//! From the paths that people type to the paths of the core, and where the root is.

use crate::exit::Failure;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::config::CONFIG_NAME;
use std::path::{Component, Path, PathBuf};

/// The project's root: as asked for, else the nearest folder above with a `signpost.toml`, else the git work
/// tree, else here.
pub fn find_root(asked: Option<&Path>, here: &Path) -> Result<PathBuf, Failure> {
    if let Some(asked) = asked {
        let root = here.join(asked);
        if !root.is_dir() {
            let what = if root.exists() { "is no folder" } else { "does not exist" };
            return Err(Failure::told(format!("the root {} {what}", asked.display()), "name a folder with --root"));
        }
        return Ok(root);
    }
    let marked = here.ancestors().find(|folder| folder.join(CONFIG_NAME).is_file());
    let work_tree = || here.ancestors().find(|folder| folder.join(".git").exists());
    Ok(marked.or_else(work_tree).unwrap_or(here).to_path_buf())
}

/// The path in the project that a person means by `typed`, counting from `here`.
pub fn in_project(typed: &Path, here: &Path, root: &Path) -> Result<RepoPath, Failure> {
    let wanted = tidy(&here.join(typed));
    let real_root = root.canonicalize().unwrap_or_else(|_| root.to_path_buf());
    let below =
        wanted.strip_prefix(tidy(root)).or_else(|_| wanted.strip_prefix(&real_root)).ok().map(Path::to_path_buf);
    let below = below.or_else(|| real(&wanted).strip_prefix(&real_root).ok().map(Path::to_path_buf));
    if below.as_ref().is_some_and(|path| path.to_str().is_none()) {
        let message = format!("cannot answer for {}: its name is not UTF-8", typed.display());
        return Err(Failure::told(message, "rename it; instruction files and patterns are text"));
    }
    below.and_then(|path| RepoPath::new(path.to_str()?)).ok_or_else(|| {
        Failure::told(
            format!("{} lies outside of the project {}", typed.display(), root.display()),
            "name a file of the project, or choose another with --root",
        )
    })
}

/// Takes `.` and `..` out without asking the file system, since the file need not exist.
fn tidy(path: &Path) -> PathBuf {
    let mut tidy = PathBuf::new();
    for part in path.components() {
        match part {
            Component::CurDir => {}
            Component::ParentDir => {
                tidy.pop();
            }
            part => tidy.push(part),
        }
    }
    tidy
}

/// The path with the links of its existing folders resolved.
fn real(path: &Path) -> PathBuf {
    for folder in path.ancestors().skip(1) {
        if let (Ok(real), Ok(rest)) = (folder.canonicalize(), path.strip_prefix(folder)) {
            return real.join(rest);
        }
    }
    path.to_path_buf()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_root_is_marked_or_the_work_tree_or_here() {
        let folder = tempfile::tempdir().unwrap();
        let top = folder.path();
        let deep = top.join("a/b/c");
        std::fs::create_dir_all(&deep).unwrap();
        std::fs::create_dir_all(top.join("a/.git")).unwrap();
        assert_eq!(find_root(None, &deep).unwrap(), top.join("a"));
        std::fs::write(top.join("a/b/signpost.toml"), "").unwrap();
        assert_eq!(find_root(None, &deep).unwrap(), top.join("a/b"));
        assert_eq!(find_root(Some(Path::new("..")), &deep).unwrap(), deep.join(".."));
        assert!(find_root(Some(Path::new("gone")), &deep).is_err());
    }

    #[test]
    fn what_a_person_types_counts_from_where_they_are() {
        let folder = tempfile::tempdir().unwrap();
        let root = folder.path().join("root");
        let here = root.join("src");
        std::fs::create_dir_all(&here).unwrap();
        let path = |typed: &str| in_project(Path::new(typed), &here, &root).ok().map(|path| path.to_string());
        assert_eq!(path("main.rs").as_deref(), Some("src/main.rs"));
        assert_eq!(path("./a/../b c.rs").as_deref(), Some("src/b c.rs"));
        assert_eq!(path("../docs/new.md").as_deref(), Some("docs/new.md"));
        assert_eq!(path(".").as_deref(), Some("src"));
        assert_eq!(path("..").as_deref(), Some("."));
        assert_eq!(path("../.."), None);
        assert_eq!(path("/etc/passwd"), None);
        assert_eq!(path(root.join("x").to_str().unwrap()).as_deref(), Some("x"));
    }

    #[cfg(unix)]
    #[test]
    fn a_root_behind_a_link_is_the_same_root() {
        let folder = tempfile::tempdir().unwrap();
        let root = folder.path().join("root");
        std::fs::create_dir_all(&root).unwrap();
        let link = folder.path().join("link");
        std::os::unix::fs::symlink(&root, &link).unwrap();
        let through = link.join("src/main.rs");
        assert_eq!(in_project(&through, &root, &root).unwrap().to_string(), "src/main.rs");
    }
}
