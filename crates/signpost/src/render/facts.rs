//! `signpost survey --facts`.

use super::table::{Table, cell};
use super::{COMMAND, FAINT, FILE, STRONG, paint, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::wording::count;
use signpost_core::facts::{Facts, Listed};

const KINDS: [(&str, &str); 5] = [
    ("package manager", "Package managers"),
    ("version", "Versions"),
    ("command", "Commands"),
    ("style", "Style"),
    ("dependency", "Dependencies"),
];

/// For people: what the repository states, and where.
pub fn text(facts: &Facts<'_>) -> String {
    let all = facts.list();
    if all.is_empty() {
        return "No manifest, lockfile or formatter setting is here, so rules can't be compared with any.\n".to_owned();
    }
    let mut out = String::new();
    for (kind, title) in KINDS {
        let own: Vec<&Listed> = all.iter().filter(|one| one.kind == kind).collect();
        if own.is_empty() {
            continue;
        }
        out += &format!("{}  {}\n", paint(STRONG, title), paint(FAINT, count(own.len(), "fact")));
        let mut table = Table::new(2);
        for one in own {
            let place = format!("{}:{}", one.source.file, one.source.line);
            table.row(vec![
                cell(format!("  {}", one.name), Style::new()),
                cell(&one.value, Style::new()),
                cell(place, FILE),
            ]);
        }
        table.render(width(), &mut out);
        out.push('\n');
    }
    out += &format!("{} compares the rules with these\n", paint(COMMAND, "signpost lint --only facts"));
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct FactsJson {
    schema: &'static str,
    facts: Vec<FactJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct FactJson {
    kind: &'static str,
    name: String,
    value: String,
    path: String,
    line: usize,
}

/// For programs: `signpost.facts/1`.
pub fn json(facts: &Facts<'_>) -> FactsJson {
    let one = |fact: Listed| FactJson {
        kind: fact.kind,
        name: fact.name,
        value: fact.value,
        path: fact.source.file.to_string(),
        line: fact.source.line,
    };
    FactsJson { schema: "signpost.facts/1", facts: facts.list().into_iter().map(one).collect() }
}
