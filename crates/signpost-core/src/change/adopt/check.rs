//! Whether publishing what was adopted tells every assistant the same as before.

use super::Adoption;
use crate::base::repo_path::RepoPath;
use crate::change::publish::changes::{Status, status};
use crate::change::publish::{Content, Plan, PublishError, plan};
use crate::files::Overlay;
use crate::profile::Profile;
use crate::project::workspace::{Assistant, LOCK_FILE, Project, Workspace, WorkspaceError};
use crate::resolve::brief::{Brief, Entry, State};
use crate::resolve::directives::{Teller, Told, lines_of};
use crate::resolve::zones::{RuleId, Zone, partition};
use rustc_hash::{FxHashMap, FxHashSet};

/// A zone in which an assistant would be told something else.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct ZoneChange {
    /// A file of the zone.
    pub example: RepoPath,
    /// How many files it has.
    pub files: usize,
    /// The assistant, by name.
    pub assistant: String,
    /// Directives that it would not be told any more.
    pub gone: Vec<String>,
    /// Directives that it was not told before.
    pub new: Vec<String>,
    /// Directives that would come before another that they came after, or in another way.
    pub moved: Vec<String>,
}

/// The answer.
#[derive(Debug, Default)]
pub struct Checked {
    /// How many zones were looked at, for how many assistants.
    pub zones: usize,
    /// Those in which it does not hold.
    pub changes: Vec<ZoneChange>,
    /// What publishing would then do.
    pub plan: Plan,
    /// How many files publishing would write or remove.
    pub pending: usize,
}

/// Why nothing can be adopted.
#[derive(thiserror::Error, Debug)]
pub enum AdoptError {
    /// The project as it would be can't be worked on.
    #[error(transparent)]
    Workspace(#[from] WorkspaceError),
    /// It could not be published.
    #[error(transparent)]
    Publish(#[from] PublishError),
}

impl From<crate::files::TreeError> for AdoptError {
    fn from(error: crate::files::TreeError) -> Self {
        AdoptError::Workspace(error.into())
    }
}

/// Adopts and publishes in an [`Overlay`], and compares every zone with what it was.
///
/// # Errors
/// The project as it would be can't be worked on.
pub fn check(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
    adoption: &Adoption,
) -> Result<Checked, AdoptError> {
    let (tree, plan, pending) = as_published(workspace, profiles, adoption)?;
    let after = workspace.over(&tree);
    let after_project = after.project()?;
    let mut both: Vec<Assistant<'_>> =
        profiles.iter().map(|profile| Assistant { profile, rules: workspace.rules(profile, project) }).collect();
    for profile in profiles {
        let own = after.profiles.iter().find(|one| one.name == profile.name).unwrap_or(profile);
        both.push(Assistant { profile: own, rules: after.rules(own, &after_project) });
    }
    let earlier: FxHashSet<Box<str>> = match workspace.guidance(project)? {
        Some(guidance) => {
            let texts = guidance.rules.iter().map(|rule| lines_of(&rule.document.text, rule.header.body));
            texts.flatten().map(|line| line.words.clone()).collect()
        }
        None => FxHashSet::default(),
    };
    // Zones of what was told and what will be, at once.
    let zones = partition(workspace.tree(), &project.index, &both);
    let tellers = [Teller::new(workspace), Teller::new(&after)];
    let mut checked = Checked { zones: zones.zones.len(), plan, pending, ..Checked::default() };
    let number = profiles.len();
    for (at, profile) in profiles.iter().enumerate() {
        let mut known: FxHashMap<(Vec<RuleId>, bool), Option<usize>> = FxHashMap::default();
        for zone in &zones.zones {
            let rules = zone.rules.iter().filter(|id| id.assistant % number == at).copied().collect();
            let key = (rules, zone.hidden_from.contains(&at));
            if let Some(same) = known.get(&key) {
                if let Some(change) = *same {
                    checked.changes[change].files += zone.files;
                }
                continue;
            }
            let readers = [both[at].profile, both[number + at].profile];
            let change = changed(&tellers, readers, zone, &earlier)?.map(|(gone, new, moved)| {
                let (example, assistant) = (zone.example.clone(), profile.name.clone());
                checked.changes.push(ZoneChange { example, files: zone.files, assistant, gone, new, moved });
                checked.changes.len() - 1
            });
            known.insert(key, change);
        }
    }
    Ok(checked)
}

/// What changes for an assistant in a zone; `earlier` are the words that the guidance held already.
fn changed(
    tellers: &[Teller<'_, '_>; 2],
    readers: [&Profile; 2],
    zone: &Zone,
    earlier: &FxHashSet<Box<str>>,
) -> Result<Option<Changes>, AdoptError> {
    let brief = |side: usize| tellers[side].brief(readers[side], &zone.example);
    let briefs = [brief(0)?, brief(1)?];
    if is_untouched(&briefs[0], &briefs[1]) {
        return Ok(None);
    }
    let told = |side: usize| tellers[side].told(readers[side], &briefs[side], &zone.example);
    let (before, mut after) = (told(0), told(1));
    // What the guidance held already and was not published yet is no doing of adopting's.
    let told_before: FxHashSet<&str> = before.iter().map(|told| &*told.line.words).collect();
    after.retain(|told| !earlier.contains(&told.line.words) || told_before.contains(&*told.line.words));
    Ok(compare(&before, &after))
}

/// The project with what is adopted, and what publishing would do there.
pub(super) struct Adopted<'t> {
    pub tree: Overlay<'t>,
    pub plan: Plan,
    pub status: Status,
}

/// Adopts in memory; `without` are rules that are looked away from.
pub(super) fn as_adopted<'t>(
    workspace: &Workspace<'t>,
    profiles: &[&Profile],
    adoption: &Adoption,
    without: &[RepoPath],
) -> Result<Adopted<'t>, AdoptError> {
    let mut tree = Overlay::new(workspace.tree());
    without.iter().for_each(|rule| tree.remove(rule.clone()));
    for rule in &adoption.rules {
        tree.write(rule.path.clone(), rule.text.as_bytes());
    }
    let mut lock = adoption.lock(&workspace.lock()?);
    lock.file.retain(|known| !known.sources.iter().any(|source| without.contains(source)));
    tree.write(RepoPath::root().join(LOCK_FILE), lock.to_text());
    let (plan, status) = {
        let adopted = workspace.over(&tree);
        let project = adopted.project()?;
        let own: Vec<&Profile> =
            adopted.profiles.iter().filter(|one| profiles.iter().any(|own| own.name == one.name)).collect();
        let plan = plan(&adopted, &project, &own)?;
        let status = status(&tree, &plan, &lock, &[])?;
        (plan, status)
    };
    Ok(Adopted { tree, plan, status })
}

