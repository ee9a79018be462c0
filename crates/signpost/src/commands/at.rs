use crate::cli::{Format, Global};
use crate::exit::{Exit, Failure};
use crate::render;
use crate::session::Session;
use clap::Args;
use signpost_core::brief::{Brief, Question, resolve};
use signpost_core::repo_path::{Location, RepoPath};
use signpost_core::tree::{Look, Tree};
use std::path::PathBuf;

/// Show what each assistant has been told when it works on a file, in which order, and why
///
/// The answer is a brief for each assistant: the instruction files it has loaded, in its order, with the
/// reason for each; then those it may pick, and those somebody may name. The file need not exist yet: ask
/// before you create it.
#[derive(Debug, Args)]
pub struct AtArgs {
    /// The files to ask about
    #[arg(required = true, value_name = "FILE")]
    files: Vec<PathBuf>,
    /// The folder that the conversation started in [default: the root]
    #[arg(long, value_name = "DIR")]
    from: Option<PathBuf>,
    /// Show every rule that stays out, with its reason and the patterns tried
    #[arg(long)]
    why_not: bool,
    /// Print exactly the text that the assistant has been told
    #[arg(long, conflicts_with = "why_not")]
    text: bool,
}

pub fn run(args: &AtArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let files = args.files.iter().map(|file| session.path(file)).collect::<Result<Vec<_>, _>>()?;
    let start = match &args.from {
        Some(folder) => session.path(folder)?,
        None => RepoPath::root(),
    };
    let look = |path: &RepoPath| session.tree.look(&Location::root(path.clone()));
    if !start.is_root() && !matches!(look(&start), Look::Folder) {
        return Err(Failure::told(
            format!("--from {start}: there is no such folder"),
            "a conversation starts in a folder",
        ));
    }
    for (file, typed) in files.iter().zip(&args.files) {
        if file.is_root() || look(file) == Look::Folder {
            return Err(Failure::told(
                format!("{} is a folder", typed.display()),
                "name a file in it, even one that is not there yet",
            ));
        }
    }
    let workspace = session.workspace()?;
    let selected = workspace.selected(&global.assistant)?;
    let all = selected.is_none();
    let profiles = selected.unwrap_or_else(|| workspace.profiles.iter().collect());
    let mut briefs: Vec<Brief> = Vec::new();
    for file in &files {
        let question = Question { files: vec![file.clone()], start: start.clone() };
        for profile in &profiles {
            let brief = resolve(&workspace, profile, &question, None)?;
            if !all || brief.has_candidates {
                briefs.push(brief);
            }
        }
    }
    match global.format {
        Format::Json => render::print_json(&render::brief::json(&start, &briefs))?,
        Format::Text if args.text => render::print(&render::brief::told(&workspace, &briefs))?,
        Format::Text => {
            let missing: Vec<&RepoPath> = files.iter().filter(|file| look(file) == Look::Nothing).collect();
            render::print(&render::brief::text(&workspace, &files, &missing, &start, &briefs, args.why_not))?;
        }
    }
    Ok(session.end(&workspace))
}
