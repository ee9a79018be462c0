//! Units of meaning: phrases that the lists know, and single words.

use super::lexicon::{Lexicon, Sense};
use super::numbers::{Number, is_unit};
use super::{Part, Token, hash};
use crate::directive::words::{Sep, VERBS};
use rustc_hash::FxHashSet;
use std::sync::LazyLock;

/// What a unit is in its clause.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Role {
    /// What is done.
    Act,
    /// To what.
    Thing,
    /// How, where, into what.
    Value,
}

/// A unit of meaning.
#[derive(Clone, Debug)]
pub struct Unit {
    /// The hash of its roots.
    pub key: u64,
    /// Of each word's root, where there are several.
    pub words: Box<[u64]>,
    /// What it stands for.
    pub senses: Box<[Sense]>,
    /// How much it says, up to 1.
    pub weight: f32,
    /// Whether it is code.
    pub code: bool,
    /// Whether it is a word that hardly says anything on its own.
    pub filler: bool,
    /// Whether it is a verb that says no more than that something is so.
    pub light_act: bool,
    /// Whether it is one of these that says no more than that a thing is used, or has a place.
    pub core_act: bool,
    /// Whether it is, or could be, a verb.
    pub verbal: bool,
    /// Whether it says how something is measured.
    pub measure: bool,
    /// Its role.
    pub role: Role,
    /// The part of the clause it stands in.
    pub part: Part,
    /// Whether `un-` or `non-` was taken off it.
    pub denied: bool,
    /// The hash of it and the next unit as one word: `lock file` is `lockfile`; 0 where they don't touch.
    pub with_next: u64,
    /// Where it stands.
    pub span: (u32, u32),
}

impl Unit {
    /// The choices that it stands for, each a family and a member.
    pub fn choices(&self) -> impl Iterator<Item = (u16, u16)> + '_ {
        self.senses.iter().filter_map(|sense| match sense {
            Sense::Choice { family, member } => Some((*family, *member)),
            Sense::Concept { .. } | Sense::Kind { .. } => None,
        })
    }

    /// The kinds of things that it stands for, likewise.
    pub fn kinds(&self) -> impl Iterator<Item = (u16, u16)> + '_ {
        self.senses.iter().filter_map(|sense| match sense {
            Sense::Kind { family, member } => Some((*family, *member)),
            Sense::Concept { .. } | Sense::Choice { .. } => None,
        })
    }

    /// Whether it is a choice of some family.
    pub fn is_choice(&self) -> bool {
        self.choices().next().is_some()
    }
}

fn set(words: &'static str) -> FxHashSet<String> {
    words.split_whitespace().map(super::lemma::root).collect()
}

static STOP: LazyLock<FxHashSet<&str>> = LazyLock::new(|| {
    "a an the and or to of in at by for with from as is are be been being was were do does did doing it its this that \
     these those there their they them we you your our ours i us my me he she so such than then also just very too more \
     most much many any each every all always never not no nor none nothing only must should shall may might can could \
     would will has have had having need needs make makes made sure let lets please use uses using used utilise utilize \
     if when while unless until before after during because since which who whom whose what where how into onto over \
     under about per via within own other another both either neither ensure one ones whatever whichever however still \
     yet rather instead but get gets got able cannot prefer prefers preferred avoid favour favor ok okay fine allowed \
     allow allows permitted permit forbidden prohibited banned disallowed refrain required require requires mandatory \
     ideally preferably everywhere everything anything something thing things please carefully simply really actually \
     properly correctly good well way here project code codebase repository repo like kind out on off up down been \
     whenever feel important note welcome tolerated acceptable freely wherever possible anywhere anybody somebody nobody everybody everyone people strictly exclusively explicitly directly once \
     throughout across through towards toward upon whether though although even ever whole entire it's that's there's \
     they're we're you're against without along between among n't themselves itself yourself goes go going"
        .split_whitespace()
        .collect()
});
static LIGHT: LazyLock<FxHashSet<String>> = LazyLock::new(|| {
    set(
        "write put live keep stand belong place come take give set start begin run name call hold store save add create \
         work want turn carry contain include look file line",
    )
});
static LIGHT_ACTS: LazyLock<FxHashSet<String>> = LazyLock::new(|| {
    set(
        "active enabled contain hold bear carry enable activate turn switch show listen compile target emit read build sit begin serve support report represent express treat display last \
         wait reach manage install define declare return open look explain start bind point perform provide default \
         appear consist expect mean put keep place live stand belong write set take give add hold run name call store save \
         come stay include create carry state work handle apply see want try follow choose pick stick go need require ensure",
    )
});
static CORE_ACTS: LazyLock<FxHashSet<String>> = LazyLock::new(|| {
    set(
        "put keep place live stand belong write set take hold run store save stay include create carry contain bear have \
         go use need require follow work sit define declare make do come appear add apply enable activate turn switch \
         target consist mean provide start manage get try choose pick perform call name ensure",
    )
});
static FILLERS: LazyLock<FxHashSet<String>> = LazyLock::new(|| {
    set("statement long level form format order place end own around through between directly anyway right alive \
         max min wide width high height large small larger smaller longer shorter bigger text thing kind type part \
         content result output input page item data entry list step case team member developer task process \
         application app system module folder directory path column character still free actual current existing \
         given usual normal standard least allowed wanted needed required possible necessary extra additional \
         further line file code request user time element number limit maximum minimum length size rate value version")
});
static MEASURES: LazyLock<FxHashSet<String>> = LazyLock::new(|| {
    set(
        "maximum minimum limit length size long wide width rate max min exceed large big small high deep larger longer \
         total count capacity threshold gate level number exceed fall drop go height depth budget cap ceiling timeout",
    )
});
static VERB_ROOTS: LazyLock<FxHashSet<String>> =
    LazyLock::new(|| VERBS.iter().map(|verb| super::lemma::root(verb)).collect());

