//! `signpost at`.

use super::table::{Table, cell, number, wrap};
use super::{BAD, COMMAND, FAINT, FILE, GOOD, STRONG, paint, tokens, width};
use crate::exit::Failure;
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::base::wording::{count, group};
use signpost_core::inspect::on_the_way::Trouble;
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Brief, Entry, LeftOut, State, Why};
use std::collections::{BTreeMap, HashMap, HashSet};

/// Briefs on their way to people: files that every assistant is told the same about stand together, in the order of the
/// first of them, and only that one's briefs are kept.
#[derive(Default)]
pub struct Groups {
    groups: Vec<(Vec<RepoPath>, Vec<Brief>)>,
    known: HashMap<Vec<String>, usize>,
    left_out: bool,
}

impl Groups {
    /// Adds the briefs of some files: of one, or of one conversation about several.
    pub fn add(&mut self, files: Vec<RepoPath>, briefs: Vec<Brief>) {
        self.left_out |= briefs.iter().any(|brief| !brief.left_out.is_empty());
        let look = briefs.iter().map(look_of).collect();
        let number = *self.known.entry(look).or_insert_with(|| {
            self.groups.push((Vec::new(), briefs));
            self.groups.len() - 1
        });
        self.groups[number].0.extend(files);
    }

    /// For people.
    pub fn text(
        &self,
        workspace: &Workspace<'_>,
        missing: &dyn Fn(&RepoPath) -> bool,
        start: &RepoPath,
        why_not: bool,
    ) -> String {
        let mut out = String::new();
        let common = self.common();
        if !common.is_empty() {
            let files: usize = self.groups.iter().map(|(files, _)| files.len()).sum();
            out += &format!("{}\n", paint(STRONG, format!("All {} files", group(files))));
            for brief in &self.groups[0].1 {
                if common.contains_key(&brief.assistant) {
                    one(
                        workspace,
                        brief,
                        why_not,
                        &|line| common[&brief.assistant].contains(line),
                        Part::Common,
                        &mut out,
                    );
                }
            }
        }
        for (number, (together, own)) in self.groups.iter().enumerate() {
            if number > 0 || !common.is_empty() {
                out.push('\n');
            }
            out += &heading(together, missing, start);
            if own.is_empty() {
                out += &nobody(workspace);
            }
            let mut more = false;
            for brief in own {
                let known = common.get(&brief.assistant);
                let shows = |line: &String| known.is_none_or(|known| !known.contains(line));
                let part = if known.is_some() { Part::Beside } else { Part::Whole };
                more |= one(workspace, brief, why_not, &shows, part, &mut out);
            }
            if !more && !own.is_empty() {
                out += &format!("  {}\n", paint(FAINT, "nothing more"));
            }
        }
        if self.left_out && !why_not {
            let hint = format!(
                "{} says why rules stay out, {} prints what was told",
                paint(COMMAND, "--why-not"),
                paint(COMMAND, "--text")
            );
            out += &format!("\n{hint}\n");
        }
        out
    }
}

impl Groups {
    /// What every file of every group is told alike, by assistant: said once, above the groups.
    fn common(&self) -> BTreeMap<String, HashSet<String>> {
        let [(_, first), others @ ..] = &self.groups[..] else { return BTreeMap::new() };
        if others.is_empty() {
            return BTreeMap::new();
        }
        let lines = |brief: &Brief| -> HashSet<String> {
            brief.entries.iter().map(line_of).chain(brief.left_out.iter().map(line_of_left)).collect()
        };
        let mut common: BTreeMap<String, HashSet<String>> =
            first.iter().map(|brief| (brief.assistant.clone(), lines(brief))).collect();
        for (_, briefs) in others {
            common.retain(|assistant, known| {
                let Some(brief) = briefs.iter().find(|brief| brief.assistant == *assistant) else { return false };
                let own = lines(brief);
                known.retain(|line| own.contains(line));
                !known.is_empty()
            });
        }
        // What only stays out is no headline.
        common.retain(|_, known| known.iter().any(|line| !line.starts_with('-')));
        common
    }
}

