use crate::base::repo_path::Location;
use crate::base::wording::{count, group};
use crate::check::{CheckInfo, Context, Finding, reference};
use crate::config::Severity;
use crate::profile::{Excess, Limits, Reach};
use crate::project::guidance;
use crate::project::rule::Rule;
use rustc_hash::{FxHashMap, FxHashSet};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("size/brief-over-budget", Severity::Warning, include_str!("brief_over_budget.toml"));

struct Heavy {
    tokens: usize,
    files: usize,
    zone: usize,
}

/// What the assistant reads of a file weighs so much.
fn tokens_read(limits: &Limits, rule: &Rule) -> usize {
    match limits.excess {
        _ if limits.file_bytes == 0 || rule.document.bytes <= limits.file_bytes => rule.document.tokens(),
        Excess::Cut => rule.document.tokens_of_first(limits.file_bytes),
        Excess::Skip => 0,
    }
}

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let budget = context.workspace.config.budget.brief;
    let zones = &context.survey.zones;
    for (number, assistant) in context.survey.assistants.iter().enumerate() {
        if assistant.profile.name == guidance::PROFILE {
            continue;
        }
        let refers = assistant.profile.references.is_some();
        // Most projects stay below the budget even if all were told at once.
        let all: usize = assistant.rules.iter().map(|rule| rule.document.tokens()).sum();
        if all <= budget && !refers {
            continue;
        }
        let mut brought = reference::brought(context, number);
        let weight: Vec<Vec<(&Location, usize)>> = (assistant.rules.iter().enumerate())
            .map(|(number, rule)| {
                if !rule.takes_part() || !matches!(rule.reach, Reach::Standing | Reach::Scoped) {
                    return Vec::new();
                }
                let more = brought.remove(&number).unwrap_or_default();
                let more = more.into_iter().map(|(file, tokens)| (file, *tokens));
                std::iter::once((rule.file(), tokens_read(&assistant.profile.limits, rule))).chain(more).collect()
            })
            .collect();
        // By the heaviest rule, which is where to begin.
        let mut heavy: FxHashMap<usize, Heavy> = FxHashMap::default();
        for (zone, one) in zones.zones.iter().enumerate() {
            let told = || zones.rules_of(one).filter(|id| id.assistant == number).map(|id| id.rule);
            let tokens: usize = if refers {
                let mut seen = FxHashSet::default();
                told()
                    .flat_map(|rule| &weight[rule])
                    .filter(|(file, _)| seen.insert(file))
                    .map(|(_, tokens)| tokens)
                    .sum()
            } else {
                told().flat_map(|rule| &weight[rule]).map(|(_, tokens)| tokens).sum()
            };
            if tokens <= budget {
                continue;
            }
            let of = |rule: &usize| weight[*rule].iter().map(|(_, tokens)| tokens).sum::<usize>();
            let Some(heaviest) = told().max_by_key(|rule| (of(rule), std::cmp::Reverse(*rule))) else { continue };
            let known = heavy.entry(heaviest).or_insert(Heavy { tokens, files: 0, zone });
            known.files += one.files;
            if tokens > known.tokens {
                (known.tokens, known.zone) = (tokens, zone);
            }
        }
        for (rule, one) in heavy {
            let read = &assistant.rules[rule];
            let own: usize = weight[rule].iter().map(|(_, tokens)| tokens).sum();
            let with = if weight[rule].len() > 1 { " with what it refers to" } else { "" };
            let message = format!(
                "about {} {} is told up to ≈{} tokens, where the budget is {}; ≈{} of them are this file{with}",
                count(one.files, "file"),
                assistant.profile.title,
                group(one.tokens),
                group(budget),
                group(own)
            );
            let help =
                "give it a narrower scope, offer it by a summary, or shorten it; `signpost weigh` shows the rest";
            let finding = Finding::in_rule(&INFO, &assistant.profile.name, read, 0..0, message).help(help);
            findings.push(finding.witness(Some(zones.zones[one.zone].example.clone())));
        }
    }
}
