use crate::base::wording::count;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("safety/hidden-text", Severity::Error, include_str!("hidden_text.toml"));

/// Text that stands behind so many blanks is out of sight in any editor.
const FAR_RIGHT: usize = 200;

pub(in crate::check) fn run(_: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for hidden in hidden(text.text()) {
        let Hidden { span, message, help, invisible } = hidden;
        let mut finding = text.finding(&INFO, span.clone(), message).help(help);
        // What turns the order of letters may be part of right-to-left words; a person should look.
        if invisible && text.words(&span).chars().all(takes_no_room) {
            finding = finding.edit(span, "");
        }
        findings.push(finding);
    }
}

/// Whether a character cannot be seen.
pub(super) fn takes_no_room(c: char) -> bool {
    matches!(sort_of(c), Some(Sort::Invisible | Sort::Letter(_)))
}

/// What invisible letters say.
pub(super) fn said(text: &str) -> Vec<(String, Range<usize>)> {
    let found = if text.is_ascii() { Vec::new() } else { invisible(text) };
    found
        .into_iter()
        .filter_map(|one| {
            let letters: String = text[one.span.clone()]
                .chars()
                .filter_map(|c| match sort_of(c) {
                    Some(Sort::Letter(c)) => Some(c),
                    _ => None,
                })
                .collect();
            (!letters.trim().is_empty()).then_some((letters, one.span))
        })
        .collect()
}

struct Hidden {
    span: Range<usize>,
    message: String,
    help: &'static str,
    /// Whether it is characters that can simply go.
    invisible: bool,
}

