//! The labelled sets: how often checks are right. The figures are printed (`cargo test labelled --
//! --nocapture`) and stated in docs/lint.md; a part of each set is not looked at while checks are changed.

#![allow(clippy::unwrap_used)]

use signpost_core::check::Finding;
use signpost_core::files::MemoryTree;

fn findings(tree: &MemoryTree) -> Vec<Finding> {
    crate::common::lint(tree, |_, findings| findings)
}

/// The cases of one part: fields cut at bars.
fn cases(text: &str, part: &str) -> Vec<Vec<String>> {
    let mut here = "";
    let mut cases = Vec::new();
    for line in text.lines() {
        match line.strip_prefix("== ") {
            Some(name) => here = name,
            None if here == part && !line.is_empty() && !line.starts_with('#') => {
                cases.push(
                    line.splitn(if line.starts_with(['+', '-']) && text.starts_with("# Pairs") { 3 } else { 2 }, " | ")
                        .map(str::to_owned)
                        .collect(),
                );
            }
            None => {}
        }
    }
    assert!(cases.len() > 20, "{part}: {}", cases.len());
    cases
}

#[derive(Default)]
struct Score {
    right: usize,
    false_alarms: Vec<String>,
    missed: Vec<String>,
}

impl Score {
    fn add(&mut self, wanted: bool, found: bool, case: &str) {
        match (wanted, found) {
            (true, true) => self.right += 1,
            (true, false) => self.missed.push(case.to_owned()),
            (false, true) => self.false_alarms.push(case.to_owned()),
            (false, false) => {}
        }
    }

    fn precision(&self) -> f64 {
        self.right as f64 / (self.right + self.false_alarms.len()).max(1) as f64
    }

    fn recall(&self) -> f64 {
        self.right as f64 / (self.right + self.missed.len()).max(1) as f64
    }

    fn report(&self, name: &str, part: &str) {
        println!("{name}, {part}: precision {:.3}, recall {:.3}", self.precision(), self.recall());
        // What was missed in the held part is not shown, so that nobody tunes on it by chance.
        if part == "tuned" || std::env::var_os("SHOW_HELD").is_some() {
            self.false_alarms.iter().for_each(|case| println!("  false alarm: {case}"));
            self.missed.iter().for_each(|case| println!("  missed: {case}"));
        }
    }
}

/// All that was looked at while checks were written is right; of the rest, as much as is given, which is what was measured.
fn check(name: &str, precision: f64, recall: f64, judge: impl Fn(&[String], &mut Score)) {
    let text = std::fs::read_to_string(format!("{}/tests/labelled/{name}.txt", env!("CARGO_MANIFEST_DIR"))).unwrap();
    for part in ["tuned", "held"] {
        let mut score = Score::default();
        cases(&text, part).iter().for_each(|case| judge(case, &mut score));
        score.report(name, part);
        let (least_precision, least_recall) = if part == "tuned" { (1.0, 1.0) } else { (precision, recall) };
        assert!(score.precision() >= least_precision, "{name}, {part}: precision {:.3}", score.precision());
        assert!(score.recall() >= least_recall, "{name}, {part}: recall {:.3}", score.recall());
    }
}

const QUILL: &str =
    "name = \"quill\"\ntitle = \"Quill\"\n[[place]]\nid = \"lore\"\nlevel = \"project\"\nfiles = [\".quill/*.md\"]\n";

#[test]
fn contradictions() {
    check("contradictions", 1.0, 0.9, |case, score| {
        let [label, one, other] = case else { panic!("{case:?}") };
        let tree = MemoryTree::new()
            .with("guidance/profiles/quill.toml", QUILL)
            .with(".quill/a.md", format!("- {one}\n"))
            .with(".quill/b.md", format!("- {other}\n"))
            .with("src/a.ts", "");
        let found: Vec<Finding> =
            findings(&tree).into_iter().filter(|one| one.check == "consistency/contradiction" && !one.likely).collect();
        for one in &found {
            assert_eq!(one.related.len(), 1, "{case:?}");
            assert!(one.witness.is_some(), "{case:?}");
        }
        score.add(label == "+", !found.is_empty(), &format!("{one} / {other}"));
    });
}

