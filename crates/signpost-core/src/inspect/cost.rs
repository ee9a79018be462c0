//! What instruction files cost: before a word is typed, and zone by zone.
//!
//! Zones that an assistant is told the same about are resolved once, whatever other assistants are told.

use crate::base::repo_path::{Location, RepoPath};
use crate::files::TreeError;
use crate::inspect::survey::Survey;
use crate::profile::{Kind, Profile, Reach};
use crate::project::workspace::Workspace;
use crate::resolve::brief::{Brief, LeftOutWhat, LeftOutWhy, Question, State, resolve};
use rustc_hash::{FxHashMap, FxHashSet};

/// What one assistant's rules cost.
#[derive(Debug)]
pub struct AssistantWeight {
    /// The assistant, by its number in the survey.
    pub assistant: usize,
    /// What it is told before a file is touched.
    pub at_start: usize,
    /// The summaries of the rules that it may pick, which it is told too.
    pub summaries: usize,
    /// What it is told in each zone, in the order of the survey's zones.
    pub zones: Vec<usize>,
    /// Its rules, the heaviest first.
    pub rules: Vec<RuleWeight>,
    /// What is cut off or left out by its limits.
    pub lost: Vec<Lost>,
}

/// What one rule costs.
#[derive(Clone, Debug)]
pub struct RuleWeight {
    /// The file.
    pub path: Location,
    /// When it is told.
    pub reach: Reach,
    /// Its tokens.
    pub tokens: usize,
    /// How many source files it gets to.
    pub matches: usize,
}

/// Text that an assistant never sees.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Lost {
    /// The file.
    pub path: Location,
    /// The line that holds the first byte lost; `None` where nothing of the file is left.
    pub from_line: Option<usize>,
    /// Bytes lost.
    pub bytes: u64,
    /// A source file for which that happens.
    pub example: RepoPath,
}

/// What every conversation carries that starts at the root, before a file is touched: standing rules with what they refer
/// to, within the assistant's limits.
///
/// # Errors
/// A folder cannot be listed.
pub fn at_start(workspace: &Workspace<'_>, profile: &Profile) -> Result<Brief, TreeError> {
    resolve(workspace, profile, &Question { files: Vec::new(), start: RepoPath::root() }, None)
}

/// Weighs what a survey found.
///
/// # Errors
/// A folder cannot be listed.
pub fn weigh(workspace: &Workspace<'_>, survey: &Survey<'_>) -> Result<Vec<AssistantWeight>, TreeError> {
    let mut weights = Vec::new();
    for (number, assistant) in survey.assistants.iter().enumerate() {
        let start = at_start(workspace, assistant.profile)?;
        // Without references and limits a brief weighs what its rules weigh.
        let profile = assistant.profile;
        let plain = profile.references.is_none() && profile.limits.file_bytes == 0 && profile.limits.total_bytes == 0;
        let mut known: FxHashMap<(Vec<usize>, bool), usize> = FxHashMap::default();
        let mut zones = Vec::with_capacity(survey.zones.zones.len());
        let mut lost: Vec<Lost> = Vec::new();
        for zone in &survey.zones.zones {
            let told: Vec<usize> = zone.rules.iter().filter(|id| id.assistant == number).map(|id| id.rule).collect();
            let key = (told, zone.hidden_from.contains(&number));
            let tokens = match known.get(&key) {
                Some(tokens) => *tokens,
                None if plain => {
                    let told = survey.zones.rules_of(zone).filter(|id| id.assistant == number);
                    let rules = told.map(|id| &assistant.rules[id.rule]);
                    let loaded = rules.filter(|rule| matches!(rule.reach, Reach::Standing | Reach::Scoped));
                    let tokens = loaded.map(|rule| rule.document.tokens()).sum();
                    known.insert(key, tokens);
                    tokens
                }
                None => {
                    let question = Question { files: vec![zone.example.clone()], start: RepoPath::root() };
                    let brief = resolve(workspace, assistant.profile, &question, None)?;
                    note_lost(&brief, &zone.example, &mut lost);
                    known.insert(key, brief.tokens);
                    brief.tokens
                }
            };
            zones.push(tokens);
        }
        let offered = start.entries.iter().filter(|entry| entry.state == State::Offered);
        let summaries = offered.filter_map(|entry| match &entry.why {
            crate::resolve::brief::Why::Offered { summary: Some(summary) } => Some(workspace.weigh(summary)),
            _ => None,
        });
        let matches = &survey.zones.matches[number];
        let rules = assistant.rules.iter().zip(matches).filter(|(rule, _)| rule.kind != Kind::Role);
        let mut rules: Vec<RuleWeight> = rules
            .map(|(rule, matches)| RuleWeight {
                path: rule.file().clone(),
                reach: rule.reach,
                tokens: rule.document.tokens(),
                matches: *matches,
            })
            .collect();
        rules.sort_by(|a, b| b.tokens.cmp(&a.tokens).then_with(|| a.path.cmp(&b.path)));
        weights.push(AssistantWeight {
            assistant: number,
            at_start: start.tokens,
            summaries: summaries.sum(),
            zones,
            rules,
            lost,
        });
    }
    Ok(weights)
}

/// What an assistant's limits keep from it, over all zones.
///
/// # Errors
/// A folder cannot be listed.
pub fn lost(workspace: &Workspace<'_>, survey: &Survey<'_>, assistant: usize) -> Result<Vec<Lost>, TreeError> {
    let mut lost = Vec::new();
    let mut known: FxHashSet<(Vec<usize>, bool)> = FxHashSet::default();
    if survey.zones.zones.is_empty() {
        // Before there is a file, what stands at the root is told all the same.
        let brief = at_start(workspace, survey.assistants[assistant].profile)?;
        note_lost(&brief, &RepoPath::root(), &mut lost);
    }
    for zone in &survey.zones.zones {
        let told = zone.rules.iter().filter(|id| id.assistant == assistant).map(|id| id.rule).collect();
        if known.insert((told, zone.hidden_from.contains(&assistant))) {
            let question = Question { files: vec![zone.example.clone()], start: RepoPath::root() };
            let brief = resolve(workspace, survey.assistants[assistant].profile, &question, None)?;
            note_lost(&brief, &zone.example, &mut lost);
        }
    }
    Ok(lost)
}

/// Notes what the limits take from a brief, once a file.
fn note_lost(brief: &Brief, example: &RepoPath, lost: &mut Vec<Lost>) {
    let mut add = |path: &Location, from_line, bytes| {
        if !lost.iter().any(|known| known.path == *path) {
            lost.push(Lost { path: path.clone(), from_line, bytes, example: example.clone() });
        }
    };
    for entry in brief.entries.iter().filter(|entry| entry.cut_at_line.is_some()) {
        add(&entry.path, entry.cut_at_line, entry.document.bytes - entry.kept);
    }
    for left in &brief.left_out {
        if let (LeftOutWhy::OverLimit { bytes, .. }, LeftOutWhat::File(file)) = (&left.why, &left.what) {
            add(file, None, *bytes);
        }
    }
}
