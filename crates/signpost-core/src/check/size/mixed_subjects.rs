use crate::base::repo_path::RepoPath;
use crate::base::wording::group;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::condition::{Condition, heading};
use crate::directive::{Section, normal};
use crate::profile::Reach;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("size/mixed-subjects", Severity::Note, include_str!("mixed_subjects.toml"));

/// A smaller saving is not worth a file more.
const FEWEST_TOKENS: usize = 120;
/// A section about a larger part of the project stands where it should.
const LARGEST_SHARE: f64 = 0.6;

struct Part<'a> {
    section: &'a Section,
    name: String,
    tokens: usize,
    share: f64,
}

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let standing = text.told.iter().filter(|id| {
        let rule = context.rule(**id);
        rule.reach == Reach::Standing && rule.takes_part()
    });
    let Some(id) = standing.clone().next() else { return };
    let below = &context.rule(*id).scope.below;
    // A standing rule matches what stands below its folder.
    let total = context.survey.zones.matches[id.assistant][id.rule];
    if text.outline.sections.len() < 2 || text.document.tokens() < FEWEST_TOKENS || text.published {
        return;
    }
    let mut parts: Vec<Part<'_>> = Vec::new();
    for section in text.outline.sections.iter().filter(|section| section.level > 1) {
        if parts.iter().any(|part| part.section.span.end >= section.span.end) {
            continue;
        }
        let Some((name, files)) = scope_of(context, section, below) else { continue };
        let share = if total == 0 { 1.0 } else { files as f64 / total as f64 };
        if files > 0 && share <= LARGEST_SHARE {
            let tokens = context.workspace.weigh(text.words(&section.span));
            parts.push(Part { section, name, tokens, share });
        }
    }
    let mut names: Vec<&str> = parts.iter().map(|part| part.name.as_str()).collect();
    names.dedup();
    let saved: f64 = parts.iter().map(|part| part.tokens as f64 * (1.0 - part.share)).sum();
    if names.len() < 2 || saved < FEWEST_TOKENS as f64 {
        return;
    }
    let message = format!(
        "{} sections are each about a part of the project ({}); split off, they would save ≈{} tokens on average",
        parts.len(),
        names.join(", "),
        group(saved as usize)
    );
    let mut finding = text
        .finding(&INFO, parts[0].section.heading.clone(), message)
        .help("move each to a rule with that scope, or to a file in that folder");
    for part in &parts[1..] {
        finding = finding.related(
            text.location(),
            part.section.heading.clone(),
            format!("≈{} tokens about {}", group(part.tokens), part.name),
        );
    }
    findings.push(finding);
}

/// The part of the project that a heading names, and how many files it has.
fn scope_of(context: &Context<'_, '_>, section: &Section, below: &RepoPath) -> Option<(String, usize)> {
    let frame = heading(&section.title, false);
    let languages: Vec<&[&str]> = frame.conditions.iter().filter_map(Condition::endings).collect();
    if !languages.is_empty() {
        // What most of the project is in is no part of it.
        if context.facts.main_language().is_some_and(|main| languages.contains(&main.endings)) {
            return None;
        }
        let files = languages.into_iter().flatten().map(|ending| context.facts.files_ending(below, ending)).sum();
        return Some((section.title.clone(), files));
    }
    let title = normal(&section.title);
    let words = title.split(' ').map(|word| word.trim_matches('`').trim_end_matches('/'));
    words.filter(|word| word.len() > 2).find_map(|word| {
        let folder = below.resolve(word)?;
        let index = &context.project.index;
        let known = index.folder(&folder).is_some_and(|folder| !folder.apart);
        known.then(|| (format!("{folder}/"), context.facts.files_below(&folder)))
    })
}
