//! What the references of a rule come to: one walk a rule, as a brief would follow them.

use crate::base::repo_path::Location;
use crate::inspect::survey::Survey;
use crate::profile::Profile;
use crate::project::rule::Rule;
use crate::project::workspace::Workspace;
use crate::resolve::brief::follow::{Outcome, Stop, chain};
use crate::resolve::zones::RuleId;
use rustc_hash::{FxHashMap, FxHashSet};
use std::ops::Range;

/// A mention that is not followed.
pub(super) struct Stopped {
    pub why: Stop,
    /// The file that mentions.
    pub file: Location,
    pub span: Range<usize>,
    /// What it leads to, or its words.
    pub target: String,
}

/// A mention in the rule itself that is followed: its bytes, and the files that it brings along, itself first.
pub(super) struct Brought {
    pub span: Range<usize>,
    pub files: Vec<(Location, usize)>,
}

/// What one rule's references come to.
#[derive(Default)]
pub(super) struct Walk {
    pub stops: Vec<Stopped>,
    pub brought: Vec<Brought>,
}

/// Every rule of the assistants that follow references, with the walk from it. Each is walked once.
pub(super) fn walks(workspace: &Workspace<'_>, survey: &Survey<'_>) -> Vec<(RuleId, Walk)> {
    let mut all = Vec::new();
    for (assistant, one) in survey.assistants.iter().enumerate() {
        if one.profile.references.is_some() {
            let headers: FxHashMap<&Location, _> =
                one.rules.iter().map(|rule| (rule.file(), rule.place_in(one.profile).header)).collect();
            let rules = one.rules.iter().enumerate().filter(|(_, rule)| rule.takes_part());
            all.extend(rules.map(|(number, rule)| {
                let own = rule.place_in(one.profile).header;
                let header = |file: &Location| headers.get(file).copied().unwrap_or(own);
                (RuleId { assistant, rule: number }, walk(workspace, one.profile, rule, &header))
            }));
        }
    }
    all
}

fn walk(
    workspace: &Workspace<'_>,
    profile: &Profile,
    rule: &Rule,
    header: &dyn Fn(&Location) -> crate::header::HeaderStyle,
) -> Walk {
    let mut walk = Walk::default();
    let mut placed = FxHashSet::from_iter([rule.file().clone()]);
    chain(workspace, profile, rule, header, &mut placed, &mut |met| match met.outcome {
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
