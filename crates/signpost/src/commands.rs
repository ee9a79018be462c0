//! One file a command.

pub mod absorb;
pub mod adopt;
pub mod at;
pub mod draft;
pub mod explain;
pub mod init;
pub mod lint;
pub mod parity;
pub mod profile;
pub mod publish;
pub mod scope;
pub mod split;
pub mod survey;
pub mod tour;
pub mod weigh;

use crate::cli::{Cli, Command};
use crate::exit::{Exit, Failure};
use crate::options::FormatArg;

/// Runs the command asked for.
pub fn run(cli: &Cli) -> Result<Exit, Failure> {
    if !matches!(cli.global.format, FormatArg::Text | FormatArg::Json) && !matches!(cli.command, Command::Lint(_)) {
        return Err(Failure::told("only lint has this format", "use `--format text` or `--format json`"));
    }
    if cli.global.format != FormatArg::Text && matches!(cli.command, Command::Tour(_)) {
        return Err(Failure::told("the tour is for people", "run its commands with `--format json`"));
    }
    match &cli.command {
        Command::Survey(args) => survey::run(args, &cli.global),
        Command::At(args) => at::run(args, &cli.global),
        Command::Lint(args) => lint::run(args, &cli.global),
        Command::Weigh(args) => weigh::run(args, &cli.global),
        Command::Scope(args) => scope::run(args, &cli.global),
        Command::Profile(args) => profile::run(args, &cli.global),
        Command::Init(args) => init::run(args, &cli.global),
        Command::Draft(args) => draft::run(args, &cli.global),
        Command::Adopt(args) => adopt::run(args, &cli.global),
        Command::Split(args) => split::run(args, &cli.global),
        Command::Publish(args) => publish::run(args, &cli.global),
        Command::Absorb(args) => absorb::run(args, &cli.global),
        Command::Parity(args) => parity::run(args, &cli.global),
        Command::Explain(args) => explain::run(args, &cli.global),
        Command::Tour(args) => tour::run(args, &cli.global),
    }
}
