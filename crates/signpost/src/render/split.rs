//! `signpost split`.

use super::table::{Table, cell, number};
use super::{COMMAND, FAINT, FILE, GOOD, STRONG, paint, tokens, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::wording::{count, group, shorten};
use signpost_core::change::split::{Part, Split, ToldAtStart};
use signpost_core::project::workspace::Workspace;
use std::cmp::Ordering;

/// So many zones are shown.
const ZONES: usize = 12;

/// For people.
pub fn text(workspace: &Workspace<'_>, split: &Split, told: &[ToldAtStart], written: bool) -> String {
    let scoped = split.scoped();
    let file = paint(FILE, &split.file);
    if scoped == 0 {
        return format!(
            "{file} stays as it is: no section of it names paths, file kinds or packages of one part of the project.\n"
        );
    }
    let rest = split.parts.len() - scoped;
    let kept = if rest == 0 { "nothing stays for all files".to_owned() } else { format!("{rest} stay for all files") };
    let get = if scoped == 1 { "1 section gets a scope".to_owned() } else { format!("{scoped} sections get a scope") };
    let mut out = if written {
        paint(GOOD, format!("Wrote {} from {}: {get}, {kept}.", count(split.rules.len(), "rule"), split.file)) + "\n\n"
    } else {
        format!("{file} falls apart: {get}, {kept}.\n\n")
    };
    let mut table = Table::new(2);
    table.row(vec![
        cell("section", FAINT),
        cell("scope", FAINT),
        number("files"),
        number("tokens"),
        cell("why", FAINT),
    ]);
    for part in &split.parts {
        let title = part.heading.as_deref().map_or("(before the first heading)".to_owned(), |title| shorten(title, 40));
        let (scope, files, why) = match &part.scope {
            Some(scope) => {
                let files = format!("{} of {}", group(scope.files), group(split.files));
                (scope.patterns.join(", "), files, scope.why.clone())
            }
            None if !part.perhaps.is_empty() => {
                ("all files".to_owned(), String::new(), format!("unsure: perhaps {}", part.perhaps.join(", ")))
            }
            None => ("all files".to_owned(), String::new(), String::new()),
        };
        let style = if part.scope.is_some() { GOOD } else { FAINT };
        table.row(vec![
            cell(title, Style::new()),
            cell(scope, style),
            number(files),
            number(tokens(part.tokens)),
            cell(why, FAINT),
        ]);
    }
    table.render(width(), &mut out);
    lost(split, &mut out);
    if split.parts.iter().any(|part| !part.perhaps.is_empty()) && !written {
        out += &format!(
            "  {} gives a section a scope, {} keeps one for all files\n",
            paint(COMMAND, "--section 'HEADING=PATTERN'"),
            paint(COMMAND, "--keep 'HEADING'")
        );
    }
    out += &format!(
        "\n{}  {}\n",
        paint(STRONG, "What is told of it"),
        paint(FAINT, "in tokens, by files that are told the same")
    );
    let mut table = Table::new(2);
    table.row(vec![cell("one of the files", FAINT), number("files"), number("before"), number("after")]);
    table.row(vec![
        cell("(before a file is touched)", Style::new()),
        number(""),
        number(tokens(split.before)),
        number(tokens(split.after)),
    ]);
    for zone in split.zones.iter().take(ZONES) {
        table.row(vec![
            cell(zone.example.to_string(), FILE),
            number(group(zone.files)),
            number(tokens(zone.before)),
            number(tokens(zone.after)),
        ]);
    }
    table.render(width(), &mut out);
    if split.zones.len() > ZONES {
        out += &format!("  {}\n", paint(FAINT, format!("and {} more", split.zones.len() - ZONES)));
    }
    if !told.is_empty() {
        at_start(workspace, told, &mut out);
    }
    if written {
        out += &format!("\n{} writes each assistant's files from the rules\n", paint(COMMAND, "signpost publish"));
    } else {
        out += &format!("\n{} writes the rules\n", paint(COMMAND, format!("signpost split {} --write", split.file)));
    }
    out
}

/// Which files are not told a section any more.
fn lost(split: &Split, out: &mut String) {
    let lost = split.parts.iter().filter_map(|part| {
        let scope = part.scope.as_ref()?;
        Some((
            part.heading.as_deref().unwrap_or_default(),
            split.files - scope.files.min(split.files),
            scope.lost.as_ref()?,
        ))
    });
    *out += &format!("\n{}\n", paint(STRONG, "Files that are not told a section any more"));
    let mut table = Table::new(2);
    for (heading, files, example) in lost {
        let such = format!("{}, such as {example}", count(files, "file"));
        table.row(vec![cell(shorten(heading, 40), Style::new()), cell(such, FAINT)]);
    }
    table.render(width(), out);
}

/// What each assistant is told in every conversation, before and after.
fn at_start(workspace: &Workspace<'_>, told: &[ToldAtStart], out: &mut String) {
    *out += &format!(
        "\n{}  {}\n",
        paint(STRONG, "What each assistant is told in every conversation"),
        paint(FAINT, "in tokens, once the rules are published")
    );
    let mut table = Table::new(2);
    table.row(vec![cell("", FAINT), number("before"), number("after"), cell("", FAINT)]);
    for one in told {
        let note = match one.after.cmp(&one.before) {
            Ordering::Equal if one.before > 0 => "it knows no scopes, or does not read the file",
            Ordering::Greater => "rules that were not published yet come along",
            _ => "",
        };
        table.row(vec![
            cell(workspace.title_of(&one.assistant), Style::new()),
            number(tokens(one.before)),
            number(tokens(one.after)),
            cell(note, FAINT),
        ]);
    }
    table.render(width(), out);
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct SplitJson {
    schema: &'static str,
    path: String,
    tokens_before: usize,
    tokens_after: usize,
    parts: Vec<PartJson>,
    zones: Vec<ZoneJson>,
    assistants: Vec<ToldJson>,
    rules: Vec<RuleJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct PartJson {
    heading: Option<String>,
    tokens: usize,
    patterns: Vec<String>,
    files: Option<usize>,
    why: Option<String>,
    lost: Option<String>,
    perhaps: Vec<String>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ToldJson {
    assistant: String,
    before: usize,
    after: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ZoneJson {
    example: String,
    files: usize,
    before: usize,
    after: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct RuleJson {
    path: String,
    text: String,
}

/// For programs: `signpost.split/1`.
pub fn json(split: &Split, told: &[ToldAtStart]) -> SplitJson {
    let part = |part: &Part| PartJson {
        heading: part.heading.clone(),
        tokens: part.tokens,
        patterns: part.scope.as_ref().map(|scope| scope.patterns.clone()).unwrap_or_default(),
        files: part.scope.as_ref().map(|scope| scope.files),
        why: part.scope.as_ref().map(|scope| scope.why.clone()),
        lost: part.scope.as_ref().and_then(|scope| scope.lost.as_ref()).map(ToString::to_string),
        perhaps: part.perhaps.clone(),
    };
    SplitJson {
        schema: "signpost.split/1",
        path: split.file.to_string(),
        tokens_before: split.before,
        tokens_after: split.after,
        parts: split.parts.iter().map(part).collect(),
        zones: split
            .zones
            .iter()
            .map(|zone| ZoneJson {
                example: zone.example.to_string(),
                files: zone.files,
                before: zone.before,
                after: zone.after,
            })
            .collect(),
        assistants: told
            .iter()
            .map(|one| ToldJson { assistant: one.assistant.clone(), before: one.before, after: one.after })
            .collect(),
        rules: split
            .rules
            .iter()
            .map(|rule| RuleJson { path: rule.path.to_string(), text: rule.text.clone() })
            .collect(),
    }
}