#[test]
fn safety() {
    check("safety", 0.96, 0.97, |case, score| {
        let [label, text] = case else { panic!("{case:?}") };
        let text = if text.starts_with("<!--") { format!("{text}\n") } else { format!("- {text}\n") };
        let tree = MemoryTree::new().with("AGENTS.md", text.clone()).with("src/a.ts", "");
        let found: Vec<Finding> = findings(&tree).into_iter().filter(|one| one.check.starts_with("safety/")).collect();
        let wanted = label != "-";
        let right =
            if wanted { found.iter().any(|one| one.check == format!("safety/{label}")) } else { !found.is_empty() };
        score.add(
            wanted,
            right,
            &format!("{label}: {text} {:?}", found.iter().map(|one| one.check).collect::<Vec<_>>()),
        );
    });
}

/// A repository that states many things.
fn sample() -> MemoryTree {
    MemoryTree::new()
        .with(".editorconfig", "root = true\n[*]\nindent_style = space\nindent_size = 4\nend_of_line = lf\n[*.ts]\nindent_size = 2\n")
        .with(".nvmrc", "20.11.0\n")
        .with(".gitignore", "dist/\ntarget/\n.env\n")
        .with("Makefile", "check:\n\ttrue\n")
        .with("justfile", "build:\n    true\n")
        .with("rust-toolchain.toml", "[toolchain]\nchannel = \"1.85.0\"\n")
        .with("rustfmt.toml", "max_width = 100\n")
        .with("Cargo.toml", "[package]\nname = \"core\"\nedition = \"2024\"\n[dependencies]\nthiserror = \"2\"\nserde = \"1\"\n")
        .with("package.json", "{\"scripts\": {\"lint\": \"x\", \"test\": \"x\"}, \"dependencies\": {\"react\": \"^18.2.0\"}, \"devDependencies\": {\"vitest\": \"^2.0.0\", \"typescript\": \"^5.4.0\"}}\n")
        .with("pnpm-lock.yaml", "lockfileVersion: '9.0'\npackages:\n\n  react@18.2.0:\n    x: y\n\n  typescript@5.4.5:\n    x: y\n")
        .with(".prettierrc", "{\"singleQuote\": true, \"semi\": false}\n")
        .with("api/pyproject.toml", "[project]\nname = \"api\"\nrequires-python = \">=3.11\"\ndependencies = [\"fastapi>=0.110\"]\n[tool.ruff]\nline-length = 100\n")
        .with("api/uv.lock", "[[package]]\nname = \"fastapi\"\nversion = \"0.111.0\"\n")
        .with("api/app/main.py", "")
        .with("api/app/routes.py", "")
        .with("web/src/screens/Home.tsx", "")
        .with("web/src/main.ts", "")
        .with("src/main.rs", "")
        .with("scripts/import.py", "")
        .with("docs/words.md", "")
}

#[test]
fn facts() {
    check("facts", 1.0, 0.96, |case, score| {
        let [label, text] = case else { panic!("{case:?}") };
        let tree = sample().with("AGENTS.md", format!("- {text}\n"));
        let found: Vec<Finding> = findings(&tree).into_iter().filter(|one| one.check.starts_with("facts/")).collect();
        let wanted = label != "-";
        let right =
            if wanted { found.iter().any(|one| one.check == format!("facts/{label}")) } else { !found.is_empty() };
        score.add(
            wanted,
            right,
            &format!("{label}: {text} {:?}", found.iter().map(|one| one.check).collect::<Vec<_>>()),
        );
        // One mention is one finding.
        let mut spans: Vec<_> = found.iter().map(|one| one.span.clone()).collect();
        spans.dedup();
        assert_eq!(spans.len(), found.len(), "{text}");
    });
}