const BEFORE_ACT: &[&str] = &[
    "be", "is", "are", "must", "should", "shall", "may", "can", "never", "always", "not", "to", "please", "do", "get",
    "gets", "been", "gets", "don't", "isn't", "aren't", "mustn't", "shouldn't", "cannot", "can't", "will", "we", "you",
    "avoid", "without", "no", "and", "then", "never",
];
const BEFORE_VALUE: &[&str] = &[
    "in", "with", "as", "at", "to", "on", "by", "into", "from", "under", "inside", "within", "through", "via", "over",
    "beside",
];

/// Cuts a clause into units.
pub(super) fn units(tokens: &[Token<'_>], numbers: &[Number], lexicon: &Lexicon) -> Vec<Unit> {
    let keys: Vec<&str> = tokens.iter().map(|token| token.key.as_str()).collect();
    let measured: FxHashSet<usize> =
        numbers.iter().flat_map(|number| [number.span.0 as usize, number.span.1 as usize + 1]).collect();
    let (mut found, mut senses) = (Vec::<Unit>::new(), Vec::new());
    let (mut at, mut last_end, mut last_key) = (0, usize::MAX, "");
    while at < tokens.len() {
        let token = &tokens[at];
        if token.functional || token.is(&["before", "after"]) && token.part != Part::Main {
            at += 1;
            continue;
        }
        // What stands for something goes no further than a comma, and not over what says how it is asked.
        let end = (at + 1..tokens.len().min(at + 6))
            .find(|next| {
                tokens[*next].word.sep >= Sep::Comma || tokens[*next].functional || tokens[*next].part != token.part
            })
            .unwrap_or(tokens.len().min(at + 6));
        let mut length = lexicon.longest(&keys[at..end], &mut senses).max(1);
        // In code a word is a name first: `var` is no variable.
        if token.word.code && length == 1 && senses.iter().any(|sense| matches!(sense, Sense::Choice { .. })) {
            senses.retain(|sense| !matches!(sense, Sense::Concept { .. }));
        }
        if token.word.code && senses.is_empty() {
            of_command(token, lexicon, &mut senses);
            length = 1;
        }
        let span = &tokens[at..at + length];
        let content = span.iter().any(|token| is_content(token, &measured));
        let choice = senses.iter().any(|sense| matches!(sense, Sense::Choice { .. }));
        // `Before the code` names the code.
        let named = token.part == Part::Order && token.is(&["code"]);
        let stop = length == 1 && !token.word.code && STOP.contains(token.low) && !named;
        let number = length == 1 && token.number().is_some() && !token.word.code && token.low != "single";
        let unit_word =
            length == 1 && !token.word.code && is_unit(token.low) && numbers.iter().any(|number| near(number, token));
        let phrase = length > 1 && !senses.is_empty();
        let says = content || phrase || choice || named;
        if !says || stop && !(choice && token.word.capital && at > 0) || number || unit_word {
            at += 1;
            continue;
        }
        if let Some(before) = found.last_mut().filter(|_| last_end == at) {
            before.with_next = hash(&[last_key, token.key.as_str()].concat());
        }
        found.push(unit(tokens, at, length, &senses, lexicon));
        (last_end, last_key) = (at + length, token.key.as_str());
        at += length;
    }
    found
}

/// `pnpm install`: the program is a choice.
fn of_command(token: &Token<'_>, lexicon: &Lexicon, senses: &mut Vec<Sense>) {
    let end = token.key.find(|c: char| !c.is_alphanumeric() && !matches!(c, '-' | '_'));
    let Some(program) = end.map(|end| &token.key[..end]) else { return };
    let program = super::lemma::root(program);
    lexicon.longest(&[&program], senses);
    senses.retain(|sense| matches!(sense, Sense::Choice { .. }));
}

fn near(number: &Number, token: &Token<'_>) -> bool {
    token.word.span.start >= number.span.0 as usize && token.word.span.start <= number.span.1 as usize + 3
}

fn is_content(token: &Token<'_>, measured: &FxHashSet<usize>) -> bool {
    if token.word.code {
        return true;
    }
    let digits = token.low.starts_with(|c: char| c.is_ascii_digit());
    !(token.functional
        || digits
        || token.number().is_some() && !matches!(token.low, "single" | "half")
        || STOP.contains(token.low)
        || token.low.chars().count() == 1 && !matches!(token.low, "c" | "r" | "i" | "o")
        || measured.contains(&token.word.span.start) && is_unit(token.low)
        || !token.low.chars().any(char::is_alphanumeric))
}

fn unit(tokens: &[Token<'_>], at: usize, length: usize, senses: &[Sense], lexicon: &Lexicon) -> Unit {
    let span = &tokens[at..at + length];
    let joined: Vec<&str> = span.iter().map(|token| token.key.as_str()).collect();
    let head = span.iter().find(|token| !STOP.contains(token.low)).unwrap_or(&span[0]);
    let single = length == 1 && !head.word.code;
    let filler = single && FILLERS.contains(&head.key);
    let light_act = single && LIGHT_ACTS.contains(&head.key);
    let weight = match () {
        () if length > 1 => 1.3,
        () if head.word.code => 1.2,
        () if LIGHT.contains(&head.key) => 0.4,
        () if filler || light_act => 0.6,
        () => 1.0,
    };
    let words = if length > 1 {
        span.iter().filter(|token| !STOP.contains(token.low)).map(|token| hash(&token.key)).collect()
    } else if head.word.code {
        first_word(&head.key)
    } else {
        Box::default()
    };
    let denied = if single && senses.is_empty() { denied(head.low, lexicon) } else { None };
    let (key, senses, denied) = match denied {
        Some((key, senses)) => (hash(&key), senses, true),
        None => (hash(&joined.join(" ")), senses.to_vec(), false),
    };
    Unit {
        key,
        words,
        senses: senses.into(),
        denied,
        with_next: 0,
        weight,
        code: head.word.code,
        filler,
        light_act,
        core_act: single && CORE_ACTS.contains(&head.key),
        verbal: !head.word.code && span.iter().any(|token| VERB_ROOTS.contains(&token.key)),
        measure: MEASURES.contains(&head.key),
        role: role(tokens, at),
        part: head.part,
        span: (span[0].word.span.start as u32, span[length - 1].word.span.end as u32),
    }
}

/// What `un-` or `non-` denies: `undocumented`, `unawaited`.
fn denied(low: &str, lexicon: &Lexicon) -> Option<(String, Vec<Sense>)> {
    let base = ["un", "non"].iter().find_map(|start| low.strip_prefix(start)).filter(|base| base.len() > 3)?;
    let key = super::lemma::root(base);
    let mut senses = Vec::new();
    let known = lexicon.longest(&[&key], &mut senses) > 0 || VERB_ROOTS.contains(&key) || key == "await";
    known.then_some((key, senses))
}

/// The words of a command, or the first name of a path of names.
fn first_word(code: &str) -> Box<[u64]> {
    if code.contains(' ') {
        let words = code.split_whitespace().filter(|word| !STOP.contains(word));
        return words.map(|word| hash(&super::lemma::root(word))).collect();
    }
    let end = code.find(|c: char| !c.is_alphanumeric() && !matches!(c, '-' | '_'));
    end.filter(|end| *end > 1).map(|end| hash(&super::lemma::root(&code[..end]))).into_iter().collect()
}

fn role(tokens: &[Token<'_>], at: usize) -> Role {
    let token = &tokens[at];
    let before = at.checked_sub(1).map(|before| &tokens[before]);
    let verb = !token.word.code && VERB_ROOTS.contains(&token.key);
    let plural = token.low.ends_with('s') && !token.low.ends_with("ss");
    let subject = tokens.get(at + 1).is_some_and(|next| {
        next.word.sep == Sep::None
            && next.is(&["is", "are", "must", "should", "has", "have", "may", "can", "shall", "needs", "need"])
    });
    let opens = (before.is_none() || at > 0 && token.word.sep >= Sep::Comma) && !plural && !subject;
    if verb && (opens || before.is_some_and(|before| before.is(BEFORE_ACT))) {
        return Role::Act;
    }
    // The word that governs it, over articles and adjectives.
    for back in (at.saturating_sub(4)..at).rev() {
        let one = &tokens[back];
        if one.is(BEFORE_VALUE) {
            return Role::Value;
        }
        if tokens[back + 1].word.sep >= Sep::Comma || one.is(&["of", "for", "and", "or", "is", "are", "be"]) {
            break;
        }
    }
    Role::Thing
}
