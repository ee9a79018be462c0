use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::profile::Reach;
use crate::resolve::zones::RuleId;
use rustc_hash::FxHashMap;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/loaded-twice", Severity::Warning, include_str!("loaded_twice.toml"));

/// Shorter texts are alike by chance.
const FEWEST_BYTES: usize = 24;

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (number, assistant) in context.survey.assistants.iter().enumerate() {
        let mut by_text: FxHashMap<&str, Vec<usize>> = FxHashMap::default();
        for (rule, read) in assistant.rules.iter().enumerate() {
            let text = read.document.text[read.header.body..].trim();
            if text.len() >= FEWEST_BYTES && read.takes_part() && matches!(read.reach, Reach::Standing | Reach::Scoped)
            {
                by_text.entry(text).or_default().push(rule);
            }
        }
        for same in by_text.into_values().filter(|same| same.len() > 1) {
            for (at, again) in same.iter().enumerate().skip(1) {
                let id = |rule: usize| RuleId { assistant: number, rule };
                // A handful of earlier copies is enough to compare with.
                let earlier = same[..at].iter().take(64);
                let met = earlier
                    .filter_map(|first| Some((*first, context.overlap.of(context.survey, id(*first), id(*again))?)))
                    .next();
                let Some((first, witness)) = met else { continue };
                let (first, again) = (&assistant.rules[first], &assistant.rules[*again]);
                let message = format!("this is the text of {} once more, and both are told", first.file());
                let help = "keep one of the two";
                let finding = Finding::in_rule(&INFO, &assistant.profile.name, again, 0..0, message).help(help);
                findings.push(finding.witness(witness));
            }
        }
    }
}
