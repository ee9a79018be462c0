//! Patterns for a rule: what some patterns take in a project, and patterns made from example files.
//!
//! [`try_patterns`] shows what patterns take in each dialect in use. [`from_examples`] looks for the
//! smallest readable patterns that take all of some files and none of others: it makes the patterns that a
//! person would write for each example (its folder, its ending, both, its name), keeps those that take no
//! counter-example, and covers the examples with as few as possible that take along as little as possible.
//! The path itself, its special characters written as classes, is always among them, so that there is always
//! an answer.

use crate::base::repo_path::RepoPath;
use crate::files::index::Index;
use crate::inspect::pattern_search::PatternSearch;
use crate::pattern::{Dialect, Pattern, PatternSet, escaped};
use rustc_hash::FxHashSet;
use std::collections::BTreeMap;

/// What patterns take, in one dialect.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Trial {
    /// The dialects for which this holds, by the names given.
    pub dialects: Vec<String>,
    /// The words that are no valid patterns, with the reason.
    pub invalid: Vec<(String, String)>,
    /// The files taken.
    pub taken: Vec<RepoPath>,
    /// How many files of each folder directly below the root are taken; `.` for files in the root.
    pub folders: Vec<(String, usize)>,
}

/// Files that somebody probably meant to take.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NearMiss {
    /// The pattern that would take them.
    pub pattern: String,
    /// How many files more it takes.
    pub more: usize,
    /// One of them.
    pub example: RepoPath,
}

/// Shows what patterns take, for each dialect; dialects with the same answer are one.
pub fn try_patterns(index: &Index, patterns: &[String], dialects: &[(String, Dialect)]) -> Vec<Trial> {
    let mut trials: Vec<Trial> = Vec::new();
    for (name, dialect) in dialects {
        let mut set = PatternSet::default();
        let mut invalid = Vec::new();
        for text in patterns {
            match Pattern::parse(text, dialect) {
                Ok(pattern) => set.patterns.push(pattern),
                Err(error) => invalid.push((text.clone(), error.to_string())),
            }
        }
        let taken = taken(index, &set);
        match trials.iter_mut().find(|other| other.taken == taken && other.invalid == invalid) {
            Some(same) => same.dialects.push(name.clone()),
            None => {
                let mut folders: BTreeMap<String, usize> = BTreeMap::new();
                for file in &taken {
                    let first = if file.depth() > 1 { file.components().next().unwrap_or(".") } else { "." };
                    *folders.entry(first.to_owned()).or_default() += 1;
                }
                let mut folders: Vec<(String, usize)> = folders.into_iter().collect();
                folders.sort_by_key(|(_, files)| std::cmp::Reverse(*files));
                trials.push(Trial { dialects: vec![name.clone()], invalid, taken, folders });
            }
        }
    }
    trials
}

fn taken(index: &Index, set: &PatternSet) -> Vec<RepoPath> {
    let paths = index.sources().map(|(folder, item)| folder.path.join(item.name));
    paths.filter(|path| set.takes(path.as_str())).collect()
}

/// Patterns that take a few files more, which somebody probably meant too.
pub fn near_misses(index: &Index, patterns: &[String], dialect: &Dialect) -> Vec<NearMiss> {
    let compile = |text: &str| Pattern::parse(text, dialect).ok();
    let own = PatternSet { patterns: patterns.iter().filter_map(|text| compile(text)).collect() };
    let before: FxHashSet<RepoPath> = taken(index, &own).into_iter().collect();
    let search = PatternSearch::new(index);
    let mut found: Vec<NearMiss> = Vec::new();
    for text in patterns {
        let mut variants = wider(text, index);
        if before.is_empty() {
            variants.extend(search.nearest(text, dialect, &RepoPath::root(), &RepoPath::root()).map(|(near, _)| near));
        }
        for variant in variants {
            let Some(pattern) = compile(&variant) else { continue };
            let set = PatternSet { patterns: vec![pattern] };
            let more: Vec<RepoPath> = taken(index, &set).into_iter().filter(|file| !before.contains(file)).collect();
            // What takes many times as much was not what somebody meant.
            let modest = before.is_empty() || more.len() <= before.len().max(3) * 3;
            if let Some(example) = more.first().filter(|_| modest)
                && !found.iter().any(|other| other.pattern == variant)
            {
                found.push(NearMiss { pattern: variant, more: more.len(), example: example.clone() });
            }
        }
    }
    found.sort_by_key(|near| near.more);
    found.truncate(4);
    found
}

