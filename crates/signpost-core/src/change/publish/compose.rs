//! Putting files together: one rule, or several as the sections of one file.

use super::source::Source;
use crate::base::repo_path::RepoPath;
use crate::base::wording::MOST_WORDS;
use crate::directive::Outline;
use crate::header::HeaderStyle;
use crate::project::guidance::Marker;
use std::ops::Range;

/// What stands above a rule in a file of several.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Above {
    /// Nothing, or a title where one is needed to end the section before.
    Nothing,
    /// For which files it is meant, or when it is of use.
    Under(Marker),
}

/// A rule in a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Part {
    /// The rule, by number.
    pub source: usize,
    /// What stands above it.
    pub above: Above,
}

/// Where a rule's text stands in a published file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Segment {
    /// The rule's file.
    pub source: RepoPath,
    /// The bytes of its text.
    pub span: Range<usize>,
    /// How many levels deeper its headings are than in the rule.
    pub deeper: usize,
    /// Where the heading begins that says what it applies to, and that heading's level.
    pub marker: Option<(usize, usize)>,
}

/// Puts the parts of a file together below what stands at its top.
pub fn compose(top: &str, parts: &[Part], sources: &[Source]) -> (String, Vec<Segment>) {
    let ordered = in_order(parts, sources);
    let mut titled = vec![false; ordered.len()];
    loop {
        let (text, segments) = join(top, &ordered, sources, &titled);
        // A section of one rule must not reach into the next: its heading could be a condition there.
        let fresh: Vec<usize> = caught(&text, &segments, &ordered, sources).filter(|number| !titled[*number]).collect();
        if fresh.is_empty() {
            return (text, segments);
        }
        fresh.into_iter().for_each(|number| titled[number] = true);
    }
}

/// Standing rules, then scoped ones from the wide to the narrow, those for the same files together, then those that
/// are of use at times; among what is alike as the rules say with `order`.
fn in_order<'p>(parts: &'p [Part], sources: &[Source]) -> Vec<&'p Part> {
    let mut ordered: Vec<&Part> = parts.iter().collect();
    ordered.sort_by_cached_key(|part| {
        let source = &sources[part.source];
        match &part.above {
            Above::Nothing => (0, RepoPath::root(), false, String::new(), source.order),
            Above::Under(marker @ Marker::For { .. }) => {
                let (folder, patterns) = (source.spelled_folder(), source.subtree().is_none());
                (1, folder, patterns, marker.to_string(), source.order)
            }
            Above::Under(Marker::When(summary)) => (2, RepoPath::root(), false, summary.clone(), source.order),
        }
    });
    ordered
}

fn join(top: &str, parts: &[&Part], sources: &[Source], titled: &[bool]) -> (String, Vec<Segment>) {
    let mut text = top.to_owned();
    let mut segments = Vec::new();
    let mut highest: Option<usize> = None;
    let mut before: Option<&Above> = None;
    let mut marker = None;
    for (part, titled) in parts.iter().zip(titled) {
        let source = &sources[part.source];
        let own: Vec<usize> = source.headings().iter().map(|(_, level)| *level).collect();
        let title = match &part.above {
            Above::Nothing => titled.then(|| source.title()),
            Above::Under(marker) => Some(marker.to_string()),
        };
        let mut deeper = 0;
        if let Some(title) = title {
            let level = highest.unwrap_or(2);
            if before != Some(&part.above) || part.above == Above::Nothing {
                separate(&mut text);
                marker = Some((text.len(), level));
                text += &format!("{} {title}\n", "#".repeat(level));
            }
            let first = own.iter().copied().min().unwrap_or(usize::MAX);
            deeper = if part.above == Above::Nothing && own.is_empty() { 0 } else { (level + 1).saturating_sub(first) };
            highest = Some(level);
        } else {
            marker = None;
            if let Some(own) = own.iter().min() {
                highest = Some(highest.map_or(*own, |level| level.min(*own)));
            }
        }
        separate(&mut text);
        if text.is_empty() && HeaderStyle::begins(&source.body) {
            // On the first line it would begin a header.
            text.push('\n');
        }
        let start = text.len();
        text += &deeper_by(&source.body, deeper, source.headings());
        segments.push(Segment { source: source.path.clone(), span: start..text.len(), deeper, marker });
        text.push('\n');
        before = Some(&part.above);
    }
    (text, segments)
}

/// An empty line between what stands there and what comes; none at the very top.
fn separate(text: &mut String) {
    if !text.is_empty() && !text.ends_with("\n\n") {
        text.push('\n');
    }
}

