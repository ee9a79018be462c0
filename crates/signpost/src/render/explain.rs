//! `signpost explain`.

use super::table::{Table, cell, wrap};
use super::{BAD, COMMAND, FAINT, GOOD, STRONG, paint, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::check::CheckInfo;

/// One check, for people.
pub fn one(info: &CheckInfo) -> String {
    let mut out = format!("{}  {}\n\n", paint(STRONG, info.name), paint(FAINT, info.severity.name()));
    for text in [info.finds, info.why, info.mend] {
        for line in wrap(text, width().min(90)) {
            out += &format!("{line}\n");
        }
        out.push('\n');
    }
    for (label, style, example) in [("Instead of", BAD, info.bad), ("write", GOOD, info.good)] {
        out += &format!("{}\n\n", paint(style, label));
        for line in example.lines() {
            out += &format!("    {line}\n");
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
        table.row(vec![cell(info.name, STRONG), cell(info.severity.name(), FAINT), cell(info.finds, Style::new())]);
    }
    let mut out = String::new();
    table.render(width(), &mut out);
    out += &format!("\n{} teaches one of them\n", paint(COMMAND, "signpost explain CHECK"));
    out
}

#[derive(Serialize)]
pub struct ExplainJson {
    schema: &'static str,
    checks: Vec<CheckJson>,
}

#[derive(Serialize)]
struct CheckJson {
    check: &'static str,
    severity: &'static str,
    finds: &'static str,
    why: &'static str,
    mend: &'static str,
    bad: &'static str,
    good: &'static str,
}

/// For programs: `signpost.explain/1`.
pub fn json(checks: &[&CheckInfo]) -> ExplainJson {
    let one = |info: &&CheckInfo| CheckJson {
        check: info.name,
        severity: info.severity.name(),
        finds: info.finds,
        why: info.why,
        mend: info.mend,
        bad: info.bad,
        good: info.good,
    };
    ExplainJson { schema: "signpost.explain/1", checks: checks.iter().map(one).collect() }
}
