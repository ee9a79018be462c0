//! Publishing: each assistant's files, written from the guidance through its profile.
//!
//! [`plan`] says what should stand where: one file a rule where an assistant has scopes, the tightest folder
//! where it only has folders, and sections of one file, under headings that say what they apply to, where that
//! is all it reads. What an assistant can't express is a [`Loss`], never silent. A plan is pure: nothing is read
//! but the guidance, the profiles and, for `when`, the manifests; nothing is written. [`changes`] holds a plan
//! against the tree and `signpost.lock`, and says what would have to be done and what must not be touched.
//!
//! What it does *not* do: it never writes at user level, in personal copies or in roles.

pub mod changes;
pub mod compose;
pub mod header;
pub(crate) mod options;
pub mod source;

use crate::base::repo_path::{Location, RepoPath};
use crate::base::toml_file::ConfigError;
use crate::facts::Facts;
use crate::files::index::Folder;
use crate::files::{EntryKind, Look, TreeError};
use crate::header::{Header, HeaderStyle};
use crate::pattern::Pattern;
use crate::profile::{Kind, Level, Nested, Profile, Reach};
use crate::project::discovery::Finder;
use crate::project::guidance::{self, REMARK_END};
use crate::project::workspace::{Assistant, Project, Workspace};
use crate::resolve::zones::{Zones, partition};
use compose::{Above, Part, Segment, compose};
use options::{Way, ways};
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
    if config.links {
        link_same(&mut files);
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

    /// The tightest folder of a rule's scope: as far as its patterns spell it out, else where its files are.
    fn folder(&self, source: &Source) -> RepoPath {
        let spelled = source.spelled_folder();
        if spelled != source.base || source.patterns().0.contains(&"**") {
            return spelled;
        }
        let folders = self.folders.get_or_init(|| {
            let zones = self.zones();
            let mut folders: Vec<Option<RepoPath>> = vec![None; self.guidance.rules.len()];
            for zone in &zones.zones {
                for id in zones.rules_of(zone) {
                    let own = &mut folders[id.rule];
                    *own = Some(own.take().map_or_else(|| zone.folder.clone(), |own| own.common(&zone.folder)));
                }
            }
            folders
        });
        folders[self.number_in_guidance(source)].clone().unwrap_or(spelled)
    }

    /// Finds a file for a rule.
    fn place(&mut self, number: usize, source: usize) {
        let (profile, rule) = (self.profiles[number], &self.sources[source]);
        if let Some(path) = self.already_told(number, source) {
            let draft = self.drafts.get_mut(&path).expect("it was just found");
            if !draft.assistants.contains(&number) {
                draft.assistants.push(number);
            }
            let wider = rule.subtree().as_ref() != Some(&draft.anchor);
            if wider {
                self.lose(LossKind::WiderReach, number, source, Some(path));
            }
            return;
        }
        let finder = Finder::new(self.workspace.tree(), None);
        let offered = self.workspace.config.publish.offered;
        let owns = |way: &Way| {
            let owner = finder.owner(profile, &Location::root(way.path.clone()));
            owner.is_some_and(|own| own.place == way.place && own.anchor.path == way.anchor)
        };
        let exists = |path: &RepoPath| self.project.index.holds(path);
        let found = ways(profile, rule, &|| self.folder(rule), offered, &exists, &owns);
        for way in found {
            let Some(path) = self.free(&way, source) else { continue };
            for loss in &way.losses {
                self.lose(loss.clone(), number, source, Some(path.clone()));
            }
            let place = way.place;
            let draft = self.drafts.entry(path.clone()).or_insert_with(|| Draft {
                owner: (number, place),
                anchor: way.anchor.clone(),
                block: way.header.block.clone(),
                parts: Vec::new(),
                assistants: Vec::new(),
                shared: way.shared,
                kept: Vec::new(),
            });
            let part = Part { source, above: way.above };
            let holding = self.holding.entry(source).or_default();
            if !holding.contains(&path) {
                holding.push(path.clone());
                draft.parts.push(part);
                let style = profile.places[place].header;
                let kept = rule.keep.get(&profile.name).filter(|_| style != HeaderStyle::None);
                if let Some(lines) = kept.map(|kept| kept.lines(style)) {
                    // Rules that were cut from one file keep the same.
                    if !draft.kept.contains(&lines) {
                        draft.kept.push(lines);
                    }
                }
            }
            if !draft.assistants.contains(&number) {
                draft.assistants.push(number);
            }
            self.known.insert(path.as_str().to_lowercase(), path);
            return;
        }
        self.lose(LossKind::LeftOut { reach: rule.reach, no_room: false }, number, source, None);
    }

    fn lose(&mut self, kind: LossKind, number: usize, source: usize, file: Option<RepoPath>) {
        let (assistant, rule) = (self.profiles[number].name.clone(), self.sources[source].path.clone());
        let weigh = || self.workspace.weigh(&self.sources[source].body);
        let tokens = *self.tokens.entry(source).or_insert_with(weigh);
        self.losses.push(Loss { kind, assistant, rule, file, meant: 0, told: 0, tokens });
    }

    /// A file of another assistant that holds the rule, and that this one reads too.
    fn already_told(&self, number: usize, source: usize) -> Option<RepoPath> {
        let profile = self.profiles[number];
        let finder = Finder::new(self.workspace.tree(), None);
        self.holding.get(&source)?.iter().find_map(|path| {
            let draft = self.drafts.get(path).filter(|draft| draft.owner.0 != number)?;
            let own = finder.owner(profile, &Location::root(path.clone()))?;
            let place = &profile.places[own.place];
            let style = self.profiles[draft.owner.0].places[draft.owner.1].header;
            let header = Header::read(&header::fenced(style, &draft.block, ""), place.header);
            let told = place.kind == Kind::Rule && place.reach_of(&header) == Reach::Standing;
            (told && draft.block.is_empty() && draft.kept.is_empty()).then(|| path.clone())
        })
    }

    /// The path of a way, or one beside it where another rule has taken it; `None` where that can't be.
    fn free(&self, way: &Way, source: usize) -> Option<RepoPath> {
        let same = |draft: &Draft| {
            draft.block == way.header.block
                && (way.shared && draft.shared || draft.parts.iter().all(|part| part.source == source))
        };
        let taken = |path: &RepoPath| self.known.get(&path.as_str().to_lowercase()).is_some_and(|known| known != path);
        match self.drafts.get(&way.path) {
            Some(draft) if same(draft) => return Some(way.path.clone()),
            None if !taken(&way.path) => return Some(way.path.clone()),
            _ if way.shared => return None,
            _ => {}
        }
        let free = |path: &&RepoPath| !taken(path) && self.drafts.get(*path).is_none_or(same);
        way.others.iter().find(free).cloned()
    }

    /// Where only the nearest file is read, it has to repeat what those above say.
    fn repeat_for_nearest(&mut self) {
        let paths: Vec<RepoPath> = self.drafts.keys().cloned().collect();
        for path in &paths {
            let draft = &self.drafts[path];
            let (number, place) = draft.owner;
            let profile = self.profiles[number];
            let nearest = profile.nested == Nested::Nearest && profile.places[place].level == Level::Folder;
            if !nearest || !draft.shared || draft.anchor.is_root() {
                continue;
            }
            let above = self.drafts.values().filter(|other| {
                other.owner == draft.owner && other.anchor != draft.anchor && draft.anchor.is_in(&other.anchor)
            });
            let told_here = |part: &&Part| !self.sources[part.source].leaves_out(&draft.anchor);
            let mut inherited: Vec<(usize, Part)> = above
                .flat_map(|other| other.parts.iter().filter(told_here).map(|part| (other.anchor.depth(), part.clone())))
                .collect();
            inherited.sort_by_key(|(depth, part)| (*depth, part.source));
            let own = std::mem::take(&mut self.drafts.get_mut(path).expect("its path is known").parts);
            let mut parts: Vec<Part> = inherited.into_iter().map(|(_, part)| part).collect();
            parts.extend(own);
            let mut seen = Vec::new();
            parts.retain(|part| {
                !seen.contains(&part.source) && {
                    seen.push(part.source);
                    true
                }
            });
            self.drafts.get_mut(path).expect("its path is known").parts = parts;
        }
    }

    fn compose_all(&mut self) -> Vec<Planned> {
        let drafts = std::mem::take(&mut self.drafts);
        drafts.into_iter().filter_map(|(path, draft)| self.compose_one(path, draft)).collect()
    }

    fn compose_one(&mut self, path: RepoPath, mut draft: Draft) -> Option<Planned> {
        loop {
            let parts: Vec<Part> = draft.parts.clone();
            parts.first()?;
            let style = self.profiles[draft.owner.0].places[draft.owner.1].header;
            let remark = remark(&parts, self.sources);
            let head =
                header::fenced(style, &format!("{}{}", draft.block, draft.kept.concat()), &format!("# {remark}\n"));
            let mut top = if head.is_empty() { format!("<!-- {remark} -->\n") } else { head };
            let (mut text, mut segments) = compose(&top, &parts, self.sources);
            let limit = self.least_limit(&draft);
            if limit > 0 && text.len() as u64 > limit && top.starts_with("<!--") {
                // The remark may not push out what the assistant is to read.
                (text, segments) = compose("", &parts, self.sources);
                text += &format!("\n<!-- {remark} -->\n");
                top.clear();
            }
            if limit > 0 && text.len() as u64 > limit {
                // What is only of use at times makes room for what is told always: as much as is too much, and one at least.
                let mut too_much = text.len() as u64 - limit;
                let mut dropped = false;
                while let Some(last) = draft.parts.iter().rposition(|part| matches!(part.above, Above::When(_)))
                    && (too_much > 0 || !dropped)
                {
                    dropped = true;
                    let part = draft.parts.remove(last);
                    let source = part.source;
                    // At most so much goes with it; where it was less, there is another round.
                    let Above::When(summary) = part.above else { continue };
                    let heading = summary.len() + "###### When needed: ".len() + 4;
                    too_much = too_much.saturating_sub((self.sources[source].body.len() + heading) as u64);
                    for number in draft.assistants.clone() {
                        let (name, rule) = (self.profiles[number].name.clone(), self.sources[source].path.clone());
                        self.losses.retain(|loss| loss.assistant != name || loss.rule != rule);
                        let reach = self.sources[source].reach;
                        self.lose(LossKind::LeftOut { reach, no_room: true }, number, source, None);
                    }
                }
                if dropped {
                    continue;
                }
                self.over_limit(&draft, &path, &text, &segments);
            }
            let mut assistants: Vec<String> =
                draft.assistants.iter().map(|number| self.profiles[*number].name.clone()).collect();
            assistants.sort();
            let mut sources: Vec<RepoPath> =
                draft.parts.iter().map(|part| self.sources[part.source].path.clone()).collect();
            sources.dedup();
            let body = top.len();
            return Some(Planned { path, content: Content::Text(text), assistants, sources, segments, body });
        }
    }

    fn least_limit(&self, draft: &Draft) -> u64 {
        let limits = draft.assistants.iter().map(|number| self.profiles[*number].limits.file_bytes);
        limits.filter(|limit| *limit > 0).min().unwrap_or(0)
    }

    fn over_limit(&mut self, draft: &Draft, path: &RepoPath, text: &str, segments: &[Segment]) {
        for number in draft.assistants.clone() {
            let limit = self.profiles[number].limits.file_bytes;
            if limit == 0 || text.len() as u64 <= limit {
                continue;
            }
            for segment in segments.iter().filter(|segment| segment.span.end as u64 > limit) {
                let bytes = segment.span.end as u64 - limit.max(segment.span.start as u64);
                if let Some((source, _)) = self.numbers.get(&segment.source) {
                    self.lose(LossKind::OverLimit { bytes }, number, *source, Some(path.clone()));
                }
            }
        }
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

/// What says where to edit.
fn remark(parts: &[Part], sources: &[Source]) -> String {
    let mut files: Vec<&RepoPath> = parts.iter().map(|part| &sources[part.source].path).collect();
    files.sort();
    files.dedup();
    // A name could end the comment that this stands in, or begin a line of a header.
    let harmless = |path: &RepoPath| !path.as_str().contains("-->") && !path.as_str().contains(char::is_control);
    match &files[..] {
        [one] if harmless(one) => format!("From {one}: edit it there, {REMARK_END}"),
        all => {
            let folder = all.iter().map(|path| path.folder()).reduce(|a, b| a.common(&b)).unwrap_or_default();
            let from =
                if folder.is_root() || !harmless(&folder) { "guidance/rules".to_owned() } else { folder.to_string() };
            match all.len() {
                1 => format!("From a rule in {from}/: edit it there, {REMARK_END}"),
                number => format!("From the {number} rules in {from}/: edit them there, {REMARK_END}"),
            }
        }
    }
}

/// Makes files with the same bytes one file, and links to it.
fn link_same(files: &mut [Planned]) {
    let mut first: FxHashMap<String, RepoPath> = FxHashMap::default();
    let mut order: Vec<usize> = (0..files.len()).collect();
    order.sort_by_key(|number| (files[*number].path.depth(), files[*number].path.clone()));
    for number in order {
        let Content::Text(text) = &files[number].content else { continue };
        match first.get(text) {
            Some(target) => files[number].content = Content::Link(relative(target, &files[number].path)),
            None => {
                first.insert(text.clone(), files[number].path.clone());
            }
        }
    }
}

/// The path from a file's folder to another file.
fn relative(target: &RepoPath, from: &RepoPath) -> String {
    let folder = from.folder();
    let common = target.folder().common(&folder);
    let up = "../".repeat(folder.depth() - common.depth());
    format!("{up}{}", target.below(&common).unwrap_or(target.as_str()))
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
