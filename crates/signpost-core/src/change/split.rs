//! Splitting a long file into scoped rules.
//!
//! Each section's scope is read from what it names: its heading, else the paths, file kinds and packages in its
//! directives, as far as the tree and the manifests know them. A section that names nothing, or as much as all
//! files, stays for all. Nothing is reworded.

use crate::base::language::{self, LANGUAGES, Language};
use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::{MOST_WORDS, group, size};
use crate::change::adopt::cut::{Unit, units};
use crate::change::adopt::{Names, NewRule};
use crate::change::publish::changes::link_mark;
use crate::change::publish::source::without_blank_lines;
use crate::directive::{MOST_DIRECTIVES, Outline};
use crate::facts::Facts;
use crate::files::index::Index;
use crate::pattern::escaped;
use crate::pattern::{Dialect, Pattern};
use crate::profile::{Level, Reach};
use crate::project::guidance;
use crate::project::guidance::{RuleHeader, write, write_header};
use crate::project::lock::{LockedFile, hash};
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace, WorkspaceError};
use rustc_hash::FxHashMap;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// A part of a file.
#[derive(Clone, Debug)]
pub struct Part {
    /// Its heading; `None` for what stands before the first.
    pub heading: Option<String>,
    /// Its text.
    pub text: String,
    /// What it weighs.
    pub tokens: usize,
    /// What it is about, where that shows.
    pub scope: Option<Scope>,
}

/// What a section is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Scope {
    /// The patterns, from the folder that the rule stands in.
    pub patterns: Vec<String>,
    /// How many source files they take.
    pub files: usize,
    /// What that was read from.
    pub why: String,
}

/// Source files for which the same parts are left.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Zone {
    /// One of them.
    pub example: RepoPath,
    /// How many.
    pub files: usize,
    /// Tokens of the file that is told today.
    pub before: usize,
    /// Tokens of the rules that would be told.
    pub after: usize,
}

/// A file as it falls apart.
#[derive(Clone, Debug)]
pub struct Split {
    /// The file.
    pub file: RepoPath,
    /// Its parts, in order.
    pub parts: Vec<Part>,
    /// What it costs where, the most saved first.
    pub zones: Vec<Zone>,
    /// What is told in every conversation today.
    pub before: usize,
    /// What would be.
    pub after: usize,
    /// The rules to write.
    pub rules: Vec<NewRule>,
    /// What becomes of a guidance rule that is split: what is told always, else the first of its parts.
    pub rest: Option<String>,
    /// An assistant's file as the lock is to know it, so that publishing may replace it.
    pub adopted: Option<LockedFile>,
    /// Whether an earlier run has written all of it.
    pub done: bool,
}