/// The parts whose directives stand under another rule's heading that is a condition.
fn caught(text: &str, segments: &[Segment], parts: &[&Part], sources: &[Source]) -> impl Iterator<Item = usize> {
    let headings = text.len() <= MOST_WORDS
        && (text.lines().any(|line| line.starts_with('#')) || text.contains("\n---") || text.contains("\n==="));
    let mut numbers = Vec::new();
    if headings && parts.len() > 1 {
        let outline = Outline::read(text, 0);
        for (number, (segment, part)) in segments.iter().zip(parts).enumerate() {
            if part.above != Above::Nothing {
                continue;
            }
            let inside = |at: usize| segment.span.contains(&at);
            let first = outline.directives.partition_point(|one| one.span.start < segment.span.start);
            let conditions = outline.directives[first..]
                .iter()
                .take_while(|one| inside(one.span.start))
                .map(|one| one.conditions.len());
            // A first line under somebody else's heading reads as if it belonged there.
            let headless = outline
                .sections
                .iter()
                .any(|section| section.span.contains(&segment.span.start) && !inside(section.heading.start))
                && !sources[part.source].body.starts_with('#');
            if headless || conditions.sum::<usize>() > sources[part.source].conditions() {
                numbers.push(number);
            }
        }
    }
    numbers.into_iter()
}

/// A rule's text with its headings deeper.
#[derive(Clone, Debug, Default)]
pub(crate) struct Deepened {
    /// Its lines, and which lines of the rule's text each of them is.
    pub lines: Vec<(String, Range<usize>)>,
}

/// The text with its headings so many levels deeper, as far as there are levels.
pub(crate) fn deepened(body: &str, by: usize, headings: &[(Range<usize>, usize)]) -> Deepened {
    let own: Vec<&str> = body.split('\n').collect();
    let mut lines = Vec::with_capacity(own.len());
    let plain = |range: Range<usize>| range.map(|at| (own[at].to_owned(), at..at + 1)).collect::<Vec<_>>();
    let (mut at, mut line_start) = (0, 0);
    for (span, level) in if by == 0 { &[][..] } else { headings } {
        let first = at + body[line_start..span.start].matches('\n').count();
        lines.extend(plain(at..first));
        let last = first + body[span.clone()].matches('\n').count();
        let start = body[..span.start].rfind('\n').map_or(0, |found| found + 1);
        let end = body[span.end..].find('\n').map_or(body.len(), |found| span.end + found);
        let (before, old, after) = (&body[start..span.start], &body[span.clone()], &body[span.end..end]);
        let signs = "#".repeat((level + by).min(6));
        if old.starts_with('#') {
            lines.push((format!("{before}{signs}{}{after}", old.trim_start_matches('#')), first..last + 1));
        } else {
            // Underlined headings have two levels only.
            let mut title: Vec<&str> = old.trim_end().lines().collect();
            title.pop();
            lines.push((format!("{before}{signs} {}", title.join(" ")), first..last + 1));
            lines.push((after.to_owned(), last + 1..last + 1));
        }
        (at, line_start) = (last + 1, (end + 1).min(body.len()));
    }
    lines.extend(plain(at..own.len()));
    Deepened { lines }
}

/// The same as one text.
fn deeper_by(body: &str, by: usize, headings: &[(Range<usize>, usize)]) -> String {
    if by == 0 {
        return body.to_owned();
    }
    deepened(body, by, headings).lines.into_iter().map(|(line, _)| line).collect::<Vec<_>>().join("\n")
}

#[cfg(test)]
mod tests {
    use super::super::source::headings;
    use super::*;

    #[test]
    fn headings_go_deeper_and_every_line_knows_where_it_comes_from() {
        let body = "# One\n\ntext\n\nTwo\nlines\n---\n- # In an item\n```\n# code\n```\n###### Six";
        let deep = deepened(body, 2, &headings(body));
        let text: Vec<&str> = deep.lines.iter().map(|(line, _)| line.as_str()).collect();
        assert_eq!(
            text.join("\n"),
            "### One\n\ntext\n\n#### Two lines\n\n- ### In an item\n```\n# code\n```\n###### Six"
        );
        let from: Vec<usize> = deep.lines.iter().flat_map(|(_, own)| own.clone()).collect();
        assert_eq!(
            from,
            (0..body.split('\n').count()).collect::<Vec<_>>(),
            "each line of the rule comes once, in order"
        );
        assert_eq!(deeper_by(body, 0, &headings(body)), body);
    }
}
