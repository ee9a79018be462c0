use super::{meeting, quoted};
use crate::check::meaning::Pair;
use crate::check::overlap::Crowd;
use crate::check::text::items;
use crate::check::text::not_listed;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::reading::compare::{Certainty, Kind};
use crate::resolve::zones::RuleId;
use rustc_hash::FxHashMap;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("consistency/repeated", Severity::Warning, include_str!("repeated.toml"));

/// Shorter directives are too common to mean anything.
const FEWEST_WORDS: usize = 3;

#[derive(Clone, Copy)]
struct Told {
    text: usize,
    directive: usize,
    id: RuleId,
}

/// Words, their conditions, and the assistant that is told them.
type Said<'a> = (&'a str, &'a [Box<str>], usize);

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let mut by_key: FxHashMap<Said<'_>, Vec<Told>> = FxHashMap::default();
    for (number, text) in context.texts.iter().enumerate().filter(|(_, text)| !text.published) {
        for (directive, one) in text.outline.directives.iter().enumerate() {
            if one.words.split(' ').count() < FEWEST_WORDS {
                continue;
            }
            for id in text.told.iter().filter(|id| context.rule(**id).takes_part()) {
                let told = Told { text: number, directive, id: *id };
                by_key.entry((&one.words, &one.conditions, id.assistant)).or_default().push(told);
            }
        }
    }
    let most = context.most_findings();
    let mut listed = FxHashMap::default();
    let mut number_of = vec![0; context.texts.len()];
    for (finding, text) in by_meaning(context) {
        number_of[text] += 1;
        findings.extend((number_of[text] <= most).then_some(finding));
    }
    for mut told in by_key.into_values().filter(|told| told.len() > 1) {
        told.sort_by_key(|one| (one.id, one.directive));
        let mut crowd = Crowd::default();
        let mut last_in: FxHashMap<usize, usize> = FxHashMap::default();
        for (at, again) in told.iter().enumerate() {
            let mut partners: Vec<usize> = last_in.get(&again.text).copied().into_iter().collect();
            partners.extend(crowd.partners(&context.overlap, again.id));
            let meets = partners.into_iter().find_map(|first| {
                let first = told[first];
                let copies =
                    first.text != again.text && same_text(&context.texts[first.text], &context.texts[again.text]);
                let witness = context.overlap.of(context.survey, first.id, again.id)?;
                (!copies).then_some((first, witness))
            });
            let many = &mut number_of[again.text];
            *many += usize::from(meets.is_some());
            if let Some((first, witness)) = meets.filter(|_| *many <= most) {
                findings.push(
                    finding(context, first, *again, &mut listed).witness(witness.filter(|_| first.text != again.text)),
                );
            }
            crowd.add(&context.overlap, again.id, at);
            last_in.entry(again.text).or_insert(at);
        }
    }
    for (text, number) in context.texts.iter().zip(number_of).filter(|(_, number)| *number > most) {
        findings.push(not_listed(&INFO, text, number - most));
    }
}

/// What says the same in other words, with the number of the text that says it again.
fn by_meaning(context: &Context<'_, '_>) -> Vec<(Finding, usize)> {
    let meanings = context.meanings();
    let same = |pair: &&Pair| {
        pair.verdict.kind == Kind::Same && pair.verdict.certainty >= Certainty::Likely && !pair.is_fine()
    };
    let mut found = Vec::new();
    for pair in meanings.pairs.iter().filter(same) {
        let places = |class: usize| meanings.classes[class].places.iter().take(MOST_PLACES);
        let met = places(pair.one)
            .find_map(|one| places(pair.other).find_map(|other| Some((*one, *other, meeting(context, *one, *other)?))));
        let Some((one, other, (id, witness))) = met else { continue };
        let (first, again) = (one.min(other), one.max(other));
        let (text, first_text) = (&context.texts[again.text], &context.texts[first.text]);
        let span = first_text.statement(first.statement).clone();
        let place = if first.text == again.text { "above".to_owned() } else { format!("in {}", first_text.location()) };
        let likely = pair.verdict.certainty == Certainty::Likely;
        let message = format!("this says in other words what {} {place} says", quoted(first_text.words(&span)));
        let finding = Finding::new(&INFO, text.location().clone(), text.statement(again.statement).clone(), message)
            .help("keep the one whose scope is right, and delete the other")
            .for_assistant(&context.profile(id).name)
            .related(first_text.location(), span, "said here first")
            .witness(witness.filter(|_| first.text != again.text))
            .likely(likely);
        found.push((finding, again.text));
    }
    found
}

/// So many places of the same words are tried.
const MOST_PLACES: usize = 8;

/// Whole files that are the same are `place/loaded-twice`.
fn same_text(one: &Text, other: &Text) -> bool {
    one.text()[one.body..].trim() == other.text()[other.body..].trim()
}

/// `listed` remembers the list items of each text.
fn finding(
    context: &Context<'_, '_>,
    first: Told,
    again: Told,
    listed: &mut FxHashMap<usize, Vec<items::Item>>,
) -> Finding {
    let (text, first_text) = (&context.texts[again.text], &context.texts[first.text]);
    let span = |text: &Text, told: Told| text.outline.directives[told.directive].span.clone();
    let same_file = first.text == again.text;
    let where_ = if same_file { "in this file".to_owned() } else { format!("in {}", first_text.location()) };
    let message = format!("this is said already {where_}");
    let own = span(text, again);
    let name = &context.profile(again.id).name;
    let mut finding = Finding::in_rule(&INFO, name, context.rule(again.id), own.clone(), message)
        .help("keep the one whose scope is right, and delete the other")
        .related(first_text.location(), span(first_text, first), "said here first");
    if same_file {
        let items = listed.entry(again.text).or_insert_with(|| items::items(text.text(), text.body));
        if let Some(lines) = items::removable(text.text(), items, &own, &span(first_text, first)) {
            finding = finding.edit(lines, "");
        }
    }
    finding
}
