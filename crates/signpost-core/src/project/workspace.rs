//! A project as Signpost sees it: a tree, the profiles that apply, the settings, and the rules found.

use crate::base::repo_path::{Location, RepoPath};
use crate::base::tokens::{self, Weigher};
use crate::base::toml_file::{ConfigError, nearest, parse_toml};
use crate::config::{CONFIG_NAME, Config};
use crate::files::index::Index;
use crate::files::{EntryKind, Look, Overlay, Tree, TreeError};
use crate::profile::{Origin, Profile, built_in};
use crate::project::discovery::{Candidate, Finder, pick};
use crate::project::guidance;
use crate::project::lock::Lock;
use crate::project::rule::{Document, Rule};
use crate::project::settled::{SETTLED_FILE, Settled};
use rustc_hash::FxHashMap;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// From this size on a file deserves a word: no assistant reads so much.
const LARGE_FILE_BYTES: u64 = crate::base::wording::MOST_WORDS as u64 + 1;
pub use crate::base::own_files::LOCK_FILE;
/// The folder of the project's own profiles.
pub const PROFILES_FOLDER: &str = "guidance/profiles";

/// Why a project can't be worked on.
#[derive(thiserror::Error, Clone, Debug)]
pub enum WorkspaceError {
    /// A mistake in a profile or in `signpost.toml`.
    #[error(transparent)]
    Config(#[from] Box<ConfigError>),
    /// A file could not be read.
    #[error(transparent)]
    Tree(#[from] TreeError),
    /// A name that no profile has.
    #[error("there is no assistant `{name}`")]
    UnknownAssistant {
        /// The name.
        name: String,
        /// The nearest one.
        near: Option<String>,
        /// All that there are.
        known: Vec<String>,
    },
}

impl WorkspaceError {
    /// The file that it is about; of a name, that.
    pub fn file(&self) -> String {
        match self {
            WorkspaceError::Config(error) => error.file.clone(),
            WorkspaceError::Tree(error) => error.path().to_string(),
            WorkspaceError::UnknownAssistant { name, .. } => name.clone(),
        }
    }
}

/// Every folder of a project, with the instruction files of every profile.
#[derive(Debug)]
pub struct Project {
    /// All files; instruction files and Signpost's own are marked as no source files.
    pub index: Index,
    /// The instruction files of each profile, in the order of [`Workspace::profiles`].
    pub candidates: Vec<Vec<Candidate>>,
    /// Files that a profile would read, were it not for another one of the same place and folder (the
    /// second half), by profile.
    pub displaced: Vec<Vec<(Candidate, Location)>>,
}

/// A project.
pub struct Workspace<'t> {
    tree: &'t dyn Tree,
    /// Every profile that applies, by name.
    pub profiles: Vec<Profile>,
    /// `signpost.toml`.
    pub config: Config,
    /// The text of `signpost.toml`, for errors about it.
    pub config_text: String,
    /// Remarks on profiles that are valid but costly.
    pub remarks: Vec<ConfigError>,
    /// Profiles that can't be used, each with the reason. The others can.
    pub broken: Vec<WorkspaceError>,
    documents: Mutex<FxHashMap<Location, Arc<OnceLock<Arc<Document>>>>>,
    /// Rules by profile and file: a file belongs to one place of a profile.
    rules: Mutex<FxHashMap<(String, Location), Arc<Rule>>>,
    weigher: Weigher,
}

/// One assistant's profile with its rules.
#[derive(Debug)]
pub struct Assistant<'w> {
    /// The profile.
    pub profile: &'w Profile,
    /// Its rules everywhere, in the order of a brief.
    pub rules: Vec<Arc<Rule>>,
}

