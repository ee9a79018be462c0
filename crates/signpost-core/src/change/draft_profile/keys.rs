//! What the keys of headers carry, judged by their values.

use super::family::{Found, Group};
use crate::base::repo_path::RepoPath;
use crate::base::toml_file::nearest;
use crate::base::wording::count;
use crate::header::{HeaderStyle, Key, Value};
use crate::inspect::pattern_search::PatternSearch;
use crate::pattern::{Dialect, ListForm, Pattern};
use crate::profile::{Base, Kind, KnownKey, Level, Reach};
use crate::project::workspace::Project;
use std::collections::BTreeMap;

/// A row of a draft.
pub(super) struct RowGuess {
    pub key: String,
    pub is: Option<String>,
    pub reach: Reach,
    pub evidence: String,
}

/// A key, with what speaks for it.
pub(super) struct Guess {
    pub name: String,
    pub evidence: String,
}

/// What the keys of a place carry.
pub(super) struct KeyGuess {
    pub summary: Option<Guess>,
    pub paths: Option<Guess>,
    pub except: Option<Guess>,
    pub rows: Vec<RowGuess>,
    pub reach: Reach,
    pub reach_evidence: String,
    pub dialect: Dialect,
    pub dialect_evidence: String,
    pub base: Base,
    pub base_evidence: String,
    /// Keys that name something, its tools and its model.
    pub named: Vec<(&'static str, String)>,
    /// Further keys, with their values.
    pub known: Vec<(String, KnownKey)>,
}

/// All values that files give to one key.
struct Seen<'a> {
    name: &'a str,
    keys: Vec<(&'a Found, &'a Key)>,
}

pub(super) fn guess(project: &Project, group: &Group) -> KeyGuess {
    let mut by_name: BTreeMap<&str, Vec<(&Found, &Key)>> = BTreeMap::new();
    for file in &group.files {
        for key in &file.header.keys {
            by_name.entry(&key.name).or_default().push((file, key));
        }
    }
    let all: Vec<Seen<'_>> = by_name.into_iter().map(|(name, keys)| Seen { name, keys }).collect();
    let mut patterned: Vec<&Seen<'_>> = all.iter().filter(|seen| share(seen, looks_like_patterns) > 0.5).collect();
    // Of two keys with patterns the one that takes out is rarer, and mostly says so.
    patterned.sort_by_key(|seen| (takes_out(seen.name), std::cmp::Reverse(seen.keys.len())));
    let paths = patterned.first().copied().filter(|seen| !takes_out(seen.name) || patterned.len() == 1);
    // A key that never stands beside the other is more likely a misspelling of it.
    let beside = |seen: &Seen<'_>| {
        paths.is_some_and(|paths| seen.keys.iter().any(|(file, _)| file.header.get(paths.name).is_some()))
    };
    let except = patterned
        .iter()
        .copied()
        .find(|seen| Some(seen.name) != paths.map(|paths| paths.name) && (takes_out(seen.name) || beside(seen)));
    let is_pattern = |seen: &&Seen<'_>| patterned.iter().any(|other| other.name == seen.name);
    let summary = all
        .iter()
        .filter(|seen| !is_pattern(seen))
        .filter(|seen| is_summary(seen))
        .max_by_key(|seen| (seen.keys.len(), std::cmp::Reverse(seen.name)));
    let switches =
        all.iter().filter(|seen| !is_pattern(seen) && Some(seen.name) != summary.map(|summary| summary.name));
    let mut rows = Vec::new();
    for seen in switches.filter(|seen| is_switch(seen)) {
        rows.extend(switch_rows(seen, paths, summary));
    }
    // Rows that ask for a value come before those that ask whether a key is there.
    let decides_standing = rows.iter().any(|row| row.reach == Reach::Standing);
    if let Some(paths) = paths {
        let evidence = "a rule with paths is told when a file of theirs is worked on".to_owned();
        rows.push(RowGuess { key: paths.name.to_owned(), is: None, reach: Reach::Scoped, evidence });
    }
    if let Some(summary) = summary {
        let evidence = "a rule with a summary and no paths can be picked by it".to_owned();
        rows.push(RowGuess { key: summary.name.to_owned(), is: None, reach: Reach::Offered, evidence });
    }
    let (reach, reach_evidence) = if group.header == HeaderStyle::None {
        (Reach::Standing, "there is no header that could say otherwise")
    } else if decides_standing {
        (Reach::Called, "with none of the keys below, nothing tells the assistant when to load it")
    } else {
        (Reach::Standing, "no key says that a rule is told always, so those without paths are")
    };
    let (dialect, dialect_evidence) = dialect(paths);
    let (base, base_evidence) = base(project, group, paths, &dialect);
    let describe = |seen: &Seen<'_>, what: &str| Guess {
        name: seen.name.to_owned(),
        evidence: format!("in {}, {what} such as {}", count(seen.keys.len(), "file"), example(seen)),
    };
    let named = if group.kind == Kind::Rule { Vec::new() } else { named(&all) };
    let taken: Vec<&str> = rows
        .iter()
        .map(|row| row.key.as_str())
        .chain([summary, paths, except].into_iter().flatten().map(|seen| seen.name))
        .chain(named.iter().map(|(_, name)| name.as_str()))
        .collect();
    let known = known(&all, &taken, group.files.len());
    KeyGuess {
        named,
        known,
        summary: summary.map(|seen| describe(seen, "a sentence")),
        paths: paths.map(|seen| describe(seen, "patterns")),
        except: except.map(|seen| describe(seen, "patterns that seem to take files out")),
        rows,
        reach,
        reach_evidence: reach_evidence.to_owned(),
        dialect,
        dialect_evidence,
        base,
        base_evidence,
    }
}

