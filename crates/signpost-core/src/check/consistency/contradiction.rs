use super::quoted;
use crate::base::repo_path::RepoPath;
use crate::check::meaning::{Pair as MeaningPair, Place};
use crate::check::overlap::Crowd;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::clash::clash;
use crate::directive::condition::Condition;
use crate::directive::reading::compare::{Because, Certainty, Kind};
use crate::directive::words::STOP;
use crate::directive::{About, Claim};
use crate::profile::{Conflict, Reach};
use crate::project::rule::Rule;
use crate::project::settled::{Ruling, pair};
use crate::resolve::zones::RuleId;
use rustc_hash::{FxHashMap, FxHashSet};
use std::cell::OnceCell;
use std::collections::BTreeSet;
use std::ops::Range;
use std::rc::Rc;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("consistency/contradiction", Severity::Error, include_str!("contradiction.toml"));

pub(in crate::check) const OVERRIDE: CheckInfo =
    CheckInfo::new("consistency/override", Severity::Note, include_str!("override.toml"));

/// What is said where it stands.
#[derive(Clone, Copy)]
struct Told<'a> {
    text: usize,
    /// The number of the [statement](Text::statement).
    directive: usize,
    /// Under which conditions.
    conditions: &'a [Condition],
}

/// Two directives that contradict each other.
struct Pair<'a> {
    early: Told<'a>,
    late: (RuleId, Told<'a>),
    encounter: Encounter,
}

/// How two rules meet.
#[derive(Clone)]
struct Encounter {
    /// A file that gets both.
    witness: Option<RepoPath>,
    wins: Option<Wins>,
}

/// The one that a profile says to follow.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
enum Wins {
    Later,
    Earlier,
}

/// Claims that say the same of one subject.
struct Class<'a> {
    claim: &'a Claim,
    told: Vec<Told<'a>>,
}

/// More different answers to one question are a list of things, not a question.
const MOST_CLASSES: usize = 256;
/// So many earlier directives are named beside one that contradicts them.
const MOST_RELATED: usize = 4;

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    findings.extend(clashes(context).filter(|one| one.check == INFO.name));
}

pub(in crate::check) fn run_override(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    findings.extend(clashes(context).filter(|one| one.check == OVERRIDE.name));
}

/// What both checks find: it is one question, whose answer depends on who wins.
fn clashes<'a>(context: &'a Context<'_, '_>) -> impl Iterator<Item = Finding> + 'a {
    context.clashes.get_or_init(|| find(context)).iter().cloned()
}

fn find(context: &Context<'_, '_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    let mut subjects: FxHashMap<(u8, &str, u16), Vec<Class<'_>>> = FxHashMap::default();
    for (number, text) in context.texts.iter().enumerate().filter(|(_, text)| takes_part(context, text)) {
        for (directive, said) in text.said.iter().enumerate() {
            for claim in &said.claims {
                let key = match &claim.about {
                    About::Choice { family, .. } => (0, "", *family),
                    About::Measure { of, .. } => (1, &**of, 0),
                    About::Act { key, .. } => (2, &**key, 0),
                };
                let told = Told { text: number, directive, conditions: &claim.conditions };
                let classes = subjects.entry(key).or_default();
                match classes.iter().position(|class| class.claim == claim) {
                    Some(class) => classes[class].told.push(told),
                    None if classes.len() < MOST_CLASSES => classes.push(Class { claim, told: vec![told] }),
                    None => {}
                }
            }
        }
    }
    let (mut known, mut first) = (Known::default(), 0);
    for classes in subjects.into_values() {
        for (number, class) in classes.iter().enumerate() {
            class.told.iter().for_each(|told| known.add(told, first + number));
        }
        // Put together once, however many other classes there are.
        let gathered: Vec<OnceCell<Gathered<'_>>> = classes.iter().map(|_| OnceCell::new()).collect();
        let get = |at: usize| gathered[at].get_or_init(|| Gathered::new(context, &classes[at].told));
        for (at, one) in classes.iter().enumerate() {
            for (other_at, other) in classes.iter().enumerate().skip(at + 1) {
                if clash(&context.families, one.claim, other.claim) && alike(one.claim, other.claim) {
                    known.clashing.insert((first + at, first + other_at));
                    findings.extend(meet(context, get(at), get(other_at)));
                }
            }
        }
        first += classes.len();
    }
    findings.extend(by_meaning(context, &known));
    findings
}

/// What claims have told already.
#[derive(Default)]
struct Known {
    /// The classes of claims of each directive.
    classes: FxHashMap<Place, Vec<usize>>,
    /// Classes that cannot both be followed.
    clashing: FxHashSet<(usize, usize)>,
}

