//! Writing a new rule: its text from what a person gives, and what it repeats or contradicts.

use crate::base::language;
use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::shorten;
use crate::change::adopt::{AdoptError, as_rules};
use crate::check::{self, Choice, Context};
use crate::files::Overlay;
use crate::inspect::survey::Survey;
use crate::profile::Profile;
use crate::project::guidance::{RuleHeader, write};
use crate::project::workspace::{Project, Workspace};
use rustc_hash::FxHashMap;

/// A code example.
#[derive(Clone, Debug)]
pub struct Example {
    /// Its file's name, for the language.
    pub name: String,
    /// The code.
    pub code: String,
}

/// The body of a rule: words, then a pair of code examples.
pub fn body(words: &str, wrong: Option<&Example>, right: Option<&Example>) -> String {
    let mut text = words.replace("\r\n", "\n").trim().to_owned();
    for (title, example) in [("Wrong:", wrong), ("Right:", right)] {
        let Some(example) = example else { continue };
        let ending = example.name.rsplit_once('.').map_or(example.name.as_str(), |(_, ending)| ending);
        let language = language::by_ending(ending).map_or(ending, |language| language.endings[0]);
        // The fence is longer than any in the code.
        let mut longest = 2;
        let mut run = 0;
        for c in example.code.chars() {
            run = if c == '`' { run + 1 } else { 0 };
            longest = longest.max(run);
        }
        let fence = "`".repeat(longest + 1);
        let code = example.code.replace("\r\n", "\n");
        text += &format!("\n\n{title}\n\n{fence}{language}\n{}\n{fence}", code.trim_end());
    }
    text.trim_start().to_owned()
}

/// What a new rule meets.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Meets {
    /// The check that found it.
    pub check: &'static str,
    /// The other words.
    pub words: String,
    /// The file that says them.
    pub with: String,
}

/// A new rule with what it does.
#[derive(Clone, Debug)]
pub struct Trial {
    /// The whole file.
    pub text: String,
    /// How many source files it reaches.
    pub files: usize,
    /// One of them.
    pub example: Option<RepoPath>,
    /// What it weighs.
    pub tokens: usize,
    /// What it repeats or contradicts, in the guidance and in the assistants' files.
    pub meets: Vec<Meets>,
    /// Other remarks on it.
    pub remarks: Vec<String>,
}

/// Tries a rule before it is written. Files that are not in the guidance yet are looked at as if they were.
///
/// # Errors
/// The project can't be worked on.
pub fn attempt(
    workspace: &Workspace<'_>,
    project: &Project,
    profiles: &[&Profile],
    path: &RepoPath,
    header: &RuleHeader,
    body: &str,
) -> Result<Trial, AdoptError> {
    let text = write(header, body);
    let mut tree = Overlay::new(workspace.tree());
    let adopted = as_rules(workspace, project, profiles)?;
    let mut from: FxHashMap<RepoPath, String> = FxHashMap::default();
    for rule in &adopted {
        let files: Vec<String> = rule.from.iter().map(ToString::to_string).collect();
        from.insert(rule.path.clone(), files.join(", "));
        tree.write(rule.path.clone(), rule.text.as_bytes());
    }
    tree.write(path.clone(), text.as_bytes());
    let with_rule = workspace.over(&tree);
    let found = with_rule.project()?;
    let guidance = with_rule.guidance(&found)?;
    let assistants: Vec<_> = guidance.into_iter().collect();
    let zones = crate::resolve::zones::partition(&tree, &found.index, &assistants);
    let location = Location::root(path.clone());
    let number = assistants.first().and_then(|one| one.rules.iter().position(|rule| *rule.file() == location));
    let files = number.map_or(0, |number| zones.matches[0][number]);
    let example = number.and_then(|number| {
        zones
            .zones
            .iter()
            .find(|zone| zones.rules_of(zone).any(|id| id.rule == number))
            .map(|zone| zone.example.clone())
    });
    let survey = Survey { assistants, zones, unclaimed: Vec::new(), beside: Vec::new() };
    let context = Context::new(&with_rule, &found, &survey, None)?;
    let mut trial =
        Trial { tokens: workspace.weigh(&text), text, files, example, meets: Vec::new(), remarks: Vec::new() };
    for finding in check::run_chosen(&context, &Choice::default()) {
        let about = finding.location == location || finding.related.iter().any(|one| one.location == location);
        if !about {
            continue;
        }
        if finding.check.starts_with("consistency/") {
            let own = (&finding.location, &finding.span);
            let all = std::iter::once(own).chain(finding.related.iter().map(|one| (&one.location, &one.span)));
            for (other, span) in all.filter(|(other, _)| **other != location) {
                let words = shorten(&with_rule.document(other).text[span.clone()], 100);
                let with = other.in_root().and_then(|path| from.get(path).cloned());
                let meets = Meets { check: finding.check, words, with: with.unwrap_or_else(|| other.to_string()) };
                if !trial.meets.contains(&meets) {
                    trial.meets.push(meets);
                }
            }
        } else if finding.location == location && !finding.check.starts_with("scope/") {
            trial.remarks.push(finding.message.clone());
        }
    }
    Ok(trial)
}