/// The keys that name a role or bundle, its tools and its model.
fn named(all: &[Seen<'_>]) -> Vec<(&'static str, String)> {
    let word = |seen: &Seen<'_>, word: &str| seen.name.to_lowercase().trim_end_matches('s') == word;
    let find = |what: &str| {
        let found = all.iter().filter(|seen| word(seen, what)).max_by_key(|seen| seen.keys.len())?;
        Some(found.name.to_owned())
    };
    let keys = [("name", "name"), ("tools", "tool"), ("model", "model")];
    keys.into_iter().filter_map(|(key, what)| Some((key, find(what)?))).collect()
}

/// More different values than that are no list of them.
const MOST_VALUES: usize = 4;

/// Keys that say nothing to Signpost and stand in more than a stray file; a rare one that is nearly another is misspelt.
fn known(all: &[Seen<'_>], taken: &[&str], files: usize) -> Vec<(String, KnownKey)> {
    let often = |seen: &Seen<'_>| seen.keys.len() >= 3 || seen.keys.len() * 4 >= files;
    let misspelt = |seen: &Seen<'_>| {
        let others = all.iter().filter(|other| other.name != seen.name && other.keys.len() > seen.keys.len());
        nearest(seen.name, others.map(|other| other.name)).is_some()
    };
    let values = |seen: &Seen<'_>| -> Vec<String> {
        let words: Option<Vec<&str>> = seen.keys.iter().map(|(_, key)| key.scalar()).collect();
        let mut words = words.unwrap_or_default();
        words.sort_unstable();
        words.dedup();
        let simple = words.iter().all(|word| !word.is_empty() && word.len() <= 20 && !word.contains(' '));
        let listed = simple && words.len() <= MOST_VALUES && seen.keys.len() >= 3 * words.len() && words.len() > 1;
        if listed { words.into_iter().map(str::to_owned).collect() } else { Vec::new() }
    };
    let key = |seen: &Seen<'_>| KnownKey { values: values(seen), required: files >= 4 && seen.keys.len() == files };
    let wanted = all.iter().filter(|seen| !taken.contains(&seen.name) && often(seen) && !misspelt(seen));
    wanted.map(|seen| (seen.name.to_owned(), key(seen))).collect()
}

/// Whether the values are words about each file: mostly different ones, several words in many, and not the file's name.
fn is_summary(seen: &Seen<'_>) -> bool {
    let texts: Vec<(&str, &Found)> = seen
        .keys
        .iter()
        .filter_map(|(file, key)| Some((key.scalar()?.trim(), *file)))
        .filter(|(text, _)| !text.is_empty())
        .collect();
    let several = texts.iter().filter(|(text, _)| text.split_whitespace().count() >= 2).count();
    let named = texts.iter().filter(|(text, file)| file.path.path.name().starts_with(text)).count();
    let mut values: Vec<&str> = texts.iter().map(|(text, _)| *text).collect();
    values.sort_unstable();
    values.dedup();
    let plain = texts.iter().all(|(text, _)| !text.starts_with(['[', '{']));
    let lists =
        share(seen, |key| key.scalar().is_some_and(|text| text.split(',').count() > 1 && !text.contains(". "))) > 0.5;
    !texts.is_empty()
        && plain
        && !lists
        && several * 2 >= texts.len()
        && named * 2 < texts.len()
        && values.len() * 3 > texts.len()
}

