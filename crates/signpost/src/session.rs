//! What every command starts from: the project on disk, and what is said about it on standard error.

use crate::exit::{Exit, Failure};
use crate::options::Global;
use crate::paths;
use crate::render::{self, snippet};
use signpost_core::base::repo_path::RepoPath;
use signpost_core::base::tokens::Weigher;
use signpost_core::base::wording::{count, size};
use signpost_core::change::draft_profile::guess;
use signpost_core::files::{DiskTree, Tree, TreeError, door};
use signpost_core::profile::Origin;
use signpost_core::project::workspace::{Project, Workspace, WorkspaceError};
use std::cell::RefCell;
use std::io::IsTerminal;
use std::path::{Path, PathBuf};
use std::sync::mpsc::RecvTimeoutError;
use std::time::{Duration, Instant};

/// One run of a command.
pub struct Session {
    /// The project.
    pub tree: DiskTree,
    here: PathBuf,
    root: PathBuf,
    user_profiles: Vec<(String, String)>,
    verbose: bool,
    exact: bool,
    started: Instant,
    /// What was asked for and can't be answered, as the person wrote it, with the reason.
    refused: RefCell<Vec<(String, Failure)>>,
}

#[cfg(feature = "exact")]
fn vocabulary() -> Result<Weigher, Failure> {
    Ok(signpost_core::base::tokens::exact)
}

#[cfg(not(feature = "exact"))]
fn vocabulary() -> Result<Weigher, Failure> {
    Err(Failure::told(
        "this signpost was built without the vocabulary that `--exact` needs",
        "leave `--exact` out, or build it with `--features exact`",
    ))
}

impl Session {
    /// Finds the project.
    pub fn open(global: &Global) -> Result<Self, Failure> {
        let started = Instant::now();
        let here = std::env::current_dir().map_err(|error| {
            Failure::told(format!("cannot tell the current folder: {error}"), "change to one that exists")
        })?;
        let root = paths::find_root(global.root.as_deref(), &here)?;
        let home = match &global.home {
            Some(home) if !home.is_dir() => {
                return Err(Failure::told(format!("the home folder {} does not exist", home.display()), ""));
            }
            Some(home) => Some(home.clone()),
            None => std::env::home_dir().filter(|home| home.is_dir()),
        };
        let tree = DiskTree::open(&root, home.as_deref())
            .map_err(|error| Failure::told(format!("cannot open {}: {error}", root.display()), ""))?;
        let user_profiles = user_profiles(home.as_deref())?;
        Ok(Session {
            tree,
            here,
            root,
            user_profiles,
            verbose: global.verbose,
            exact: global.exact,
            started,
            refused: RefCell::default(),
        })
    }

