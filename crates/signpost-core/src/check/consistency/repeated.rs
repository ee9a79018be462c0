use crate::check::{CheckInfo, Context, Finding, Related};
use crate::config::Severity;
use crate::directive::{Outline, families::Families};
use crate::profile::{Level, Reach};
use crate::repo_path::RepoPath;
use crate::rule::Rule;
use crate::workspace::Assistant;
use crate::zone::{RuleId, Zone};
use rustc_hash::{FxHashMap, FxHashSet};
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "consistency/repeated",
    severity: Severity::Warning,
    finds: "A directive that one assistant is told twice about the same file.",
    why: "It costs tokens twice, and when one of the two is changed, the other one contradicts it.",
    mend: "Keep the one whose scope is right, and delete the other.",
    bad: "AGENTS.md:        - Run `just check` before you commit.\nkiosk/AGENTS.md:  - Run `just check` before you commit.\n",
    good: "AGENTS.md:        - Run `just check` before you commit.\nkiosk/AGENTS.md:  - Screens are tested with `npm test`.\n",
};

/// Shorter directives are too common to mean anything.
const FEWEST_WORDS: usize = 3;

struct Told<'a> {
    rule: usize,
    read: &'a Rule,
    span: Range<usize>,
}

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let zones = &context.survey.zones.zones;
    let mut zones_of: FxHashMap<RuleId, Vec<usize>> = FxHashMap::default();
    for (number, zone) in zones.iter().enumerate() {
        zone.rules.iter().for_each(|id| zones_of.entry(*id).or_default().push(number));
    }
    let everywhere: FxHashSet<RuleId> = context.survey.zones.everywhere.iter().copied().collect();
    let meeting = Meeting { zones, zones_of, everywhere };
    for (number, assistant) in context.survey.assistants.iter().enumerate() {
        let mut by_key: FxHashMap<String, Vec<Told<'_>>> = FxHashMap::default();
        for (rule, read) in assistant.rules.iter().enumerate().filter(|(_, read)| read.takes_part()) {
            for directive in Outline::read(&read.document.text, read.header.body, Families::built_in()).directives {
                if directive.words.split(' ').count() >= FEWEST_WORDS {
                    by_key.entry(directive.key()).or_default().push(Told { rule, read, span: directive.span });
                }
            }
        }
        for told in by_key.into_values().filter(|told| told.len() > 1) {
            findings.extend(repeats(number, assistant, &told, &meeting));
        }
    }
}

/// One finding for each place that says again what an earlier one says about the same file.
fn repeats(number: usize, assistant: &Assistant<'_>, told: &[Told<'_>], meeting: &Meeting<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    for (at, again) in told.iter().enumerate().skip(1) {
        let meets = told[..at].iter().find_map(|first| {
            let witness = meeting.of(number, first, again)?;
            Some((first, witness))
        });
        let Some((first, witness)) = meets else { continue };
        let where_ =
            if first.rule == again.rule { "in this file".to_owned() } else { format!("in {}", first.read.file()) };
        let message = format!("this is said already {where_}");
        let mut finding = Finding::in_rule(&INFO, &assistant.profile.name, again.read, again.span.clone(), message)
            .help("keep the one whose scope is right, and delete the other");
        finding.witness = witness;
        finding.related.push(Related {
            location: first.read.file().clone(),
            span: first.span.clone(),
            message: "said here first".to_owned(),
        });
        findings.push(finding);
    }
    findings
}

/// Where rules meet.
struct Meeting<'a> {
    zones: &'a [Zone],
    zones_of: FxHashMap<RuleId, Vec<usize>>,
    everywhere: FxHashSet<RuleId>,
}

impl Meeting<'_> {
    /// A file about which both are told; `Some(None)` where that needs no file.
    fn of(&self, assistant: usize, first: &Told<'_>, again: &Told<'_>) -> Option<Option<RepoPath>> {
        if first.rule == again.rule {
            return Some(None);
        }
        let at_start = |told: &Told<'_>| {
            told.read.reach == Reach::Standing
                && (told.read.level != Level::Folder || told.read.found.anchor.path.is_root())
        };
        let id = |told: &Told<'_>| RuleId { assistant, rule: told.rule };
        let own = |told: &Told<'_>| self.zones_of.get(&id(told)).map_or(&[][..], Vec::as_slice);
        let (a, b) = (own(first), own(again));
        let shared = match (self.everywhere.contains(&id(first)), self.everywhere.contains(&id(again))) {
            (true, true) => (!self.zones.is_empty()).then_some(0),
            (true, false) => b.first().copied(),
            (false, true) => a.first().copied(),
            (false, false) => a.iter().find(|zone| b.binary_search(zone).is_ok()).copied(),
        };
        match shared {
            Some(zone) => Some(Some(self.zones[zone].example.clone())),
            None => (at_start(first) && at_start(again)).then_some(None),
        }
    }
}