impl<'t> Workspace<'t> {
    /// Reads the settings and profiles. `user_profiles` are the file names and texts of the person's own. A profile with a
    /// mistake is put aside in [`Workspace::broken`].
    ///
    /// # Errors
    /// The settings have a mistake, or can't be read.
    pub fn open(tree: &'t dyn Tree, user_profiles: &[(String, String)]) -> Result<Self, WorkspaceError> {
        let mut remarks = Vec::new();
        let mut profiles = built_in();
        let mut add = |file: &str, text: &str, origin| -> Result<(), WorkspaceError> {
            let (profile, said) = Profile::parse(file, text, origin)?;
            remarks.extend(said);
            match profiles.iter_mut().find(|other| other.name == profile.name) {
                Some(other) if other.origin == origin => {
                    let message = format!("the name `{}` is taken by {}", profile.name, other.file);
                    let at = text.find(&profile.name).unwrap_or(0);
                    let help = Some("names of profiles are unique".to_owned());
                    return Err(ConfigError::new(file, text, at..at + profile.name.len(), message, help).into());
                }
                Some(other) => *other = profile,
                None => profiles.push(profile),
            }
            Ok(())
        };
        let mut broken: Vec<WorkspaceError> = Vec::new();
        for (file, text) in user_profiles {
            broken.extend(add(file, text, Origin::User).err());
        }
        let folder = Location::root(RepoPath::new(PROFILES_FOLDER).expect("a constant path is valid"));
        for entry in tree.list(&folder)? {
            if entry.kind != EntryKind::Folder && entry.name.ends_with(".toml") {
                let location = folder.join(&entry.name);
                let added =
                    read_text(tree, &location).and_then(|text| add(&location.to_string(), &text, Origin::Project));
                broken.extend(added.err());
            }
        }
        profiles.sort_by(|a, b| a.name.cmp(&b.name));
        let config_at = Location::root(RepoPath::root().join(CONFIG_NAME));
        let mut workspace = Workspace {
            tree,
            profiles,
            config: Config::default(),
            config_text: String::new(),
            remarks,
            broken,
            documents: Mutex::default(),
            rules: Mutex::default(),
            weigher: tokens::estimate,
        };
        if matches!(tree.look(&config_at), Look::File(_)) {
            let text = read_text(tree, &config_at)?;
            workspace.config = parse_toml(CONFIG_NAME, &text)?;
            workspace.check_config(&text)?;
            workspace.config_text = text;
        }
        Ok(workspace)
    }

    /// The project as it would be with some files changed. Settings and profiles stay as they are, and what was read of
    /// other files is not read again.
    pub fn over<'o>(&self, tree: &'o Overlay<'_>) -> Workspace<'o> {
        let documents = self.documents.lock().unwrap_or_else(PoisonError::into_inner);
        let same = documents.iter().filter(|(location, _)| !tree.changes(location));
        Workspace {
            tree,
            profiles: self.profiles.clone(),
            config: self.config.clone(),
            config_text: self.config_text.clone(),
            remarks: Vec::new(),
            broken: Vec::new(),
            documents: Mutex::new(same.map(|(location, place)| (location.clone(), place.clone())).collect()),
            rules: Mutex::default(),
            weigher: self.weigher,
        }
    }

    fn check_config(&self, text: &str) -> Result<(), Box<ConfigError>> {
        for name in self.config.project.assistants.iter().flatten() {
            if !self.profiles.iter().any(|profile| profile.name == *name.get_ref()) && self.broken.is_empty() {
                let message = format!("there is no profile `{}`", name.get_ref());
                let help = match nearest(name.get_ref(), self.names()) {
                    Some(near) => format!("did you mean `{near}`?"),
                    None => format!(
                        "profiles stand in {PROFILES_FOLDER}/; there are: {}",
                        self.names().collect::<Vec<_>>().join(", ")
                    ),
                };
                return Err(ConfigError::new(CONFIG_NAME, text, name.span(), message, Some(help)));
            }
        }
        for allowed in &self.config.parity.allow {
            if let Some(name) = allowed.assistants.iter().find(|name| !self.names().any(|own| own == name.get_ref())) {
                let help = match nearest(name.get_ref(), self.names()) {
                    Some(near) => format!("did you mean `{near}`?"),
                    None => format!("there are: {}", self.names().collect::<Vec<_>>().join(", ")),
                };
                let message = format!("there is no profile `{}`", name.get_ref());
                return Err(ConfigError::new(CONFIG_NAME, text, name.span(), message, Some(help)));
            }
            if allowed.reason.get_ref().trim().is_empty() {
                let help = Some("say why the assistants may be told different things".to_owned());
                return Err(ConfigError::new(CONFIG_NAME, text, allowed.reason.span(), "the reason is empty", help));
            }
        }
        Ok(())
    }

    fn names(&self) -> impl Iterator<Item = &str> {
        self.profiles.iter().map(|profile| profile.name.as_str())
    }

    /// The name that people read of an assistant.
    pub fn title_of<'n>(&'n self, name: &'n str) -> &'n str {
        self.profiles.iter().find(|profile| profile.name == name).map_or(name, |profile| &profile.title)
    }

