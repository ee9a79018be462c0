//! What git says of a work tree. Asked of git itself, and only in ways in which it runs nothing that a repository could
//! name: no filter, text converter, hook, monitor, signature program or remote helper. So files whose times are not those
//! that git noted are not compared as git would, but by the hash of their bytes as they stand.

use crate::exit::Failure;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::files::index::Index;
use std::collections::{BTreeMap, BTreeSet};
use std::io::{Read, Write};
use std::path::Path;
use std::process::{Command, Stdio};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

/// The files that are changed, staged or new, relative to the root; deleted ones are left out. Names that are not UTF-8
/// come apart, for people to read.
pub fn changed(root: &Path, index: &Index) -> Result<(Vec<RepoPath>, Vec<String>), Failure> {
    // Git itself would wait for ever for a pipe in the place of its index.
    let index_file =
        root.ancestors().map(|folder| folder.join(".git/index")).find_map(|file| file.symlink_metadata().ok());
    if index_file.is_some_and(|meta| !meta.is_file()) {
        return Err(Failure::told("git: .git/index is no file", "does `git status` in this work tree?"));
    }
    // Submodules are other work trees.
    let quietly = ["--name-only", "--relative", "--no-renames", "--ignore-submodules=all", "--diff-filter=d", "-z"];
    let mut names: BTreeSet<Vec<u8>> = BTreeSet::new();
    let tracked = staged(root)?;
    if ask(root, &["rev-parse", "--verify", "--quiet", "HEAD"], None).is_ok() {
        let args = [&["diff-index", "--cached"][..], &quietly, &["HEAD"]].concat();
        names.extend(zero_separated(&ask(root, &args, None)?));
    } else {
        names.extend(tracked.keys().cloned());
    }
    let touched = ask_with(root, &[&["diff-files"][..], &quietly].concat(), None, &without_filters(root))?;
    names.extend(really_changed(root, zero_separated(&touched).collect(), &tracked)?);
    let (mut files, mut odd) = (Vec::new(), Vec::new());
    for name in names {
        match String::from_utf8(name) {
            Ok(name) => files.extend(RepoPath::new(&name)),
            Err(error) => odd.push(String::from_utf8_lossy(error.as_bytes()).into_owned()),
        }
    }
    let new = index.every_file().map(|(folder, item)| folder.path.join(item.name));
    files.extend(new.filter(|path| !tracked.contains_key(path.as_str().as_bytes())));
    files.retain(|file| !file.is_root() && root.join(file.as_str()).symlink_metadata().is_ok());
    files.sort();
    files.dedup();
    Ok((files, odd))
}

/// Settings that take every filter's programs away. Of a file that was written in the same moment as the index, git
/// compares the bytes, and would run the filter for that.
fn without_filters(root: &Path) -> Vec<(String, &'static str)> {
    // Without a filter there is none to take away, and the exit code says so.
    let listed =
        ask(root, &["config", "--null", "--name-only", "--get-regexp", "^filter\\."], None).unwrap_or_default();
    let keys = zero_separated(&listed).filter_map(|key| String::from_utf8(key).ok());
    keys.map(|key| if key.ends_with(".required") { (key, "false") } else { (key, "") }).collect()
}

/// Each tracked file with the name of its object.
fn staged(root: &Path) -> Result<BTreeMap<Vec<u8>, String>, Failure> {
    let listed = ask(root, &["ls-files", "-z", "--stage"], None)?;
    let entry = |line: Vec<u8>| {
        let tab = line.iter().position(|byte| *byte == b'\t')?;
        let object = std::str::from_utf8(&line[..tab]).ok()?.split(' ').nth(1)?.to_owned();
        Some((line[tab + 1..].to_vec(), object))
    };
    Ok(zero_separated(&listed).filter_map(entry).collect())
}

/// Of files whose times or sizes are not as git noted them, those whose bytes are others too.
fn really_changed(
    root: &Path,
    touched: Vec<Vec<u8>>,
    tracked: &BTreeMap<Vec<u8>, String>,
) -> Result<Vec<Vec<u8>>, Failure> {
    // What can't be asked about counts as changed: links, and names that do not fit on a line.
    let plain = |name: &Vec<u8>| {
        let path = std::str::from_utf8(name).ok().filter(|path| !path.contains(['\n', '"']));
        path.is_some_and(|path| root.join(path).symlink_metadata().is_ok_and(|meta| meta.is_file()))
    };
    let (asked, mut changed): (Vec<Vec<u8>>, Vec<Vec<u8>>) = touched.into_iter().partition(plain);
    if asked.is_empty() {
        return Ok(changed);
    }
    let list = asked.iter().flat_map(|name| name.iter().copied().chain([b'\n'])).collect();
    let objects = ask(root, &["hash-object", "--no-filters", "--stdin-paths"], Some(list))?;
    let objects = String::from_utf8_lossy(&objects).into_owned();
    let differs = asked
        .into_iter()
        .zip(objects.lines())
        .filter(|(name, object)| tracked.get(name).map(String::as_str) != Some(*object));
    changed.extend(differs.map(|(name, _)| name));
    Ok(changed)
}

fn zero_separated(list: &[u8]) -> impl Iterator<Item = Vec<u8>> {
    list.split(|byte| *byte == 0).filter(|name| !name.is_empty()).map(<[u8]>::to_vec)
}

/// So many versions of a file are looked at.
const MOST_VERSIONS: &str = "-n60";

