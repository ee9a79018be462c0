//! Keys of a header that somebody edited.

use super::Refused;
use crate::base::repo_path::Location;
use crate::change::address::Address;
use crate::change::publish::source::Source;
use crate::change::publish::{Plan, Planned};
use crate::files::MemoryTree;
use crate::header::Header;
use crate::profile::{Profile, Reach};
use crate::project::discovery::Candidate;
use crate::project::guidance::{RuleHeader, write_header};
use crate::project::rule::{Document, Rule};
use std::ops::Range;
use std::sync::Arc;

/// What an edited header says, in the guidance's words; nothing where it was not edited.
pub(super) struct EditedHeader {
    /// What it is now, where it differs.
    summary: Option<Option<String>>,
    /// The patterns before and after, where they differ.
    paths: Option<(Vec<String>, Vec<String>)>,
    except: Option<(Vec<String>, Vec<String>)>,
    reach: Option<Reach>,
}

pub(super) fn edited_header(
    plan: &Plan,
    file: &Planned,
    profile: &Profile,
    found: &Candidate,
    ours: &str,
    merged: &str,
) -> Result<Option<EditedHeader>, Refused> {
    let location = Location::root(file.path.clone());
    let style = profile.places[found.place].header;
    let keys = |text: &str| {
        let header = Header::read(text, style);
        header.keys.iter().map(|key| (key.name.clone(), text[key.value_span.clone()].to_owned())).collect::<Vec<_>>()
    };
    let (old, new) = (Header::read(ours, style), Header::read(merged, style));
    let line = Some(2);
    let refuse =
        |message: String| -> Refused { (line, message, format!("edit the header of {} instead", file.sources[0])) };
    // Words above it, a fence that is gone: then all of it would be text.
    if old.block.is_some() && new.block.is_none() {
        return Err(refuse("its header can't be read as one any more".to_owned()));
    }
    let broken = new.problems.into_iter().next();
    if keys(ours) == keys(merged) && broken.is_none() {
        if remarks(ours, old.block) != remarks(merged, new.block) {
            return Err(refuse("a remark in its header was changed".to_owned()));
        }
        return Ok(None);
    }
    if let Some(problem) = broken {
        return Err(refuse(format!("its header is broken: {}", problem.message)));
    }
    let [only] = &file.sources[..] else {
        return Err(refuse("the header of a file made from several rules was changed".to_owned()));
    };
    let read = |text: &str| {
        let tree = MemoryTree::new().with(file.path.as_str(), text);
        let document = Arc::new(Document::read(&tree, &location, crate::base::tokens::estimate));
        Rule::read(profile, found.clone(), document)
    };
    let (old, new) = (read(ours), read(merged));
    let place = &profile.places[found.place];
    let known = place.known_keys();
    let (before, after) = (keys(ours), keys(merged));
    let unknown = |(name, _): &&(String, String)| !known.contains(&name.as_str());
    let changed =
        after.iter().filter(|key| !before.contains(key)).chain(before.iter().filter(|key| !after.contains(key)));
    if let Some((key, _)) = changed.into_iter().find(unknown) {
        return Err(refuse(format!("the guidance has nothing for the key `{key}`")));
    }
    let source = plan.sources.iter().find(|source| source.path == *only);
    let base = source.map(|source| source.base.clone()).unwrap_or_default();
    let address = |rule: &Rule| Address::of(rule, place, &[], &base).map_err(&refuse);
    let mut items = new.scope.paths.items.iter().chain(&new.scope.except.items);
    if let Some(item) = items.find(|item| item.pattern.is_err()) {
        return Err(refuse(format!("`{}` is no valid pattern", item.text)));
    }
    if new.reach == Reach::Scoped && new.scope.paths.set.is_empty() {
        return Err(refuse("its patterns take nothing any more".to_owned()));
    }
    let (was, is) = (address(&old)?, address(&new)?);
    Ok(Some(EditedHeader {
        summary: (new.summary != old.summary).then(|| new.summary.clone()),
        paths: (was.paths != is.paths).then_some((was.paths, is.paths)),
        except: (was.except != is.except).then_some((was.except, is.except)),
        reach: (was.reach != is.reach).then_some(is.reach),
    }))
}

/// The lines of a header that are no keys but remarks, publishing's own left out.
fn remarks(text: &str, block: Option<Range<usize>>) -> Vec<&str> {
    let lines = text[block.unwrap_or(0..0)].lines().map(str::trim);
    lines.filter(|line| line.starts_with('#') && !line.ends_with(crate::project::guidance::REMARK_END)).collect()
}

/// A rule's header with what was edited.
pub(super) fn rewrite_header(head: &str, source: &Source, edited: &EditedHeader) -> String {
    let (paths, except) = source.patterns();
    let owned = |list: Vec<&str>| list.into_iter().map(str::to_owned).collect::<Vec<_>>();
    // What was there stays as the rule writes it, in its place; what is new comes after.
    let changed = |own: Vec<String>, change: &Option<(Vec<String>, Vec<String>)>| match change {
        None => own,
        Some((old, new)) => {
            let gone: Vec<&String> = old.iter().filter(|one| !new.contains(one)).collect();
            let mut list: Vec<String> = own.iter().filter(|one| !gone.contains(one)).cloned().collect();
            let kept_all = list.len() + gone.len() == own.len();
            if !kept_all {
                return new.clone();
            }
            list.extend(new.iter().filter(|one| !old.contains(one)).cloned());
            list
        }
    };
    let paths = changed(owned(paths), &edited.paths);
    let except = changed(owned(except), &edited.except);
    let reach = edited.reach.unwrap_or(source.reach);
    let everywhere = reach == Reach::Standing && edited.reach.is_some();
    let (paths, except) = if everywhere { (Vec::new(), Vec::new()) } else { (paths, except) };
    let assumed = if paths.is_empty() { Reach::Standing } else { Reach::Scoped };
    let summary = edited.summary.clone().unwrap_or_else(|| source.rule.summary.clone());
    let reach = (reach != assumed).then_some(reach);
    write_header(head, &RuleHeader { summary, paths, except, reach, ..RuleHeader::default() })
}
