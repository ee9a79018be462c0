//! What a file of an assistant says, as the guidance would say it: which part of the project it is for, and when it is told.

use super::cut::{squeezed, units};
use super::{Address, Adoptee};
use crate::base::repo_path::RepoPath;
use crate::base::wording::{MOST_WORDS, group, size};
use crate::change::publish::changes::link_mark;
use crate::change::publish::source::without_blank_lines;
use crate::directive::MOST_DIRECTIVES;
use crate::pattern::translate::translate;
use crate::pattern::{Dialect, Pattern, escaped};
use crate::profile::{Base, Kind, Level, Nested, Place, Profile, Reach};
use crate::project::guidance::{self, Kept};
use crate::project::lock::Lock;
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace};
use std::collections::BTreeSet;
use std::sync::Arc;

/// The folders further down whose own files keep an assistant that reads only the nearest from reading a file.
pub(super) fn hidden_below(
    project: &Project,
    workspace: &Workspace<'_>,
    profile: &Profile,
    rule: &Rule,
) -> Vec<RepoPath> {
    if profile.nested != Nested::Nearest || rule.level != Level::Folder {
        return Vec::new();
    }
    let number = workspace.profiles.iter().position(|other| other.name == profile.name).unwrap_or_default();
    let here = &rule.found.anchor.path;
    let same_place = project.candidates[number].iter().filter(|found| found.place == rule.found.place);
    let mut below: Vec<RepoPath> =
        same_place.map(|found| found.anchor.path.clone()).filter(|folder| folder.below(here).is_some()).collect();
    below.sort();
    below.dedup();
    let all = below.clone();
    below.retain(|folder| !all.iter().any(|other| folder.below(other).is_some()));
    below
}

/// A file as adopting sees it; nothing where it is in the guidance already; the reason where it stays outside.
pub(super) fn read(
    workspace: &Workspace<'_>,
    profile: &Profile,
    number: usize,
    rule: &Arc<Rule>,
    lock: &Lock,
    hidden: &[RepoPath],
) -> Result<Option<(Address, Adoptee)>, String> {
    let place = rule.place_in(profile);
    let Some(path) = rule.file().in_root() else { return Err("it is yours alone, in your home folder".into()) };
    if let Some(why) = stays_outside(rule, place) {
        return Err(why);
    }
    if let Some(known) = lock.of(path) {
        let link = workspace.tree().link_target(rule.file()).map(|target| link_mark(&target));
        let published = match link {
            Some(link) => known.hash == link,
            None => known.is(rule.document.on_disk()),
        };
        if published {
            return Ok(None);
        }
        return Err(format!("it was edited since it was published: `signpost absorb {path}` takes that back"));
    }
    if let Some(why) = unreadable(rule) {
        return Err(why);
    }
    let body = rule.document.text[rule.header.body..].replace("\r\n", "\n");
    let body = without_blank_lines(body.trim_start_matches('\u{feff}')).to_owned();
    if body.is_empty() {
        return Err("it has no text".into());
    }
    let Some(units) = units(&body) else {
        let most = group(MOST_DIRECTIVES);
        return Err(format!(
            "it holds more than {most} directives, more than any assistant follows; cut it down first"
        ));
    };
    let adoptee = Adoptee {
        profile: number,
        rule: rule.clone(),
        squeezed: squeezed(&body),
        body,
        units,
        members: BTreeSet::from([number]),
        files: BTreeSet::from([path.clone()]),
        kept: Kept::of(&rule.document.text, &rule.header, place),
    };
    Ok(Some((address(rule, place, hidden)?, adoptee)))
}

/// Why a file is no matter of the guidance.
fn stays_outside(rule: &Rule, place: &Place) -> Option<String> {
    let why = match rule.kind {
        _ if place.personal => "it is one person's own copy",
        Kind::Role => "it is a role, for another conversation",
        Kind::Bundle => "it is a bundle, which holds more than a rule",
        Kind::Rule | Kind::Called => return None,
    };
    Some(why.to_owned())
}

