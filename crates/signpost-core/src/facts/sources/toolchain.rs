//! Files that pin the version of a language or tool.

use super::Gathered;
use super::formats::{line_of_key, toml};
use crate::base::repo_path::RepoPath;
use crate::facts::model::{Source, VersionFact};
use crate::facts::version;
use toml::Value;

fn pin(of: &str, file: &RepoPath, stated: &str, line: usize, gathered: &mut Gathered) {
    if let Some(span) = version::exact(stated) {
        let source = Source { file: file.clone(), line };
        gathered.versions.push(VersionFact { of: of.to_owned(), text: stated.to_owned(), span, exact: true, source });
    }
}

/// The first line that says something, without the name of the tool before the number.
fn plain(of: &str, file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let line = text.lines().enumerate().find(|(_, line)| !line.trim().is_empty() && !line.starts_with('#'));
    if let Some((number, line)) = line {
        let stated = line.trim().trim_start_matches(|c: char| c.is_ascii_alphabetic() || c == '-');
        pin(of, file, stated, number + 1, gathered);
    }
}

pub(super) fn node(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    plain("node", file, text, gathered);
}

pub(super) fn python(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    plain("python", file, text, gathered);
}

pub(super) fn ruby(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    plain("ruby", file, text, gathered);
}

pub(super) fn java(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    plain("java", file, text, gathered);
}

pub(super) fn go(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    plain("go", file, text, gathered);
}

pub(super) fn rust(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let channel = toml(text).and_then(|table| {
        table.get("toolchain").and_then(|one| one.get("channel")).and_then(Value::as_str).map(str::to_owned)
    });
    if let Some(channel) = channel {
        pin("rust", file, &channel, line_of_key(text, "channel"), gathered);
    }
}

/// The older form: a file that holds just the channel, or the same as the newer one.
pub(super) fn rust_plain(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    if text.contains("[toolchain]") { rust(file, text, gathered) } else { pin("rust", file, text.trim(), 1, gathered) }
}

/// `nodejs 20.11.0`, one tool a line.
pub(super) fn tool_versions(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    for (number, line) in text.lines().enumerate() {
        let mut words = line.split('#').next().unwrap_or_default().split_whitespace();
        let (Some(tool), Some(stated)) = (words.next(), words.next()) else { continue };
        let of = match tool {
            "nodejs" => "node",
            "golang" => "go",
            other => other,
        };
        pin(of, file, stated, number + 1, gathered);
    }
}