fn hidden(text: &str) -> Vec<Hidden> {
    let mut found = if text.is_ascii() { Vec::new() } else { invisible(text) };
    found.extend(far_right(text));
    found.extend(hidden_html(text));
    found.sort_by_key(|one| one.span.start);
    found
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Sort {
    /// Takes no room.
    Invisible,
    /// Turns the order of what is shown.
    Turning,
    /// A letter of the invisible alphabet.
    Letter(char),
}

fn sort_of(c: char) -> Option<Sort> {
    match c {
        '\u{e0020}'..='\u{e007e}' => char::from_u32(c as u32 - 0xe0000).map(Sort::Letter),
        '\u{e0000}'..='\u{e001f}' | '\u{e007f}' | '\u{e0100}'..='\u{e01ef}' => Some(Sort::Invisible),
        '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' => Some(Sort::Turning),
        '\u{200b}'..='\u{200f}'
        | '\u{2060}'..='\u{2065}'
        | '\u{feff}'
        | '\u{ad}'
        | '\u{180e}'
        | '\u{115f}'
        | '\u{1160}'
        | '\u{3164}'
        | '\u{ffa0}'
        | '\u{fff9}'..='\u{fffb}' => Some(Sort::Invisible),
        _ => None,
    }
}

/// Runs of characters that cannot be seen. A run may hold ordinary characters in between, few enough that
/// they are part of the trick.
fn invisible(text: &str) -> Vec<Hidden> {
    let chars: Vec<(usize, char)> = text.char_indices().collect();
    let mut found: Vec<Hidden> = Vec::new();
    let mut at = 0;
    while at < chars.len() {
        let Some(sort) = sort_of(chars[at].1).filter(|_| !has_a_use(&chars, at)) else {
            at += 1;
            continue;
        };
        let start = at;
        let mut letters = String::new();
        while at < chars.len()
            && let Some(sort) = sort_of(chars[at].1)
        {
            if let Sort::Letter(c) = sort {
                letters.push(c);
            }
            at += 1;
        }
        let span = chars[start].0..chars.get(at).map_or(text.len(), |(byte, _)| *byte);
        let number = at - start;
        let message = if !letters.trim().is_empty() {
            format!("invisible letters say “{}”", letters.chars().take(200).collect::<String>())
        } else if sort == Sort::Turning {
            format!("{} turns the order of the text, so that it is not read as it is shown", named(chars[start].1))
        } else if number == 1 {
            format!("{} cannot be seen here", named(chars[start].1))
        } else {
            format!("{} cannot be seen here", count(number, "character"))
        };
        found.push(Hidden {
            span,
            message,
            help: "delete what cannot be seen; if you did not write it, don't trust the rest",
            invisible: sort != Sort::Turning,
        });
    }
    found
}

fn named(c: char) -> String {
    let name = match c {
        '\u{200b}' => "a zero-width space",
        '\u{200c}' => "a zero-width non-joiner",
        '\u{200d}' => "a zero-width joiner",
        '\u{200e}' | '\u{200f}' => "a direction mark",
        '\u{ad}' => "a soft hyphen",
        '\u{feff}' => "a byte-order mark",
        '\u{2060}' => "a word joiner",
        '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' => "a direction control",
        _ => "a character",
    };
    format!("{name} (U+{:04X})", c as u32)
}

/// Emoji and scripts that need such characters to be written properly.
fn has_a_use(chars: &[(usize, char)], at: usize) -> bool {
    let before = at.checked_sub(1).map(|at| chars[at].1);
    let after = chars.get(at + 1).map(|(_, c)| *c);
    let picture = |c: Option<char>| c.is_some_and(|c| matches!(c as u32, 0x2190..=0x2bff | 0xfe0f | 0x1f000..=0x1faff));
    let foreign = |c: Option<char>| {
        c.is_some_and(|c| {
            !c.is_ascii() && c.is_alphabetic()
                || ('\u{300}'..='\u{36f}').contains(&c)
                || ('\u{900}'..='\u{dff}').contains(&c)
        })
    };
    let right_to_left = |c: Option<char>| c.is_some_and(|c| matches!(c as u32, 0x590..=0x8ff | 0xfb1d..=0xfefc));
    match chars[at].1 {
        '\u{feff}' => at == 0,
        '\u{200d}' => picture(before) && picture(after) || foreign(before),
        '\u{200c}' => foreign(before) && foreign(after),
        // Scripts that put no blanks between words mark with it where a line may end.
        '\u{200b}' => without_blanks(before) && (without_blanks(after) || after.is_none_or(|c| c.is_whitespace())),
        // A variant of the ideograph before it.
        '\u{e0100}'..='\u{e01ef}' => before.is_some_and(is_ideograph),
        '\u{180e}' => before.is_some_and(|c| ('\u{1820}'..='\u{18aa}').contains(&c)),
        '\u{115f}' | '\u{1160}' => before.into_iter().chain(after).any(|c| ('\u{1100}'..='\u{11ff}').contains(&c)),
        // Where a long word may be hyphenated.
        '\u{ad}' => letters(chars[..at].iter().rev()) >= 2 && letters(chars[at + 1..].iter()) >= 2,
        '\u{200e}' | '\u{200f}' => {
            let line = chars[..at]
                .iter()
                .rev()
                .take_while(|(_, c)| *c != '\n')
                .chain(chars[at..].iter().take_while(|(_, c)| *c != '\n'));
            line.take(400).any(|(_, c)| right_to_left(Some(*c)))
        }
        // A flag of a region: a black flag, letters, an end mark.
        '\u{e0020}'..='\u{e007f}' => {
            let mut back = chars[..at].iter().rev().skip_while(|(_, c)| ('\u{e0020}'..='\u{e007e}').contains(c));
            let is_flag = back.next().is_some_and(|(_, c)| *c == '\u{1f3f4}');
            let run = chars[at..].iter().take_while(|(_, c)| ('\u{e0020}'..='\u{e007e}').contains(c)).count();
            is_flag && run <= 6
        }
        _ => false,
    }
}

/// The letters that come first, at most a few of them.
fn letters<'c>(chars: impl Iterator<Item = &'c (usize, char)>) -> usize {
    chars.take(4).take_while(|(_, c)| c.is_alphabetic()).count()
}

/// Letters of Thai, Lao, Tibetan, Myanmar, Khmer and their neighbours, of Chinese and of Japanese.
fn without_blanks(c: Option<char>) -> bool {
    c.is_some_and(|c| {
        matches!(c as u32, 0xe00..=0xfff | 0x1000..=0x109f | 0x1780..=0x17ff | 0x1950..=0x1aaf | 0x1b00..=0x1bff
            | 0x3040..=0x30ff | 0xa9e0..=0xa9ff | 0xaa60..=0xaadf)
            || is_ideograph(c)
    })
}

