use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use clap::Args;
use signpost_core::inspect::parity::compare;

/// See where two assistants are told different things
///
/// Compares the assistants in use zone by zone and directive by directive: what one is told and another is not,
/// what differs in words, and what gets to them for other files or in another way. A zone is a set of files for
/// which each assistant is told the same. Personal copies and the home folder are left out. It works with or
/// without a guidance/ folder.
///
/// Exits with 1 where something differs, unless signpost.toml allows it: `[[parity.allow]]` with `reason = "…"`
/// and, to narrow it, `assistants`, `paths`, `files` and `words`. A guidance rule that names its assistants is meant so.
#[derive(Debug, Args)]
pub struct ParityArgs {
    /// Compare only these two
    #[arg(long, value_names = ["A", "B"], num_args = 2, conflicts_with = "assistant")]
    between: Vec<String>,
    /// Show every directive that differs, and those that are meant to
    #[arg(long)]
    all: bool,
}

pub fn run(args: &ParityArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let (workspace, project) = session.read(global)?;
    session.say_guesses(&workspace, &project);
    let names = if args.between.is_empty() { &global.assistant } else { &args.between };
    let assistants = workspace.assistants(names, &project)?;
    if let [one, other] = &args.between[..]
        && one == other
    {
        return Err(Failure::told(format!("`{one}` can't differ from itself"), "name two assistants"));
    }
    let mut parity = session.patiently("Comparing", || compare(&workspace, &project, assistants))?;
    if !names.is_empty() {
        // What is allowed to the others has nothing to allow here.
        parity.idle.clear();
    }
    match global.format() {
        Format::Text => render::print(&render::parity::text(&workspace, &parity, args.all))?,
        Format::Json => session.print_json(&workspace, &render::parity::json(&workspace, &parity))?,
    }
    Ok(if parity.holds() { Exit::Fine } else { Exit::Findings }.and(session.end(&workspace)))
}
