//! Path patterns that take too little, or too much.

pub(super) mod invalid_pattern;
pub(super) mod matches_everything;
pub(super) mod matches_nothing;
pub(super) mod only_hidden_files;
pub(super) mod redundant_pattern;
pub(super) mod unsupported_syntax;
pub(super) mod wrong_base;

use super::Context;
use crate::pattern::Pattern;
use crate::profile::{Profile, Reach};
use crate::project::rule::{PatternItem, Rule};
use crate::resolve::zones::RuleId;

/// A valid pattern of a scoped rule that takes no file.
struct Idle<'a> {
    profile: &'a Profile,
    rule: &'a Rule,
    item: &'a PatternItem,
    pattern: &'a Pattern,
}

/// Every scoped rule.
fn scoped<'a>(context: &'a Context<'_, '_>) -> impl Iterator<Item = (&'a Profile, &'a Rule, RuleId)> {
    context.survey.assistants.iter().enumerate().flat_map(|(assistant, one)| {
        let rules =
            one.rules.iter().enumerate().map(move |(rule, read)| (one.profile, &**read, RuleId { assistant, rule }));
        rules.filter(|(_, rule, _)| rule.reach == Reach::Scoped && rule.takes_part())
    })
}

/// Every pattern that takes no file, where there are files to take. Three checks ask, so it is found once.
fn idle<'a>(context: &'a Context<'_, '_>) -> impl Iterator<Item = Idle<'a>> {
    let found = context.idle.get_or_init(|| find_idle(context));
    found.iter().filter_map(|(id, number)| {
        let rule = context.rule(*id);
        let item = &rule.scope.paths.items[*number];
        let pattern = item.pattern.as_ref().ok()?;
        Some(Idle { profile: context.profile(*id), rule, item, pattern })
    })
}

fn find_idle(context: &Context<'_, '_>) -> Vec<(RuleId, usize)> {
    let mut found = Vec::new();
    if context.survey.zones.files == 0 {
        return found;
    }
    for (_, rule, id) in scoped(context) {
        let items = &rule.scope.paths.items;
        // Where the rule as a whole takes files, and has one pattern, that one does.
        if items.len() == 1 && context.survey.zones.matches[id.assistant][id.rule] > 0 {
            continue;
        }
        for (number, item) in items.iter().enumerate() {
            let Ok(pattern) = &item.pattern else { continue };
            let takes = || context.search.first_match(pattern, &rule.scope.base, &rule.scope.below).is_some();
            if !pattern.is_negated() && !takes() {
                found.push((id, number));
            }
        }
    }
    found
}