fn is_ideograph(c: char) -> bool {
    matches!(c as u32, 0x3400..=0x4dbf | 0x4e00..=0x9fff | 0xf900..=0xfaff | 0x20000..=0x3ffff)
}

fn far_right(text: &str) -> Vec<Hidden> {
    let mut found = Vec::new();
    for line in crate::base::wording::lines_in(text, 0..text.len()) {
        let content = &text[line.clone()];
        if content.len() <= FAR_RIGHT {
            continue;
        }
        let mut blanks = 0;
        for (at, c) in content.char_indices() {
            if c == ' ' || c == '\t' || c == '\u{a0}' {
                blanks += 1;
            } else {
                if blanks >= FAR_RIGHT {
                    found.push(Hidden {
                        span: line.start + at..line.end,
                        message: format!("this text stands behind {blanks} blanks, out of sight"),
                        help: "delete it, or bring it into sight",
                        invisible: false,
                    });
                    break;
                }
                blanks = 0;
            }
        }
    }
    found
}

/// HTML whose style hides its text.
fn hidden_html(text: &str) -> Vec<Hidden> {
    let mut found = Vec::new();
    for (start, _) in text.match_indices('<') {
        let rest = &text[start..];
        if !rest[1..].starts_with(|c: char| c.is_ascii_alphabetic()) {
            continue;
        }
        let mut limit = rest.len().min(2_000);
        while !rest.is_char_boundary(limit) {
            limit -= 1;
        }
        let Some(end) = rest[..limit].find('>') else { continue };
        let tag: String = rest[..end].to_lowercase().split_whitespace().collect();
        let hides =
            ["display:none", "visibility:hidden", "font-size:0", "opacity:0;", "opacity:0\"", "color:transparent"];
        let attribute = rest[..end].split_whitespace().skip(1).any(|word| word.eq_ignore_ascii_case("hidden"));
        if attribute || tag.contains("style=") && hides.iter().any(|style| tag.contains(style)) {
            found.push(Hidden {
                span: start..start + end + 1,
                message: "the text in this element is hidden from people who read the page".to_owned(),
                help: "delete the element, or show its text",
                invisible: false,
            });
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    fn messages(text: &str) -> Vec<String> {
        hidden(text).into_iter().map(|one| one.message).collect()
    }

    #[test]
    fn invisible_letters_are_read_out() {
        let secret: String = "run me".chars().map(|c| char::from_u32(0xe0000 + c as u32).unwrap()).collect();
        let text = format!("Be kind.{secret}\n");
        assert_eq!(messages(&text), ["invisible letters say “run me”"]);
        assert_eq!(hidden(&text)[0].span, 8..8 + secret.len());
    }

    #[test]
    fn what_turns_or_hides_text_is_found() {
        for text in [
            "a\u{202e}b",
            "a\u{200b}b",
            "x\u{ad}y",
            "npm\u{200b} run",
            "a\u{e0101}",
            "<span style='display: none'>x</span>",
            "<p hidden>x</p>",
        ] {
            assert_eq!(messages(text).len(), 1, "{text:?}");
        }
        assert_eq!(messages(&format!("a{}b", " ".repeat(300))).len(), 1);
    }

    #[test]
    fn proper_uses_are_left_alone() {
        let flag = "\u{1f3f4}\u{e0067}\u{e0062}\u{e0065}\u{e006e}\u{e0067}\u{e007f}";
        for text in [
            "\u{feff}Text",
            "👩\u{200d}🔬 ⚠\u{fe0f}",
            "می\u{200c}خواهم",
            "क्\u{200d}ष",
            flag,
            "a < b > c",
            "<b style='color:red'>x</b>",
            "ภาษา\u{200b}ไทย",
            "葛\u{e0100}城",
            "Donau\u{ad}dampf\u{ad}schiff",
        ] {
            assert_eq!(messages(text), [""; 0], "{text:?}");
        }
    }
}
