//! Families of choices that exclude each other: data, in `families.toml` and `signpost.toml`.

use super::words::{Word, words};
use crate::base::toml_file::parse_toml;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// One family.
#[derive(Debug)]
pub struct Family {
    /// Its name.
    pub name: String,
    /// Stems that belong to the family itself.
    pub about: Vec<String>,
    /// One of these stems must be there too.
    pub needs: Vec<String>,
    /// Whether the choice is made for each kind of thing.
    pub things: bool,
    /// Whether running a choice is choosing it.
    pub commands: bool,
    /// The choices.
    pub choices: Vec<Choice>,
}

/// One choice of a family.
#[derive(Debug)]
pub struct Choice {
    /// Its name.
    pub name: String,
    /// The stems of each phrase, and whether the word must be code.
    phrases: Vec<Vec<(String, bool)>>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FamilyFile {
    #[serde(default)]
    about: Vec<String>,
    #[serde(default)]
    needs: Vec<String>,
    #[serde(default)]
    things: bool,
    #[serde(default)]
    commands: bool,
    choices: BTreeMap<String, Vec<String>>,
}

/// All families, with an index from a phrase's first word.
#[derive(Debug)]
pub struct Families {
    /// The families.
    pub all: Vec<Family>,
    by_word: rustc_hash::FxHashMap<String, Vec<(u16, u16, u16)>>,
}

/// A choice found among words.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Hit {
    /// The family's number.
    pub family: u16,
    /// The choice's number there.
    pub choice: u16,
    /// The first word.
    pub start: usize,
    /// The word after the last.
    pub end: usize,
    /// Whether it is the program of a command with arguments.
    pub command: bool,
}

fn stems(text: &str) -> Vec<(String, bool)> {
    words(text, 0..text.len()).into_iter().map(|word| (word.stem, word.code)).collect()
}

impl Families {
    /// The built-in ones.
    pub fn built_in() -> &'static Families {
        static BUILT_IN: OnceLock<Families> = OnceLock::new();
        BUILT_IN.get_or_init(|| Families::with(&BTreeMap::new()))
    }

    /// The built-in ones and a project's own: names of choices, one of which may be followed.
    pub fn with(own: &BTreeMap<String, Vec<String>>) -> Families {
        let files: BTreeMap<String, FamilyFile> =
            parse_toml("families.toml", include_str!("families.toml")).expect("the built-in families are valid");
        let plain =
            |words: &[String]| words.iter().flat_map(|word| stems(word)).map(|(stem, _)| stem).collect::<Vec<_>>();
        let mut all: Vec<Family> = files
            .into_iter()
            .filter(|(name, _)| !own.contains_key(name))
            .map(|(name, file)| Family {
                about: plain(&file.about),
                needs: plain(&file.needs),
                things: file.things,
                commands: file.commands,
                choices: file
                    .choices
                    .into_iter()
                    .map(|(name, phrases)| Choice {
                        name,
                        phrases: phrases.iter().map(|phrase| stems(phrase)).collect(),
                    })
                    .collect(),
                name,
            })
            .collect();
        all.extend(own.iter().map(|(name, choices)| {
            let choices = choices.iter().map(|choice| Choice { name: choice.clone(), phrases: vec![stems(choice)] });
            Family {
                name: name.clone(),
                about: plain(std::slice::from_ref(name)),
                needs: Vec::new(),
                things: false,
                commands: true,
                choices: choices.collect(),
            }
        }));
        let mut by_word: rustc_hash::FxHashMap<String, Vec<(u16, u16, u16)>> = Default::default();
        for (family, one) in all.iter().enumerate() {
            for (choice, own) in one.choices.iter().enumerate() {
                for (phrase, words) in own.phrases.iter().enumerate() {
                    if let Some(first) = words.first() {
                        by_word.entry(first.0.clone()).or_default().push((family as u16, choice as u16, phrase as u16));
                    }
                }
            }
        }
        Families { all, by_word }
    }

    /// The family of that name.
    pub fn by_name(&self, name: &str) -> Option<(u16, &Family)> {
        self.all.iter().position(|family| family.name == name).map(|at| (at as u16, &self.all[at]))
    }

    /// The choices that some words name; of overlapping ones of a family the longest.
    pub fn hits(&self, words: &[&Word]) -> Vec<Hit> {
        let mut hits: Vec<Hit> = Vec::new();
        for (start, word) in words.iter().enumerate() {
            for (family, choice, phrase) in self.by_word.get(&word.stem).into_iter().flatten().copied() {
                let phrase = &self.all[family as usize].choices[choice as usize].phrases[phrase as usize];
                let end = start + phrase.len();
                let same = words.len() >= end
                    && words[start..end]
                        .iter()
                        .zip(phrase)
                        .all(|(word, (own, code))| word.stem == *own && (word.code || !code));
                if same {
                    hits.push(Hit { family, choice, start, end, command: false });
                }
            }
            // `npm test`: the program is the choice.
            if word.code && word.low.contains(' ') {
                let program = super::words::stem(&word.low.split(' ').next().unwrap_or_default().to_lowercase());
                for (family, choice, phrase) in self.by_word.get(&program).into_iter().flatten().copied() {
                    let own = &self.all[family as usize];
                    if own.commands && own.choices[choice as usize].phrases[phrase as usize].len() == 1 {
                        hits.push(Hit { family, choice, start, end: start + 1, command: true });
                    }
                }
            }
        }
        let longer = |hit: &Hit, other: &Hit| {
            other.family == hit.family
                && other.start <= hit.start
                && other.end >= hit.end
                && (other.end - other.start > hit.end - hit.start)
        };
        let all = hits.clone();
        hits.retain(|hit| !all.iter().any(|other| longer(hit, other)));
        hits.dedup();
        hits
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_longest_phrase_wins_and_commands_count() {
        let families = Families::built_in();
        let named = |text: &str| -> Vec<String> {
            let hits = families.hits(&words(text, 0..text.len()).iter().collect::<Vec<_>>());
            hits.iter().map(|hit| families.all[hit.family as usize].choices[hit.choice as usize].name.clone()).collect()
        };
        assert_eq!(named("use double-quoted strings"), ["double"]);
        assert_eq!(named("run `pnpm test`"), ["pnpm"]);
        assert_eq!(named("name files in kebab-case"), ["kebab"]);
        assert_eq!(named("a `tests/` folder"), ["apart"]);
    }
}
