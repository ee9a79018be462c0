//! Publishing: each assistant's files, written from the guidance through its profile.
//!
//! [`plan`] says what should stand where: one file a rule where an assistant has scopes, the tightest folder
//! where it only has folders, and sections of one file, under headings that say what they apply to, where that
//! is all it reads. What an assistant can't express is a [`Loss`], never silent. A plan is pure: nothing is read
//! but the guidance, the profiles and, for `when`, the manifests; nothing is written. [`changes`] holds a plan
//! against the tree and `signpost.lock`, and says what would have to be done and what must not be touched.
//!
//! What it does *not* do: it never writes at user level, in personal copies or in roles.

mod alike;
pub mod changes;
pub mod compose;
mod fill;
pub mod header;
mod links;
pub(crate) mod options;
mod pinned;
mod place;
pub mod source;

use crate::base::repo_path::{Location, RepoPath};
use crate::base::toml_file::ConfigError;
use crate::facts::Facts;
use crate::files::index::Folder;
use crate::files::{EntryKind, Look, TreeError};
use crate::pattern::Pattern;
use crate::profile::{Kind, Level, Profile, Reach};
use crate::project::discovery::Finder;
use crate::project::guidance;
use crate::project::workspace::{Assistant, Project, Workspace};
use crate::resolve::zones::{Zones, partition};
use compose::{Part, Segment};
use links::{keep_links, link_same};
use rustc_hash::FxHashMap;
use source::{Source, Unpublished};
use std::cell::OnceCell;
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// Why nothing can be published.
#[derive(thiserror::Error, Clone, Debug)]
pub enum PublishError {
    /// A mistake in a rule's header.
    #[error(transparent)]
    Config(#[from] Box<ConfigError>),
    /// Something could not be read.
    #[error(transparent)]
    Tree(#[from] TreeError),
}

/// What is lost where an assistant can't express a rule.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum LossKind {
    /// It is told about more files than meant.
    WiderReach,
    /// Its braces are spelled out as several patterns; it takes the same files.
    SpelledOut {
        /// The pattern as the guidance writes it.
        pattern: String,
    },
    /// It gets to the assistant in another way.
    Changed {
        /// What was meant.
        from: Reach,
        /// What it is.
        to: Reach,
    },
    /// The assistant does not get it.
    LeftOut {
        /// What was meant.
        reach: Reach,
        /// Whether it would have been beyond the assistant's limit.
        no_room: bool,
    },
    /// Some of it is beyond the assistant's limit.
    OverLimit {
        /// Bytes beyond it.
        bytes: u64,
    },
    /// Another assistant reads the file too, and was not meant to be told.
    AlsoRead {
        /// The other assistant.
        by: String,
    },
}

impl LossKind {
    /// Its name, for programs and for people to look up.
    pub fn name(&self) -> &'static str {
        match self {
            LossKind::WiderReach => "wider-reach",
            LossKind::SpelledOut { .. } => "spelled-out",
            LossKind::Changed { to: Reach::Standing, .. } => "told-always",
            LossKind::Changed { .. } => "other-reach",
            LossKind::LeftOut { .. } => "left-out",
            LossKind::OverLimit { .. } => "over-limit",
            LossKind::AlsoRead { .. } => "also-read",
        }
    }
}

/// Something that an assistant can't express.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Loss {
    /// What.
    pub kind: LossKind,
    /// The assistant, by name.
    pub assistant: String,
    /// The rule.
    pub rule: RepoPath,
    /// The file that it is written to.
    pub file: Option<RepoPath>,
    /// How many source files it is meant for.
    pub meant: usize,
    /// How many source files it is told about.
    pub told: usize,
    /// What the rule weighs.
    pub tokens: usize,
}

/// What stands in a published file.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Content {
    /// This text.
    Text(String),
    /// What stands in another published file, through a link with this target.
    Link(String),
}

