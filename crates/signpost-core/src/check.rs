//! Checks: what is wrong with a project's instruction files.
//!
//! Each check is one file with a [`CheckInfo`] (what `signpost explain` teaches) and a function from a
//! [`Context`] to findings. Settings and severities act in one place, [`run`]. A finding is data: bytes of a
//! file, words, and other places that matter; text and JSON are made from it elsewhere.

mod consistency;
mod finding;
mod header;
mod place;
mod safety;
mod scope;
pub mod settings;
mod size;

use crate::config::Severity;
use crate::survey::Survey;
use crate::workspace::{Project, Workspace};
pub use finding::{Finding, Related};
use rustc_hash::FxHashMap;

/// What a check is, for those who read its findings.
#[derive(Debug)]
pub struct CheckInfo {
    /// `group/name`.
    pub name: &'static str,
    /// Unless a finding or a setting says otherwise.
    pub severity: Severity,
    /// What it finds, in one line.
    pub finds: &'static str,
    /// Why that matters.
    pub why: &'static str,
    /// How to mend it.
    pub mend: &'static str,
    /// What it finds.
    pub bad: &'static str,
    /// What it is silent about.
    pub good: &'static str,
}

impl CheckInfo {
    /// The part before the slash.
    pub fn group(&self) -> &'static str {
        self.name.split('/').next().unwrap_or_default()
    }
}

/// What checks look at.
pub struct Context<'a, 't> {
    /// The project's settings and texts.
    pub workspace: &'a Workspace<'t>,
    /// Its files.
    pub project: &'a Project,
    /// Its rules and zones.
    pub survey: &'a Survey<'a>,
}

type Run = fn(&Context<'_, '_>, &mut Vec<Finding>);

const REGISTRY: &[(&CheckInfo, Run)] = &[
    (&place::near_miss_name::INFO, place::near_miss_name::run),
    (&place::never_loaded::INFO, place::never_loaded::run),
    (&header::invalid::INFO, header::invalid::run),
    (&header::unknown_key::INFO, header::unknown_key::run),
    (&header::wrong_type::INFO, header::wrong_type::run),
    (&header::missing_summary::INFO, header::missing_summary::run),
    (&scope::invalid_pattern::INFO, scope::invalid_pattern::run),
    (&scope::matches_nothing::INFO, scope::matches_nothing::run),
    (&scope::matches_everything::INFO, scope::matches_everything::run),
    (&size::file_too_long::INFO, size::file_too_long::run),
    (&consistency::repeated::INFO, consistency::repeated::run),
    (&safety::hidden_text::INFO, safety::hidden_text::run),
];

/// Every check, by group.
pub fn all() -> impl Iterator<Item = &'static CheckInfo> {
    REGISTRY.iter().map(|(info, _)| *info)
}

/// The check of that name.
pub fn by_name(name: &str) -> Option<&'static CheckInfo> {
    all().find(|info| info.name == name)
}

/// Runs every check that the settings leave on. Findings are sorted by place; one that several assistants
/// share is said once.
pub fn run(context: &Context<'_, '_>) -> Vec<Finding> {
    let settings = settings::Settings::new(&context.workspace.config);
    let mut findings = Vec::new();
    for (info, run) in REGISTRY {
        if settings.may_be_on(info) {
            run(context, &mut findings);
        }
    }
    let mut findings: Vec<Finding> = findings
        .into_iter()
        .filter_map(|mut finding| {
            finding.severity = settings.severity(&finding)?;
            Some(finding)
        })
        .collect();
    join_assistants(&mut findings);
    findings.sort_by(|a, b| {
        (&a.location, a.span.start, a.check, &a.message).cmp(&(&b.location, b.span.start, b.check, &b.message))
    });
    findings
}

fn join_assistants(findings: &mut Vec<Finding>) {
    let mut first: FxHashMap<_, usize> = FxHashMap::default();
    let mut joined: Vec<Finding> = Vec::new();
    for finding in findings.drain(..) {
        let key = (finding.check, finding.location.clone(), finding.span.clone(), finding.message.clone());
        match first.get(&key) {
            Some(at) => {
                let all = &mut joined[*at].assistants;
                all.extend(finding.assistants);
                all.sort();
                all.dedup();
            }
            None => {
                first.insert(key, joined.len());
                joined.push(finding);
            }
        }
    }
    *findings = joined;
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
            for text in [info.finds, info.why, info.mend, info.bad, info.good] {
                assert!(text.len() > 15, "{} explains too little: {text:?}", info.name);
            }
        }
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), REGISTRY.len());
    }
}
