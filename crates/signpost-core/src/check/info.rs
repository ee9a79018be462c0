//! What a check is.

use crate::config::Severity;

/// What a check is, for those who read its findings.
#[derive(Debug)]
pub struct CheckInfo {
    /// `group/name`.
    pub name: &'static str,
    /// Unless a finding or a setting says otherwise.
    pub severity: Severity,
    /// What it finds, in one line.
    pub finds: &'static str,
    /// Why that matters.
    pub why: &'static str,
    /// How to mend it.
    pub mend: &'static str,
    /// What it finds.
    pub bad: &'static str,
    /// What it is silent about.
    pub good: &'static str,
}

impl CheckInfo {
    /// The part before the slash.
    pub fn group(&self) -> &'static str {
        self.name.split('/').next().unwrap_or_default()
    }
}
