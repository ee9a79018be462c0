//! `signpost parity`.

use super::table::{Table, cell, number};
use super::{BAD, COMMAND, FAINT, FILE, GOOD, STRONG, paint, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::repo_path::Location;
use signpost_core::base::wording::{count, group, shorten};
use signpost_core::inspect::parity::{Counts, Kind, Parity, Row};
use signpost_core::project::workspace::Workspace;

/// So many rows of a kind, and so many zones, are shown unless all are asked for.
const SHOWN: usize = 10;

/// For people.
pub fn text(workspace: &Workspace<'_>, parity: &Parity, all: bool) -> String {
    let names: Vec<&str> = parity.assistants.iter().map(|name| workspace.title_of(name)).collect();
    if names.len() < 2 {
        let who = names.first().map_or("No assistant is".to_owned(), |name| format!("Only {name} is"));
        let help = "name others in signpost.toml, `[project] assistants = […]`, or with --assistant";
        return format!("{who} in use here, so there is nothing to compare.\n{}\n", paint(FAINT, help));
    }
    let differing: Vec<&Row> = parity.rows.iter().filter(|row| row.meant.is_none()).collect();
    let meant: Vec<&Row> = parity.rows.iter().filter(|row| row.meant.is_some()).collect();
    let zones = parity.zones.iter().filter(|zone| zone.differ > 0).count();
    let who = match &names[..] {
        [one, other] => format!("{one} and {other}"),
        many => format!("{} assistants", many.len()),
    };
    let mut out = if differing.is_empty() {
        let same = if meant.is_empty() { "told the same" } else { "told the same, but for what is meant to differ" };
        paint(
            GOOD,
            format!("{who} are {same}: {} in {}.", count(parity.same, "directive"), count(parity.zones.len(), "zone")),
        ) + "\n"
    } else {
        let differ = if differing.len() == 1 {
            "1 directive differs".to_owned()
        } else {
            format!("{} directives differ", group(differing.len()))
        };
        paint(
            BAD,
            format!("{who} are told different things: {differ}, in {zones} of {}.", count(parity.zones.len(), "zone")),
        ) + "\n"
    };
    for (kind, title) in [
        (Kind::Opposed, "Told the opposite"),
        (Kind::Missing, "Not told to all"),
        (Kind::Words, "In nearly the same words"),
        (Kind::Reach, "Told for other files, or in another way"),
    ] {
        let rows: Vec<&Row> = differing.iter().filter(|row| row.kind() == kind).copied().collect();
        if !rows.is_empty() {
            out += &format!("\n{}  {}\n", paint(STRONG, title), paint(FAINT, count(rows.len(), "directive")));
            matrix(parity, &rows, &names, all, &mut out);
        }
    }
    if !differing.is_empty() {
        zone_table(parity, &names, all, &mut out);
    }
    if !meant.is_empty() && all {
        out += &format!("\n{}\n", paint(STRONG, "Meant to differ"));
        let mut table = Table::new(2);
        for row in &meant {
            let reason = row.meant.clone().unwrap_or_default();
            table.row(vec![cell(shorten(&row.text, 60), Style::new()), cell(reason, FAINT)]);
        }
        table.render(width(), &mut out);
    } else if !meant.is_empty() {
        out += &format!("\n{} meant to differ; {} shows them\n", are(meant.len()), paint(COMMAND, "--all"));
    }
    for reason in &parity.idle {
        out += &format!("\n{}\n", paint(BAD, format!("[[parity.allow]] “{reason}” allows nothing any more")));
    }
    out
}

fn are(number: usize) -> String {
    if number == 1 { "1 directive is".to_owned() } else { format!("{} directives are", group(number)) }
}

/// The zones, those with most differences first.
fn zone_table(parity: &Parity, names: &[&str], all: bool, out: &mut String) {
    let mut zones: Vec<_> = parity.zones.iter().filter(|zone| zone.differ > 0).collect();
    zones.sort_by(|a, b| (b.differ, b.files).cmp(&(a.differ, a.files)).then_with(|| a.example.cmp(&b.example)));
    let shown = if all { zones.len() } else { SHOWN.min(zones.len()) };
    out.push('\n');
    let mut table = Table::new(2);
    let mut head = vec![cell("zone, by a file of it", FAINT), head_cell("files")];
    // Where there is no room for the assistants, how much differs is what counts.
    let longest = zones[..shown].iter().map(|zone| zone.example.as_str().len()).max().unwrap_or(0);
    let columns: usize = names.iter().map(|name| short(name).chars().count() + 2).sum();
    let wide = longest + columns + 20 <= width();
    head.extend(names.iter().filter(|_| wide).map(|name| head_cell(&short(name))));
    head.push(head_cell("differ"));
    table.row(head);
    for zone in &zones[..shown] {
        let mut cells = vec![cell(zone.example.to_string(), FILE), number(group(zone.files))];
        cells.extend(zone.told.iter().filter(|_| wide).map(|told| number(group(*told))));
        cells.push(number(group(zone.differ)));
        table.row(cells);
    }
    table.render(width(), out);
    if shown < zones.len() {
        *out += &format!(
            "  {}\n",
            paint(
                FAINT,
                format!("and {}", count(zones.len() - shown, "more zone").replace("more zones", "zones more"))
            )
        );
    }
}

fn head_cell(text: &str) -> super::table::Cell {
    number(text)
}

fn short(name: &str) -> String {
    shorten(name, 12)
}

/// A column for each assistant, then the directive, the words that differ marked.
fn matrix(parity: &Parity, rows: &[&Row], names: &[&str], all: bool, out: &mut String) {
    let mut table = Table::new(2);
    let mut head: Vec<_> = names.iter().map(|name| cell(short(name), FAINT)).collect();
    head.push(cell("directive", FAINT));
    table.row(head);
    let shown = if all { rows.len() } else { SHOWN.min(rows.len()) };
    let mut done: Vec<*const Row> = Vec::new();
    let mut order: Vec<&Row> = Vec::new();
    // Rows that belong together stand together.
    for row in rows {
        for one in [Some(*row), row.near.map(|near| &parity.rows[near])].into_iter().flatten() {
            if !done.contains(&std::ptr::from_ref(one)) {
                done.push(std::ptr::from_ref(one));
                order.push(one);
            }
        }
    }
    for row in &order[..shown.min(order.len())] {
        let most = row.counts.iter().map(Counts::any).max().unwrap_or(0);
        let mut cells: Vec<_> = row
            .counts
            .iter()
            .map(|counts| {
                let (word, style) = counts_word(counts, most);
                cell(word, style)
            })
            .collect();
        let text = match row.near {
            Some(near) if !row.opposed => marked(&row.text, &parity.rows[near].text),
            _ => row.text.clone(),
        };
        let place = row.places.iter().flatten().next().map(|(file, _)| file.to_string()).unwrap_or_default();
        cells.push(super::table::cell_with_tail(shorten(&text, 160), Style::new(), &place, FAINT));
        table.row(cells);
    }
    table.render(width(), out);
    if shown < order.len() {
        let rest = order.len() - shown;
        *out +=
            &format!("  {}\n", paint(FAINT, format!("and {rest} more; --all shows them, --between A B compares two")));
    }
}

/// What an assistant is told of a directive, in a word.
fn counts_word(counts: &Counts, most: usize) -> (String, Style) {
    match counts {
        Counts { told: 0, offered: 0, callable: 0 } => ("–".to_owned(), BAD),
        Counts { told: 0, offered: 0, .. } => ("callable".to_owned(), Style::new()),
        Counts { told: 0, .. } => ("offered".to_owned(), Style::new()),
        counts if counts.told < most => (count(counts.told, "file"), Style::new()),
        _ => ("told".to_owned(), GOOD),
    }
}

/// The words that the other one does not have, in angle quotes.
fn marked(text: &str, other: &str) -> String {
    let plain = |word: &str| word.trim_matches(|c: char| !c.is_alphanumeric()).to_lowercase();
    let known: Vec<String> = other.split_whitespace().map(plain).collect();
    let mut out: Vec<String> = Vec::new();
    let mut open = false;
    for word in text.split_whitespace() {
        let differs = !known.contains(&plain(word));
        if differs && !open {
            out.push(format!("‹{word}"));
        } else if !differs && open {
            if let Some(last) = out.last_mut() {
                last.push('›');
            }
            out.push(word.to_owned());
        } else {
            out.push(word.to_owned());
        }
        open = differs;
    }
    if open && let Some(last) = out.last_mut() {
        last.push('›');
    }
    out.join(" ")
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct ParityJson {
    schema: &'static str,
    same: bool,
    assistants: Vec<String>,
    /// Those of them whose profiles are guesses.
    guessed: Vec<String>,
    zones: Vec<ZoneJson>,
    directives: Vec<RowJson>,
    directives_same: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ZoneJson {
    example: String,
    folder: String,
    files: usize,
    told: Vec<usize>,
    differ: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct RowJson {
    text: String,
    kind: &'static str,
    files: usize,
    example: String,
    zones: Vec<usize>,
    near: Option<String>,
    meant: Option<String>,
    assistants: Vec<CellJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct CellJson {
    assistant: String,
    files_told: usize,
    files_offered: usize,
    files_callable: usize,
    path: Option<String>,
    line: Option<usize>,
}

/// For programs: `signpost.parity/1`.
pub fn json(workspace: &Workspace<'_>, parity: &Parity) -> ParityJson {
    let line =
        |(file, span): &(Location, std::ops::Range<usize>)| workspace.document(file).lines_index().line(span.start);
    let row = |row: &Row| RowJson {
        text: row.text.clone(),
        kind: row.kind().word(),
        files: row.files,
        example: row.example.to_string(),
        zones: row.zones.clone(),
        near: row.near.map(|near| parity.rows[near].text.clone()),
        meant: row.meant.clone(),
        assistants: (0..parity.assistants.len())
            .map(|at| CellJson {
                assistant: parity.assistants[at].clone(),
                files_told: row.counts[at].told,
                files_offered: row.counts[at].offered,
                files_callable: row.counts[at].callable,
                path: row.places[at].as_ref().map(|(file, _)| file.to_string()),
                line: row.places[at].as_ref().map(line),
            })
            .collect(),
    };
    ParityJson {
        schema: "signpost.parity/1",
        same: parity.holds(),
        assistants: parity.assistants.clone(),
        guessed: super::guessed_of(workspace, &parity.assistants),
        zones: parity
            .zones
            .iter()
            .map(|zone| ZoneJson {
                example: zone.example.to_string(),
                folder: zone.folder.to_string(),
                files: zone.files,
                told: zone.told.clone(),
                differ: zone.differ,
            })
            .collect(),
        directives: parity.rows.iter().map(row).collect(),
        directives_same: parity.same,
    }
}
