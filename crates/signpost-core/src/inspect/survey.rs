//! What is there: every instruction file of every assistant, and the files that nobody loads.

use crate::base::repo_path::RepoPath;
use crate::inspect::beside::beside;
use crate::inspect::unclaimed::{Unclaimed, unclaimed};
use crate::profile::{Profile, Reach};
use crate::project::rule::Rule;
use crate::project::workspace::{Assistant, Project, Workspace, WorkspaceError};
use crate::resolve::zones::{RuleId, Zones, partition};

/// The answer to "what is there?".
#[derive(Debug)]
pub struct Survey<'w> {
    /// The assistants in use, each with its rules.
    pub assistants: Vec<Assistant<'w>>,
    /// The partition of the source files.
    pub zones: Zones,
    /// Files that look like instruction files.
    pub unclaimed: Vec<Unclaimed>,
    /// Files beside published ones that the guidance does not know.
    pub beside: Vec<RepoPath>,
}

impl<'w> Survey<'w> {
    /// The rule of a number.
    pub fn rule(&self, id: RuleId) -> &Rule {
        &self.assistants[id.assistant].rules[id.rule]
    }

    /// The profile that reads it.
    pub fn profile(&self, id: RuleId) -> &'w Profile {
        self.assistants[id.assistant].profile
    }
}

/// Surveys a project for the assistants asked for.
///
/// # Errors
/// A name that no profile has.
pub fn survey<'w>(
    workspace: &'w Workspace<'_>,
    project: &Project,
    names: &[String],
) -> Result<Survey<'w>, WorkspaceError> {
    of(workspace, project, names, workspace.assistants(names, project)?)
}

/// The same with the guidance as one more assistant, the last one: what checks look at.
///
/// # Errors
/// A name that no profile has, or a folder that cannot be listed.
pub fn with_guidance<'w>(
    workspace: &'w Workspace<'_>,
    project: &Project,
    names: &[String],
) -> Result<Survey<'w>, WorkspaceError> {
    let mut assistants = workspace.assistants(names, project)?;
    assistants.extend(workspace.guidance(project)?);
    of(workspace, project, names, assistants)
}

fn of<'w>(
    workspace: &'w Workspace<'_>,
    project: &Project,
    names: &[String],
    assistants: Vec<Assistant<'w>>,
) -> Result<Survey<'w>, WorkspaceError> {
    let zones = partition(workspace.tree(), &project.index, &assistants);
    let looked_for: Vec<&Profile> = match workspace.selected(names)? {
        Some(selected) => selected,
        None => workspace.profiles.iter().collect(),
    };
    let unclaimed = unclaimed(workspace, project, &looked_for);
    let profiles: Vec<&Profile> = assistants.iter().map(|assistant| assistant.profile).collect();
    // A broken lock is the writers' trouble.
    let beside = workspace.lock().map(|lock| beside(workspace, project, &profiles, &lock)).unwrap_or_default();
    Ok(Survey { assistants, zones, unclaimed, beside })
}

impl Survey<'_> {
    /// Tokens of an assistant's standing rules, of all folders together.
    pub fn tokens_standing(assistant: &Assistant<'_>) -> usize {
        let standing = assistant.rules.iter().filter(|rule| rule.takes_part() && rule.reach == Reach::Standing);
        standing.map(|rule| rule.document.tokens()).sum()
    }
}