impl Known {
    fn add(&mut self, told: &Told<'_>, class: usize) {
        self.classes.entry(Place { text: told.text, statement: told.directive }).or_default().push(class);
    }

    fn has(&self, one: &Place, other: &Place) -> bool {
        let of = |place: &Place| self.classes.get(place).into_iter().flatten();
        of(one).any(|a| of(other).any(|b| self.clashing.contains(&(*a.min(b), *a.max(b)))))
    }
}

/// What contradicts each other by what it means, in whatever words.
fn by_meaning<'a>(context: &'a Context<'_, '_>, known: &'a Known) -> impl Iterator<Item = Finding> + 'a {
    let meanings = context.meanings();
    let gather = |number: usize| {
        let told = |place: &Place| Told { text: place.text, directive: place.statement, conditions: &[] };
        Gathered::new(context, &meanings.classes[number].places.iter().map(told).collect::<Vec<_>>())
    };
    let mut gathered: FxHashMap<usize, Rc<Gathered<'a>>> = FxHashMap::default();
    let first = |class: usize| meanings.classes[class].places.first();
    let told = move |pair: &MeaningPair| first(pair.one).zip(first(pair.other)).is_some_and(|(a, b)| known.has(a, b));
    let against = move |pair: &&MeaningPair| {
        pair.verdict.kind == Kind::Contradiction
            && pair.verdict.certainty >= Certainty::Likely
            && !pair.is_fine()
            && !told(pair)
    };
    meanings.pairs.iter().filter(against).flat_map(move |pair| {
        let mut get = |number: usize| gathered.entry(number).or_insert_with(|| Rc::new(gather(number))).clone();
        let (one, other) = (get(pair.one), get(pair.other));
        let likely = pair.verdict.certainty == Certainty::Likely;
        meet(context, &one, &other).into_iter().map(move |finding| explained(context, finding, pair).likely(likely))
    })
}

/// With the words that tell: `75 % here, 90 % there`.
fn explained(context: &Context<'_, '_>, mut finding: Finding, pair: &MeaningPair) -> Finding {
    let classes = &context.meanings().classes;
    let said = |class: usize, words: (u32, u32)| {
        let place = classes[class].places.first()?;
        let text = &context.texts[place.text];
        let directive = text.words(text.statement(place.statement));
        told_words(directive, words.0 as usize..words.1 as usize)
    };
    let [one, other] = pair.verdict.words;
    let (Some(one), Some(other)) = (said(pair.one, one), said(pair.other, other)) else { return finding };
    // The finding stands at the later of the two.
    let here = |class: usize| {
        classes[class].places.iter().any(|place| {
            let text = &context.texts[place.text];
            *text.location() == finding.location && text.statement(place.statement).start == finding.span.start
        })
    };
    let (own, others) = if here(pair.one) { (one, other) } else { (other, one) };
    if pair.verdict.because == Because::Decided {
        finding.message += ": somebody decided so";
        return finding;
    }
    let differs = own.to_lowercase() != others.to_lowercase();
    let because = match pair.verdict.because {
        Because::OtherNumber | Because::OtherVersion | Because::OtherChoice | Because::OtherValue if differs => {
            format!(": {own} here, {others} there")
        }
        Because::DeniedChoice | Because::SwappedChoice => format!(": one asks for {own}, the other for something else"),
        Because::Order => ": they turn the order round".to_owned(),
        _ => format!(": one is for it, one against ({own})"),
    };
    finding.message += &because;
    finding
}

/// Some words of a directive, and the unit that follows a number.
fn told_words(directive: &str, span: Range<usize>) -> Option<String> {
    let words = directive.get(span.clone()).filter(|words| !words.is_empty())?;
    let number = words.starts_with(|c: char| c.is_ascii_digit());
    let rest = directive.get(span.end..)?;
    let unit = rest.trim_start().split(|c: char| !c.is_alphanumeric() && c != '%').next().unwrap_or_default();
    let blank = if rest.starts_with(' ') { " " } else { "" };
    let is_unit = number
        && rest.len() - rest.trim_start().len() < 2
        && !unit.is_empty()
        && unit.len() < 12
        && !STOP.contains(&unit);
    Some(if is_unit { format!("{words}{blank}{unit}") } else { words.trim_matches('`').to_owned() })
}

/// Roles are instructions for another conversation.
fn takes_part(context: &Context<'_, '_>, text: &Text) -> bool {
    text.told.iter().any(|id| context.rule(*id).takes_part())
}

/// Whether the conditions of two claims can be the same once those that a scope implies are left out.
fn alike(one: &Claim, other: &Claim) -> bool {
    let situations =
        |claim: &Claim| claim.conditions.iter().filter(|it| !it.is_of_files()).cloned().collect::<Vec<Condition>>();
    situations(one) == situations(other)
}

