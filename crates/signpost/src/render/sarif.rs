//! SARIF 2.1.0, for tools that show findings beside the code.
//!
//! Format: <https://docs.oasis-open.org/sarif/sarif/v2.1.0/sarif-v2.1.0.html>. The output is held to the
//! published schema by a test.

use super::lint::positions;
use serde_json::{Value, json};
use signpost_core::base::repo_path::{Location, Side};
use signpost_core::check::{self, Finding};
use signpost_core::config::Severity;
use signpost_core::files::TreeError;
use signpost_core::project::workspace::Workspace;
use std::ops::Range;

fn level(severity: Severity) -> &'static str {
    // The format has the same words.
    severity.name()
}

/// One log with one run.
pub fn log(workspace: &Workspace<'_>, findings: &[Finding], unread: &[TreeError]) -> Value {
    let checks: Vec<_> = check::all().collect();
    let rules: Vec<Value> = checks
        .iter()
        .map(|info| {
            let table = info.table();
            let help = format!("{}\n\nInstead of\n\n{}\nwrite\n\n{}", table.mend, table.bad(), table.good());
            json!({
                "id": info.name,
                "shortDescription": { "text": table.finds },
                "fullDescription": { "text": table.why },
                "help": { "text": help },
                "defaultConfiguration": { "level": level(info.severity) },
            })
        })
        .collect();
    let results: Vec<Value> = findings
        .iter()
        .map(|finding| {
            let number = checks.iter().position(|info| info.name == finding.check);
            let text = match finding.help.as_str() {
                "" => finding.message.clone(),
                help => format!("{} ({help})", finding.message),
            };
            let related: Vec<Value> = finding
                .related
                .iter()
                .map(|one| {
                    let mut place = location(workspace, &one.location, &one.span);
                    place["message"] = json!({ "text": one.message });
                    place
                })
                .collect();
            let mut result = json!({
                "ruleId": finding.check,
                "ruleIndex": number,
                "level": level(finding.severity),
                "message": { "text": text },
                "locations": [location(workspace, &finding.location, &finding.span)],
                "properties": { "assistants": finding.assistants, "witness": finding.witness.as_ref().map(ToString::to_string) },
            });
            if !related.is_empty() {
                result["relatedLocations"] = related.into();
            }
            if !finding.fix.is_empty() {
                result["fixes"] = json!([fix(workspace, finding)]);
            }
            result
        })
        .collect();
    let notifications: Vec<Value> = unread
        .iter()
        .map(|error| {
            let place = json!({ "physicalLocation": { "artifactLocation": artifact(error.path()) } });
            json!({ "level": "error", "message": { "text": error.to_string() }, "locations": [place] })
        })
        .collect();
    json!({
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": {
                "name": "signpost",
                "version": env!("CARGO_PKG_VERSION"),
                "rules": rules,
            } },
            "columnKind": "unicodeCodePoints",
            "results": results,
            "invocations": [{
                "executionSuccessful": notifications.is_empty(),
                "toolExecutionNotifications": notifications,
            }],
        }],
    })
}

fn artifact(location: &Location) -> Value {
    let encoded: String = location.path.as_str().chars().map(encode).collect();
    match location.side {
        Side::Root => json!({ "uri": encoded, "uriBaseId": "ROOT" }),
        Side::Home => json!({ "uri": encoded, "uriBaseId": "HOME" }),
    }
}

/// What may not stand in a URI as it is.
fn encode(c: char) -> String {
    if c.is_ascii_alphanumeric() || "-._~/!$&'()*+,;=@".contains(c) {
        return c.to_string();
    }
    let mut bytes = [0; 4];
    c.encode_utf8(&mut bytes).bytes().map(|byte| format!("%{byte:02X}")).collect()
}

fn region(workspace: &Workspace<'_>, location: &Location, span: &Range<usize>) -> Value {
    let (start, end) = positions(workspace, location, span);
    json!({ "startLine": start.line, "startColumn": start.column, "endLine": end.line, "endColumn": end.column })
}

fn location(workspace: &Workspace<'_>, location: &Location, span: &Range<usize>) -> Value {
    let mut place = json!({ "artifactLocation": artifact(location) });
    if *span != (0..0) {
        place["region"] = region(workspace, location, span);
    }
    json!({ "physicalLocation": place })
}

fn fix(workspace: &Workspace<'_>, finding: &Finding) -> Value {
    let replacements: Vec<Value> = finding
        .fix
        .iter()
        .map(|edit| {
            json!({
                "deletedRegion": region(workspace, &finding.location, &edit.span),
                "insertedContent": { "text": edit.text },
            })
        })
        .collect();
    json!({ "artifactChanges": [{ "artifactLocation": artifact(&finding.location), "replacements": replacements }] })
}
