//! Words that do not help.
//!
//! One finding a directive at most from each check; where two fit, the one that says more speaks.

pub(super) mod commonplace;
pub(super) mod no_alternative;
pub(super) mod placeholder;
pub(super) mod pleasantry;
pub(super) mod shouting;
pub(super) mod vague;

use super::{Context, Text};
pub use placeholder::first_unfilled;
use std::ops::Range;

/// So many bytes before some words a quotation may begin.
const FARTHEST_QUOTE: usize = 4096;

/// Whether words stand in code or between quotation marks, and so are spoken of.
fn is_spoken_of(text: &Text, span: &Range<usize>) -> bool {
    let after = text.outline.code.partition_point(|code| code.span.start <= span.start);
    let in_code = after > 0 && span.end <= text.outline.code[after - 1].span.end;
    let whole = text.text();
    let before = whole[..span.start].chars().next_back();
    // Quotation marks that open farther back are not looked for: a line may be the whole file.
    let mut from = span.start.saturating_sub(FARTHEST_QUOTE);
    while !whole.is_char_boundary(from) {
        from += 1;
    }
    let line = whole[from..span.start].rfind('\n').map_or(from, |at| from + at + 1);
    let open = whole[line..span.start].matches('"').count() % 2 == 1
        || whole[line..span.start].matches('“').count() > whole[line..span.start].matches('”').count();
    in_code || open || matches!(before, Some('"' | '“' | '\'' | '`'))
}

/// Whether a directive names something that can be checked: code, a number, a path.
fn is_concrete(words: &str) -> bool {
    words.contains('`') || words.chars().any(|c| c.is_ascii_digit()) || words.contains('/')
}

/// Words that the project says are fine.
fn is_fine(context: &Context<'_, '_>, words: &str) -> bool {
    let fine = &context.workspace.config.words.fine;
    fine.iter().any(|one| one.eq_ignore_ascii_case(words))
}
