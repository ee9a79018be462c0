//! What git says of a work tree. Asked of git itself, with what a repository could configure to run switched
//! off.

use crate::exit::Failure;
use signpost_core::repo_path::RepoPath;
use std::path::Path;
use std::process::Command;

/// The files that are changed, staged or new, relative to the root; deleted ones are left out.
pub fn changed(root: &Path) -> Result<Vec<RepoPath>, Failure> {
    let has_commit = ask(root, &["rev-parse", "--verify", "--quiet", "HEAD"]).is_ok();
    let mut lists = vec![ask(root, &["ls-files", "-z", "--others", "--exclude-standard"])?];
    if has_commit {
        lists
            .push(ask(root, &["diff", "--name-only", "--relative", "--no-ext-diff", "--diff-filter=d", "-z", "HEAD"])?);
    } else {
        lists.push(ask(root, &["ls-files", "-z", "--cached"])?);
    }
    let mut files: Vec<RepoPath> = lists.iter().flat_map(|list| list.split('\0')).filter_map(RepoPath::new).collect();
    files.retain(|file| !file.is_root() && root.join(file.as_str()).symlink_metadata().is_ok());
    files.sort();
    files.dedup();
    Ok(files)
}

/// So many versions of a file are looked at.
const MOST_VERSIONS: &str = "-n60";

/// The text of a file in the history of this branch whose hash is that of `signpost.lock`.
pub fn version_with(root: &Path, path: &RepoPath, hash: &str) -> Option<String> {
    let commits = ask(root, &["log", "--format=%H", MOST_VERSIONS, "--", path.as_str()]).ok()?;
    commits.lines().find_map(|commit| {
        let text = ask(root, &["show", &format!("{commit}:./{path}")]).ok()?;
        (signpost_core::lock::hash(text.as_bytes()) == hash).then_some(text)
    })
}

fn ask(root: &Path, args: &[&str]) -> Result<String, Failure> {
    let output = Command::new("git")
        .args(["-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null", "--no-optional-locks"])
        .args(args)
        .current_dir(root)
        .output()
        .map_err(|error| Failure::told(format!("cannot run git: {error}"), "--changed needs git"))?;
    if !output.status.success() {
        let said = String::from_utf8_lossy(&output.stderr);
        let said = said.lines().next().unwrap_or("it failed").trim_start_matches("fatal: ").to_owned();
        return Err(Failure::told(format!("git: {said}"), "--changed needs a git work tree"));
    }
    Ok(String::from_utf8_lossy(&output.stdout).into_owned())
}
