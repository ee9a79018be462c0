//! What an assistant's file holds beside its rule: header keys that have no meaning here, remarks, and its name where
//! publishing would choose another.
//!
//! A guidance rule keeps them in a table for each assistant, `[keep.oddwick]`. A key's value is kept as the words that
//! stand in the file, so that it is written as it was; `"#"` holds the remarks, and `"@file"` the file's path from the
//! folder that holds `guidance/`, and `"@head"` the whole header, which is written as it was as long as it says what the
//! rule says. No header key can be called so without quotes.

use super::Header;
use crate::base::wording::{lines_in, toml_list, toml_text};
use crate::header::{HeaderStyle, Value};
use crate::profile::Place;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// How the remark ends with which publishing says where to edit: it is nobody's to keep.
pub const REMARK_END: &str = "then run `signpost publish`.";

/// Under this key the remarks are kept.
const REMARKS: &str = "#";
/// Under this key the path is kept.
const FILE: &str = "@file";

/// Under this key the whole header is kept, to be written as it was as long as it says the same.
const HEAD: &str = "@head";

/// What is kept for one assistant.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(transparent)]
pub struct Kept(BTreeMap<String, Words>);

/// The words of a value, or several remarks.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(untagged)]
enum Words {
    /// As they stand behind the key.
    One(String),
    /// Line by line.
    Lines(Vec<String>),
}

impl Kept {
    /// What a file's header holds beside what its place gives a meaning to.
    pub fn of(text: &str, header: &Header, place: &Place) -> Self {
        let Some(block) = header.block.clone() else { return Kept::default() };
        let known = place.known_keys();
        let mut kept = BTreeMap::new();
        let end_of_line = |at: usize| text[at..block.end].find('\n').map_or(block.end, |found| at + found);
        for key in header.keys.iter().filter(|key| !known.contains(&key.name.as_str())) {
            let rest = &text[key.name_span.end..end_of_line(key.value_span.end.max(key.name_span.end))];
            let Some(separator) = rest.find([':', '=']) else { continue };
            let words = rest[separator + 1..].trim_end().replace("\r\n", "\n");
            let words = words.strip_prefix(' ').unwrap_or(&words);
            kept.insert(key.name.clone(), Words::One(words.to_owned()));
        }
        // What stands in a key that is kept is kept with it, and what stands in a value is no remark.
        let taken = |at: usize| {
            header.keys.iter().any(|key| match (&key.value, known.contains(&key.name.as_str())) {
                (_, false) => (key.name_span.start..end_of_line(key.value_span.end)).contains(&at),
                (Value::List(items), true) => items.iter().any(|item| item.span.contains(&at)),
                (_, true) => key.value_span.contains(&at),
            })
        };
        let remarks: Vec<String> = lines_in(text, block.clone())
            .filter_map(|line| {
                let words = &text[line.clone()];
                let begins = |at: &usize| words[..*at].ends_with([' ', '\t']) || *at == 0;
                let at = words.match_indices('#').map(|(at, _)| at).find(|at| begins(at) && !taken(line.start + at))?;
                let remark = words[at..].trim_end();
                (!remark.ends_with(REMARK_END)).then(|| remark.to_owned())
            })
            .collect();
        if !remarks.is_empty() {
            kept.insert(REMARKS.to_owned(), Words::Lines(remarks));
        }
        let head = text[block].replace("\r\n", "\n");
        if !header.keys.is_empty() {
            kept.insert(HEAD.to_owned(), Words::One(head));
        }
        Kept(kept)
    }

    /// The header as it was, where the rest of what is kept is still what stands in it.
    pub fn head(&self, place: &Place) -> Option<&str> {
        let Words::One(head) = self.0.get(HEAD)? else { return None };
        place.header.fence()?;
        let text = place.header.fenced(head);
        let header = Header::read(&text, place.header);
        // A fence within would make text of what stands behind it.
        if header.body != text.len() {
            return None;
        }
        let read = Kept::of(&text, &header, place);
        let rest = |kept: &Kept| -> Vec<(String, Words)> {
            let all = kept.0.iter().filter(|(name, _)| ![HEAD, FILE].contains(&name.as_str()));
            all.map(|(name, words)| (name.clone(), words.clone())).collect()
        };
        (rest(&read) == rest(self)).then_some(head)
    }

    /// The header as it was, whatever it says.
    pub fn whole_head(&self) -> Option<&str> {
        match self.0.get(HEAD)? {
            Words::One(head) => Some(head),
            Words::Lines(_) => None,
        }
    }

    /// Whether there is nothing.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// With the path of the file.
    pub fn named(&mut self, path: &str) {
        self.0.insert(FILE.to_owned(), Words::One(path.to_owned()));
    }

    /// The path of the file, from the folder that holds the guidance.
    pub fn file(&self) -> Option<&str> {
        match self.0.get(FILE)? {
            Words::One(path) => Some(path),
            Words::Lines(_) => None,
        }
    }

    /// The names of the header keys.
    pub fn keys(&self) -> impl Iterator<Item = &str> {
        self.0.keys().map(String::as_str).filter(|name| ![REMARKS, FILE, HEAD].contains(name))
    }

    /// The lines of a header that say it.
    pub fn lines(&self, style: HeaderStyle) -> String {
        let mut lines = String::new();
        if let Some(Words::Lines(remarks)) = self.0.get(REMARKS) {
            lines.extend(remarks.iter().map(|remark| format!("{remark}\n")));
        }
        for (name, words) in &self.0 {
            let Words::One(words) = words else { continue };
            if name == FILE || name == HEAD {
                continue;
            }
            let separator = match (style, words.is_empty() || words.starts_with('\n')) {
                (HeaderStyle::Toml, _) => " = ",
                (_, true) => ":",
                (_, false) => ": ",
            };
            lines += &format!("{name}{separator}{words}\n");
        }
        lines
    }

    /// The table as TOML writes it.
    pub fn to_toml(&self, assistant: &str) -> String {
        let mut text = format!("[keep.{assistant}]\n");
        for (name, words) in &self.0 {
            let bare = name.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '_' | '-'));
            let name = if bare { name.clone() } else { toml_text(name) };
            let value = match words {
                Words::One(words) => toml_text(words),
                Words::Lines(lines) => toml_list(lines),
            };
            text += &format!("{name} = {value}\n");
        }
        text
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::profile::{Origin, Profile};

    #[test]
    fn what_has_no_meaning_here_is_written_as_it_was() {
        let profile = "name = \"x\"\n[[place]]\nid = \"p\"\nlevel = \"project\"\nfiles = [\"X.md\"]\nheader = \"yaml\"\n[place.keys]\npaths = \"covers\"\n";
        let (profile, _) = Profile::parse("x", profile, Origin::Project).unwrap();
        let text = "---\r\n# why\r\nwants: [patch|minor]  # two\r\ncovers: # all\r\n  # of them\r\n  - \"#*.rs\"\r\nlist:\r\n  # inner\r\n  - a\r\n  - b: c\r\nnone:\r\n---\r\n";
        let header = Header::read(text, HeaderStyle::Yaml);
        let kept = Kept::of(text, &header, &profile.places[0]);
        assert_eq!(
            kept.lines(HeaderStyle::Yaml),
            "# why\n# all\n# of them\nlist:\n  # inner\n  - a\n  - b: c\nnone:\nwants: [patch|minor]  # two\n"
        );
        let read: BTreeMap<String, BTreeMap<String, Kept>> = toml::from_str(&kept.to_toml("x")).unwrap();
        assert_eq!(read["keep"]["x"], kept);
    }
}
