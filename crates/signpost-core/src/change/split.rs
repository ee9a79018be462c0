//! Splitting a long file into scoped rules.
//!
//! Each section's scope is read from what it names: its heading, else the paths, file kinds and packages in its
//! directives, as far as the tree and the manifests know them. A section that names nothing, or as much as all
//! files, stays for all. Nothing is reworded.

mod scope;

use crate::base::language::oddness;
use crate::base::repo_path::{Location, RepoPath};
use crate::base::toml_file::nearest;
use crate::base::wording::{MOST_WORDS, group, size};
use crate::change::adopt::check::as_published;
use crate::change::adopt::cut::units;
use crate::change::adopt::{AdoptError, Adoption, Names, NewRule};
use crate::change::publish::changes::link_mark;
use crate::change::publish::source::without_blank_lines;
use crate::directive::{MOST_DIRECTIVES, normal};
use crate::facts::Facts;
use crate::files::Overlay;
use crate::files::index::Index;
use crate::inspect::cost::at_start;
use crate::pattern::Pattern;
use crate::profile::Profile;
use crate::profile::{Level, Reach};
use crate::project::guidance::{self, RuleHeader, write, write_header};
use crate::project::lock::{LockedFile, hash};
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace, WorkspaceError};
use scope::Reader;
use std::collections::BTreeMap;
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
    /// Patterns that it could be about, where that is not sure.
    pub perhaps: Vec<String>,
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
    /// A source file that is not told it any more: the likeliest to be thought of.
    pub lost: Option<RepoPath>,
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
    /// How many source files there are where the file is told.
    pub files: usize,
}

/// What an assistant is told in every conversation.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct ToldAtStart {
    /// The assistant, by name.
    pub assistant: String,
    /// Tokens today.
    pub before: usize,
    /// Tokens once the rules are published.
    pub after: usize,
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

/// What somebody decides of sections, by their headings.
#[derive(Clone, Debug, Default)]
pub struct Decisions {
    /// Sections with the pattern of their scope; a section may have several.
    pub scopes: Vec<(String, String)>,
    /// Sections that stay for all files.
    pub keep: Vec<String>,
}

