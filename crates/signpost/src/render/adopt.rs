//! `signpost adopt`.

use super::table::{Table, cell};
use super::{BAD, COMMAND, FAINT, FILE, GOOD, STRONG, paint, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::base::wording::{count, group, shorten};
use signpost_core::change::adopt::{Adoption, Checked, Difference, ZoneChange};
use signpost_core::project::workspace::Workspace;
use std::collections::BTreeMap;

/// What is shown.
pub struct Shown<'a> {
    pub workspace: &'a Workspace<'a>,
    pub adoption: &'a Adoption,
    pub checked: &'a Checked,
    pub dry_run: bool,
    pub preferred: bool,
}

/// So many lines of a wording, and so many changes of a zone, are shown.
const LINES: usize = 6;

/// For people.
pub fn text(shown: &Shown<'_>) -> String {
    let Shown { workspace, adoption, .. } = shown;
    if adoption.rules.is_empty() {
        let mut out = "There is nothing to adopt: every instruction file is in the guidance, or stays outside of it.\n"
            .to_owned();
        left_alone(adoption, &mut out);
        return out;
    }
    let files = count(adoption.files.len(), "file");
    let rules = count(adoption.rules.len(), "rule");
    let mut out = if shown.dry_run {
        format!("Adopting {files} would write {rules}.\n")
    } else {
        paint(GOOD, format!("Adopted {files} as {rules}; nothing was deleted.")) + "\n"
    };
    verdict(shown, &mut out);
    differences(shown, &mut out);
    out.push('\n');
    let mut table = Table::new(2);
    table.row(["rule", "for", "from"].map(|head| cell(head, FAINT)).into());
    for rule in &adoption.rules {
        let whom = rule.assistants.as_ref().map_or("all".to_owned(), |names| {
            names.iter().map(|name| workspace.title_of(name)).collect::<Vec<_>>().join(", ")
        });
        let from = rule.from.iter().map(RepoPath::to_string).collect::<Vec<_>>().join(", ");
        table.row(vec![cell(rule.path.to_string(), FILE), cell(whom, Style::new()), cell(from, FAINT)]);
    }
    table.render(width(), &mut out);
    left_alone(adoption, &mut out);
    let next = if shown.dry_run { "signpost adopt" } else { "signpost publish --dry-run" };
    let what = if shown.dry_run { "writes the rules" } else { "shows what each assistant's files become" };
    if !shown.dry_run && shown.checked.pending == 0 {
        let publish = paint(COMMAND, "signpost publish");
        return out
            + &format!("\n{publish} changes no file now; edit the rules, and it writes each assistant's files\n");
    }
    out + &format!("\n{} {what}\n", paint(COMMAND, next))
}

fn differences(shown: &Shown<'_>, out: &mut String) {
    let adoption = shown.adoption;
    if adoption.differences.is_empty() {
        return;
    }
    let open = adoption.differences.iter().filter(|one| one.chosen.is_none()).count();
    *out += &format!("\n{}\n", paint(STRONG, "Told in different words"));
    for difference in &adoption.differences {
        *out += &side_by_side(shown.workspace, difference);
    }
    if open > 0 {
        let place = count(open, "place");
        *out += &if shown.dry_run {
            let command = paint(COMMAND, "signpost adopt --prefer ASSISTANT");
            format!(
                "\n  In {place} each assistant would keep its own words. To take one assistant's for all:\n  {command}\n"
            )
        } else {
            let way =
                "Where they should be the same, keep one of the rules below, and take `assistants` out of its header.";
            let text = format!("In {place} each assistant keeps its own words, in a rule of its own. {way}");
            super::table::wrap(&text, width() - 2)
                .iter()
                .fold(String::from("\n"), |out, line| out + &format!("  {line}\n"))
        };
    }
}

/// The wordings of a difference: what each says that the others do not.
pub fn side_by_side(workspace: &Workspace<'_>, difference: &Difference) -> String {
    let title =
        if difference.title.is_empty() { "at the top".to_owned() } else { format!("under “{}”", difference.title) };
    let mut out = format!("\n  {}\n", paint(STRONG, title));
    for (number, version) in difference.versions.iter().enumerate() {
        let names: Vec<&str> = version.assistants.iter().map(|name| workspace.title_of(name)).collect();
        let taken = match difference.chosen {
            Some(chosen) if chosen == number => paint(GOOD, "  for all"),
            Some(_) => paint(FAINT, "  given up"),
            None => String::new(),
        };
        out += &format!("  {}  {}  {}{taken}\n", number + 1, names.join(", "), paint(FILE, &version.file));
        let mut table = Table::new(7);
        for atom in version.own.iter().take(LINES) {
            table.row(vec![cell(shorten(without_comments(atom), 200), Style::new())]);
        }
        if version.own.len() > LINES {
            table.row(vec![cell(format!("and {} more", version.own.len() - LINES), FAINT)]);
        }
        if version.own.is_empty() {
            table.row(vec![cell("nothing that the others do not say", FAINT)]);
        }
        table.render(width(), &mut out);
    }
    out
}

/// The words below the comments that speak of them.
fn without_comments(atom: &str) -> &str {
    atom.rsplit("-->").next().filter(|words| !words.trim().is_empty()).unwrap_or(atom)
}

/// So many files that are left for one reason are named.
const MOST_NAMED: usize = 20;

