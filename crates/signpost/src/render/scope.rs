//! `signpost scope`.

use super::table::{Table, cell, number};
use super::{BAD, COMMAND, FAINT, FILE, GOOD, STRONG, paint, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::base::wording::{count, group};
use signpost_core::inspect::pattern_suggest::{Fit, NearMiss, Trial};

/// So many files are shown.
const SHOWN: usize = 8;

/// What patterns take, for people.
/// A pattern with a comma is one pattern here, whatever an assistant's header takes.
fn about_commas(patterns: &[String], out: &mut String) {
    let parts = |text: &String| -> Vec<String> {
        let mut depth = 0usize;
        let part = |c: char| {
            depth = if c == '{' { depth + 1 } else { depth.saturating_sub(usize::from(c == '}')) };
            c == ',' && depth == 0
        };
        text.split(part).map(|part| format!("'{}'", part.trim())).collect()
    };
    if let Some((text, apart)) = patterns.iter().map(|text| (text, parts(text))).find(|(_, apart)| apart.len() > 1) {
        *out += &format!(
            "\n`{text}` is one pattern here. A header may take several in one string; try them one by one:\n{}\n",
            paint(COMMAND, format!("signpost scope {}", apart.join(" ")))
        );
    }
}

/// For people.
pub fn trials(patterns: &[String], trials: &[Trial], near: &[NearMiss]) -> String {
    let mut out = String::new();
    for (at, trial) in trials.iter().enumerate() {
        if at > 0 {
            out.push('\n');
        }
        let who = if trials.len() > 1 { format!("  as {} reads it", trial.dialects.join(", ")) } else { String::new() };
        let (style, taken) = match trial.taken.len() {
            0 => (BAD, "takes no file".to_owned()),
            taken => (GOOD, format!("takes {}", count(taken, "file"))),
        };
        out += &format!(
            "{} {}{}\n",
            paint(STRONG, super::table::clean(&patterns.join(", "))),
            paint(style, taken),
            paint(FAINT, who)
        );
        for (text, why) in &trial.invalid {
            out += &format!("  {}\n", paint(BAD, super::table::clean(&format!("{text} is not valid: {why}"))));
        }
        let mut table = Table::new(2);
        for (folder, files) in trial.folders.iter().take(SHOWN) {
            let name = if folder == "." { "(in the root)".to_owned() } else { format!("{folder}/") };
            let own = trial.taken.iter().filter(|file| match folder.as_str() {
                "." => file.depth() == 1,
                folder => file.depth() > 1 && file.components().next() == Some(folder),
            });
            let examples: Vec<&str> = own.take(3).map(|file| file.as_str()).collect();
            let more = if *files > examples.len() { ", …" } else { "" };
            table.row(vec![
                number(group(*files)),
                cell(name, FILE),
                cell(format!("{}{more}", examples.join(", ")), FAINT),
            ]);
        }
        table.render(width(), &mut out);
    }
    if !near.is_empty() {
        out += &format!("\n{}\n", paint(FAINT, "Did you mean these too?"));
        let mut table = Table::new(2);
        for one in near {
            let like = format!("{} more, like {}", group(one.more), one.example);
            table.row(vec![cell(one.pattern.clone(), STRONG), cell(like, Style::new())]);
        }
        table.render(width(), &mut out);
    }
    about_commas(patterns, &mut out);
    out
}

/// Patterns that fit examples, for people.
pub fn fits(like: &[RepoPath], fits: &[Fit]) -> String {
    let mut out = String::new();
    let mut table = Table::new(2);
    for (at, fit) in fits.iter().enumerate() {
        let others = match fit.others {
            0 => "nothing else".to_owned(),
            others => {
                let examples: Vec<&str> = fit.examples.iter().map(|file| file.as_str()).collect();
                let more = if others > examples.len() { ", …" } else { "" };
                format!("and {}: {}{more}", count(others, "other file"), examples.join(", "))
            }
        };
        table.row(vec![
            cell(format!("{}", at + 1), FAINT),
            cell(fit.patterns.join("  "), STRONG),
            cell(others, Style::new()),
        ]);
    }
    out += &format!(
        "Patterns that take {}, the best first\n",
        if like.len() == 1 { "this file".to_owned() } else { format!("these {} files", like.len()) }
    );
    table.render(width(), &mut out);
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct ScopeJson {
    schema: &'static str,
    patterns: Vec<String>,
    trials: Vec<TrialJson>,
    near: Vec<NearJson>,
    fits: Vec<FitJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct TrialJson {
    dialects: Vec<String>,
    matches: usize,
    files: Vec<String>,
    folders: Vec<FolderJson>,
    invalid: Vec<InvalidJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct FolderJson {
    folder: String,
    files: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct InvalidJson {
    pattern: String,
    why: String,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct NearJson {
    pattern: String,
    more: usize,
    example: String,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct FitJson {
    patterns: Vec<String>,
    others: usize,
    examples: Vec<String>,
}

fn text(paths: &[RepoPath]) -> Vec<String> {
    paths.iter().map(ToString::to_string).collect()
}

/// What patterns take, for programs: `signpost.scope/1`.
pub fn trials_json(patterns: &[String], trials: &[Trial], near: &[NearMiss]) -> ScopeJson {
    let one = |trial: &Trial| TrialJson {
        dialects: trial.dialects.clone(),
        matches: trial.taken.len(),
        files: text(&trial.taken),
        folders: trial
            .folders
            .iter()
            .map(|(folder, files)| FolderJson { folder: folder.clone(), files: *files })
            .collect(),
        invalid: trial
            .invalid
            .iter()
            .map(|(pattern, why)| InvalidJson { pattern: pattern.clone(), why: why.clone() })
            .collect(),
    };
    let near = near.iter().map(|one| NearJson {
        pattern: one.pattern.clone(),
        more: one.more,
        example: one.example.to_string(),
    });
    ScopeJson {
        schema: "signpost.scope/1",
        patterns: patterns.to_vec(),
        trials: trials.iter().map(one).collect(),
        near: near.collect(),
        fits: Vec::new(),
    }
}

/// Patterns that fit examples, for programs: `signpost.scope/1`.
pub fn fits_json(fits: &[Fit]) -> ScopeJson {
    let one = |fit: &Fit| FitJson { patterns: fit.patterns.clone(), others: fit.others, examples: text(&fit.examples) };
    ScopeJson {
        schema: "signpost.scope/1",
        patterns: Vec::new(),
        trials: Vec::new(),
        near: Vec::new(),
        fits: fits.iter().map(one).collect(),
    }
}