/// Why a file's text can't be taken over as it is.
fn unreadable(rule: &Rule) -> Option<String> {
    let document = &rule.document;
    if document.error.is_some() {
        Some("it can't be read".into())
    } else if let Some(line) = document.bad_line() {
        Some(format!("line {line} is not UTF-8; save it as UTF-8 first"))
    } else if document.text.len() > MOST_WORDS {
        Some(format!("at {} it is more than any assistant reads; cut it down first", size(document.bytes)))
    } else {
        None
    }
}

/// For which files, when and by which summary it is told.
fn address(rule: &Rule, place: &Place, hidden: &[RepoPath]) -> Result<Address, String> {
    let base = if rule.level == Level::Folder { rule.found.anchor.path.clone() } else { RepoPath::root() };
    let (mut paths, mut except) = match rule.reach {
        Reach::Scoped | Reach::Offered => patterns_from(rule, &base, place.base == Base::Root, &place.dialect)?,
        Reach::Standing | Reach::Called => Default::default(),
    };
    if rule.reach == Reach::Scoped && paths.is_empty() {
        return Err("it is scoped and has no valid pattern, so it reaches no file".into());
    }
    let mut reach = rule.reach;
    if matches!(reach, Reach::Standing | Reach::Scoped) && !hidden.is_empty() {
        // Where only the nearest file is read, those above are not told there.
        if reach == Reach::Standing {
            (reach, paths) = (Reach::Scoped, vec!["**".to_owned()]);
        }
        let below = hidden.iter().filter_map(|folder| folder.below(&base));
        except.extend(below.map(|folder| format!("{}/**", escaped(folder, guidance::dialect()))));
    }
    let summary = rule.summary.as_ref().map(|text| text.split_whitespace().collect::<Vec<_>>().join(" "));
    Ok(Address { base, reach, paths, except, summary })
}

/// The patterns of a rule, as the guidance writes them in a folder. `from_root` says that they count from the root
/// and not from there.
pub(crate) fn patterns_from(
    rule: &Rule,
    folder: &RepoPath,
    from_root: bool,
    dialect: &Dialect,
) -> Result<(Vec<String>, Vec<String>), String> {
    let below = !folder.is_root() && from_root;
    let one = |pattern: &Pattern| -> Result<Vec<String>, String> {
        let words = translate(pattern.text(), dialect, guidance::dialect(), &RepoPath::root()).words;
        if !below {
            return Ok(words);
        }
        // They count from the root, and the rule will stand further down.
        let cut = |text: &String| {
            let rest = text.trim_start_matches('/').strip_prefix(folder.as_str())?.strip_prefix('/')?;
            Some(if rest.contains('/') { rest.to_owned() } else { format!("/{rest}") })
        };
        let any_depth = |text: &&String| !text.contains('/') || text.starts_with("**/");
        words
            .iter()
            .map(|text| cut(text).or_else(|| any_depth(&text).then(|| text.clone())))
            .collect::<Option<Vec<_>>>()
            .ok_or_else(|| format!("its pattern `{}` can't be said from {folder}/", pattern.text()))
    };
    let (mut paths, mut except) = (Vec::new(), Vec::new());
    for pattern in &rule.scope.paths.set.patterns {
        match (pattern.is_negated(), except.is_empty()) {
            (true, _) => except.extend(one(pattern)?),
            (false, true) => paths.extend(one(pattern)?),
            (false, false) => {
                return Err("its patterns take files in again after a `!`, which the guidance can't say".into());
            }
        }
    }
    for pattern in &rule.scope.except.set.patterns {
        if pattern.is_negated() {
            return Err("its exceptions have exceptions, which the guidance can't say".into());
        }
        except.extend(one(pattern)?);
    }
    Ok((paths, except))
}
