use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("safety/look-alike-letters", Severity::Error, include_str!("look_alike_letters.toml"));

/// Letters that look like Latin ones, with those. Source: the confusables of
/// <https://www.unicode.org/reports/tr39/>, those of Cyrillic, Greek, Armenian and the wide forms.
const ALIKE: &[(&str, &str)] = &[
    ("асԁеһіјӏорԛѕухԝѵёктг", "acdehijlopqsyxwvektr"),
    ("пмвниАВСЕНІЈКМОРЅТХУ", "nmbhuABCEHIJKMOPSTXY"),
    ("αονικρυτγεηΑΒΕΖΗΙΚΜΝ", "aovikputyenABEZHIKMN"),
    ("ΟΡΤΥΧօսցհոɑɡıⅼℓ", "OPTYXoughnagill"),
];

/// The Latin letter that a letter looks like.
fn latin(c: char) -> Option<char> {
    let in_block = |first: u32, latin: char| char::from_u32(c as u32 - first + latin as u32);
    match c {
        '\u{ff21}'..='\u{ff3a}' => in_block(0xff21, 'A'),
        '\u{ff41}'..='\u{ff5a}' => in_block(0xff41, 'a'),
        '\u{1d400}'..='\u{1d6a3}' => {
            let at = (c as u32 - 0x1d400) % 52;
            char::from_u32(if at < 26 { 'A' as u32 + at } else { 'a' as u32 + at - 26 })
        }
        _ => ALIKE.iter().find_map(|(letters, latin)| {
            let at = letters.chars().position(|letter| letter == c)?;
            latin.chars().nth(at)
        }),
    }
}

/// What letters a line has: counted once for all of its words.
struct Line {
    end: usize,
    /// Letters that are neither Latin nor like them.
    foreign: usize,
    /// Plain Latin ones.
    plain: usize,
}

impl Line {
    fn around(text: &str, from: usize, to: usize) -> Self {
        let start = text[..from].rfind('\n').map_or(0, |at| at + 1);
        let end = text[to..].find('\n').map_or(text.len(), |end| to + end);
        let rest = &text[start..end];
        Line {
            end,
            foreign: rest.chars().filter(|c| c.is_alphabetic() && !c.is_ascii() && latin(*c).is_none()).count(),
            plain: rest.chars().filter(char::is_ascii_alphabetic).count(),
        }
    }
}

/// Words of Latin letters with such letters in them, and words wholly of such letters in Latin code.
fn look_alikes(text: &str) -> Vec<(Range<usize>, String)> {
    let mut found = Vec::new();
    if text.is_ascii() {
        return found;
    }
    let mut start: Option<usize> = None;
    let mut line = Line::around(text, 0, 0);
    let ends = text.char_indices().chain(std::iter::once((text.len(), ' ')));
    for (at, c) in ends {
        if c.is_alphabetic() {
            start.get_or_insert(at);
            continue;
        }
        let Some(from) = start.take() else { continue };
        let word = &text[from..at];
        if word.is_ascii() {
            continue;
        }
        let plain = word.chars().filter(char::is_ascii_alphabetic).count();
        let alike = word.chars().filter(|c| latin(*c).is_some()).count();
        let other = word.chars().count() - plain - alike;
        // `µs` and `Δt` are written so; a word of another language has letters of its own.
        let mixed = plain >= 1 && alike >= 1 && other == 0 && word.chars().count() >= 3;
        if at > line.end {
            line = Line::around(text, from, at);
        }
        let wide = word.chars().all(|c| matches!(c as u32, 0xff21..=0xff5a | 0x1d400..=0x1d6a3));
        let whole =
            plain == 0 && other == 0 && alike >= 4 && line.foreign == 0 && line.plain > alike || wide && alike >= 2;
        if mixed || whole {
            found.push((from..at, word.chars().map(|c| latin(c).unwrap_or(c)).collect()));
        }
    }
    found
}

pub(in crate::check) fn run(_: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for (span, right) in look_alikes(text.text()) {
        let foreign: Vec<String> = text
            .words(&span)
            .chars()
            .filter(|c| latin(*c).is_some())
            .take(4)
            .map(|c| format!("U+{:04X}", c as u32))
            .collect();
        let message = format!("this is not “{right}”: it has letters of another alphabet ({})", foreign.join(", "));
        findings.push(text.finding(&INFO, span.clone(), message).help(format!("write `{right}`")).edit(span, right));
    }
}

#[cfg(test)]
mod tests {
    use super::look_alikes;

    #[test]
    fn foreign_letters_in_latin_words_are_found() {
        for (word, right) in [("reԛuests", "requests"), ("сurl", "curl"), ("Аdmin", "Admin"), ("ｎｐｍ", "npm")] {
            let found = look_alikes(&format!("Install {word} now"));
            assert_eq!(found.iter().map(|(_, right)| right.as_str()).collect::<Vec<_>>(), [right], "{word}");
        }
        for plain in ["Größe", "µs", "Δt", "привет, мир", "naïve café", "Ω", "ελληνικά", "日本語text", "и", "π is 3"]
        {
            assert!(look_alikes(plain).is_empty(), "{plain}");
        }
    }
}
