use super::place;
use crate::check::text::mention::is_denied;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::measure::{version, version_value, versioned};
use crate::directive::words::{Sep, Word, words};
use crate::facts::VersionFact;
use crate::facts::version::Span;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "facts/version-mismatch",
    severity: Severity::Warning,
    finds: "A version that a rule names and that is not the one that the repository states.",
    why: "The assistant writes for the version that it is told: it leaves out what has long been there, or uses what is \
          not there any more.",
    mend: "Write the version that is stated, or none: the assistant can look it up.",
    bad: "- We are on Node 18.   (.nvmrc says 20.11.0)\n",
    good: "- The version of Node is in .nvmrc.\n",
};

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
            if let Some(fact) = disagrees(context, &one) {
                let words = text.words(&one.span).trim_matches('`').to_owned();
                let message = format!("{words}, but {} says {}", place(&fact.source), fact.text);
                let help = format!("write {}, or leave it to {}", fact.text, fact.source.file);
                findings.push(text.finding(&INFO, one.span, message).help(help));
            }
        }
    }
}

fn versions(context: &Context<'_, '_>, all: &[Word]) -> Vec<Said> {
    let mut found = Vec::new();
    for (at, word) in all.iter().enumerate() {
        let history = all[at.saturating_sub(3)..at].iter().any(|word| word.is(HISTORY));
        if history {
            continue;
        }
        // `react@17`, `node 18`, `sqlx = "0.7"` as code.
        if word.code {
            let parts: Vec<&str> = word.low.split(['@', ' ', '=', '"', '\'']).filter(|part| !part.is_empty()).collect();
            if let [name, stated] = parts[..]
                && let Some((parts, later)) = version(stated)
                && let Some(of) = named(context, &name.to_lowercase(), true)
            {
                found.push(Said {
                    of,
                    parts,
                    at_least: later || stated.starts_with('^'),
                    minimum: false,
                    span: word.span.clone(),
                });
                continue;
            }
        }
        let low = word.low.to_lowercase();
        let msrv = low == "msrv";
        // `Rust 2021`, and `2021 edition`.
        if matches!(low.as_str(), "2015" | "2018" | "2021" | "2024")
            && all.get(at + 1).is_some_and(|next| next.is(&["edition"]))
        {
            if let Some((parts, _)) = version(&low) {
                found.push(Said {
                    of: "edition".into(),
                    parts,
                    at_least: false,
                    minimum: false,
                    span: word.span.start..all[at + 1].span.end,
                });
            }
            continue;
        }
        let Some(of) = (if msrv {
            Some("rust".to_owned())
        } else {
            named(context, &low, word.code || word.capital || low == "edition")
        }) else {
            continue;
        };
        let mut next = at + 1;
        while next < all.len() && next < at + 5 && all[next].is(BETWEEN) && all[next].sep <= Sep::Colon {
            next += 1;
        }
        let Some(stated) = all.get(next).filter(|stated| stated.sep <= Sep::Colon) else {
            continue;
        };
        let Some((parts, later)) = version(&stated.low) else { continue };
        let digits = stated.low.trim_start_matches('v').starts_with(|c: char| c.is_ascii_digit());
        let unit = all.get(next + 1).is_some_and(|after| {
            after.sep == Sep::None
                && after.is(&[
                    "space", "spaces", "character", "characters", "lines", "line", "files", "tests", "years", "times",
                    "packages", "services", "crates", "modules", "seconds", "minutes", "workers", "instances",
                    "components", "hooks", "%",
                ])
        });
        if !digits || unit || stated.low.ends_with('%') {
            continue;
        }
        // A bare number after a package's name is seldom its version, unless the name is well known.
        if parts.len() == 1
            && versioned(&low).is_none()
            && !msrv
            && !all[at + 1..next].iter().any(|word| word.is(&["version", "v"]))
            && !stated.low.starts_with('v')
        {
            continue;
        }
        let (of, parts) = if of == "rust" && matches!(parts[..], [2015 | 2018 | 2021 | 2024]) {
            ("edition".to_owned(), parts)
        } else {
            (of, parts)
        };
        let follows: Vec<&str> = all[next + 1..].iter().take(2).map(|word| word.low.as_str()).collect();
        let or_later = matches!(follows[..], ["or" | "and", "later" | "newer" | "higher" | "above" | "up" | "greater"]);
        let between = &all[at + 1..next];
        let before = &all[at.saturating_sub(3)..at];
        let least = between.iter().chain(before).any(|word| word.is(&["least", ">=", "minimum", "min", ">"]));
        if between.iter().any(|word| word.is(&["<", "<="]))
            || matches!(follows[..], ["or", "earlier" | "older" | "lower" | "below"])
        {
            continue;
        }
        // Two versions of one thing are a choice.
        let several = matches!(follows[..], ["and" | "or" | "to", other] if version(other).is_some());
        if several {
            continue;
        }
        found.push(Said {
            of,
            parts,
            at_least: later || or_later || least || msrv,
            minimum: msrv,
            span: word.span.start..stated.span.end,
        });
    }
    found
}

/// The name in manifests of what a word names.
fn named(context: &Context<'_, '_>, word: &str, marked: bool) -> Option<String> {
    if marked && let Some(known) = versioned(word) {
        return Some(known.to_owned());
    }
    let dependency = |name: &str| context.facts.manifests.iter().any(|one| one.dependencies.contains_key(name));
    (word.len() > 2 && dependency(word)).then(|| word.to_owned())
}

/// The fact that a version is against; none where any agrees, or nothing is stated.
fn disagrees(context: &Context<'_, '_>, said: &Said) -> Option<VersionFact> {
    let mut facts = context.facts.versions_of(&said.of);
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