/// A file to be published.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Planned {
    /// Where.
    pub path: RepoPath,
    /// What.
    pub content: Content,
    /// For whom, by name, sorted.
    pub assistants: Vec<String>,
    /// From which rules.
    pub sources: Vec<RepoPath>,
    /// Where each rule's text stands in it.
    pub segments: Vec<Segment>,
    /// Where the text after the header and the remark begins.
    pub body: usize,
}

/// What should stand where.
#[derive(Debug, Default)]
pub struct Plan {
    /// The files, by path.
    pub files: Vec<Planned>,
    /// What can't be expressed.
    pub losses: Vec<Loss>,
    /// Rules that nobody gets.
    pub unpublished: Vec<Unpublished>,
    /// The assistants that it is for, by name.
    pub assistants: Vec<String>,
    /// The rules that it was made from.
    pub sources: Vec<Source>,
    /// Whether it is for some assistants only, so that it says nothing of the files of others.
    pub partial: bool,
    /// Every profile of the project: only what one of them reads was ever published.
    pub profiles: Vec<Profile>,
}

/// A file while it is put together.
struct Draft {
    /// The number of the profile that asked for it first, and its place.
    owner: (usize, usize),
    anchor: RepoPath,
    block: String,
    parts: Vec<Part>,
    assistants: Vec<usize>,
    shared: bool,
    /// What its rules keep for the owner, each as lines of the header.
    kept: Vec<String>,
}

/// Plans what to publish for some assistants.
///
/// # Errors
/// A rule's header holds something that would be lost or misunderstood, or a file can't be read.
pub fn plan(workspace: &Workspace<'_>, project: &Project, profiles: &[&Profile]) -> Result<Plan, PublishError> {
    whole_guidance(workspace, project)?;
    let Some(guidance) = workspace.guidance(project)? else {
        let assistants = profiles.iter().map(|one| one.name.clone()).collect();
        return Ok(Plan { assistants, profiles: workspace.profiles.clone(), ..Plan::default() });
    };
    let facts = OnceLock::new();
    let (sources, mut unpublished) = {
        let read = || facts.get_or_init(|| Facts::read(workspace.tree(), &project.index));
        source::read(&guidance, &workspace.profiles, &read)?
    };
    for source in sources.iter().filter(|source| !profiles.iter().any(|profile| source.is_for(profile))) {
        let names = source.assistants.iter().flatten().cloned().collect::<Vec<_>>().join(", ");
        unpublished
            .push(Unpublished { rule: source.path.clone(), why: format!("it is for {names}, not published here") });
    }
    let zones = OnceCell::new();
    let mut planner = Planner {
        workspace,
        project,
        profiles: in_order(workspace, profiles),
        guidance: &guidance,
        sources: &sources,
        zones: &zones,
        folders: OnceCell::new(),
        drafts: BTreeMap::new(),
        losses: Vec::new(),
        tokens: FxHashMap::default(),
        holding: FxHashMap::default(),
        numbers: numbers(&sources, &guidance),
        known: FxHashMap::default(),
    };
    for number in 0..planner.profiles.len() {
        for (source, rule) in sources.iter().enumerate() {
            if rule.is_for(planner.profiles[number]) {
                planner.place(number, source);
            }
        }
    }
    planner.repeat_for_nearest();
    let config = &workspace.config.publish;
    let mut files = planner.compose_all();
    planner.also_read(&files);
    match config.links {
        None => keep_links(&mut files, workspace.tree()),
        Some(true) => link_same(&mut files),
        Some(false) => {}
    }
    let mut losses = std::mem::take(&mut planner.losses);
    planner.measure(&mut losses);
    losses.sort_by(|a, b| (&a.assistant, &a.rule, &a.kind).cmp(&(&b.assistant, &b.rule, &b.kind)));
    losses.dedup();
    let assistants = profiles.iter().map(|one| one.name.clone()).collect();
    let all = workspace.profiles.clone();
    Ok(Plan { files, losses, unpublished, assistants, sources, partial: false, profiles: all })
}

