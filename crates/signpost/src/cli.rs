//! The command line.

use crate::commands::{
    absorb, adopt, at, draft, explain, init, lint, parity, profile, publish, scope, split, survey, tour, weigh,
};
use clap::{Args, Parser, Subcommand, ValueEnum};
use std::path::PathBuf;

/// Shows, checks and explains the instruction files that steer AI coding assistants.
///
/// Assistants read rules from files of many names, in many folders, at different times. Signpost reads a
/// description (a profile) of each assistant and answers: what has it been told when it works on a file, in
/// which order, at what cost, and is any of that wrong?
#[derive(Debug, Parser)]
#[command(name = "signpost", version, arg_required_else_help = true, max_term_width = 100, after_help = FIRST_STEPS)]
pub struct Cli {
    #[command(subcommand)]
    pub command: Command,
    #[command(flatten)]
    pub global: Global,
}

const FIRST_STEPS: &str = "First steps:
  signpost tour          see the whole tool at work on a sample project
  signpost survey        what instruction files are here?
  signpost at FILE       what applies to this file?
  signpost lint          is any of it wrong?

Exit codes: 0 fine; 1 findings, or a question answered with no; 2 it could not run.";

/// The commands, in the order in which people need them.
#[derive(Debug, Subcommand)]
pub enum Command {
    Survey(survey::SurveyArgs),
    At(at::AtArgs),
    Lint(lint::LintArgs),
    Weigh(weigh::WeighArgs),
    Scope(scope::ScopeArgs),
    Init(init::InitArgs),
    Draft(draft::DraftArgs),
    Adopt(adopt::AdoptArgs),
    Split(split::SplitArgs),
    Publish(publish::PublishArgs),
    Absorb(absorb::AbsorbArgs),
    Parity(parity::ParityArgs),
    Profile(profile::ProfileArgs),
    Explain(explain::ExplainArgs),
    Tour(tour::TourArgs),
}

/// Options of every command.
#[derive(Debug, Args)]
pub struct Global {
    /// The project's root [default: the nearest folder above with a signpost.toml, else the git work tree, else here]
    #[arg(long, global = true, value_name = "DIR", help_heading = "Everywhere")]
    pub root: Option<PathBuf>,
    /// The home folder to look for personal instruction files in [default: yours]
    #[arg(long, global = true, value_name = "DIR", help_heading = "Everywhere")]
    pub home: Option<PathBuf>,
    /// Only this assistant; give it several times, or with commas [default: those named in signpost.toml, else all that
    /// have files here]
    #[arg(long, short, global = true, value_name = "NAME", value_delimiter = ',', help_heading = "Everywhere")]
    pub assistant: Vec<String>,
    /// Count tokens with a public vocabulary instead of estimating them (slower)
    #[arg(long, global = true, help_heading = "Everywhere")]
    pub exact: bool,
    /// How to print the result
    #[arg(long, global = true, value_enum, default_value_t, help_heading = "Everywhere")]
    pub format: FormatArg,
    /// Whether to use colour
    #[arg(long, global = true, value_enum, default_value_t, value_name = "WHEN", help_heading = "Everywhere")]
    pub color: Color,
    /// Say on standard error what is read
    #[arg(long, short, global = true, help_heading = "Everywhere")]
    pub verbose: bool,
}

/// How a result is printed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub enum FormatArg {
    /// For people
    #[default]
    Text,
    /// One JSON document, for programs
    Json,
    /// lint: SARIF 2.1.0, for tools that show findings
    Sarif,
    /// lint: a table, for a comment or a summary page
    Markdown,
    /// lint: one line a finding, `path:line:column: severity: message [check]`, for CI logs
    Lines,
}

/// The formats that every command has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    Text,
    Json,
}

impl Global {
    /// The format of a command that has only these two.
    pub fn format(&self) -> Format {
        if self.format == FormatArg::Json { Format::Json } else { Format::Text }
    }
}

/// Whether to use colour.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub enum Color {
    /// On a terminal, unless NO_COLOR is set
    #[default]
    Auto,
    Always,
    Never,
}

impl Color {
    /// Makes it hold for everything that is printed.
    pub fn write_global(self) {
        match self {
            Color::Auto => anstream::ColorChoice::Auto,
            Color::Always => anstream::ColorChoice::Always,
            Color::Never => anstream::ColorChoice::Never,
        }
        .write_global();
    }
}
