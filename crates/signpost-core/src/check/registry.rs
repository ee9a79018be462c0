//! Every check by name. A check is a file with a [`CheckInfo`] and a function, a table of what it says and finds, and a line here.

use super::context::Context;
use super::finding::Finding;
use super::info::CheckInfo;
use super::text::Text;
use super::{allow, consistency, facts, header, place, reference, safety, scope, size, wording};
use crate::base::toml_file::nearest;

pub(super) enum Run {
    /// Looks at the project as a whole.
    Project(fn(&Context<'_, '_>, &mut Vec<Finding>)),
    /// Looks at one text after another; also at those that are published as they are recorded.
    File(fn(&Context<'_, '_>, &Text, &mut Vec<Finding>)),
    /// Looks at the words of one text after another.
    Words(fn(&Context<'_, '_>, &Text, &mut Vec<Finding>)),
    /// Comes out of how findings are allowed.
    Allowance,
}

use Run::{File, Words};

pub(super) const REGISTRY: &[(&CheckInfo, Run)] = &[
    (&place::near_miss_name::INFO, Run::Project(place::near_miss_name::run)),
    (&place::never_loaded::INFO, Run::Project(place::never_loaded::run)),
    (&place::ignored_by_git::INFO, Run::Project(place::ignored_by_git::run)),
    (&place::personal_not_ignored::INFO, Run::Project(place::personal_not_ignored::run)),
    (&place::broken_link::INFO, Run::Project(place::broken_link::run)),
    (&place::broken_profile::INFO, Run::Project(place::broken_profile::run)),
    (&place::unknown_assistant::INFO, Run::Project(place::unknown_assistant::run)),
    (&place::loaded_twice::INFO, Run::Project(place::loaded_twice::run)),
    (&header::invalid::INFO, Run::Project(header::invalid::run)),
    (&header::unknown_key::INFO, Run::Project(header::unknown_key::run)),
    (&header::wrong_type::INFO, Run::Project(header::wrong_type::run)),
    (&header::conflicting_reach::INFO, Run::Project(header::conflicting_reach::run)),
    (&header::missing_key::INFO, Run::Project(header::missing_key::run)),
    (&header::missing_summary::INFO, Run::Project(header::missing_summary::run)),
    (&header::weak_summary::INFO, Run::Project(header::weak_summary::run)),
    (&scope::invalid_pattern::INFO, Run::Project(scope::invalid_pattern::run)),
    (&scope::matches_nothing::INFO, Run::Project(scope::matches_nothing::run)),
    (&scope::matches_everything::INFO, Run::Project(scope::matches_everything::run)),
    (&scope::only_hidden_files::INFO, Run::Project(scope::only_hidden_files::run)),
    (&scope::unsupported_syntax::INFO, Run::Project(scope::unsupported_syntax::run)),
    (&scope::redundant_pattern::INFO, Run::Project(scope::redundant_pattern::run)),
    (&scope::wrong_base::INFO, Run::Project(scope::wrong_base::run)),
    (&size::file_too_long::INFO, Run::Project(size::file_too_long::run)),
    (&size::over_limit::INFO, Run::Project(size::over_limit::run)),
    (&size::brief_over_budget::INFO, Run::Project(size::brief_over_budget::run)),
    (&size::mixed_subjects::INFO, File(size::mixed_subjects::run)),
    (&wording::vague::INFO, Words(wording::vague::run)),
    (&wording::no_alternative::INFO, Words(wording::no_alternative::run)),
    (&wording::shouting::INFO, Words(wording::shouting::run)),
    (&wording::pleasantry::INFO, Words(wording::pleasantry::run)),
    (&wording::placeholder::INFO, Words(wording::placeholder::run)),
    (&wording::commonplace::INFO, Words(wording::commonplace::run)),
    (&consistency::contradiction::INFO, Run::Project(consistency::contradiction::run)),
    (&consistency::contradiction::OVERRIDE, Run::Project(consistency::contradiction::run_override)),
    (&consistency::repeated::INFO, Run::Project(consistency::repeated::run)),
    (&consistency::lapsed_verdict::INFO, Run::Project(consistency::lapsed_verdict::run)),
    (&consistency::diverged::INFO, Run::Project(consistency::diverged::run)),
    (&consistency::rival_summaries::INFO, Run::Project(consistency::rival_summaries::run)),
    (&facts::missing_path::INFO, Words(facts::missing_path::run)),
    (&facts::missing_command::INFO, Words(facts::missing_command::run)),
    (&facts::absent_dependency::INFO, Words(facts::absent_dependency::run)),
    (&facts::version_mismatch::INFO, Words(facts::version_mismatch::run)),
    (&facts::other_package_manager::INFO, Words(facts::other_package_manager::run)),
    (&facts::style_mismatch::INFO, Words(facts::style_mismatch::run)),
    (&facts::review_due::INFO, Run::Project(facts::review_due::run)),
    (&safety::hidden_text::INFO, Words(safety::hidden_text::run)),
    (&safety::comment_directive::INFO, Words(safety::comment_directive::run)),
    (&safety::override_attempt::INFO, Words(safety::override_attempt::run)),
    (&safety::data_leaves::INFO, Words(safety::data_leaves::run)),
    (&safety::remote_code::INFO, Words(safety::remote_code::run)),
    (&safety::encoded_blob::INFO, Words(safety::encoded_blob::run)),
    (&safety::secret::INFO, Words(safety::secret::run)),
    (&safety::skips_approval::INFO, Words(safety::skips_approval::run)),
    (&safety::look_alike_letters::INFO, Words(safety::look_alike_letters::run)),
    (&reference::missing::INFO, Run::Project(reference::missing::run)),
    (&reference::cycle::INFO, Run::Project(reference::cycle::run)),
    (&reference::outside_root::INFO, Run::Project(reference::outside_root::run)),
    (&reference::too_deep::INFO, Run::Project(reference::too_deep::run)),
    (&reference::heavy::INFO, Run::Project(reference::heavy::run)),
    (&allow::NO_REASON, Run::Allowance),
    (&allow::UNKNOWN, Run::Allowance),
    (&allow::UNNEEDED, Run::Allowance),
];

/// Every check, by group.
pub fn all() -> impl Iterator<Item = &'static CheckInfo> {
    REGISTRY.iter().map(|(info, _)| *info)
}

/// The check of that name.
pub fn by_name(name: &str) -> Option<&'static CheckInfo> {
    all().find(|info| info.name == name)
}

/// The checks that a name means: a check, a group, or a check without its group.
pub fn named(name: &str) -> Vec<&'static CheckInfo> {
    all()
        .filter(|info| info.name == name || info.group() == name || info.name.split('/').nth(1) == Some(name))
        .collect()
}

/// What to say where a name means none.
pub fn did_you_mean(name: &str) -> String {
    let names = all().flat_map(|info| [info.name, info.group(), info.name.split('/').nth(1).unwrap_or_default()]);
    match nearest(name, names) {
        Some(near) => format!("did you mean `{near}`?"),
        None => "`signpost explain` lists the checks".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_check_teaches() {
        let mut names: Vec<&str> = all().map(|info| info.name).collect();
        for info in all() {
            let parts: Vec<&str> = info.name.split('/').collect();
            assert_eq!(parts.len(), 2, "{}", info.name);
            let table = info.table();
            for text in [&table.finds, &table.why, &table.mend, &table.bad(), &table.good()] {
                assert!(text.len() > 15, "{} explains too little: {text:?}", info.name);
            }
        }
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), REGISTRY.len());
    }
}
