use crate::cli::{Format, Global};
use crate::exit::{Exit, Failure};
use crate::render;
use crate::session::Session;
use clap::{Args, ValueEnum};
use signpost_core::check::{self, Context};
use signpost_core::config::FailOn;

/// Check the instruction files: names, headers, patterns, size, repetition, hidden text
///
/// Each finding points at the words at fault, says why that matters and how to mend it. `signpost explain
/// CHECK` teaches a check with a bad and a good example. Severities are set in signpost.toml.
#[derive(Debug, Args)]
pub struct LintArgs {
    /// From which severity on findings make the exit code 1 [default: warning, or `fail_on` in signpost.toml]
    #[arg(long, value_enum, value_name = "SEVERITY")]
    fail_on: Option<FailOnArg>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum FailOnArg {
    Note,
    Warning,
    Error,
    Never,
}

impl From<FailOnArg> for FailOn {
    fn from(arg: FailOnArg) -> Self {
        match arg {
            FailOnArg::Note => FailOn::Note,
            FailOnArg::Warning => FailOn::Warning,
            FailOnArg::Error => FailOn::Error,
            FailOnArg::Never => FailOn::Never,
        }
    }
}

pub fn run(args: &LintArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let workspace = session.workspace()?;
    let project = session.project(&workspace)?;
    let survey = signpost_core::survey::survey(&workspace, &project, &global.assistant)?;
    let findings = check::run(&Context { workspace: &workspace, project: &project, survey: &survey });
    match global.format {
        Format::Text => render::print(&render::lint::text(&workspace, &survey, &findings))?,
        Format::Json => render::print_json(&render::lint::json(&workspace, &findings))?,
    }
    let fail_on = args.fail_on.map(FailOn::from).or(workspace.config.lint.fail_on).unwrap_or_default();
    let counts = findings.iter().any(|finding| fail_on.counts(finding.severity));
    let exit = if counts { Exit::Findings } else { Exit::Fine };
    Ok(exit.and(session.end(&workspace)))
}
