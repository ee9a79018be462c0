//! The command line: the list of commands.

use crate::commands::{
    absorb, adopt, at, doubts, draft, explain, init, lint, parity, profile, publish, scope, split, survey, tour, weigh,
};
use crate::exit::{Exit, Failure};
use crate::options::{FormatArg, Global};
use clap::error::{ContextKind, ContextValue};
use clap::{CommandFactory, FromArgMatches, Parser, Subcommand};

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

/// The command line as people see it: the options of every command are explained once, by `signpost --help`, and each
/// command only names them. `lint` alone has formats beside text and JSON.
pub fn command() -> clap::Command {
    let mut command = Cli::command();
    command.build();
    let global: Vec<clap::Id> =
        command.get_arguments().filter(|arg| arg.is_global_set()).map(|arg| arg.get_id().clone()).collect();
    let names: Vec<String> = command.get_subcommands().map(|inner| inner.get_name().to_owned()).collect();
    names
        .into_iter()
        .filter(|name| name != "help")
        .fold(command, |command, name| command.mut_subcommand(name, |inner| without_global(inner, &global)))
}

fn without_global(command: clap::Command, global: &[clap::Id]) -> clap::Command {
    let lint = command.get_name() == "lint";
    let inner: Vec<String> = command.get_subcommands().map(|inner| inner.get_name().to_owned()).collect();
    let command = inner
        .into_iter()
        .filter(|name| name != "help")
        .fold(command, |command, name| command.mut_subcommand(name, |inner| without_global(inner, global)));
    let formats = lint || command.get_name() == "doubts";
    let hidden = |id: &clap::Id| global.contains(id) && !(formats && id.as_str() == "format");
    let command = command.mut_args(|arg| {
        let hide = hidden(arg.get_id());
        if hide { arg.hide(true) } else { arg }
    });
    command.after_help(if formats { EVERYWHERE_BUT_FORMAT } else { EVERYWHERE })
}

const EVERYWHERE: &str = "Options of every command: --root, --home, --assistant, --no-guess, --exact, --format json, --color, \
                          --verbose; `signpost --help` explains them.";
const EVERYWHERE_BUT_FORMAT: &str = "Options of every command: --root, --home, --assistant, --no-guess, --exact, --color, --verbose; `signpost --help` explains them.";

impl Cli {
    /// Reads the command line.
    ///
    /// # Errors
    /// It is none that Signpost understands, or asks for help.
    pub fn read() -> Result<Self, clap::Error> {
        let matches = command().try_get_matches()?;
        Cli::from_arg_matches(&matches)
    }

    /// Runs the command asked for.
    pub fn run(&self) -> Result<Exit, Failure> {
        if !matches!(self.global.format, FormatArg::Text | FormatArg::Json | FormatArg::Prompt)
            && !matches!(self.command, Command::Lint(_))
        {
            return Err(Failure::told("only lint has this format", "use `--format text` or `--format json`"));
        }
        if self.global.format == FormatArg::Prompt && !matches!(self.command, Command::Doubts(_)) {
            return Err(Failure::told("only doubts has this format", "use `--format text` or `--format json`"));
        }
        if self.global.format != FormatArg::Text && matches!(self.command, Command::Tour(_)) {
            return Err(Failure::told("the tour is for people", "run its commands with `--format json`"));
        }
        match &self.command {
            Command::Survey(args) => survey::run(args, &self.global),
            Command::At(args) => at::run(args, &self.global),
            Command::Lint(args) => lint::run(args, &self.global),
            Command::Doubts(args) => doubts::run(args, &self.global),
            Command::Settle(args) => doubts::settle(args, &self.global),
            Command::Weigh(args) => weigh::run(args, &self.global),
            Command::Scope(args) => scope::run(args, &self.global),
            Command::Profile(args) => profile::run(args, &self.global),
            Command::Init(args) => init::run(args, &self.global),
            Command::Draft(args) => draft::run(args, &self.global),
            Command::Adopt(args) => adopt::run(args, &self.global),
            Command::Split(args) => split::run(args, &self.global),
            Command::Publish(args) => publish::run(args, &self.global),
            Command::Absorb(args) => absorb::run(args, &self.global),
            Command::Parity(args) => parity::run(args, &self.global),
            Command::Explain(args) => explain::run(args, &self.global),
            Command::Tour(args) => tour::run(args, &self.global),
        }
    }
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
    Doubts(doubts::DoubtsArgs),
    Settle(doubts::SettleArgs),
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

/// Words that people try, with the command that does what they mean.
const MEANT: &[(&[&str], &str, &str)] = &[
    (&["check", "validate", "verify", "test"], "lint", "checks the instruction files"),
    (&["ls", "list", "files", "scan", "inspect"], "survey", "lists every instruction file"),
    (&["status", "stat"], "publish --check", "says whether the published files are as the guidance has them"),
    (&["diff", "plan"], "publish --dry-run", "shows what publishing would change"),
    (&["sync", "build", "generate", "apply", "compile"], "publish", "writes each assistant's files from the guidance"),
    (&["import", "migrate", "convert"], "adopt", "brings the files that are here into the guidance"),
    (&["pull", "merge"], "absorb", "takes hand edits in published files back into the rules"),
    (&["new", "add", "create"], "draft NAME", "writes a new rule"),
    (&["show", "which", "why", "trace", "for"], "at FILE", "says what an assistant is told about a file, and why"),
    (&["cost", "tokens", "size", "count"], "weigh", "says what the rules cost"),
    (&["fix", "format", "fmt"], "lint --fix", "mends what can be mended safely"),
    (&["match", "glob", "grep"], "scope PATTERN", "shows which files a pattern takes"),
    (&["start", "setup"], "init", "writes a first few rules"),
    (&["demo", "try"], "tour", "shows all of it on a sample project"),
];

/// What somebody probably meant who typed a command that there is not.
pub fn tip(error: &clap::Error) -> Option<String> {
    let typed = match error.get(ContextKind::InvalidSubcommand)? {
        ContextValue::String(typed) => typed,
        _ => return None,
    };
    let (_, command, what) = MEANT.iter().find(|(words, ..)| words.contains(&typed.to_lowercase().as_str()))?;
    Some(format!("  tip: `signpost {command}` {what}"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use clap::{CommandFactory, Parser};

    #[test]
    fn what_is_meant_is_a_command_and_what_is_typed_is_none() {
        let command = Cli::command();
        let known: Vec<&str> = command.get_subcommands().map(clap::Command::get_name).collect();
        for (words, meant, _) in MEANT {
            assert!(known.contains(&meant.split(' ').next().unwrap_or_default()), "{meant}");
            for word in *words {
                assert!(!known.contains(word), "{word}");
                let error = Cli::try_parse_from(["signpost", word]).err();
                let tip = error.as_ref().and_then(tip);
                assert!(tip.is_some_and(|tip| tip.contains(&format!("`signpost {meant}`"))), "{word}");
            }
        }
        assert_eq!(Cli::try_parse_from(["signpost", "xyzzy"]).err().as_ref().and_then(tip), None);
    }
}
