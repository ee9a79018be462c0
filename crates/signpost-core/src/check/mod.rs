//! Checks: what is wrong with a project's instruction files.
//!
//! Each check is one file with a [`CheckInfo`] (what `signpost explain` teaches) and a function from a
//! [`Context`] to findings. Settings and severities act in one place, [`run`]. A finding is data: bytes of a
//! file, words, and other places that matter; text and JSON are made from it elsewhere.

mod allow;
pub mod baseline;
mod consistency;
mod facts;
mod finding;
pub mod fix;
mod header;
mod items;
mod meeting;
mod mention;
mod phrase;
mod place;
mod reference;
mod safety;
mod scope;
pub mod settings;
mod size;
mod texts;
mod wording;

use crate::base::repo_path::Location;
use crate::base::toml_file::nearest;
use crate::base::wording::group;
use crate::config::Severity;
use crate::directive::families::Families;
use crate::facts::Facts;
use crate::inspect::pattern_search::Reacher;
use crate::inspect::survey::Survey;
use crate::project::guidance::{self, Date};
use crate::project::workspace::{Project, Workspace, WorkspaceError};
use crate::resolve::zones::RuleId;
pub use finding::{Edit, Finding, Related};
use meeting::Meeting;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};
use std::sync::OnceLock;
pub use texts::Text;

/// What a check is, for those who read its findings.
#[derive(Debug)]
pub struct CheckInfo {
    /// `group/name`.
    pub name: &'static str,
    /// Unless a finding or a setting says otherwise.
    pub severity: Severity,
    /// What it finds, in one line.
    pub finds: &'static str,
    /// Why that matters.
    pub why: &'static str,
    /// How to mend it.
    pub mend: &'static str,
    /// What it finds.
    pub bad: &'static str,
    /// What it is silent about.
    pub good: &'static str,
}

impl CheckInfo {
    /// The part before the slash.
    pub fn group(&self) -> &'static str {
        self.name.split('/').next().unwrap_or_default()
    }
}

/// What checks look at.
pub struct Context<'a, 't> {
    /// The project's settings and texts.
    pub workspace: &'a Workspace<'t>,
    /// Its files.
    pub project: &'a Project,
    /// Its rules and zones.
    pub survey: &'a Survey<'a>,
    /// What the repository states.
    pub facts: Facts<'a>,
    /// The families of choices.
    pub families: Families,
    /// The texts of all rules.
    pub texts: Vec<Text>,
    /// Where rules meet.
    pub meeting: Meeting,
    /// What patterns take.
    pub reacher: Reacher<'a>,
    /// Patterns that take no file: the rule, and the number of the pattern.
    idle: OnceLock<Vec<(RuleId, usize)>>,
    /// Directives that cannot both be followed.
    clashes: OnceLock<Vec<Finding>>,
    /// What each rule's references come to.
    walks: OnceLock<Vec<(RuleId, reference::Walk)>>,
    /// Today, where that is known.
    pub today: Option<Date>,
}

/// So many findings of one check are listed, spread over all files.
const MOST_FINDINGS: usize = 5_000;
/// So many files are looked at before it is asked whether a check has found enough.
const AT_A_TIME: usize = 256;
/// So many in one file at least, however many files there are.
const LEAST_OF_A_FILE: usize = 20;
/// So many in one file at most.
const MOST_OF_A_FILE: usize = 250;

impl<'a, 't> Context<'a, 't> {
    /// So many findings of one check in one file are listed: nobody reads more, and somebody may have made the files to
    /// fill our memory.
    pub(crate) fn most_findings(&self) -> usize {
        (MOST_FINDINGS / self.texts.len().max(1)).clamp(LEAST_OF_A_FILE, MOST_OF_A_FILE)
    }

