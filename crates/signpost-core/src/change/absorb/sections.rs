//! Which rule each line of an edited file belongs to.
//!
//! A published file holds the texts of rules as sections. Lines that nobody touched go back as the rule has them; lines
//! that are new belong to the section that they stand in. What stands between sections, or would end one, is left to
//! the person.

use super::Refused;
use super::merge::differences;
use crate::base::wording::shorten;
use crate::change::publish::Planned;
use crate::change::publish::compose::{Deepened, deepened};
use crate::change::publish::source::Source;
use crate::change::publish::source::headings;
use similar::DiffOp;
use std::ops::Range;

/// A line of a rule as it will be.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Line {
    /// That line of the rule as it is.
    Own(usize),
    /// Another one.
    New(String),
}

/// A rule's section in a published file.
struct Section<'p> {
    /// The lines of its text.
    lines: Range<usize>,
    /// The line of the heading that says what it applies to, and that heading's level.
    marker: Option<(usize, usize)>,
    /// How many levels deeper its headings are than in the rule.
    deeper: usize,
    /// Its lines, and which lines of the rule they are.
    text: Deepened,
    /// The rule.
    source: &'p Source,
}

/// What each rule of a file says with the edits in it: for each of the file's segments the lines of its rule.
/// `ours` are the lines that publishing would write from `first` on, `new` those that are to stand there.
pub(super) fn rules(
    file: &Planned,
    sources: &[&Source],
    text: &str,
    ours: &[&str],
    first: usize,
    new: &[&str],
) -> Result<Vec<Vec<Line>>, Refused> {
    let starts: Vec<usize> = text.match_indices('\n').map(|(at, _)| at).collect();
    let line_of = |byte: usize| starts.partition_point(|start| *start < byte).saturating_sub(first);
    let sections: Vec<Section<'_>> = file
        .segments
        .iter()
        .zip(sources)
        .map(|(segment, source)| {
            let text = deepened(&source.body, segment.deeper, source.headings());
            let start = line_of(segment.span.start);
            Section {
                lines: start..start + text.lines.len(),
                marker: segment.marker.as_ref().map(|(byte, level)| (line_of(*byte), *level)),
                deeper: segment.deeper,
                text,
                source,
            }
        })
        .collect();
    let reader = Reader { sections, ours, new, first };
    let owners = reader.owners()?;
    (0..reader.sections.len()).map(|number| reader.lines(number, &owners)).collect()
}

/// Where each new line comes from: an old line, or a section.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Owner {
    Old(usize),
    Section(usize),
    /// A blank line between sections.
    Nobody,
}

struct Reader<'r> {
    sections: Vec<Section<'r>>,
    ours: &'r [&'r str],
    new: &'r [&'r str],
    /// How many lines stand above those that are looked at.
    first: usize,
}

