//! Which directives of a project contradict each other or say the same in other words: each meaning is read once, and held
//! against those that share words with it.

use super::text::Text;
use crate::directive::Directive;
use crate::directive::reading::Reading;
use crate::directive::reading::compare::{Verdict, compare};
use crate::directive::reading::lexicon::Lexicon;
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
}

/// All that is to be held against each other, and what came of it.
#[derive(Default)]
pub struct Meanings {
    /// The classes.
    pub classes: Vec<Class>,
    /// The pairs of them that have something to do with each other.
    pub pairs: Vec<Pair>,
}

/// A word that so many classes have tells nothing; beside few classes, more may share one.
const MOST_SHARE: usize = 400;
/// So many pairs are compared.
const MOST_PAIRS: usize = 3_000_000;

impl Meanings {
    /// Reads the texts that take part.
    pub(super) fn read(texts: &[Text], takes_part: &(dyn Fn(&Text) -> bool + Sync), lexicon: &Lexicon) -> Meanings {
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
        Meanings { classes, pairs }
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
                found.extend(verdict.map(|verdict| Pair { one: number, other: *other as usize, verdict }));
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