/// Which part of a brief is shown.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Part {
    Whole,
    /// What all files have in common.
    Common,
    /// What some have beside that.
    Beside,
}

fn line_of(entry: &Entry) -> String {
    format!("{} {} {}", entry.state.word(), entry.path, entry.why.text())
}

fn line_of_left(left: &LeftOut) -> String {
    format!("- {} {}", left.what, left.why.code())
}

/// How many files of a group are named.
const NAMED: usize = 6;

fn heading(files: &[RepoPath], missing: &dyn Fn(&RepoPath) -> bool, start: &RepoPath) -> String {
    let mut out = String::new();
    for file in files.iter().take(NAMED) {
        out += &paint(STRONG.fg_color(FILE.get_fg_color()), super::table::clean(&file.to_string()));
        if missing(file) {
            out += &paint(FAINT, "  (not there yet)");
        }
        if !start.is_root() {
            out += &paint(FAINT, format!("  in a conversation that started in {start}/"));
        }
        out.push('\n');
    }
    if files.len() > NAMED {
        out += &format!("{}\n", paint(FAINT, format!("and {} more", files.len() - NAMED)));
    }
    out
}

/// What a person sees of a brief, but for the file's own name.
fn look_of(brief: &Brief) -> String {
    let mut look = brief.assistant.clone();
    for hidden in &brief.hidden {
        look += &format!("\n{} {}", hidden.by, hidden.hit.line);
    }
    for line in brief.entries.iter().map(line_of).chain(brief.left_out.iter().map(line_of_left)) {
        look += &format!("\n{line}");
    }
    look
}

fn nobody(workspace: &Workspace<'_>) -> String {
    let titles: Vec<&str> = workspace.profiles.iter().map(|profile| profile.title.as_str()).collect();
    let looked = format!("No assistant is told anything here. Looked for the files of: {}.", titles.join(", "));
    let next = format!("{} shows all that there is.", paint(COMMAND, "signpost survey"));
    format!("\n{looked}\n{next}\n")
}

/// One assistant's brief, as far as it is shown; whether anything is.
fn one(
    workspace: &Workspace<'_>,
    brief: &Brief,
    why_not: bool,
    shows: &dyn Fn(&String) -> bool,
    part: Part,
    out: &mut String,
) -> bool {
    let title = workspace.title_of(&brief.assistant);
    let entries: Vec<(usize, &Entry)> =
        brief.entries.iter().enumerate().filter(|(_, entry)| shows(&line_of(entry))).collect();
    let left_out: Vec<&LeftOut> = brief.left_out.iter().filter(|left| shows(&line_of_left(left))).collect();
    if part == Part::Beside && entries.is_empty() && brief.hidden.is_empty() && (left_out.is_empty() || !why_not) {
        return false;
    }
    let of = |state| entries.iter().filter(move |(_, entry)| entry.state == state);
    let loaded = of(State::Loaded).count();
    let weight: usize = of(State::Loaded).map(|(_, entry)| entry.tokens).sum();
    let told = match (loaded, part) {
        (0, Part::Beside) => "nothing more".to_owned(),
        (0, _) => "nothing".to_owned(),
        (_, Part::Beside) => {
            format!("{} more, {} tokens in all", count(loaded, "file"), tokens(brief.tokens))
        }
        (_, Part::Common) => format!("{}, {} tokens", count(loaded, "file"), tokens(weight)),
        (_, Part::Whole) => format!("{}, {} tokens", count(loaded, "file"), tokens(brief.tokens)),
    };
    out.push_str(&format!("\n{}  {told}\n", paint(STRONG, title)));
    for hidden in &brief.hidden {
        let line = format!(
            "  The file is hidden from {title} by {}, line {}: {}",
            hidden.by, hidden.hit.line, hidden.hit.pattern
        );
        out.push_str(&format!("{}\n", paint(BAD, super::table::clean(&line))));
    }
    let mut table = Table::new(2);
    for (at, entry) in of(State::Loaded) {
        // Its turn among all that is told, which differs from file to file.
        let turn = if part == Part::Common { "·".to_owned() } else { (at + 1).to_string() };
        table.row(row(turn, entry, brief.files.len(), GOOD));
    }
    for (state, mark) in [(State::Offered, "may pick"), (State::Callable, "if named")] {
        for (_, entry) in of(state) {
            table.row(row(mark.to_owned(), entry, brief.files.len(), FAINT));
        }
    }
    table.render(width(), out);
    if left_out.is_empty() {
        return true;
    }
    if !why_not {
        let rules = if left_out.len() == 1 {
            "1 rule stays out".to_owned()
        } else {
            format!("{} rules stay out", left_out.len())
        };
        out.push_str(&format!("  {}\n", paint(FAINT, rules)));
        return true;
    }
    out.push_str(&format!("  {}\n", paint(FAINT, "Left out:")));
    let mut table = Table::new(2);
    for left in left_out {
        let style =
            if matches!(left.why.code(), "out-of-scope" | "other-folder" | "nearer-file") { Style::new() } else { BAD };
        table.row(vec![cell("-", FAINT), cell(left.what.to_string(), FILE), cell(left.why.text(), style)]);
    }
    table.render(width(), out);
    true
}