    /// The tree.
    pub fn tree(&self) -> &'t dyn Tree {
        self.tree
    }

    /// The profiles asked for: by name, else those of `signpost.toml`; `None` where neither says.
    ///
    /// # Errors
    /// A name that no profile has.
    pub fn selected(&self, names: &[String]) -> Result<Option<Vec<&Profile>>, WorkspaceError> {
        // One whose profile is broken is spoken of elsewhere.
        let usable = |name: &String| self.broken.is_empty() || self.names().any(|known| known == name);
        let configured = || {
            let names = self.config.project.assistants.iter().flatten().map(|name| name.get_ref().clone());
            names.filter(usable).collect()
        };
        let names: Vec<String> = match (names, &self.config.project.assistants) {
            ([], None) => return Ok(None),
            ([], Some(_)) => configured(),
            (names, _) => names.to_vec(),
        };
        let mut chosen: Vec<&Profile> = Vec::new();
        for name in names {
            let found = self.profiles.iter().find(|profile| profile.name == name);
            let profile = found.ok_or_else(|| WorkspaceError::UnknownAssistant {
                near: nearest(&name, self.names()).map(str::to_owned),
                known: self.names().map(str::to_owned).collect(),
                name: name.clone(),
            })?;
            if !chosen.iter().any(|other| other.name == profile.name) {
                chosen.push(profile);
            }
        }
        Ok(Some(chosen))
    }

    /// A file's text, read once.
    pub fn document(&self, location: &Location) -> Arc<Document> {
        // Nothing is held while the disk is read but the place for this very file.
        let place = {
            let mut documents = self.documents.lock().unwrap_or_else(PoisonError::into_inner);
            documents.entry(location.clone()).or_default().clone()
        };
        place.get_or_init(|| Arc::new(Document::read(self.tree, location, self.weigher))).clone()
    }

    /// Counts tokens in this way from now on.
    #[must_use]
    pub fn weighing_with(mut self, weigher: Weigher) -> Self {
        self.weigher = weigher;
        self
    }

    /// What a text weighs.
    pub fn weigh(&self, text: &str) -> usize {
        (self.weigher)(text)
    }

    /// Reads a candidate of a profile, once.
    pub fn rule(&self, profile: &Profile, found: Candidate) -> Arc<Rule> {
        let key = (profile.name.clone(), found.file.clone());
        if let Some(rule) = self.rules.lock().unwrap_or_else(PoisonError::into_inner).get(&key) {
            return rule.clone();
        }
        let document = self.document(&found.file);
        let rule = Arc::new(Rule::read(profile, found, document));
        self.rules.lock().unwrap_or_else(PoisonError::into_inner).insert(key, rule.clone());
        rule
    }

    /// Walks the whole project once and finds every profile's instruction files.
    ///
    /// # Errors
    /// The root, or a folder of the home folder, cannot be listed.
    pub fn project(&self) -> Result<Project, TreeError> {
        self.found_in(self.tree.index()?)
    }

    /// Takes profiles in that nobody wrote, and finds the files of all anew.
    ///
    /// # Errors
    /// A folder of the home folder cannot be listed.
    pub fn with_guesses(&mut self, guesses: Vec<Profile>, project: Project) -> Result<Project, TreeError> {
        if guesses.is_empty() {
            return Ok(project);
        }
        self.profiles.extend(guesses);
        self.profiles.sort_by(|a, b| a.name.cmp(&b.name));
        self.found_in(project.index)
    }

    /// The profiles that were guessed.
    pub fn guessed(&self) -> impl Iterator<Item = &Profile> {
        self.profiles.iter().filter(|profile| profile.origin == Origin::Guessed)
    }

    fn found_in(&self, mut index: Index) -> Result<Project, TreeError> {
        let finder = Finder::new(self.tree, Some(&index));
        let find = |profile: &Profile| -> Result<Vec<Candidate>, TreeError> {
            let mut found = Vec::new();
            for place in 0..profile.places.len() {
                found.extend(finder.everywhere(profile, place)?);
            }
            Ok(found)
        };
        let candidates = self.profiles.iter().map(find).collect::<Result<Vec<_>, _>>()?;
        let (mut kept, mut displaced) = (Vec::new(), Vec::new());
        for (profile, found) in self.profiles.iter().zip(candidates) {
            let (silent, read): (Vec<_>, Vec<_>) = pick(profile, found).into_iter().partition(|(_, by)| by.is_some());
            kept.push(read.into_iter().map(|(found, _)| found).collect::<Vec<_>>());
            displaced.push(silent.into_iter().filter_map(|(found, by)| Some((found, by?))).collect());
        }
        let candidates = kept;
        for path in candidates.iter().flatten().filter_map(|found| found.file.in_root()) {
            index.mark_ours(path);
        }
        for name in [CONFIG_NAME, LOCK_FILE] {
            index.mark_ours(&RepoPath::root().join(name));
        }
        index.mark_folders(is_guidance);
        Ok(Project { index, candidates, displaced })
    }

    /// Every rule of a profile, in the order of a brief.
    pub fn rules(&self, profile: &Profile, project: &Project) -> Vec<Arc<Rule>> {
        let number = self.profiles.iter().position(|other| other.name == profile.name).unwrap_or_default();
        let mut rules: Vec<Arc<Rule>> =
            project.candidates[number].iter().map(|found| self.rule(profile, found.clone())).collect();
        rules.sort_by_cached_key(|rule| rule.sort_key(profile));
        rules
    }

    /// The assistants asked for, else those that have files in the project, each with all its rules.
    ///
    /// # Errors
    /// A name that no profile has.
    pub fn assistants(&self, names: &[String], project: &Project) -> Result<Vec<Assistant<'_>>, WorkspaceError> {
        let profiles = match self.selected(names)? {
            Some(selected) => selected,
            None => {
                let in_use = |found: &[Candidate]| found.iter().any(|found| found.file.in_root().is_some());
                let pairs = self.profiles.iter().zip(&project.candidates);
                pairs.filter(|(_, found)| in_use(found)).map(|(profile, _)| profile).collect()
            }
        };
        Ok(profiles.into_iter().map(|profile| Assistant { profile, rules: self.rules(profile, project) }).collect())
    }

    /// What publishing wrote last; empty where nothing was published yet.
    ///
    /// # Errors
    /// `signpost.lock` can't be read, or is not what publishing writes.
    pub fn lock(&self) -> Result<Lock, WorkspaceError> {
        let at = Location::root(RepoPath::root().join(LOCK_FILE));
        match self.tree.look(&at) {
            Look::Nothing => Ok(Lock::default()),
            _ => Ok(Lock::parse(&read_text(self.tree, &at)?)?),
        }
    }

    /// What somebody decided of pairs of directives; empty where nothing was.
    ///
    /// # Errors
    /// `guidance/settled.toml` can't be read, or is not as it should be.
    pub fn settled(&self) -> Result<Settled, WorkspaceError> {
        Ok(Settled::parse(&self.settled_text()?)?)
    }

    /// The same as it is written.
    ///
    /// # Errors
    /// It can't be read.
    pub fn settled_text(&self) -> Result<String, WorkspaceError> {
        let at = Location::root(RepoPath::root().join(SETTLED_FILE));
        match self.tree.look(&at) {
            Look::Nothing => Ok(String::new()),
            _ => read_text(self.tree, &at),
        }
    }

    /// The rules of the guidance, as if they were an assistant's; `None` where there are none.
    ///
    /// # Errors
    /// A folder cannot be listed.
    pub fn guidance(&self, project: &Project) -> Result<Option<Assistant<'static>>, TreeError> {
        let profile = guidance::profile();
        let found = Finder::new(self.tree, Some(&project.index)).everywhere(profile, 0)?;
        let mut rules: Vec<Arc<Rule>> = found.into_iter().map(|found| self.rule(profile, found)).collect();
        rules.sort_by_cached_key(|rule| rule.sort_key(profile));
        Ok((!rules.is_empty()).then_some(Assistant { profile, rules }))
    }

    /// What could not be read of all that was asked for, what is not UTF-8, and what is very large.
    pub fn troubles(&self) -> Vec<Arc<Document>> {
        let documents = self.documents.lock().unwrap_or_else(PoisonError::into_inner);
        let mut troubles: Vec<_> = documents
            .values()
            .filter_map(|place| place.get())
            .filter(|document| {
                document.error.is_some() || document.bad_line().is_some() || document.bytes >= LARGE_FILE_BYTES
            })
            .cloned()
            .collect();
        troubles.sort_by(|a, b| a.location.cmp(&b.location));
        troubles
    }
}

/// What stands in `guidance/` at the root, or in the `guidance/rules/` of a part, is no source file.
fn is_guidance(folder: &RepoPath) -> bool {
    // Hardly any folder's path holds the word at all.
    folder.as_str().contains("guidance") && {
        let parts: Vec<&str> = folder.components().collect();
        parts.first() == Some(&"guidance") || parts.windows(2).any(|pair| pair == ["guidance", "rules"])
    }
}

fn read_text(tree: &dyn Tree, at: &Location) -> Result<String, WorkspaceError> {
    let bytes = tree.read(at)?;
    String::from_utf8(bytes).map_err(|error| {
        let good = error.utf8_error().valid_up_to();
        let text = String::from_utf8_lossy(error.as_bytes()).into_owned();
        let help = Some("save the file as UTF-8".to_owned());
        ConfigError::new(&at.to_string(), &text, good..good, "this byte is not UTF-8", help).into()
    })
}