/// Plans how to split a file.
///
/// # Errors
/// It is no instruction file, or not told for all files of its folder; or a decision names no section or no pattern.
pub fn split(
    workspace: &Workspace<'_>,
    project: &Project,
    file: &RepoPath,
    decisions: &Decisions,
) -> Result<Split, SplitError> {
    let no = |why: String, help: &str| SplitError::No(why, help.to_owned());
    let (rule, readers) = find(workspace, project, file)?;
    let of_guidance = readers.is_none();
    let lock = workspace.lock()?;
    let published = lock.of(file).filter(|_| !of_guidance);
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
    decide(&mut parts, &reader, decisions)?;
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
        files: project.index.files_below(&base),
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

/// Does with sections as somebody decided.
fn decide(parts: &mut [Part], reader: &Reader<'_>, decisions: &Decisions) -> Result<(), SplitError> {
    let headings: Vec<String> = parts.iter().filter_map(|part| part.heading.clone()).collect();
    let same = |part: &Part, heading: &str| part.heading.as_deref().is_some_and(|own| normal(own) == normal(heading));
    let missing = |heading: &str| {
        let help = match nearest(heading, headings.iter().map(String::as_str)) {
            Some(near) => format!("did you mean `{near}`?"),
            None => "`signpost split FILE` lists the sections".to_owned(),
        };
        SplitError::No(format!("there is no section `{heading}`"), help)
    };
    for heading in &decisions.keep {
        let part = parts.iter_mut().find(|part| same(part, heading)).ok_or_else(|| missing(heading))?;
        (part.scope, part.perhaps) = (None, Vec::new());
    }
    let mut decided: Vec<String> = Vec::new();
    for (heading, pattern) in &decisions.scopes {
        if let Err(error) = Pattern::parse(pattern, guidance::dialect()) {
            let help = "for example: `--section 'Web=web/**'`".to_owned();
            return Err(SplitError::No(format!("`{pattern}` is no valid pattern: {error}"), help));
        }
        let part = parts.iter_mut().find(|part| same(part, heading)).ok_or_else(|| missing(heading))?;
        let mut patterns =
            part.scope.take().filter(|_| decided.contains(&normal(heading))).map_or(Vec::new(), |one| one.patterns);
        patterns.push(pattern.clone());
        part.scope = reader.of_patterns(patterns, "as you said".to_owned());
        part.perhaps.clear();
        decided.push(normal(heading));
    }
    Ok(())
}

/// Why a published file is not split.
pub fn is_published(file: &RepoPath, known: &LockedFile) -> SplitError {
    let sources: Vec<&str> = known.sources.iter().map(RepoPath::as_str).collect();
    let help = format!("split one of the rules it comes from: {}", sources.join(", "));
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

/// What each assistant is really told in every conversation once the rules are written and published: one that knows no
/// scopes is told all of them.
///
/// # Errors
/// The project as it would be can't be worked on.
pub fn told_at_start(
    workspace: &Workspace<'_>,
    profiles: &[&Profile],
    split: &Split,
) -> Result<Vec<ToldAtStart>, AdoptError> {
    let mut base = Overlay::new(workspace.tree());
    if let Some(rest) = &split.rest {
        base.write(split.file.clone(), rest.as_bytes());
    }
    let own = workspace.over(&base);
    let adoption =
        Adoption { rules: split.rules.clone(), files: split.adopted.iter().cloned().collect(), ..Adoption::default() };
    let (published, _, _) = as_published(&own, profiles, &adoption)?;
    let after = own.over(&published);
    let at_start =
        |workspace: &Workspace<'_>, profile: &Profile| Ok::<_, AdoptError>(at_start(workspace, profile)?.tokens);
    let mut told = Vec::new();
    for profile in profiles {
        let then = after.profiles.iter().find(|one| one.name == profile.name).unwrap_or(profile);
        let (before, after) = (at_start(workspace, profile)?, at_start(&after, then)?);
        told.push(ToldAtStart { assistant: profile.name.clone(), before, after });
    }
    Ok(told)
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
            // The file stays: with what is told always, else with the first of the parts.
            self.rest = Some(match (general.is_empty(), scoped.next()) {
                (true, Some((part, scope))) => {
                    let (summary, paths) = (rule.summary.clone(), scope.patterns.clone());
                    let own = RuleHeader { summary, paths, ..RuleHeader::default() };
                    in_file(rule, &write_header(head_of(rule), &own), &part.text)
                }
                (_, first) => {
                    first.into_iter().for_each(|(part, scope)| {
                        add(name_of(part), write(&header(scope.patterns.clone()), &part.text))
                    });
                    in_file(rule, head_of(rule), &general)
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
                path: self.file.clone(),
                hash: link.unwrap_or_else(|| hash(rule.document.on_disk())),
                was: None,
                assistants: readers,
                sources: rules.iter().map(|rule| rule.path.clone()).collect(),
            });
        }
        self.rules = rules;
        Ok(())
    }
}

fn head_of(rule: &Rule) -> &str {
    &rule.document.text[..rule.header.body]
}

/// A text below a header, with the line ends of a rule's file.
fn in_file(rule: &Rule, head: &str, body: &str) -> String {
    let end = if rule.document.text.contains("\r\n") { "\r\n" } else { "\n" };
    let gap = if head.is_empty() || head.ends_with("\n\n") || head.ends_with("\r\n\r\n") { "" } else { end };
    format!("{head}{gap}{}{end}", body.replace('\n', end))
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
        let zone = by_parts.entry(told).or_insert_with(|| Zone { example: path.clone(), files: 0, before, after });
        zone.files += 1;
        if oddness(&path) < oddness(&zone.example) {
            zone.example = path;
        }
    }
    let mut zones: Vec<Zone> = by_parts.into_values().collect();
    zones.sort_by(|a, b| {
        (a.after, std::cmp::Reverse(a.files), &a.example).cmp(&(b.after, std::cmp::Reverse(b.files), &b.example))
    });
    zones
}
