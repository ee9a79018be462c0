//! Zones: the partition of a project's source files by what every assistant is told about them.
//!
//! Every analysis of a whole project works on zones, so that its cost grows with zones and not with files.
//! They are computed in one pass over the folders. What a folder's files have in common is worked out once
//! a folder, and a file costs little more than a look at its ending.

mod matcher;

use crate::base::language::{MOST_ODD, oddness, oddness_of_name};
use crate::base::repo_path::{Location, RepoPath};
use crate::files::Tree;
use crate::files::ignore_file::HideChain;
use crate::files::index::{Folder, Index};
use crate::profile::{Level, Reach};
use crate::project::rule::Rule;
use crate::project::workspace::Assistant;
use crate::resolve::choice;
use matcher::{Matcher, Matchers};
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use std::sync::Arc;

/// A rule, by the number of its assistant and its number there.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct RuleId {
    /// The assistant's number.
    pub assistant: usize,
    /// The rule's number.
    pub rule: usize,
}

/// Source files about which every assistant is told the same.
#[derive(Debug)]
pub struct Zone {
    /// How many files.
    pub files: usize,
    /// The first of them.
    pub example: RepoPath,
    /// The deepest folder that holds them all.
    pub folder: RepoPath,
    /// The rules that are told, offered or callable, of all assistants, but for [`Zones::everywhere`].
    pub rules: Vec<RuleId>,
    /// The assistants that the files are hidden from.
    pub hidden_from: Vec<usize>,
}

/// The zones of a project.
#[derive(Debug)]
pub struct Zones {
    /// The zones, by their example.
    pub zones: Vec<Zone>,
    /// The rules that are told, offered or callable in every zone. They stand here once, so that many rules
    /// and many zones do not multiply.
    pub everywhere: Vec<RuleId>,
    /// For each assistant, for each rule, how many source files are in its scope.
    pub matches: Vec<Vec<usize>>,
    /// How many source files there are.
    pub files: usize,
}

impl Zones {
    /// All rules of a zone.
    pub fn rules_of<'z>(&'z self, zone: &'z Zone) -> impl Iterator<Item = RuleId> + 'z {
        self.everywhere.iter().chain(&zone.rules).copied()
    }
}

/// Files in the same group have the same rules in scope, the same folder-level rules, and are hidden from
/// the same assistants.
struct Group {
    files: usize,
    example: RepoPath,
    /// How unlikely it is that somebody thinks of the example.
    odd: u8,
    folder: RepoPath,
    key: GroupKey,
}

/// The number of the context, of the assistants that the files are hidden from, those assistants, and the
/// scoped rules that take the files.
#[derive(Clone, PartialEq, Eq, Hash)]
struct GroupKey(Vec<u32>);

impl GroupKey {
    fn context(&self) -> usize {
        self.0[0] as usize
    }

    fn hidden(&self) -> &[u32] {
        &self.0[2..2 + self.0[1] as usize]
    }

    fn taken(&self) -> &[u32] {
        &self.0[2 + self.0[1] as usize..]
    }
}

/// For each assistant: its exclusions, and whether the whole folder is hidden from it.
type Exclusions = Arc<Vec<(HideChain, bool)>>;

/// What holds for all files of a folder.
#[derive(Clone)]
struct Here<'a> {
    context: u32,
    matcher: Matcher<'a>,
    exclusions: Exclusions,
}

/// Folders are worked through in portions of so many, on all cores.
const PORTION: usize = 256;

