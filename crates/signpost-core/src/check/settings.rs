//! What `signpost.toml` makes of checks: a severity, or off, for a check or a group, everywhere or for some
//! files. The check's own line wins over its group's; of `[[lint.paths]]` the last that matches.

use super::{CheckInfo, Finding, all, did_you_mean};
use crate::base::toml_file::ConfigError;
use crate::config::{CONFIG_NAME, CheckSetting, Config, PathPattern, Severity};
use crate::project::workspace::Workspace;
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;
use toml::Spanned;

type Table = BTreeMap<Spanned<String>, CheckSetting>;

/// Refuses settings for checks that there are not.
///
/// # Errors
/// A name of a check or group in `signpost.toml` is not known; the error names the nearest one.
pub fn validate(workspace: &Workspace<'_>) -> Result<(), Box<ConfigError>> {
    let lint = &workspace.config.lint;
    let tables = std::iter::once(&lint.checks).chain(lint.paths.iter().map(|one| &one.checks));
    for name in tables.flat_map(BTreeMap::keys) {
        let mut known = all().map(|info| info.name).chain(all().map(CheckInfo::group));
        if !known.any(|known| known == name.get_ref()) {
            let help = did_you_mean(name.get_ref());
            let message = format!("there is no check or group `{}`", name.get_ref());
            return Err(ConfigError::new(CONFIG_NAME, &workspace.config_text, name.span(), message, Some(help)));
        }
    }
    Ok(())
}

/// The settings of a project, ready to be asked.
pub(super) struct Settings<'c> {
    everywhere: FxHashMap<String, CheckSetting>,
    for_paths: Vec<(&'c [PathPattern], FxHashMap<String, CheckSetting>)>,
}

impl<'c> Settings<'c> {
    pub fn new(config: &'c Config) -> Self {
        let plain = |table: &Table| table.iter().map(|(name, setting)| (name.get_ref().clone(), *setting)).collect();
        let for_paths = config.lint.paths.iter().map(|one| (&one.paths[..], plain(&one.checks))).collect();
        Settings { everywhere: plain(&config.lint.checks), for_paths }
    }

    /// Whether any file could have findings of a check.
    pub fn may_be_on(&self, info: &CheckInfo) -> bool {
        look_up(&self.everywhere, info.name) != Some(CheckSetting::Off)
            || self
                .for_paths
                .iter()
                .any(|(_, table)| look_up(table, info.name).is_some_and(|one| one != CheckSetting::Off))
    }

    /// Whether somebody asked for a check by its name, in whatever part of the settings.
    pub fn asks_for(&self, check: &str) -> bool {
        let asks = |table: &FxHashMap<String, CheckSetting>| {
            table.get(check).is_some_and(|setting| *setting != CheckSetting::Off)
        };
        asks(&self.everywhere) || self.for_paths.iter().any(|(_, table)| asks(table))
    }

    /// The severity of a finding; `None` where its check is off.
    pub fn severity(&self, finding: &Finding) -> Option<Severity> {
        let path = finding.location.to_string();
        let for_path = self.for_paths.iter().rev().find_map(|(patterns, table)| {
            let takes = patterns.iter().any(|pattern| pattern.matches(&path));
            takes.then(|| look_up(table, finding.check)).flatten()
        });
        match for_path.or_else(|| look_up(&self.everywhere, finding.check)) {
            Some(setting) => setting.severity(),
            None => Some(finding.severity),
        }
    }
}

fn look_up(table: &FxHashMap<String, CheckSetting>, check: &str) -> Option<CheckSetting> {
    let group = check.split('/').next().unwrap_or_default();
    table.get(check).or_else(|| table.get(group)).copied()
}