/// A pattern with the next wider ending, or with folders further down.
fn wider(text: &str, index: &Index) -> Vec<String> {
    let mut variants = Vec::new();
    let (head, name) = text.rsplit_once('/').map_or(("", text), |(head, name)| (head, name));
    let join = |name: &str| if head.is_empty() { name.to_owned() } else { format!("{head}/{name}") };
    if !head.is_empty() && !head.ends_with("**") && name.contains('*') && name != "**" {
        variants.push(format!("{head}/**/{name}"));
    }
    if let Some((stem, ending)) = name.rsplit_once('.')
        && !ending.is_empty()
        && ending.chars().all(char::is_alphanumeric)
    {
        let mut endings: Vec<&str> =
            index.sources().filter_map(|(_, item)| item.name.rsplit_once('.').map(|(_, end)| end)).collect();
        endings.sort_unstable();
        endings.dedup();
        let kin = |other: &&str| {
            *other != ending
                && (other.starts_with(ending) || ending.starts_with(*other) || other.ends_with(ending))
                && other.len().abs_diff(ending.len()) <= 1
        };
        for other in endings.into_iter().filter(kin) {
            variants.push(join(&format!("{stem}.{{{ending},{other}}}")));
        }
    }
    variants
}

/// A list of patterns that fits the examples.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fit {
    /// The patterns.
    pub patterns: Vec<String>,
    /// How many other source files they take along.
    pub others: usize,
    /// Some of those.
    pub examples: Vec<RepoPath>,
}

/// Shown for each fit.
const OTHERS_SHOWN: usize = 3;
/// So many fits are offered.
const FITS: usize = 5;

/// The smallest readable patterns, from the root, that take all of `like` and none of `unlike`; the best
/// first. Empty only where a file is in both.
pub fn from_examples(index: &Index, like: &[RepoPath], unlike: &[RepoPath], dialect: &Dialect) -> Vec<Fit> {
    if like.is_empty() || like.iter().any(|file| unlike.contains(file)) {
        return Vec::new();
    }
    let mut texts: Vec<String> = like.iter().flat_map(|file| written_for(file, like, dialect)).collect();
    let mut seen = FxHashSet::default();
    texts.retain(|text| seen.insert(text.clone()));
    let sources: Vec<RepoPath> = index.sources().map(|(folder, item)| folder.path.join(item.name)).collect();
    let mut candidates: Vec<Candidate> = texts
        .into_iter()
        .filter_map(|text| {
            let pattern = Pattern::parse(&text, dialect).ok()?;
            let takes = |file: &RepoPath| pattern.matches(file.as_str());
            if pattern.simple().iter().any(|simple| simple.takes_everything()) || unlike.iter().any(takes) {
                return None;
            }
            let covers: Vec<usize> = (0..like.len()).filter(|number| takes(&like[*number])).collect();
            let others = sources.iter().filter(|file| takes(file) && !like.contains(file)).count();
            (!covers.is_empty()).then_some(Candidate { cost: cost(&text), text, pattern, covers, others })
        })
        .collect();
    candidates.sort_by(|a, b| (a.others, a.cost, &a.text).cmp(&(b.others, b.cost, &b.text)));
    let mut fits: Vec<Vec<&Candidate>> = Vec::new();
    for one in candidates.iter().filter(|one| one.covers.len() == like.len()) {
        fits.push(vec![one]);
    }
    fits.extend(cover(&candidates, like.len()));
    let mut found: Vec<(usize, Fit)> = Vec::new();
    for chosen in fits {
        let takes = |file: &RepoPath| chosen.iter().any(|one| one.pattern.matches(file.as_str()));
        let others: Vec<&RepoPath> = sources.iter().filter(|file| takes(file) && !like.contains(file)).collect();
        let patterns: Vec<String> = chosen.iter().map(|one| one.text.clone()).collect();
        let cost: usize = chosen.iter().map(|one| one.cost + 12).sum();
        let examples = others.iter().take(OTHERS_SHOWN).map(|file| (*file).clone()).collect();
        let fit = Fit { patterns, others: others.len(), examples };
        if !found.iter().any(|(_, other)| other.patterns == fit.patterns) {
            found.push((cost, fit));
        }
    }
    // A file taken along is worse than a longer pattern, but not without end: nobody wants a list of names.
    let badness = |(cost, fit): &(usize, Fit)| cost + 4 * (usize::BITS - fit.others.leading_zeros()) as usize;
    found.sort_by(|a, b| badness(a).cmp(&badness(b)).then_with(|| a.1.patterns.cmp(&b.1.patterns)));
    // Of what takes as much, one by the name, one by the folder, and one for all that comes into the folder.
    let mut kinds = FxHashSet::default();
    let kind = |fit: &Fit| {
        let anchored = !fit.patterns.iter().any(|text| text.starts_with("**/"));
        let whole = anchored && fit.patterns.iter().all(|text| text.ends_with("/**"));
        (fit.others, fit.patterns.len(), anchored, whole)
    };
    // The folder that holds them all is always among them.
    let folder = like.iter().map(RepoPath::folder).reduce(|one, other| one.common(&other)).unwrap_or_default();
    let whole = [format!("{}/**", escaped(folder.as_str(), dialect))];
    let whole = found.iter().find(|(_, fit)| fit.patterns == whole).map(|(_, fit)| fit.clone());
    let distinct = found.into_iter().map(|(_, fit)| fit).filter(|fit| kinds.insert(kind(fit)));
    let mut fits: Vec<Fit> = distinct.take(FITS).collect();
    if let Some(whole) = whole.filter(|whole| !fits.contains(whole)) {
        fits.truncate(FITS - 1);
        let at = fits.iter().position(|fit| fit.others > whole.others).unwrap_or(fits.len());
        fits.insert(at, whole);
    }
    fits
}

