//! From a directive's words to its claims: clauses, the modality of each, and what each is about.

use super::condition::{Frame, of_path, of_word};
use super::families::{Families, Hit};
use super::measure::measures;
use super::words::{LIGHT, STOP, Sep, VERBS, Word, number, stem as stem_of, words};
use super::{About, Claim, Modality};
use crate::language::LANGUAGES;
use rustc_hash::FxHashSet;
use std::ops::Range;
use std::sync::OnceLock;

/// The number of the family of programming languages, which is not in the data.
pub const LANGUAGE_FAMILY: u16 = u16::MAX;

/// What a directive says.
pub(super) struct Said {
    pub modality: Modality,
    pub alternative: bool,
    pub claims: Vec<Claim>,
}

/// How a clause came about.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Kind {
    /// It stands for itself.
    Main,
    /// `instead of x`, `not x`: the opposite of the clause before.
    Contrast,
    /// `when x`.
    When,
    /// `unless x`.
    Unless,
    /// `because x`: says nothing to follow.
    Reason,
    /// In brackets.
    Aside,
}

struct Clause<'w> {
    kind: Kind,
    words: Vec<&'w Word>,
}

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
/// One word on its own that is too wide to be compared.
const WIDE: &[&str] = &[
    "thing", "chang", "nam", "work", "way", "good", "best", "better", "clean", "practic", "styl", "convention", "rul",
    "careful", "simpl", "short", "clear", "consistent", "say", "ask", "check", "need", "everyth", "not", "task",
    "featur", "bug", "fix", "updat", "explain", "answer", "mak", "get", "try", "look", "think", "plan", "start",
    "stop", "read", "edit", "creat", "delet", "remov", "word", "path", "version", "assum", "guess", "invent", "us",
    "lin", "cod", "fil", "valu", "data", "variabl", "function", "exampl", "format", "error",
];
/// Words beside a choice that say only what sort of thing it is.
const NEUTRAL: &[&str] =
    &["modul", "library", "packag", "tool", "framework", "crat", "syntax", "keyword", "throughout"];
/// Opposites: of two acts that differ in one such pair, asking for both is a contradiction.
const OPPOSITES: &[(&str, &str)] = &[
    ("before", "after"),
    ("ascending", "descending"),
    ("first", "last"),
    ("top", "bottom"),
    ("public", "private"),
    ("synchronous", "asynchronous"),
    ("sync", "async"),
    ("above", "below"),
    ("singl", "multipl"),
    ("mutabl", "immutabl"),
    ("relativ", "absolut"),
    ("lowercas", "uppercas"),
    ("static", "dynamic"),
    ("singular", "plural"),
    ("long", "short"),
    ("explicit", "implicit"),
    ("eager", "lazy"),
    ("enabl", "disabl"),
    ("eagerly", "lazily"),
    ("explicitly", "implicitly"),
    ("synchronously", "asynchronously"),
    ("alphabetically", "chronologically"),
    ("alphabetical", "chronological"),
    ("newest", "oldest"),
    ("with", "without"),
    ("sequential", "parallel"),
    ("sequentially", "parallel"),
    ("upper", "lower"),
    ("strict", "loos"),
    ("abbreviat", "spell"),
    ("inheritanc", "composition"),
    ("optional", "mandatory"),
    ("ful", "partial"),
];
/// Different words for one thing.
const SYNONYMS: &[(&str, &str)] = &[
    ("modify", "edit"),
    ("chang", "edit"),
    ("alter", "edit"),
    ("touch", "edit"),
    ("delet", "remov"),
    ("directory", "folder"),
    ("method", "function"),
    ("packag", "dependency"),
    ("database", "db"),
    ("pr", "pull-request"),
    ("docstr", "docstring"),
    ("exported", "public"),
    ("specification", "spec"),
    ("configuration", "config"),
    ("parameter", "argument"),
    ("param", "argument"),
    ("annotat", "annotation"),
    ("hint", "annotation"),
    ("creat", "creat"),
    ("lockfil", "lock-file"),
    ("crat", "dependency"),
    ("third", "external"),
    ("wildcard", "glob"),
    ("star", "glob"),
];

pub(super) fn read(text: &str, span: Range<usize>, item: bool, frame: &Frame, families: &Families) -> Said {
    let raw = &text[span.clone()];
    let all = words(text, span);
    let mut reader = Reader { families, frame, item, claims: Vec::new(), first: Modality::State, alternative: false };
    let asks = raw.trim_end().ends_with('?');
    let crossed = raw.starts_with(['❌', '✗', '✘', '🚫', '⛔']);
    if !asks && !all.is_empty() {
        let mut start = 0;
        for at in 1..=all.len() {
            if at == all.len() || all[at].sep == Sep::Stop {
                reader.sentence(&all[start..at], crossed);
                start = at;
            }
        }
    }
    Said { modality: reader.first, alternative: reader.alternative, claims: reader.claims }
}