/// Rules that can't be read must not look like rules that are gone.
fn whole_guidance(workspace: &Workspace<'_>, project: &Project) -> Result<(), TreeError> {
    let tree = workspace.tree();
    if let Some(error) =
        tree.unread().into_iter().find(|error| error.path().in_root().is_some_and(crate::base::own_files::is_ours))
    {
        return Err(error);
    }
    let is_link = |folder: &Folder, name: &str| folder.get(name).is_some_and(|item| item.kind == EntryKind::Link);
    for folder in project.index.folders() {
        let rules = match folder.path.name() {
            "guidance" if is_link(folder, "rules") => folder.path.join("rules"),
            _ if is_link(folder, "guidance") => folder.path.join("guidance/rules"),
            _ => continue,
        };
        let path = Location::root(rules);
        match tree.look(&path) {
            Look::Outside => return Err(TreeError::Outside { path }),
            Look::BrokenLink => {
                return Err(TreeError::Unreadable { path, why: "it is a link that leads nowhere".into() });
            }
            _ => {}
        }
    }
    Ok(())
}

/// Assistants whose files others read too come first, so that those need no copy.
fn in_order<'p>(workspace: &Workspace<'_>, profiles: &[&'p Profile]) -> Vec<&'p Profile> {
    let finder = Finder::new(workspace.tree(), None);
    let mut ordered = profiles.to_vec();
    ordered.sort_by_cached_key(|profile| {
        let places = profile.places.iter().filter(|place| place.level != Level::User);
        let simple = places.flat_map(|place| &place.files).flat_map(Pattern::simple);
        let files: Vec<Location> = simple
            .filter_map(|one| one.literal_path())
            .filter_map(|path| RepoPath::new(&path))
            .map(Location::root)
            .collect();
        let readers = profiles
            .iter()
            .filter(|other| other.name != profile.name && files.iter().any(|file| finder.owner(other, file).is_some()));
        // Of two that read each other's, the one that has nothing else.
        (std::cmp::Reverse(readers.count()), profile.places.len())
    });
    ordered
}

/// The number of each rule by its file, among the sources and in the guidance.
fn numbers(sources: &[Source], guidance: &Assistant<'_>) -> FxHashMap<RepoPath, (usize, usize)> {
    let in_guidance: FxHashMap<&RepoPath, usize> =
        guidance.rules.iter().enumerate().map(|(number, rule)| (&rule.file().path, number)).collect();
    let of = |path: &RepoPath| in_guidance.get(path).copied().unwrap_or_default();
    sources.iter().enumerate().map(|(number, source)| (source.path.clone(), (number, of(&source.path)))).collect()
}

struct Planner<'a, 'w> {
    workspace: &'a Workspace<'w>,
    project: &'a Project,
    profiles: Vec<&'a Profile>,
    guidance: &'a Assistant<'a>,
    sources: &'a [Source],
    zones: &'a OnceCell<Zones>,
    /// The deepest folder that holds all files of each rule of the guidance.
    folders: OnceCell<Vec<Option<RepoPath>>>,
    drafts: BTreeMap<RepoPath, Draft>,
    losses: Vec<Loss>,
    /// What each rule weighs, where that was asked.
    tokens: FxHashMap<usize, usize>,
    /// The drafts that hold each rule.
    holding: FxHashMap<usize, Vec<RepoPath>>,
    /// The number of each rule by its file, here and in the guidance.
    numbers: FxHashMap<RepoPath, (usize, usize)>,
    /// Paths in lower case, for file systems that know no other.
    known: FxHashMap<String, RepoPath>,
}

impl<'a> Planner<'a, '_> {
    /// The zones of the guidance: which files each rule is meant for.
    fn zones(&self) -> &Zones {
        self.zones
            .get_or_init(|| partition(self.workspace.tree(), &self.project.index, std::slice::from_ref(self.guidance)))
    }

    fn number_in_guidance(&self, source: &Source) -> usize {
        self.numbers.get(&source.path).map_or(0, |(_, number)| *number)
    }

    fn lose(&mut self, kind: LossKind, number: usize, source: usize, file: Option<RepoPath>) {
        let (assistant, rule) = (self.profiles[number].name.clone(), self.sources[source].path.clone());
        let weigh = || self.workspace.weigh(&self.sources[source].body);
        let tokens = *self.tokens.entry(source).or_insert_with(weigh);
        self.losses.push(Loss { kind, assistant, rule, file, meant: 0, told: 0, tokens });
    }

    /// Files that an assistant reads though they are not for it.
    fn also_read(&mut self, files: &[Planned]) {
        let finder = Finder::new(self.workspace.tree(), None);
        let mut found = Vec::new();
        for file in files {
            for (number, profile) in self.profiles.iter().enumerate() {
                let Some(own) = finder.owner(profile, &Location::root(file.path.clone())) else { continue };
                if profile.places[own.place].kind == Kind::Role {
                    continue;
                }
                let meant = file.assistants.contains(&profile.name);
                for source in &file.sources {
                    let Some((source, _)) = self.numbers.get(source) else { continue };
                    if !meant || !self.sources[*source].is_for(profile) {
                        found.push((number, *source, file.path.clone()));
                    }
                }
            }
        }
        for (number, source, path) in found {
            let by = self.profiles[number].name.clone();
            self.lose(LossKind::AlsoRead { by }, number, source, Some(path));
        }
    }

    /// Counts for each loss the files that a rule is meant for, and those that it is told about.
    fn measure(&self, losses: &mut Vec<Loss>) {
        if losses.is_empty() {
            return;
        }
        let zones = self.zones();
        let mut below: FxHashMap<RepoPath, usize> = FxHashMap::default();
        let mut files_below =
            |folder: &RepoPath| *below.entry(folder.clone()).or_insert_with(|| self.project.index.files_below(folder));
        for loss in losses.iter_mut() {
            let Some((source, _)) = self.numbers.get(&loss.rule) else { continue };
            let source = &self.sources[*source];
            loss.meant = zones.matches[0][self.number_in_guidance(source)];
            loss.told = match (&loss.kind, &loss.file) {
                (LossKind::LeftOut { .. }, _) => 0,
                (LossKind::WiderReach, Some(file)) => {
                    let finder = Finder::new(self.workspace.tree(), None);
                    let profile = self.profiles.iter().find(|profile| profile.name == loss.assistant);
                    let own = profile.and_then(|profile| finder.owner(profile, &Location::root(file.clone())));
                    files_below(&own.map(|own| own.anchor.path).unwrap_or_default())
                }
                _ => loss.meant,
            };
        }
        // The folder holds nothing that the rule is not meant for.
        losses.retain(|loss| loss.kind != LossKind::WiderReach || loss.told > loss.meant);
    }
}

/// The profiles to publish for: those asked for or set, else those that have files here or had some published.
///
/// # Errors
/// A name that no profile has.
pub fn profiles<'w>(
    workspace: &'w Workspace<'_>,
    project: &Project,
    names: &[String],
    lock: &crate::project::lock::Lock,
) -> Result<Vec<&'w Profile>, crate::project::workspace::WorkspaceError> {
    if let Some(selected) = workspace.selected(names)? {
        return Ok(selected.into_iter().filter(|profile| profile.name != guidance::PROFILE).collect());
    }
    let in_use = workspace.assistants(names, project)?;
    let published = |profile: &Profile| lock.file.iter().any(|file| file.assistants.contains(&profile.name));
    let here = |profile: &Profile| in_use.iter().any(|one| one.profile.name == profile.name);
    Ok(workspace.profiles.iter().filter(|profile| here(profile) || published(profile)).collect())
}