impl Reader<'_> {
    fn owners(&self) -> Result<Vec<Owner>, Refused> {
        let mut owners = vec![Owner::Nobody; self.new.len()];
        for op in differences(self.ours, self.new) {
            match op {
                DiffOp::Equal { old_index, new_index, len } => {
                    (0..len).for_each(|at| owners[new_index + at] = Owner::Old(old_index + at));
                }
                DiffOp::Delete { old_index, old_len, new_index } => {
                    self.changed(old_index..old_index + old_len, new_index..new_index)?;
                }
                DiffOp::Insert { old_index, new_index, new_len } => {
                    let added = new_index..new_index + new_len;
                    if let Some(section) = self.standing_in(old_index, added.clone())? {
                        owners[added].fill(Owner::Section(section));
                    }
                }
                DiffOp::Replace { old_index, old_len, new_index, new_len } => {
                    let added = new_index..new_index + new_len;
                    let section = match self.changed(old_index..old_index + old_len, added.clone())? {
                        Some(section) => Some(section),
                        None => self.standing_in(old_index, added.clone())?,
                    };
                    if let Some(section) = section {
                        owners[added].fill(Owner::Section(section));
                    }
                }
            }
        }
        Ok(owners)
    }

    /// The section whose lines were taken out or replaced; nothing where only blank lines between sections were.
    fn changed(&self, old: Range<usize>, new: Range<usize>) -> Result<Option<usize>, Refused> {
        let foreign = |line: &usize| !self.sections.iter().any(|section| section.lines.contains(line));
        if let Some(line) = old.clone().filter(foreign).find(|line| !self.ours[*line].trim().is_empty()) {
            return Err(self.nobodys(self.ours[line], new.start));
        }
        let touches = |section: &&usize| {
            let lines = &self.sections[**section].lines;
            lines.start < old.end && old.start < lines.end
        };
        let all: Vec<usize> = (0..self.sections.len()).collect();
        let touched: Vec<usize> = all.iter().filter(touches).copied().collect();
        match touched[..] {
            [] => Ok(None),
            [one] => Ok(Some(one)),
            // Lines that are only taken out are taken out of each.
            _ if new.is_empty() => Ok(None),
            _ => Err((
                Some(self.first + new.start + 1),
                "one change goes over the texts of several rules".to_owned(),
                "change one rule after the other".to_owned(),
            )),
        }
    }

    /// The section that lines inserted before an old one stand in; nothing for blank lines between two.
    fn standing_in(&self, at: usize, added: Range<usize>) -> Result<Option<usize>, Refused> {
        let inside = |section: &Section<'_>| section.lines.start < at && at < section.lines.end;
        if let Some(number) = self.sections.iter().position(inside) {
            return Ok(Some(number));
        }
        let before = (0..self.sections.len()).rev().find(|number| self.sections[*number].lines.end <= at);
        let after = (0..self.sections.len()).find(|number| self.sections[*number].lines.start >= at);
        let words: Vec<&str> = self.new[added.clone()].to_vec();
        if words.iter().all(|line| line.trim().is_empty()) {
            // A blank line at the edge of a text is no edit of it.
            return Ok(None);
        }
        // A heading that says what a section applies to parts the one before from the one after.
        let from = before.map_or(0, |number| self.sections[number].lines.end);
        let to = after.map_or(self.ours.len(), |number| self.sections[number].lines.start);
        let parting = (from..to).rfind(|line| !self.ours[*line].trim().is_empty());
        match (before, after, parting) {
            (_, Some(after), Some(parting)) if parting < at => Ok(Some(after)),
            (Some(before), _, Some(parting)) if at <= parting => Ok(Some(before)),
            (None, Some(after), None) => Ok(Some(after)),
            (Some(before), None, None) => Ok(Some(before)),
            (Some(before), Some(after), None) => {
                let above = at == from && !words[0].trim().is_empty();
                let below = at == to && words.last().is_some_and(|line| !line.trim().is_empty());
                match (above, below) {
                    (true, false) => Ok(Some(before)),
                    (false, true) => Ok(Some(after)),
                    _ => {
                        let [one, other] = [before, after].map(|number| &self.sections[number].source.path);
                        let first = words.iter().find(|line| !line.trim().is_empty()).copied().unwrap_or_default();
                        Err((
                            Some(self.first + added.start + 1),
                            format!("“{}” stands between the texts of {one} and {other}", shorten(first, 60)),
                            "write it into the one that it belongs to".to_owned(),
                        ))
                    }
                }
            }
            _ => Err(self.nobodys(words.iter().find(|line| !line.trim().is_empty()).unwrap_or(&""), added.start)),
        }
    }

    fn nobodys(&self, words: &str, line: usize) -> Refused {
        let message = format!("“{}” belongs to no rule, and was changed", shorten(words, 60));
        (Some(self.first + line + 1), message, "what a section applies to is said in the header of its rule".to_owned())
    }

    /// The lines of one section's rule.
    fn lines(&self, number: usize, owners: &[Owner]) -> Result<Vec<Line>, Refused> {
        let section = &self.sections[number];
        let own = |owner: &Owner| match owner {
            Owner::Old(line) => section.lines.contains(line),
            Owner::Section(other) => *other == number,
            Owner::Nobody => false,
        };
        let kept: Vec<usize> = (0..owners.len()).filter(|line| own(&owners[*line])).collect();
        // Headings stand as deep in the rule as they would without the section around them.
        let mut words: Vec<String> = kept.iter().map(|line| self.new[*line].to_owned()).collect();
        let text = words.join("\n");
        let (mut counted, mut first) = (0, 0);
        for (span, level) in headings(&text) {
            first += text[counted..span.start].matches('\n').count();
            counted = span.start;
            let last = first + text[span.clone()].matches('\n').count();
            let Some(at) = (first..=last).find(|at| matches!(owners[kept[*at]], Owner::Section(_))) else { continue };
            if let Some((_, marker)) = section.marker
                && level <= marker
            {
                let message = format!("“{}” would end the section that it stands in", shorten(&text[span], 60));
                let help = format!("write it with {} or more `#`, or into a rule of its own", marker + 1);
                return Err((Some(self.first + kept[at] + 1), message, help));
            }
            let signs = "#".repeat(level);
            if section.deeper > 0
                && let Some(found) = words[first].find(&signs)
            {
                let higher = "#".repeat(level.saturating_sub(section.deeper).max(1));
                words[first].replace_range(found..found + signs.len(), &higher);
            }
        }
        let mut lines = Vec::new();
        for (at, words) in kept.iter().zip(words) {
            match owners[*at] {
                Owner::Old(line) => {
                    let own = section.text.lines[line - section.lines.start].1.clone();
                    lines.extend(own.map(Line::Own));
                }
                _ => lines.push(Line::New(words)),
            }
        }
        Ok(lines)
    }
}