    /// Reads all that checks look at. The survey is one [with guidance](crate::inspect::survey::with_guidance).
    ///
    /// # Errors
    /// `signpost.lock` is not valid.
    pub fn new(
        workspace: &'a Workspace<'t>,
        project: &'a Project,
        survey: &'a Survey<'a>,
        today: Option<Date>,
    ) -> Result<Self, WorkspaceError> {
        let families = Families::with(&workspace.config.families);
        let lock = workspace.lock()?;
        let (facts, (texts, meeting)) = rayon::join(
            || Facts::read(workspace.tree(), &project.index),
            || rayon::join(|| texts::read(survey, &families, &lock), || Meeting::new(survey)),
        );
        let reacher = Reacher::new(&project.index);
        let (idle, clashes, walks) = Default::default();
        Ok(Context {
            workspace,
            project,
            survey,
            facts,
            families,
            texts,
            meeting,
            reacher,
            idle,
            clashes,
            walks,
            today,
        })
    }
}

enum Run {
    /// Looks at the project as a whole.
    Project(fn(&Context<'_, '_>, &mut Vec<Finding>)),
    /// Looks at one text after another; also at those that are published as they are recorded.
    File(fn(&Context<'_, '_>, &Text, &mut Vec<Finding>)),
    /// Looks at the words of one text after another.
    Words(fn(&Context<'_, '_>, &Text, &mut Vec<Finding>)),
    /// Comes out of how findings are allowed.
    Allowance,
}

use Run::{File, Words};

const REGISTRY: &[(&CheckInfo, Run)] = &[
    (&place::near_miss_name::INFO, Run::Project(place::near_miss_name::run)),
    (&place::never_loaded::INFO, Run::Project(place::never_loaded::run)),
    (&place::ignored_by_git::INFO, Run::Project(place::ignored_by_git::run)),
    (&place::personal_not_ignored::INFO, Run::Project(place::personal_not_ignored::run)),
    (&place::broken_link::INFO, Run::Project(place::broken_link::run)),
    (&place::loaded_twice::INFO, Run::Project(place::loaded_twice::run)),
    (&header::invalid::INFO, Run::Project(header::invalid::run)),
    (&header::unknown_key::INFO, Run::Project(header::unknown_key::run)),
    (&header::wrong_type::INFO, Run::Project(header::wrong_type::run)),
    (&header::conflicting_reach::INFO, Run::Project(header::conflicting_reach::run)),
    (&header::missing_summary::INFO, Run::Project(header::missing_summary::run)),
    (&header::weak_summary::INFO, Run::Project(header::weak_summary::run)),
    (&scope::invalid_pattern::INFO, Run::Project(scope::invalid_pattern::run)),
    (&scope::matches_nothing::INFO, Run::Project(scope::matches_nothing::run)),
    (&scope::matches_everything::INFO, Run::Project(scope::matches_everything::run)),
    (&scope::only_hidden_files::INFO, Run::Project(scope::only_hidden_files::run)),
    (&scope::unsupported_syntax::INFO, Run::Project(scope::unsupported_syntax::run)),
    (&scope::redundant_pattern::INFO, Run::Project(scope::redundant_pattern::run)),
    (&scope::wrong_base::INFO, Run::Project(scope::wrong_base::run)),
    (&size::file_too_long::INFO, Run::Project(size::file_too_long::run)),
    (&size::over_limit::INFO, Run::Project(size::over_limit::run)),
    (&size::brief_over_budget::INFO, Run::Project(size::brief_over_budget::run)),
    (&size::mixed_subjects::INFO, File(size::mixed_subjects::run)),
    (&wording::vague::INFO, Words(wording::vague::run)),
    (&wording::no_alternative::INFO, Words(wording::no_alternative::run)),
    (&wording::shouting::INFO, Words(wording::shouting::run)),
    (&wording::pleasantry::INFO, Words(wording::pleasantry::run)),
    (&wording::placeholder::INFO, Words(wording::placeholder::run)),
    (&wording::commonplace::INFO, Words(wording::commonplace::run)),
    (&consistency::contradiction::INFO, Run::Project(consistency::contradiction::run)),
    (&consistency::contradiction::OVERRIDE, Run::Project(consistency::contradiction::run_override)),
    (&consistency::repeated::INFO, Run::Project(consistency::repeated::run)),
    (&consistency::diverged::INFO, Run::Project(consistency::diverged::run)),
    (&consistency::rival_summaries::INFO, Run::Project(consistency::rival_summaries::run)),
    (&facts::missing_path::INFO, Words(facts::missing_path::run)),
    (&facts::missing_command::INFO, Words(facts::missing_command::run)),
    (&facts::absent_dependency::INFO, Words(facts::absent_dependency::run)),
    (&facts::version_mismatch::INFO, Words(facts::version_mismatch::run)),
    (&facts::other_package_manager::INFO, Words(facts::other_package_manager::run)),
    (&facts::style_mismatch::INFO, Words(facts::style_mismatch::run)),
    (&facts::review_due::INFO, Run::Project(facts::review_due::run)),
    (&safety::hidden_text::INFO, Words(safety::hidden_text::run)),
    (&safety::comment_directive::INFO, Words(safety::comment_directive::run)),
    (&safety::override_attempt::INFO, Words(safety::override_attempt::run)),
    (&safety::data_leaves::INFO, Words(safety::data_leaves::run)),
    (&safety::remote_code::INFO, Words(safety::remote_code::run)),
    (&safety::encoded_blob::INFO, Words(safety::encoded_blob::run)),
    (&safety::secret::INFO, Words(safety::secret::run)),
    (&safety::skips_approval::INFO, Words(safety::skips_approval::run)),
    (&safety::look_alike_letters::INFO, Words(safety::look_alike_letters::run)),
    (&reference::missing::INFO, Run::Project(reference::missing::run)),
    (&reference::cycle::INFO, Run::Project(reference::cycle::run)),
    (&reference::outside_root::INFO, Run::Project(reference::outside_root::run)),
    (&reference::too_deep::INFO, Run::Project(reference::too_deep::run)),
    (&reference::heavy::INFO, Run::Project(reference::heavy::run)),
    (&allow::NO_REASON, Run::Allowance),
    (&allow::UNKNOWN, Run::Allowance),
    (&allow::UNNEEDED, Run::Allowance),
];

