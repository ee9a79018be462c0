//! Sessions and tasks of runners: tox, nox, Task.
//!
//! Formats: <https://tox.wiki/en/stable/config.html>, <https://nox.thea.codes/en/stable/config.html>,
//! <https://taskfile.dev/reference/schema>.

use super::Gathered;
use crate::base::repo_path::RepoPath;
use crate::facts::model::Commands;
use std::collections::BTreeMap;

pub(super) fn tox(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    super::style::flake8(file, text, gathered);
    let mut names = BTreeMap::new();
    let mut listing = false;
    for (number, line) in text.lines().enumerate() {
        if let Some(name) = line.strip_prefix("[testenv:").and_then(|rest| rest.strip_suffix(']')) {
            names.insert(name.to_owned(), number + 1);
        }
        let stated = line.split_once('=').filter(|(key, _)| matches!(key.trim(), "envlist" | "env_list"));
        listing = stated.is_some() || listing && line.starts_with([' ', '\t']);
        if listing {
            let values = stated.map_or(line, |(_, values)| values);
            for name in values.split([',', ' ', '{', '}', '-']).map(str::trim).filter(|name| !name.is_empty()) {
                names.entry(name.to_owned()).or_insert(number + 1);
            }
        }
    }
    if !names.is_empty() {
        gathered.commands.push(Commands { tool: "tox", file: file.clone(), names, open: false });
    }
}

pub(super) fn nox(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut names = BTreeMap::new();
    let mut session: Option<Option<String>> = None;
    for (number, line) in text.lines().enumerate() {
        let line = line.trim();
        if line.starts_with("@nox.session") || line.starts_with("@session") {
            let name = line.split_once("name=").and_then(|(_, rest)| rest.split(['"', '\'']).nth(1));
            session = Some(name.map(str::to_owned));
        } else if let (Some(rest), Some(named)) =
            (line.strip_prefix("def "), session.take_if(|_| line.starts_with("def ")))
        {
            let own = rest.split('(').next().unwrap_or_default().to_owned();
            names.insert(named.unwrap_or(own), number + 1);
        }
    }
    gathered.commands.push(Commands { tool: "nox", file: file.clone(), names, open: false });
}

pub(super) fn task(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut names = BTreeMap::new();
    let (mut inside, mut indent) = (false, 0);
    let open = text.lines().any(|line| line.starts_with("includes:"));
    for (number, line) in text.lines().enumerate() {
        let depth = line.len() - line.trim_start().len();
        if line.trim().is_empty() || line.trim_start().starts_with('#') {
            continue;
        }
        if depth == 0 {
            inside = line.starts_with("tasks:");
            indent = 0;
        } else if inside {
            indent = if indent == 0 { depth } else { indent };
            // `test:unit:` is the task test:unit.
            let name =
                line.trim().split(": ").next().unwrap_or_default().trim_end_matches(':').trim_matches(['"', '\'']);
            if depth == indent && !name.is_empty() {
                names.insert(name.to_owned(), number + 1);
            }
        }
    }
    gathered.commands.push(Commands { tool: "task", file: file.clone(), names, open });
}
