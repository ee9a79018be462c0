//! Facts: what the repository itself states.
//!
//! An indent width in `.editorconfig`, a script in a manifest, a locked version, a formatter's setting. One
//! file a source; each knows the folder below which it holds and the line that says it. Manifests and
//! settings are read when facts are asked for, lockfiles only when a version is. What cannot be read is
//! passed over: no fact is better than a wrong one.
//!
//! It does *not* run anything, nor look outside of the project.

mod model;
mod sources;
pub mod version;

use crate::base::language::{LANGUAGES, Language, is_code};
use crate::base::repo_path::{Location, RepoPath};
use crate::files::index::{Folder, Index};
use crate::files::{EntryKind, Tree};
pub use model::{Commands, Dependency, Ecosystem, Listed, ManagerFact, Manifest, Source, VersionFact};
use rustc_hash::{FxHashMap, FxHashSet};
use sources::lock::{self, LockKind, Locked};
pub use sources::style::{Style, StyleFact, StyleValue};
use sources::{Gathered, Read, SOURCES, javascript};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// Larger manifests are passed over.
const MOST_BYTES: usize = 4 << 20;
/// So many files stand for all where styles are compared.
const MOST_SAMPLES: usize = 2048;
/// Larger lockfiles are passed over.
const MOST_LOCK_BYTES: usize = 32 << 20;

/// What a project states.
pub struct Facts<'a> {
    tree: &'a dyn Tree,
    index: &'a Index,
    /// The manifests.
    pub manifests: Vec<Manifest>,
    /// The commands.
    pub commands: Vec<Commands>,
    /// Versions, without those of lockfiles.
    pub versions: Vec<VersionFact>,
    /// Package managers.
    pub managers: Vec<ManagerFact>,
    /// Style settings.
    pub styles: Vec<StyleFact>,
    locks: Vec<(RepoPath, &'static LockKind)>,
    locked: Mutex<FxHashMap<RepoPath, Arc<Locked>>>,
    names: OnceLock<FxHashMap<&'a str, Vec<u32>>>,
    samples: OnceLock<Vec<RepoPath>>,
    main_language: OnceLock<Option<&'static Language>>,
}

/// Folders of other people's code, which state nothing about this project.
const FOREIGN: &[&str] = &["node_modules", "vendor", "third_party", "target", ".venv", "venv", "site-packages"];

impl<'a> Facts<'a> {
    /// Reads the manifests and settings of a project.
    pub fn read(tree: &'a dyn Tree, index: &'a Index) -> Self {
        let known: FxHashMap<&str, Read> = SOURCES.iter().copied().collect();
        let mut gathered = Gathered::default();
        for folder in index.folders().iter().filter(|folder| !folder.apart) {
            let foreign = || folder.path.components().any(|part| FOREIGN.contains(&part));
            for item in folder.items().filter(|item| !item.ignored && item.kind != EntryKind::Folder) {
                let read = known.get(item.name).copied().or_else(|| sources::by_ending(item.name));
                let lock = lock::by_name(item.name);
                let other = item.name == "config.toml" && folder.path.name() != ".cargo";
                if read.is_none() && lock.is_none() || other || foreign() {
                    continue;
                }
                let file = folder.path.join(item.name);
                if let Some(lock) = lock {
                    // It speaks by being there; what is in it is read when it is asked for.
                    let (ecosystem, name) = (lock.ecosystem, lock.manager.to_owned());
                    gathered.managers.push(ManagerFact {
                        ecosystem,
                        name,
                        source: Source { file: file.clone(), line: 1 },
                    });
                    gathered.locks.push((file, lock));
                } else if let (Some(read), Some(text)) = (read, text_of(tree, &file, MOST_BYTES)) {
                    read(&file, &text, &mut gathered);
                }
            }
        }
        javascript::one_manager(&mut gathered.managers);
        // A manifest and its lockfile say the same.
        let mut known = FxHashSet::default();
        gathered.managers.retain(|one| known.insert((one.name.clone(), one.source.file.folder())));
        let Gathered { manifests, commands, versions, managers, styles, locks } = gathered;
        let (locked, names, samples) = (Mutex::default(), OnceLock::new(), OnceLock::new());
        let main_language = OnceLock::new();
        Facts {
            tree,
            index,
            manifests,
            commands,
            versions,
            managers,
            styles,
            locks,
            locked,
            names,
            samples,
            main_language,
        }
    }