/// Whether the conditions are the same for files that both rules are about: one that the scope of either
/// implies says nothing there.
fn same_conditions(one: &[Condition], rule: &Rule, other: &[Condition], other_rule: &Rule) -> bool {
    let rest = |conditions: &[Condition]| -> Vec<Condition> {
        let implied = |condition: &Condition| implies(rule, condition) || implies(other_rule, condition);
        conditions.iter().filter(|condition| !implied(condition)).cloned().collect()
    };
    rest(one) == rest(other)
}

/// Whether every file in a rule's scope meets a condition.
fn implies(rule: &Rule, condition: &Condition) -> bool {
    if let Condition::Path(path) = condition {
        let below = rule.scope.below.as_str();
        let path = &**path;
        if below == path || below.strip_prefix(path).is_some_and(|rest| rest.starts_with('/')) {
            return true;
        }
        let starts = |text: &str| text.strip_prefix(path).is_some_and(|rest| rest.starts_with('/'));
        let items = &rule.scope.paths.items;
        return rule.reach == Reach::Scoped
            && rule.scope.base.is_root()
            && !items.is_empty()
            && items.iter().all(|item| starts(&item.text));
    }
    let Some(endings) = condition.endings() else { return false };
    let items = &rule.scope.paths.items;
    let ends = |text: &str| match text.rsplit_once('.') {
        Some((_, last)) => {
            let inner = last.trim_start_matches('{').trim_end_matches('}');
            inner.split(',').all(|one| endings.contains(&one.trim()))
        }
        None => false,
    };
    rule.reach == Reach::Scoped && !items.is_empty() && items.iter().all(|item| ends(&item.text))
}

/// What a class says, rule by rule in the order of rules, and by where it is told.
struct Gathered<'a> {
    said: Vec<(RuleId, Told<'a>)>,
    crowd: Crowd,
    by_rule: FxHashMap<RuleId, Range<usize>>,
}

impl<'a> Gathered<'a> {
    fn new(context: &Context<'_, '_>, told: &[Told<'a>]) -> Self {
        let of = |told: &Told<'a>| -> Vec<(RuleId, Told<'a>)> {
            context.texts[told.text].told.iter().map(|id| (*id, *told)).collect()
        };
        let mut said: Vec<(RuleId, Told<'a>)> = told.iter().flat_map(of).collect();
        said.sort_by_key(|(id, told)| (*id, told.directive));
        let (mut crowd, mut by_rule) = (Crowd::default(), FxHashMap::<RuleId, Range<usize>>::default());
        for (number, (id, _)) in said.iter().enumerate() {
            // Of one rule the first few are enough to name.
            let own = by_rule.entry(*id).or_insert(number..number);
            own.end = number + 1;
            if own.len() <= MOST_RELATED {
                crowd.add(&context.overlap, *id, number);
            }
        }
        Gathered { said, crowd, by_rule }
    }

    /// The rules that may be told where a rule is, in order, itself among them.
    fn rules_beside(&self, context: &Context<'_, '_>, id: RuleId) -> BTreeSet<RuleId> {
        let others = self.crowd.partners(&context.overlap, id).into_iter().map(|number| self.said[number].0);
        others.chain(self.by_rule.contains_key(&id).then_some(id)).collect()
    }
}

/// Finds where claims of two classes meet, and says so at the later one of each pair.
fn meet(context: &Context<'_, '_>, one: &Gathered<'_>, other: &Gathered<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    for (late, early) in [(one, other), (other, one)] {
        for own in late.said.chunk_by(|(id, _), (next, _)| id == next) {
            let (id, first) = own[0];
            // Whether two rules meet is asked once, however much they say.
            let rules = early.rules_beside(context, id).into_iter().filter(|earlier| earlier.rule <= id.rule);
            let beside: Vec<_> = rules
                .filter_map(|earlier| {
                    let said = &early.said[early.by_rule[&earlier].clone()];
                    Some((said, encounter(context, (earlier, said[0].1), (id, first))?))
                })
                .collect();
            for (_, told) in own {
                findings.extend(contradicted(context, &beside, id, *told).iter().map(|pairs| finding(context, pairs)));
            }
        }
    }
    findings
}

/// What one rule says of a class, and how it meets another rule.
type Beside<'s, 'a> = (&'s [(RuleId, Told<'a>)], Encounter);

