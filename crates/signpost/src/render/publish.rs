//! `signpost publish`.

mod document;

use super::table::{Table, cell, number};
use super::{BAD, COMMAND, FAINT, FILE, GOOD, STRONG, diff, paint, tokens, width};
use anstyle::Style;
#[cfg(test)]
pub use document::PublishJson;
pub use document::json;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::base::wording::{count, group};
use signpost_core::change::publish::changes::{Change, Refusal, Status, Step};
use signpost_core::change::publish::{Content, Loss, LossKind, Plan, Planned};
use signpost_core::check::first_unfilled;
use signpost_core::profile::Reach;
use signpost_core::project::workspace::Workspace;
use std::collections::BTreeMap;

/// What was asked for.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Mode {
    Write,
    Check,
    DryRun,
    TooStrict,
}

/// What is shown.
pub struct Shown<'a> {
    pub workspace: &'a Workspace<'a>,
    pub plan: &'a Plan,
    pub status: &'a Status,
    /// Whether what differs is shown line by line.
    pub lines: bool,
    pub mode: Mode,
}

/// So many losses of one kind are shown for an assistant.
const LOSSES: usize = 5;

/// For people.
pub fn text(shown: &Shown<'_>) -> String {
    let (plan, status) = (shown.plan, shown.status);
    let mut out = headline(shown);
    if plan.sources.is_empty() && plan.unpublished.is_empty() && status.pending().next().is_none() {
        return out
            + &format!(
                "\n{} writes a first rule; {} brings in the files that are here\n",
                paint(COMMAND, "signpost draft NAME"),
                paint(COMMAND, "signpost adopt")
            );
    }
    refusals(status, &mut out);
    abandoned(status, &mut out);
    let shows = matches!(shown.mode, Mode::Check | Mode::DryRun);
    if shows || shown.mode == Mode::Write && status.refused.is_empty() {
        files(shown, &mut out);
    }
    beside(&status.beside, &mut out);
    if shows {
        lines(shown, &mut out);
    }
    unfilled(plan, &mut out);
    losses(shown, &mut out);
    if !plan.unpublished.is_empty() {
        out += &format!("\n{}\n", paint(STRONG, "Rules that nobody gets"));
        let mut table = Table::new(2);
        for one in &plan.unpublished {
            table.row(vec![cell(one.rule.to_string(), FILE), cell(one.why.clone(), Style::new())]);
        }
        table.render(width(), &mut out);
    }
    out
}

fn headline(shown: &Shown<'_>) -> String {
    let (plan, status) = (shown.plan, shown.status);
    let changed = status.pending().count();
    let rules = count(plan.sources.len(), "rule");
    let whom = count(plan.assistants.len(), "assistant");
    if plan.sources.is_empty() && plan.unpublished.is_empty() && changed == 0 {
        return "There is nothing to publish: guidance/rules/ holds no rule.\n".to_owned();
    }
    let text = match shown.mode {
        _ if !status.refused.is_empty() && shown.mode == Mode::Write => {
            paint(BAD, format!("Nothing was published: {} in the way.", are(status.refused.len())))
        }
        Mode::TooStrict => {
            paint(BAD, format!("Nothing was published: {} can't be told as meant.", rules_with_losses(plan)))
        }
        Mode::Check if status.is_clean() => {
            paint(GOOD, format!("{} as publishing {rules} for {whom} would write them.", all_are(plan.files.len())))
        }
        Mode::Check if changed + status.refused.len() == 0 && !status.beside.is_empty() => {
            let others = match status.beside.len() {
                1 => "1 file stands beside them that the guidance does not know".to_owned(),
                number => format!("{} files stand beside them that the guidance does not know", group(number)),
            };
            paint(BAD, format!("{} as published, and {others}.", all_are(plan.files.len())))
        }
        Mode::Check if changed + status.refused.len() == 0 && !status.abandoned.is_empty() => {
            paint(BAD, format!("{} left over from what was published once.", are(status.abandoned.len())))
        }
        Mode::Check if changed + status.refused.len() == 0 => {
            paint(BAD, "The files are as they should be, but signpost.lock is not; `signpost publish` mends it.")
        }
        Mode::Check => {
            paint(BAD, format!("{} from what publishing would write.", differ(changed + status.refused.len())))
        }
        Mode::DryRun if changed + status.refused.len() == 0 => "Publishing would change nothing.".to_owned(),
        Mode::DryRun => format!("Publishing {rules} for {whom} would change {}.", count(changed, "file")),
        Mode::Write if changed == 0 => {
            paint(GOOD, format!("{rules} for {whom}: nothing to change in {}.", count(plan.files.len(), "file")))
        }
        Mode::Write => paint(
            GOOD,
            format!(
                "Published {rules} for {whom}: {} in {}.",
                count(changed, "change"),
                count(plan.files.len(), "file")
            ),
        ),
    };
    text + "\n"
}

