use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use clap::Args;
use signpost_core::facts::Facts;
use signpost_core::files::TreeError;
use signpost_core::inspect::cost;

/// Show every instruction file: for which assistant, when it loads, what it reaches and weighs
///
/// Lists the instruction files of each assistant with their reach (standing: in every conversation; scoped:
/// when a file in its scope is worked on; offered: the assistant picks it by its summary; called: somebody
/// names it), how many source files they get to, their lines and tokens. Then come files that look like
/// instruction files but that no assistant will ever load, with the reason and the name they should have.
#[derive(Debug, Args)]
pub struct SurveyArgs {
    /// List the zones instead: the parts of the project that get the same from every assistant
    #[arg(long)]
    zones: bool,
    /// List what the repository itself states instead: versions, commands, packages, style settings
    #[arg(long, conflicts_with = "zones")]
    facts: bool,
}

pub fn run(args: &SurveyArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let (workspace, project) = session.read(global)?;
    session.say_guesses(&workspace, &project);
    if args.facts {
        let facts = Facts::read(&session.tree, &project.index);
        match global.format() {
            Format::Text => render::print(&render::facts::text(&facts))?,
            Format::Json => session.print_json(&workspace, &render::facts::json(&facts))?,
        }
        return Ok(session.end(&workspace));
    }
    let survey = signpost_core::inspect::survey::survey(&workspace, &project, &global.assistant)?;
    let weights = match args.zones {
        true => session.patiently("Weighing", || cost::weigh(&workspace, &survey))?,
        false => Vec::new(),
    };
    let at_start = survey.assistants.iter().map(|one| Ok(cost::at_start(&workspace, one.profile)?.tokens));
    let at_start: Vec<usize> = at_start.collect::<Result<_, TreeError>>()?;
    match global.format() {
        Format::Text if args.zones => render::print(&render::weigh::zones_text(&survey, &weights))?,
        Format::Text => render::print(&render::survey::text(&workspace, &project, &survey, &at_start))?,
        Format::Json => session.print_json(
            &workspace,
            &render::survey::json(&workspace, &survey, &at_start, args.zones.then_some(&weights[..])),
        )?,
    }
    Ok(session.end(&workspace))
}
