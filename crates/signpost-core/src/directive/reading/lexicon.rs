//! What words mean the same, the opposite, or another choice of a family: data, in `concepts.txt` and `choices.txt`.

use super::lemma::root;
use crate::directive::words::words;
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// What some words stand for.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Sense {
    /// A concept, or its opposite.
    Concept {
        /// Its number.
        number: u16,
        /// Whether the words are its opposite.
        opposite: bool,
    },
    /// A kind of thing: two kinds of one family are different things, and nothing to choose between.
    Kind {
        /// The family's number.
        family: u16,
        /// The kind's number in it.
        member: u16,
    },
    /// A member of a family of choices.
    Choice {
        /// The family's number.
        family: u16,
        /// The member's number in it.
        member: u16,
    },
}

struct Phrase {
    keys: Box<[Box<str>]>,
    sense: Sense,
}

/// All lists.
pub struct Lexicon {
    by_first: FxHashMap<Box<str>, Vec<Phrase>>,
    families: u16,
}

/// A project's own lists: of families the names of choices; of concepts the words and their opposites.
#[derive(Default, Clone, Debug)]
pub struct OwnLists<'a> {
    /// Families by name.
    pub families: Option<&'a BTreeMap<String, Vec<String>>>,
    /// Of each concept the words, and those for its opposite.
    pub concepts: Vec<(&'a [String], &'a [String])>,
}

impl Lexicon {
    /// The built-in lists.
    pub fn built_in() -> &'static Lexicon {
        static BUILT_IN: OnceLock<Lexicon> = OnceLock::new();
        BUILT_IN.get_or_init(|| Lexicon::with(&OwnLists::default()))
    }

    /// The built-in lists and a project's own.
    pub fn with(own: &OwnLists<'_>) -> Lexicon {
        let mut lexicon = Lexicon { by_first: FxHashMap::default(), families: 0 };
        let lines = |text: &'static str| {
            let lines = text.lines().filter(|line| !line.starts_with('#'));
            lines.filter_map(|line| line.split_once(':'))
        };
        let mut concepts = 0;
        for (_, list) in lines(include_str!("concepts.txt")) {
            let (same, opposite) = list.split_once('|').unwrap_or((list, ""));
            for (words, opposite) in [(same, false), (opposite, true)] {
                words.split(',').for_each(|phrase| lexicon.add(phrase, Sense::Concept { number: concepts, opposite }));
            }
            concepts += 1;
        }
        for (same, others) in &own.concepts {
            for (words, opposite) in [(same, false), (others, true)] {
                words.iter().for_each(|phrase| lexicon.add(phrase, Sense::Concept { number: concepts, opposite }));
            }
            concepts += 1;
        }
        for (name, list) in lines(include_str!("choices.txt")) {
            let family = lexicon.family();
            for (member, words) in list.split(" ; ").enumerate() {
                let words = words.split_once('=').map_or("", |(_, words)| words);
                let member = member as u16;
                let kinds = name.starts_with("kind-");
                let sense = if kinds { Sense::Kind { family, member } } else { Sense::Choice { family, member } };
                words.split(", ").for_each(|phrase| lexicon.add(phrase, sense));
            }
        }
        for choices in own.families.into_iter().flat_map(BTreeMap::values) {
            let family = lexicon.family();
            for (member, choice) in choices.iter().enumerate() {
                lexicon.add(choice, Sense::Choice { family, member: member as u16 });
            }
        }
        lexicon
    }

    /// The number of one more family.
    fn family(&mut self) -> u16 {
        self.families += 1;
        self.families - 1
    }

    fn add(&mut self, phrase: &str, sense: Sense) {
        let phrase = phrase.trim();
        let all = words(phrase, 0..phrase.len());
        let mut keys: Vec<Box<str>> = all.iter().map(|word| root(&word.low).into()).collect();
        if keys.is_empty() {
            // Signs: `===`, `.then`.
            keys.push(phrase.to_lowercase().into());
        }
        self.by_first.entry(keys[0].clone()).or_default().push(Phrase { keys: keys.into(), sense });
    }

    /// The longest words from `at` on that stand for something: how many, and what for.
    pub fn longest(&self, keys: &[&str], senses: &mut Vec<Sense>) -> usize {
        senses.clear();
        let Some(phrases) = keys.first().and_then(|first| self.by_first.get(*first)) else { return 0 };
        let fits = |phrase: &&Phrase| {
            phrase.keys.len() <= keys.len() && phrase.keys.iter().zip(keys).all(|(own, key)| **own == **key)
        };
        let length = phrases.iter().filter(fits).map(|phrase| phrase.keys.len()).max().unwrap_or(0);
        senses.extend(phrases.iter().filter(fits).filter(|one| one.keys.len() == length).map(|one| one.sense));
        senses.sort_unstable();
        senses.dedup();
        length
    }
}
