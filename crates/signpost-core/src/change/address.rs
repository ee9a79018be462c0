//! For which files, when and by which summary a file of an assistant is told, as the guidance would say it.
//!
//! Adopting writes it into a rule; publishing asks it of a file that was adopted, to write that as it was.

use crate::base::repo_path::RepoPath;
use crate::pattern::translate::translate;
use crate::pattern::{Dialect, Pattern, escaped};
use crate::profile::{Base, Level, Nested, Place, Profile, Reach};
use crate::project::guidance;
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace};

/// What rules can share: files with the same address say the same where their words do.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Address {
    /// The folder that holds the `guidance/` that the patterns count from.
    pub base: RepoPath,
    /// When it is told.
    pub reach: Reach,
    /// As the guidance writes them.
    pub paths: Vec<String>,
    /// Likewise.
    pub except: Vec<String>,
    /// What it is picked by.
    pub summary: Option<String>,
}

impl Address {
    /// That of a file, for the guidance of a folder at or above the one it is anchored at. `hidden` are the folders further
    /// down where it is not read.
    ///
    /// # Errors
    /// The guidance has no words for it; says why.
    pub fn of(rule: &Rule, place: &Place, hidden: &[RepoPath], base: &RepoPath) -> Result<Address, String> {
        let anchor = if rule.level == Level::Folder { rule.found.anchor.path.clone() } else { RepoPath::root() };
        let (mut paths, mut except) = match rule.reach {
            Reach::Scoped | Reach::Offered => patterns_from(rule, &anchor, place.base == Base::Root, &place.dialect)?,
            Reach::Standing | Reach::Called => Default::default(),
        };
        if rule.reach == Reach::Scoped && paths.is_empty() {
            return Err("it is scoped and has no valid pattern, so it reaches no file".into());
        }
        let mut reach = rule.reach;
        if matches!(reach, Reach::Standing | Reach::Scoped) && !hidden.is_empty() {
            // Where only the nearest file is read, those above are not told there.
            if reach == Reach::Standing {
                (reach, paths) = (Reach::Scoped, vec!["**".to_owned()]);
            }
            let below = hidden.iter().filter_map(|folder| folder.below(&anchor));
            except.extend(below.map(|folder| format!("{}/**", escaped(folder, guidance::dialect()))));
        }
        let summary = rule.summary.as_ref().map(|text| text.split_whitespace().collect::<Vec<_>>().join(" "));
        Ok(Address { base: anchor, reach, paths, except, summary }.from(base))
    }

    /// The same as a folder above says it.
    pub fn from(mut self, base: &RepoPath) -> Address {
        let prefix = self.base.below(base).and_then(RepoPath::new).unwrap_or_default();
        if prefix.is_root() {
            return self;
        }
        let dialect = guidance::dialect();
        let further_down = |texts: &[String]| -> Vec<String> {
            texts.iter().flat_map(|text| translate(text, dialect, dialect, &prefix).words).collect()
        };
        self.except = further_down(&self.except);
        self.paths = match (&self.paths[..], self.reach) {
            ([], Reach::Scoped) => Vec::new(),
            ([], _) => vec![format!("{}/**", escaped(prefix.as_str(), dialect))],
            (paths, _) => further_down(paths),
        };
        if self.reach == Reach::Standing {
            self.reach = Reach::Scoped;
        }
        Address { base: base.clone(), ..self }
    }

    /// The reach, where the guidance would not take it for granted.
    pub fn explicit_reach(&self) -> Option<Reach> {
        let assumed = if self.paths.is_empty() { Reach::Standing } else { Reach::Scoped };
        (self.reach != assumed).then_some(self.reach)
    }
}

/// The folders further down whose own files keep an assistant that reads only the nearest from reading a file.
pub(super) fn hidden_below(
    project: &Project,
    workspace: &Workspace<'_>,
    profile: &Profile,
    rule: &Rule,
) -> Vec<RepoPath> {
    if profile.nested != Nested::Nearest || rule.level != Level::Folder {
        return Vec::new();
    }
    let number = workspace.profiles.iter().position(|other| other.name == profile.name).unwrap_or_default();
    let here = &rule.found.anchor.path;
    let same_place = project.candidates[number].iter().filter(|found| found.place == rule.found.place);
    let mut below: Vec<RepoPath> =
        same_place.map(|found| found.anchor.path.clone()).filter(|folder| folder.below(here).is_some()).collect();
    below.sort();
    below.dedup();
    let all = below.clone();
    below.retain(|folder| !all.iter().any(|other| folder.below(other).is_some()));
    below
}

/// The patterns of a rule, as the guidance writes them in a folder. `from_root` says that they count from the root
/// and not from there.
fn patterns_from(
    rule: &Rule,
    folder: &RepoPath,
    from_root: bool,
    dialect: &Dialect,
) -> Result<(Vec<String>, Vec<String>), String> {
    let below = !folder.is_root() && from_root;
    let one = |pattern: &Pattern| -> Result<Vec<String>, String> {
        let words = translate(pattern.text(), dialect, guidance::dialect(), &RepoPath::root()).words;
        if !below {
            return Ok(words);
        }
        // They count from the root, and the rule will stand further down.
        let cut = |text: &String| {
            let rest = text.trim_start_matches('/').strip_prefix(folder.as_str())?.strip_prefix('/')?;
            Some(if rest.contains('/') { rest.to_owned() } else { format!("/{rest}") })
        };
        let any_depth = |text: &&String| !text.contains('/') || text.starts_with("**/");
        words
            .iter()
            .map(|text| cut(text).or_else(|| any_depth(&text).then(|| text.clone())))
            .collect::<Option<Vec<_>>>()
            .ok_or_else(|| {
                format!("its pattern `{}` counts from the root, so it takes nothing in {folder}/", pattern.text())
            })
    };
    let (mut paths, mut except) = (Vec::new(), Vec::new());
    for pattern in &rule.scope.paths.set.patterns {
        match (pattern.is_negated(), except.is_empty()) {
            (true, _) => except.extend(one(pattern)?),
            (false, true) => paths.extend(one(pattern)?),
            (false, false) => {
                return Err("its patterns take files in again after a `!`, which the guidance can't say".into());
            }
        }
    }
    for pattern in &rule.scope.except.set.patterns {
        if pattern.is_negated() {
            return Err("its exceptions have exceptions, which the guidance can't say".into());
        }
        except.extend(one(pattern)?);
    }
    Ok((paths, except))
}