/// For each word what its clause asks.
pub(super) fn modalities(text: &str, span: Range<usize>, item: bool) -> Vec<(Range<usize>, Modality)> {
    let all = words(text, span);
    let mut found = Vec::new();
    let mut start = 0;
    for at in 1..=all.len() {
        if at < all.len() && all[at].sep != Sep::Stop {
            continue;
        }
        let mut main = Modality::State;
        for clause in split(&all[start..at]) {
            let read = match clause.kind {
                Kind::Main | Kind::Aside => modality(&clause.words, item).0,
                Kind::Contrast => match main {
                    Modality::Require => Modality::Forbid,
                    Modality::Prefer => Modality::Avoid,
                    _ => Modality::State,
                },
                // `Never push without running x` asks for x.
                Kind::Unless if main.is_against() => Modality::Require,
                Kind::When | Kind::Unless | Kind::Reason => Modality::State,
            };
            if clause.kind == Kind::Main {
                main = read;
            }
            found.extend(clause.words.iter().map(|word| (word.span.clone(), read)));
        }
        start = at;
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
    conditions: Vec<String>,
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
            let label = &rest[..colon];
            let plain = label.iter().map(|word| word.low.as_str()).collect::<Vec<_>>().join(" ");
            match plain.as_str() {
                "example" | "examples" | "bad" | "wrong" | "good" | "right" | "e.g" | "incorrect" | "correct"
                | "before" | "after" => return,
                "never" | "don't" | "do not" | "avoid" | "forbidden" | "prohibited" | "not allowed" | "no"
                | "banned" | "don'ts" => around.forbids = true,
                "always" | "do" | "must" | "important" | "note" | "required" | "remember" | "critical" | "warning"
                | "rule" | "prefer" => {}
                _ if label[0].is(VERBS) && label.len() > 1
                    || label[0].is(&["never", "always", "do", "don't", "if", "when", "for", "in"]) =>
                {
                    rest = sentence;
                    around.label.clear();
                }
                _ => {
                    around.label_words = label.to_vec();
                    for word in label {
                        match of_word(word, true) {
                            Some(condition) => around.conditions.push(condition),
                            None if !word.is(STOP) => around.label.push(word.stem.clone()),
                            None => {}
                        }
                    }
                }
            }
            let goes_on = label[0].is(OPENERS) || label[0].is(VERBS) || label[0].is(&["never", "do", "don't"]);
            if !goes_on || around.forbids || !around.label.is_empty() || !around.conditions.is_empty() {
                rest = &rest[colon..];
            }
        }
        rest = self.leading(rest, &mut around);
        let clauses = split(rest);
        for clause in &clauses {
            match clause.kind {
                Kind::When => condition("when", &clause.words, &mut around.conditions),
                Kind::Unless => condition("unless", &clause.words, &mut around.conditions),
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
            condition("unless", &opening, &mut around.conditions);
        } else {
            condition("when", &opening, &mut around.conditions);
        }
        &rest[end..]
    }

    fn clause(&mut self, clause: &Clause<'_>, around: &mut Around) {
        let words = &clause.words;
        let has_label = !around.label.is_empty();
        let (read, marks) = modality(words, self.item && clause.kind == Kind::Main || has_label);
        // `Tabs for indentation` names a choice; what `Alarms work` says of alarms is not known.
        let weak = read == Modality::Require && is_weak(words, &marks) || clause.kind == Kind::Contrast && around.weak;
        let modality = match (clause.kind, &around.main) {
            (Kind::Contrast, Some((Modality::Require, _))) => Modality::Forbid,
            (Kind::Contrast, Some((Modality::Prefer, _))) => Modality::Avoid,
            (Kind::Contrast, _) => return,
            (Kind::Aside, _) if !read.is_against() => return,
            _ => match read {
                Modality::Require | Modality::Prefer | Modality::State if around.forbids => Modality::Forbid,
                read => read,
            },
        };
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
        let mut conditions = around.conditions.clone();
        // What names a choice is no condition: `tests live in tests/`.
        let owned: Vec<Word> = kept.iter().map(|word| (*word).clone()).collect();
        let hits = self.families.hits(&owned);
        let bag = self.bag(&kept, &hits, &mut conditions);
        conditions.sort();
        conditions.dedup();
        let limits = words.iter().any(|word| word.is(&["only"]))
            && words.iter().any(|word| word.is(&["in", "for", "when", "if", "inside", "within", "during", "on"]));
        let mut subject = Vec::new();
        let choices =
            self.choices(&owned, &hits, &bag, modality, clause.kind, around, limits, &conditions, &mut subject);
        let whole: Vec<Word> = around.label_words.iter().chain(words.iter().copied()).cloned().collect();
        let numbers = self.measures(&whole, modality, weak && around.label.is_empty(), &around.label, &conditions);
        if !choices && !numbers && !limits && !weak {
            self.act(&kept, bag, modality, around, &conditions);
        }
        if clause.kind == Kind::Main {
            around.main = Some((modality, subject));
            around.weak = weak;
        }
    }

    /// The stems that carry meaning, and the conditions among the words.
    fn bag(&self, kept: &[&Word], hits: &[Hit], conditions: &mut Vec<String>) -> Vec<String> {
        let mut bag = Vec::new();
        for (at, word) in kept.iter().enumerate() {
            if word.code && hits.iter().any(|hit| hit.start <= at && at < hit.end) {
                bag.push(word.stem.clone());
                continue;
            }
            let before = at.checked_sub(1).map(|at| kept[at]);
            let after = kept.get(at + 1);
            let placed = before.is_some_and(|before| {
                before.is(&[
                    "in", "for", "inside", "within", "all", "of", "under", "below", "on", "every", "each", "any",
                    "outside", "with",
                ])
            });
            let kind_follows = after.is_some_and(|after| after.is(KINDS));
            if placed && before.is_some_and(|before| before.is(&["outside"])) {
                conditions.push(format!("unless:{}", word.stem));
                continue;
            }
            let is_path = word.code && (word.low.contains('/') || word.low.starts_with('*'))
                || !word.code && word.low.contains('/');
            if (placed || kind_follows)
                && is_path
                && let Some(path) = of_path(&word.low)
            {
                conditions.push(path);
                continue;
            }
            if (placed || kind_follows)
                && !word.code
                && let Some(condition) = of_word(word, false)
            {
                conditions.push(condition);
                continue;
            }
            if word.code
                && word.low.starts_with("*.")
                && let Some(condition) = of_word(word, false)
            {
                conditions.push(condition);
                continue;
            }
            if kind_follows && word.code && is_path {
                continue;
            }
            if word.code || !word.is(STOP) {
                bag.push(word.stem.clone());
            }
        }
        bag
    }

    #[allow(clippy::too_many_arguments)]
    fn choices(
        &mut self,
        owned: &[Word],
        hits: &[Hit],
        bag: &[String],
        modality: Modality,
        kind: Kind,
        around: &Around,
        limits: bool,
        conditions: &[String],
        subject: &mut Vec<String>,
    ) -> bool {
        let mut found = false;
        let mut done: Vec<u16> = Vec::new();
        let universal = universal(&owned.iter().collect::<Vec<_>>());
        for hit in hits {
            let family = &self.families.all[hit.family as usize];
            if done.contains(&hit.family) {
                continue;
            }
            let own: Vec<&Hit> = hits.iter().filter(|other| other.family == hit.family).collect();
            let mut names: Vec<u16> = own.iter().map(|hit| hit.choice).collect();
            names.sort_unstable();
            names.dedup();
            // `When merging a pull request` says no more than that the family is meant.
            let vacuous = |condition: &&String| {
                let own =
                    |stem: &str| family.about.iter().chain(&family.needs).any(|one| one == stem) || is_light(stem);
                condition.strip_prefix("when:").is_some_and(|rest| rest.split(' ').all(own))
            };
            let kept: Vec<String> = conditions.iter().filter(|one| !vacuous(one)).cloned().collect();
            let spoken = |stem: &String| {
                conditions.iter().filter(vacuous).any(|one| one["when:".len()..].split(' ').any(|word| word == stem))
            };
            let evidence = |stem: &String| {
                bag.contains(stem) || around.label.contains(stem) || self.frame.about.contains(stem) || spoken(stem)
            };
            if !family.needs.is_empty() && !family.needs.iter().any(evidence) && kind != Kind::Contrast {
                continue;
            }
            // A choice among several, or one that is only spoken of.
            if names.len() > 1 && !modality.is_against() || !chooses(owned, hit) {
                done.push(hit.family);
                found = true;
                continue;
            }
            let of: Vec<String> = if hit.command {
                Vec::new()
            } else {
                let named = |stem: &String| {
                    own.iter().any(|hit| owned[hit.start..hit.end].iter().any(|word| word.stem == *stem))
                };
                let mut of: Vec<String> = bag
                    .iter()
                    .chain(&around.label)
                    .chain(&self.frame.about)
                    .filter(|stem| !named(stem) && !family.about.contains(stem) && !is_light(stem) && !is_verb(stem))
                    .filter(|stem| number(stem).is_none() && !NEUTRAL.contains(&stem.as_str()))
                    .filter(|stem| family.things || !universal.contains(stem))
                    .cloned()
                    .collect();
                if of.is_empty()
                    && kind == Kind::Contrast
                    && let Some((_, main)) = &around.main
                {
                    of = main.clone();
                }
                of.sort();
                of.dedup();
                of
            };
            if hit.command && modality.is_against() {
                // `Never run npm install` forbids a command, not the program.
                continue;
            }
            done.push(hit.family);
            found = true;
            if kind == Kind::Main {
                *subject = of.clone();
            }
            if limits && !of.is_empty() {
                continue;
            }
            for choice in names {
                let about = About::Choice { family: hit.family, choice, of: boxed(&of) };
                self.claims.push(Claim { modality, about, conditions: boxed(&kept) });
            }
        }
        found || self.language(owned, bag, modality, conditions)
    }

    /// `Write it in TypeScript`, `no JavaScript`.
    fn language(&mut self, owned: &[Word], bag: &[String], modality: Modality, conditions: &[String]) -> bool {
        let named: Vec<(usize, &Word)> = owned
            .iter()
            .filter(|word| !word.code && word.capital)
            .filter_map(|word| {
                let at =
                    LANGUAGES.iter().position(|one| one.name == word.low || one.also.contains(&word.low.as_str()))?;
                Some((at, word))
            })
            .collect();
        let [(choice, word)] = named[..] else { return false };
        let rest = bag.iter().filter(|stem| {
            **stem != word.stem
                && !is_light(stem)
                && !matches!(stem.as_str(), "plain" | "fil" | "sourc" | "vanilla" | "modern" | "everyth")
        });
        if rest.count() > 0 || LANGUAGES[choice].is_word {
            return false;
        }
        let own = format!("lang:{}", LANGUAGES[choice].name);
        let others: Vec<String> = conditions.iter().filter(|one| **one != own).cloned().collect();
        let about = About::Choice { family: LANGUAGE_FAMILY, choice: choice as u16, of: Box::default() };
        self.claims.push(Claim { modality, about, conditions: boxed(&others) });
        true
    }

    fn measures(
        &mut self,
        owned: &[Word],
        modality: Modality,
        weak: bool,
        label: &[String],
        conditions: &[String],
    ) -> bool {
        let negated = modality.is_against();
        let mut found = measures(owned, negated);
        // `Rule 7` and `Step 2` measure nothing.
        found.retain(|one| !(weak && one.of.starts_with("number ")));
        let any = !found.is_empty();
        for one in found {
            let mut of = one.of.clone();
            // A bound in a prohibition is turned round already; an exact number stays forbidden.
            let exact = one.low.is_finite() && one.high.is_finite();
            let modality = if negated && !exact { Modality::Require } else { modality };
            for stem in label.iter().chain(&self.frame.about) {
                let known = of.split(' ').any(|word| word == stem)
                    || ["indent", "indentation", "lin", "length", "width", "max", "siz", "version", "maximum"]
                        .contains(&stem.as_str())
                    || of.starts_with("version ");
                if !known {
                    of.push(' ');
                    of.push_str(stem);
                }
            }
            if one.of.is_empty() {
                continue;
            }
            // Of what it is the version says the number itself.
            let language = of.strip_prefix("version ").map(|name| format!("lang:{name}"));
            let conditions: Vec<String> =
                conditions.iter().filter(|one| Some(*one) != language.as_ref()).cloned().collect();
            let about = About::Measure { of: of.into(), low: one.low, high: one.high };
            self.claims.push(Claim { modality, about, conditions: boxed(&conditions) });
        }
        any
    }

    fn act(&mut self, kept: &[&Word], bag: Vec<String>, modality: Modality, around: &Around, conditions: &[String]) {
        if kept.iter().any(|word| word.is(PRONOUNS))
            || conditions.iter().any(|one| one.starts_with("unless:")) && modality == Modality::Allow
        {
            return;
        }
        let universal = universal(kept);
        let mut stems: Vec<String> = bag
            .into_iter()
            .chain(around.label.iter().cloned())
            .chain(self.frame.about.iter().cloned())
            .filter(|stem| !is_light(stem) && !universal.contains(stem))
            .map(|stem| {
                SYNONYMS.iter().find(|(one, _)| *one == stem).map_or(stem.clone(), |(_, other)| (*other).to_owned())
            })
            .collect();
        stems.sort();
        stems.dedup();
        if stems.is_empty()
            || stems.len() > 8
            || stems.iter().all(|stem| WIDE.contains(&stem.as_str()) || is_verb(stem) && stems.len() == 1)
        {
            return;
        }
        let mut side = None;
        let mut pairs = 0;
        for stem in &mut stems {
            if let Some((first, second)) = opposites().iter().find(|(first, second)| first == stem || second == stem) {
                side = Some(first == stem);
                pairs += 1;
                *stem = format!("{first}/{second}");
            }
        }
        // `before` and `after` are no stop words, so that they are seen here.
        if pairs > 1 {
            side = None;
        }
        stems.sort();
        // `lock file` is `lockfile`.
        let key: String = stems.join(" ");
        self.claims.push(Claim {
            modality,
            about: About::Act { key: key.into(), side },
            conditions: boxed(conditions),
        });
    }
}

