//! Sets that were written before what they measure, and are not looked at while it is changed: only figures are printed
//! (`cargo test closed -- --nocapture`), and a change that lets them fall fails.

#![allow(clippy::unwrap_used)]

use signpost_core::base::repo_path::RepoPath;
use signpost_core::check::doubts::{Which, doubts};
use signpost_core::check::{Finding, run};
use signpost_core::config::Severity;
use signpost_core::files::MemoryTree;

fn closed(name: &str) -> String {
    std::fs::read_to_string(format!("{}/tests/labelled/closed/{name}.txt", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

/// Counts what is right, found and wanted.
#[derive(Default)]
struct Count {
    right: usize,
    found: usize,
    wanted: usize,
}

impl Count {
    fn add(&mut self, found: bool, wanted: bool) {
        self.found += usize::from(found);
        self.wanted += usize::from(wanted);
        self.right += usize::from(found && wanted);
    }

    fn check(&self, name: &str, precision: f64, recall: f64) {
        let p = self.right as f64 / self.found.max(1) as f64;
        let r = self.right as f64 / self.wanted.max(1) as f64;
        println!(
            "{name}: precision {p:.3}, recall {r:.3} ({} of {} found, {} wanted)",
            self.right, self.found, self.wanted
        );
        assert!(p >= precision, "{name}: precision {p:.3} has fallen below {precision}");
        assert!(r >= recall, "{name}: recall {r:.3} has fallen below {recall}");
    }
}

#[test]
fn pairs() {
    let [mut sure, mut likely, mut doubted, mut same, mut same_likely]: [Count; 5] = Default::default();
    let text = closed("pairs");
    let mut rows = 0;
    for line in text.lines() {
        let Some((label, rest)) = line.split_once(' ').filter(|(label, _)| ["+", "=", "-"].contains(label)) else {
            continue;
        };
        let (one, other) = rest.split_once(" || ").unwrap();
        rows += 1;
        let item = |text: &str| match text.trim() {
            row if row.starts_with('|') => format!("\n| | |\n|---|---|\n{row}\n\n"),
            words => format!("- {words}\n"),
        };
        let tree = MemoryTree::new().with("AGENTS.md", item(one) + &item(other)).with("src/a.ts", "");
        let (found, possible) = crate::common::with_context(&tree, |context| {
            (run(context), doubts(context, &[] as &[RepoPath], Which::Reported))
        });
        let reported =
            |check: &str, likely: bool| found.iter().any(|one| one.check == check && (likely || !one.likely));
        let (contradicts, repeats) = (label == "+", label == "=");
        sure.add(reported("consistency/contradiction", false), contradicts);
        likely.add(reported("consistency/contradiction", true), contradicts);
        let doubt = possible.iter().any(|one| one.contradiction) || reported("consistency/contradiction", true);
        doubted.add(doubt, contradicts);
        same.add(reported("consistency/repeated", false), repeats);
        same_likely.add(reported("consistency/repeated", true), repeats);
    }
    assert!(rows >= 300, "{rows}");
    sure.check("contradictions, errors", 0.92, 0.31);
    likely.check("contradictions, with notes", 0.93, 0.36);
    doubted.check("contradictions, with doubts", 0.65, 0.59);
    same.check("repeats, warnings", 0.99, 0.39);
    same_likely.check("repeats, with notes", 0.99, 0.39);
}

/// `\n` and `\u{…}` as they are written in strings.
fn unescaped(text: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find('\\') {
        out += &rest[..at];
        let after = &rest[at + 1..];
        if let Some(more) = after.strip_prefix('n') {
            out.push('\n');
            rest = more;
        } else if let Some((digits, more)) = after.strip_prefix("u{").and_then(|more| more.split_once('}')) {
            out.push(char::from_u32(u32::from_str_radix(digits, 16).unwrap()).unwrap());
            rest = more;
        } else {
            out.push('\\');
            rest = after;
        }
    }
    out + rest
}

#[test]
fn safety() {
    let mut count = Count::default();
    let text = closed("safety");
    let rows = text.lines().filter(|line| !line.is_empty() && !line.starts_with('#'));
    let mut number = 0;
    for line in rows {
        let (label, words) = line.split_once(" | ").unwrap();
        number += 1;
        let tree =
            MemoryTree::new().with("AGENTS.md", format!("# Notes\n\n{}\n", unescaped(words))).with("src/a.ts", "");
        let found = crate::common::lint(&tree, |_, found: Vec<Finding>| found);
        let mut checks: Vec<&str> = found.iter().filter_map(|one| one.check.strip_prefix("safety/")).collect();
        checks.sort_unstable();
        checks.dedup();
        count.wanted += usize::from(label != "-");
        count.found += checks.len();
        count.right += usize::from(checks.contains(&label));
    }
    assert!(number >= 100, "{number}");
    count.check("safety", 0.91, 0.95);
}

#[test]
fn facts() {
    let mut count = Count::default();
    let text = closed("facts");
    let repositories: Vec<&str> = text.split("\n== ").skip(1).collect();
    assert!(repositories.len() >= 30);
    for repository in repositories {
        let mut tree = MemoryTree::new();
        let mut wanted: Vec<(String, usize, String)> = Vec::new();
        for file in repository.split("\n--- ").skip(1) {
            let (path, text) = file.split_once('\n').unwrap_or((file, ""));
            let mut kept = String::new();
            for (number, line) in text.lines().enumerate() {
                let plain = match line.split_once(" «") {
                    Some((plain, check)) => {
                        wanted.push((path.to_owned(), number, format!("facts/{}", check.trim_end_matches('»'))));
                        plain
                    }
                    None => line,
                };
                kept += &format!("{plain}\n");
            }
            tree = tree.with(path, kept);
        }
        let found = crate::common::lint(&tree, |workspace, found: Vec<Finding>| {
            let line = |one: &Finding| {
                let document = workspace.document(&one.location);
                document.text[..one.span.start].matches('\n').count()
            };
            let facts = found.iter().filter(|one| one.check.starts_with("facts/") && one.severity > Severity::Note);
            let mut places: Vec<(String, usize, String)> =
                facts.map(|one| (one.location.to_string(), line(one), one.check.to_owned())).collect();
            places.sort();
            places.dedup();
            places
        });
        count.wanted += wanted.len();
        count.found += found.len();
        count.right += found.iter().filter(|one| wanted.contains(one)).count();
    }
    count.check("facts", 0.87, 0.86);
}
