use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use crate::{apply, git};
use clap::Args;
use signpost_core::change::absorb::{Absorbed, absorb};
use signpost_core::change::publish::changes::Change;
use signpost_core::project::lock::Lock;
use std::path::PathBuf;

/// Take a hand edit in a published file back into the rule it came from
///
/// What was published, what the rule says now and what stands in the file are merged, line by line; where both
/// sides changed the same, the conflict is shown and left to you. Without a file, every published file that was
/// edited is taken back. Afterwards `signpost publish` tells the other assistants too.
#[derive(Debug, Args)]
pub struct AbsorbArgs {
    /// Published files that were edited [default: all of them]
    #[arg(value_name = "FILE")]
    files: Vec<PathBuf>,
    /// Write nothing; show what would change in the rules
    #[arg(long)]
    dry_run: bool,
}

pub fn run(args: &AbsorbArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let alone = if args.dry_run { None } else { Some(apply::alone(&session)?) };
    let files = args.files.iter().map(|path| session.path(path)).collect::<Result<Vec<_>, _>>()?;
    let workspace = session.workspace()?;
    let archive = |path: &_, hash: &str| git::version_with(session.root(), path, hash);
    let done = absorb(&workspace, &global.assistant, &files, &archive)?;
    if let Some(alone) = &alone {
        let lock = workspace.lock()?;
        let new = absorbed(&done, &lock);
        apply::rules_then_lock(session.root(), rules(&done), lock, new, alone)?;
    }
    match global.format() {
        Format::Text => render::print(&render::absorb::text(&done, args.dry_run))?,
        Format::Json => session.print_json(&workspace, &render::absorb::json(&done))?,
    }
    Ok(if done.conflicts.is_empty() { Exit::Fine } else { Exit::Findings }.and(session.end(&workspace)))
}

fn rules(done: &Absorbed) -> Vec<Change> {
    done.rules.iter().map(|rule| Change::replace(&rule.path, rule.old.as_bytes(), Some(&rule.new))).collect()
}

/// The lock that knows the edited files for what publishing may replace.
fn absorbed(done: &Absorbed, lock: &Lock) -> Lock {
    let mut lock = lock.clone();
    for file in &mut lock.file {
        if let Some((_, hash)) = done.files.iter().find(|(path, _)| *path == file.path) {
            file.hash.clone_from(hash);
            file.was = None;
        }
    }
    lock
}
