//! `signpost lint`.

use super::{BAD, COMMAND, FAINT, GOOD, STRONG, paint, snippet};
use rustc_hash::{FxHashMap, FxHashSet};
use serde::Serialize;
use signpost_core::base::repo_path::Location;
use signpost_core::base::wording::{Position, count};
use signpost_core::change::publish::Content;
use signpost_core::change::publish::changes::Change;
use signpost_core::check::Finding;
use signpost_core::config::Severity;
use signpost_core::inspect::survey::Survey;
use signpost_core::project::guidance;
use signpost_core::project::workspace::Workspace;
use std::ops::Range;

fn number(findings: &[Finding], severity: Severity) -> usize {
    findings.iter().filter(|finding| finding.severity == severity).count()
}

/// What is shown.
pub struct Shown<'a, 't> {
    /// The project.
    pub workspace: &'a Workspace<'t>,
    /// What was looked at.
    pub survey: &'a Survey<'a>,
    /// The findings.
    pub findings: &'a [Finding],
    /// What a baseline did.
    pub note: Option<&'a str>,
}

/// From so many on, findings that say the same are said once.
const SAID_ONCE: usize = 4;

/// `2 errors, 1 warning`; `None` where nothing was found.
pub fn summary(findings: &[Finding]) -> Option<String> {
    let all: Vec<String> = [Severity::Error, Severity::Warning, Severity::Note]
        .into_iter()
        .map(|severity| (number(findings, severity), severity.name()))
        .filter(|(number, _)| *number > 0)
        .map(|(number, name)| count(number, name))
        .collect();
    (!all.is_empty()).then(|| all.join(", "))
}

/// For people: by file, the same mistake in many places once.
pub fn text(shown: &Shown<'_, '_>) -> String {
    if shown.findings.is_empty() { nothing_found(shown) } else { by_file(shown) + &closing(shown) }
}

fn by_file(shown: &Shown<'_, '_>) -> String {
    let Shown { workspace, findings, .. } = *shown;
    let mut out = String::new();
    let mut same: FxHashMap<(&str, &str, &str), Vec<&Finding>> = FxHashMap::default();
    for finding in findings {
        same.entry((finding.check, &finding.message, &finding.help)).or_default().push(finding);
    }
    let mut said: FxHashSet<*const Finding> = FxHashSet::default();
    let mut file: Option<&Location> = None;
    for (at, finding) in findings.iter().enumerate() {
        if said.contains(&std::ptr::from_ref(finding)) {
            continue;
        }
        if file != Some(&finding.location) {
            file = Some(&finding.location);
            // Findings are sorted by file.
            let before = findings[..at].iter().rev().take_while(|earlier| earlier.location == finding.location).count();
            let more = findings[at..].iter().take_while(|later| later.location == finding.location).count();
            let counts = summary(&findings[at - before..at + more]).unwrap_or_default();
            out += &format!(
                "{}  {}\n\n",
                paint(STRONG.fg_color(super::FILE.get_fg_color()), super::table::clean(&finding.location.to_string())),
                paint(FAINT, counts)
            );
        }
        let alike = &same[&(finding.check, finding.message.as_str(), finding.help.as_str())];
        out += &snippet::finding(workspace, finding);
        out.push('\n');
        if alike.len() >= SAID_ONCE {
            let line = |other: &Finding| positions(workspace, &other.location, &other.span).0.line;
            let places: Vec<String> =
                alike[1..].iter().map(|other| format!("{}:{}", other.location, line(other))).collect();
            let list = format!("The same in {}: {}", count(places.len(), "more place"), places.join(", "));
            for line in super::table::wrap(&list, super::width()) {
                out += &format!("{}\n", paint(FAINT, super::table::clean(&line)));
            }
            said.extend(alike.iter().map(|other| std::ptr::from_ref(*other)));
        }
        out.push('\n');
    }
    out
}

/// What was looked at: `12 instruction files for 3 assistants`.
fn looked_at(shown: &Shown<'_, '_>) -> String {
    let assistants = &shown.survey.assistants;
    let files: usize = assistants.iter().map(|assistant| assistant.rules.len()).sum();
    let guided = assistants.iter().any(|assistant| assistant.profile.name == guidance::PROFILE);
    let number = assistants.len() - usize::from(guided);
    format!("{} for {}", count(files, "instruction file"), count(number, "assistant"))
}

fn nothing_found(shown: &Shown<'_, '_>) -> String {
    let note = shown.note.map_or(String::new(), |note| format!("{note}\n"));
    if shown.survey.assistants.iter().all(|assistant| assistant.rules.is_empty()) {
        let survey = paint(COMMAND, "signpost survey");
        return format!("No instruction files here, so nothing to check. {survey} says how to begin.\n{note}");
    }
    let nothing = paint(GOOD, if shown.note.is_some() { "Nothing new" } else { "Nothing found" });
    format!("{nothing} in {}\n{note}", looked_at(shown))
}

