use super::quoted;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::directive::words::{STOP, words};
use crate::profile::Reach;
use crate::resolve::zones::RuleId;
use rustc_hash::FxHashMap;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("consistency/rival-summaries", Severity::Warning, include_str!("rival_summaries.toml"));

/// Words that set no summary apart.
const PLAIN: &[&str] = &[
    "how", "what", "rules", "rule", "guidelines", "guide", "notes", "about", "use", "using", "writing", "write",
    "working", "work", "conventions", "convention",
];
/// This part of the words must be the same.
const ALIKE: f64 = 0.8;

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (number, assistant) in context.survey.assistants.iter().enumerate() {
        let mut seen: Vec<(usize, Vec<String>)> = Vec::new();
        let mut with_word: FxHashMap<String, Vec<usize>> = FxHashMap::default();
        for (rule, read) in assistant.rules.iter().enumerate() {
            let Some(summary) = read.summary.as_ref().filter(|_| read.reach == Reach::Offered && read.takes_part())
            else {
                continue;
            };
            let mut own: Vec<String> = words(summary, 0..summary.len())
                .into_iter()
                .filter(|word| word.code || !word.is(STOP) && !word.is(PLAIN))
                .map(|word| word.stem)
                .collect();
            own.sort();
            own.dedup();
            let near: Vec<usize> =
                own.iter().filter_map(|word| with_word.get(word)).flatten().take(256).copied().collect();
            let rival = near.into_iter().find(|at| {
                let (other, theirs) = &seen[*at];
                let shared = own.iter().filter(|word| theirs.contains(word)).count();
                let alike = shared as f64 / (own.len() + theirs.len() - shared) as f64 >= ALIKE;
                let id = |rule| RuleId { assistant: number, rule };
                alike && context.overlap.of(context.survey, id(*other), id(rule)).is_some()
            });
            if let Some(at) = rival {
                let other = &assistant.rules[seen[at].0];
                let key = |read: &crate::project::rule::Rule| {
                    let place = read.place_in(assistant.profile);
                    place
                        .keys
                        .summary
                        .as_ref()
                        .and_then(|key| read.header.get(key))
                        .map_or(0..0, |key| key.value_span.clone())
                };
                let theirs = other.summary.as_deref().unwrap_or_default();
                let message =
                    format!("{} cannot be told apart from {} in {}", quoted(summary), quoted(theirs), other.file());
                let finding = Finding::in_rule(&INFO, &assistant.profile.name, read, key(read), message)
                    .help("say in each what sets it apart, or make one rule of the two");
                findings.push(finding.related(other.file(), key(other), "the other summary"));
            }
            for word in &own {
                with_word.entry(word.clone()).or_default().push(seen.len());
            }
            seen.push((rule, own));
        }
    }
}
