//! Mentions of other files in an instruction file: `@some/file` and `[text](some/file)`.
//!
//! What stands in code is no mention. What a mention leads to is decided by [`resolve`], which never leaves
//! the project (nor, from a file of the home folder, the home folder).

use crate::base::repo_path::{Location, RepoPath, Side};
use crate::files::Tree;
use crate::profile::{Format, ReferenceBase, ReferenceSyntax};
use pulldown_cmark::{Event, LinkType, Options, Parser, Tag};
use std::ops::Range;

/// A mention of another file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mention {
    /// The path as written, without `@`, punctuation after it, or `#section`.
    pub target: String,
    /// The bytes of the path.
    pub span: Range<usize>,
}

/// Finds the mentions in a text from `body` on, in order of position.
pub fn mentions(text: &str, body: usize, format: Format, syntax: &[ReferenceSyntax]) -> Vec<Mention> {
    let mut found = Vec::new();
    let (code, links) = match format {
        Format::Markdown => markdown(text, body),
        Format::Plain => (Vec::new(), plain_links(text, body)),
    };
    if syntax.contains(&ReferenceSyntax::AtPath) {
        found.extend(at_paths(text, body, &code));
    }
    if syntax.contains(&ReferenceSyntax::Link) {
        found.extend(
            links.into_iter().filter_map(|(target, span)| link_target(&target).map(|target| Mention { target, span })),
        );
    }
    found.sort_by_key(|mention| mention.span.start);
    found
}

type Links = Vec<(String, Range<usize>)>;

/// The byte ranges of code, and the inline links with their targets.
fn markdown(text: &str, body: usize) -> (Vec<Range<usize>>, Links) {
    let source = &text[body..];
    let (mut code, mut links) = (Vec::new(), Vec::new());
    for (event, range) in Parser::new_ext(source, Options::empty()).into_offset_iter() {
        let range = body + range.start..body + range.end;
        match event {
            Event::Code(_) | Event::Start(Tag::CodeBlock(_)) => code.push(range),
            Event::Start(Tag::Link { link_type: LinkType::Inline, dest_url, .. }) => {
                let span = text[range.clone()]
                    .rfind(dest_url.as_ref())
                    .map_or(range.clone(), |at| range.start + at..range.start + at + dest_url.len());
                links.push((dest_url.into_string(), span));
            }
            _ => {}
        }
    }
    (code, links)
}

/// `[text](target)` where nothing is code.
fn plain_links(text: &str, body: usize) -> Links {
    let mut links = Vec::new();
    for (at, _) in text[body..].match_indices("](") {
        let middle = body + at;
        let line_start = text[..middle].rfind('\n').map_or(0, |at| at + 1);
        let Some(open) = text[line_start..middle].rfind('[').map(|at| line_start + at) else { continue };
        let start = middle + 2;
        let Some(end) = text[start..].find([')', '\n']).map(|at| start + at) else { continue };
        let image = text[..open].ends_with('!');
        if !image && text[end..].starts_with(')') {
            let target = text[start..end].split_whitespace().next().unwrap_or_default();
            links.push((target.to_owned(), start..start + target.len()));
        }
    }
    links
}

fn at_paths(text: &str, body: usize, code: &[Range<usize>]) -> Vec<Mention> {
    let mut found = Vec::new();
    let mut code = code.iter().peekable();
    for (at, _) in text[body..].match_indices('@') {
        let at = body + at;
        while code.peek().is_some_and(|range| range.end <= at) {
            code.next();
        }
        let in_code = code.peek().is_some_and(|range| range.contains(&at));
        let before = text[body..at].chars().next_back();
        if in_code || !before.is_none_or(|c| c.is_whitespace() || matches!(c, '(' | '[' | '"' | '\'')) {
            continue;
        }
        let rest = &text[at + 1..];
        let end = rest
            .find(|c: char| c.is_whitespace() || matches!(c, ')' | ']' | '"' | '\'' | '<' | '>' | '`'))
            .unwrap_or(rest.len());
        let target = rest[..end].trim_end_matches(['.', ',', ';', ':', '!', '?']);
        if target.contains(['.', '/']) {
            found.push(Mention { target: target.to_owned(), span: at + 1..at + 1 + target.len() });
        }
    }
    found
}

