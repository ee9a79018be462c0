//! The targets of a Makefile and the recipes of a justfile.

use super::Gathered;
use crate::base::repo_path::RepoPath;
use crate::facts::model::Commands;
use std::collections::BTreeMap;

/// Format: <https://www.gnu.org/software/make/manual/make.html#Rules>.
pub(super) fn make(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut names = BTreeMap::new();
    let mut open = false;
    for (number, line) in text.lines().enumerate() {
        if line.starts_with(['\t', '#', ' ']) {
            continue;
        }
        let word = line.split_whitespace().next().unwrap_or_default();
        open |= matches!(word, "include" | "-include" | "sinclude") || line.starts_with("$(eval");
        if let Some(targets) = line.strip_prefix(".PHONY:") {
            targets.split_whitespace().for_each(|target| {
                names.entry(target.to_owned()).or_insert(number + 1);
            });
            continue;
        }
        let Some(colon) = line.find(':') else { continue };
        if line[colon..].starts_with(":=") || line[..colon].contains('=') {
            continue;
        }
        for target in line[..colon].split_whitespace() {
            // A target that is made up of others can't be known here.
            open |= target.contains(['%', '$']);
            names.entry(target.to_owned()).or_insert(number + 1);
        }
    }
    gathered.commands.push(Commands { tool: "make", file: file.clone(), names, open });
}

pub(super) fn just(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut names = BTreeMap::new();
    let mut open = false;
    for (number, line) in text.lines().enumerate() {
        if line.starts_with([' ', '\t', '#', '[', '}']) || line.is_empty() {
            continue;
        }
        let words: Vec<&str> = line.split_whitespace().collect();
        match words[..] {
            ["import" | "import?" | "mod" | "mod?", ..] => open = true,
            ["alias", name, ":=", ..] => {
                names.insert(name.to_owned(), number + 1);
            }
            _ => {
                let Some(colon) = line.find(':') else { continue };
                if line[colon..].starts_with(":=") {
                    continue;
                }
                let name = words[0].split(':').next().unwrap_or_default().trim_start_matches('@');
                if !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_')) {
                    names.entry(name.to_owned()).or_insert(number + 1);
                }
            }
        }
    }
    gathered.commands.push(Commands { tool: "just", file: file.clone(), names, open });
}
