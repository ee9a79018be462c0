//! Which file a rule goes into.

use super::compose::Part;
use super::options::{Way, ways};
use super::source::Source;
use super::{Draft, LossKind, Planner};
use crate::base::repo_path::{Location, RepoPath};
use crate::header::{Header, HeaderStyle};
use crate::profile::{Kind, Level, Nested, Reach};
use crate::project::discovery::Finder;

impl<'a> Planner<'a, '_> {
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
    pub(super) fn place(&mut self, number: usize, source: usize) {
        let (profile, rule) = (self.profiles[number], &self.sources[source]);
        if let Some(way) = self.pinned(number, source)
            && let Some(path) = self.free(&way, source)
        {
            self.take(number, source, way, path);
            return;
        }
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
            self.take(number, source, way, path);
            return;
        }
        self.lose(LossKind::LeftOut { reach: rule.reach, no_room: false }, number, source, None);
    }

    /// Puts a rule into a file.
    fn take(&mut self, number: usize, source: usize, way: Way, path: RepoPath) {
        let (profile, rule) = (self.profiles[number], &self.sources[source]);
        let draft = self.drafts.entry(path.clone()).or_insert_with(|| Draft {
            owner: (number, way.place),
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
            let style = profile.places[way.place].header;
            let kept = rule.keep.get(&profile.name).filter(|_| style != HeaderStyle::None && !way.whole_header);
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
            let header = Header::read(&style.fenced(&draft.block), place.header);
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
    pub(super) fn repeat_for_nearest(&mut self) {
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
}
