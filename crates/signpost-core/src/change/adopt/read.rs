//! What a file of an assistant says, as the guidance would say it: which part of the project it is for, and when it is told.

use super::Adoptee;
use super::cut::{squeezed, units};
use super::faithful::{Effort, Efforts};
use crate::base::repo_path::RepoPath;
use crate::base::wording::{MOST_WORDS, group, size};
use crate::change::address::{Address, hidden_below};
use crate::change::publish::changes::link_mark;
use crate::change::publish::source::without_blank_lines;
use crate::directive::MOST_DIRECTIVES;
use crate::inspect::beside::is_ignored;
use crate::profile::{Kind, Place, Profile};
use crate::project::guidance::Kept;
use crate::project::lock::LockedFile;
use crate::project::rule::Rule;
use crate::project::workspace::{Project, Workspace};
use rustc_hash::FxHashMap;
use std::collections::BTreeSet;
use std::sync::Arc;

/// What the files of an assistant are read with.
pub(super) struct Reading<'a, 'w> {
    pub workspace: &'a Workspace<'w>,
    pub project: &'a Project,
    /// What is published already.
    pub known: &'a FxHashMap<&'a RepoPath, &'a LockedFile>,
    pub efforts: &'a Efforts,
}

/// A file as adopting sees it; nothing where it is in the guidance already; the reason where it stays outside.
pub(super) fn read(
    reading: &Reading<'_, '_>,
    profile: &Profile,
    number: usize,
    rule: &Arc<Rule>,
) -> Result<Option<(Address, Adoptee)>, String> {
    let Reading { workspace, project, known, efforts } = reading;
    let place = rule.place_in(profile);
    let Some(path) = rule.file().in_root() else { return Err("it is yours alone, in your home folder".into()) };
    if let Some(why) = stays_outside(rule, place) {
        return Err(why);
    }
    if is_ignored(project, path) {
        return Err("git ignores it, so it is one person's own".into());
    }
    if let Effort::Left(why) = efforts.of(path) {
        return Err(why);
    }
    if let Some(known) = known.get(path) {
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
    let hidden = hidden_below(project, workspace, profile, rule);
    let base = part_of(project, &rule.found.anchor.path);
    Ok(Some((Address::of(rule, place, &hidden, &base)?, adoptee)))
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

/// The part of the project that has a `guidance/` of its own and holds a folder; else the root.
fn part_of(project: &Project, folder: &RepoPath) -> RepoPath {
    let mut parts = folder.way().into_iter().rev();
    parts.find(|part| project.index.folder(&part.join("guidance/rules")).is_some()).unwrap_or_default()
}
