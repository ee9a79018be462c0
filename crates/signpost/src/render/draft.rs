//! `signpost draft`.

use super::table::{Table, cell, cell_with_tail};
use super::{BAD, COMMAND, FAINT, FILE, GOOD, paint, tokens, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::base::wording::{count, group};
use signpost_core::change::new_rule::Trial;
use signpost_core::profile::Reach;
use signpost_core::project::guidance::RuleHeader;

/// What is shown.
pub struct Shown<'a> {
    pub path: &'a RepoPath,
    pub header: &'a RuleHeader,
    pub trial: &'a Trial,
    /// Other patterns that fit the examples.
    pub fits: &'a [String],
    pub all_files: usize,
    pub dry_run: bool,
}

/// For people.
pub fn text(shown: &Shown<'_>) -> String {
    let Shown { path, trial, header, .. } = shown;
    let mut out = if shown.dry_run {
        format!("{} would be written.\n\n", paint(FILE, path))
    } else {
        paint(GOOD, format!("Wrote {path}.")) + "\n\n"
    };
    out += &super::quoted(&trial.text);
    out.push('\n');
    let mut table = Table::new(0);
    let all = count(shown.all_files, "source file");
    let (reaches, style) = match (header.reach, header.paths.is_empty()) {
        (Some(Reach::Offered), _) => {
            (format!("offered for all {all}; assistants pick it by its summary"), Style::new())
        }
        (_, true) => (format!("all {all}, in every conversation"), Style::new()),
        _ if trial.files == 0 => ("no file; the pattern matches nothing".to_owned(), BAD),
        _ => {
            let example = trial.example.as_ref().map(|file| format!(", such as {file}")).unwrap_or_default();
            (format!("{} of {}{example}", group(trial.files), all), Style::new())
        }
    };
    table.row(vec![cell("reaches", FAINT), cell(reaches, style)]);
    table.row(vec![cell("weighs", FAINT), cell(format!("{} tokens", tokens(trial.tokens)), Style::new())]);
    for one in &trial.meets {
        let word = match one.check {
            "consistency/contradiction" => "contradicts",
            "consistency/repeated" => "repeats",
            other => other.rsplit('/').next().unwrap_or_default(),
        };
        table.row(vec![cell(word, BAD), cell_with_tail(format!("“{}”", one.words), Style::new(), &one.with, FAINT)]);
    }
    if trial.meets.is_empty() {
        table.row(vec![cell("repeats", FAINT), cell("nothing, and contradicts nothing that is here", Style::new())]);
    }
    for remark in &trial.remarks {
        table.row(vec![cell("remark", BAD), cell(remark.clone(), Style::new())]);
    }
    for fit in shown.fits {
        table.row(vec![cell("or for", FAINT), cell(fit.clone(), Style::new())]);
    }
    table.render(width(), &mut out);
    if !shown.dry_run {
        out += &format!("\n{} tells it to every assistant\n", paint(COMMAND, "signpost publish"));
    }
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct DraftJson {
    schema: &'static str,
    path: String,
    written: bool,
    text: String,
    files: usize,
    example: Option<String>,
    tokens: usize,
    meets: Vec<MeetsJson>,
    remarks: Vec<String>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct MeetsJson {
    check: &'static str,
    words: String,
    with: String,
}

/// For programs: `signpost.draft/1`.
pub fn json(shown: &Shown<'_>) -> DraftJson {
    let trial = shown.trial;
    DraftJson {
        schema: "signpost.draft/1",
        path: shown.path.to_string(),
        written: !shown.dry_run,
        text: trial.text.clone(),
        files: trial.files,
        example: trial.example.as_ref().map(ToString::to_string),
        tokens: trial.tokens,
        meets: trial
            .meets
            .iter()
            .map(|one| MeetsJson { check: one.check, words: one.words.clone(), with: one.with.clone() })
            .collect(),
        remarks: trial.remarks.clone(),
    }
}