    /// The folder that a file states things about: its own, or the one above for `.cargo/config.toml`.
    pub fn folder_of(file: &RepoPath) -> RepoPath {
        let folder = file.folder();
        if folder.name() == ".cargo" { folder.folder() } else { folder }
    }

    /// Every version that is stated of something: by toolchain files and manifests, and of a package by the lockfiles
    /// of the manifests that name it.
    pub fn versions_of(&self, of: &str) -> Vec<VersionFact> {
        let mut found: Vec<VersionFact> = self.versions.iter().filter(|fact| fact.of == of).cloned().collect();
        for manifest in &self.manifests {
            let Some((name, dependency)) = manifest.dependencies.get_key_value(of) else { continue };
            let source = Source { file: manifest.file.clone(), line: dependency.line };
            for (lock, locked) in self.locks_of(manifest) {
                if let Some(versions) = locked.get(name)
                    && let [(version, line)] = &versions[..]
                    && let Some(span) = version::exact(version)
                {
                    let source = Source { file: lock.clone(), line: *line };
                    found.push(VersionFact { of: of.to_owned(), text: version.clone(), span, exact: true, source });
                }
            }
            if let Some(range) = &dependency.range
                && let Some(span) = version::range(range, manifest.ecosystem)
            {
                let exact = span.is_one();
                found.push(VersionFact { of: of.to_owned(), text: range.clone(), span, exact, source });
            }
        }
        found
    }

    /// The lockfiles that speak of a manifest: the nearest of its ecosystem at or above its folder.
    fn locks_of(&self, manifest: &Manifest) -> impl Iterator<Item = (&RepoPath, Arc<Locked>)> {
        let folder = manifest.file.folder();
        let above = self
            .locks
            .iter()
            .filter(move |(file, lock)| lock.ecosystem == manifest.ecosystem && folder.is_in(&file.folder()));
        let deepest = above.clone().map(|(file, _)| file.folder().depth()).max();
        let nearest = above.filter(move |(file, _)| Some(file.folder().depth()) == deepest);
        nearest.map(|(file, lock)| (file, self.locked_in(file, lock)))
    }

    fn locked_in(&self, file: &RepoPath, lock: &LockKind) -> Arc<Locked> {
        let mut locked = self.locked.lock().unwrap_or_else(PoisonError::into_inner);
        let read = || Arc::new((lock.read)(&text_of(self.tree, file, MOST_LOCK_BYTES).unwrap_or_default()));
        locked.entry(file.clone()).or_insert_with(read).clone()
    }

    /// Whether some manifest of an ecosystem, or a lockfile, holds a package.
    pub fn has_package(&self, ecosystem: Ecosystem, name: &str) -> bool {
        self.has_package_near(ecosystem, name, None)
    }

    /// The same of the manifests that count for what stands in a folder: those above it, its own, and those below.
    pub fn has_package_near(&self, ecosystem: Ecosystem, name: &str, at: Option<&RepoPath>) -> bool {
        let same = |own: &str| same_package(ecosystem, own, name);
        let counts = |manifest: &&Manifest| at.is_none_or(|at| counts_for(&manifest.file, at));
        let mut manifests = self.manifests.iter().filter(|manifest| manifest.ecosystem == ecosystem).filter(counts);
        manifests.any(|manifest| {
            manifest.name.as_deref().is_some_and(same)
                || manifest.dependencies.keys().any(|own| same(own))
                || self.locks_of(manifest).any(|(_, locked)| locked.keys().any(|own| same(own)))
        })
    }

