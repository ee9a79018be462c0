use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use clap::Args;

/// Show what the instruction files cost in tokens: in every conversation, folder by folder, rule by rule
///
/// For each assistant: what every conversation carries before a word is typed, what working in each part of
/// the project adds to that, the heaviest rules, what is cut off by its limits, and which parts are over the
/// budget of signpost.toml (`brief` under `[budget]`, 2,000 tokens unless set). Tokens are estimated within a
/// few percent; `--exact` counts them.
#[derive(Debug, Args)]
pub struct WeighArgs {
    /// Show so many parts and rules for each assistant
    #[arg(long, value_name = "N", default_value_t = 5)]
    top: usize,
}

pub fn run(args: &WeighArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let (workspace, project) = session.read(global)?;
    session.say_guesses(&workspace, &project);
    let survey = signpost_core::inspect::survey::survey(&workspace, &project, &global.assistant)?;
    let weights = session.patiently("Weighing", || signpost_core::inspect::cost::weigh(&workspace, &survey))?;
    match global.format() {
        Format::Text => render::print(&render::weigh::text(&workspace, &survey, &weights, args.top))?,
        Format::Json => session.print_json(&workspace, &render::weigh::json(&workspace, &survey, &weights))?,
    }
    Ok(session.end(&workspace))
}
