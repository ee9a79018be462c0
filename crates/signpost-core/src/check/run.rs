//! Running checks, and what becomes of their findings.

use super::allow;
use super::context::{Context, MOST_FINDINGS};
use super::finding::Finding;
use super::info::CheckInfo;
use super::registry::{REGISTRY, Run};
use super::settings::Settings;
use super::text::{Text, not_listed};
use crate::base::repo_path::Location;
use crate::base::wording::group;
use crate::project::guidance;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

/// So many files are looked at before it is asked whether a check has found enough.
const AT_A_TIME: usize = 256;

/// Which checks to run; nothing named means all.
#[derive(Clone, Debug, Default)]
pub struct Choice {
    /// Only these checks and groups.
    pub only: Vec<String>,
    /// Not these.
    pub skip: Vec<String>,
}

impl Choice {
    fn takes(&self, info: &CheckInfo) -> bool {
        let named = |names: &[String]| names.iter().any(|name| name == info.name || name == info.group());
        (self.only.is_empty() || named(&self.only)) && !named(&self.skip)
    }
}

/// Runs every check that the settings leave on. Findings are sorted by place; one that several assistants
/// share is said once.
pub fn run(context: &Context<'_, '_>) -> Vec<Finding> {
    run_chosen(context, &Choice::default())
}

/// Runs some checks.
pub fn run_chosen(context: &Context<'_, '_>, choice: &Choice) -> Vec<Finding> {
    let settings = Settings::new(&context.workspace.config);
    let chosen: Vec<&(&CheckInfo, Run)> =
        REGISTRY.iter().filter(|(info, _)| settings.may_be_on(info) && choice.takes(info)).collect();
    let of_project = || -> Vec<Finding> {
        let each = |(_, run): &&(&CheckInfo, Run)| {
            let mut findings = Vec::new();
            if let Run::Project(run) = run {
                run(context, &mut findings);
            }
            findings
        };
        chosen.par_iter().flat_map_iter(each).collect()
    };
    // A check that has found enough is not run on the files that follow; only what could do harm is looked for in all.
    let of_text = |text: &Text, found: &[usize]| {
        let mut findings = Vec::new();
        for (_, (info, run)) in
            chosen.iter().enumerate().filter(|(at, (info, _))| found[*at] < MOST_FINDINGS || info.group() == "safety")
        {
            let before = findings.len();
            match run {
                Run::File(run) => run(context, text, &mut findings),
                Run::Words(run) if !text.published => run(context, text, &mut findings),
                _ => {}
            }
            let most = context.most_findings();
            let more = (findings.len() - before).saturating_sub(most);
            if more > 0 {
                findings.truncate(before + most);
                findings.push(not_listed(info, text, more));
            }
        }
        findings
    };
    let of_texts = || -> Vec<Finding> {
        let mut findings: Vec<Finding> = Vec::new();
        let mut found = vec![0; chosen.len()];
        let mut chunks = context.texts.chunks(AT_A_TIME).peekable();
        while let Some(texts) = chunks.next() {
            let full = found.clone();
            let more: Vec<Finding> = texts.par_iter().flat_map_iter(|text| of_text(text, &full)).collect();
            for (at, (info, _)) in chosen.iter().enumerate() {
                found[at] += more.iter().filter(|finding| finding.check == info.name).count();
                let is_full = full[at] < MOST_FINDINGS && found[at] >= MOST_FINDINGS && info.group() != "safety";
                if let (true, Some([next, ..])) = (is_full, chunks.peek()) {
                    findings.push(not_looked_for(info, next, found[at]));
                }
            }
            findings.extend(more);
        }
        findings
    };
    let (mut findings, more) = rayon::join(of_project, of_texts);
    findings.extend(more);
    let ran = |name: &str| {
        let known = REGISTRY.iter().filter(|(info, _)| info.name == name || info.group() == name);
        known.clone().count() > 0 && known.clone().all(|(info, _)| choice.takes(info))
    };
    allow_findings(context, &mut findings, &chosen, &ran);
    leave_to_guidance(context, &mut findings);
    let mut findings: Vec<Finding> = findings
        .into_iter()
        .filter_map(|mut finding| {
            finding.severity = settings.severity(&finding)?;
            Some(finding)
        })
        .collect();
    name_assistants(context, &mut findings);
    join_assistants(&mut findings);
    findings.sort_by(|a, b| {
        (&a.location, a.span.start, a.check, &a.message).cmp(&(&b.location, b.span.start, b.check, &b.message))
    });
    findings
}