    /// Whether a manifest names a package, or a command of the project is called so.
    pub fn names_thing(&self, name: &str) -> bool {
        let depends =
            |manifest: &Manifest| manifest.dependencies.keys().any(|own| same_package(manifest.ecosystem, own, name));
        self.manifests.iter().any(depends) || self.commands.iter().any(|commands| commands.names.contains_key(name))
    }

    /// The language that most of the project's code is in.
    pub fn main_language(&self) -> Option<&'static Language> {
        *self.main_language.get_or_init(|| {
            let mut files: FxHashMap<&str, usize> = FxHashMap::default();
            for (_, item) in self.index.sources() {
                *files.entry(item.name.rsplit('.').next().unwrap_or_default()).or_default() += 1;
            }
            let of =
                |language: &Language| -> usize { language.endings.iter().filter_map(|ending| files.get(ending)).sum() };
            let code = LANGUAGES.iter().filter(|one| one.endings.iter().any(|ending| is_code(ending)));
            code.max_by_key(|one| of(one)).filter(|one| of(one) > 0)
        })
    }

    /// The files and folders of that name, the first few, for hints.
    pub fn named(&self, name: &str) -> Vec<RepoPath> {
        let names = self.names.get_or_init(|| {
            let mut names: FxHashMap<&str, Vec<u32>> = FxHashMap::default();
            for (number, folder) in self.index.folders().iter().enumerate().filter(|(_, folder)| !folder.apart) {
                for item in folder.items().filter(|item| !item.ignored) {
                    let all = names.entry(item.name).or_default();
                    if all.len() < 8 {
                        all.push(number as u32);
                    }
                }
            }
            names
        });
        let folders = names.get(name).into_iter().flatten();
        folders.map(|folder| self.index.folders()[*folder as usize].path.join(name)).collect()
    }

    /// How many source files stand below a folder.
    pub fn files_below(&self, folder: &RepoPath) -> usize {
        self.index.files_below(folder)
    }

    /// How many source files below a folder end so, or are called so.
    pub fn files_ending(&self, folder: &RepoPath, ending: &str) -> usize {
        let ends = |name: &str| name.rsplit('.').next() == Some(ending);
        let count = |one: &Folder| one.items().filter(|item| item.is_source() && ends(item.name)).count();
        self.index.below(folder).map(count).sum()
    }

    /// The setting of a style that counts for a file: a formatter's before that of an `.editorconfig`, the nearest
    /// before one farther up, the last of a file before earlier ones.
    pub fn style_of(&self, style: Style, file: &RepoPath) -> Option<&StyleFact> {
        let rank = |fact: &StyleFact| (fact.rank, fact.source.file.folder().depth(), fact.source.line);
        self.styles.iter().filter(|fact| fact.style == style && fact.takes(file)).max_by_key(|fact| rank(fact))
    }

    /// For each part of the project and each ending a file, for questions that any file of the kind answers.
    pub fn samples(&self) -> &[RepoPath] {
        self.samples.get_or_init(|| {
            let mut seen: FxHashMap<&str, FxHashSet<&str>> = FxHashMap::default();
            let mut samples = Vec::new();
            for folder in self.index.folders().iter().filter(|folder| !folder.apart) {
                let part = seen.entry(folder.path.components().next().unwrap_or_default()).or_default();
                for item in folder.items().filter(|item| item.is_source()) {
                    let ending =
                        item.name.bytes().rposition(|byte| byte == b'.').map_or(item.name, |at| &item.name[at..]);
                    if part.insert(ending) && samples.len() < MOST_SAMPLES {
                        samples.push(folder.path.join(item.name));
                    }
                }
            }
            samples
        })
    }

    /// Everything, one fact a line: what, its value, and where it stands.
    pub fn list(&self) -> Vec<Listed> {
        let mut listed = Vec::new();
        let mut add = |kind: &'static str, name: String, value: String, source: &Source| {
            listed.push(Listed { kind, name, value, source: source.clone() });
        };
        for manager in &self.managers {
            add("package manager", manager.ecosystem.title().to_owned(), manager.name.clone(), &manager.source);
        }
        for fact in &self.versions {
            add("version", fact.of.clone(), fact.text.clone(), &fact.source);
        }
        for manifest in &self.manifests {
            for (name, dependency) in &manifest.dependencies {
                let locked = self.locks_of(manifest).find_map(|(_, locked)| match locked.get(name) {
                    Some(versions) if versions.len() == 1 => Some(versions[0].0.clone()),
                    _ => None,
                });
                let range = dependency.range.clone().unwrap_or_default();
                let value = match locked {
                    Some(locked) if locked != range => format!("{range} (locked: {locked})").trim().to_owned(),
                    _ => range,
                };
                add("dependency", name.clone(), value, &Source { file: manifest.file.clone(), line: dependency.line });
            }
        }
        for commands in &self.commands {
            for (name, line) in &commands.names {
                let source = Source { file: commands.file.clone(), line: *line };
                add("command", format!("{} {name}", commands.run_with()), String::new(), &source);
            }
        }
        for style in &self.styles {
            add(
                "style",
                style.style.title().to_owned(),
                format!("{}{}", style.value, style.scope_text()),
                &style.source,
            );
        }
        listed
    }
}

