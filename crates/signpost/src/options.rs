//! The options that all commands share.

use clap::{Args, ValueEnum};
use std::path::PathBuf;

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
    /// Don't guess what assistants read that no profile describes
    #[arg(long, global = true, help_heading = "Everywhere")]
    pub no_guess: bool,
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
    /// doubts: one text to hand to an assistant
    Prompt,
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
