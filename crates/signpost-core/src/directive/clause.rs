//! From a directive's words to its claims: clauses, the modality of each, and what each is about.

mod asked;

use super::condition::{Condition, Frame};
use super::families::{Families, Family, Hit};
use super::measure::measures;
use super::modality::{is_weak, modality};
use super::split::{Clause, Kind, sentences, split};
use super::words::{LIGHT, Sep, StemSet, Word, number, stem, words};
use super::{About, Claim, Modality, Said, condition};
use crate::base::language;
use asked::{Label, bag, chooses, is_vacuous, label, universal, without_language};
use std::ops::Range;
use std::sync::LazyLock;

/// The number of the family of programming languages, which is not in the data.
pub const LANGUAGE_FAMILY: u16 = u16::MAX;

const OPENERS: &[&str] = &[
    "when", "if", "while", "whenever", "before", "after", "unless", "in", "inside", "within", "for", "on", "under",
    "during", "once", "until", "outside", "instead", "rather", "as", "with",
];
/// What a language's name says of these is for which files: `Rust lines`, `TypeScript statements`.
const KINDS: &[&str] = &[
    "file", "files", "code", "source", "sources", "module", "modules", "project", "projects", "script", "scripts",
    "line", "lines", "function", "functions", "class", "classes", "variable", "variables", "statement", "statements",
    "import", "imports", "string", "strings", "identifier", "identifiers", "comment", "comments", "test", "tests",
    "indentation",
];
const PRONOUNS: &[&str] = &[
    "it", "them", "this", "these", "those", "ones", "such", "above", "below", "following", "that's", "it's", "they",
    "something", "anything", "everything", "things", "thing", "otherwise", "else",
];
/// With other verbs a choice is spoken of, not made: `convert tabs to spaces`.
const CHOOSING: &[&str] = &[
    "test", "name", "format", "wrap", "quote", "end", "terminate", "manage", "install", "build", "style", "merge",
    "squash", "rebase", "branch", "import", "export", "declare", "define", "throw", "raise", "return", "store", "save",
    "log", "record", "commit", "open", "target", "type", "design", "expose", "spell", "document", "mock", "handle",
    "lint", "check", "create", "omit", "skip", "avoid", "bundle", "query", "fetch", "start", "leave", "drop",
    "represent", "print", "separate", "finish", "state", "let", "update", "develop", "begin", "run", "comment",
    "respond", "reply", "answer", "label",
];
/// Of these the ones that are no nouns that matter: they say only that a choice is made.
static CHOICE_VERBS: StemSet = StemSet::without(
    CHOOSING,
    &["test", "commit", "comment", "branch", "import", "export", "type", "query", "log", "document", "label", "build"],
);
static LIGHT_STEMS: StemSet = StemSet::new(LIGHT);
/// One word on its own that is too wide to be compared.
static WIDE: StemSet = StemSet::new(&[
    "thing", "change", "name", "work", "way", "good", "best", "better", "clean", "practice", "style", "convention",
    "rule", "careful", "simple", "short", "clear", "consistent", "say", "ask", "check", "need", "everything", "note",
    "task", "feature", "bug", "fix", "update", "explain", "answer", "make", "get", "try", "look", "think", "plan",
    "start", "stop", "read", "edit", "create", "delete", "remove", "word", "path", "version", "assume", "guess",
    "invent", "use", "line", "code", "file", "value", "data", "variable", "function", "example", "format", "error",
]);
/// Words beside a choice that say only what sort of thing it is.
static NEUTRAL: StemSet =
    StemSet::new(&["module", "library", "package", "tool", "framework", "crate", "syntax", "keyword", "throughout"]);
/// Words beside a language that say no more than that it is used.
static OF_LANGUAGE: StemSet = StemSet::new(&["plain", "file", "source", "vanilla", "modern", "everything"]);
/// Words of a label or heading that every measure of its kind has.
static OF_MEASURE: StemSet =
    StemSet::new(&["indent", "indentation", "line", "length", "width", "max", "size", "version", "maximum"]);
