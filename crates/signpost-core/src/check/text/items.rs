//! The list items of a text, for fixes that take one away.

use pulldown_cmark::{Event, Options, Parser, Tag, TagEnd};
use std::ops::Range;

/// One list item.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(in crate::check) struct Item {
    /// From its marker to the end of all that belongs to it.
    pub span: Range<usize>,
    /// The list that it stands in, by number: siblings stand in one.
    pub list: usize,
    /// Whether its list stands for itself: in no other item, and below no line that ends with a colon.
    pub free: bool,
    /// Whether it is the first of its list.
    pub first: bool,
    /// Whether it holds nothing but one run of words: no list, code, quotation or second paragraph.
    pub plain: bool,
}

/// The items of a text from `body` on, in order of their markers.
pub(in crate::check) fn items(text: &str, body: usize) -> Vec<Item> {
    let mut items: Vec<Item> = Vec::new();
    let mut open: Vec<usize> = Vec::new();
    let mut lists: Vec<(usize, bool)> = Vec::new();
    let mut first = false;
    let mut count = 0;
    let events = Parser::new_ext(&text[body..], Options::ENABLE_TABLES).into_offset_iter();
    for (event, range) in events {
        let range = body + range.start..body + range.end;
        match event {
            Event::Start(Tag::List(_)) => {
                open.last().inspect(|item| items[**item].plain = false);
                let above = text[body..range.start].trim_end().trim_end_matches(['*', '_']);
                lists.push((count, open.is_empty() && !above.ends_with(':')));
                count += 1;
                first = true;
            }
            Event::End(TagEnd::List(_)) => drop(lists.pop()),
            Event::Start(Tag::Item) => {
                open.push(items.len());
                let (list, free) = lists.last().copied().unwrap_or_default();
                items.push(Item { span: range, list, free, first: std::mem::take(&mut first), plain: true });
            }
            Event::End(TagEnd::Item) => drop(open.pop()),
            Event::Start(Tag::Paragraph) => {
                // In a loose list the words of an item are a paragraph; a second one is more.
                if let Some(item) = open.last().map(|item| &mut items[*item]) {
                    let own = text[item.span.start..range.start].trim_matches([' ', '\t']);
                    let first = own.chars().all(|c| c.is_ascii_digit() || matches!(c, '-' | '*' | '+' | '.' | ')'));
                    item.plain &= first;
                }
            }
            Event::Start(
                Tag::CodeBlock(_) | Tag::BlockQuote(_) | Tag::Table(_) | Tag::HtmlBlock | Tag::Heading { .. },
            )
            | Event::Rule => {
                open.last().inspect(|item| items[**item].plain = false);
            }
            _ => {}
        }
    }
    items
}

/// The innermost item that holds a byte.
pub(in crate::check) fn item_at(items: &[Item], at: usize) -> Option<&Item> {
    let after = items.partition_point(|item| item.span.start <= at);
    items[..after].iter().rev().find(|item| item.span.contains(&at))
}

/// The lines of an item that can go without changing what anything else says: it is plain, nothing else stands on its
/// lines, and `kept`, which stays, is a sibling; or both stand in lists of their own, of which a first item is left.
pub(in crate::check) fn removable(
    text: &str,
    items: &[Item],
    gone: &Range<usize>,
    kept: &Range<usize>,
) -> Option<Range<usize>> {
    let (item, other) = (item_at(items, gone.start)?, item_at(items, kept.start)?);
    let alike = item.list == other.list || item.free && other.free && !item.first;
    if !alike || item.span == other.span || !item.plain || gone.end > item.span.end {
        return None;
    }
    let words = |range: Range<usize>| text[range].chars().any(char::is_alphanumeric);
    if words(item.span.start..gone.start) || words(gone.end..item.span.end) {
        return None;
    }
    let start = text[..item.span.start].rfind('\n').map_or(0, |at| at + 1);
    let end = text[gone.end..].find('\n').map_or(text.len(), |at| gone.end + at + 1);
    // A marker that stands behind another marker, or a quotation's, begins more than this item.
    let before = &text[start..item.span.start];
    (before.trim().is_empty() && !words(gone.end..end)).then_some(start..end)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_item_goes_only_where_nothing_hangs_on_it() {
        let try_it = |text: &str| {
            let found: Vec<usize> = text.match_indices("Sand").map(|(at, _)| at).collect();
            let items = items(text, 0);
            let span = |at: usize| at..at + text[at..].find('\n').unwrap_or(text.len() - at);
            removable(text, &items, &span(found[1]), &span(found[0])).map(|range| text[range].to_owned())
        };
        assert_eq!(try_it("- Sand it\n- Oil it\n- Sand it\n"), Some("- Sand it\n".to_owned()));
        assert_eq!(try_it("- Sand it\n\n- Sand it\n\n- Oil it\n"), Some("- Sand it\n".to_owned()));
        assert_eq!(try_it("1. a\n   - Sand it\n   - Sand it\n"), Some("   - Sand it\n".to_owned()));
        let apart = "# A\n\n- Sand it\n\n# B\n\n- Oil it\n- Sand it\n";
        assert_eq!(try_it(apart), Some("- Sand it\n".to_owned()));
        for kept in [
            "- Sand it\n\n**For oak:**\n\n- Oil it\n- Sand it\n",
            "- Sand it\n- For oak:\n  - Sand it\n",
            "- For elm:\n  - Sand it\n- For oak:\n  - Sand it\n",
            "- Sand it\n- Sand it\n\t- with care\n",
            "- Sand it\n- Sand it\n\n  Then oil it.\n",
            "- Sand it\n- Sand it\n\n      code\n",
            "- Sand it\n- Sand it\n  ```\n  code\n  ```\n",
            "- Sand it\n\nFor oak:\n\n- Sand it\n",
            "- Sand it\n\n# Oak\n\n- Sand it\n",
            "- Sand it\n- - Sand it\n",
        ] {
            assert_eq!(try_it(kept), None, "{kept:?}");
        }
    }
}
