//! Writing an adopted file again as it was: its place, its name and its header, as long as that says what the rule says.

use super::compose::Above;
use super::header::Written;
use super::options::Way;
use super::{Planner, Source};
use crate::base::repo_path::Location;
use crate::base::tokens::estimate;
use crate::change::address::{Address, hidden_below};
use crate::files::MemoryTree;
use crate::profile::{Kind, Level};
use crate::project::discovery::Finder;
use crate::project::rule::{Document, Rule};
use std::sync::Arc;

impl Source {
    /// What it says to whom, as the root's guidance would say it.
    fn address(&self) -> Address {
        let texts = |texts: Vec<&str>| texts.into_iter().map(str::to_owned).collect();
        let (paths, except) = self.patterns();
        let summary = self.rule.summary.as_ref().map(|text| text.split_whitespace().collect::<Vec<_>>().join(" "));
        let (base, reach) = (self.base.clone(), self.reach);
        Address { base, reach, paths: texts(paths), except: texts(except), summary }.from(&Default::default())
    }
}

impl Planner<'_, '_> {
    /// The way that a rule keeps for an assistant, where a file of that place, name and header says the same.
    pub(super) fn pinned(&self, number: usize, source: usize) -> Option<Way> {
        let (profile, source) = (self.profiles[number], &self.sources[source]);
        let kept = source.keep.get(&profile.name)?;
        let path = source.base.join(kept.file()?);
        let location = Location::root(path.clone());
        let found = Finder::new(self.workspace.tree(), None).owner(profile, &location)?;
        let place = &profile.places[found.place];
        if matches!(place.kind, Kind::Role | Kind::Bundle) || place.personal || place.level == Level::User {
            return None;
        }
        let block = kept.head(place).unwrap_or_default().to_owned();
        let tree = MemoryTree::new().with(path.as_str(), place.header.fenced(&block) + "\ntext\n");
        let document = Arc::new(Document::read(&tree, &location, estimate));
        let rule = Rule::read(profile, found.clone(), document);
        let hidden = hidden_below(self.project, self.workspace, profile, &rule);
        let says = Address::of(&rule, place, &hidden, &Default::default()).ok()?;
        if says != source.address() {
            return None;
        }
        let simple = place.files.get(found.pattern)?.simple();
        let below = path.below(&found.anchor.path)?;
        let shared = simple.iter().find(|one| one.matches(below))?.literal_path().is_some();
        let (place, anchor) = (found.place, found.anchor.path);
        let header = Written { block, without_summary: false };
        Some(Way::kept(place, anchor, path, shared, header, Above::Nothing))
    }
}
