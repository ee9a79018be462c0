//! References from one instruction file to another.
//!
//! One walk a rule, as a brief would follow them; each check takes its part of what the walk meets.

pub(super) mod cycle;
pub(super) mod heavy;
pub(super) mod missing;
pub(super) mod outside_root;
pub(super) mod too_deep;

use super::{CheckInfo, Context, Finding};
use crate::header::Header;
use crate::profile::{Place, Profile, References};
use crate::reference::{Mention, mentions, resolve};
use crate::repo_path::{Location, RepoPath};
use crate::rule::{Document, Rule};
use crate::tree::Look;
use rustc_hash::FxHashSet;
use std::ops::Range;
use std::sync::Arc;

/// What a mention comes to.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Outcome {
    Missing,
    Cycle,
    OutsideRoot,
    TooDeep,
}

/// A mention that is not followed.
struct Stop {
    outcome: Outcome,
    /// The file that mentions.
    file: Location,
    span: Range<usize>,
    /// What it leads to, or its words.
    target: String,
}

/// Files with their tokens.
pub(super) type Weighed = Vec<(Location, usize)>;

/// What one rule's references come to.
#[derive(Default)]
struct Walk {
    stops: Vec<Stop>,
    /// For each mention in the rule itself: its bytes, the file, and the files that it brings along.
    brought: Vec<(Range<usize>, Location, Weighed)>,
}

/// Every rule of an assistant that follows references, with the walk from it.
fn walks<'a>(context: &'a Context<'_, '_>) -> impl Iterator<Item = (&'a Profile, &'a Rule, Walk)> {
    let followers = context.survey.assistants.iter().filter(|one| one.profile.references.is_some());
    followers.flat_map(move |one| {
        one.rules
            .iter()
            .filter(|rule| rule.takes_part())
            .map(|rule| (one.profile, &**rule, walk(context, one.profile, rule)))
    })
}

/// The files that a rule brings along, with their tokens.
pub(super) fn referenced(context: &Context<'_, '_>, profile: &Profile, rule: &Rule) -> Weighed {
    walk(context, profile, rule).brought.into_iter().flat_map(|(_, _, files)| files).collect()
}

/// The spans of a text that some assistant takes for references.
pub(super) fn spans(context: &Context<'_, '_>, text: &super::Text) -> Vec<Range<usize>> {
    let mut spans = Vec::new();
    for id in &text.told {
        let profile = context.profile(*id);
        if let Some(references) = &profile.references {
            let place = context.rule(*id).place_in(profile);
            let found = mentions(text.text(), text.body, place.format, &references.syntax);
            spans.extend(found.into_iter().map(|mention| mention.span));
        }
    }
    spans
}

fn mentions_of(document: &Document, place: &Place, references: &References, body: usize) -> Vec<Mention> {
    mentions(&document.text, body, place.format, &references.syntax)
}

fn walk(context: &Context<'_, '_>, profile: &Profile, rule: &Rule) -> Walk {
    let mut walk = Walk::default();
    let Some(references) = &profile.references else { return walk };
    let place = rule.place_in(profile);
    let tree = context.workspace.tree();
    let mut placed: FxHashSet<Location> = FxHashSet::from_iter([rule.file().clone()]);
    let own = mentions_of(&rule.document, place, references, rule.header.body);
    let mut stack: Vec<(Location, std::vec::IntoIter<Mention>)> = vec![(rule.file().clone(), own.into_iter())];
    while let Some((file, mentions)) = stack.last_mut() {
        let Some(mention) = mentions.next() else {
            stack.pop();
            continue;
        };
        let file = file.clone();
        let mut stop = |outcome, target: String| {
            walk.stops.push(Stop { outcome, file: file.clone(), span: mention.span.clone(), target });
        };
        let Some(target) = resolve(tree, &file, &mention.target, references.from) else {
            stop(Outcome::OutsideRoot, mention.target);
            continue;
        };
        if stack.iter().any(|(on_chain, _)| *on_chain == target) {
            stop(Outcome::Cycle, target.to_string());
            continue;
        }
        if placed.contains(&target) {
            continue;
        }
        let look = if target.path == RepoPath::root() { Look::Folder } else { tree.look(&target) };
        match look {
            Look::Outside => stop(Outcome::OutsideRoot, target.to_string()),
            Look::File(_) if stack.len() as u64 > u64::from(references.depth) => {
                stop(Outcome::TooDeep, target.to_string())
            }
            Look::File(_) => {
                let document: Arc<Document> = context.workspace.document(&target);
                let tokens = document.tokens();
                if stack.len() == 1 {
                    walk.brought.push((mention.span.clone(), target.clone(), Vec::new()));
                }
                if let Some((_, _, files)) = walk.brought.last_mut() {
                    files.push((target.clone(), tokens));
                }
                let body = Header::read(&document.text, place.header).body;
                let inner = mentions_of(&document, place, references, body);
                placed.insert(target.clone());
                stack.push((target, inner.into_iter()));
            }
            Look::Folder | Look::BrokenLink | Look::Nothing => stop(Outcome::Missing, target.to_string()),
        }
    }
    walk
}

/// The findings of one outcome.
fn stops(
    context: &Context<'_, '_>,
    info: &CheckInfo,
    outcome: Outcome,
    findings: &mut Vec<Finding>,
    say: impl Fn(&Profile, &Stop) -> (String, String),
) {
    for (profile, _, walk) in walks(context) {
        for stop in walk.stops.iter().filter(|stop| stop.outcome == outcome) {
            let (message, help) = say(profile, stop);
            let finding = Finding::new(info, stop.file.clone(), stop.span.clone(), message).help(help);
            findings.push(finding.for_assistant(&profile.name));
        }
    }
}