/// The project with what is adopted and then published; what publishing plans, and how many files it would write.
pub(crate) fn as_published<'t>(
    workspace: &Workspace<'t>,
    profiles: &[&Profile],
    adoption: &Adoption,
) -> Result<(Overlay<'t>, Plan, usize), AdoptError> {
    let Adopted { mut tree, plan, status } = as_adopted(workspace, profiles, adoption, &[])?;
    let mut count = 0;
    for change in status.pending() {
        count += 1;
        let path = change.path.clone();
        match &change.new {
            Some(Content::Text(text)) => tree.write(path, text.as_bytes()),
            Some(Content::Link(target)) => {
                let text = path.folder().resolve(target).and_then(|target| {
                    plan.files.iter().find(|file| file.path == target).map(|file| file.content.clone())
                });
                if let Some(Content::Text(text)) = text {
                    tree.write(path, text);
                }
            }
            None => tree.remove(path),
        }
    }
    Ok((tree, plan, count))
}

/// Whether two briefs are of the same texts, so that nobody need read what they say.
fn is_untouched(before: &Brief, after: &Brief) -> bool {
    let same = |(one, other): (&Entry, &Entry)| {
        (&one.path, &one.place, &one.via, one.state, one.kept)
            == (&other.path, &other.place, &other.via, other.state, other.kept)
            && one.document.text == other.document.text
    };
    before.entries.len() == after.entries.len() && before.entries.iter().zip(&after.entries).all(same)
}

type Changes = (Vec<String>, Vec<String>, Vec<String>);

/// What is gone, new, or comes in another order than the files did.
fn compare(before: &[Told], after: &[Told]) -> Option<Changes> {
    let says = |told: &Told| (told.line.words.clone(), told.state);
    let mut places: FxHashMap<(Box<str>, State), Vec<usize>> = FxHashMap::default();
    for (at, told) in after.iter().enumerate() {
        places.entry(says(told)).or_default().push(at);
    }
    let missing = |told: &&Told| !places.contains_key(&says(told));
    let gone: Vec<String> = before.iter().filter(missing).map(Told::shown).collect();
    let known: FxHashSet<_> = before.iter().map(says).collect();
    let new: Vec<String> = after.iter().filter(|told| !known.contains(&says(told))).map(Told::shown).collect();
    // A later file's words stay after an earlier file's; inside of a file the order means nothing, and of words
    // that stand there several times nobody can say which is which.
    let mut times: FxHashMap<&str, usize> = FxHashMap::default();
    before.iter().for_each(|told| *times.entry(&told.line.words).or_default() += 1);
    let once = |told: &Told| times.get(&*told.line.words) == Some(&1);
    let mut moved = Vec::new();
    let (mut earlier, mut own) = (0, 0);
    let mut file = None;
    for told in before.iter().filter(|told| told.state == State::Loaded) {
        if file != Some(&told.file) {
            earlier = own;
            file = Some(&told.file);
        }
        if let Some([at]) = places.get(&says(told)).map(Vec::as_slice)
            && once(told)
        {
            if *at < earlier {
                moved.push(told.shown());
            }
            own = own.max(*at);
        }
    }
    (!gone.is_empty() || !new.is_empty() || !moved.is_empty()).then_some((gone, new, moved))
}