/// The text of a file in the history of this branch whose hash is that of `signpost.lock`.
pub fn version_with(root: &Path, path: &RepoPath, hash: &str) -> Option<String> {
    let commits = ask(root, &["rev-list", MOST_VERSIONS, "HEAD", "--", path.as_str()], None).ok()?;
    String::from_utf8(commits).ok()?.lines().find_map(|commit| {
        let text = ask(root, &["cat-file", "blob", &format!("{commit}:./{path}")], None).ok()?;
        (signpost_core::project::lock::hash(&text) == hash).then(|| String::from_utf8(text).ok())?
    })
}

/// So many commits are looked at for renames, and files of each compared with so many others.
const MOST_COMMITS: &str = "--max-count=1000";
const MOST_COMPARED: &str = "-l400";

/// What was renamed, old and new name, the newest first: what is staged, then what was committed on this branch. None where
/// git does not know.
pub fn renames(root: &Path) -> Vec<(RepoPath, RepoPath)> {
    let only = ["-M", MOST_COMPARED, "--name-status", "--relative", "--diff-filter=R", "--ignore-submodules=all", "-z"];
    let staged = ask(root, &[&["diff-index", "--cached"][..], &only, &["HEAD"]].concat(), None).unwrap_or_default();
    let mut said = zero_separated(&staged).collect::<Vec<_>>();
    if let Ok(commits) = ask(root, &["rev-list", "--no-merges", MOST_COMMITS, "HEAD"], None) {
        let all = [&["diff-tree", "--stdin", "-r", "--no-commit-id"][..], &only].concat();
        said.extend(zero_separated(&ask(root, &all, Some(commits)).unwrap_or_default()));
    }
    let mut renames = Vec::new();
    let mut said = said.into_iter();
    while let Some(status) = said.next() {
        // `R` and how alike both are.
        if !status.starts_with(b"R") {
            continue;
        }
        let path = |name: Option<Vec<u8>>| RepoPath::new(&String::from_utf8(name?).ok()?);
        let (from, to) = (path(said.next()), path(said.next()));
        renames.extend(from.zip(to));
    }
    renames
}

/// Git may wait for what a repository put in its way, such as a pipe; we do not.
const LONGEST: Duration = Duration::from_secs(30);

fn ask(root: &Path, args: &[&str], input: Option<Vec<u8>>) -> Result<Vec<u8>, Failure> {
    ask_with(root, args, input, &[])
}

fn ask_with(
    root: &Path,
    args: &[&str],
    input: Option<Vec<u8>>,
    settings: &[(String, &'static str)],
) -> Result<Vec<u8>, Failure> {
    let failed = |error: std::io::Error| Failure::told(format!("cannot run git: {error}"), "--changed needs git");
    let mut child = Command::new("git")
        .args(["-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null", "--no-optional-locks"])
        .args(["--literal-pathspecs"])
        .args(args)
        .env("GIT_NO_LAZY_FETCH", "1")
        .env("GIT_PAGER", "cat")
        .env("GIT_TERMINAL_PROMPT", "0")
        .envs(as_environment(settings))
        .current_dir(root)
        .stdin(if input.is_some() { Stdio::piped() } else { Stdio::null() })
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .map_err(failed)?;
    let (stdin, stdout, stderr) = (child.stdin.take(), child.stdout.take(), child.stderr.take());
    let (out, err) = (stdout.map(drained), stderr.map(drained));
    let feed = std::thread::spawn(move || {
        // Git may end before it has read all; its exit code speaks then.
        let _ = stdin.zip(input).map(|(mut pipe, bytes)| pipe.write_all(&bytes));
    });
    let started = Instant::now();
    let status = loop {
        if let Some(status) = child.try_wait().map_err(failed)? {
            break status;
        }
        if started.elapsed() > LONGEST {
            let _ = child.kill();
            let _ = child.wait();
            return Err(Failure::told("git does not answer", "does `git status` in this work tree?"));
        }
        std::thread::sleep(Duration::from_millis(if started.elapsed() < Duration::from_millis(50) { 1 } else { 10 }));
    };
    let _ = feed.join();
    let all = |reader: Option<JoinHandle<Vec<u8>>>| reader.and_then(|one| one.join().ok()).unwrap_or_default();
    let (out, err) = (all(out), all(err));
    if !status.success() {
        let said = String::from_utf8_lossy(&err);
        let said = said.lines().next().unwrap_or("it failed").trim_start_matches("fatal: ").to_owned();
        return Err(Failure::told(format!("git: {said}"), "--changed needs a git work tree"));
    }
    Ok(out)
}

/// Settings for git behind those that the environment has already. On the command line a name with `=` in it would be cut.
fn as_environment(settings: &[(String, &'static str)]) -> Vec<(String, String)> {
    let first: usize = std::env::var("GIT_CONFIG_COUNT")
        .ok()
        .and_then(|count| count.parse::<u32>().ok())
        .map_or(0, |count| count as usize);
    let mut all = Vec::new();
    for (number, (key, value)) in (first..).zip(settings) {
        all.push((format!("GIT_CONFIG_KEY_{number}"), key.clone()));
        all.push((format!("GIT_CONFIG_VALUE_{number}"), (*value).to_owned()));
        all.push(("GIT_CONFIG_COUNT".to_owned(), (number + 1).to_string()));
    }
    all
}

/// Reads a pipe to its end, beside everything else: a full one would stop git.
fn drained(mut pipe: impl Read + Send + 'static) -> JoinHandle<Vec<u8>> {
    std::thread::spawn(move || {
        let mut bytes = Vec::new();
        // What was read until the pipe broke is all that there is.
        let _ = pipe.read_to_end(&mut bytes);
        bytes
    })
}

#[cfg(test)]
mod tests;
