//! `signpost init`.

use super::{COMMAND, FAINT, FILE, GOOD, paint};
use serde::Serialize;
use signpost_core::base::wording::count;
use signpost_core::change::init::Beginning;

/// What would be written, for people.
pub fn preview(beginning: &Beginning) -> String {
    let mut out = String::new();
    for file in &beginning.files {
        out += &format!("{}\n", paint(FILE, &file.path));
        out += &super::quoted(&file.text);
        out.push('\n');
    }
    if !beginning.more_commands.is_empty() && !beginning.files.is_empty() {
        let cut = beginning.more_commands.iter().map(|command| format!("`{command}`")).collect::<Vec<_>>().join(", ");
        let heads = count(beginning.more_commands.len(), "more command");
        for line in super::table::wrap(&format!("{heads} left out, for you to choose from: {cut}"), super::width()) {
            out += &format!("{}\n", paint(FAINT, super::table::clean(&line)));
        }
        out.push('\n');
    }
    for path in &beginning.there {
        out += &format!("{}  {}\n", paint(FILE, path), paint(FAINT, "is there already and stays as it is"));
    }
    out
}

/// What became of it, for people.
pub fn outcome(beginning: &Beginning, written: bool) -> String {
    let mut out = if beginning.files.is_empty() {
        "There is nothing to write: all of it is here already.\n".to_owned()
    } else if written {
        paint(GOOD, format!("Wrote {}.", count(beginning.files.len(), "file"))) + "\n"
    } else {
        format!("Nothing was written; {} writes the files above.\n", paint(COMMAND, "signpost init --yes"))
    };
    out.push('\n');
    if beginning.adoptable > 0 {
        let here = if beginning.adoptable == 1 { "the instruction file" } else { "the instruction files" };
        out += &format!(
            "{} brings {here} that are here into the guidance ({})\n",
            paint(COMMAND, "signpost adopt"),
            beginning.adoptable
        );
    }
    if written {
        out += &format!("{} finds what is left to fill in\n", paint(COMMAND, "signpost lint guidance"));
        out += &format!("{} writes each assistant's files\n", paint(COMMAND, "signpost publish"));
    }
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct InitJson {
    schema: &'static str,
    written: bool,
    files: Vec<FileJson>,
    there: Vec<String>,
    adoptable: usize,
    more_commands: Vec<String>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct FileJson {
    path: String,
    text: String,
}

/// For programs: `signpost.init/1`.
pub fn json(beginning: &Beginning, written: bool) -> InitJson {
    let file =
        |file: &signpost_core::change::init::Starter| FileJson { path: file.path.to_string(), text: file.text.clone() };
    InitJson {
        schema: "signpost.init/1",
        written,
        files: beginning.files.iter().map(file).collect(),
        there: beginning.there.iter().map(ToString::to_string).collect(),
        adoptable: beginning.adoptable,
        more_commands: beginning.more_commands.clone(),
    }
}
