use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use crate::{apply, ask};
use clap::Args;
use signpost_core::change::init::begin;
use signpost_core::change::publish::changes::Change;

/// Begin: write signpost.toml and a few rules made of facts found here
///
/// Looks at manifests, lockfiles, folders and the instruction files that are here, and writes what the project is
/// (for you to fill in), how it is laid out, its stack with versions, and the commands that really exist; nothing
/// that would be true anywhere. Shows what it would write and asks. Files that are there already stay as they are.
#[derive(Debug, Args)]
pub struct InitArgs {
    /// Write without asking
    #[arg(long, short)]
    yes: bool,
    /// Show what would be written, and write nothing
    #[arg(long, conflicts_with = "yes")]
    dry_run: bool,
}

pub fn run(args: &InitArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let alone = if args.dry_run { None } else { Some(apply::alone(&session)?) };
    let workspace = session.workspace()?;
    let project = session.project(&workspace)?;
    let folder = session.root().file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let beginning = begin(&workspace, &project, &folder)?;
    let mut written = args.yes && !beginning.files.is_empty();
    if global.format() == Format::Text {
        render::print(&render::init::preview(&beginning))?;
    }
    if !args.yes && !args.dry_run && !beginning.files.is_empty() && ask::can_ask() {
        written = ask::yes("Write these files?")?;
    }
    if let Some(alone) = alone.as_ref().filter(|_| written) {
        let changes = beginning.files.iter().map(|file| Change::create(&file.path, &file.text)).collect();
        apply::create(session.root(), changes, workspace.lock()?, alone)?;
    }
    match global.format() {
        Format::Text if args.dry_run => render::print("Nothing written: a dry run.\n")?,
        Format::Text => render::print(&render::init::outcome(&beginning, written))?,
        Format::Json => session.print_json(&workspace, &render::init::json(&beginning, written))?,
    }
    let done = written || args.dry_run || beginning.files.is_empty();
    Ok(if done { Exit::Fine } else { Exit::Findings }.and(session.end(&workspace)))
}