fn text_of(tree: &dyn Tree, file: &RepoPath, most: usize) -> Option<String> {
    let location = Location::root(file.clone());
    let bytes = tree.read_at_most(&location, most as u64).ok()?;
    let text = String::from_utf8_lossy(&bytes).into_owned();
    Some(text.strip_prefix('\u{feff}').map_or(text.clone(), str::to_owned))
}

/// Whether what a file states counts for what is said in a folder: it stands on the way there, or below.
pub fn counts_for(file: &RepoPath, at: &RepoPath) -> bool {
    let folder = Facts::folder_of(file);
    at.is_in(&folder) || folder.is_in(at)
}

/// Of some facts those that count for a folder: what stands on the way there, the nearest first, else what stands below.
pub fn nearest_for<'f, F>(
    facts: impl Iterator<Item = &'f F>,
    at: &RepoPath,
    file: impl Fn(&F) -> &RepoPath,
) -> Vec<&'f F> {
    let all: Vec<&F> = facts.filter(|one| counts_for(file(one), at)).collect();
    let above: Vec<&F> = all.iter().copied().filter(|one| at.is_in(&Facts::folder_of(file(one)))).collect();
    let deepest = above.iter().map(|one| Facts::folder_of(file(one)).depth()).max();
    if above.is_empty() {
        return all;
    }
    above.into_iter().filter(|one| Some(Facts::folder_of(file(one)).depth()) == deepest).collect()
}

/// Python and Cargo take `-` and `_` for the same.
fn same_package(ecosystem: Ecosystem, one: &str, other: &str) -> bool {
    match ecosystem {
        Ecosystem::JavaScript | Ecosystem::Dart => one == other,
        Ecosystem::Jvm => {
            let artifact = |name: &str| name.rsplit(':').next().unwrap_or_default().to_lowercase();
            one == other || artifact(one) == artifact(other)
        }
        Ecosystem::Elixir => one.trim_start_matches(':') == other.trim_start_matches(':'),
        Ecosystem::DotNet | Ecosystem::Ruby | Ecosystem::Php | Ecosystem::Swift | Ecosystem::Cpp => {
            one.eq_ignore_ascii_case(other)
        }
        Ecosystem::Go => one == other || one.rsplit('/').find(|part| !part.starts_with('v')) == Some(other),
        Ecosystem::Python | Ecosystem::Rust => {
            let plain = |name: &str| name.to_lowercase().replace(['_', '.'], "-");
            plain(one) == plain(other)
        }
    }
}

#[cfg(test)]
mod tests;
