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
use crate::config::Severity;
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
    /// Whether a check is asked for by its name or its group's.
    fn names(&self, check: &str) -> bool {
        let group = check.split('/').next().unwrap_or_default();
        self.only.iter().any(|name| name == check || name == group)
    }

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
    let chosen: Vec<&Registered> =
        REGISTRY.iter().filter(|(info, _)| settings.may_be_on(info) && choice.takes(info)).collect();
    let (mut findings, of_texts) =
        rayon::join(|| of_project(context, &chosen, &settings), || of_texts(context, &chosen, &settings));
    findings.extend(of_texts);
    findings.retain(|finding| !finding.on_request || settings.asks_for(finding.check) || choice.names(finding.check));
    let ran = |name: &str| {
        let known = REGISTRY.iter().filter(|(info, _)| info.name == name || info.group() == name);
        known.clone().count() > 0 && known.clone().all(|(info, _)| choice.takes(info))
    };
    let allowances = allow_findings(context, &mut findings, &chosen, &ran);
    findings.extend(as_set(&settings, allowances));
    leave_to_guidance(context, &mut findings);
    name_assistants(context, &mut findings);
    soften_guesses(context, &mut findings);
    move_from_links(context, &mut findings);
    join_assistants(&mut findings);
    say_once(context, &mut findings);
    findings.sort_by(|a, b| {
        (&a.location, a.span.start, a.check, &a.message).cmp(&(&b.location, b.span.start, b.check, &b.message))
    });
    findings
}

type Registered = (&'static CheckInfo, Run);

/// Findings as severe as the settings have them, without those of checks that are off for their file.
fn as_set(settings: &Settings<'_>, findings: Vec<Finding>) -> impl Iterator<Item = Finding> {
    findings.into_iter().filter_map(|mut finding| {
        finding.severity = settings.severity(&finding)?;
        if finding.likely {
            finding.severity = finding.severity.min(Severity::Note);
        }
        Some(finding)
    })
}

fn of_project(context: &Context<'_, '_>, chosen: &[&Registered], settings: &Settings<'_>) -> Vec<Finding> {
    let each = |(_, run): &&Registered| {
        let mut findings = Vec::new();
        if let Run::Project(run) = run {
            run(context, &mut findings);
        }
        as_set(settings, findings)
    };
    chosen.par_iter().flat_map_iter(each).collect()
}

/// What the checks of a text find in all of them. A check that has found enough is not run on the files that follow.
fn of_texts(context: &Context<'_, '_>, chosen: &[&Registered], settings: &Settings<'_>) -> Vec<Finding> {
    let mut findings: Vec<Finding> = Vec::new();
    let mut going: Vec<(&Registered, usize)> = chosen.iter().map(|one| (*one, 0)).collect();
    let mut chunks = context.texts.chunks(AT_A_TIME).peekable();
    while let Some(texts) = chunks.next() {
        let of_text = |text| of_text(context, text, going.iter().map(|(one, _)| *one), settings);
        let more: Vec<Finding> = texts.par_iter().flat_map_iter(of_text).collect();
        for ((info, _), found) in &mut going {
            *found += more.iter().filter(|finding| finding.check == info.name).count();
        }
        findings.extend(more);
        // What could do harm is looked for in all.
        let is_full =
            |((info, _), found): &mut (&Registered, usize)| *found >= MOST_FINDINGS && info.group() != "safety";
        let full = going.extract_if(.., is_full);
        if let Some([next, ..]) = chunks.peek() {
            findings.extend(full.map(|((info, _), found)| not_looked_for(info, next, found)));
        }
    }
    findings
}

/// What some checks find in a text.
fn of_text<'r>(
    context: &Context<'_, '_>,
    text: &Text,
    checks: impl Iterator<Item = &'r Registered>,
    settings: &Settings<'_>,
) -> Vec<Finding> {
    let most = context.most_findings();
    let mut findings = Vec::new();
    for (info, run) in checks {
        let mut own = Vec::new();
        match run {
            Run::File(run) => run(context, text, &mut own),
            Run::Words(run) if !text.published => run(context, text, &mut own),
            _ => {}
        }
        let mut own: Vec<Finding> = as_set(settings, own).collect();
        if own.len() > most {
            let more = not_listed(info, text, own.len() - most);
            own.truncate(most);
            own.extend(as_set(settings, vec![more]));
        }
        findings.extend(own);
    }
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

/// What is found in a file that is a link to another one is found there.
fn move_from_links(context: &Context<'_, '_>, findings: &mut [Finding]) {
    let tree = context.workspace.tree();
    let target = |location: &Location| {
        let path = location.in_root()?;
        let target = path.folder().resolve(&tree.link_target(location)?)?;
        Some(Location::root(target))
    };
    let read: FxHashSet<&Location> = context.texts.iter().map(Text::location).collect();
    let links: FxHashMap<Location, Location> = (context.texts.iter())
        .filter_map(|text| Some((text.location().clone(), target(text.location())?)))
        .filter(|(_, target)| read.contains(target))
        .collect();
    if links.is_empty() {
        return;
    }
    for finding in findings.iter_mut().filter(|finding| !finding.check.starts_with("place/")) {
        if let Some(target) = links.get(&finding.location) {
            finding.location.clone_from(target);
        }
    }
}

/// The same words twice in a line are one mistake.
fn say_once(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let texts: FxHashMap<&Location, &Text> = context.texts.iter().map(|text| (text.location(), text)).collect();
    let mut seen = FxHashSet::default();
    findings.retain(|finding| {
        let Some(text) = texts.get(&finding.location).map(|text| text.text()) else { return true };
        let start = text.get(..finding.span.start).and_then(|before| before.rfind('\n')).map_or(0, |at| at + 1);
        finding.span.is_empty()
            || !finding.fix.is_empty() // each mend is needed
            || seen.insert((finding.location.clone(), start, finding.check, finding.message.clone()))
    });
}

/// What rests on a guess says so, and is a warning at most. What a text says it says whoever reads it.
fn soften_guesses(context: &Context<'_, '_>, findings: &mut [Finding]) {
    let guessed: Vec<&str> = context.workspace.guessed().map(|profile| profile.name.as_str()).collect();
    let rests = |finding: &&mut Finding| {
        let group = finding.check.split('/').next().unwrap_or_default();
        let of_text = matches!(group, "wording" | "facts" | "safety" | "allowance");
        !finding.assistants.is_empty()
            && finding.assistants.iter().all(|name| guessed.contains(&name.as_str()))
            && !of_text
            && finding.check != "place/unknown-assistant"
    };
    for finding in findings.iter_mut().filter(rests) {
        finding.severity = finding.severity.min(Severity::Warning);
        finding.guessed = true;
    }
}

/// Takes out what the texts allow, and finds what is wrong with the allowances.
fn allow_findings(
    context: &Context<'_, '_>,
    findings: &mut Vec<Finding>,
    chosen: &[&Registered],
    ran: &dyn Fn(&str) -> bool,
) -> Vec<Finding> {
    let allowed: FxHashMap<&Location, (&Text, Vec<allow::Allowance>)> = (context.texts.iter())
        .map(|text| (text.location(), (text, allow::read(text))))
        .filter(|(_, (_, allowances))| !allowances.is_empty())
        .collect();
    findings.retain(|finding| !allowed.get(&finding.location).is_some_and(|(_, own)| allow::takes(own, finding)));
    let wrong = allowed.values().flat_map(|(text, own)| allow::findings(text, own, ran));
    wrong.filter(|one| chosen.iter().any(|(info, _)| info.name == one.check)).collect()
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