/// Partitions a project.
pub fn partition(tree: &dyn Tree, index: &Index, assistants: &[Assistant<'_>]) -> Zones {
    let all = AllRules::new(assistants);
    let mut contexts = Contexts::new(assistants, &all);
    let matchers = Matchers::new(&all);
    let mut here: Vec<Here<'_>> = Vec::with_capacity(index.folders().len());
    let none: Exclusions = Arc::new(assistants.iter().map(|_| (HideChain::default(), false)).collect());
    for (id, folder) in index.folders().iter().enumerate() {
        let parent = (id > 0).then(|| here[folder.parent as usize].clone());
        here.push(Here {
            context: contexts.enter(parent.as_ref().map(|parent| parent.context), &folder.path),
            matcher: matchers.enter(parent.as_ref().map(|parent| &parent.matcher), &folder.path),
            exclusions: exclusions(tree, assistants, parent.map_or(none.clone(), |parent| parent.exclusions), folder),
        });
    }
    let portions: Vec<Portion> = index
        .folders()
        .par_chunks(PORTION)
        .zip(here.par_chunks(PORTION))
        .map(|(folders, here)| {
            let mut portion = Portion::default();
            folders.iter().zip(here).for_each(|(folder, here)| portion.add(&all, folder, here));
            portion
        })
        .collect();
    let mut below: Vec<usize> = Vec::with_capacity(index.folders().len());
    let mut groups: Vec<Group> = Vec::new();
    let mut known: FxHashMap<GroupKey, usize> = FxHashMap::default();
    for portion in portions {
        below.extend(portion.files);
        for group in portion.groups {
            match known.get(&group.key) {
                // Portions come in the order of folders, so that the first example stays.
                Some(number) => {
                    let own = &mut groups[*number];
                    own.files += group.files;
                    own.folder = own.folder.common(&group.folder);
                    if group.odd < own.odd {
                        (own.odd, own.example) = (group.odd, group.example);
                    }
                }
                None => {
                    known.insert(group.key.clone(), groups.len());
                    groups.push(group);
                }
            }
        }
    }
    // A folder stands after its parent, so that counts can be handed up from the end.
    for id in (1..below.len()).rev() {
        below[index.folders()[id].parent as usize] += below[id];
    }
    Zones {
        matches: matches(&all, index, assistants, &groups, &below),
        files: below.first().copied().unwrap_or(0),
        everywhere: contexts.everywhere.iter().map(|number| all.rules[*number as usize].0).collect(),
        zones: zones(&all, &contexts, groups),
    }
}

/// The groups of some folders.
#[derive(Default)]
struct Portion {
    groups: Vec<Group>,
    known: FxHashMap<Vec<u32>, usize>,
    /// How many source files stand directly in each folder.
    files: Vec<usize>,
    key: Vec<u32>,
    by_name: Vec<u32>,
}

impl Portion {
    fn add(&mut self, all: &AllRules<'_>, folder: &Folder, here: &Here<'_>) {
        let hidden_folder = folder.path.components().any(|part| part.starts_with('.'));
        let hiding = here.exclusions.iter().any(|(chain, hidden)| *hidden || !chain.is_empty());
        // Files with one ending mostly share a group.
        let mut by_ending: Vec<(&str, usize)> = Vec::new();
        let mut files = 0;
        for item in folder.items().filter(|item| item.is_source()) {
            files += 1;
            let ending = item.name.bytes().rposition(|byte| byte == b'.').map_or("", |at| &item.name[at..]);
            self.by_name.clear();
            here.matcher.taken_by_name(all, folder, item.name, ending, &mut self.by_name);
            let plain = !hiding && self.by_name.is_empty();
            if plain && let Some((_, group)) = by_ending.iter().find(|(other, _)| *other == ending) {
                self.groups[*group].files += 1;
                continue;
            }
            self.key.clear();
            self.key.extend([here.context, 0]);
            if hiding {
                let path = folder.path.join(item.name);
                self.key.extend(hidden_from(&here.exclusions, &path));
                self.key[1] = self.key.len() as u32 - 2;
            }
            let taken_from = self.key.len();
            self.key.extend(&self.by_name);
            here.matcher.taken_by_ending(ending, &mut self.key);
            sort_from(&mut self.key, taken_from);
            let odd = if hidden_folder { MOST_ODD } else { oddness_of_name(item.name) };
            let group = match self.known.get(&self.key) {
                Some(group) => {
                    let own = &mut self.groups[*group];
                    if odd < own.odd {
                        (own.odd, own.example) = (odd, folder.path.join(item.name));
                    }
                    *group
                }
                None => {
                    let group = self.groups.len();
                    self.known.insert(self.key.clone(), group);
                    let example = folder.path.join(item.name);
                    self.groups.push(Group {
                        files: 0,
                        example,
                        odd,
                        folder: folder.path.clone(),
                        key: GroupKey(self.key.clone()),
                    });
                    group
                }
            };
            self.groups[group].files += 1;
            if !folder.path.is_in(&self.groups[group].folder) {
                self.groups[group].folder = self.groups[group].folder.common(&folder.path);
            }
            if plain {
                by_ending.push((ending, group));
            }
        }
        self.files.push(files);
    }
}

/// Sorts the end of a list and drops what stands there twice.
fn sort_from(list: &mut Vec<u32>, start: usize) {
    list[start..].sort_unstable();
    let mut end = start;
    for at in start..list.len() {
        if end == start || list[end - 1] != list[at] {
            list[end] = list[at];
            end += 1;
        }
    }
    list.truncate(end);
}

fn matches(
    all: &AllRules<'_>,
    index: &Index,
    assistants: &[Assistant<'_>],
    groups: &[Group],
    below: &[usize],
) -> Vec<Vec<usize>> {
    let mut counts = vec![0; all.rules.len()];
    for group in groups {
        group.key.taken().iter().for_each(|number| counts[*number as usize] += group.files);
    }
    let by_path: FxHashMap<&RepoPath, usize> =
        index.folders().iter().enumerate().map(|(id, folder)| (&folder.path, below[id])).collect();
    let mut matches: Vec<Vec<usize>> = assistants.iter().map(|assistant| vec![0; assistant.rules.len()]).collect();
    for (number, (id, rule)) in all.rules.iter().enumerate() {
        matches[id.assistant][id.rule] = match rule.reach {
            Reach::Scoped => counts[number],
            _ => by_path.get(&rule.scope.below).copied().unwrap_or(0),
        };
    }
    matches
}

/// Joins groups that differ only in rules which are not told.
fn zones(all: &AllRules<'_>, contexts: &Contexts<'_>, groups: Vec<Group>) -> Vec<Zone> {
    let mut by_rules: FxHashMap<(Vec<u32>, Vec<u32>), usize> = FxHashMap::default();
    let mut zones: Vec<Zone> = Vec::new();
    for group in groups {
        let context = &contexts.all[group.key.context()];
        let standing = context.iter().filter(|number| all.rules[**number as usize].1.reach != Reach::Scoped);
        let scoped = group.key.taken().iter().filter(|number| {
            let (id, rule) = &all.rules[**number as usize];
            // A folder-level rule can be dropped for a nearer one.
            let candidate = rule.level != Level::Folder || context.binary_search(number).is_ok();
            candidate && !group.key.hidden().contains(&(id.assistant as u32))
        });
        let mut rules: Vec<u32> = standing.chain(scoped).copied().collect();
        rules.sort_unstable();
        let zone = *by_rules.entry((rules.clone(), group.key.hidden().to_vec())).or_insert_with(|| {
            zones.push(Zone {
                files: 0,
                example: group.example.clone(),
                folder: group.folder.clone(),
                rules: rules.iter().map(|number| all.rules[*number as usize].0).collect(),
                hidden_from: group.key.hidden().iter().map(|number| *number as usize).collect(),
            });
            zones.len() - 1
        });
        zones[zone].files += group.files;
        zones[zone].folder = zones[zone].folder.common(&group.folder);
        let rank = |example: &RepoPath| (oddness(example), example.clone());
        if rank(&group.example) < rank(&zones[zone].example) {
            zones[zone].example = group.example;
        }
    }
    zones.sort_by(|a, b| a.example.cmp(&b.example));
    zones
}

/// The rules of all assistants, numbered through.
struct AllRules<'a> {
    rules: Vec<(RuleId, &'a Rule)>,
}

impl<'a> AllRules<'a> {
    fn new(assistants: &'a [Assistant<'_>]) -> Self {
        let rules = assistants.iter().enumerate().flat_map(|(assistant, one)| {
            one.rules.iter().enumerate().map(move |(rule, read)| (RuleId { assistant, rule }, &**read))
        });
        AllRules { rules: rules.filter(|(_, rule)| rule.takes_part()).collect() }
    }
}

/// Which folder-level rules are candidates in which folder, with a number for each set of them.
struct Contexts<'a> {
    assistants: &'a [Assistant<'a>],
    rules: Vec<(RuleId, &'a Rule)>,
    /// The rules that an anchor folder adds.
    anchored: FxHashMap<&'a RepoPath, Vec<u32>>,
    /// The rules of the home folder and the root that no scope limits.
    everywhere: Vec<u32>,
    all: Vec<Vec<u32>>,
    numbers: FxHashMap<Vec<u32>, u32>,
}

