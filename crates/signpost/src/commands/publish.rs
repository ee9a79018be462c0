use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use crate::{apply, ask};
use clap::Args;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::publish::{Plan, changes::Status, changes::Step, changes::status, plan, profiles};
use signpost_core::inspect::beside::beside;
use signpost_core::project::workspace::Workspace;
use std::path::PathBuf;

/// Write each assistant's files from the guidance
///
/// Rules stand once, in guidance/rules/. Publishing writes them for every assistant in use as its profile says:
/// one file a rule where it has scopes, the tightest folder where it only has folders, and sections of one file
/// where that is all it reads. What an assistant can't express is named, with what that costs.
///
/// signpost.lock records what was written. A file that somebody edited since, or that Signpost did not write, is
/// never overwritten; then nothing is published at all. A file whose rules are gone is removed.
///
/// --check also names files that somebody put beside the published ones: the guidance does not know them.
#[derive(Debug, Args)]
pub struct PublishArgs {
    /// Write nothing; show what differs, and exit with 1 where something does
    #[arg(long)]
    check: bool,
    /// Write nothing; show what would change
    #[arg(long, conflicts_with = "check")]
    dry_run: bool,
    /// With --check or --dry-run: show line by line what differs, as --verbose does too
    #[arg(long)]
    diff: bool,
    /// Publish though `signpost adopt` found that this tells somebody something else
    #[arg(long)]
    anyway: bool,
    /// Publish nothing where an assistant can't express a rule as it is meant
    #[arg(long)]
    strict: bool,
    /// Go on where more than half of the published files would be removed
    #[arg(long, short)]
    yes: bool,
    /// Replace this file whoever wrote or edited it; give it several times
    #[arg(long, value_name = "FILE")]
    overwrite: Vec<PathBuf>,
}

pub fn run(args: &PublishArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let reads_only = args.check || args.dry_run;
    let alone = if reads_only { None } else { Some(apply::alone(&session)?) };
    let workspace = session.workspace()?;
    let give_up = args.overwrite.iter().map(|path| session.path(path)).collect::<Result<Vec<_>, _>>()?;
    let (plan, status) = planned(&session, &workspace, global, &give_up)?;
    if let Some(path) = give_up.iter().find(|path| !status.changes.iter().any(|change| change.path == **path)) {
        let help = "`signpost publish --dry-run` shows what would be published";
        return Err(Failure::told(format!("{path} is no file that publishing would write or remove"), help));
    }
    let strict = args.strict && !plan.losses.is_empty();
    let drift = !status.is_clean();
    if alone.is_some() && status.refused.is_empty() && status.removes_most() && !args.yes && !confirmed(&status)? {
        return Err(Failure::told(
            format!("this would remove {}, more than half of what was published", files_gone(&status)),
            "if that is meant, say so with --yes; `signpost publish --dry-run` shows them",
        ));
    }
    if alone.is_some() && status.old_lock.unconfirmed && status.pending().next().is_some() && !args.anyway {
        return Err(Failure::told(
            "`signpost adopt` found that publishing tells an assistant something else than before",
            "`signpost publish --dry-run --diff` shows it; if it is meant, say so with --anyway",
        ));
    }
    if let Some(alone) = &alone
        && status.refused.is_empty()
        && !strict
    {
        apply::apply(session.root(), &status, alone)?;
    }
    let shown = render::publish::Shown {
        workspace: &workspace,
        plan: &plan,
        status: &status,
        lines: args.diff || global.verbose,
        mode: match (args.check, args.dry_run, strict) {
            (true, ..) => render::publish::Mode::Check,
            (_, true, _) => render::publish::Mode::DryRun,
            (.., true) => render::publish::Mode::TooStrict,
            _ => render::publish::Mode::Write,
        },
    };
    match global.format() {
        Format::Text => render::print(&render::publish::text(&shown))?,
        Format::Json => session.print_json(&workspace, &render::publish::json(&shown))?,
    }
    let failed = strict || !status.refused.is_empty() || args.check && drift;
    Ok(if failed { Exit::Findings } else { Exit::Fine }.and(session.end(&workspace)))
}

fn files_gone(status: &Status) -> String {
    let gone = status.changes.iter().filter(|change| change.step == Step::Remove).count();
    signpost_core::base::wording::count(gone, "file")
}

fn confirmed(status: &Status) -> Result<bool, Failure> {
    Ok(ask::can_ask() && ask::yes(&format!("Remove {}?", files_gone(status)))?)
}

/// What should stand where, held against what does.
pub fn planned(
    session: &Session,
    workspace: &Workspace<'_>,
    global: &Global,
    give_up: &[RepoPath],
) -> Result<(Plan, Status), Failure> {
    let project = session.project(workspace)?;
    let lock = workspace.lock()?;
    let chosen = profiles(workspace, &project, &global.assistant, &lock)?;
    if chosen.is_empty() {
        return Err(Failure::told(
            "no assistant is in use here, so there is nobody to publish for",
            "name them in signpost.toml, `[project] assistants = [\"agents-md\"]`, or with --assistant",
        ));
    }
    let mut plan = session.patiently("Planning", || plan(workspace, &project, &chosen))?;
    plan.partial = !global.assistant.is_empty();
    let mut status = status(workspace.tree(), &plan, &lock, give_up)?;
    status.beside = beside(workspace, &project, &chosen, &lock);
    // What would be written there is said with what is in the way.
    status.beside.retain(|path| !plan.files.iter().any(|file| file.path == *path));
    Ok((plan, status))
}