fn boxed(all: &[String]) -> Box<[Box<str>]> {
    all.iter().map(|one| one.as_str().into()).collect()
}

/// [`OPPOSITES`] as stems.
fn opposites() -> &'static [(String, String)] {
    static STEMS: OnceLock<Vec<(String, String)>> = OnceLock::new();
    STEMS.get_or_init(|| OPPOSITES.iter().map(|(one, other)| (stem_of(one), stem_of(other))).collect())
}

fn is_light(stem: &str) -> bool {
    static STEMS: OnceLock<FxHashSet<String>> = OnceLock::new();
    STEMS.get_or_init(|| LIGHT.iter().map(|word| stem_of(word)).collect()).contains(stem)
}

/// Whether a stem is a verb that says only that a choice is made; some are nouns that matter.
fn is_verb(stem: &str) -> bool {
    const NOUNS: &[&str] = &[
        "test", "commit", "comment", "branch", "import", "export", "type", "query", "log", "document", "label", "build",
    ];
    static STEMS: OnceLock<FxHashSet<String>> = OnceLock::new();
    let verbs = || CHOOSING.iter().filter(|word| !NOUNS.contains(word)).map(|word| stem_of(word)).collect();
    STEMS.get_or_init(verbs).contains(stem)
}

/// Whether a clause's verb makes the choice rather than speaks of it.
fn chooses(words: &[Word], hit: &Hit) -> bool {
    let mut before = words[..hit.start].iter().filter(|word| !word.joined);
    let verb = before.find(|word| word.is(VERBS) || word.is(LIGHT));
    let own = verb.is_none_or(|verb| verb.is(LIGHT) || verb.is(CHOOSING));
    let speaks = words[..hit.start].iter().any(|word| {
        word.is(&[
            "convert", "migrate", "migrated", "migrating", "replace", "switch", "publish", "mix", "mention", "compare",
            "support", "from", "between", "like", "unlike", "published", "similar", "both", "either", "whether",
        ])
    });
    let noun = words.get(hit.end).is_some_and(|after| {
        after.sep == Sep::None
            && after.is(&[
                "registry", "token", "tokens", "account", "organization", "org", "key", "keys", "bar", "order",
                "panel", "component", "components", "stop", "stops",
            ])
    });
    own && !speaks && !noun
}