/// What is said where a check has found enough in the files before one.
fn not_looked_for(info: &CheckInfo, next: &Text, number: usize) -> Finding {
    let message = format!(
        "{} of these were found in the files before this one; it and those after it were not looked at",
        group(number)
    );
    next.finding(info, 0..0, message).help("mend those that are listed, then look again")
}

/// What a file says that is as it was published, it says because a rule of the guidance does: the finding stands there.
/// What is wrong with the file as such (its place, its size) stands, and is mended in the guidance too, never here:
/// publishing would refuse to touch a file that somebody edited.
fn leave_to_guidance(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let published: FxHashSet<&Location> =
        context.texts.iter().filter(|text| text.published).map(Text::location).collect();
    findings.retain_mut(|finding| {
        if published.contains(&finding.location) {
            finding.fix.clear();
            return matches!(finding.check.split('/').next(), Some("place" | "size" | "reference"));
        }
        true
    });
}

/// Takes out what the texts allow, and adds what is wrong with the allowances.
fn allow_findings(
    context: &Context<'_, '_>,
    findings: &mut Vec<Finding>,
    chosen: &[&(&CheckInfo, Run)],
    ran: &dyn Fn(&str) -> bool,
) {
    let allowed: FxHashMap<&Location, (&Text, Vec<allow::Allowance>)> = (context.texts.iter())
        .map(|text| (text.location(), (text, allow::read(text))))
        .filter(|(_, (_, allowances))| !allowances.is_empty())
        .collect();
    findings.retain(|finding| !allowed.get(&finding.location).is_some_and(|(_, own)| allow::takes(own, finding)));
    let wrong = allowed.values().flat_map(|(text, own)| allow::findings(text, own, ran));
    findings.extend(wrong.filter(|one| chosen.iter().any(|(info, _)| info.name == one.check)));
}

/// A finding in the guidance concerns the assistants that its rule is for.
fn name_assistants(context: &Context<'_, '_>, findings: &mut [Finding]) {
    let Some(one) = context.survey.assistants.last().filter(|one| one.profile.name == guidance::PROFILE) else {
        return;
    };
    let all: Vec<String> = context.survey.assistants.iter().map(|one| one.profile.name.clone()).collect();
    let all: Vec<String> = all.into_iter().filter(|name| name != guidance::PROFILE).collect();
    let named: FxHashMap<&Location, Option<Vec<String>>> =
        one.rules.iter().map(|rule| (rule.file(), guidance::assistants(rule))).collect();
    for finding in findings.iter_mut().filter(|one| one.assistants.iter().any(|name| name == guidance::PROFILE)) {
        finding.assistants.retain(|name| name != guidance::PROFILE);
        let own = named.get(&finding.location).cloned().flatten().unwrap_or_else(|| all.clone());
        finding.assistants.extend(own);
        finding.assistants.sort();
        finding.assistants.dedup();
    }
}

fn join_assistants(findings: &mut Vec<Finding>) {
    let mut first: FxHashMap<_, usize> = FxHashMap::default();
    let mut joined: Vec<Finding> = Vec::new();
    for finding in findings.drain(..) {
        let key = (finding.check, finding.location.clone(), finding.span.clone(), finding.message.clone());
        match first.get(&key) {
            Some(at) => {
                let all = &mut joined[*at].assistants;
                all.extend(finding.assistants);
                all.sort();
                all.dedup();
            }
            None => {
                first.insert(key, joined.len());
                joined.push(finding);
            }
        }
    }
    *findings = joined;
}
