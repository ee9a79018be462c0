//! `signpost explain`.

use super::table::{Table, cell, clean, wrap};
use super::{BAD, COMMAND, FAINT, GOOD, STRONG, paint, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::check::CheckInfo;

/// One check, for people.
pub fn one(info: &CheckInfo) -> String {
    let mut out = format!("{}  {}\n\n", paint(STRONG, info.name), paint(FAINT, info.severity.name()));
    let table = info.table();
    for text in [&table.finds, &table.why, &table.mend] {
        for line in wrap(text, width().min(90)) {
            out += &format!("{line}\n");
        }
        out.push('\n');
    }
    for (label, style, example) in [("Instead of", BAD, table.bad()), ("write", GOOD, table.good())] {
        out += &format!("{}\n\n", paint(style, label));
        for line in example.lines() {
            out += format!("    {}", clean(line)).trim_end();
            out.push('\n');
        }
        out.push('\n');
    }
    let setting = format!("\"{}\" = \"off\"", info.name);
    out += &format!(
        "To silence it, in signpost.toml under {}: {}\n",
        paint(COMMAND, "[lint.checks]"),
        paint(COMMAND, setting)
    );
    out
}

/// The checks, for people.
pub fn list(checks: &[&CheckInfo]) -> String {
    let mut table = Table::new(2);
    for info in checks {
        table.row(vec![
            cell(info.name, STRONG),
            cell(info.severity.name(), FAINT),
            cell(info.table().finds, Style::new()),
        ]);
    }
    let mut out = String::new();
    table.render(width(), &mut out);
    out += &format!("\n{} teaches one of them\n", paint(COMMAND, "signpost explain CHECK"));
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct ExplainJson {
    schema: &'static str,
    checks: Vec<CheckJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct CheckJson {
    check: &'static str,
    severity: &'static str,
    finds: String,
    why: String,
    mend: String,
    bad: String,
    good: String,
}

/// For programs: `signpost.explain/1`.
pub fn json(checks: &[&CheckInfo]) -> ExplainJson {
    let check = |info: &&CheckInfo| {
        let table = info.table();
        let (bad, good) = (table.bad(), table.good());
        let (check, severity) = (info.name, info.severity.name());
        CheckJson { check, severity, finds: table.finds, why: table.why, mend: table.mend, bad, good }
    };
    ExplainJson { schema: "signpost.explain/1", checks: checks.iter().map(check).collect() }
}