/// Files on the way that look like instructions and that nobody reads, or not as they are meant.
pub fn trouble(found: &[Trouble], out: &mut String) {
    if found.is_empty() {
        return;
    }
    *out += &format!("\n{}\n", paint(STRONG, "On the way, and not read as it is meant"));
    let mut table = Table::new(2);
    for one in found {
        table.row(vec![cell(one.path.to_string(), FILE), cell(one.why.clone(), BAD)]);
    }
    table.render(width(), out);
}

fn row(mark: String, entry: &Entry, files: usize, style: Style) -> Vec<super::table::Cell> {
    let mut why = match &entry.why {
        Why::Offered { summary: Some(summary) } => format!("“{summary}”"),
        Why::Offered { summary: None } => "has no summary to be picked by".to_owned(),
        Why::Callable => String::new(),
        why => why.text(),
    };
    if let Some(line) = entry.cut_at_line {
        why += &format!("; cut off in line {line}");
    }
    // In a conversation about several files a scoped rule is there for some of them.
    if matches!(entry.why, Why::InScope { .. }) && entry.files.len() < files {
        let names: Vec<String> = entry.files.iter().take(3).map(ToString::to_string).collect();
        let more = entry.files.len().saturating_sub(3);
        why += &format!(
            ", for {}{}",
            names.join(", "),
            if more > 0 { format!(" and {more} more") } else { String::new() }
        );
    }
    let weight = number(tokens(entry.tokens));
    vec![cell(mark, style), cell(entry.path.to_string(), FILE), weight, cell(why, Style::new())]
}

