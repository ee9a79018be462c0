//! What directives say, read so that two of them can be held against each other.
//!
//! A directive is cut into clauses, without its reasons ([`Reading::all`]). A clause is read into units of meaning (words
//! and the concepts they stand for), whether it asks for them or against them, its numbers, its conditions, what it sets
//! against what, and the order of acts. [`compare`](compare::compare) matches the units of two readings one to one and
//! says whether they contradict each other or say the same, how sure that is, and by which words.
//!
//! The words that it knows are data: `concepts.txt` and `choices.txt`, to which a project adds its own.

mod clauses;
pub mod compare;
mod glossary;
mod lemma;
pub mod lexicon;
mod numbers;
mod polarity;
mod units;

use super::words::{VERBS, Word};
use lexicon::Lexicon;
pub use numbers::Number;
use std::hash::{Hash, Hasher};
pub use units::Unit;

/// The part that words play in a clause.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Part {
    /// What is asked.
    Main,
    /// When, or for which files.
    Condition,
    /// When not.
    Exception,
    /// `before x`, `after x`.
    Order,
    /// `not x`, `instead of x`.
    Contrast,
}

/// A word on its way into a unit.
struct Token<'w> {
    word: &'w Word,
    low: &'w str,
    key: String,
    part: Part,
    /// Whether it says how something is asked, not what.
    functional: bool,
}

impl Token<'_> {
    fn is(&self, words: &[&str]) -> bool {
        !self.word.code && words.contains(&self.low)
    }

    fn number(&self) -> Option<(f64, &str)> {
        if self.word.code && !self.low.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.') {
            return None;
        }
        numbers::value(self.low)
    }
}

/// Which of two acts comes first.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Order {
    /// The main act comes before the other.
    Before,
    /// It comes after it.
    After,
    /// Something comes first.
    First,
    /// Something comes last, or then.
    Last,
}

/// What one clause says.
#[derive(Clone, Debug)]
pub struct Reading {
    /// Its units of meaning, in order.
    pub units: Vec<Unit>,
    /// Its numbers.
    pub numbers: Vec<Number>,
    /// Whether it asks for the thing: an even number of negations.
    pub affirms: bool,
    /// How many negations there are.
    pub negations: u8,
    /// Whether a word says that something is asked: a verb at its head, `must`, `only`.
    pub asks: bool,
    /// `need not`.
    pub need_not: bool,
    /// `never … unless`.
    pub only_then: bool,
    /// `may`, `is fine`.
    pub allows: bool,
    /// `only`.
    pub only: bool,
    /// `no exceptions`, `not even`.
    pub without_exception: bool,
    /// `except`, `unless`.
    pub excepts: bool,
    /// Something past, said by somebody else or asked.
    pub reported: bool,
    /// Whether one thing is set against another.
    pub contrasts: bool,
    /// An order of acts.
    pub order: Option<Order>,
    /// Whether it has a condition.
    pub conditional: bool,
    /// Whether the condition is a negative one.
    pub condition_denied: bool,
    /// Of a fragment such as `no x` after another clause: the units of that clause, which it is said of too.
    pub said_of: Vec<Unit>,
}

/// The hash by which words are known.
fn hash(text: &str) -> u64 {
    hash_of(&text)
}

fn hash_of(value: &impl Hash) -> u64 {
    let mut hasher = rustc_hash::FxHasher::default();
    value.hash(&mut hasher);
    hasher.finish()
}

const PERMITTING: &[&str] = &[
    "may", "can", "could", "fine", "ok", "okay", "allowed", "permitted", "acceptable", "welcome", "optional",
    "tolerated", "freely", "possible", "alright",
];
const WITHOUT_EXCEPTION: &[&[&str]] = &[
    &["no", "exceptions"],
    &["no", "exception"],
    &["without", "exception"],
    &["not", "even"],
    &["no", "circumstances"],
    &["whatever"],
    &["no", "matter"],
    &["including"],
    &["included"],
    &["too"],
    &["everywhere"],
    &["ever"],
    &["in", "any", "case"],
];
const EXCEPTING: &[&[&str]] = &[
    &["except"],
    &["unless"],
    &["apart", "from"],
    &["other", "than"],
    &["only", "in"],
    &["only", "for"],
    &["only", "when"],
    &["only", "if"],
    &["only", "where"],
    &["only", "the"],
    &["exempt"],
    &["exception"],
    &["excluded"],
    &["exceptions"],
];
const REPORTING: &[&[&str]] = &[
    &["used", "to"],
    &["formerly"],
    &["previously"],
    &["originally"],
    &["historically"],
    &["in", "the", "past", "we"],
    &["in", "the", "past", "it"],
    &["back", "then"],
    &["years", "ago"],
    &["earlier", "versions"],
    &["earlier", "version"],
    &["until", "last"],
    &["until", "recently"],
    &["moved", "from"],
    &["switched", "from"],
    &["migrated", "from"],
    &["some", "say"],
    &["some", "people"],
    &["some", "teams"],
    &["some", "projects"],
    &["upstream"],
    &["the", "old"],
    &["default", "is"],
    &["last", "year"],
    &["last", "month"],
    &["last", "spring"],
    &["last", "summer"],
    &["last", "week"],
    &["we", "no", "longer"],
    &["somebody", "suggested"],
    &["customers", "write"],
];