/// Why a file can't be split.
#[derive(thiserror::Error, Debug)]
pub enum SplitError {
    /// The project can't be worked on.
    #[error(transparent)]
    Workspace(#[from] WorkspaceError),
    /// The file is none that can be split; why, and what to do.
    #[error("{0}")]
    No(String, String),
}

/// Plans how to split a file.
///
/// # Errors
/// It is no instruction file, or not told for all files of its folder.
pub fn split(workspace: &Workspace<'_>, project: &Project, file: &RepoPath) -> Result<Split, SplitError> {
    let no = |why: String, help: &str| SplitError::No(why, help.to_owned());
    let (rule, readers) = find(workspace, project, file)?;
    let of_guidance = readers.is_none();
    let lock = workspace.lock()?;
    let published = lock.file.iter().find(|known| known.path == file.as_str() && !of_guidance);
    if rule.reach != Reach::Standing {
        return Err(no(
            format!("{file} is {} already, not told always", rule.reach.word()),
            "split a file that is told in every conversation",
        ));
    }
    if rule.document.text.len() > MOST_WORDS {
        let why = format!("at {} {file} is more than any assistant reads", size(rule.document.bytes));
        return Err(no(why, "cut it down by hand first"));
    }
    if let Some(line) = rule.document.bad_line() {
        return Err(no(format!("line {line} of {file} is not UTF-8"), "save the file as UTF-8 first"));
    }
    let base = if rule.level == Level::Folder { rule.found.anchor.path.clone() } else { RepoPath::root() };
    let facts = Facts::read(workspace.tree(), &project.index);
    let body = rule.document.text[rule.header.body..].replace("\r\n", "\n");
    let body = without_blank_lines(&body).to_owned();
    let reader = Reader::new(&project.index, &facts, &base);
    let mut parts: Vec<Part> = Vec::new();
    let cut = units(&body).ok_or_else(|| {
        let why =
            format!("{file} holds more than {} directives, more than any assistant follows", group(MOST_DIRECTIVES));
        no(why, "cut it down by hand first")
    })?;
    for unit in cut {
        parts.extend(reader.parts(workspace, unit));
    }
    let (before, after) = (
        workspace.weigh(&rule.document.text),
        parts.iter().filter(|part| part.scope.is_none()).map(|part| part.tokens).sum(),
    );
    let zones = zones(&project.index, &base, &parts, before, after);
    let mut split = Split {
        file: file.clone(),
        parts,
        zones,
        before,
        after,
        rules: Vec::new(),
        rest: None,
        adopted: None,
        done: false,
    };
    split.write(workspace, project, &rule, readers, &base)?;
    if let Some(known) = published {
        // A run that was killed at the very end has done all this.
        split.done = split.adopted.as_ref() == Some(known) && split.rules.iter().all(|rule| rule.there);
        if !split.done {
            return Err(is_published(file, known));
        }
    }
    Ok(split)
}

/// Why a published file is not split.
pub fn is_published(file: &RepoPath, known: &LockedFile) -> SplitError {
    let help = format!("split one of the rules it comes from: {}", known.sources.join(", "));
    SplitError::No(format!("{file} is published"), help)
}

/// The file as a rule, with the assistants that read it; `None` for a rule of the guidance.
type Found = (Arc<Rule>, Option<Vec<String>>);

fn find(workspace: &Workspace<'_>, project: &Project, file: &RepoPath) -> Result<Found, SplitError> {
    let at = Location::root(file.clone());
    let guidance = workspace.guidance(project).map_err(WorkspaceError::from)?;
    if let Some(rule) = guidance.iter().flat_map(|guidance| &guidance.rules).find(|rule| *rule.file() == at) {
        return Ok((rule.clone(), None));
    }
    let mut found: Option<Found> = None;
    for assistant in workspace.assistants(&[], project)? {
        if let Some(rule) = assistant.rules.iter().find(|rule| *rule.file() == at && rule.takes_part()) {
            let names = &mut found.get_or_insert_with(|| (rule.clone(), Some(Vec::new()))).1;
            names.iter_mut().for_each(|names| names.push(assistant.profile.name.clone()));
        }
    }
    found.ok_or_else(|| {
        let help = "`signpost survey` lists the instruction files".to_owned();
        SplitError::No(format!("{file} is no instruction file of an assistant in use, and no guidance rule"), help)
    })
}

impl Split {
    /// How many parts get a scope.
    pub fn scoped(&self) -> usize {
        self.parts.iter().filter(|part| part.scope.is_some()).count()
    }

