use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use clap::Args;
use signpost_core::inspect::pattern_suggest::{from_examples, near_misses, try_patterns};
use signpost_core::pattern::Dialect;
use signpost_core::project::workspace::{Project, Workspace};
use std::path::PathBuf;

/// Try path patterns, or get the patterns that fit example files
///
/// `signpost scope 'src/**/*.ts'` shows what a pattern takes: how many files, in which folders, some of them,
/// and files that you probably meant too; where your assistants read patterns differently, for each of them.
/// Exits with 1 where nothing is taken.
///
/// `signpost scope --like FILE…` finds the smallest readable patterns that take all of these files, and with
/// `--unlike FILE…` none of those; best first, with how many other files each takes along.
#[derive(Debug, Args)]
pub struct ScopeArgs {
    /// Patterns from the root; together they are the scope of one rule
    #[arg(value_name = "PATTERN", required_unless_present = "like", conflicts_with = "like")]
    patterns: Vec<String>,
    /// Files that the pattern must take
    #[arg(long, value_name = "FILE", num_args = 1..)]
    like: Vec<PathBuf>,
    /// Files that it must not take
    #[arg(long, value_name = "FILE", num_args = 1.., requires = "like")]
    unlike: Vec<PathBuf>,
}

pub fn run(args: &ScopeArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let (workspace, project) = session.read(global)?;
    session.say_guesses(&workspace, &project);
    let dialects = dialects(&workspace, &project, global)?;
    let exit = if args.like.is_empty() {
        let trials = try_patterns(&project.index, &args.patterns, &dialects);
        let near = near_misses(&project.index, &args.patterns, &dialects[0].1);
        match global.format() {
            Format::Text => render::print(&render::scope::trials(&args.patterns, &trials, &near))?,
            Format::Json => {
                session.print_json(&workspace, &render::scope::trials_json(&args.patterns, &trials, &near))?
            }
        }
        if trials.iter().all(|trial| trial.taken.is_empty()) { Exit::Findings } else { Exit::Fine }
    } else {
        let paths = |typed: &[PathBuf]| typed.iter().map(|path| session.path(path)).collect::<Result<Vec<_>, _>>();
        let (like, unlike) = (paths(&args.like)?, paths(&args.unlike)?);
        if let Some(both) = like.iter().find(|file| unlike.contains(file)) {
            return Err(Failure::told(
                format!("{both} is given both with --like and --unlike"),
                "take it out of one of them",
            ));
        }
        let fits = from_examples(&project.index, &like, &unlike, &dialects[0].1);
        match global.format() {
            Format::Text => render::print(&render::scope::fits(&like, &fits))?,
            Format::Json => session.print_json(&workspace, &render::scope::fits_json(&fits))?,
        }
        Exit::Fine
    };
    Ok(exit.and(session.end(&workspace)))
}

/// The dialects of the assistants in use that have path patterns; else the one of guidance rules.
fn dialects(workspace: &Workspace<'_>, project: &Project, global: &Global) -> Result<Vec<(String, Dialect)>, Failure> {
    let mut dialects: Vec<(String, Dialect)> = Vec::new();
    for assistant in workspace.assistants(&global.assistant, project)? {
        for place in assistant.profile.places.iter().filter(|place| place.keys.paths.is_some()) {
            let (name, dialect) = (&assistant.profile.title, &place.dialect);
            if !dialects.iter().any(|(other, own)| other == name && own == dialect) {
                dialects.push((name.clone(), dialect.clone()));
            }
        }
    }
    if dialects.is_empty() {
        dialects.push(("guidance".to_owned(), Dialect::default()));
    }
    Ok(dialects)
}