fn left_alone(adoption: &Adoption, out: &mut String) {
    if adoption.left.is_empty() {
        return;
    }
    *out += &format!("\n{}\n", paint(STRONG, "Left as it is"));
    let mut table = Table::new(2);
    let mut number_of: BTreeMap<&str, usize> = BTreeMap::new();
    for one in &adoption.left {
        let number = number_of.entry(&one.why).or_default();
        *number += 1;
        if *number <= MOST_NAMED {
            table.row(vec![cell(one.path.to_string(), FILE), cell(one.why.clone(), Style::new())]);
        }
    }
    for (why, number) in number_of.into_iter().filter(|(_, number)| *number > MOST_NAMED) {
        let others = format!("and {} more", group(number - MOST_NAMED));
        table.row(vec![cell(others, FAINT), cell(why.to_owned(), FAINT)]);
    }
    table.render(width(), out);
}

/// Whether every zone stays as it was.
fn verdict(shown: &Shown<'_>, out: &mut String) {
    let checked = shown.checked;
    let zones = count(checked.zones, "zone");
    if checked.changes.is_empty() {
        let text =
            format!("Publishing tells every assistant the same as before, in the same precedence: {zones} checked.");
        *out += &format!("\n{}\n", paint(GOOD, text));
        return;
    }
    let why = if shown.preferred { ", which includes what --prefer chose" } else { "" };
    let mut changed: Vec<_> = checked.changes.iter().map(|change| &change.example).collect();
    changed.sort();
    changed.dedup();
    let text = format!("Publishing would tell something else in {} of {zones}{why}:", changed.len());
    *out += &format!("\n{}\n", paint(BAD, text));
    // What changes in the same way stands together.
    let mut grouped: Vec<(&ZoneChange, usize)> = Vec::new();
    for change in &checked.changes {
        let words = |one: &ZoneChange| (one.gone.clone(), one.new.clone(), one.moved.clone());
        let same = |one: &ZoneChange| one.assistant == change.assistant && words(one) == words(change);
        match grouped.iter_mut().find(|(one, _)| same(one)) {
            Some((_, files)) => *files += change.files,
            None => grouped.push((change, change.files)),
        }
    }
    for (change, files) in grouped {
        let title = shown.workspace.title_of(&change.assistant);
        let files = match files {
            1 => String::new(),
            2 => "and 1 file more".to_owned(),
            many => format!("and {} files more", many - 1),
        };
        *out += &format!("\n  {title}  {}  {}\n", paint(FILE, &change.example), paint(FAINT, files));
        let mut table = Table::new(4);
        for (word, style, list) in
            [("not told", BAD, &change.gone), ("new", GOOD, &change.new), ("moved", Style::new(), &change.moved)]
        {
            for one in list.iter().take(3) {
                table.row(vec![cell(word, style), cell(shorten(one, 160), Style::new())]);
            }
            if list.len() > 3 {
                table.row(vec![cell("", style), cell(format!("and {} more", list.len() - 3), FAINT)]);
            }
        }
        table.render(width(), out);
    }
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct AdoptJson {
    schema: &'static str,
    same: bool,
    rules: Vec<RuleJson>,
    differences: Vec<DifferenceJson>,
    left: Vec<LeftJson>,
    files: Vec<String>,
    zones: usize,
    changes: Vec<ChangeJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct RuleJson {
    path: String,
    from: Vec<String>,
    assistants: Option<Vec<String>>,
    tokens: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct DifferenceJson {
    title: String,
    chosen: Option<usize>,
    versions: Vec<VersionJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct VersionJson {
    assistants: Vec<String>,
    file: String,
    text: String,
    own: Vec<String>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct LeftJson {
    path: String,
    why: String,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ChangeJson {
    example: String,
    files: usize,
    assistant: String,
    gone: Vec<String>,
    new: Vec<String>,
    moved: Vec<String>,
}

/// For programs: `signpost.adopt/1`.
pub fn json(shown: &Shown<'_>) -> AdoptJson {
    let adoption = shown.adoption;
    let change = |change: &ZoneChange| ChangeJson {
        example: change.example.to_string(),
        files: change.files,
        assistant: change.assistant.clone(),
        gone: change.gone.clone(),
        new: change.new.clone(),
        moved: change.moved.clone(),
    };
    let difference = |one: &Difference| DifferenceJson {
        title: one.title.clone(),
        chosen: one.chosen,
        versions: one
            .versions
            .iter()
            .map(|version| VersionJson {
                assistants: version.assistants.clone(),
                file: version.file.to_string(),
                text: version.text.clone(),
                own: version.own.clone(),
            })
            .collect(),
    };
    AdoptJson {
        schema: "signpost.adopt/1",
        same: shown.checked.changes.is_empty(),
        rules: adoption
            .rules
            .iter()
            .map(|rule| RuleJson {
                path: rule.path.to_string(),
                from: rule.from.iter().map(RepoPath::to_string).collect(),
                assistants: rule.assistants.clone(),
                tokens: shown.workspace.weigh(&rule.text),
            })
            .collect(),
        differences: adoption.differences.iter().map(difference).collect(),
        left: adoption.left.iter().map(|one| LeftJson { path: one.path.to_string(), why: one.why.clone() }).collect(),
        files: adoption.files.iter().map(|file| file.path.to_string()).collect(),
        zones: shown.checked.zones,
        changes: shown.checked.changes.iter().map(change).collect(),
    }
}
