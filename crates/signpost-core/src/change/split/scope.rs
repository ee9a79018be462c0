//! What a section is about: the folders, files, languages and packages that it names.

use super::{Part, Scope};
use crate::base::language::{self, LANGUAGES, Language, oddness};
use crate::base::repo_path::RepoPath;
use crate::change::adopt::cut::{Unit, units};
use crate::directive::Outline;
use crate::facts::Facts;
use crate::files::index::Index;
use crate::pattern::{Pattern, escaped};
use crate::project::guidance;
use crate::project::workspace::Workspace;
use rustc_hash::FxHashMap;
use std::collections::BTreeSet;

/// Names of folders that are also what people do everywhere.
const EVERYWHERE: &[&str] = &[
    "test", "tests", "testing", "build", "bench", "benches", "benchmarks", "example", "examples", "doc", "docs",
    "release", "releases", "script", "scripts", "tool", "tools", "src", "lib", "main", "style", "styles", "types",
    "common", "core", "util", "utils", "config", "data",
];

/// Reads what sections are about.
pub(super) struct Reader<'a> {
    index: &'a Index,
    base: &'a RepoPath,
    /// Folders by their name in lower case.
    folders: FxHashMap<String, Vec<RepoPath>>,
    /// Source files by their name without its ending, in lower case.
    files: FxHashMap<String, Vec<RepoPath>>,
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
    pub(super) fn new(index: &'a Index, facts: &Facts<'_>, base: &'a RepoPath) -> Self {
        let mut folders: FxHashMap<String, Vec<RepoPath>> = FxHashMap::default();
        for folder in index.below(base).filter(|folder| !folder.path.is_root()) {
            folders.entry(folder.path.name().to_lowercase()).or_default().push(folder.path.clone());
        }
        let mut files: FxHashMap<String, Vec<RepoPath>> = FxHashMap::default();
        for (folder, item) in index.sources().filter(|(folder, _)| folder.path.is_in(base)) {
            let stem = item.name.rsplit_once('.').map_or(item.name, |(stem, _)| stem);
            files.entry(stem.to_lowercase()).or_default().push(folder.path.join(item.name));
        }
        let mut packages: FxHashMap<String, BTreeSet<RepoPath>> = FxHashMap::default();
        for manifest in &facts.manifests {
            for name in manifest.dependencies.keys() {
                packages.entry(name.to_lowercase()).or_default().insert(manifest.file.folder());
            }
        }
        let all = index.sources().filter(|(folder, _)| folder.path.is_in(base)).count();
        Reader { index, base, folders, files, packages, all }
    }

    /// A section with its scope; in its own sections, where it has none and they do.
    pub(super) fn parts(&self, workspace: &Workspace<'_>, unit: Unit) -> Vec<Part> {
        let part = |unit: Unit, scope: Option<Scope>| Part {
            tokens: workspace.weigh(&unit.text),
            perhaps: if scope.is_none() && unit.heading.is_some() { self.perhaps(&unit) } else { Vec::new() },
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
        let (mut named, why) =
            if title.is_empty() { self.in_body(&unit.text)? } else { (title, "its heading names it".to_owned()) };
        // What it says to be in some file or folder concerns that too.
        named.extend(self.works_with(&unit.text).into_iter().flatten());
        let patterns = self.patterns(&named)?;
        self.of_patterns(patterns, why).filter(|scope| scope.files > 0 && scope.files * 10 < self.all * 9)
    }

    /// A scope of these patterns, whatever it takes.
    pub(super) fn of_patterns(&self, patterns: Vec<String>, why: String) -> Option<Scope> {
        let patterns = self.without_needless(patterns);
        let compiled: Vec<Pattern> =
            patterns.iter().filter_map(|text| Pattern::parse(text, guidance::dialect()).ok()).collect();
        let takes =
            |path: &RepoPath| path.below(self.base).is_some_and(|below| compiled.iter().any(|one| one.matches(below)));
        let sources = || self.index.sources().filter(|(folder, _)| folder.path.is_in(self.base));
        let paths = || sources().map(|(folder, item)| folder.path.join(item.name));
        let files = paths().filter(&takes).count();
        let lost = paths().filter(|path| !takes(path)).min_by_key(|path| (oddness(path), path.clone()));
        Some(Scope { patterns, files, why, lost })
    }

    /// Without those whose files the others take too.
    fn without_needless(&self, mut patterns: Vec<String>) -> Vec<String> {
        let taken = |text: &String| -> BTreeSet<RepoPath> {
            let Ok(pattern) = Pattern::parse(text, guidance::dialect()) else { return BTreeSet::new() };
            let paths = self.index.sources().map(|(folder, item)| folder.path.join(item.name));
            paths.filter(|path| path.below(self.base).is_some_and(|below| pattern.matches(below))).collect()
        };
        let mut sets: Vec<BTreeSet<RepoPath>> = patterns.iter().map(taken).collect();
        let mut at = patterns.len();
        while at > 0 && patterns.len() > 1 {
            at -= 1;
            let others: BTreeSet<&RepoPath> =
                sets.iter().enumerate().filter(|(other, _)| *other != at).flat_map(|(_, set)| set).collect();
            // What takes nothing yet was asked for, or is for tomorrow.
            if !sets[at].is_empty() && sets[at].iter().all(|path| others.contains(path)) {
                patterns.remove(at);
                sets.remove(at);
            }
        }
        patterns
    }

    /// What a section could be about, where that is not sure: what it works with, or names.
    fn perhaps(&self, unit: &Unit) -> Vec<String> {
        let named: BTreeSet<Named> = self.works_with(&unit.text).into_iter().flatten().collect();
        let scope = self.patterns(&named).and_then(|patterns| self.of_patterns(patterns, String::new()));
        scope.map(|scope| scope.patterns).unwrap_or_default()
    }

    /// Directive by directive the files and folders that something is said to be in: `in services.py`, `below static/js/`.
    fn works_with(&self, text: &str) -> Vec<BTreeSet<Named>> {
        const IN: [&str; 6] = ["in", "into", "inside", "under", "below", "within"];
        let outline = Outline::read(text, 0);
        let of = |words: &str| -> BTreeSet<Named> {
            let mut named = BTreeSet::new();
            let mut inside = false;
            for (number, piece) in words.split('`').enumerate() {
                if number % 2 == 1 {
                    named.extend(Some(piece.trim()).filter(|_| inside).and_then(|piece| self.place(piece)));
                    continue;
                }
                let last = piece.split_whitespace().next_back().unwrap_or_default().to_lowercase();
                // `in a and b` is in both.
                inside = IN.contains(&last.as_str()) || inside && matches!(last.as_str(), "and" | "or" | ",");
            }
            named
        };
        outline.directives.iter().map(|one| of(&text[one.span.clone()])).collect()
    }

    /// What most of the directives name, where that is one thing.
    fn in_body(&self, text: &str) -> Option<(BTreeSet<Named>, String)> {
        let outline = Outline::read(text, 0);
        let own: Vec<BTreeSet<Named>> =
            outline.directives.iter().map(|one| self.named_in(&text[one.span.clone()], false)).collect();
        let naming = own.iter().filter(|named| !named.is_empty()).count();
        if own.is_empty() {
            return None;
        }
        if naming * 2 < own.len() || naming < 2.min(own.len()) {
            // A few that say where their things are will do.
            let works = self.works_with(text);
            let number = works.iter().filter(|named| !named.is_empty()).count();
            let sure = number >= 2 && number * 3 >= own.len();
            let why = format!("{number} of its {} directives say where", own.len());
            return sure.then(|| (works.into_iter().flatten().collect(), why));
        }
        let all: BTreeSet<Named> = own.iter().flatten().cloned().collect();
        let folders: Vec<&RepoPath> =
            all.iter().filter_map(|one| if let Named::Folder(path) = one { Some(path) } else { None }).collect();
        let languages: BTreeSet<&Named> = all.iter().filter(|one| matches!(one, Named::Language(_))).collect();
        let one = own.len() == 1;
        let said = if one { "its directive".to_owned() } else { format!("{naming} of its {} directives", own.len()) };
        let name = if one || naming == 1 { "names" } else { "name" };
        if let Some(common) = folders.iter().map(|path| (*path).clone()).reduce(|one, other| one.common(&other)) {
            let below_base = common.below(self.base).is_some();
            return below_base.then(|| {
                (BTreeSet::from([Named::Folder(common.clone())]), format!("{said} {name} paths in {common}/"))
            });
        }
        match (languages.len(), all.len()) {
            (1, 1) => Some((all, format!("{said} {name} it"))),
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

    /// A file itself, not the folder that it is in.
    fn place(&self, text: &str) -> Option<Named> {
        let path = self.base.resolve(text.trim_start_matches('/')).filter(|path| self.index.is_source(path));
        match path.as_ref().and_then(|path| path.below(self.base)) {
            Some(below) if below.contains('/') => Some(Named::Files(escaped(below, guidance::dialect()))),
            _ => self.path(text),
        }
    }

    fn path(&self, text: &str) -> Option<Named> {
        if text.contains(char::is_whitespace) || text.contains("://") || text.starts_with(['-', '@', '$', '~']) {
            return None;
        }
        if text.contains('*') {
            let pattern = Pattern::parse(text, guidance::dialect()).ok()?;
            let taken = self.index.sources().any(|(folder, item)| {
                folder.path.join(item.name).below(self.base).is_some_and(|below| pattern.matches(below))
            });
            return taken.then(|| Named::Files(text.to_owned()));
        }
        if !text.contains(['/', '.']) {
            return None;
        }
        if let Some(pattern) = with_placeholders(text) {
            return self.path(&pattern);
        }
        if !text.contains('/') && !self.index.holds(&self.base.join(text)) {
            // `services.py`, of whichever part.
            let (stem, _) = text.rsplit_once('.')?;
            let same = self.files.get(&stem.to_lowercase())?.iter().filter(|path| path.name() == text).count();
            return (same > 0).then(|| Named::Files(escaped(text, guidance::dialect())));
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
            // One in each part: all of them are meant.
            Some(many) if many.len() > 2 => {
                Some(Named::Files(format!("**/{}/**", escaped(many[0].name(), guidance::dialect()))))
            }
            Some(many) => many
                .iter()
                .min_by_key(|path| path.depth())
                .filter(|path| many.iter().filter(|other| other.depth() == path.depth()).count() == 1)
                .cloned()
                .map(Named::Folder),
            None => self.file_of_each_part(&lower),
        }
    }

    /// `Models` are in the `models.py` of each part, `Views` in `views.py`.
    fn file_of_each_part(&self, word: &str) -> Option<Named> {
        let files = self.files.get(word).filter(|_| word.len() > 3)?;
        let name = files[0].name();
        let alike = files.iter().all(|path| path.name() == name);
        (files.len() > 1 && alike).then(|| Named::Files(escaped(name, guidance::dialect())))
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

/// `apps/NAME/tests/` and `apps/<name>/tests/` as patterns: what stands for any name becomes `*`.
fn with_placeholders(text: &str) -> Option<String> {
    let stands_for_any = |part: &str| {
        let shouted = part.len() > 1 && part.chars().all(|c| c.is_ascii_uppercase() || c == '_');
        shouted || part.starts_with('<') && part.ends_with('>') || part.starts_with('{') && part.ends_with('}')
    };
    let (parts, end) = match text.strip_suffix('/') {
        Some(rest) => (rest, "/**"),
        None => (text, ""),
    };
    let found = text.contains('/') && parts.split('/').any(stands_for_any);
    let parts: Vec<&str> = parts.split('/').map(|part| if stands_for_any(part) { "*" } else { part }).collect();
    found.then(|| format!("{}{end}", parts.join("/")))
}