/// How much was found, and what to do next.
fn closing(shown: &Shown<'_, '_>) -> String {
    let findings = shown.findings;
    let mut places: Vec<&Location> = findings.iter().map(|finding| &finding.location).collect();
    places.dedup();
    let all = summary(findings).unwrap_or_default();
    let mut out = format!(
        "{} in {} (read: {})\n",
        paint(STRONG.fg_color(BAD.get_fg_color()), all),
        count(places.len(), "file"),
        looked_at(shown)
    );
    if let Some(note) = shown.note {
        out += &format!("{note}\n");
    }
    let fixable = findings.iter().filter(|finding| finding.is_fixable()).count();
    if fixable > 0 {
        out += &format!(
            "{} mends {fixable} of them; with {} it shows how\n",
            paint(COMMAND, "signpost lint --fix"),
            paint(COMMAND, "--dry-run")
        );
    }
    // What is most severe, and there of the most, is what to read up first.
    let mut checks: Vec<(Severity, &str, usize)> = Vec::new();
    for finding in findings {
        match checks.iter_mut().find(|(_, name, _)| *name == finding.check) {
            Some((severity, _, number)) => {
                *number += 1;
                *severity = finding.severity.max(*severity);
            }
            None => checks.push((finding.severity, finding.check, 1)),
        }
    }
    checks.sort_by_key(|(severity, _, number)| std::cmp::Reverse((*severity, *number)));
    let first = checks.first().map_or("", |(_, name, _)| name);
    out + &format!("{} teaches a check, with examples\n", paint(COMMAND, format!("signpost explain {first}")))
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct LintJson {
    schema: &'static str,
    findings: Vec<FindingJson>,
    summary: SummaryJson,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct SummaryJson {
    error: usize,
    warning: usize,
    note: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct FindingJson {
    check: &'static str,
    severity: &'static str,
    path: String,
    line: usize,
    column: usize,
    end_line: usize,
    end_column: usize,
    message: String,
    help: String,
    fixable: bool,
    assistants: Vec<String>,
    related: Vec<RelatedJson>,
    witness: Option<String>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct RelatedJson {
    path: String,
    line: usize,
    column: usize,
    message: String,
}

/// Where some bytes begin and end; the first line for a file as a whole.
pub fn positions(workspace: &Workspace<'_>, location: &Location, span: &Range<usize>) -> (Position, Position) {
    let first = Position { line: 1, column: 1 };
    if span.start == 0 && span.end == 0 {
        return (first, first);
    }
    let document = workspace.document(location);
    let at = |byte| document.lines_index().position(&document.text, byte);
    (at(span.start), at(span.end))
}

/// For programs: `signpost.lint/1`.
pub fn json(workspace: &Workspace<'_>, findings: &[Finding]) -> LintJson {
    let one = |finding: &Finding| {
        let (start, end) = positions(workspace, &finding.location, &finding.span);
        FindingJson {
            check: finding.check,
            severity: finding.severity.name(),
            path: finding.location.to_string(),
            line: start.line,
            column: start.column,
            end_line: end.line,
            end_column: end.column,
            message: finding.message.clone(),
            help: finding.help.clone(),
            fixable: finding.is_fixable(),
            assistants: finding.assistants.clone(),
            related: finding
                .related
                .iter()
                .map(|related| {
                    let (at, _) = positions(workspace, &related.location, &related.span);
                    let (path, message) = (related.location.to_string(), related.message.clone());
                    RelatedJson { path, line: at.line, column: at.column, message }
                })
                .collect(),
            witness: finding.witness.as_ref().map(ToString::to_string),
        }
    };
    LintJson {
        schema: "signpost.lint/1",
        findings: findings.iter().map(one).collect(),
        summary: SummaryJson {
            error: number(findings, Severity::Error),
            warning: number(findings, Severity::Warning),
            note: number(findings, Severity::Note),
        },
    }
}

fn texts(change: &Change) -> (String, String) {
    let old = String::from_utf8_lossy(change.old.as_deref().unwrap_or_default()).into_owned();
    let new = match &change.new {
        Some(Content::Text(text)) => text.clone(),
        _ => String::new(),
    };
    (old, new)
}

/// What mending would change in one file.
pub fn mend(change: &Change) -> String {
    let (old, new) = texts(change);
    super::diff::unified(change.path.as_str(), &old, &new)
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct MendsJson {
    schema: &'static str,
    findings: usize,
    files: Vec<MendJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct MendJson {
    path: String,
    old: String,
    new: String,
}

/// For programs: `signpost.mend/1`.
pub fn mends_json(findings: usize, changes: &[Change]) -> MendsJson {
    let one = |change: &Change| {
        let (old, new) = texts(change);
        MendJson { path: change.path.to_string(), old, new }
    };
    MendsJson { schema: "signpost.mend/1", findings, files: changes.iter().map(one).collect() }
}