    /// Reads the settings and profiles, and says nothing of them.
    pub fn workspace_quietly(&self) -> Result<Workspace<'_>, Failure> {
        let workspace = Workspace::open(&self.tree, &self.user_profiles)?;
        signpost_core::check::settings::validate(&workspace).map_err(WorkspaceError::from)?;
        Ok(workspace)
    }

    /// Reads the settings and profiles, for a command that writes: with one of them unknown it would do half.
    pub fn workspace(&self) -> Result<Workspace<'_>, Failure> {
        let workspace = self.workspace_to_read()?;
        match workspace.broken.first() {
            Some(broken) => Err(broken.clone().into()),
            None => Ok(workspace),
        }
    }

    /// Reads the settings and profiles, and walks the project, for a command that only reads. What no profile describes is
    /// guessed, unless that is unwanted.
    pub fn read(&self, global: &Global) -> Result<(Workspace<'_>, Project), Failure> {
        let mut workspace = self.workspace_to_read()?;
        let project = self.project(&workspace)?;
        let project = self.guess(&mut workspace, project, global)?;
        Ok((workspace, project))
    }

    /// Whether profiles may be guessed: not where that is switched off, nor where somebody has said which assistants are in
    /// use. Another one may be asked for all the same.
    pub fn may_guess(&self, workspace: &Workspace<'_>, global: &Global) -> bool {
        let named = |name: &String| workspace.profiles.iter().any(|profile| profile.name == *name);
        let limited = match &global.assistant[..] {
            [] => workspace.config.project.assistants.is_some(),
            asked => asked.iter().all(named),
        };
        !global.no_guess && workspace.config.project.guess != Some(false) && !limited
    }

    /// Guesses the profiles of files that none describes.
    pub fn guess(&self, workspace: &mut Workspace<'_>, project: Project, global: &Global) -> Result<Project, Failure> {
        if !self.may_guess(workspace, global) {
            return Ok(project);
        }
        let guesses = self.patiently("Guessing", || guess(workspace, &project));
        Ok(workspace.with_guesses(guesses, project)?)
    }

    /// Says of whom the answer is a guess.
    pub fn say_guesses(&self, workspace: &Workspace<'_>, project: &Project) {
        for (profile, found) in workspace.profiles.iter().zip(&project.candidates) {
            if profile.origin == Origin::Guessed {
                let files = count(found.len(), "file");
                let message =
                    format!("{} is a guess from {files}: `signpost profile draft --write` keeps it", profile.title);
                anstream::eprintln!("{}", snippet::plain("note", &message));
            }
        }
    }

    /// Says which assistants are left out because nobody has written their profiles: nothing is written on a guess.
    pub fn say_undescribed(&self, workspace: &Workspace<'_>, project: &Project, global: &Global) {
        if !self.may_guess(workspace, global) {
            return;
        }
        for profile in guess(workspace, project) {
            let message = format!("nothing is done for {}, which no profile describes", profile.title);
            let help = "`signpost profile draft --write` writes one, to be read through";
            anstream::eprintln!("{}", snippet::plain("note", &format!("{message}: {help}")));
        }
    }

    /// Reads the settings and those profiles that can be used.
    pub fn workspace_to_read(&self) -> Result<Workspace<'_>, Failure> {
        let mut workspace = self.workspace_quietly()?;
        if self.exact {
            workspace = workspace.weighing_with(vocabulary()?);
            crate::render::count_exactly();
        }
        for remark in &workspace.remarks {
            anstream::eprintln!("{}", snippet::config_error(remark, "warning"));
        }
        if self.verbose {
            anstream::eprintln!("root: {}", self.tree.root().display());
            for profile in &workspace.profiles {
                anstream::eprintln!("profile: {} ({:?}, {})", profile.name, profile.origin, profile.file);
            }
        }
        Ok(workspace)
    }

    /// Does what may take long, and says so on a terminal where it takes over a second.
    pub fn patiently<T>(&self, what: &str, work: impl FnOnce() -> T) -> T {
        if !std::io::stderr().is_terminal() {
            return work();
        }
        let (done, waits) = std::sync::mpsc::channel::<()>();
        let message = format!("{what} …");
        std::thread::scope(|scope| {
            scope.spawn(move || {
                if waits.recv_timeout(Duration::from_secs(1)) == Err(RecvTimeoutError::Timeout) {
                    anstream::eprint!("{message}");
                    // The line is taken back when the work is done.
                    let _ = waits.recv();
                    anstream::eprint!("\r{}\r", " ".repeat(message.chars().count()));
                }
            });
            let result = work();
            drop(done);
            result
        })
    }

    /// The whole project: one walk over all of its folders.
    pub fn project(&self, workspace: &Workspace<'_>) -> Result<Project, Failure> {
        Ok(self.patiently("Reading the project", || workspace.project())?)
    }

    /// The root on disk.
    pub fn root(&self) -> &Path {
        self.tree.root()
    }

    /// The path in the project that a person typed.
    pub fn path(&self, typed: &Path) -> Result<RepoPath, Failure> {
        paths::in_project(typed, &self.here, &self.root)
    }

    /// What could not be read, each once: of the tree and of the files that the workspace asked for.
    pub fn unread(&self, workspace: &Workspace<'_>) -> Vec<TreeError> {
        let mut unread = self.tree.unread();
        unread.extend(workspace.troubles().iter().filter_map(|document| document.error.clone()));
        unread.sort_by_cached_key(ToString::to_string);
        unread.dedup();
        unread
    }

    /// Notes something that was asked for and can't be answered; the rest is.
    pub fn refuse(&self, asked: String, why: Failure) {
        self.refused.borrow_mut().push((asked, why));
    }

    /// Prints a result as one JSON document, which says what could not be read too.
    pub fn print_json(&self, workspace: &Workspace<'_>, value: &impl serde::Serialize) -> Result<(), Failure> {
        let unread = || {
            let unread = self.unread(workspace);
            let unread = unread.iter().map(|error| (error.path().to_string(), error.why()));
            let refused = self.refused.borrow();
            let broken = workspace.broken.iter().map(|error| (error.file(), error.to_string()));
            unread.chain(broken).chain(refused.iter().map(|(asked, why)| (asked.clone(), why.message()))).collect()
        };
        render::print_json(&render::Whole { document: value, unread: render::Unread(&unread) })
    }

    /// Says what could not be read. What follows from the rest still holds, but not wholly.
    pub fn end(&self, workspace: &Workspace<'_>) -> Exit {
        let unread = self.unread(workspace);
        for error in &unread {
            anstream::eprintln!("{}", snippet::plain("error", &error.to_string()));
        }
        let refused = self.refused.borrow();
        refused.iter().for_each(|(_, why)| crate::render::failure(why));
        workspace.broken.iter().for_each(|error| crate::render::failure(&error.clone().into()));
        let all = unread.is_empty() && refused.is_empty() && workspace.broken.is_empty();
        let exit = if all { Exit::Fine } else { Exit::Failed };
        for document in workspace.troubles() {
            if document.error.is_some() {
                continue;
            } else if let Some(line) = document.bad_line() {
                let message = format!("{}: line {line} is not UTF-8; the bytes are read as �", document.location);
                anstream::eprintln!("{}", snippet::plain("warning", &message));
            } else {
                let message = format!(
                    "{} is {} long ({}), more than any assistant reads",
                    document.location,
                    size(document.bytes),
                    count(document.lines, "line")
                );
                anstream::eprintln!("{}", snippet::plain("warning", &message));
            }
        }
        if self.verbose {
            anstream::eprintln!("took {} ms", self.started.elapsed().as_millis());
        }
        exit
    }
}

/// No profile is longer.
pub const MOST_PROFILE_BYTES: u64 = 1 << 20;

/// The person's own profiles: `$XDG_CONFIG_HOME/signpost/profiles/*.toml`.
fn user_profiles(home: Option<&Path>) -> Result<Vec<(String, String)>, Failure> {
    let config = std::env::var_os("XDG_CONFIG_HOME").map(PathBuf::from).filter(|path| path.is_absolute());
    let Some(config) = config.or_else(|| home.map(|home| home.join(".config"))) else { return Ok(Vec::new()) };
    let Ok(entries) = std::fs::read_dir(config.join("signpost/profiles")) else { return Ok(Vec::new()) };
    let mut files: Vec<PathBuf> = entries.flatten().map(|entry| entry.path()).collect();
    files.retain(|path| path.extension().is_some_and(|ending| ending == "toml"));
    files.sort();
    let read = |path: PathBuf| {
        let text = door::read_text(&path, MOST_PROFILE_BYTES)
            .map_err(|error| Failure::told(format!("cannot read the profile {}: {error}", path.display()), ""))?;
        Ok((path.display().to_string(), text))
    };
    files.into_iter().map(read).collect()
}