/// Whether a clause asks for something only by being there: it has no word that asks, and does not begin with
/// a verb.
fn is_weak(words: &[&Word], marks: &[usize]) -> bool {
    let asks = words.iter().any(|word| {
        word.is(&[
            "must", "shall", "should", "always", "need", "needs", "ensure", "required", "mandatory", "has", "have",
        ])
    });
    let first = words.iter().find(|word| {
        !word.is(&["please", "then", "also", "just", "and", "but", "only", "first", "finally", "instead"])
    });
    let verb = first.is_some_and(|first| first.is(VERBS));
    marks.is_empty() && !asks && !verb
}

/// The stems of `all functions` in `All functions must have docstrings`, or in `docstrings for all functions`.
fn universal(kept: &[&Word]) -> Vec<String> {
    let mut stems = Vec::new();
    for (at, word) in kept.iter().enumerate() {
        let placed = at == 0 || kept[at - 1].is(&["to", "for", "in", "on", "of", "from"]);
        if !(placed && word.is(&["all", "every", "each"])) {
            continue;
        }
        for next in kept[at + 1..].iter().take(2) {
            if next.code
                || next.sep != Sep::None
                || next.is(STOP)
                || next.is(LIGHT)
                || next.is(VERBS) && next.low != "test" && next.low != "type"
            {
                break;
            }
            stems.push(next.stem.clone());
        }
    }
    stems
}

