//! What a check is. Its name and severity stand beside its code, and the rest in a table of its own: what it finds,
//! why that matters, how to mend it, and cases, which `signpost explain` shows and tests run.

use crate::config::Severity;
use serde::Deserialize;
use std::collections::BTreeMap;

/// What a check is.
#[derive(Debug)]
pub struct CheckInfo {
    /// `group/name`.
    pub name: &'static str,
    /// Unless a finding or a setting says otherwise.
    pub severity: Severity,
    table: &'static str,
}

/// A check, for those who read its findings.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Table {
    /// What it finds, in one line.
    pub finds: String,
    /// Why that matters.
    pub why: String,
    /// How to mend it.
    pub mend: String,
    shown: Option<Shown>,
    /// Projects with and without what it finds, the plainest first.
    #[serde(default)]
    pub case: Vec<Case>,
}

/// An example that takes more than a few lines, told.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Shown {
    bad: String,
    good: String,
}

/// Files by path.
pub type Files = BTreeMap<String, String>;

/// A project with what a check finds, and one, a little different, about which it is silent.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Case {
    /// Where the finding is: `path:line`.
    pub at: String,
    /// How its message begins.
    pub says: String,
    /// Files that are there and say nothing to whoever reads the example.
    #[serde(default)]
    pub around: Files,
    /// Files of both projects.
    #[serde(default)]
    pub both: Files,
    /// Files with what is found.
    pub bad: Files,
    /// Files in their place without.
    pub good: Files,
}

impl CheckInfo {
    pub(in crate::check) const fn new(name: &'static str, severity: Severity, table: &'static str) -> Self {
        CheckInfo { name, severity, table }
    }

    /// The part before the slash.
    pub fn group(&self) -> &'static str {
        self.name.split('/').next().unwrap_or_default()
    }

    /// What its table says.
    pub fn table(&self) -> Table {
        toml::from_str(self.table).expect("a test reads every table")
    }
}

impl Table {
    /// What it finds, as an example.
    pub fn bad(&self) -> String {
        self.example(|shown| &shown.bad, |case| &case.bad)
    }

    /// What it is silent about, likewise.
    pub fn good(&self) -> String {
        self.example(|shown| &shown.good, |case| &case.good)
    }

    fn example(&self, told: impl Fn(&Shown) -> &String, files: impl Fn(&Case) -> &Files) -> String {
        match (&self.shown, self.case.first()) {
            (Some(shown), _) => told(shown).clone(),
            (None, Some(case)) => as_text(files(case), &case.both),
            (None, None) => String::new(),
        }
    }
}

/// Files one after another under their names; a single AGENTS.md is known without.
fn as_text(files: &Files, both: &Files) -> String {
    if let (1, true, Some(text)) = (files.len(), both.is_empty(), files.get("AGENTS.md")) {
        return text.clone();
    }
    let file = |(path, text): (&String, &String)| {
        let indented = text.lines().map(|line| format!("  {line}").trim_end().to_owned() + "\n");
        format!("{path}\n{}", indented.collect::<String>())
    };
    files.iter().chain(both).map(file).collect::<Vec<_>>().join("\n")
}
