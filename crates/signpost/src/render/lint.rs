//! `signpost lint`.

use super::table::{Table, cell, cell_with_tail};
use super::{BAD, COMMAND, FAINT, GOOD, STRONG, paint, snippet};
use anstyle::Style;
use rustc_hash::FxHashMap;
use serde::Serialize;
use signpost_core::base::repo_path::Location;
use signpost_core::base::wording::{Position, count, group, shorten};
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
    /// Whether notes are drawn as the others are.
    pub notes: bool,
}

/// So many places are listed where the same is found.
const MOST_PLACES: usize = 8;

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

/// For people: the worst first, and the same in several places once.
pub fn text(shown: &Shown<'_, '_>) -> String {
    if shown.findings.is_empty() { nothing_found(shown) } else { worst_first(shown) + &closing(shown) }
}

/// Findings that say the same, in the order of their places.
fn alike<'f>(findings: impl Iterator<Item = &'f Finding>) -> Vec<Vec<&'f Finding>> {
    let mut number_of: FxHashMap<(&str, &str), usize> = FxHashMap::default();
    let mut all: Vec<Vec<&Finding>> = Vec::new();
    for finding in findings {
        let number = *number_of.entry((finding.check, &finding.message)).or_insert(all.len());
        match all.get_mut(number) {
            Some(same) => same.push(finding),
            None => all.push(vec![finding]),
        }
    }
    all
}

fn worst_first(shown: &Shown<'_, '_>) -> String {
    let mut out = String::new();
    for severity in [Severity::Error, Severity::Warning, Severity::Note] {
        let mut own = alike(shown.findings.iter().filter(|finding| finding.severity == severity));
        if own.is_empty() {
            continue;
        }
        // What could do harm comes before what is only wrong.
        own.sort_by_key(|same| !same[0].check.starts_with("safety/"));
        let heads = count(own.iter().map(Vec::len).sum(), severity.name());
        out += &paint(STRONG.fg_color(super::FILE.get_fg_color()), heads);
        if severity == Severity::Note && !shown.notes {
            out += &format!("  {}", paint(FAINT, "signpost lint --notes draws them"));
            out += "\n\n";
            lines(shown.workspace, &own, &mut out);
            out.push('\n');
            continue;
        }
        out += "\n\n";
        for same in own {
            out += &snippet::finding(shown.workspace, same[0]);
            out.push('\n');
            more_places(shown.workspace, &same[1..], &mut out);
            out.push('\n');
        }
    }
    out
}

/// The other places of the same mistake, with the words that stand there.
fn more_places(workspace: &Workspace<'_>, others: &[&Finding], out: &mut String) {
    if others.is_empty() {
        return;
    }
    *out += &format!("  {}\n", paint(FAINT, format!("The same in {}:", count(others.len(), "more place"))));
    let mut table = Table::new(4);
    for other in others.iter().take(MOST_PLACES) {
        table.row(vec![cell(place(workspace, other), super::FILE), cell(words(workspace, other), FAINT)]);
    }
    table.render(super::width(), out);
    if others.len() > MOST_PLACES {
        let rest = format!("and {} more; --format lines lists them", group(others.len() - MOST_PLACES));
        *out += &format!("    {}\n", paint(FAINT, rest));
    }
}

/// One line a finding.
fn lines(workspace: &Workspace<'_>, all: &[Vec<&Finding>], out: &mut String) {
    let mut table = Table::new(2);
    for same in all {
        let first = same[0];
        let words = words(workspace, first);
        let quoted = first.message.contains(words.trim_matches(['“', '”']));
        let said =
            if words.is_empty() || quoted { first.message.clone() } else { format!("{}: {words}", first.message) };
        let more = match same.len() {
            1 => String::new(),
            number => format!(" and {}", count(number - 1, "more place")),
        };
        let tail = format!("{more}  {}", first.check);
        table.row(vec![cell(place(workspace, first), super::FILE), cell_with_tail(said, Style::new(), &tail, FAINT)]);
    }
    table.render(super::width(), out);
}

/// `AGENTS.md:12`, or the file alone where it is about the file.
fn place(workspace: &Workspace<'_>, finding: &Finding) -> String {
    if finding.span.start == 0 && finding.span.end == 0 {
        return finding.location.to_string();
    }
    format!("{}:{}", finding.location, positions(workspace, &finding.location, &finding.span).0.line)
}

/// So many characters of the words at fault are shown in a line.
const MOST_WORDS_SHOWN: usize = 60;

/// The words at fault.
fn words(workspace: &Workspace<'_>, finding: &Finding) -> String {
    let document = workspace.document(&finding.location);
    let words = document.text.get(finding.span.clone()).unwrap_or_default();
    let words = snippet::shown(&shorten(words, MOST_WORDS_SHOWN));
    if words.trim().is_empty() { String::new() } else { format!("“{words}”") }
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
    let guessed = findings.iter().filter(|finding| finding.guessed).count();
    if guessed > 0 {
        let rest = if guessed == 1 { "1 of them rests".to_owned() } else { format!("{} of them rest", group(guessed)) };
        out += &format!(
            "{rest} on what an assistant is guessed to read: {} keeps the guess\n",
            paint(COMMAND, "signpost profile draft --write")
        );
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
    guessed: bool,
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
            guessed: finding.guessed,
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