impl Reading {
    /// Reads the clauses of a directive that ask for something; `limits` are the headings above it that say when or for
    /// what it holds, `forbidden` whether it stands below `Never:`.
    pub fn all(text: &str, limits: &[Box<str>], forbidden: bool, lexicon: &Lexicon) -> Vec<Reading> {
        let span = 0..text.len();
        let clauses = clauses::clauses(text, span.clone());
        let says_all = clauses::says_all(&text[span.clone()]);
        let asks = text[span].trim_end().ends_with('?');
        let headings: Vec<Vec<Word>> =
            limits.iter().map(|heading| super::words::words(heading, 0..heading.len())).collect();
        let mut found: Vec<Reading> =
            clauses.iter().map(|clause| Reading::of(clause, &headings, asks, lexicon)).collect();
        found.iter_mut().for_each(|reading| reading.without_exception |= says_all);
        for reading in found.iter_mut().filter(|reading| forbidden && reading.negations == 0 && !reading.allows) {
            (reading.affirms, reading.negations) = (false, 1);
        }
        if let Some(units) = found.first().map(|first| first.units.clone()) {
            let fragment = |reading: &&mut Reading| reading.units.len() <= 2 && !reading.affirms;
            found[1..].iter_mut().filter(fragment).for_each(|reading| reading.said_of.clone_from(&units));
        }
        found
    }

    fn of(clause: &[Word], headings: &[Vec<Word>], asks: bool, lexicon: &Lexicon) -> Reading {
        let token = |word| Token::new(word, Part::Main);
        let mut tokens: Vec<Token<'_>> = clause.iter().map(token).collect();
        let contrasts = clauses::parts(&mut tokens);
        let mut polarity = polarity::polarity(&mut tokens);
        tokens.extend(headings.iter().flatten().map(|word| Token::new(word, Part::Condition)));
        let mut numbers = numbers::numbers(&tokens[..clause.len()]);
        if numbers.iter().any(|number| number.takes_negation) {
            polarity.negations = polarity.negations.saturating_sub(1);
        }
        // `Longer than 40 lines is forbidden` bounds from above.
        let rejects =
            tokens.iter().any(|token| token.is(&["reject", "rejected", "refuse", "refused", "fail", "fails", "too"]));
        if polarity.negations % 2 == 1 && !polarity.need_not || rejects && polarity.negations == 0 {
            numbers.iter_mut().for_each(|number| number.direction = -number.direction);
        }
        let has = |phrases: &[&[&str]]| phrases.iter().any(|phrase| holds(&tokens, phrase));
        let main = || tokens.iter().filter(|token| token.part == Part::Main);
        let any = |words: &[&str]| tokens.iter().any(|token| token.is(words));
        let limits = |token: &&Token<'_>| matches!(token.part, Part::Condition | Part::Exception);
        let denied = tokens.iter().filter(limits).filter(|token| {
            !token.word.code && polarity::is_negation(token.low)
                || token.is(&["without", "missing", "fails", "fail", "failed"])
        });
        let first_is_act = main()
            .find(|token| !token.functional && !token.is(&["please", "always"]))
            .is_some_and(|token| token.is(&["allow", "permit"]));
        let units = units::units(&tokens, &numbers, lexicon);
        // `ISO 8601` is a name.
        let named = |number: &Number| {
            let holds = |unit: &&Unit| unit.span.0 < number.span.0 && number.span.1 <= unit.span.1;
            units.iter().filter(holds).any(Unit::is_choice)
        };
        numbers.retain(|number| !named(number));
        Reading {
            affirms: polarity.negations.is_multiple_of(2),
            negations: polarity.negations,
            asks: tokens.len() > 1
                && (tokens[0].is(VERBS)
                    || any(&[
                        "must", "should", "shall", "only", "always", "is", "are", "has", "have", "go", "goes", "get",
                        "gets", "need", "needs", "use", "uses", "can", "may", "will",
                    ])
                    || contrasts),
            need_not: polarity.need_not,
            only_then: polarity.only_then,
            allows: holds(&tokens, &["free", "to"])
                || !first_is_act
                    && main().any(|token| token.is(PERMITTING) || token.is(&["allow", "allows", "permit"])),
            only: any(&["only"]),
            without_exception: has(WITHOUT_EXCEPTION),
            excepts: has(EXCEPTING) || tokens.iter().any(|token| token.part == Part::Exception),
            reported: asks || has(REPORTING) || is_past(&tokens),
            contrasts,
            order: if polarity.needs_first { Some(Order::Before) } else { order(&tokens, polarity.only_then) },
            conditional: tokens.iter().any(|token| limits(&token)),
            condition_denied: denied.count() % 2 == 1,
            said_of: Vec::new(),
            units,
            numbers,
        }
    }
}