    /// The rules and what is left.
    fn write(
        &mut self,
        workspace: &Workspace<'_>,
        project: &Project,
        rule: &Rule,
        readers: Option<Vec<String>>,
        base: &RepoPath,
    ) -> Result<(), SplitError> {
        if self.scoped() == 0 {
            return Ok(());
        }
        let in_use = workspace.assistants(&[], project)?.len();
        let assistants = match &readers {
            Some(names) => (names.len() < in_use).then(|| names.clone()),
            None => crate::project::guidance::assistants(rule),
        };
        let when =
            rule.header.get("when").and_then(|key| key.scalar()).map(str::to_owned).filter(|_| readers.is_none());
        let mut names = Names::taken(workspace, project).map_err(WorkspaceError::from)?;
        let folder = base.join("guidance/rules");
        let header = |paths: Vec<String>| RuleHeader {
            paths,
            assistants: assistants.clone(),
            when: when.clone(),
            ..RuleHeader::default()
        };
        let from = vec![self.file.clone()];
        let mut rules = Vec::new();
        let mut add = |name: String, text: String| {
            let (path, text, there) = names.free(workspace, &folder, &name, |_| text.clone());
            rules.push(NewRule { path, text, from: from.clone(), assistants: assistants.clone(), there });
        };
        let general: Vec<&str> =
            self.parts.iter().filter(|part| part.scope.is_none()).map(|part| part.text.as_str()).collect();
        let general = general.join("\n\n");
        // A title with nothing below it is kept too: it is somebody's.
        let mut scoped = self.parts.iter().filter_map(|part| Some((part, part.scope.as_ref()?)));
        if readers.is_none() {
            let head = &rule.document.text[..rule.header.body];
            let end = if rule.document.text.contains("\r\n") { "\r\n" } else { "\n" };
            let in_file = |head: &str, body: &str| {
                let gap =
                    if head.is_empty() || head.ends_with("\n\n") || head.ends_with("\r\n\r\n") { "" } else { end };
                format!("{head}{gap}{}{end}", body.replace('\n', end))
            };
            // The file stays: with what is told always, else with the first of the parts.
            self.rest = Some(match (general.is_empty(), scoped.next()) {
                (true, Some((part, scope))) => {
                    let own = RuleHeader {
                        summary: rule.summary.clone(),
                        paths: scope.patterns.clone(),
                        ..RuleHeader::default()
                    };
                    in_file(&write_header(head, &own), &part.text)
                }
                (_, first) => {
                    first.into_iter().for_each(|(part, scope)| {
                        add(name_of(part), write(&header(scope.patterns.clone()), &part.text))
                    });
                    in_file(head, &general)
                }
            });
        }
        for (part, scope) in scoped {
            add(name_of(part), write(&header(scope.patterns.clone()), &part.text));
        }
        if let Some(readers) = readers {
            if !general.is_empty() {
                let stem = self.file.name().rsplit_once('.').map_or(self.file.name(), |(stem, _)| stem);
                add(crate::change::adopt::slug(stem), write(&header(Vec::new()), &general));
            }
            let at = Location::root(self.file.clone());
            let link = workspace.tree().link_target(&at).map(|target| link_mark(&target));
            self.adopted = Some(LockedFile {
                path: self.file.as_str().to_owned(),
                hash: link.unwrap_or_else(|| hash(rule.document.on_disk())),
                was: None,
                assistants: readers,
                sources: rules.iter().map(|rule| rule.path.as_str().to_owned()).collect(),
            });
        }
        self.rules = rules;
        Ok(())
    }
}

fn name_of(part: &Part) -> String {
    crate::change::adopt::slug(part.heading.as_deref().unwrap_or("part"))
}

/// What is left where.
fn zones(index: &Index, base: &RepoPath, parts: &[Part], before: usize, always: usize) -> Vec<Zone> {
    let scopes: Vec<(Vec<Pattern>, usize)> = parts
        .iter()
        .filter_map(|part| {
            let patterns = part.scope.as_ref()?.patterns.iter();
            Some((patterns.filter_map(|text| Pattern::parse(text, guidance::dialect()).ok()).collect(), part.tokens))
        })
        .collect();
    let mut by_parts: BTreeMap<Vec<usize>, Zone> = BTreeMap::new();
    for (folder, item) in index.sources() {
        let path = folder.path.join(item.name);
        let Some(below) = path.below(base) else { continue };
        let told: Vec<usize> =
            (0..scopes.len()).filter(|number| scopes[*number].0.iter().any(|pattern| pattern.matches(below))).collect();
        let after = always + told.iter().map(|number| scopes[*number].1).sum::<usize>();
        by_parts.entry(told).or_insert_with(|| Zone { example: path, files: 0, before, after }).files += 1;
    }
    let mut zones: Vec<Zone> = by_parts.into_values().collect();
    zones.sort_by(|a, b| {
        (a.after, std::cmp::Reverse(a.files), &a.example).cmp(&(b.after, std::cmp::Reverse(b.files), &b.example))
    });
    zones
}

/// Names of folders that are also what people do everywhere.
const EVERYWHERE: &[&str] = &[
    "test", "tests", "testing", "build", "bench", "benches", "benchmarks", "example", "examples", "doc", "docs",
    "release", "releases", "script", "scripts", "tool", "tools", "src", "lib", "main", "style", "styles", "types",
    "common", "core", "util", "utils", "config", "data",
];

/// Reads what sections are about.
struct Reader<'a> {
    index: &'a Index,
    base: &'a RepoPath,
    /// Folders by their name in lower case.
    folders: FxHashMap<String, Vec<RepoPath>>,
    /// Packages by name, with the folders of the manifests that name them.
    packages: FxHashMap<String, BTreeSet<RepoPath>>,
    /// How many source files there are below the base.
    all: usize,
}

/// A thing that a text names.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Named {
    Folder(RepoPath),
    Files(String),
    Language(&'static str),
}

