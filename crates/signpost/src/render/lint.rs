//! `signpost lint`.

use super::{BAD, COMMAND, GOOD, STRONG, paint, snippet};
use serde::Serialize;
use signpost_core::check::Finding;
use signpost_core::config::Severity;
use signpost_core::repo_path::Location;
use signpost_core::survey::Survey;
use signpost_core::text::{Position, count};
use signpost_core::workspace::Workspace;
use std::ops::Range;

fn number(findings: &[Finding], severity: Severity) -> usize {
    findings.iter().filter(|finding| finding.severity == severity).count()
}

/// For people.
pub fn text(workspace: &Workspace<'_>, survey: &Survey<'_>, findings: &[Finding]) -> String {
    let mut out = String::new();
    for finding in findings {
        out += &snippet::finding(workspace, finding);
        out += "\n\n";
    }
    let files: usize = survey.assistants.iter().map(|assistant| assistant.rules.len()).sum();
    let looked = format!("{} for {}", count(files, "instruction file"), count(survey.assistants.len(), "assistant"));
    if findings.is_empty() {
        return if files == 0 {
            format!(
                "No instruction files here, so nothing to check. {} says how to begin.\n",
                paint(COMMAND, "signpost survey")
            )
        } else {
            format!("{} in {looked}\n", paint(GOOD, "Nothing found"))
        };
    }
    let mut places: Vec<&Location> = findings.iter().map(|finding| &finding.location).collect();
    places.dedup();
    let all: Vec<String> = [Severity::Error, Severity::Warning, Severity::Note]
        .into_iter()
        .map(|severity| (number(findings, severity), severity.name()))
        .filter(|(number, _)| *number > 0)
        .map(|(number, name)| count(number, name))
        .collect();
    out += &format!(
        "{} in {} (read: {looked})\n",
        paint(STRONG.fg_color(BAD.get_fg_color()), all.join(", ")),
        count(places.len(), "file")
    );
    let mut checks: Vec<(&str, usize)> = Vec::new();
    for finding in findings {
        match checks.iter_mut().find(|(name, _)| *name == finding.check) {
            Some((_, number)) => *number += 1,
            None => checks.push((finding.check, 1)),
        }
    }
    checks.sort_by_key(|(_, number)| std::cmp::Reverse(*number));
    let first = checks.first().map_or("", |(name, _)| name);
    out += &format!("{} teaches a check, with examples\n", paint(COMMAND, format!("signpost explain {first}")));
    out
}

#[derive(Serialize)]
pub struct LintJson {
    schema: &'static str,
    findings: Vec<FindingJson>,
    summary: SummaryJson,
}

#[derive(Serialize)]
struct SummaryJson {
    error: usize,
    warning: usize,
    note: usize,
}

#[derive(Serialize)]
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
struct RelatedJson {
    path: String,
    line: usize,
    column: usize,
    message: String,
}

fn positions(workspace: &Workspace<'_>, location: &Location, span: &Range<usize>) -> (Position, Position) {
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
            fixable: false,
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
