//! References from one instruction file to another.
//!
//! One walk a rule, as a brief would follow them; each check takes its part of what the walk meets.

pub(super) mod cycle;
pub(super) mod heavy;
pub(super) mod missing;
pub(super) mod outside_root;
pub(super) mod too_deep;

use super::{CheckInfo, Context, Finding};
use crate::base::repo_path::Location;
use crate::profile::Profile;
use crate::project::references::mentions;
use crate::project::rule::Rule;
use crate::resolve::brief::follow::{Outcome, Stop, chain};
use crate::resolve::zones::RuleId;
use rustc_hash::{FxHashMap, FxHashSet};
use std::ops::Range;

/// A mention that is not followed.
struct Stopped {
    why: Stop,
    /// The file that mentions.
    file: Location,
    span: Range<usize>,
    /// What it leads to, or its words.
    target: String,
}

/// A mention in the rule itself that is followed: its bytes, and the files that it brings along, itself first.
struct Brought {
    span: Range<usize>,
    files: Vec<(Location, usize)>,
}

/// What one rule's references come to.
#[derive(Default)]
pub(super) struct Walk {
    stops: Vec<Stopped>,
    brought: Vec<Brought>,
}

/// Every rule of the assistants that follow references, with the walk from it. Each is walked once.
fn walks<'a>(context: &'a Context<'_, '_>) -> impl Iterator<Item = (RuleId, &'a Walk)> {
    let all = context.walks.get_or_init(|| {
        let mut all = Vec::new();
        for (assistant, one) in context.survey.assistants.iter().enumerate() {
            if one.profile.references.is_some() {
                let headers: FxHashMap<&Location, _> =
                    one.rules.iter().map(|rule| (rule.file(), rule.place_in(one.profile).header)).collect();
                let rules = one.rules.iter().enumerate().filter(|(_, rule)| rule.takes_part());
                all.extend(rules.map(|(number, rule)| {
                    let own = rule.place_in(one.profile).header;
                    let header = |file: &Location| headers.get(file).copied().unwrap_or(own);
                    (RuleId { assistant, rule: number }, walk(context, one.profile, rule, &header))
                }));
            }
        }
        all
    });
    all.iter().map(|(id, walk)| (*id, walk))
}

fn walk(
    context: &Context<'_, '_>,
    profile: &Profile,
    rule: &Rule,
    header: &dyn Fn(&Location) -> crate::header::HeaderStyle,
) -> Walk {
    let mut walk = Walk::default();
    let mut placed = FxHashSet::from_iter([rule.file().clone()]);
    chain(context.workspace, profile, rule, header, &mut placed, &mut |met| match met.outcome {
        Outcome::Stopped(why, target) => {
            let target = target.map_or(met.mention.target, |target| target.to_string());
            walk.stops.push(Stopped { why, file: met.via, span: met.mention.span, target });
        }
        Outcome::Placed(target, document) => {
            if met.depth == 1 {
                walk.brought.push(Brought { span: met.mention.span, files: Vec::new() });
            }
            if let Some(brought) = walk.brought.last_mut() {
                brought.files.push((target, document.tokens()));
            }
        }
    });
    walk
}

/// For each rule of an assistant the files that it brings along, with their tokens.
pub(super) fn brought<'a>(
    context: &'a Context<'_, '_>,
    assistant: usize,
) -> FxHashMap<usize, Vec<&'a (Location, usize)>> {
    let own = walks(context).filter(|(id, _)| id.assistant == assistant);
    own.map(|(id, walk)| (id.rule, walk.brought.iter().flat_map(|one| &one.files).collect())).collect()
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

/// The findings of one way to stop.
fn stops(
    context: &Context<'_, '_>,
    info: &CheckInfo,
    why: Stop,
    findings: &mut Vec<Finding>,
    say: impl Fn(&Profile, &str) -> (String, String),
) {
    for (id, walk) in walks(context) {
        let profile = context.profile(id);
        for stop in walk.stops.iter().filter(|stop| stop.why == why) {
            let (message, help) = say(profile, &stop.target);
            let finding = Finding::new(info, stop.file.clone(), stop.span.clone(), message).help(help);
            findings.push(finding.for_assistant(&profile.name));
        }
    }
}