/// Cuts a sentence into clauses.
fn split(rest: &[Word]) -> Vec<Clause<'_>> {
    let mut clauses: Vec<Clause<'_>> = vec![Clause { kind: Kind::Main, words: Vec::new() }];
    // The clause that goes on after a bracket closes.
    let mut outer: Option<usize> = None;
    let mut current = 0;
    let mut at = 0;
    while at < rest.len() {
        let word = &rest[at];
        let before = at.checked_sub(1).map(|at| &rest[at]);
        let next = rest.get(at + 1);
        let is_next = |words: &[&str]| next.is_some_and(|next| next.is(words));
        let was = |words: &[&str]| before.is_some_and(|before| before.is(words));
        let here = &clauses[current];
        let negative =
            here.words.iter().any(|word| word.is(&["never", "don't", "not", "avoid", "no", "cannot", "can't"]));
        let mut begin: Option<(Kind, usize)> = None;
        let mut closes = false;
        if word.sep == Sep::Bracket && at > 0 {
            match outer.take() {
                Some(main) => {
                    current = main;
                    closes = true;
                }
                None => {
                    outer = Some(current);
                    begin = Some((Kind::Aside, 0));
                }
            }
        }
        let joins = matches!(word.sep, Sep::Comma | Sep::Semicolon | Sep::Dash | Sep::Colon | Sep::Stop)
            || was(&["and", "but", "then"]);
        if begin.is_none() && !closes && !word.code && at > 0 {
            begin = if matches!(word.sep, Sep::Semicolon | Sep::Dash) {
                let skip = usize::from(word.is(&["and", "but", "so"]));
                if word.is(&["because", "since", "as", "otherwise"]) {
                    Some((Kind::Reason, 0))
                } else if word.is(&["not"]) {
                    Some((Kind::Contrast, 1))
                } else if word.is(&["unless", "except"]) {
                    Some((Kind::Unless, 1))
                } else {
                    Some((Kind::Main, skip))
                }
            } else if word.is(&["instead"]) && is_next(&["of"])
                || word.is(&["rather"]) && is_next(&["than"])
                || word.is(&["as"]) && is_next(&["opposed"])
            {
                Some((Kind::Contrast, 2))
            } else if word.is(&["over"])
                && here.words.iter().any(|word| word.is(&["prefer", "favor", "favour", "choose"]))
            {
                Some((Kind::Contrast, 1))
            } else if word.is(&["in"]) && is_next(&["favor", "favour", "place"]) {
                if negative { Some((Kind::Main, 3)) } else { Some((Kind::Contrast, 3)) }
            } else if word.is(&["not"])
                && !was(&[
                    "do", "must", "should", "shall", "can", "may", "is", "are", "does", "will", "would", "could", "if",
                    "or", "why", "be", "need", "did", "has", "have",
                ])
                && !is_next(&[
                    "only", "yet", "just", "all", "every", "necessarily", "required", "allowed", "more", "less",
                    "longer", "exceed", "be", "in",
                ])
            {
                Some((Kind::Contrast, 1))
            } else if joins
                && (word.is(&["never", "don't", "avoid", "always"])
                    || word.is(&["do"]) && is_next(&["not"])
                    || word.is(&["no"]) && !is_next(&["more", "less", "fewer", "longer", "matter", "need"])
                    || word.is(&["use", "prefer", "choose", "stick", "write"])
                        && !is_next(&["or", "and"])
                        && !was(&["or"]))
            {
                Some((Kind::Main, 0))
            } else if word.is(&["because", "since", "otherwise", "which", "whereas", "so"]) && !is_next(&["far"])
                || word.is(&["as"])
                    && is_next(&["it", "they", "we", "this", "that", "those", "these", "the"])
                    && word.sep == Sep::Comma
                || word.is(&["to"])
                    && is_next(&[
                        "avoid", "prevent", "keep", "make", "ensure", "reduce", "help", "allow", "catch", "match",
                        "minimize", "save", "improve", "maintain",
                    ])
                || word.is(&["e.g", "i.e", "eg", "ie"])
            {
                Some((Kind::Reason, 0))
            } else if word.is(&["when", "if", "whenever", "while", "once", "until", "where"]) {
                Some((Kind::When, 1))
            } else if word.is(&["unless", "except"]) || word.is(&["other", "apart"]) && is_next(&["than", "from"]) {
                Some((Kind::Unless, 1))
            } else if word.is(&["without"]) {
                if negative { Some((Kind::Unless, 1)) } else { Some((Kind::Contrast, 1)) }
            } else if word.is(&["outside"]) {
                Some((Kind::Unless, if is_next(&["of"]) { 2 } else { 1 }))
            } else {
                None
            };
        }
        // What a condition or reason says ends with the next comma only where a new clause begins.
        if let Some((kind, skip)) = begin {
            clauses.push(Clause { kind, words: Vec::new() });
            current = clauses.len() - 1;
            at += skip;
            if skip > 0 {
                continue;
            }
        }
        if let Some(word) = rest.get(at) {
            clauses[current].words.push(word);
        }
        at += 1;
    }
    clauses
}

