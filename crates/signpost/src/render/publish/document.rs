//! What publishing does, for programs.

use super::{Shown, effect, planned};
use serde::Serialize;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::publish::changes::{Change, Refusal, Step};
use signpost_core::change::publish::{Content, Loss};

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct PublishJson {
    schema: &'static str,
    clean: bool,
    assistants: Vec<String>,
    files: Vec<FileJson>,
    refused: Vec<RefusedJson>,
    abandoned: Vec<String>,
    beside: Vec<String>,
    losses: Vec<LossJson>,
    unpublished: Vec<UnpublishedJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct FileJson {
    path: String,
    step: &'static str,
    assistants: Vec<String>,
    sources: Vec<String>,
    link: Option<String>,
    bytes: usize,
    tokens: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct RefusedJson {
    path: String,
    why: &'static str,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct LossJson {
    kind: &'static str,
    assistant: String,
    rule: String,
    file: Option<String>,
    tokens: usize,
    files_meant: usize,
    files_told: usize,
    text: String,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct UnpublishedJson {
    rule: String,
    why: String,
}

/// For programs: `signpost.publish/1`.
pub fn json(shown: &Shown<'_>) -> PublishJson {
    let (plan, status) = (shown.plan, shown.status);
    let file = |change: &Change| {
        let file = planned(plan, &change.path);
        let (text, link) = match &change.new {
            Some(Content::Text(text)) => (text.as_str(), None),
            Some(Content::Link(target)) => ("", Some(target.clone())),
            None => ("", None),
        };
        FileJson {
            path: change.path.to_string(),
            step: match change.step {
                Step::Create => "create",
                Step::Update => "update",
                Step::Remove => "remove",
                Step::Keep => "keep",
            },
            assistants: file.map(|file| file.assistants.clone()).unwrap_or_default(),
            sources: file.map(|file| file.sources.iter().map(RepoPath::to_string).collect()).unwrap_or_default(),
            link,
            bytes: text.len(),
            tokens: shown.workspace.weigh(text),
        }
    };
    let refused = |(path, why): &(RepoPath, Refusal)| RefusedJson {
        path: path.to_string(),
        why: match why {
            Refusal::Edited => "edited",
            Refusal::Foreign => "foreign",
            Refusal::BehindLink => "behind-link",
            Refusal::NoFile => "no-file",
            Refusal::EditedAndGone => "edited-and-gone",
        },
    };
    let loss = |loss: &Loss| LossJson {
        kind: loss.kind.name(),
        assistant: loss.assistant.clone(),
        rule: loss.rule.to_string(),
        file: loss.file.as_ref().map(RepoPath::to_string),
        tokens: loss.tokens,
        files_meant: loss.meant,
        files_told: loss.told,
        text: effect(loss),
    };
    PublishJson {
        schema: "signpost.publish/1",
        clean: status.is_clean(),
        assistants: plan.assistants.clone(),
        files: status.changes.iter().map(file).collect(),
        refused: status.refused.iter().map(refused).collect(),
        abandoned: status.abandoned.iter().map(ToString::to_string).collect(),
        beside: status.beside.iter().map(ToString::to_string).collect(),
        losses: plan.losses.iter().map(loss).collect(),
        unpublished: plan
            .unpublished
            .iter()
            .map(|one| UnpublishedJson { rule: one.rule.to_string(), why: one.why.clone() })
            .collect(),
    }
}