fn share(seen: &Seen<'_>, holds: impl Fn(&Key) -> bool) -> f64 {
    let filled: Vec<&Key> = seen.keys.iter().map(|(_, key)| *key).filter(|key| !key.is_empty()).collect();
    let holding = filled.iter().filter(|key| holds(key)).count();
    if filled.is_empty() { 0.0 } else { holding as f64 / filled.len() as f64 }
}

/// The words of a value that could be patterns.
fn words(key: &Key) -> Vec<&str> {
    match &key.value {
        Value::List(items) => items.iter().map(|item| item.text.as_str()).collect(),
        Value::Scalar(scalar) => scalar.text.split(',').map(str::trim).collect(),
        Value::Nothing | Value::Table => Vec::new(),
    }
}

pub(super) fn looks_like_patterns(key: &Key) -> bool {
    let words = words(key);
    let pattern = |word: &&&str| {
        let web = word.contains("://");
        !word.contains(' ')
            && !web
            && (word.contains(['*', '/']) || word.starts_with('.') && word.len() > 1 || has_ending(word))
    };
    !words.is_empty() && words.iter().filter(pattern).count() * 2 > words.len()
}

/// `main.rs`, but not `1.0`.
fn has_ending(word: &str) -> bool {
    word.rsplit_once('.').is_some_and(|(stem, ending)| {
        !stem.is_empty() && (1..=5).contains(&ending.len()) && ending.chars().all(|c| c.is_ascii_alphabetic())
    })
}

fn takes_out(name: &str) -> bool {
    let name = name.to_lowercase();
    ["except", "exclude", "skip", "ignore", "without", "not", "omit", "but", "unless"]
        .iter()
        .any(|word| name.contains(word))
}

/// One of a few words, in every file that has the key.
fn is_switch(seen: &Seen<'_>) -> bool {
    let mut values: Vec<&str> = seen.keys.iter().filter_map(|(_, key)| key.scalar()).collect();
    values.sort_unstable();
    values.dedup();
    let word = |text: &&str| !text.is_empty() && text.len() <= 20 && !text.contains(char::is_whitespace);
    share(seen, |key| key.scalar().is_some_and(|text| word(&text))) == 1.0
        && values.len() <= 5
        && (seen.keys.len() > values.len() || values.iter().any(|text| is_yes(text) || reach_of_word(text).is_some()))
}

/// Whether YAML, of one version or another, reads it as true.
fn is_yes(text: &str) -> bool {
    matches!(text.to_lowercase().as_str(), "true" | "yes" | "on")
}

/// Whether a word plainly speaks of a reach.
pub(super) fn says_reach(word: &str) -> bool {
    word.split_whitespace().count() == 1 && reach_of_word(word).is_some()
}

/// The reach that a word plainly speaks of.
fn reach_of_word(word: &str) -> Option<Reach> {
    // `profile-hot-path` does not say `all`.
    let lower = word.to_lowercase();
    let parts: Vec<&str> = lower.split(|c: char| !c.is_alphanumeric()).collect();
    let stem = |part: &str| part.trim_end_matches("ed").trim_end_matches('s').to_owned();
    let any = |words: &[&str]| parts.iter().any(|part| words.iter().any(|word| *part == *word || stem(part) == *word));
    if any(&["always", "each", "every", "all", "global", "standing", "constant"]) {
        Some(Reach::Standing)
    } else if any(&["glob", "path", "match", "file", "scope", "touch", "where", "attach"]) {
        Some(Reach::Scoped)
    } else if any(&["ask", "manual", "named", "call", "mention", "hand", "never", "demand"]) {
        Some(Reach::Called)
    } else if any(&["offer", "choose", "choice", "pick", "model", "smart", "judge", "request", "relevant", "agent"]) {
        Some(Reach::Offered)
    } else {
        None
    }
}