/// Opposites: of two acts that differ in one such pair, asking for both is a contradiction.
static OPPOSITES: LazyLock<Vec<(String, String)>> = LazyLock::new(|| {
    let pairs = "before after, ascending descending, first last, top bottom, public private, synchronous asynchronous, \
                 sync async, single multiple, mutable immutable, relative absolute, lowercase uppercase, static dynamic, \
                 singular plural, long short, explicit implicit, eager lazy, enable disable, eagerly lazily, \
                 explicitly implicitly, synchronously asynchronously, alphabetically chronologically, \
                 alphabetical chronological, newest oldest, sequential parallel, sequentially parallel, upper lower, \
                 strict loose, abbreviate spell, inheritance composition, optional mandatory, full partial";
    stem_pairs(pairs)
});
/// Different words for one thing.
static SYNONYMS: LazyLock<Vec<(String, String)>> = LazyLock::new(|| {
    let pairs = "modify edit, change edit, alter edit, touch edit, delete remove, directory folder, method function, \
                 package dependency, crate dependency, database db, specification spec, configuration config, \
                 parameter argument, param argument, annotate annotation, hint annotation, wildcard glob, star glob";
    stem_pairs(pairs)
});

fn stem_pairs(pairs: &str) -> Vec<(String, String)> {
    pairs.split(", ").filter_map(|pair| pair.split_once(' ')).map(|(one, other)| (stem(one), stem(other))).collect()
}

pub(super) fn read(text: &str, span: Range<usize>, item: bool, frame: &Frame, families: &Families) -> Said {
    let raw = &text[span.clone()];
    let all = words(text, span);
    let mut reader = Reader { families, frame, item, claims: Vec::new(), first: Modality::State, alternative: false };
    let crossed = raw.starts_with(['❌', '✗', '✘', '🚫', '⛔']);
    // A question asks for nothing.
    if !raw.trim_end().ends_with('?') {
        sentences(&all).for_each(|sentence| reader.sentence(sentence, crossed));
    }
    Said { modality: reader.first, alternative: reader.alternative, claims: reader.claims.into() }
}

/// For each word what its clause asks.
pub(super) fn modalities(text: &str, span: Range<usize>, item: bool) -> Vec<(Range<usize>, Modality)> {
    let all = words(text, span);
    let mut found = Vec::new();
    for sentence in sentences(&all) {
        let mut main = Modality::State;
        for clause in split(sentence) {
            let read = match clause.kind {
                Kind::Main | Kind::Aside => modality(&clause.words, item).0,
                Kind::Contrast => main.contrast(),
                // `Never push without running x` asks for x.
                Kind::Unless if main.is_against() => Modality::Require,
                Kind::When | Kind::Unless | Kind::Reason => Modality::State,
            };
            if clause.kind == Kind::Main {
                main = read;
            }
            found.extend(clause.words.iter().map(|word| (word.span.clone(), read)));
        }
    }
    found.sort_by_key(|(span, _)| span.start);
    found
}

struct Reader<'a> {
    families: &'a Families,
    frame: &'a Frame,
    item: bool,
    claims: Vec<Claim>,
    first: Modality,
    alternative: bool,
}

/// What holds for all clauses of a sentence.
#[derive(Default)]
struct Around {
    conditions: Vec<Condition>,
    label: Vec<String>,
    /// The label's words: `Max line length: 80` measures by them.
    label_words: Vec<Word>,
    forbids: bool,
    /// The main clause before, and what it was about.
    main: Option<(Modality, Vec<String>)>,
    /// Whether that was taken for a demand only because nothing speaks against it.
    weak: bool,
}