impl<'a> Contexts<'a> {
    fn new(assistants: &'a [Assistant<'_>], all: &AllRules<'a>) -> Self {
        let mut anchored: FxHashMap<&RepoPath, Vec<u32>> = FxHashMap::default();
        let mut everywhere = Vec::new();
        for (number, (_, rule)) in all.rules.iter().enumerate() {
            match rule.level {
                Level::Folder => anchored.entry(&rule.found.anchor.path).or_default().push(number as u32),
                Level::User | Level::Project if rule.reach != Reach::Scoped => everywhere.push(number as u32),
                Level::User | Level::Project => {}
            }
        }
        let rules = all.rules.clone();
        Contexts { assistants, rules, anchored, everywhere, all: Vec::new(), numbers: FxHashMap::default() }
    }

    fn enter(&mut self, parent: Option<u32>, folder: &RepoPath) -> u32 {
        let added = self.anchored.get(folder);
        let mut rules = match (parent, added) {
            (Some(parent), None) => return parent,
            (Some(parent), Some(_)) => self.all[parent as usize].clone(),
            (None, _) => Vec::new(),
        };
        let profile = |number: u32| self.assistants[self.rules[number as usize].0.assistant].profile;
        let same_place = |a: u32, b: u32| {
            let ((a, a_rule), (b, b_rule)) = (&self.rules[a as usize], &self.rules[b as usize]);
            a.assistant == b.assistant && a_rule.found.place == b_rule.found.place && b_rule.level == Level::Folder
        };
        // A conversation starts at the root here.
        let loads = |number: &u32| choice::loads(profile(*number), folder, folder, &RepoPath::root());
        let added: Vec<u32> = added.into_iter().flatten().copied().filter(loads).collect();
        let stays = |old: u32| {
            let anchor = &self.rules[old as usize].1.found.anchor.path;
            let displaced = |new: &u32| same_place(*new, old) && !choice::stays(profile(old), anchor, folder);
            !added.iter().any(displaced)
        };
        rules.retain(|old| stays(*old));
        rules.extend(added);
        rules.sort_unstable();
        let next = self.all.len() as u32;
        *self.numbers.entry(rules).or_insert_with_key(|rules| {
            self.all.push(rules.clone());
            next
        })
    }
}