impl<'a> Reader<'a> {
    fn new(index: &'a Index, facts: &Facts<'_>, base: &'a RepoPath) -> Self {
        let mut folders: FxHashMap<String, Vec<RepoPath>> = FxHashMap::default();
        for folder in index.below(base).filter(|folder| !folder.path.is_root()) {
            folders.entry(folder.path.name().to_lowercase()).or_default().push(folder.path.clone());
        }
        let mut packages: FxHashMap<String, BTreeSet<RepoPath>> = FxHashMap::default();
        for manifest in &facts.manifests {
            for name in manifest.dependencies.keys() {
                packages.entry(name.to_lowercase()).or_default().insert(manifest.file.folder());
            }
        }
        let all = index.sources().filter(|(folder, _)| folder.path.is_in(base)).count();
        Reader { index, base, folders, packages, all }
    }

    /// A section with its scope; in its own sections, where it has none and they do.
    fn parts(&self, workspace: &Workspace<'_>, unit: Unit) -> Vec<Part> {
        let part = |unit: Unit, scope| Part {
            tokens: workspace.weigh(&unit.text),
            heading: unit.heading,
            text: unit.text,
            scope,
        };
        let scope = unit.heading.is_some().then(|| self.scope(&unit)).flatten();
        if scope.is_none() {
            let inner = units(&unit.text).unwrap_or_default();
            if inner.len() > 1 {
                let scopes: Vec<Option<Scope>> =
                    inner.iter().map(|unit| unit.heading.is_some().then(|| self.scope(unit)).flatten()).collect();
                if scopes.iter().any(Option::is_some) {
                    let above = unit.heading;
                    let named = |inner: Unit| Unit { heading: inner.heading.or_else(|| above.clone()), ..inner };
                    return inner.into_iter().zip(scopes).map(|(unit, scope)| part(named(unit), scope)).collect();
                }
            }
        }
        vec![part(unit, scope)]
    }

    fn scope(&self, unit: &Unit) -> Option<Scope> {
        let heading = unit.heading.as_deref()?;
        let title = self.named_in(heading, true);
        let (named, why) =
            if title.is_empty() { self.in_body(&unit.text)? } else { (title, "its heading names it".to_owned()) };
        let patterns = self.patterns(&named)?;
        let compiled: Vec<Pattern> =
            patterns.iter().filter_map(|text| Pattern::parse(text, guidance::dialect()).ok()).collect();
        let takes =
            |path: &RepoPath| path.below(self.base).is_some_and(|below| compiled.iter().any(|one| one.matches(below)));
        let files = self.index.sources().filter(|(folder, item)| takes(&folder.path.join(item.name))).count();
        // What takes nothing was misread; what takes nearly all is no scope.
        (files > 0 && files * 10 < self.all * 9).then_some(Scope { patterns, files, why })
    }

    /// What most of the directives name, where that is one thing.
    fn in_body(&self, text: &str) -> Option<(BTreeSet<Named>, String)> {
        let outline = Outline::read(text, 0);
        let own: Vec<BTreeSet<Named>> =
            outline.directives.iter().map(|one| self.named_in(&text[one.span.clone()], false)).collect();
        let naming = own.iter().filter(|named| !named.is_empty()).count();
        if own.is_empty() || naming * 2 < own.len() || naming < 2.min(own.len()) {
            return None;
        }
        let all: BTreeSet<Named> = own.iter().flatten().cloned().collect();
        let folders: Vec<&RepoPath> =
            all.iter().filter_map(|one| if let Named::Folder(path) = one { Some(path) } else { None }).collect();
        let languages: BTreeSet<&Named> = all.iter().filter(|one| matches!(one, Named::Language(_))).collect();
        let said = format!("{naming} of its {} directives", own.len());
        if let Some(common) = folders.iter().map(|path| (*path).clone()).reduce(|one, other| one.common(&other)) {
            let below_base = common.below(self.base).is_some();
            return below_base
                .then(|| (BTreeSet::from([Named::Folder(common.clone())]), format!("{said} name paths in {common}/")));
        }
        match (languages.len(), all.len()) {
            (1, 1) => Some((all, format!("{said} name it"))),
            _ => None,
        }
    }