impl Reader<'_> {
    fn sentence(&mut self, sentence: &[Word], crossed: bool) {
        let mut around = Around { forbids: self.frame.forbids || crossed, ..Around::default() };
        let mut rest = sentence;
        if let Some(colon) = (1..rest.len().min(6)).find(|at| rest[*at].sep == Sep::Colon) {
            match label(&rest[..colon], &mut around) {
                Label::Example => return,
                Label::Taken => rest = &rest[colon..],
                Label::None => {}
            }
        }
        rest = self.leading(rest, &mut around);
        let clauses = split(rest);
        for clause in &clauses {
            match clause.kind {
                Kind::When => condition::when(&clause.words, &mut around.conditions),
                Kind::Unless => condition::unless(&clause.words, &mut around.conditions),
                _ => {}
            }
        }
        around.conditions.extend(self.frame.conditions.iter().cloned());
        for clause in &clauses {
            if matches!(clause.kind, Kind::Main | Kind::Contrast | Kind::Aside) && !clause.words.is_empty() {
                self.clause(clause, &mut around);
            }
        }
    }

    /// Takes off `When x,`, `In Python files,` and the like.
    fn leading<'w>(&mut self, rest: &'w [Word], around: &mut Around) -> &'w [Word] {
        let Some(first) = rest.first().filter(|first| first.is(OPENERS)) else { return rest };
        let marks = |word: &Word| word.is(&["never", "always", "use", "don't", "prefer", "must", "avoid", "do"]);
        let end = (1..rest.len())
            .find(|at| matches!(rest[*at].sep, Sep::Comma | Sep::Colon | Sep::Dash | Sep::Semicolon))
            .or_else(|| (2..rest.len()).find(|at| marks(&rest[*at])));
        let Some(end) = end else { return rest };
        let opening: Vec<&Word> = rest[1..end].iter().collect();
        if first.is(&["instead", "rather"]) {
            // `Instead of x, use y`.
            let contrast = Clause { kind: Kind::Main, words: opening };
            let before = std::mem::replace(&mut around.forbids, true);
            self.clause(&contrast, around);
            around.forbids = before;
            around.main = None;
        } else if first.is(&["as"]) {
            // `As a rule,` says nothing.
        } else if first.is(&["unless", "outside"]) {
            condition::unless(&opening, &mut around.conditions);
        } else {
            condition::when(&opening, &mut around.conditions);
        }
        &rest[end..]
    }

    fn clause(&mut self, clause: &Clause<'_>, around: &mut Around) {
        let words = &clause.words;
        let (read, marks) = modality(words, self.item && clause.kind == Kind::Main || !around.label.is_empty());
        // `Tabs for indentation` names a choice; what `Alarms work` says of alarms is not known.
        let weak = read == Modality::Require && is_weak(words, &marks) || clause.kind == Kind::Contrast && around.weak;
        let modality = match (clause.kind, &around.main) {
            (Kind::Contrast, main) => main.as_ref().map_or(Modality::State, |(modality, _)| modality.contrast()),
            (Kind::Aside, _) if !read.is_against() => Modality::State,
            _ if around.forbids && !matches!(read, Modality::Avoid | Modality::Allow) => Modality::Forbid,
            _ => read,
        };
        if clause.kind != Kind::Main && modality == Modality::State {
            return;
        }
        if self.first == Modality::State {
            self.first = modality;
        }
        if modality.is_for() || words.iter().any(|word| word.is(&["instead", "rather"])) {
            self.alternative = true;
        }
        if modality == Modality::State {
            around.main.get_or_insert((modality, Vec::new()));
            return;
        }
        let kept: Vec<&Word> =
            words.iter().enumerate().filter(|(at, _)| !marks.contains(at)).map(|(_, word)| *word).collect();
        let hits = self.families.hits(&kept);
        let (bag, mut conditions) = bag(&kept, &hits);
        conditions.extend(around.conditions.iter().cloned());
        conditions.sort();
        conditions.dedup();
        let limits = words.iter().any(|word| word.is(&["only"]))
            && words.iter().any(|word| word.is(&["in", "for", "when", "if", "inside", "within", "during", "on"]));
        let asked = Asked {
            kind: clause.kind,
            modality,
            weak,
            limits,
            universal: universal(&kept),
            words: kept,
            bag,
            conditions,
        };
        let (chosen, subject) = self.choices(&asked, &hits, around);
        let measured = self.measures(&asked, words, around);
        if !chosen && !measured && !limits && !weak {
            self.act(&asked, around);
        }
        if clause.kind == Kind::Main {
            around.main = Some((modality, subject));
            around.weak = weak;
        }
    }

    fn claim(&mut self, modality: Modality, about: About, conditions: Vec<Condition>) {
        self.claims.push(Claim { modality, about, conditions: conditions.into() });
    }

    /// The stems of a clause, its label and the headings above it.
    fn stems<'s>(&'s self, asked: &'s Asked<'_>, around: &'s Around) -> impl Iterator<Item = &'s String> {
        asked.bag.iter().chain(&around.label).chain(&self.frame.about)
    }

    /// The choices that a clause makes: whether there is one, and what the last one is limited to.
    fn choices(&mut self, asked: &Asked<'_>, hits: &[Hit], around: &Around) -> (bool, Vec<String>) {
        let (mut found, mut subject) = (false, Vec::new());
        let mut families: Vec<u16> = hits.iter().map(|hit| hit.family).collect();
        families.dedup();
        families.sort_unstable();
        families.dedup();
        for number in families {
            let family = &self.families.all[usize::from(number)];
            let own: Vec<&Hit> = hits.iter().filter(|hit| hit.family == number).collect();
            let (vacuous, conditions): (Vec<&Condition>, Vec<&Condition>) =
                asked.conditions.iter().partition(|condition| is_vacuous(family, condition));
            let spoken = |stem: &String| {
                vacuous.iter().any(|condition| {
                    matches!(condition, Condition::When(of) if of.stems.iter().any(|spoken| **spoken == **stem))
                })
            };
            let meant = |stem: &String| self.stems(asked, around).any(|own| own == stem) || spoken(stem);
            if !family.needs.is_empty() && !family.needs.iter().any(meant) && asked.kind != Kind::Contrast {
                continue;
            }
            let mut names: Vec<u16> = own.iter().map(|hit| hit.choice).collect();
            names.sort_unstable();
            names.dedup();
            // A choice among several, or one that is only spoken of.
            if names.len() > 1 && !asked.modality.is_against() || !chooses(&asked.words, own[0]) {
                found = true;
                continue;
            }
            let command = own.iter().all(|hit| hit.command);
            if command && asked.modality.is_against() {
                // `Never run npm install` forbids a command, not the program.
                continue;
            }
            found = true;
            let of = if command { Vec::new() } else { self.limited_to(asked, family, &own, around) };
            if asked.kind == Kind::Main {
                subject.clone_from(&of);
            }
            if asked.limits && !of.is_empty() {
                continue;
            }
            let conditions: Vec<Condition> = conditions.into_iter().cloned().collect();
            for choice in names {
                self.claim(
                    asked.modality,
                    About::Choice { family: number, choice, of: boxed(&of) },
                    conditions.clone(),
                );
            }
        }
        (found || self.language(asked), subject)
    }

    /// The stems beside a choice that are not its family's own: kinds of things, or whatever else limits it.
    fn limited_to(&self, asked: &Asked<'_>, family: &Family, own: &[&Hit], around: &Around) -> Vec<String> {
        let named =
            |stem: &String| own.iter().any(|hit| asked.words[hit.start..hit.end].iter().any(|word| word.stem == *stem));
        let mut of: Vec<String> = self
            .stems(asked, around)
            .filter(|stem| !named(stem) && !family.about.contains(stem) && number(stem).is_none())
            .filter(|stem| !LIGHT_STEMS.has(stem) && !CHOICE_VERBS.has(stem) && !NEUTRAL.has(stem))
            .filter(|stem| family.things || !asked.universal.contains(stem))
            .cloned()
            .collect();
        if of.is_empty()
            && asked.kind == Kind::Contrast
            && let Some((_, main)) = &around.main
        {
            of.clone_from(main);
        }
        of.sort();
        of.dedup();
        of
    }

    /// `Write it in TypeScript`, `no JavaScript`.
    fn language(&mut self, asked: &Asked<'_>) -> bool {
        let named = asked.words.iter().filter(|word| !word.code && word.capital);
        let named: Vec<(usize, &&Word)> = named.filter_map(|word| Some((language::number(&word.low)?, word))).collect();
        let [(choice, word)] = named[..] else { return false };
        let one = &language::LANGUAGES[choice];
        let says_more = |stem: &String| *stem != word.stem && !LIGHT_STEMS.has(stem) && !OF_LANGUAGE.has(stem);
        if one.is_word || asked.bag.iter().any(says_more) {
            return false;
        }
        let others = without_language(&asked.conditions, one.name);
        let about = About::Choice { family: LANGUAGE_FAMILY, choice: choice as u16, of: Box::default() };
        self.claim(asked.modality, about, others);
        true
    }

    fn measures(&mut self, asked: &Asked<'_>, words: &[&Word], around: &Around) -> bool {
        let against = asked.modality.is_against();
        let whole: Vec<&Word> = around.label_words.iter().chain(words.iter().copied()).collect();
        let mut found = measures(&whole, against);
        // `Rule 7` and `Step 2` measure nothing.
        found.retain(|one| !(asked.weak && around.label.is_empty() && one.of.starts_with("number ")));
        let any = !found.is_empty();
        for one in found {
            let mut of = one.of;
            // A bound in a prohibition is turned round already; an exact number stays forbidden.
            let bound = one.low.is_infinite() || one.high.is_infinite();
            let modality = if against && bound { Modality::Require } else { asked.modality };
            for stem in around.label.iter().chain(&self.frame.about) {
                let known =
                    of.split(' ').any(|word| word == stem) || OF_MEASURE.has(stem) || of.starts_with("version ");
                if !known {
                    of.push(' ');
                    of.push_str(stem);
                }
            }
            // Of what it is the version says the number itself.
            let conditions = without_language(&asked.conditions, of.strip_prefix("version ").unwrap_or_default());
            self.claim(modality, About::Measure { of: of.into(), low: one.low, high: one.high }, conditions);
        }
        any
    }

    fn act(&mut self, asked: &Asked<'_>, around: &Around) {
        let excepted = asked.conditions.iter().any(|condition| matches!(condition, Condition::Unless(_)));
        if asked.words.iter().any(|word| word.is(PRONOUNS)) || excepted && asked.modality == Modality::Allow {
            return;
        }
        let meaning =
            self.stems(asked, around).filter(|stem| !LIGHT_STEMS.has(stem) && !asked.universal.contains(stem));
        let plain =
            |stem: &String| SYNONYMS.iter().find(|(one, _)| one == stem).map_or(stem, |(_, other)| other).clone();
        let mut stems: Vec<String> = meaning.map(plain).collect();
        stems.sort();
        stems.dedup();
        let says_little = |stem: &String| WIDE.has(stem) || CHOICE_VERBS.has(stem) && stems.len() == 1;
        if stems.len() > MOST_STEMS || stems.iter().all(says_little) {
            return;
        }
        let mut sides = Vec::new();
        for stem in &mut stems {
            if let Some((first, second)) = OPPOSITES.iter().find(|(first, second)| first == stem || second == stem) {
                sides.push(first == stem);
                *stem = format!("{first}/{second}");
            }
        }
        stems.sort();
        // Two pairs can differ in one and not in the other.
        let side = if let [side] = sides[..] { Some(side) } else { None };
        self.claim(asked.modality, About::Act { key: stems.join(" ").into(), side }, asked.conditions.clone());
    }
}

/// Acts of more words are hardly ever the same.
const MOST_STEMS: usize = 8;

/// What a clause asks, ready to be read for what it is about.
struct Asked<'w> {
    kind: Kind,
    modality: Modality,
    weak: bool,
    /// `only in x`: what it says of other places is not known.
    limits: bool,
    /// Its words, but for those that say what it asks.
    words: Vec<&'w Word>,
    /// The stems that carry meaning.
    bag: Vec<String>,
    /// Stems that only say that it holds for all.
    universal: Vec<String>,
    conditions: Vec<Condition>,
}

fn boxed(all: &[String]) -> Box<[Box<str>]> {
    all.iter().map(|one| one.as_str().into()).collect()
}
