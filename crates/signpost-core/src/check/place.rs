//! Files that stand where no assistant reads them, or where not everybody has them.

pub(super) mod broken_link;
pub(super) mod broken_profile;
pub(super) mod ignored_by_git;
pub(super) mod loaded_twice;
pub(super) mod near_miss_name;
pub(super) mod never_loaded;
pub(super) mod personal_not_ignored;
pub(super) mod unknown_assistant;

use super::Context;
use crate::profile::{Place, Profile};
use crate::project::rule::Rule;

/// Every rule that stands in the project, with its place and whether git ignores it.
fn in_project<'a>(context: &'a Context<'_, '_>) -> impl Iterator<Item = (&'a Profile, &'a Place, &'a Rule, bool)> {
    context.survey.assistants.iter().flat_map(|assistant| {
        assistant.rules.iter().filter_map(|rule| {
            let path = rule.file().in_root()?;
            let item = context.project.index.folder(&path.folder())?.get(path.name())?;
            Some((assistant.profile, rule.place_in(assistant.profile), &**rule, item.ignored))
        })
    })
}