impl Reading {
    /// What says when it holds, and when not.
    fn limits(&self) -> Vec<&Unit> {
        self.units.iter().filter(|unit| matches!(unit.part, Part::Condition | Part::Exception)).collect()
    }

    /// Numbers for the words that tell and for what they stand for: readings that share none have nothing to do with each
    /// other.
    pub fn marks(&self) -> impl Iterator<Item = u64> {
        let tells = |unit: &&Unit| !unit.filler && !unit.light_act || unit.code || !unit.senses.is_empty();
        let of_sense = |sense: &lexicon::Sense| match sense {
            lexicon::Sense::Concept { number, .. } => hash_of(&(0u8, *number)),
            lexicon::Sense::Kind { family, .. } => hash_of(&(1u8, *family)),
            lexicon::Sense::Choice { family, .. } => hash_of(&(2u8, *family)),
        };
        let own = self.units.iter().filter(tells).flat_map(move |unit| {
            let words = [unit.key, unit.with_next].into_iter().chain(unit.words.iter().copied());
            words.chain(unit.senses.iter().map(of_sense)).collect::<Vec<u64>>()
        });
        let lines = self.units.iter().filter(|_| !self.numbers.is_empty()).map(|unit| unit.key);
        own.chain(lines).filter(|mark| *mark != 0)
    }
}

impl<'w> Token<'w> {
    fn new(word: &'w Word, part: Part) -> Token<'w> {
        let low = word.low.as_str();
        let key = if word.code {
            let lower = low.to_lowercase();
            // A folder keeps its slash: `tests/`.
            let folder = lower.trim_end_matches('*').ends_with('/') && lower.len() > 1;
            let marks = |c: char| matches!(c, '.' | '*' | '(' | ')' | '!' | ':' | '"' | '\'') || c == '/' && !folder;
            let plain = lower.trim_matches(marks);
            let name = plain.len() > 1 && plain.chars().all(char::is_alphabetic);
            if name { lemma::root(plain) } else { plain.to_owned() }
        } else {
            lemma::root(low.strip_suffix("'s").unwrap_or(low))
        };
        Token { word, low, key, part, functional: false }
    }
}

/// Whether some words stand one after the other.
fn holds(tokens: &[Token<'_>], phrase: &[&str]) -> bool {
    tokens.windows(phrase.len()).any(|window| window.iter().zip(phrase).all(|(token, word)| token.is(&[word])))
}

/// `The old importer stored …`, `It was …`: nothing is asked.
fn is_past(tokens: &[Token<'_>]) -> bool {
    let past = tokens.iter().any(|token| token.is(&["was", "were", "had"]));
    let asks = tokens.iter().any(|token| {
        token.is(&[
            "if", "when", "unless", "until", "that", "which", "what", "who", "must", "should", "before", "after",
            "nothing", "never", "don't", "use", "once",
        ])
    });
    past && !asks
}

fn order(tokens: &[Token<'_>], only_then: bool) -> Option<Order> {
    let named = tokens.iter().find(|token| {
        matches!(token.part, Part::Order | Part::Condition)
            && (token
                .is(&["before", "after", "once", "above", "ahead", "below", "behind", "precede", "precedes", "then"])
                || only_then && token.is(&["until"]))
    });
    if let Some(named) = named {
        let before = named.is(&["before", "above", "ahead", "precede", "precedes", "then"]);
        return Some(if before { Order::Before } else { Order::After });
    }
    if tokens.iter().any(|token| token.part == Part::Order) {
        return Some(Order::Before);
    }
    tokens.iter().enumerate().find_map(|(at, token)| match token.low {
        _ if token.word.code => None,
        "prior" => Some(Order::Before),
        "first" if at > 0 && tokens[at - 1].is(&["the", "your", "its", "a"]) => None,
        "first" => Some(Order::First),
        "afterwards" | "then" | "later" | "last" | "finally" => Some(Order::Last),
        _ => None,
    })
}
