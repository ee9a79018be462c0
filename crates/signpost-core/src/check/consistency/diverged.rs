use super::quoted;
use crate::base::repo_path::RepoPath;
use crate::check::overlap::Told as Where;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use rustc_hash::{FxHashMap, FxHashSet};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("consistency/diverged", Severity::Warning, include_str!("diverged.toml"));

/// Shorter directives are alike by chance.
const FEWEST_WORDS: usize = 5;
/// This part of all words must be the same.
const ALIKE: f64 = 0.62;
/// A directive is looked up by so many of its rarest words.
const LOOKED_UP: usize = 5;
/// Words of more directives tell nothing.
const MOST_WITH_WORD: usize = 48;

struct One<'a> {
    text: usize,
    directive: usize,
    words: FxHashSet<&'a str>,
}

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let assistants =
        context.survey.assistants.iter().filter(|one| one.profile.name != crate::project::guidance::PROFILE);
    if assistants.count() < 2 {
        return;
    }
    let mut all: Vec<One<'_>> = Vec::new();
    // Who is told a directive in just these words.
    let mut exact: FxHashMap<&str, FxHashSet<&str>> = FxHashMap::default();
    for (number, text) in context.texts.iter().enumerate().filter(|(_, text)| takes_part(text)) {
        for (directive, one) in text.outline.directives.iter().enumerate() {
            exact.entry(&one.words).or_default().extend(text.assistants.iter().map(String::as_str));
            let words: FxHashSet<&str> = one.words.split(' ').map(plain).collect();
            if words.len() >= FEWEST_WORDS {
                all.push(One { text: number, directive, words });
            }
        }
    }
    // Every word of a text, to see whether what one leaves out stands elsewhere in it.
    let mut vocabulary: FxHashMap<usize, FxHashSet<&str>> = FxHashMap::default();
    for one in &all {
        vocabulary.entry(one.text).or_insert_with(|| {
            context.texts[one.text].outline.directives.iter().flat_map(|one| one.words.split(' ')).map(plain).collect()
        });
    }
    let mut with_word: FxHashMap<&str, Vec<usize>> = FxHashMap::default();
    for (number, one) in all.iter().enumerate() {
        one.words.iter().for_each(|word| with_word.entry(word).or_default().push(number));
    }
    let mut said: FxHashSet<usize> = FxHashSet::default();
    for (number, one) in all.iter().enumerate() {
        let mut rare: Vec<&Vec<usize>> = one.words.iter().map(|word| &with_word[word]).collect();
        rare.retain(|list| list.len() > 1 && list.len() <= MOST_WITH_WORD);
        rare.sort_by_key(|list| list.len());
        let mut shared: Vec<usize> = rare.iter().take(LOOKED_UP).flat_map(|list| list.iter().copied()).collect();
        shared.retain(|other| *other < number && all[*other].text != one.text);
        shared.sort_unstable();
        shared.dedup();
        let best = shared
            .into_iter()
            .map(|other| (likeness(&one.words, &all[other].words), other))
            .filter(|(likeness, other)| {
                *likeness >= ALIKE
                    && !said.contains(other)
                    && differs(context, &all[*other], one)
                    && !split_up(&all[*other], one, &vocabulary)
            })
            .max_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)));
        let Some((_, other)) = best else { continue };
        let Some(witness) = apart(context, &all[other], one, &exact) else { continue };
        said.insert(number);
        let (text, first) = (&context.texts[one.text], &context.texts[all[other].text]);
        let span = |text: &Text, one: &One<'_>| text.outline.directives[one.directive].span.clone();
        let first_span = span(first, &all[other]);
        let who: Vec<&str> = first.assistants.iter().map(|name| context.workspace.title_of(name)).collect();
        let message = format!(
            "{} is told {} instead, in {}",
            who.join(" and "),
            quoted(first.words(&first_span)),
            first.location()
        );
        let mut finding = text.finding(&INFO, span(text, one), message).help("bring both to the words that are right");
        finding.assistants.extend(first.assistants.iter().cloned());
        finding.assistants.sort();
        finding.assistants.dedup();
        findings.push(finding.related(first.location(), first_span, "the other version").witness(witness));
    }
}

fn takes_part(text: &Text) -> bool {
    !text.published && text.assistants.iter().all(|name| name != crate::project::guidance::PROFILE)
}

/// Backticks make no difference.
fn plain(word: &str) -> &str {
    word.trim_matches('`')
}

/// Whether what the one says more than the other stands elsewhere in the other's text: then it was split up, not
/// changed.
fn split_up(one: &One<'_>, other: &One<'_>, vocabulary: &FxHashMap<usize, FxHashSet<&str>>) -> bool {
    let covered = |more: &One<'_>, less: &One<'_>| {
        let all = &vocabulary[&less.text];
        less.words.is_subset(&more.words) && more.words.difference(&less.words).all(|word| all.contains(word))
    };
    one.words == other.words || covered(one, other) || covered(other, one)
}

fn likeness(one: &FxHashSet<&str>, other: &FxHashSet<&str>) -> f64 {
    let shared = one.intersection(other).count();
    shared as f64 / (one.len() + other.len() - shared) as f64
}

/// Different words, for the same situation.
fn differs(context: &Context<'_, '_>, one: &One<'_>, other: &One<'_>) -> bool {
    let a = &context.texts[one.text].outline.directives[one.directive];
    let b = &context.texts[other.text].outline.directives[other.directive];
    a.words != b.words && a.conditions == b.conditions
}

/// A file about which one assistant is told the one and another assistant the other, neither being told both.
fn apart(
    context: &Context<'_, '_>,
    one: &One<'_>,
    other: &One<'_>,
    exact: &FxHashMap<&str, FxHashSet<&str>>,
) -> Option<Option<RepoPath>> {
    let words = |one: &One<'_>| &*context.texts[one.text].outline.directives[one.directive].words;
    let (a, b) = (&context.texts[one.text], &context.texts[other.text]);
    let (told_a, told_b) = (exact.get(words(one))?, exact.get(words(other))?);
    let mut pairs = a.told.iter().flat_map(|a| b.told.iter().map(move |b| (*a, *b)));
    pairs.find_map(|(a, b)| {
        let (first, second) = (context.profile(a).name.as_str(), context.profile(b).name.as_str());
        // Who is told both has no other version.
        if first == second || told_b.contains(first) || told_a.contains(second) {
            return None;
        }
        let zones = &context.survey.zones.zones;
        let example = |zone: u32| zones.get(zone as usize).map(|zone| zone.example.clone());
        match (context.overlap.told(a), context.overlap.told(b)) {
            (Where::Everywhere, Where::Everywhere) => Some(example(0)),
            (Where::Everywhere, Where::In(own)) | (Where::In(own), Where::Everywhere) => {
                own.first().map(|zone| example(*zone))
            }
            (Where::In(one), Where::In(other)) => {
                let (few, many) = if one.len() <= other.len() { (one, other) } else { (other, one) };
                few.iter().find(|zone| many.binary_search(zone).is_ok()).map(|zone| example(*zone))
            }
        }
    })
}
