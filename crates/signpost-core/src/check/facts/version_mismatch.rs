use super::{own_folder, place};
use crate::check::text::mention::is_denied;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::measure::{version, version_value, versioned};
use crate::directive::words::{Sep, Word, words};
use crate::facts::version::Span;
use crate::facts::{VersionFact, nearest_for};
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("facts/version-mismatch", Severity::Warning, include_str!("version_mismatch.toml"));

/// A version that a text names.
struct Said {
    of: String,
    parts: Vec<u64>,
    at_least: bool,
    /// Only what a manifest asks for at least counts.
    minimum: bool,
    span: Range<usize>,
}

/// Words before a version that make it one of another time.
const HISTORY: &[&str] = &[
    "since", "until", "before", "from", "prior", "upgrade", "upgraded", "migrate", "migrated", "migrating",
    "migration", "upgrading", "introduced", "deprecated", "removed", "older", "dropped", "drop", "legacy", "unlike",
    "not", "was", "were", "instead", "than", "till", "after", "pre", "post", "old", "e.g", "added", "next", "future",
    "plan", "planned", "to",
];
/// Names that are written small and mean nothing else.
const UNMARKED: &[&str] =
    &["edition", "npm", "pnpm", "yarn", "postgres", "postgresql", "node.js", "go_router", "terraform"];
/// Words between a name and its version.
const BETWEEN: &[&str] = &[
    "version", "versions", "v", "is", "at", "least", "on", ">=", "minimum", "release", "runtime", "lts", "=", "the",
    "must", "be",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for directive in &text.outline.directives {
        let said = text.words(&directive.span);
        if !said.bytes().any(|byte| byte.is_ascii_digit()) {
            continue;
        }
        let all = words(text.text(), directive.span.clone());
        for one in versions(context, &all) {
            if is_denied(text, one.span.start) {
                continue;
            }
            if let Some(fact) = disagrees(context, text, &one) {
                let words = text.words(&one.span).trim_matches('`').to_owned();
                let message = format!("{words}, but {} says {}", place(&fact.source), fact.text);
                let help = format!("write {}, or leave it to {}", fact.text, fact.source.file);
                findings.push(text.finding(&INFO, one.span, message).help(help));
            }
        }
    }
}

fn versions(context: &Context<'_, '_>, all: &[Word]) -> Vec<Said> {
    // `Pinned to Rust 1.79` is of today.
    let pinned = |at: usize| {
        at > 1 && all[at - 1].is(&["to"]) && all[at - 2].is(&["pinned", "set", "fixed", "locked", "restricted"])
    };
    let of_today = |at: usize| pinned(at) || !all[at.saturating_sub(3)..at].iter().any(|word| word.is(HISTORY));
    let found = (0..all.len())
        .filter(|at| of_today(*at))
        .filter_map(|at| in_code(context, &all[at]).or_else(|| stated(context, all, at)))
        .collect::<Vec<Said>>();
    // Two versions of one thing are a choice, or a list.
    let counts: Vec<usize> = found.iter().map(|one| found.iter().filter(|other| other.of == one.of).count()).collect();
    found.into_iter().zip(counts).filter(|(_, count)| *count == 1).map(|(one, _)| one).collect()
}

/// `react@17`, `node 18`, `sqlx = "0.7"` as code.
fn in_code(context: &Context<'_, '_>, word: &Word) -> Option<Said> {
    if !word.code {
        return None;
    }
    let parts: Vec<&str> = word.low.split(['@', ' ', '=', '"', '\'']).filter(|part| !part.is_empty()).collect();
    let [name, stated] = parts[..] else { return None };
    let (parts, later) = version(stated)?;
    let of = named(context, &name.to_lowercase(), true)?;
    let at_least = later || stated.starts_with('^');
    Some(Said { of, parts, at_least, minimum: false, span: word.span.clone() })
}