fn switch_rows(seen: &Seen<'_>, paths: Option<&Seen<'_>>, summary: Option<&Seen<'_>>) -> Vec<RowGuess> {
    let mut by_value: BTreeMap<&str, Vec<&Found>> = BTreeMap::new();
    for (file, key) in &seen.keys {
        by_value.entry(key.scalar().unwrap_or_default()).or_default().push(file);
    }
    let has = |file: &Found, key: Option<&Seen<'_>>| {
        key.and_then(|key| file.header.get(key.name)).is_some_and(|key| !key.is_empty())
    };
    let mut rows = Vec::new();
    let common: BTreeMap<String, usize> = by_value.iter().fold(BTreeMap::new(), |mut most, (value, files)| {
        let best = most.entry(value.to_lowercase()).or_insert(0);
        *best = (*best).max(files.len());
        most
    });
    let lower: Vec<String> = by_value.keys().map(|value| (*value).to_owned()).collect();
    for (value, files) in by_value {
        // Of two ways to write a word the rarer is a mistake.
        let small = value.to_lowercase();
        if value != small && lower.contains(&small) && files.len() <= common[&small] {
            continue;
        }
        let (key, files_text) = (seen.name.to_owned(), count(files.len(), "file"));
        let mut add = |reach: Reach, evidence: String| {
            rows.push(RowGuess { key: key.clone(), is: Some(value.to_owned()), reach, evidence });
        };
        let sure = if matches!(small.as_str(), "yes" | "on") { ", if it reads that as true" } else { "" };
        match small.as_str() {
            "false" | "no" | "off" => {}
            "true" | "yes" | "on" => match reach_of_word(seen.name) {
                Some(reach) => add(reach, format!("in {files_text}; the key's name says so{sure}")),
                None if files.iter().all(|file| !has(file, paths)) => {
                    add(Reach::Standing, format!("in {files_text}, none of which has paths"));
                }
                None => {}
            },
            _ => match reach_of_word(value) {
                Some(reach) => add(reach, format!("in {files_text}; the word says so")),
                None if files.iter().all(|file| has(file, paths)) => {
                    add(Reach::Scoped, format!("in {files_text}, each with paths"));
                }
                None if files.iter().all(|file| has(file, summary)) => {
                    add(Reach::Offered, format!("in {files_text}, each with a summary"));
                }
                None => {}
            },
        }
    }
    // What is the same for each of its words is no doing of the key's.
    let says = |row: &RowGuess| row.evidence.contains("says so") || row.evidence.contains("none of which");
    if rows.iter().all(|row| !says(row) && row.reach == rows[0].reach) {
        rows.clear();
    }
    rows
}

fn example(seen: &Seen<'_>) -> String {
    let words = seen.keys.iter().map(|(_, key)| words(key)).find(|words| !words.is_empty()).unwrap_or_default();
    let text: String = words.join(", ").chars().filter(|c| !c.is_control()).take(48).collect();
    format!("“{text}”")
}

fn dialect(paths: Option<&Seen<'_>>) -> (Dialect, String) {
    let Some(paths) = paths else { return (Dialect::default(), String::new()) };
    let filled = || paths.keys.iter().map(|(_, key)| *key).filter(|key| !key.is_empty());
    let lists = filled().filter(|key| matches!(key.value, Value::List(_))).count();
    let strings = filled().filter(|key| matches!(key.value, Value::Scalar(_))).count();
    let negate = filled().any(|key| words(key).iter().any(|word| word.starts_with('!')));
    let braces = filled().any(|key| words(key).iter().any(|word| word.contains('{')));
    let evidence = format!(
        "{} and {}{}",
        count(lists, "list"),
        count(strings, "string"),
        if braces { ", some with braces" } else { "; no braces seen, so they are assumed to work" }
    );
    // One of twenty in the other form is a mistake in that file, and no second form.
    let commas = filled().filter(|key| key.scalar().is_some_and(|text| text.contains(','))).count();
    let list = match (lists, strings) {
        (0, 0) => ListForm::Either,
        (lists, strings) if strings >= 4 * lists.max(1) && (lists > 0 || commas > 0) => ListForm::Comma,
        (lists, strings) if lists >= 4 * strings.max(1) && strings > 0 => ListForm::Array,
        _ => ListForm::Either,
    };
    (Dialect { list, negate, ..Dialect::default() }, evidence)
}

/// Whether patterns count from the root or from the folder of the anchor: where more of them take a file.
fn base(project: &Project, group: &Group, paths: Option<&Seen<'_>>, dialect: &Dialect) -> (Base, String) {
    let Some(paths) = paths.filter(|_| group.level == Level::Folder) else {
        return (Base::Root, "for files at the root there is no difference".to_owned());
    };
    let search = PatternSearch::new(&project.index);
    let (mut from_root, mut from_folder) = (0, 0);
    for (file, key) in paths.keys.iter().filter(|(file, _)| !file.anchor.is_root()) {
        for pattern in words(key).into_iter().filter_map(|word| Pattern::parse(word, dialect).ok()) {
            let takes = |base: &RepoPath| usize::from(search.first_match(&pattern, base, &file.anchor).is_some());
            from_root += takes(&RepoPath::root());
            from_folder += takes(&file.anchor);
        }
    }
    if from_folder > from_root {
        (
            Base::Folder,
            format!("from their folder {} take a file, from the root {from_root}", count(from_folder, "pattern")),
        )
    } else {
        (
            Base::Root,
            format!("from the root {} take a file, from their folder {from_folder}", count(from_root, "pattern")),
        )
    }
}
