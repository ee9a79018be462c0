//! From the core's answers to text and JSON. Nothing is computed here.

pub mod absorb;
pub mod adopt;
pub mod brief;
pub mod diff;
pub mod doubts;
pub mod draft;
pub mod explain;
pub mod facts;
pub mod init;
pub mod lint;
pub mod lint_formats;
pub mod parity;
pub mod profile;
pub mod publish;
pub mod sarif;
pub mod scope;
pub mod snippet;
pub mod split;
pub mod survey;
pub mod table;
pub mod weigh;

use crate::exit::Failure;
use anstyle::{AnsiColor, Effects, Style};
use signpost_core::project::workspace::Workspace;
use std::collections::BTreeMap;
use std::io::Write;
use std::sync::atomic::{AtomicBool, Ordering};

/// What the answer is about.
pub const STRONG: Style = Style::new().effects(Effects::BOLD);
/// What explains it.
pub const FAINT: Style = AnsiColor::BrightBlack.on_default();
/// A file.
pub const FILE: Style = AnsiColor::Cyan.on_default();
/// What goes well.
pub const GOOD: Style = AnsiColor::Green.on_default();
/// What does not.
pub const BAD: Style = AnsiColor::Yellow.on_default();
/// A command to type.
pub const COMMAND: Style = AnsiColor::Magenta.on_default();

/// `text` in a style.
pub fn paint(style: Style, text: impl std::fmt::Display) -> String {
    format!("{style}{text}{style:#}")
}

/// A file's text behind a line at the left.
pub fn quoted(text: &str) -> String {
    let line = |line: &str| format!("{} {line}\n", paint(FAINT, "│"));
    let wrapped =
        |text: &str| table::wrap(&snippet::shown(text), width() - 2).iter().map(|part| line(part)).collect::<String>();
    text.lines().map(wrapped).collect()
}

/// How many columns there are to write in.
pub fn width() -> usize {
    let asked = std::env::var("COLUMNS").ok().and_then(|columns| columns.parse().ok());
    let terminal = || terminal_size::terminal_size().map(|(width, _)| usize::from(width.0));
    asked.or_else(terminal).unwrap_or(100).clamp(60, 140)
}

/// Whether tokens are counted rather than estimated; the binary alone has such state.
static EXACT: AtomicBool = AtomicBool::new(false);

/// From now on tokens are shown as counted.
pub fn count_exactly() {
    EXACT.store(true, Ordering::Relaxed);
}

/// Whether tokens are shown as counted.
pub fn is_exact() -> bool {
    EXACT.load(Ordering::Relaxed)
}

/// `≈1,234`, and without the sign where it was counted.
pub fn tokens(number: usize) -> String {
    let sign = if is_exact() { "" } else { "≈" };
    format!("{sign}{}", signpost_core::base::wording::group(number))
}

/// Prints a result.
pub fn print(text: &str) -> Result<(), Failure> {
    let mut out = anstream::stdout().lock();
    out.write_all(text.as_bytes())?;
    out.flush()?;
    Ok(())
}

/// A document with what could not be read. That is asked for last: a document may be made while it is written.
#[derive(serde::Serialize)]
pub struct Whole<'a, T> {
    #[serde(flatten)]
    pub document: &'a T,
    pub unread: Unread<'a>,
}

/// What could not be read, and why: paths with reasons.
pub struct Unread<'a>(pub &'a dyn Fn() -> Vec<(String, String)>);

impl serde::Serialize for Unread<'_> {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_seq((self.0)().iter().map(|(path, why)| BTreeMap::from([("path", path), ("why", why)])))
    }
}

/// Those of some assistants whose profiles are guesses.
pub fn guessed_of(workspace: &Workspace<'_>, names: &[String]) -> Vec<String> {
    let guessed: Vec<&str> = workspace.guessed().map(|profile| profile.name.as_str()).collect();
    names.iter().filter(|name| guessed.contains(&name.as_str())).cloned().collect()
}

/// Prints a result as one JSON document.
pub fn print_json(value: &impl serde::Serialize) -> Result<(), Failure> {
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    serde_json::to_writer_pretty(&mut out, value).map_err(|error| match error.io_error_kind() {
        Some(kind) => Failure::from(std::io::Error::from(kind)),
        None => Failure::told(format!("cannot write JSON: {error}"), ""),
    })?;
    writeln!(out)?;
    out.flush()?;
    Ok(())
}

/// Says on standard error why a command could not run.
pub fn failure(failure: &Failure) {
    match failure {
        Failure::Config(error) => anstream::eprintln!("{}", snippet::config_error(error, "error")),
        Failure::Told(message, help) => {
            anstream::eprintln!("{}", snippet::plain("error", message));
            if let Some(help) = help {
                anstream::eprintln!("{}", snippet::plain("help", help));
            }
        }
        Failure::Closed => {}
    }
}
