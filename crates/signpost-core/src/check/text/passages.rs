//! The pieces of a text that are read by themselves for what could do harm.

use std::ops::Range;

/// A piece of a text that is read by itself.
#[derive(Debug)]
pub(in crate::check) struct Passage<'t> {
    /// Its words in lower case, blanks made one.
    pub low: &'t str,
    /// Its words as they stand, where nobody could read them in the file.
    said: Option<&'t str>,
    /// Where it stands.
    pub span: Range<usize>,
    /// Where its words come from.
    pub kind: PassageKind,
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(in crate::check) enum PassageKind {
    Prose,
    Code,
    Comment,
    /// Invisible or encoded.
    Decoded,
}

/// The passages of a text. A hostile project has a million of them, so they are packed: words in one string, places
/// in a few bytes each.
#[derive(Default, Debug)]
pub(in crate::check) struct Passages {
    low: String,
    said: Vec<String>,
    places: Vec<Place>,
}

#[derive(Debug)]
struct Place {
    low: Range<u32>,
    span: Range<u32>,
    kind: PassageKind,
    /// The number of what it says, where that can't be read in the file.
    said: u32,
}

impl Passages {
    /// All of them, in order.
    pub fn iter(&self) -> impl Iterator<Item = Passage<'_>> {
        let wide = |range: &Range<u32>| range.start as usize..range.end as usize;
        self.places.iter().map(move |place| Passage {
            low: &self.low[wide(&place.low)],
            said: self.said.get(place.said as usize).filter(|_| place.kind == PassageKind::Decoded).map(String::as_str),
            span: wide(&place.span),
            kind: place.kind,
        })
    }

    /// Puts them into the order of the text.
    pub fn sort(&mut self) {
        self.places.sort_by_key(|place| place.span.start);
    }

    /// Adds one. `takes_no_room` knows the characters that nobody sees.
    pub fn add(&mut self, raw: &str, span: Range<usize>, kind: PassageKind, takes_no_room: fn(char) -> bool) {
        let raw = bounded(raw);
        let plain: String = raw.chars().filter(|c| !takes_no_room(*c)).collect();
        let low = plain.split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase().replace(['’', '‘'], "'");
        if low.len() <= 3 {
            return;
        }
        let narrow = |range: Range<usize>| Some(u32::try_from(range.start).ok()?..u32::try_from(range.end).ok()?);
        let start = self.low.len();
        // Texts are far shorter than four gigabytes.
        let (Some(low_at), Some(span)) = (narrow(start..start + low.len()), narrow(span)) else { return };
        let said = if kind == PassageKind::Decoded {
            let Ok(number) = u32::try_from(self.said.len()) else { return };
            self.said.push(raw.to_owned());
            number
        } else {
            0
        };
        self.low.push_str(&low);
        self.places.push(Place { low: low_at, span, kind, said });
    }
}

/// Longer lines are read up to here; nobody writes such a sentence.
const LONGEST: usize = 20_000;

/// As much of some words as is read.
pub(in crate::check) fn bounded(raw: &str) -> &str {
    let mut end = raw.len().min(LONGEST);
    while !raw.is_char_boundary(end) {
        end -= 1;
    }
    &raw[..end]
}

impl Passage<'_> {
    /// A message about it, with the words where nobody could read them else.
    pub fn message(&self, message: &str) -> String {
        match self.said {
            Some(said) => format!("{message}: “{}”", crate::base::wording::shorten(said, 120)),
            None => message.to_owned(),
        }
    }
}