fn are(number: usize) -> String {
    if number == 1 { "1 file is".to_owned() } else { format!("{number} files are") }
}

fn all_are(number: usize) -> String {
    if number == 1 { "The file is".to_owned() } else { format!("All {} files are", group(number)) }
}

fn differ(number: usize) -> String {
    if number == 1 { "1 file differs".to_owned() } else { format!("{} files differ", group(number)) }
}

fn rules_with_losses(plan: &Plan) -> String {
    let mut rules: Vec<&RepoPath> = plan.losses.iter().map(|loss| &loss.rule).collect();
    rules.sort();
    rules.dedup();
    count(rules.len(), "rule")
}

/// What is in the way, and the ways on.
fn refusals(status: &Status, out: &mut String) {
    for (path, why) in &status.refused {
        let (said, ways): (&str, Vec<(String, &str)>) = match why {
            Refusal::Edited => (
                "was edited by hand since it was published",
                vec![
                    (format!("signpost absorb {path}"), "takes the edit back into its rule"),
                    (format!("signpost publish --overwrite {path}"), "drops the edit"),
                ],
            ),
            Refusal::Foreign => (
                "was not written by Signpost",
                vec![
                    ("signpost adopt".to_owned(), "brings what it says into the guidance"),
                    (format!("signpost publish --overwrite {path}"), "replaces it"),
                ],
            ),
            Refusal::BehindLink => (
                "stands behind a link, and nothing is written through links",
                vec![(format!("ls -l {}", path.folder()), "shows where it leads; make it a folder of its own")],
            ),
            Refusal::NoFile => (
                "is a folder or something else that is no file, and a file should stand there",
                vec![(format!("mv {path} ELSEWHERE"), "makes room")],
            ),
            Refusal::EditedAndGone => (
                "was edited by hand, and its rules are gone",
                vec![
                    ("signpost adopt".to_owned(), "brings what it says into the guidance"),
                    (format!("signpost publish --overwrite {path}"), "removes it"),
                ],
            ),
        };
        *out += &format!("\n  {}  {said}\n", paint(FILE, path));
        let mut table = Table::new(6);
        for (command, what) in ways {
            table.row(vec![cell(command, COMMAND), cell(what, Style::new())]);
        }
        table.render(width(), out);
    }
}

/// What differs, line by line.
fn lines(shown: &Shown<'_>, out: &mut String) {
    // What somebody else wrote would only be shown to go.
    let refused = |path: &RepoPath| shown.status.refused.iter().find(|(own, _)| own == path).map(|(_, why)| *why);
    let differs = |change: &&Change| match refused(&change.path) {
        Some(why) => why != Refusal::Foreign,
        None => change.step != Step::Keep,
    };
    let mut changes = shown.status.changes.iter().filter(differs).peekable();
    if shown.lines {
        changes.for_each(|change| *out += &difference(change));
    } else if changes.peek().is_some() {
        let again = if shown.mode == Mode::Check { "--check" } else { "--dry-run" };
        *out += &format!("\n{} shows the lines\n", paint(COMMAND, format!("signpost publish {again} --diff")));
    }
}

