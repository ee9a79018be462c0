use super::{place, style_words};
use crate::base::language::oddness;
use crate::base::repo_path::RepoPath;
use crate::check::overlap::Told;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::condition::Condition;
use crate::directive::{About, Claim};
use crate::facts::{Style, StyleFact, StyleValue};
use crate::profile::Reach;
use rustc_hash::FxHashSet;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("facts/style-mismatch", Severity::Warning, include_str!("style_mismatch.toml"));

/// Examples of more zones say nothing new.
const MOST_ZONES: usize = 64;

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    if context.facts.styles.is_empty() {
        return;
    }
    for (directive, own) in text.directives() {
        let claims = own.claims.iter().filter_map(|claim| {
            let (style, value, against) = said(context, claim)?;
            Some((style, value, against, claim.conditions.to_vec()))
        });
        let mut stated: Vec<(Style, StyleValue, bool, Vec<Condition>)> = claims.collect();
        let plain = style_words::plainly(text, directive);
        let plain = plain.filter(|(style, ..)| stated.iter().all(|(known, ..)| known != style));
        stated.extend(plain.map(|(style, value, conditions)| (style, value, false, conditions)));
        for (style, value, against, conditions) in stated {
            if let Some((fact, file)) = mismatch(context, text, style, &value, against, &conditions) {
                let value = match (&fact.value, fact.style) {
                    (StyleValue::Word(word), _) if word == "true" => fact.style.title().to_owned(),
                    (StyleValue::Word(word), _) if word == "false" => format!("no {}", fact.style.title()),
                    (StyleValue::Word(word), Style::Quotes) => format!("{word} quotes"),
                    (StyleValue::Word(word), _) => word.clone(),
                    (number, style) => format!("{} {number}", style.title()),
                };
                let message = format!("{} says {value}{}", place(&fact.source), fact.scope_text());
                let help = "write what the settings say, or leave it to the formatter";
                findings.push(text.finding(&INFO, directive.span.clone(), message).help(help).witness(Some(file)));
                break;
            }
        }
    }
}

/// What a claim says of style.
fn said(context: &Context<'_, '_>, claim: &Claim) -> Option<(Style, StyleValue, bool)> {
    let word = |text: &str| StyleValue::Word(text.to_owned());
    let against = claim.modality.is_against();
    if !claim.modality.is_for() && !against {
        return None;
    }
    match &claim.about {
        About::Choice { family, choice, of } if of.is_empty() => {
            let family = context.families.all.get(usize::from(*family))?;
            let choice = family.choices[usize::from(*choice)].name.as_str();
            Some(match family.name.as_str() {
                "indentation" => (Style::Indentation, word(choice), against),
                "quotes" => (Style::Quotes, word(choice), against),
                "line-endings" => (Style::LineEnding, word(choice), against),
                "semicolons" => (Style::Semicolons, word(if against { "false" } else { "true" }), false),
                "trailing-commas" => (Style::TrailingCommas, word(if against { "false" } else { "true" }), false),
                _ => return None,
            })
        }
        About::Measure { of, low, high } => {
            let style = match &**of {
                "indent-width" => Style::IndentWidth,
                "line-length" => Style::LineLength,
                _ => return None,
            };
            // A bound that a setting does not share is another bound.
            (high.is_finite()).then_some((style, StyleValue::Number(*high), against && low == high))
        }
        _ => None,
    }
}

fn mismatch<'a>(
    context: &'a Context<'_, '_>,
    text: &Text,
    style: Style,
    value: &StyleValue,
    against: bool,
    conditions: &[Condition],
) -> Option<(&'a StyleFact, RepoPath)> {
    if !context.facts.styles.iter().any(|fact| fact.style == style) {
        return None;
    }
    let mut languages: FxHashSet<&str> = FxHashSet::default();
    let mut folders: Vec<RepoPath> = Vec::new();
    for condition in conditions {
        match condition {
            Condition::Language(_) => languages.extend(condition.endings()?),
            Condition::Path(path) => folders.push(RepoPath::new(path)?),
            Condition::Heading(words) => {
                folders.push(RepoPath::new(words).filter(|at| context.project.index.folder(at).is_some())?);
            }
            // When it holds is not known.
            Condition::When(_) | Condition::Unless(_) => return None,
        }
    }
    let wanted = |file: &RepoPath| {
        let ending = || file.name().rsplit('.').next().unwrap_or_default();
        folders.iter().all(|folder| file.is_in(folder)) && (languages.is_empty() || languages.contains(ending()))
    };
    let mut first: Option<(&StyleFact, RepoPath)> = None;
    for id in &text.told {
        let rule = context.rule(*id);
        let zones = &context.survey.zones.zones;
        let examples: Vec<&RepoPath> = match context.overlap.told(*id) {
            Told::In(own) => own.iter().take(MOST_ZONES).map(|zone| &zones[*zone as usize].example).collect(),
            Told::Everywhere => Vec::new(),
        };
        // What is always told is told about any file below; what is scoped has examples of its own, and others only
        // where these are of no kind that is asked about.
        let scoped = rule.reach == Reach::Scoped;
        let enough = scoped && examples.iter().any(|file| wanted(file));
        let samples = if enough { &[][..] } else { context.facts.samples() };
        let below = samples.iter().filter(|file| {
            if scoped { wanted(file) && rule.scope.takes(file) } else { file.below(&rule.scope.below).is_some() }
        });
        for file in examples.into_iter().chain(below).filter(|file| wanted(file)) {
            let Some(fact) = context.facts.style_of(style, file) else { continue };
            // Where a setting agrees for some file, the rule may be meant for that.
            if (fact.value == *value) != against {
                return None;
            }
            if first.as_ref().is_none_or(|(_, known)| oddness(file) < oddness(known)) {
                first = Some((fact, file.clone()));
            }
        }
    }
    first
}
