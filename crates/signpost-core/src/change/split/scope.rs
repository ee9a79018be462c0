//! What a section is about: the folders, files, languages and packages that it names.

use super::{Part, Scope};
use crate::base::language::{self, LANGUAGES, Language};
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
    pub(super) fn parts(&self, workspace: &Workspace<'_>, unit: Unit) -> Vec<Part> {
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