    /// What a text names: paths and patterns in backticks, folders, languages and packages.
    fn named_in(&self, text: &str, title: bool) -> BTreeSet<Named> {
        let mut named = BTreeSet::new();
        for (number, piece) in text.split('`').enumerate() {
            if number % 2 == 1 {
                named.extend(self.path(piece.trim()));
                continue;
            }
            for word in piece.split(|c: char| c.is_whitespace() || matches!(c, ',' | ';' | '(' | ')' | '"')) {
                let word = word.trim_end_matches(['.', ':', '!', '?']);
                if word.contains('/') || word.contains('*') {
                    named.extend(self.path(word));
                } else {
                    named.extend(self.word(word, title));
                }
            }
        }
        named
    }

    fn path(&self, text: &str) -> Option<Named> {
        if text.contains(char::is_whitespace) || text.contains("://") || text.starts_with(['-', '@', '$', '~']) {
            return None;
        }
        if text.contains('*') {
            let pattern = Pattern::parse(text, &Dialect::default()).ok()?;
            let taken = self.index.sources().any(|(folder, item)| {
                folder.path.join(item.name).below(self.base).is_some_and(|below| pattern.matches(below))
            });
            return taken.then(|| Named::Files(text.to_owned()));
        }
        if !text.contains(['/', '.']) {
            return None;
        }
        let path =
            self.base.resolve(text.trim_start_matches('/')).filter(|path| !path.is_root() && path != self.base)?;
        let path =
            if self.index.folder(&path).is_some() || self.index.holds(&path) { path } else { RepoPath::new(text)? };
        if self.index.folder(&path).is_some_and(|folder| !folder.apart) {
            return Some(Named::Folder(path));
        }
        let inside = self.index.is_source(&path).then(|| path.folder())?;
        (inside != *self.base && !inside.is_root()).then_some(Named::Folder(inside))
    }

    fn word(&self, word: &str, title: bool) -> Option<Named> {
        let lower = word.to_lowercase();
        if let Some(number) = language::number(&lower) {
            let language: &Language = &LANGUAGES[number];
            let meant = !language.is_word || word.starts_with(char::is_uppercase);
            return meant.then_some(Named::Language(language.name));
        }
        if let Some(folders) = self.packages.get(&lower).filter(|_| lower.len() > 2) {
            // A package that one part of the project uses is about that part.
            let one = folders.iter().cloned().reduce(|one, other| one.common(&other))?;
            if one.below(self.base).is_some() {
                return Some(Named::Folder(one));
            }
        }
        if !title {
            return None;
        }
        // A heading that is called like a folder. What people do in every folder is no place.
        if EVERYWHERE.contains(&lower.as_str()) {
            return None;
        }
        match self.folders.get(&lower).map(Vec::as_slice) {
            Some([one]) => Some(Named::Folder(one.clone())),
            Some(many) => many
                .iter()
                .min_by_key(|path| path.depth())
                .filter(|path| many.iter().filter(|other| other.depth() == path.depth()).count() == 1)
                .cloned()
                .map(Named::Folder),
            None => None,
        }
    }

    /// The patterns for what is named: kinds of files in folders.
    fn patterns(&self, named: &BTreeSet<Named>) -> Option<Vec<String>> {
        let mut endings: Vec<&str> = Vec::new();
        let mut folders: Vec<String> = Vec::new();
        let mut patterns: Vec<String> = Vec::new();
        for one in named {
            match one {
                Named::Language(name) => endings.extend(language::by_name(name)?.endings),
                Named::Folder(path) => folders.push(escaped(path.below(self.base)?, guidance::dialect())),
                Named::Files(pattern) => patterns.push(pattern.clone()),
            }
        }
        // Only endings that are here.
        let here: BTreeSet<&str> = self
            .index
            .sources()
            .filter(|(folder, _)| folder.path.is_in(self.base))
            .map(|(_, item)| item.name.rsplit_once('.').map_or(item.name, |(_, ending)| ending))
            .collect();
        let named_language = !endings.is_empty();
        endings.retain(|ending| here.contains(ending));
        if named_language && endings.is_empty() {
            return None;
        }
        let name = match &endings[..] {
            [] => None,
            [one] => Some(format!("*.{one}")),
            many => Some(format!("*.{{{}}}", many.join(","))),
        };
        match (&folders[..], name) {
            ([], Some(name)) => patterns.push(name),
            (folders, Some(name)) => patterns.extend(folders.iter().map(|folder| format!("{folder}/**/{name}"))),
            (folders, None) => patterns.extend(folders.iter().map(|folder| format!("{folder}/**"))),
        }
        (!patterns.is_empty()).then_some(patterns)
    }
}