/// Rules that are told with what was still to be filled in.
fn unfilled(plan: &Plan, out: &mut String) {
    let found: Vec<String> = (plan.sources.iter())
        .filter_map(|source| {
            let line = first_unfilled(&source.body)?;
            let before = source.rule.document.text.lines().count().saturating_sub(source.body.lines().count());
            Some(format!("{}:{}", source.path, before + line + 1))
        })
        .collect();
    if !found.is_empty() {
        let text = format!("Assistants are told what was still to be filled in: {}", found.join(", "));
        out.push('\n');
        for line in super::table::wrap(&text, width()) {
            *out += &format!("{}\n", paint(BAD, super::table::clean(&line)));
        }
    }
}

/// So many files beside published ones are listed.
const BESIDE: usize = 10;

/// What somebody wrote into an assistant's folder by hand.
pub fn beside(files: &[RepoPath], out: &mut String) {
    if files.is_empty() {
        return;
    }
    *out += &format!("\n{}\n", paint(STRONG, "Beside what is published, and not in the guidance"));
    for path in files.iter().take(BESIDE) {
        *out += &format!("  {}\n", paint(FILE, path));
    }
    if files.len() > BESIDE {
        *out += &format!(
            "  {}\n",
            paint(FAINT, format!("and {} more; --format json lists them", group(files.len() - BESIDE)))
        );
    }
    *out += &format!("  {} brings them in\n", paint(COMMAND, "signpost adopt"));
}

/// What stands about and is read by nobody.
fn abandoned(status: &Status, out: &mut String) {
    for path in &status.abandoned {
        *out += &format!(
            "\n  {}  was published once (so signpost.lock says), and no assistant reads it any more\n",
            paint(FILE, path)
        );
        *out += "      Delete it, or take its entry out of signpost.lock to keep it.\n";
    }
}

fn content(change: &Change) -> (String, String) {
    let old = match (&change.old, &change.old_link) {
        (Some(bytes), _) => String::from_utf8_lossy(bytes).into_owned(),
        (None, Some(target)) => format!("(a link to {target})\n"),
        (None, None) => String::new(),
    };
    let new = match &change.new {
        Some(Content::Text(text)) => text.clone(),
        Some(Content::Link(target)) => format!("(a link to {target})\n"),
        None => String::new(),
    };
    (old, new)
}

fn difference(change: &Change) -> String {
    let (old, new) = content(change);
    if old == new { String::new() } else { format!("\n{}", diff::unified(change.path.as_str(), &old, &new)) }
}

fn step_word(step: &Step) -> (&'static str, Style) {
    match step {
        Step::Create => ("new", GOOD),
        Step::Update => ("changed", BAD),
        Step::Remove => ("removed", BAD),
        Step::Keep => ("as it was", FAINT),
    }
}

fn planned<'p>(plan: &'p Plan, path: &RepoPath) -> Option<&'p Planned> {
    plan.files.iter().find(|file| file.path == *path)
}

/// What was written.
fn files(shown: &Shown<'_>, out: &mut String) {
    if shown.status.pending().next().is_none() {
        return;
    }
    out.push('\n');
    let mut table = Table::new(2);
    table.row(["", "file", "for", "from"].map(|head| cell(head, FAINT)).into());
    for change in shown.status.pending() {
        let (word, style) = step_word(&change.step);
        let file = planned(shown.plan, &change.path);
        let titles =
            file.map(|file| file.assistants.iter().map(|name| shown.workspace.title_of(name)).collect::<Vec<_>>());
        let from = match (file.map(|file| &file.sources[..]), &change.new) {
            (_, Some(Content::Link(target))) => format!("a link to {target}"),
            (Some([one]), _) => one.to_string(),
            (Some(many), _) => count(many.len(), "rule"),
            (None, _) => "its rules are gone".to_owned(),
        };
        let whom = titles.unwrap_or_default().join(", ");
        table.row(vec![
            cell(word, style),
            cell(change.path.to_string(), FILE),
            cell(whom, Style::new()),
            cell(from, FAINT),
        ]);
    }
    table.render(width(), out);
}