struct Candidate {
    text: String,
    pattern: Pattern,
    covers: Vec<usize>,
    others: usize,
    cost: usize,
}

/// How hard a pattern is to read.
fn cost(text: &str) -> usize {
    let wild = text.matches(['?', '[', '{']).count();
    // A file's name at any depth says less than its path.
    let loose = text.strip_prefix("**/").is_some_and(|rest| !rest.contains('*'));
    // So does a folder's name: there may be another folder of that name tomorrow.
    let folder = text.strip_prefix("**/").is_some_and(|rest| rest.contains('/'));
    let bare = match text.rsplit('/').next() {
        Some("*") => 4,
        Some("**") => 2,
        _ => 0,
    };
    text.split('/').count() * 2
        + text.chars().count() / 6
        + wild * 6
        + usize::from(loose) * 8
        + usize::from(folder) * 10
        + bare
}

/// Greedy covers of all examples: one that takes as little along as possible, one with few patterns.
fn cover(candidates: &[Candidate], examples: usize) -> Vec<Vec<&Candidate>> {
    let price = [
        |one: &Candidate, fresh: usize| (one.others + 1) * 100 / fresh + one.cost,
        |one: &Candidate, fresh: usize| (one.others + 20) * 10 / (fresh * fresh) + one.cost,
    ];
    price
        .iter()
        .filter_map(|price| {
            let mut left: FxHashSet<usize> = (0..examples).collect();
            let mut chosen = Vec::new();
            while !left.is_empty() {
                let fresh = |one: &Candidate| one.covers.iter().filter(|number| left.contains(number)).count();
                let best = candidates
                    .iter()
                    .filter(|one| fresh(one) > 0)
                    .min_by_key(|one| (price(one, fresh(one)), one.text.clone()))?;
                best.covers.iter().for_each(|number| {
                    left.remove(number);
                });
                chosen.push(best);
            }
            Some(chosen)
        })
        .collect()
}

