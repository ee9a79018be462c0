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
use crate::resolve::brief::follow::Stop;
use rustc_hash::FxHashMap;
use std::ops::Range;

/// For each rule of an assistant the files that it brings along, with their tokens.
pub(super) fn brought<'a>(
    context: &'a Context<'_, '_>,
    assistant: usize,
) -> FxHashMap<usize, Vec<&'a (Location, usize)>> {
    let own = context.walks().filter(|(id, _)| id.assistant == assistant);
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
    say: impl Fn(&Profile, &str) -> Option<(String, String)>,
) {
    for (id, walk) in context.walks() {
        let profile = context.profile(id);
        for stop in walk.stops.iter().filter(|stop| stop.why == why) {
            let Some((message, help)) = say(profile, &stop.target) else { continue };
            let finding = Finding::new(info, stop.file.clone(), stop.span.clone(), message).help(help);
            findings.push(finding.for_assistant(&profile.name));
        }
    }
}
