//! One result of a check.

use super::info::CheckInfo;
use crate::base::repo_path::{Location, RepoPath};
use crate::config::Severity;
use crate::project::rule::Rule;
use std::ops::Range;

/// One result of a check, at a place in a file.
#[derive(Clone, Debug)]
pub struct Finding {
    /// The check.
    pub check: &'static str,
    /// How severe it is.
    pub severity: Severity,
    /// The file.
    pub location: Location,
    /// The bytes at fault; empty where the file as a whole is.
    pub span: Range<usize>,
    /// What is wrong.
    pub message: String,
    /// How to mend it.
    pub help: String,
    /// The assistants concerned, by name.
    pub assistants: Vec<String>,
    /// The other directives or keys that are part of the same matter.
    pub related: Vec<Related>,
    /// A source file for which it matters.
    pub witness: Option<RepoPath>,
    /// Whether it is only of use to who asks for its check by name.
    pub on_request: bool,
    /// Whether it rests on a profile that nobody wrote.
    pub guessed: bool,
    /// Whether it is likely rather than sure; it is a note then, whatever its check is set to.
    pub likely: bool,
    /// The edits to the file that mend it, where that is safe; they don't overlap and are in order.
    pub fix: Vec<Edit>,
}

/// Another place that is part of a finding.
#[derive(Clone, Debug)]
pub struct Related {
    /// The file.
    pub location: Location,
    /// The bytes.
    pub span: Range<usize>,
    /// What stands there.
    pub message: String,
}

/// Some bytes of a file, and what to write in their stead.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// The bytes.
    pub span: Range<usize>,
    /// The new text.
    pub text: String,
}

impl Finding {
    /// A finding of a check, as severe as the check.
    pub fn new(info: &CheckInfo, location: Location, span: Range<usize>, message: impl Into<String>) -> Self {
        Finding {
            check: info.name,
            severity: info.severity,
            location,
            span,
            message: message.into(),
            help: String::new(),
            assistants: Vec::new(),
            related: Vec::new(),
            witness: None,
            on_request: false,
            guessed: false,
            likely: false,
            fix: Vec::new(),
        }
    }

    /// A finding in a rule.
    pub fn in_rule(
        info: &CheckInfo,
        assistant: &str,
        rule: &Rule,
        span: Range<usize>,
        message: impl Into<String>,
    ) -> Self {
        Finding::new(info, rule.file().clone(), span, message).for_assistant(assistant)
    }

    /// Whether it can be mended safely, and is in a file of the project: a person's own files are theirs to mend.
    pub fn is_fixable(&self) -> bool {
        !self.fix.is_empty() && self.location.in_root().is_some()
    }

    /// With the way to mend it.
    #[must_use]
    pub fn help(mut self, help: impl Into<String>) -> Self {
        self.help = help.into();
        self
    }

    /// For one more assistant.
    #[must_use]
    pub fn for_assistant(mut self, assistant: &str) -> Self {
        self.assistants.push(assistant.to_owned());
        self
    }

    /// Of another severity than the check's own.
    #[must_use]
    pub fn severity(mut self, severity: Severity) -> Self {
        self.severity = severity;
        self
    }

    /// Only for who asks for its check by name.
    #[must_use]
    pub fn on_request(mut self, on_request: bool) -> Self {
        self.on_request = on_request;
        self
    }

    /// Likely rather than sure.
    #[must_use]
    pub fn likely(mut self, likely: bool) -> Self {
        self.likely = likely;
        self
    }

    /// With a source file for which it matters.
    #[must_use]
    pub fn witness(mut self, witness: Option<RepoPath>) -> Self {
        self.witness = witness;
        self
    }

    /// With another place that is part of it.
    #[must_use]
    pub fn related(mut self, location: &Location, span: Range<usize>, message: impl Into<String>) -> Self {
        self.related.push(Related { location: location.clone(), span, message: message.into() });
        self
    }

    /// With an edit that mends it.
    #[must_use]
    pub fn edit(mut self, span: Range<usize>, text: impl Into<String>) -> Self {
        self.fix.push(Edit { span, text: text.into() });
        self
    }
}