/// Turns a condition clause into its words, or into the language or path that it is about.
fn condition(word: &str, words: &[&Word], conditions: &mut Vec<String>) {
    let mut rest = Vec::new();
    let mut typed = Vec::new();
    for one in words {
        if let Some(condition) = of_word(one, false) {
            typed.push(condition);
        } else if !one.is(STOP)
            && !one.is(&[
                "file", "files", "writing", "editing", "working", "work", "write", "edit", "touching", "changing",
                "modifying", "source", "sources",
            ])
        {
            rest.push(one.stem.as_str());
        }
    }
    if word == "when" && rest.is_empty() {
        conditions.extend(typed);
        return;
    }
    rest.sort_unstable();
    let all: Vec<String> = typed.into_iter().chain(rest.into_iter().map(str::to_owned)).collect();
    conditions.push(format!("{word}:{}", all.join(" ")));
}

/// What a clause asks, and which of its words say so.
fn modality(words: &[&Word], fragment: bool) -> (Modality, Vec<usize>) {
    let is = |at: usize, list: &[&str]| words.get(at).is_some_and(|word| word.is(list));
    let number_follows = |at: usize| {
        is(at + 1, &["more", "less", "fewer", "longer", "exceed", "be"])
            && is(at + 2, &["than", "longer", "more", "wider", "larger", "exceed"])
            || is(at + 1, &["exceed"])
    };
    for at in 0..words.len() {
        if words[at].code {
            continue;
        }
        let low = words[at].low.as_str();
        let found: Option<(Modality, usize)> = match low {
            "never" if is(at + 1, &["forget"]) => Some((Modality::Require, 2)),
            "never" => Some((Modality::Forbid, 1)),
            "no" if is(at + 1, &["need"]) => return (Modality::State, Vec::new()),
            "no" if is(at + 1, &["more", "less", "fewer", "longer"]) => None,
            "no" if is(at + 1, &["matter", "longer"]) => None,
            "no" => Some((Modality::Forbid, 1)),
            "do" | "must" | "should" | "shall" | "may" | "can" | "does" | "will" if is(at + 1, &["not"]) => {
                if is(at + 2, &["need", "have"]) && is(at + 3, &["to"]) {
                    return (Modality::State, Vec::new());
                }
                match words.get(at + 2).map(|word| word.low.as_str()) {
                    Some("forget" | "fail" | "neglect") => Some((Modality::Require, 3)),
                    Some("hesitate") => Some((Modality::Allow, 3)),
                    _ if low == "does" || low == "will" => return (Modality::State, Vec::new()),
                    _ if number_follows(at + 1) => Some((Modality::Require, 0)),
                    _ => Some((Modality::Forbid, 2)),
                }
            }
            "don't" | "dont" | "mustn't" | "shouldn't" | "cannot" | "can't" => {
                match words.get(at + 1).map(|word| word.low.as_str()) {
                    Some("forget" | "fail") => Some((Modality::Require, 2)),
                    Some("need" | "have") if is(at + 2, &["to"]) => return (Modality::State, Vec::new()),
                    _ if number_follows(at) => Some((Modality::Require, 0)),
                    _ => Some((Modality::Forbid, 1)),
                }
            }
            "doesn't" | "isn't" | "aren't" | "won't" | "wasn't" => return (Modality::State, Vec::new()),
            "is" | "are" | "be"
                if is(at + 1, &["not"])
                    && is(
                        at + 2,
                        &["allowed", "permitted", "acceptable", "welcome", "tolerated", "ok", "okay", "fine", "wanted"],
                    ) =>
            {
                Some((Modality::Forbid, 3))
            }
            "is" | "are" if is(at + 1, &["not"]) && is(at + 2, &["required", "needed", "necessary", "mandatory"]) => {
                return (Modality::State, Vec::new());
            }
            "is" | "are" if is(at + 1, &["never"]) => None,
            "is" | "are"
                if is(at + 1, &["forbidden", "prohibited", "banned", "disallowed", "off-limits", "verboten"]) =>
            {
                Some((Modality::Forbid, 2))
            }
            "is" | "are" if is(at + 1, &["discouraged"]) => Some((Modality::Avoid, 2)),
            "is" | "are" if is(at + 1, &["required", "mandatory", "obligatory", "compulsory"]) => {
                Some((Modality::Require, 2))
            }
            "is" | "are" if is(at + 1, &["preferred", "recommended"]) => Some((Modality::Prefer, 2)),
            "is" | "are" if is(at + 1, &["allowed", "permitted", "acceptable", "fine", "ok", "okay", "welcome"]) => {
                Some((Modality::Allow, 2))
            }
            "forbidden" | "prohibited" | "banned" | "disallowed" if at > 0 => Some((Modality::Forbid, 1)),
            "avoid" => Some((Modality::Avoid, 1)),
            "refrain" => Some((Modality::Forbid, 2)),
            "stay" | "steer" if is(at + 1, &["away", "clear"]) => Some((Modality::Avoid, 3)),
            "leave" if is(at + 1, &["out", "off"]) && at <= 1 => Some((Modality::Forbid, 2)),
            "omit" | "ban" | "forbid" | "disallow" if at <= 1 => Some((Modality::Forbid, 1)),
            "skip" | "exclude" if at <= 1 => Some((Modality::Forbid, 1)),
            "not" if at == 0 => Some((Modality::Forbid, 1)),
            "prefer" | "favor" | "favour" | "preferably" | "ideally" if at <= 3 => Some((Modality::Prefer, 1)),
            "may" | "can" | "could" => Some((Modality::Allow, 1)),
            "feel" if is(at + 1, &["free"]) => Some((Modality::Allow, 3)),
            "free" if is(at + 1, &["to"]) => Some((Modality::Allow, 2)),
            "it's" | "it"
                if at == 0
                    && (is(at + 1, &["ok", "okay", "fine"]) || is(at + 2, &["ok", "okay", "fine", "acceptable"])) =>
            {
                Some((Modality::Allow, 3))
            }
            "optional" => return (Modality::State, Vec::new()),
            "must" | "shall" | "should" => {
                if is(at + 1, &["never"]) {
                    None
                } else {
                    Some((Modality::Require, 1))
                }
            }
            "always" => {
                // `always avoid x`, `always prefer x`.
                if is(at + 1, &["avoid", "prefer", "omit", "skip", "leave"]) {
                    None
                } else {
                    Some((Modality::Require, 1))
                }
            }
            "need" | "needs" | "has" | "have" if is(at + 1, &["to"]) => Some((Modality::Require, 2)),
            "ensure" | "make" if at == 0 && (low == "ensure" || is(1, &["sure"])) => {
                Some((Modality::Require, if low == "make" { 2 } else { 1 }))
            }
            _ => None,
        };
        if let Some((modality, length)) = found {
            let mut marks: Vec<usize> = (at..at + length).collect();
            // `Never do x` where more says so: `must never`, `always avoid`.
            marks.extend((0..at).filter(|at| is(*at, &["always", "please", "must", "should", "shall", "you", "we"])));
            if modality.is_against() && is(at + length, &["use", "using", "do", "be"]) {
                marks.push(at + length);
            }
            return (modality, marks);
        }
        // A negation later in the clause counts; before that, what the clause begins with.
    }
    let first = words.iter().position(|word| {
        !word.is(&[
            "please", "then", "also", "just", "and", "but", "only", "first", "finally", "instead", "generally",
            "kindly", "strictly", "consistently", "explicitly", "simply",
        ])
    });
    let Some(first) = first else { return (Modality::State, Vec::new()) };
    if words[first].is(VERBS)
        && !(first == 0 && words.get(1).is_some_and(|next| next.is(&["is", "are", "was", "were", "has", "have"])))
    {
        return (Modality::Require, (0..first).collect());
    }
    let ours = words[first].is(&["we", "the", "this", "our", "i", "all", "every", "each"]);
    let verb = words.iter().take(6).position(|word| {
        word.is(&[
            "use", "uses", "prefer", "indent", "indents", "format", "run", "follow", "follows", "write", "name",
            "target", "targets", "require", "requires",
        ])
    });
    if ours && let Some(verb) = verb {
        let mut marks: Vec<usize> = (0..=verb).collect();
        marks.retain(|at| !words[first].is(&["all", "every", "each"]) || *at >= verb);
        return (Modality::Require, marks);
    }
    if words.iter().any(|word| word.is(&["use", "uses"])) && words.len() <= 8 && fragment {
        return (Modality::Require, Vec::new());
    }
    let finite = words.iter().any(|word| {
        word.is(&[
            "was", "were", "has", "had", "does", "did", "will", "would", "comes", "stands", "lives", "contains",
            "holds", "means", "gets", "makes", "handles", "talks", "reads", "writes", "supports", "returns",
            "provides", "includes",
        ])
    });
    if !finite
        && (fragment && words.len() <= 10 || words.iter().any(|word| word.is(&["is", "are"])) && words.len() <= 10)
    {
        return (Modality::Require, Vec::new());
    }
    (Modality::State, Vec::new())
}