/// The directives that a later one contradicts, a few for each answer to who wins.
fn contradicted<'a>(
    context: &Context<'_, '_>,
    beside: &[Beside<'_, 'a>],
    id: RuleId,
    late: Told<'a>,
) -> Vec<Vec<Pair<'a>>> {
    let mut found: Vec<Vec<Pair<'a>>> = Vec::new();
    for (said, encounter) in beside {
        // In a rule of its own, only what stands above it.
        let earlier = said.iter().take_while(|(rule, told)| *rule != id || told.directive < late.directive);
        let earlier = earlier.filter(|(_, early)| !is_fine(context, early, &late));
        for (_, early) in earlier.take(MOST_RELATED) {
            let pair = Pair { early: *early, late: (id, late), encounter: encounter.clone() };
            match found.iter_mut().find(|pairs| pairs[0].encounter.wins == encounter.wins) {
                Some(pairs) if pairs.len() < MOST_RELATED => pairs.push(pair),
                Some(_) => break,
                None => found.push(vec![pair]),
            }
        }
    }
    found
}

/// Whether somebody decided that both can be followed.
fn is_fine(context: &Context<'_, '_>, one: &Told<'_>, other: &Told<'_>) -> bool {
    if context.settled.settled.is_empty() {
        return false;
    }
    let words =
        |told: &Told<'_>| context.texts[told.text].statements().nth(told.directive).map(|own| own.words.clone());
    let (Some(one), Some(other)) = (words(one), words(other)) else { return false };
    context.settled.ruling(&pair(&one, &other)) == Some(Ruling::Fine)
}

/// How two rules that say otherwise meet, the earlier one first; `None` where no file gets both, or not of the same things.
fn encounter(context: &Context<'_, '_>, one: (RuleId, Told<'_>), other: (RuleId, Told<'_>)) -> Option<Encounter> {
    let ((a, first), (b, second)) = (one, other);
    // A file that is read in two places is one text.
    if a.assistant != b.assistant || first.text == second.text && a != b {
        return None;
    }
    // Of two published files the guidance's rules say it.
    if context.texts[first.text].published && context.texts[second.text].published {
        return None;
    }
    if !same_conditions(first.conditions, context.rule(a), second.conditions, context.rule(b)) {
        return None;
    }
    // Where no source file is told both there is nothing that either could be broken on.
    let witness = Some(context.overlap.of(context.survey, a, b)??);
    Some(Encounter { witness, wins: wins(context, a, b) })
}

/// Which of two rules wins where the profile says so, one of the two being nearer than the other.
fn wins(context: &Context<'_, '_>, one: RuleId, other: RuleId) -> Option<Wins> {
    let place = |id: RuleId| (context.rule(id).level, context.rule(id).found.anchor.path.depth());
    if place(one) == place(other) {
        return None;
    }
    match context.profile(one).conflict {
        Conflict::LaterWins => Some(Wins::Later),
        Conflict::EarlierWins => Some(Wins::Earlier),
        Conflict::Unstated => None,
    }
}

/// What is said of a later directive and the earlier ones that it contradicts.
fn finding(context: &Context<'_, '_>, pairs: &[Pair<'_>]) -> Finding {
    let Pair { early, late: (id, late), encounter: Encounter { witness, wins } } = &pairs[0];
    // A published file is not where it is mended.
    let swapped = context.texts[late.text].published;
    let (early, late) = if swapped { (late, early) } else { (early, late) };
    let wins = &match wins {
        Some(Wins::Later) if swapped => Some(Wins::Earlier),
        Some(Wins::Earlier) if swapped => Some(Wins::Later),
        other => *other,
    };
    let place_of = |told: &Told<'_>| {
        let text = &context.texts[told.text];
        (text, text.statement(told.directive).clone())
    };
    let ((text, span), (first, first_span)) = (place_of(late), place_of(early));
    let words = quoted(first.words(&first_span));
    let place = if late.text == early.text { "above".to_owned() } else { format!("in {}", first.location()) };
    let (info, message, help) = match wins {
        Some(Wins::Later) => (
            &OVERRIDE,
            format!("this overrides {words} {place}"),
            "nothing to do, if that is meant: the later one wins",
        ),
        Some(Wins::Earlier) => (
            &OVERRIDE,
            format!("this does not count beside {words} {place}"),
            "nothing to do, if that is meant: the earlier one wins",
        ),
        None => (
            &INFO,
            format!("this and {words} {place} cannot both be followed"),
            "decide which one holds, or say for which files each does",
        ),
    };
    let name = &context.profile(*id).name;
    let finding = Finding::new(info, text.location().clone(), span, message).help(help).for_assistant(name);
    let others = pairs.iter().take(MOST_RELATED).map(|pair| place_of(if swapped { &pair.late.1 } else { &pair.early }));
    let finding =
        others.fold(finding, |finding, (text, span)| finding.related(text.location(), span, "this says otherwise"));
    finding.witness(witness.clone())
}