/// Exactly what the assistants have been told. A line before each file says which it is, on a terminal in
/// another colour.
pub fn told(workspace: &Workspace<'_>, briefs: &[Brief], several: bool) -> String {
    let mut out = String::new();
    for brief in briefs {
        if several {
            let title = workspace.title_of(&brief.assistant);
            let files: Vec<String> = brief.files.iter().map(ToString::to_string).collect();
            for line in wrap(&format!("===== {title}, {} =====", files.join(", ")), 200) {
                out += &format!("{}\n", paint(FAINT, line));
            }
        }
        for entry in brief.entries.iter().filter(|entry| entry.state == State::Loaded) {
            let cut = entry.cut_at_line.map(|line| format!(", cut off in line {line}")).unwrap_or_default();
            out += &format!("{}\n", paint(FAINT, format!("----- {}{cut} -----", entry.path)));
            let text = entry.text();
            out += &text;
            if !text.ends_with('\n') {
                out.push('\n');
            }
        }
    }
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct BriefsJson<'b> {
    schema: &'static str,
    start: String,
    #[cfg_attr(test, schemars(with = "Vec<BriefJson>"))]
    briefs: Streamed<'b>,
    misplaced: Vec<MisplacedJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct MisplacedJson {
    path: String,
    why: String,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct BriefJson {
    file: String,
    files: Vec<String>,
    assistant: String,
    guessed: bool,
    hidden_by: Option<HiddenJson>,
    tokens: usize,
    entries: Vec<EntryJson>,
    left_out: Vec<LeftOutJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct HiddenJson {
    path: String,
    line: usize,
    pattern: String,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct EntryJson {
    path: String,
    place: String,
    level: &'static str,
    state: &'static str,
    reach: &'static str,
    tokens: usize,
    cut_at_line: Option<usize>,
    via: Option<String>,
    files: Vec<String>,
    why: WhyJson,
    #[serde(skip_serializing_if = "Option::is_none")]
    text: Option<String>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct LeftOutJson {
    path: String,
    place: String,
    why: WhyJson,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct WhyJson {
    code: &'static str,
    text: String,
}

/// For programs: `signpost.brief/1`. The briefs come one after the other, so that thousands need no memory. `with_text`:
/// each loaded entry says what was told.
pub fn json<'b>(
    start: &RepoPath,
    briefs: &'b dyn Fn(&mut Each<'_>) -> Result<(), Failure>,
    with_text: bool,
    trouble: &[Trouble],
) -> BriefsJson<'b> {
    let one = |one: &Trouble| MisplacedJson { path: one.path.to_string(), why: one.why.clone() };
    let misplaced = trouble.iter().map(one).collect();
    BriefsJson {
        schema: "signpost.brief/1",
        start: start.to_string(),
        briefs: Streamed { briefs, with_text },
        misplaced,
    }
}

/// What is done with each brief; an error ends it.
pub type Each<'e> = dyn FnMut(&Brief) -> Result<(), Failure> + 'e;

/// Briefs that are made while they are written.
struct Streamed<'b> {
    briefs: &'b dyn Fn(&mut Each<'_>) -> Result<(), Failure>,
    with_text: bool,
}

impl Serialize for Streamed<'_> {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        use serde::ser::{Error, SerializeSeq};
        let mut list = serializer.serialize_seq(None)?;
        let mut failed = None;
        let done = (self.briefs)(&mut |brief| {
            list.serialize_element(&brief_json(brief, self.with_text)).map_err(|error| {
                let message = error.to_string();
                failed = Some(error);
                Failure::told(message, "")
            })
        });
        match (failed, done) {
            (Some(error), _) => Err(error),
            (None, Err(failure)) => Err(Error::custom(failure.message())),
            (None, Ok(())) => list.end(),
        }
    }
}

fn brief_json(brief: &Brief, with_text: bool) -> BriefJson {
    let entry = |entry: &Entry| EntryJson {
        path: entry.path.to_string(),
        place: entry.place.clone(),
        level: entry.level.word(),
        state: entry.state.word(),
        reach: entry.reach.word(),
        tokens: entry.tokens,
        cut_at_line: entry.cut_at_line,
        via: entry.via.as_ref().map(ToString::to_string),
        files: entry.files.iter().map(ToString::to_string).collect(),
        why: WhyJson { code: entry.why.code(), text: entry.why.text() },
        text: (with_text && entry.state == State::Loaded).then(|| entry.text().into_owned()),
    };
    let left_out = |left: &LeftOut| LeftOutJson {
        path: left.what.to_string(),
        place: left.place.clone(),
        why: WhyJson { code: left.why.code(), text: left.why.text() },
    };
    BriefJson {
        file: brief.files.first().map(ToString::to_string).unwrap_or_default(),
        files: brief.files.iter().map(ToString::to_string).collect(),
        assistant: brief.assistant.clone(),
        guessed: brief.guessed,
        hidden_by: brief.hidden.first().map(|hidden| HiddenJson {
            path: hidden.by.to_string(),
            line: hidden.hit.line,
            pattern: hidden.hit.pattern.clone(),
        }),
        tokens: brief.tokens,
        entries: brief.entries.iter().map(entry).collect(),
        left_out: brief.left_out.iter().map(left_out).collect(),
    }
}
