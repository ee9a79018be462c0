//! References: a file that a loaded file mentions comes right after it.
//!
//! Loaded files are placed one after the other, each followed by what it mentions, depth first. The walk
//! keeps its own stack, so that a chain of any length costs no more than its files.

use super::{Decided, Entry, LeftOut, LeftOutWhy, Outcome, State, Why};
use crate::header::Header;
use crate::profile::{Place, Profile};
use crate::reference::{Mention, mentions, resolve};
use crate::repo_path::{Location, RepoPath};
use crate::rule::Document;
use crate::tree::Look;
use crate::workspace::Workspace;
use rustc_hash::{FxHashMap, FxHashSet};
use std::sync::Arc;

pub(super) struct Followed {
    /// What is loaded, in order.
    pub entries: Vec<Entry>,
    /// Mentions that are not followed.
    pub left_out: Vec<LeftOut>,
}

/// A file whose mentions are being followed.
struct Frame {
    file: Location,
    mentions: std::vec::IntoIter<Mention>,
}

struct Follower<'a, 't> {
    workspace: &'a Workspace<'t>,
    profile: &'a Profile,
    /// The place that reads a candidate, which says how its header ends.
    places: FxHashMap<&'a Location, usize>,
    placed: FxHashSet<Location>,
    entries: Vec<Entry>,
    left_out: Vec<(Option<Location>, LeftOut)>,
    said: FxHashSet<(String, &'static str)>,
}

pub(super) fn follow(workspace: &Workspace<'_>, profile: &Profile, decided: &[Decided]) -> Followed {
    let mut follower = Follower {
        workspace,
        profile,
        places: decided.iter().map(|one| (one.rule.file(), one.rule.found.place)).collect(),
        placed: FxHashSet::default(),
        entries: Vec::new(),
        left_out: Vec::new(),
        said: FxHashSet::default(),
    };
    for one in decided {
        if let Outcome::Loaded(why) = &one.outcome
            && !follower.placed.contains(one.rule.file())
        {
            follower.place(one.rule.file(), one.rule.document.clone(), one, why.clone(), None);
            follower.chain(one);
        }
    }
    let Follower { entries, left_out, placed, .. } = follower;
    // What is too deep at one mention and loaded by another is not left out.
    let stays = |at: &Option<Location>, one: &LeftOut| {
        !(matches!(one.why, LeftOutWhy::TooDeep { .. }) && at.as_ref().is_some_and(|at| placed.contains(at)))
    };
    let left_out = left_out.into_iter().filter(|(at, one)| stays(at, one)).map(|(_, one)| one).collect();
    Followed { entries, left_out }
}

impl Follower<'_, '_> {
    fn place(&mut self, file: &Location, document: Arc<Document>, origin: &Decided, why: Why, via: Option<Location>) {
        self.placed.insert(file.clone());
        self.entries.push(Entry {
            path: file.clone(),
            place: origin.rule.place.clone(),
            level: origin.rule.level,
            reach: origin.rule.reach,
            state: State::Loaded,
            tokens: document.tokens(),
            cut_at_line: None,
            kept: document.bytes,
            via,
            why,
            document,
            files: origin.files.clone(),
        });
    }

    fn frame(&self, file: &Location, document: &Document, origin: &Place) -> Frame {
        let Some(references) = &self.profile.references else {
            return Frame { file: file.clone(), mentions: Vec::new().into_iter() };
        };
        let own = self.places.get(file).map_or(origin, |place| &self.profile.places[*place]);
        let body = Header::read(&document.text, own.header).body;
        let found = mentions(&document.text, body, origin.format, &references.syntax);
        Frame { file: file.clone(), mentions: found.into_iter() }
    }

    fn chain(&mut self, origin: &Decided) {
        let Some(references) = &self.profile.references else { return };
        let place = &self.profile.places[origin.rule.found.place];
        let mut stack = vec![self.frame(origin.rule.file(), &origin.rule.document, place)];
        let mut on_chain: FxHashSet<Location> = FxHashSet::from_iter([origin.rule.file().clone()]);
        while let Some(frame) = stack.last_mut() {
            let via = frame.file.clone();
            let Some(mention) = frame.mentions.next() else {
                on_chain.remove(&via);
                stack.pop();
                continue;
            };
            let tree = self.workspace.tree();
            let Some(target) = resolve(tree, &via, &mention.target, references.from) else {
                self.leave_out(None, mention.target, place, LeftOutWhy::OutsideRoot { via });
                continue;
            };
            if on_chain.contains(&target) {
                let path = target.to_string();
                self.leave_out(Some(target), path, place, LeftOutWhy::Cycle { via });
                continue;
            }
            if self.placed.contains(&target) {
                continue;
            }
            let look = if target.path == RepoPath::root() { Look::Folder } else { tree.look(&target) };
            let depth = stack.len() as u64;
            let trouble = match look {
                Look::Outside => Some(LeftOutWhy::OutsideRoot { via: via.clone() }),
                Look::File(_) if depth > u64::from(references.depth) => {
                    Some(LeftOutWhy::TooDeep { via: via.clone(), depth: references.depth })
                }
                Look::File(_) => None,
                Look::Folder | Look::BrokenLink | Look::Nothing => Some(LeftOutWhy::Missing { via: via.clone() }),
            };
            if let Some(why) = trouble {
                let path = target.to_string();
                self.leave_out(Some(target), path, place, why);
                continue;
            }
            let document = self.workspace.document(&target);
            let frame = self.frame(&target, &document, place);
            self.place(&target, document, origin, Why::Referenced { via: via.clone() }, Some(via));
            on_chain.insert(target);
            stack.push(frame);
        }
    }

    /// Says why a mention is not followed, once for each file and reason.
    fn leave_out(&mut self, at: Option<Location>, path: String, place: &Place, why: LeftOutWhy) {
        if self.said.insert((path.clone(), why.code())) {
            self.left_out.push((at, LeftOut { path, place: place.id.clone(), why }));
        }
    }
}
