//! Exit codes, and what is said when a command could not run.

use signpost_core::base::toml_file::ConfigError;
use signpost_core::change::absorb::AbsorbError;
use signpost_core::change::adopt::AdoptError;
use signpost_core::change::publish::PublishError;
use signpost_core::change::split::SplitError;
use signpost_core::files::TreeError;
use signpost_core::project::workspace::WorkspaceError;
use std::io;
use std::process::ExitCode;

/// How a command ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Exit {
    /// All is well.
    Fine,
    /// There are findings that count, or a question was answered with no.
    Findings,
    /// It could not run, or not wholly.
    Failed,
}

impl Exit {
    /// The worse of two.
    pub fn and(self, other: Exit) -> Exit {
        self.max(other)
    }
}

/// What a shell shows for a program that a closed pipe ended: 128 and the number of the signal.
pub const CLOSED_PIPE: u8 = 128 + 13;

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        ExitCode::from(match exit {
            Exit::Fine => 0,
            Exit::Findings => 1,
            Exit::Failed => 2,
        })
    }
}

/// Why a command could not run.
#[derive(Debug)]
pub enum Failure {
    /// A mistake in a file that configures Signpost.
    Config(Box<ConfigError>),
    /// Anything else: what went wrong, and how to mend it.
    Told(String, Option<String>),
    /// Whoever read our output stopped reading: nothing to say.
    Closed,
}

impl Failure {
    /// A failure in words.
    pub fn told(message: impl Into<String>, help: impl Into<String>) -> Self {
        let help = help.into();
        Failure::Told(message.into(), (!help.is_empty()).then_some(help))
    }

    /// What went wrong, in words.
    pub fn message(&self) -> String {
        match self {
            Failure::Config(error) => error.to_string(),
            Failure::Told(message, _) => message.clone(),
            Failure::Closed => String::new(),
        }
    }
}

impl From<WorkspaceError> for Failure {
    fn from(error: WorkspaceError) -> Self {
        match error {
            WorkspaceError::Config(error) => Failure::Config(error),
            WorkspaceError::Tree(error) => error.into(),
            WorkspaceError::UnknownAssistant { ref near, ref known, .. } => {
                let all = format!("there are: {}", known.join(", "));
                let help = near.as_ref().map_or(all.clone(), |near| format!("did you mean `{near}`? {all}"));
                Failure::told(error.to_string(), help)
            }
        }
    }
}

impl From<AbsorbError> for Failure {
    fn from(error: AbsorbError) -> Self {
        match error {
            AbsorbError::Workspace(error) => error.into(),
            AbsorbError::Publish(error) => error.into(),
            AbsorbError::NotPublished(_) => {
                Failure::told(error.to_string(), "`signpost adopt` brings it into the guidance")
            }
        }
    }
}

impl From<SplitError> for Failure {
    fn from(error: SplitError) -> Self {
        match error {
            SplitError::Workspace(error) => error.into(),
            SplitError::No(why, help) => Failure::told(why, help),
        }
    }
}

impl From<AdoptError> for Failure {
    fn from(error: AdoptError) -> Self {
        match error {
            AdoptError::Workspace(error) => error.into(),
            AdoptError::Publish(error) => error.into(),
        }
    }
}

impl From<PublishError> for Failure {
    fn from(error: PublishError) -> Self {
        match error {
            PublishError::Config(error) => Failure::Config(error),
            PublishError::Tree(error) => error.into(),
        }
    }
}

impl From<TreeError> for Failure {
    fn from(error: TreeError) -> Self {
        Failure::told(error.to_string(), "")
    }
}

impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        if error.kind() == io::ErrorKind::BrokenPipe {
            return Failure::Closed;
        }
        Failure::told(format!("cannot write the result: {error}"), "")
    }
}