/// The patterns that a person would write for a file.
fn written_for(file: &RepoPath, like: &[RepoPath], dialect: &Dialect) -> Vec<String> {
    let literal = |text: &str| escaped(text, dialect);
    let name = file.name();
    let mut last: Vec<String> = vec![literal(name), "*".to_owned()];
    // `.test.tsx` as well as `.tsx`.
    last.extend(name.match_indices('.').filter(|(at, _)| *at > 0).map(|(at, _)| format!("*{}", literal(&name[at..]))));
    last.extend(
        shared_affixes(name, like).into_iter().map(|(head, tail)| format!("{}*{}", literal(&head), literal(&tail))),
    );
    let way = file.folder().way();
    let mut written = Vec::new();
    for folder in &way {
        let head = if folder.is_root() { String::new() } else { format!("{}/", literal(folder.as_str())) };
        for name in &last {
            written.push(format!("{head}**/{name}"));
            if *folder == file.folder() {
                // In the root a name alone would be taken at any depth.
                written.push(if head.is_empty() { format!("/{name}") } else { format!("{head}{name}") });
            }
        }
        if !folder.is_root() {
            written.push(format!("{head}**"));
            // The same folder anywhere.
            let anywhere = literal(folder.name());
            written.push(format!("**/{anywhere}/**"));
            written.extend(last.iter().map(|name| format!("**/{anywhere}/**/{name}")));
        }
    }
    // One folder on the way differs from example to example.
    for other in like.iter().filter(|other| other.depth() == file.depth()) {
        let pairs: Vec<(&str, &str)> = file.components().zip(other.components()).collect();
        let differ = pairs[..pairs.len() - 1].iter().filter(|(a, b)| a != b).count();
        if differ == 1 {
            let folders: Vec<String> = pairs[..pairs.len() - 1]
                .iter()
                .map(|(a, b)| if a == b { literal(a) } else { "*".to_owned() })
                .collect();
            written.extend(last.iter().map(|name| format!("{}/{name}", folders.join("/"))));
        }
    }
    // At the front of a pattern `!` would take files out.
    for text in written.iter_mut().filter(|text| dialect.negate && text.starts_with('!')) {
        text.insert(0, '/');
    }
    written
}

/// What a name has in common with other examples' names, front and back.
fn shared_affixes(name: &str, like: &[RepoPath]) -> Vec<(String, String)> {
    let mut found = Vec::new();
    for other in like.iter().map(RepoPath::name).filter(|other| *other != name) {
        let head: String = name.chars().zip(other.chars()).take_while(|(a, b)| a == b).map(|(a, _)| a).collect();
        let tail: Vec<char> =
            name.chars().rev().zip(other.chars().rev()).take_while(|(a, b)| a == b).map(|(a, _)| a).collect();
        let tail: String = tail.into_iter().rev().collect();
        // Words, not letters: `*Page.tsx`, and not `*tPage.tsx`.
        let (head, tail) = (whole_words_before(&head, name), whole_words_behind(&tail, name));
        let shortest = name.len().min(other.len());
        let ending = name.rfind('.').map_or("", |at| &name[at..]);
        if head.len() >= 3 && head.len() + ending.len() <= shortest && tail.ends_with(ending) {
            found.push((head.to_owned(), ending.to_owned()));
        }
        if tail.len() >= ending.len() + 3 && tail.len() < shortest {
            found.push((String::new(), tail.to_owned()));
        }
    }
    found
}

/// Whether a word ends between two letters of a name: `Order|Page`, `order|_page`, `page|.tsx`.
fn is_border(before: char, after: char) -> bool {
    !before.is_alphanumeric()
        || !after.is_alphanumeric()
        || before.is_lowercase() && after.is_uppercase()
        || before.is_numeric() != after.is_numeric()
}

/// The part of a name's beginning that ends with a word.
fn whole_words_before<'h>(head: &'h str, name: &str) -> &'h str {
    let ends = head.char_indices().map(|(at, c)| (at + c.len_utf8(), c)).rev();
    let border =
        |(at, before): &(usize, char)| name[*at..].chars().next().is_none_or(|after| is_border(*before, after));
    let end = ends.into_iter().find(border).map_or(0, |(at, _)| at);
    &head[..end]
}

/// The part of a name's end that begins with a word.
fn whole_words_behind<'t>(tail: &'t str, name: &str) -> &'t str {
    let from = name.len() - tail.len();
    let border = |(at, after): &(usize, char)| {
        name[..from + at].chars().next_back().is_none_or(|before| is_border(before, *after))
    };
    tail.char_indices().find(border).map_or("", |(at, _)| &tail[at..])
}
