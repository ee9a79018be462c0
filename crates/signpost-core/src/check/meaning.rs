//! Which directives of a project contradict each other or say the same in other words: each meaning is read once, and held
//! against those that share words with it.

use super::text::Text;
use crate::directive::reading::Reading;
use crate::directive::reading::compare::{Because, Certainty, Kind, Verdict, compare};
use crate::directive::reading::lexicon::Lexicon;
use crate::directive::{Directive, normal};
use crate::project::settled::{Ruling, Settled, pair};
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

/// A directive, or a row of a table, where it stands.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct Place {
    /// The text's number.
    pub text: usize,
    /// The statement's number in it.
    pub statement: usize,
}

/// Directives in the same words below the same headings.
pub struct Class {
    /// What each of their clauses says; bytes count from the directive's beginning.
    pub readings: Vec<Reading>,
    /// Where they stand.
    pub places: Vec<Place>,
}

/// Two classes, and what they are to each other.
pub struct Pair {
    /// The first, by its number.
    pub one: usize,
    /// The second.
    pub other: usize,
    /// The answer.
    pub verdict: Verdict,
    /// What somebody decided.
    pub decided: Option<Ruling>,
}

impl Pair {
    /// Whether somebody decided that there is nothing to it.
    pub fn is_fine(&self) -> bool {
        self.decided == Some(Ruling::Fine)
    }
}

/// All that is to be held against each other, and what came of it.
#[derive(Default)]
pub struct Meanings {
    /// The classes.
    pub classes: Vec<Class>,
    /// The pairs of them that have something to do with each other.
    pub pairs: Vec<Pair>,
    /// Verdicts about sentences that are not there any more, by their numbers.
    pub lapsed: Vec<usize>,
}

/// A word that so many classes have tells nothing; beside few classes, more may share one.
const MOST_SHARE: usize = 400;
/// So many pairs are compared.
const MOST_PAIRS: usize = 3_000_000;

impl Meanings {
    /// Reads the texts that take part.
    pub(super) fn read(
        texts: &[Text],
        takes_part: &(dyn Fn(&Text) -> bool + Sync),
        lexicon: &Lexicon,
        settled: &Settled,
    ) -> Meanings {
        let mut number_of: FxHashMap<(&str, &[Box<str>], bool), usize> = FxHashMap::default();
        let mut found: Vec<(&Text, &Directive, Vec<Place>)> = Vec::new();
        for (text, own) in texts.iter().enumerate().filter(|(_, own)| takes_part(own)) {
            for (statement, directive) in own.statements().enumerate() {
                let key = (&*directive.words, &*directive.limits, directive.forbidden);
                let number = *number_of.entry(key).or_insert_with(|| {
                    found.push((own, directive, Vec::new()));
                    found.len() - 1
                });
                found[number].2.push(Place { text, statement });
            }
        }
        let read = |(text, directive, places): (&Text, &Directive, Vec<Place>)| {
            let words = text.words(&directive.span);
            Class { readings: Reading::all(words, &directive.limits, directive.forbidden, lexicon), places }
        };
        let classes: Vec<Class> = found.into_par_iter().map(read).collect();
        let pairs = pairs(&classes);
        let mut meanings = Meanings { classes, pairs, lapsed: Vec::new() };
        if !settled.settled.is_empty() {
            meanings.settle(texts, settled);
        }
        meanings
    }

    /// Puts what somebody decided in the place of what was found.
    fn settle(&mut self, texts: &[Text], settled: &Settled) {
        let words = |class: usize| {
            let place = self.classes[class].places[0];
            texts[place.text].statements().nth(place.statement).map_or("", |directive| &*directive.words)
        };
        let mut by_words: FxHashMap<&str, usize> = FxHashMap::default();
        (0..self.classes.len()).for_each(|class| {
            by_words.entry(words(class)).or_insert(class);
        });
        let mut decided = Vec::new();
        for (number, one) in settled.settled.iter().enumerate() {
            let [first, second] = &one.sentences;
            let (first, second) = (normal(first), normal(second));
            let there = by_words.get(first.as_str()).zip(by_words.get(second.as_str()));
            match there.filter(|_| pair(&first, &second) == one.hash) {
                Some((a, b)) => decided.push((*a.min(b), *a.max(b), one.verdict)),
                None => self.lapsed.push(number),
            }
        }
        for (one, other, ruling) in decided {
            let known =
                self.pairs.iter().find(|pair| (pair.one, pair.other) == (one, other)).map(|pair| pair.verdict.kind);
            let kind = match ruling {
                Ruling::Contradiction => Kind::Contradiction,
                Ruling::Same => Kind::Same,
                Ruling::Fine => known.unwrap_or(Kind::Contradiction),
            };
            self.pairs.retain(|pair| (pair.one, pair.other) != (one, other));
            let verdict = Verdict {
                kind,
                certainty: Certainty::Sure,
                because: Because::Decided,
                words: Default::default(),
                score: 1.0,
            };
            self.pairs.push(Pair { one, other, verdict, decided: Some(ruling) });
        }
    }
}

/// Holds classes against each other that share a word which few others have.
fn pairs(classes: &[Class]) -> Vec<Pair> {
    let marks: Vec<Vec<u64>> = classes.par_iter().map(marks).collect();
    let mut having: FxHashMap<u64, Vec<u32>> = FxHashMap::default();
    for (number, marks) in marks.iter().enumerate() {
        marks.iter().for_each(|mark| having.entry(*mark).or_default().push(number as u32));
    }
    let most = (MOST_PAIRS / classes.len().max(1)).clamp(24, MOST_SHARE);
    let compared = |(number, own): (usize, &Vec<u64>)| {
        let mut seen: FxHashSet<u32> = FxHashSet::default();
        let mut own: Vec<&Vec<u32>> = own.iter().filter_map(|mark| having.get(mark)).collect();
        own.sort_by_key(|others| others.len());
        let few = own.into_iter().filter(|others| others.len() <= most);
        let later = few.flat_map(|others| others[others.partition_point(|other| *other as usize <= number)..].iter());
        let mut found = Vec::new();
        for other in later.take(4 * MOST_SHARE) {
            if seen.insert(*other) {
                let verdict = compare(&classes[number].readings, &classes[*other as usize].readings);
                found.extend(verdict.map(|verdict| Pair {
                    one: number,
                    other: *other as usize,
                    verdict,
                    decided: None,
                }));
            }
        }
        found
    };
    marks.par_iter().enumerate().flat_map_iter(compared).collect()
}

/// What a class is looked up by: the words that tell, and what they stand for.
fn marks(class: &Class) -> Vec<u64> {
    let mut marks: Vec<u64> = class.readings.iter().flat_map(Reading::marks).collect();
    marks.sort_unstable();
    marks.dedup();
    marks
}
