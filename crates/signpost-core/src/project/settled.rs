//! `guidance/settled.toml`: what somebody decided of two directives that a program can't be sure about.
//!
//! A `[[settled]]` table for each pair, with a hash of both sentences: when either changes, the verdict lapses.

use crate::base::toml_file::{ConfigError, parse_toml};
use crate::base::wording::toml_text;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use toml::Spanned;
use toml_edit::{DocumentMut, InlineTable, Item};

/// Where it stands, from the root.
pub const SETTLED_FILE: &str = "guidance/settled.toml";

/// What was decided.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Ruling {
    /// They cannot both be followed.
    Contradiction,
    /// They say the same.
    Same,
    /// Neither: lint leaves them alone.
    Fine,
}

impl Ruling {
    /// All of them.
    pub const ALL: [Ruling; 3] = [Ruling::Contradiction, Ruling::Same, Ruling::Fine];

    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Ruling::Contradiction => "contradiction",
            Ruling::Same => "same",
            Ruling::Fine => "fine",
        }
    }

    /// The one of a word.
    pub fn of(word: &str) -> Option<Ruling> {
        Ruling::ALL.into_iter().find(|one| one.word() == word)
    }
}

/// All that was decided.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Settled {
    /// One by one.
    pub settled: Vec<Verdict>,
}

/// What was decided of one pair.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Verdict {
    /// The hash of both sentences, as [`pair`] writes it; its first letters are the pair's id.
    pub hash: String,
    /// What was decided.
    pub verdict: Ruling,
    /// Why.
    pub because: Spanned<String>,
    /// The sentences, for who reads the file.
    pub sentences: [String; 2],
}

/// So many letters of a hash name a pair.
pub const ID: usize = 8;

/// The hash of two directives, each by its [words](crate::directive::Directive::words), whichever comes first.
pub fn pair(one: &str, other: &str) -> String {
    let (first, second) = if one <= other { (one, other) } else { (other, one) };
    let digest = Sha256::digest(format!("{first}\n{second}").as_bytes());
    digest.iter().take(16).map(|byte| format!("{byte:02x}")).collect()
}

impl Settled {
    /// Reads it.
    ///
    /// # Errors
    /// It is no valid TOML, or has keys that are not known.
    pub fn parse(text: &str) -> Result<Settled, Box<ConfigError>> {
        parse_toml(SETTLED_FILE, text)
    }

    /// What was decided of a pair.
    pub fn ruling(&self, hash: &str) -> Option<Ruling> {
        // A later line is what somebody thinks now.
        self.settled.iter().rev().find(|one| one.hash == hash).map(|one| one.verdict)
    }

    /// The file with one more verdict, in the place of an earlier one about the same pair.
    ///
    /// # Errors
    /// The file is not valid.
    pub fn with(
        text: &str,
        hash: &str,
        verdict: Ruling,
        because: &str,
        sentences: [&str; 2],
    ) -> Result<String, Box<ConfigError>> {
        let heading = "# What was decided about pairs of instructions that a program can't be sure about: `signpost settle` \
                       writes it.\n# When either sentence changes, the verdict lapses.\n";
        Settled::parse(text)?;
        // What is valid for one reader is for the other.
        let remarks = |line: &&str| line.trim().is_empty() || line.trim_start().starts_with('#');
        let head: usize = text.split_inclusive('\n').take_while(remarks).map(str::len).sum();
        let (head, tables) = text.split_at(head);
        let mut document: DocumentMut = tables.parse().unwrap_or_default();
        if let Some(item) = document.get_mut("settled") {
            if let Some(list) = item.as_array() {
                let tables = list.iter().filter_map(|one| one.as_inline_table().cloned());
                *item = Item::ArrayOfTables(tables.map(InlineTable::into_table).collect());
            }
            if let Some(tables) = item.as_array_of_tables_mut() {
                tables.retain(|one| one.get("hash").and_then(Item::as_str) != Some(hash));
            }
        }
        let mut kept = if head.trim().is_empty() { format!("{heading}\n") } else { head.to_owned() };
        kept.push_str(document.to_string().trim_start_matches('\n'));
        if !kept.ends_with("\n\n") {
            kept.push_str(if kept.ends_with('\n') { "\n" } else { "\n\n" });
        }
        let one_line = |text: &str| toml_text(&text.split_whitespace().collect::<Vec<_>>().join(" "));
        Ok(kept
            + &format!(
                "[[settled]]\nhash = {}\nverdict = {}\nbecause = {}\nsentences = [\n  {},\n  {},\n]\n",
                toml_text(hash),
                toml_text(verdict.word()),
                one_line(because),
                one_line(sentences[0]),
                one_line(sentences[1])
            ))
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]
    use super::*;

    #[test]
    fn what_is_written_reads_back_and_a_pair_is_settled_once() {
        let hash = pair("use tabs", "use spaces");
        assert_eq!(hash, pair("use spaces", "use tabs"));
        let sentences = ["Use \"tabs\".", "Use\nspaces."];
        let text = Settled::with("", &hash, Ruling::Fine, "one is for Make", sentences).unwrap();
        let other = pair("a", "b");
        let text = Settled::with(&text, &other, Ruling::Same, "it is [[settled]]", ["A [[settled]]", "B"]).unwrap();
        let text = Settled::with(&text, &hash, Ruling::Contradiction, "on second thought", sentences).unwrap();
        let read = Settled::parse(&text).unwrap();
        assert_eq!(read.settled.len(), 2, "{text}");
        assert_eq!((read.ruling(&hash), read.ruling(&other)), (Some(Ruling::Contradiction), Some(Ruling::Same)));
        assert_eq!(read.settled[1].sentences, ["Use \"tabs\".", "Use spaces."]);
        assert!(text.starts_with("# What was decided"), "{text}");
        assert!(Settled::parse("[[settled]]\nhash = 1\n").is_err());
        // Settled once more, the other one, whose words look like a table's head.
        let again = Settled::with(&text, &other, Ruling::Fine, "no", ["A [[settled]]", "B"]).unwrap();
        assert_eq!(Settled::parse(&again).unwrap().ruling(&other), Some(Ruling::Fine), "{again}");
        // However the list is written, and with what somebody noted in it.
        let inline =
            format!("settled = [{{ hash = '{hash}', verdict = 'fine', because = '', sentences = ['a', 'b'] }}]\n");
        let again = Settled::with(&inline, &other, Ruling::Same, "it is", ["A", "B"]).unwrap();
        assert_eq!(Settled::parse(&again).unwrap().settled.len(), 2, "{again}");
        let noted = Settled::with("# Ours.\n", &hash, Ruling::Fine, "it is", sentences).unwrap();
        assert!(noted.starts_with("# Ours.\n"), "{noted}");
        assert!(Settled::with("[[settled", &hash, Ruling::Fine, "", sentences).is_err());
    }
}
