//! `signpost lint` for logs and for pages.

use super::lint::{Shown, positions, summary};
use crate::exit::Failure;
use crate::options::FormatArg;
use signpost_core::check::Finding;
use signpost_core::files::TreeError;
use signpost_core::project::workspace::Workspace;

/// Prints the findings in any format but JSON, which every command has. `unread` is what could not be read.
///
/// # Errors
/// Nobody takes the output.
pub fn print(format: FormatArg, shown: &Shown<'_, '_>, unread: &[TreeError]) -> Result<(), Failure> {
    match format {
        FormatArg::Lines => super::print(&lines(shown.workspace, shown.findings)),
        FormatArg::Markdown => super::print(&markdown(shown)),
        FormatArg::Sarif => super::print_json(&super::sarif::log(shown.workspace, shown.findings, unread)),
        FormatArg::Text | FormatArg::Json | FormatArg::Prompt => super::print(&super::lint::text(shown)),
    }
}

/// `path:line:column: severity: message [check]`, one line a finding.
fn lines(workspace: &Workspace<'_>, findings: &[Finding]) -> String {
    let mut out = String::new();
    for finding in findings {
        let (at, _) = positions(workspace, &finding.location, &finding.span);
        let help = if finding.help.is_empty() { String::new() } else { format!(" ({})", finding.help) };
        let line = format!(
            "{}:{}:{}: {}: {}{help} [{}]",
            finding.location,
            at.line,
            at.column,
            finding.severity.name(),
            finding.message,
            finding.check
        );
        out += &super::table::clean(&line).replace(['\n', '\r'], " ");
        out.push('\n');
    }
    out
}

/// A table, the most severe first.
fn markdown(shown: &Shown<'_, '_>) -> String {
    let mut out =
        format!("### Instruction files: {}\n", summary(shown.findings).unwrap_or_else(|| "nothing found".to_owned()));
    if let Some(note) = shown.note {
        out += &format!("\n{}\n", cell(note));
    }
    if shown.findings.is_empty() {
        return out;
    }
    out += "\n| | Where | What | Check |\n|---|---|---|---|\n";
    let mut sorted: Vec<&Finding> = shown.findings.iter().collect();
    sorted.sort_by_key(|finding| std::cmp::Reverse(finding.severity));
    for finding in sorted {
        let (at, _) = positions(shown.workspace, &finding.location, &finding.span);
        let help = if finding.help.is_empty() { String::new() } else { format!("<br>{}", cell(&finding.help)) };
        out += &format!(
            "| {} | `{}:{}` | {}{help} | `{}` |\n",
            finding.severity.name(),
            cell(&finding.location.to_string()),
            at.line,
            cell(&finding.message),
            finding.check
        );
    }
    out
}

/// Text that breaks no table.
fn cell(text: &str) -> String {
    let plain = super::table::clean(text).replace(['\n', '\r'], " ");
    plain.replace('\\', "\\\\").replace('|', "\\|").replace('<', "&lt;").replace("![", "!\\[")
}