/// `Node 18`, `Python version 3.11 or later`, `MSRV: 1.85`.
fn stated(context: &Context<'_, '_>, all: &[Word], at: usize) -> Option<Said> {
    let word = &all[at];
    let low = word.low.to_lowercase();
    if matches!(low.as_str(), "2015" | "2018" | "2021" | "2024") && all.get(at + 1)?.is(&["edition"]) {
        let (parts, _) = version(&low)?;
        let span = word.span.start..all[at + 1].span.end;
        return Some(Said { of: "edition".into(), parts, at_least: false, minimum: false, span });
    }
    // `C++17`, `JDK17`
    let glued =
        low.strip_prefix("c++").filter(|rest| rest.len() == 2 && rest.bytes().all(|byte| byte.is_ascii_digit()));
    if let Some(number) = glued {
        let (parts, _) = version(number)?;
        return Some(Said { of: "c++".into(), parts, at_least: false, minimum: false, span: word.span.clone() });
    }
    let msrv = low == "msrv";
    let of = match msrv {
        true => "rust".to_owned(),
        false => named(context, &low, word.code || word.capital || UNMARKED.contains(&low.as_str()))?,
    };
    let between = all[at + 1..].iter().take(4).take_while(|word| word.is(BETWEEN) && word.sep <= Sep::Colon).count();
    let next = at + 1 + between;
    let number = all.get(next).filter(|number| number.sep <= Sep::Colon)?;
    let (parts, later) = version(&number.low)?;
    let (between, after) = (&all[at + 1..next], &all[next + 1..]);
    if counts_something(number, after) {
        return None;
    }
    // A bare number after a package's name is seldom its version, unless the name is well known.
    let spelled = between.iter().any(|word| word.is(&["version", "v"])) || number.low.starts_with('v');
    if parts.len() == 1 && versioned(&low).is_none() && !msrv && !spelled {
        return None;
    }
    let follows: Vec<&str> = after.iter().take(2).map(|word| word.low.as_str()).collect();
    let bounded = between.iter().any(|word| word.is(&["<", "<="]))
        || matches!(follows[..], ["or", "earlier" | "older" | "lower" | "below"]);
    // Two versions of one thing are a choice.
    let several = matches!(follows[..], ["and" | "or" | "to", other] if version(other).is_some());
    if bounded || several {
        return None;
    }
    let or_later = matches!(follows[..], ["or" | "and", "later" | "newer" | "higher" | "above" | "up" | "greater"]);
    let least = between.iter().chain(&all[at.saturating_sub(3)..at]);
    let at_least =
        later || or_later || msrv || least.into_iter().any(|word| word.is(&["least", ">=", "minimum", "min", ">"]));
    let edition = of == "rust" && matches!(parts[..], [2015 | 2018 | 2021 | 2024]);
    let of = if edition { "edition".to_owned() } else { of };
    Some(Said { of, parts, at_least, minimum: msrv, span: word.span.start..number.span.end })
}

/// Whether a number says how many of something, or is none at all.
fn counts_something(number: &Word, after: &[Word]) -> bool {
    let unit = after.first().is_some_and(|after| {
        after.sep == Sep::None
            && after.is(&[
                "space", "spaces", "character", "characters", "lines", "line", "files", "tests", "years", "times",
                "packages", "services", "crates", "modules", "seconds", "minutes", "workers", "instances",
                "components", "hooks", "%",
            ])
    });
    let digits = number.low.trim_start_matches('v').starts_with(|c: char| c.is_ascii_digit());
    !digits || unit || number.low.ends_with('%')
}

/// The name in manifests of what a word names.
fn named(context: &Context<'_, '_>, word: &str, marked: bool) -> Option<String> {
    if marked && let Some(known) = versioned(word) {
        // `junit-jupiter` is a part of `org.junit.jupiter:junit-jupiter`.
        let whole = |name: &&String| name.rsplit(':').next() == Some(known);
        let names = context.facts.manifests.iter().flat_map(|one| one.dependencies.keys());
        return Some(names.into_iter().find(whole).cloned().unwrap_or_else(|| known.to_owned()));
    }
    let dependency = |name: &str| context.facts.manifests.iter().any(|one| one.dependencies.contains_key(name));
    let stated = |name: &str| context.facts.versions.iter().any(|fact| fact.of == name);
    (word.len() > 2 && dependency(word) || marked && stated(word)).then(|| word.to_owned())
}

/// The fact that a version is against; none where any agrees, or nothing is stated.
fn disagrees(context: &Context<'_, '_>, text: &Text, said: &Said) -> Option<VersionFact> {
    let all = context.facts.versions_of(&said.of);
    let here = own_folder(text);
    let mut facts: Vec<VersionFact> =
        nearest_for(all.iter(), &here, |fact| &fact.source.file).into_iter().cloned().collect();
    if said.minimum {
        facts.retain(|fact| fact.span.is_open());
    } else if facts.iter().any(|fact| fact.exact) {
        facts.retain(|fact| fact.exact);
    }
    let whole = Span { low: version_value(&said.parts, 0), high: version_value(&said.parts, 99_999) };
    let agrees = |fact: &VersionFact| {
        if !said.at_least {
            return whole.meets(&fact.span);
        }
        // Two lower bounds agree when they are the same; anything else has to lie above.
        if fact.span.is_open() {
            (whole.low..=whole.high).contains(&fact.span.low)
        } else {
            fact.span.high >= whole.low
        }
    };
    if facts.iter().any(agrees) { None } else { facts.into_iter().next() }
}
