//! Baselines: findings that are known and do not count.
//!
//! A finding is recognised by its check, its file and the words at fault, not by its line, so that it stays
//! known when lines move. The same words twice are two findings.

use super::Finding;
use crate::base::toml_file::ConfigError;
use crate::base::wording::LineIndex;
use crate::project::lock::hash;
use crate::project::rule::Document;
use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// The schema that a baseline names.
pub const SCHEMA: &str = "signpost.baseline/1";

/// Known findings.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Baseline {
    /// [`SCHEMA`].
    pub schema: String,
    /// The findings, sorted.
    pub findings: Vec<Known>,
}

/// One known finding.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Known {
    /// Its file.
    pub path: String,
    /// Its check.
    pub check: String,
    /// The words at fault, shortened, for those who read the file.
    pub words: String,
    /// A hash of all that it is recognised by.
    pub id: String,
}

impl Known {
    fn of(finding: &Finding, document: &Document) -> Self {
        let path = finding.location.to_string();
        let words = words(finding, document);
        let id = hash(format!("{path}\n{}\n{words}", finding.check).as_bytes());
        // Half of the digits tell any two findings apart, and read better.
        let id = id.trim_start_matches("sha256:")[..32].to_owned();
        let words = words.chars().take(80).collect();
        Known { path, check: finding.check.to_owned(), words, id }
    }
}

/// The words at fault with blanks made one; for a file as a whole what is said, without its numbers.
fn words(finding: &Finding, document: &Document) -> String {
    let text = document.text.get(finding.span.clone()).unwrap_or_default();
    let plain = text.split_whitespace().collect::<Vec<_>>().join(" ");
    if plain.is_empty() || finding.check == "size/file-too-long" {
        finding.message.chars().map(|c| if c.is_ascii_digit() { '#' } else { c }).collect()
    } else {
        plain
    }
}

impl Baseline {
    /// Records findings.
    pub fn record(findings: &[Finding], document: &dyn Fn(&Finding) -> Arc<Document>) -> Self {
        let mut all: Vec<Known> = findings.iter().map(|finding| Known::of(finding, &document(finding))).collect();
        all.sort();
        Baseline { schema: SCHEMA.to_owned(), findings: all }
    }

    /// Reads a baseline.
    ///
    /// # Errors
    /// It is none.
    pub fn parse(file: &str, text: &str) -> Result<Self, Box<ConfigError>> {
        let help = || Some("record it anew: delete the file and run `signpost lint --baseline` once more".to_owned());
        let read: Baseline = serde_json::from_str(text).map_err(|error| {
            let index = LineIndex::new(text);
            let at = (0..text.len()).find(|at| index.line(*at) == error.line()).unwrap_or(0);
            ConfigError::new(file, text, at..at, format!("this is no baseline: {error}"), help())
        })?;
        if read.schema != SCHEMA {
            let at = text.find(&read.schema).unwrap_or(0);
            let message = format!("`{}` is not `{SCHEMA}`", read.schema);
            return Err(ConfigError::new(file, text, at..at + read.schema.len(), message, help()));
        }
        Ok(read)
    }

    /// Takes the known findings out; says how many those are, and how many known ones are gone.
    pub fn apply(&self, findings: &mut Vec<Finding>, document: &dyn Fn(&Finding) -> Arc<Document>) -> (usize, usize) {
        let mut left: FxHashMap<&str, usize> = FxHashMap::default();
        self.findings.iter().for_each(|known| *left.entry(known.id.as_str()).or_default() += 1);
        let before = findings.len();
        findings.retain(|finding| {
            let known = Known::of(finding, &document(finding));
            match left.get_mut(known.id.as_str()) {
                Some(number) if *number > 0 => {
                    *number -= 1;
                    false
                }
                _ => true,
            }
        });
        (before - findings.len(), left.values().sum())
    }
}
