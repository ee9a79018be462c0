use crate::base::repo_path::{Location, RepoPath};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::project::workspace::WorkspaceError;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/broken-profile", Severity::Error, include_str!("broken_profile.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for broken in &context.workspace.broken {
        // A person's own profile is no matter of the project's.
        let WorkspaceError::Config(error) = broken else { continue };
        let Some(path) = RepoPath::new(&error.file).filter(|path| context.project.index.holds(path)) else { continue };
        let message = format!("this profile can't be used: {}", error.message);
        let finding = Finding::new(&INFO, Location::root(path), error.span.clone(), message);
        findings.push(finding.help(error.help.clone().unwrap_or_default()));
    }
}