/// Every check, by group.
pub fn all() -> impl Iterator<Item = &'static CheckInfo> {
    REGISTRY.iter().map(|(info, _)| *info)
}

/// The check of that name.
pub fn by_name(name: &str) -> Option<&'static CheckInfo> {
    all().find(|info| info.name == name)
}

/// The checks that a name means: a check, a group, or a check without its group.
pub fn named(name: &str) -> Vec<&'static CheckInfo> {
    all()
        .filter(|info| info.name == name || info.group() == name || info.name.split('/').nth(1) == Some(name))
        .collect()
}

/// What to say where a name means none.
pub fn did_you_mean(name: &str) -> String {
    let names = all().flat_map(|info| [info.name, info.group(), info.name.split('/').nth(1).unwrap_or_default()]);
    match nearest(name, names) {
        Some(near) => format!("did you mean `{near}`?"),
        None => "`signpost explain` lists the checks".to_owned(),
    }
}

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
    let settings = settings::Settings::new(&context.workspace.config);
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
                File(run) => run(context, text, &mut findings),
                Words(run) if !text.published => run(context, text, &mut findings),
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

/// What is said of those that are not listed.
fn not_listed(info: &CheckInfo, text: &Text, number: usize) -> Finding {
    let message = format!("{} more like these stand in this file and are not listed", group(number));
    text.finding(info, 0..0, message).help("mend those that are listed, then look again")
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_check_teaches() {
        let mut names: Vec<&str> = all().map(|info| info.name).collect();
        for info in all() {
            let parts: Vec<&str> = info.name.split('/').collect();
            assert_eq!(parts.len(), 2, "{}", info.name);
            for text in [info.finds, info.why, info.mend, info.bad, info.good] {
                assert!(text.len() > 15, "{} explains too little: {text:?}", info.name);
            }
        }
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), REGISTRY.len());
    }
}