/// What the assistants can't express, the same things together.
fn losses(shown: &Shown<'_>, out: &mut String) {
    let plan = shown.plan;
    if plan.losses.is_empty() {
        return;
    }
    let written = shown.mode == Mode::Write && shown.status.refused.is_empty();
    let news = written && shown.status.pending().next().is_some();
    if !(news || matches!(shown.mode, Mode::DryRun | Mode::TooStrict)) {
        let text = format!("{} can't be told to every assistant as meant;", rules_with_losses(plan));
        *out += &format!("\n{text} {} shows why\n", paint(COMMAND, "signpost publish --dry-run"));
        return;
    }
    let mut by_kind: BTreeMap<(&str, &str), Vec<&Loss>> = BTreeMap::new();
    for loss in &plan.losses {
        by_kind.entry((&loss.assistant, loss.kind.name())).or_default().push(loss);
    }
    *out += &format!("\n{}\n", paint(STRONG, "What can't be told as it is meant"));
    for ((assistant, kind), losses) in by_kind {
        let title = shown.workspace.title_of(assistant);
        *out += &format!("\n  {title}  {}  {}\n", paint(BAD, kind), paint(FAINT, meaning(&losses[0].kind)));
        let mut table = Table::new(4);
        for loss in losses.iter().take(LOSSES) {
            table.row(vec![
                cell(loss.rule.to_string(), FILE),
                number(format!("{} tokens", tokens(loss.tokens))),
                cell(effect(loss), Style::new()),
            ]);
        }
        table.render(width(), out);
        if losses.len() > LOSSES {
            let rest = losses.len() - LOSSES;
            let sum: usize = losses.iter().skip(LOSSES).map(|loss| loss.tokens).sum();
            *out += &format!(
                "    {}\n",
                paint(
                    FAINT,
                    format!(
                        "and {}, {} tokens; --format json lists them",
                        count(rest, "more rule").replace("more rules", "rules more"),
                        tokens(sum)
                    )
                )
            );
        }
    }
}

/// What a kind of loss is.
fn meaning(kind: &LossKind) -> &'static str {
    match kind {
        LossKind::WiderReach => "it has no way to say what the rule applies to, so the text says it",
        LossKind::SpelledOut { .. } => "it knows no braces; the same files, in more patterns",
        LossKind::Changed { to: Reach::Standing, .. } => "it knows no rules that are picked when needed",
        LossKind::Changed { .. } => "it has no such reach",
        LossKind::LeftOut { no_room: true, .. } => "there is no room below its limit",
        LossKind::LeftOut { .. } => "it has no such reach, so it does not get the rule",
        LossKind::OverLimit { .. } => "it does not read so far",
        LossKind::AlsoRead { .. } => "it reads another assistant's file too, and so rules that are not for it",
    }
}

/// The effect of a loss, in files.
fn effect(loss: &Loss) -> String {
    match &loss.kind {
        LossKind::WiderReach => {
            let more = loss.told.saturating_sub(loss.meant);
            format!("meant for {}, told about {} more", count(loss.meant, "file"), group(more))
        }
        LossKind::SpelledOut { pattern } => format!("`{pattern}`"),
        LossKind::Changed { from, to: Reach::Standing } => {
            format!("in every conversation; meant to be {}", from.word())
        }
        LossKind::Changed { from, to } => format!("meant to be {}, is {}", from.word(), to.word()),
        LossKind::LeftOut { reach, .. } => format!("meant to be {}, for {}", reach.word(), count(loss.meant, "file")),
        LossKind::OverLimit { bytes } => format!("{} of it beyond the limit", count(*bytes as usize, "byte")),
        LossKind::AlsoRead { .. } => loss.file.as_ref().map(|file| format!("in {file}")).unwrap_or_default(),
    }
}
