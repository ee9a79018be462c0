//! The texts of the files, as far as there is room in them.

use super::compose::{Above, Part, Segment, compose};
use super::source::Source;
use super::{Content, Draft, LossKind, Planned, Planner};
use crate::base::repo_path::{Location, RepoPath};
use crate::base::tokens::estimate;
use crate::files::MemoryTree;
use crate::project::discovery::Finder;
use crate::project::guidance::{Marker, REMARK_END};
use crate::project::rule::{Document, KeyPatterns, Rule};
use std::sync::Arc;

/// What says where to edit.
fn remark(parts: &[Part], sources: &[Source]) -> String {
    let mut files: Vec<&RepoPath> = parts.iter().map(|part| &sources[part.source].path).collect();
    files.sort();
    files.dedup();
    // A name could end the comment that this stands in, or begin a line of a header.
    let harmless = |path: &RepoPath| !path.as_str().contains("-->") && !path.as_str().contains(char::is_control);
    match &files[..] {
        [one] if harmless(one) => format!("From {one}: edit it there, {REMARK_END}"),
        all => {
            let folder = all.iter().map(|path| path.folder()).reduce(|a, b| a.common(&b)).unwrap_or_default();
            let from =
                if folder.is_root() || !harmless(&folder) { "guidance/rules".to_owned() } else { folder.to_string() };
            match all.len() {
                1 => format!("From a rule in {from}/: edit it there, {REMARK_END}"),
                number => format!("From the {number} rules in {from}/: edit them there, {REMARK_END}"),
            }
        }
    }
}

impl<'a> Planner<'a, '_> {
    pub(super) fn compose_all(&mut self) -> Vec<Planned> {
        let drafts = std::mem::take(&mut self.drafts);
        drafts.into_iter().filter_map(|(path, draft)| self.compose_one(path, draft)).collect()
    }

    fn compose_one(&mut self, path: RepoPath, mut draft: Draft) -> Option<Planned> {
        loop {
            let parts: Vec<Part> = draft.parts.clone();
            parts.first()?;
            let style = self.profiles[draft.owner.0].places[draft.owner.1].header;
            let remark = self.workspace.config.publish.remark.then(|| remark(&parts, self.sources));
            let line = |form: fn(&str) -> String| remark.as_deref().map_or(String::new(), form);
            let keys = format!("{}{}", draft.block, draft.kept.concat());
            let keys = self.as_it_was(&path, &draft, &keys).unwrap_or(keys);
            let with_remark = line(|remark| format!("# {remark}\n")) + &keys;
            let head = if keys.is_empty() { String::new() } else { style.fenced(&with_remark) };
            let comment = line(|remark| format!("<!-- {remark} -->\n"));
            let mut top = if head.is_empty() { comment.clone() } else { head };
            let (mut text, mut segments) = compose(&top, &parts, self.sources);
            let limit = self.least_limit(&draft);
            if limit > 0 && text.len() as u64 > limit && !comment.is_empty() && top == comment {
                // The remark may not push out what the assistant is to read.
                (text, segments) = compose("", &parts, self.sources);
                text += &format!("\n{comment}");
                top.clear();
            }
            if limit > 0 && text.len() as u64 > limit {
                // What is only of use at times makes room for what is told always: as much as is too much, and one at least.
                let mut too_much = text.len() as u64 - limit;
                let mut dropped = false;
                while let Some(last) =
                    draft.parts.iter().rposition(|part| matches!(part.above, Above::Under(Marker::When(_))))
                    && (too_much > 0 || !dropped)
                {
                    dropped = true;
                    let part = draft.parts.remove(last);
                    let source = part.source;
                    // At most so much goes with it; where it was less, there is another round.
                    let Above::Under(marker) = part.above else { continue };
                    let heading = marker.to_string().len() + "###### ".len() + 4;
                    too_much = too_much.saturating_sub((self.sources[source].body.len() + heading) as u64);
                    for number in draft.assistants.clone() {
                        let (name, rule) = (self.profiles[number].name.clone(), self.sources[source].path.clone());
                        self.losses.retain(|loss| loss.assistant != name || loss.rule != rule);
                        let reach = self.sources[source].reach;
                        self.lose(LossKind::LeftOut { reach, no_room: true }, number, source, None);
                    }
                }
                if dropped {
                    continue;
                }
                self.over_limit(&draft, &path, &text, &segments);
            }
            let mut assistants: Vec<String> =
                draft.assistants.iter().map(|number| self.profiles[*number].name.clone()).collect();
            assistants.sort();
            let mut sources: Vec<RepoPath> =
                draft.parts.iter().map(|part| self.sources[part.source].path.clone()).collect();
            sources.dedup();
            let body = top.len();
            return Some(Planned { path, content: Content::Text(text), assistants, sources, segments, body });
        }
    }

    /// The header that the file had before it was adopted, where that says the same.
    fn as_it_was(&self, path: &RepoPath, draft: &Draft, keys: &str) -> Option<String> {
        let [part] = &draft.parts[..] else { return None };
        let (number, place) = draft.owner;
        let (profile, place) = (self.profiles[number], &self.profiles[number].places[place]);
        let head = self.sources[part.source].keep.get(&profile.name)?.head(place)?;
        let location = Location::root(path.clone());
        let found = Finder::new(self.workspace.tree(), None).owner(profile, &location)?;
        let says = |keys: &str| {
            let tree = MemoryTree::new().with(path.as_str(), place.header.fenced(keys) + "\ntext\n");
            let rule = Rule::read(profile, found.clone(), Arc::new(Document::read(&tree, &location, estimate)));
            let texts = |key: &KeyPatterns| key.items.iter().map(|item| item.text.clone()).collect::<Vec<_>>();
            let broken = !rule.header.problems.is_empty() || rule.scope.paths.wrong_form;
            (broken, rule.reach, rule.summary.clone(), texts(&rule.scope.paths), texts(&rule.scope.except))
        };
        let (was, is) = (says(head), says(keys));
        (was == is && !was.0).then(|| head.to_owned())
    }

    fn least_limit(&self, draft: &Draft) -> u64 {
        let limits = draft.assistants.iter().map(|number| self.profiles[*number].limits.file_bytes);
        limits.filter(|limit| *limit > 0).min().unwrap_or(0)
    }

    fn over_limit(&mut self, draft: &Draft, path: &RepoPath, text: &str, segments: &[Segment]) {
        for number in draft.assistants.clone() {
            let limit = self.profiles[number].limits.file_bytes;
            if limit == 0 || text.len() as u64 <= limit {
                continue;
            }
            for segment in segments.iter().filter(|segment| segment.span.end as u64 > limit) {
                let bytes = segment.span.end as u64 - limit.max(segment.span.start as u64);
                if let Some((source, _)) = self.numbers.get(&segment.source) {
                    self.lose(LossKind::OverLimit { bytes }, number, *source, Some(path.clone()));
                }
            }
        }
    }
}