fn exclusions(tree: &dyn Tree, assistants: &[Assistant<'_>], parent: Exclusions, folder: &Folder) -> Exclusions {
    let mut changed = None;
    for (number, assistant) in assistants.iter().enumerate() {
        if assistant.profile.exclusions.is_empty() {
            continue;
        }
        let (above, hidden) = &parent[number];
        if !hidden && !folder.path.is_root() && above.hides(folder.path.as_str(), true) {
            changed.get_or_insert_with(|| (*parent).clone())[number].1 = true;
        }
        // The index says of most folders that there is nothing to read.
        let first = |name: &RepoPath| folder.get(name.components().next().unwrap_or_default()).is_some();
        if assistant.profile.exclusions.iter().any(first) {
            let read = |list: &RepoPath| tree.read(&Location::root(list.clone())).ok();
            let chain = choice::exclusions_in(assistant.profile, &folder.path, above, read);
            changed.get_or_insert_with(|| (*parent).clone())[number].0 = chain;
        }
    }
    changed.map_or(parent, Arc::new)
}

fn hidden_from(exclusions: &[(HideChain, bool)], path: &RepoPath) -> impl Iterator<Item = u32> {
    let hides = |(chain, hidden): &(HideChain, bool)| *hidden || chain.hides(path.as_str(), false);
    exclusions.iter().enumerate().filter(move |(_, one)| hides(one)).map(|(number, _)| number as u32)
}