/// The path of a link's target; `None` where it is no file of the project.
fn link_target(target: &str) -> Option<String> {
    let path = target.split('#').next().unwrap_or_default();
    let scheme = path.split_once(':').is_some_and(|(scheme, _)| {
        scheme.starts_with(|c: char| c.is_ascii_alphabetic())
            && scheme.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '+' | '-' | '.'))
    });
    if path.is_empty() || scheme || path.starts_with("//") {
        return None;
    }
    Some(percent_decoded(path))
}

/// Links write a blank as `%20`.
fn percent_decoded(path: &str) -> String {
    let bytes = path.as_bytes();
    let mut decoded = Vec::with_capacity(bytes.len());
    let mut at = 0;
    while at < bytes.len() {
        let hex = (bytes[at] == b'%').then(|| path.get(at + 1..at + 3)).flatten();
        match hex.and_then(|hex| u8::from_str_radix(hex, 16).ok()) {
            Some(byte) => {
                decoded.push(byte);
                at += 3;
            }
            None => {
                decoded.push(bytes[at]);
                at += 1;
            }
        }
    }
    String::from_utf8(decoded).unwrap_or_else(|_| path.to_owned())
}

/// Where a mention leads; `None`: outside of what the mentioning file may reach.
pub fn resolve(tree: &dyn Tree, mentioned_in: &Location, target: &str, base: ReferenceBase) -> Option<Location> {
    locate(tree, mentioned_in, target, base).filter(|found| may_reach(mentioned_in, found))
}

/// Whether a file may mention another: files of the repository may only reach files in the root.
pub fn may_reach(mentioned_in: &Location, found: &Location) -> bool {
    mentioned_in.side == Side::Home || found.side == Side::Root
}

/// Where a mention leads, whether it may or not; `None`: neither in the root nor in the home folder.
pub fn locate(tree: &dyn Tree, mentioned_in: &Location, target: &str, base: ReferenceBase) -> Option<Location> {
    let found = if let Some(rest) = target.strip_prefix("~/") {
        Location::home(RepoPath::root().resolve(rest)?)
    } else if target.starts_with('/') {
        tree.locate_absolute(target)?
    } else {
        match base {
            ReferenceBase::Root => Location::root(RepoPath::root().resolve(target)?),
            ReferenceBase::File => {
                let folder = mentioned_in.path.folder();
                Location { side: mentioned_in.side, path: folder.resolve(target)? }
            }
        }
    };
    Some(tree.settle(found))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn targets(text: &str, format: Format, syntax: &[ReferenceSyntax]) -> Vec<String> {
        mentions(text, 0, format, syntax).into_iter().map(|mention| mention.target).collect()
    }

    #[test]
    fn at_paths_are_found_outside_of_code() {
        let text = "@a/b.md, see (@c.md) and \"@d/e\" or '@f.x'.\nmail me@x.org, ask @someone, @end.\n`@no.md`\n\n```\n@no.md\n```\n\n    @no.md\n\n@~/g.md! @h.md<br> [@i.md]\n";
        let all = targets(text, Format::Markdown, &[ReferenceSyntax::AtPath]);
        assert_eq!(all, ["a/b.md", "c.md", "d/e", "f.x", "~/g.md", "h.md", "i.md"]);
        // As Markdown has it: below a list item four blanks are the item's own text, six are code.
        let below = "- see\n\n    @yes.md\n\n- or\n\n      @no.md\n";
        assert_eq!(targets(below, Format::Markdown, &[ReferenceSyntax::AtPath]), ["yes.md"]);
        let plain = targets("`@yes.md` @yes.md", Format::Plain, &[ReferenceSyntax::AtPath]);
        assert_eq!(plain, ["yes.md"], "a backtick is nothing that a mention may follow");
    }

    #[test]
    fn inline_links_are_found() {
        let text = "[a](x/a.md#part) ![img](i.png) [b](https://x.org/b) [c](#d) [r][ref] `[n](n.md)` [e](e%20f.md \"title\")\n\n[ref]: r.md\n";
        assert_eq!(targets(text, Format::Markdown, &[ReferenceSyntax::Link]), ["x/a.md", "e f.md"]);
        assert_eq!(targets("see [a](x.md) ![b](y.md)", Format::Plain, &[ReferenceSyntax::Link]), ["x.md"]);
        assert!(targets(text, Format::Markdown, &[]).is_empty());
    }
}
