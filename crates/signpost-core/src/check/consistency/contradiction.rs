use super::quoted;
use crate::check::meeting::Crowd;
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::condition::endings;
use crate::directive::{About, Claim, Modality};
use crate::profile::{Conflict, Reach};
use crate::rule::Rule;
use crate::zone::RuleId;
use rustc_hash::{FxHashMap, FxHashSet};

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "consistency/contradiction",
    severity: Severity::Error,
    finds: "Two directives that an assistant is told about the same file and cannot both follow.",
    why: "The assistant follows one of the two, and not always the same one. Whoever reads its work sees a rule broken, \
          writes it down once more, louder, and makes it worse.",
    mend: "Decide which one holds. Where each holds for other files, say so in its scope or in its words.",
    bad: "AGENTS.md:        - Indent with tabs.\nnotes/kiosk.md:   - Use two spaces for indentation.\n",
    good: "notes/rust.md (covers: \"*.rs\"):   - Indent with tabs.\nnotes/kiosk.md (covers: \"*.ts\"):  - Use two \
           spaces for indentation.\n",
};

pub(in crate::check) const OVERRIDE: CheckInfo = CheckInfo {
    name: "consistency/override",
    severity: Severity::Note,
    finds: "A directive that contradicts one from farther away, where the assistant says which of the two wins.",
    why: "That is often meant so: the nearer file knows better. It is worth knowing all the same, since the other one \
          still costs its tokens and its author may not know that it does not count here.",
    mend: "Nothing, if it is meant. Else change one of the two.",
    bad: "AGENTS.md:        - Use npm.\nkiosk/AGENTS.md:  - Use pnpm.\n",
    good: "AGENTS.md:        - Use npm outside of kiosk/.\nkiosk/AGENTS.md:  - Use pnpm.\n",
};

/// A claim where it stands.
#[derive(Clone, Copy)]
struct Told<'a> {
    text: usize,
    directive: usize,
    claim: &'a Claim,
}

/// The rule of the earlier one, that one, and the later one.
type Pair<'a> = (RuleId, Told<'a>, Told<'a>);

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
    find(context, findings, false);
}

pub(in crate::check) fn run_override(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    find(context, findings, true);
}

fn find(context: &Context<'_, '_>, findings: &mut Vec<Finding>, overrides: bool) {
    let mut subjects: FxHashMap<(u8, &str, u16), Vec<Class<'_>>> = FxHashMap::default();
    for (number, text) in context.texts.iter().enumerate().filter(|(_, text)| takes_part(context, text)) {
        for (directive, one) in text.outline.directives.iter().enumerate() {
            for claim in &one.claims {
                let key = match &claim.about {
                    About::Choice { family, .. } => (0, "", *family),
                    About::Measure { of, .. } => (1, &**of, 0),
                    About::Act { key, .. } => (2, &**key, 0),
                };
                let told = Told { text: number, directive, claim };
                let classes = subjects.entry(key).or_default();
                match classes.iter().position(|class| class.claim == claim) {
                    Some(class) => classes[class].told.push(told),
                    None if classes.len() < MOST_CLASSES => classes.push(Class { claim, told: vec![told] }),
                    None => {}
                }
            }
        }
    }
    let mut said: FxHashSet<(RuleId, usize, RuleId, usize)> = FxHashSet::default();
    for classes in subjects.into_values() {
        for (at, one) in classes.iter().enumerate() {
            // Put together once, however many other classes there are.
            let mut gathered: Option<Gathered> = None;
            for other in &classes[at + 1..] {
                if conflict(context, one.claim, other.claim) && alike(one.claim, other.claim) {
                    let gathered = gathered.get_or_insert_with(|| Gathered::new(context, one));
                    meet(context, one, gathered, other, overrides, &mut said, findings);
                }
            }
        }
    }
}

/// Roles are instructions for another conversation.
fn takes_part(context: &Context<'_, '_>, text: &Text) -> bool {
    !text.published && text.told.iter().any(|id| context.rule(*id).takes_part())
}

/// Whether two claims about one subject cannot both be followed.
fn conflict(context: &Context<'_, '_>, one: &Claim, other: &Claim) -> bool {
    let (a, b) = (one.modality, other.modality);
    let against = |allowed: Modality, denied: Modality| {
        allowed.is_for() && denied.is_against() || allowed == Modality::Allow && denied == Modality::Forbid
    };
    let opposed = against(a, b) || against(b, a);
    let both_for = a.is_for() && b.is_for();
    match (&one.about, &other.about) {
        (About::Choice { family, choice, of }, About::Choice { choice: other, of: other_of, .. }) => {
            let things = context.families.all.get(usize::from(*family)).is_some_and(|family| family.things);
            let shared = if things && !(of.is_empty() && other_of.is_empty()) {
                of.iter().any(|thing| other_of.contains(thing))
            } else {
                of == other_of
            };
            shared && if choice == other { opposed } else { both_for }
        }
        (About::Measure { low, high, .. }, About::Measure { low: other_low, high: other_high, .. }) => {
            let disjoint = high < other_low || other_high < low;
            let exact = low == high && other_low == other_high;
            both_for && disjoint || exact && low == other_low && opposed
        }
        (About::Act { side, .. }, About::Act { side: other, .. }) => match (side, other) {
            (Some(side), Some(other)) if side != other => both_for,
            _ => side == other && opposed,
        },
        _ => false,
    }
}

/// Whether the conditions of two claims can be the same once those that a scope implies are left out.
fn alike(one: &Claim, other: &Claim) -> bool {
    let rest = |claim: &Claim| -> Vec<Box<str>> {
        claim.conditions.iter().filter(|one| !one.starts_with("lang:") && !one.starts_with("path:")).cloned().collect()
    };
    rest(one) == rest(other)
}

/// Whether the conditions are the same for files that both rules are about: one that the scope of either
/// implies says nothing there.
fn same_conditions(one: &Claim, rule: &Rule, other: &Claim, other_rule: &Rule) -> bool {
    let rest = |claim: &Claim| -> Vec<Box<str>> {
        let implied = |condition: &str| implies(rule, condition) || implies(other_rule, condition);
        claim.conditions.iter().filter(|one| !implied(one)).cloned().collect()
    };
    rest(one) == rest(other)
}

/// Whether every file in a rule's scope meets a condition.
fn implies(rule: &Rule, condition: &str) -> bool {
    if let Some(path) = condition.strip_prefix("path:") {
        let below = rule.scope.below.as_str();
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
    let Some(endings) = endings(condition) else { return false };
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

/// A class by where it is told and by text.
struct Gathered {
    crowd: Crowd,
    by_text: FxHashMap<usize, Vec<usize>>,
}

impl Gathered {
    fn new(context: &Context<'_, '_>, class: &Class<'_>) -> Self {
        let mut gathered = Gathered { crowd: Crowd::default(), by_text: FxHashMap::default() };
        for (number, told) in class.told.iter().enumerate() {
            gathered.by_text.entry(told.text).or_default().push(number);
            for id in &context.texts[told.text].told {
                gathered.crowd.add(&context.meeting, *id, number);
            }
        }
        gathered
    }
}

/// Finds where claims of two classes meet, and says so at the later one of each pair.
fn meet(
    context: &Context<'_, '_>,
    one: &Class<'_>,
    gathered: &Gathered,
    other: &Class<'_>,
    overrides: bool,
    said: &mut FxHashSet<(RuleId, usize, RuleId, usize)>,
    findings: &mut Vec<Finding>,
) {
    // For each later directive, the earlier ones that it contradicts.
    let mut found: FxHashMap<(RuleId, usize), Vec<Pair<'_>>> = FxHashMap::default();
    let mut order: Vec<(RuleId, usize)> = Vec::new();
    for told in &other.told {
        for id in &context.texts[told.text].told {
            let mut partners = gathered.crowd.partners(&context.meeting, *id);
            partners.extend(gathered.by_text.get(&told.text).into_iter().flatten());
            partners.sort_unstable();
            partners.dedup();
            for partner in partners {
                let first = one.told[partner];
                let same_directive = first.text == told.text && first.directive == told.directive;
                let own = context.texts[first.text].told.iter().filter(|other| other.assistant == id.assistant);
                for first_id in own {
                    let same_file = first.text == told.text;
                    if same_directive || same_file && first_id != id {
                        continue;
                    }
                    let (a, b) = (context.rule(*first_id), context.rule(*id));
                    if !same_conditions(first.claim, a, told.claim, b)
                        || context.meeting.of(context, *first_id, *id).is_none()
                    {
                        continue;
                    }
                    if wins(context, *first_id, *id).is_some() != overrides {
                        continue;
                    }
                    let (early, late) = if (first_id.rule, first.directive) <= (id.rule, told.directive) {
                        ((*first_id, first), (*id, *told))
                    } else {
                        ((*id, *told), (*first_id, first))
                    };
                    if !said.insert((early.0, early.1.directive, late.0, late.1.directive)) {
                        continue;
                    }
                    let key = (late.0, late.1.directive);
                    found.entry(key).or_insert_with(|| {
                        order.push(key);
                        Vec::new()
                    });
                    if let Some(all) = found.get_mut(&key) {
                        all.push((early.0, early.1, late.1));
                    }
                }
            }
        }
    }
    for key in order {
        let Some(pairs) = found.get(&key) else { continue };
        findings.push(finding(context, key.0, pairs, overrides));
    }
}

/// Which of two rules wins where the profile says so: the later (`true`) or the earlier, one of the two being
/// nearer than the other.
fn wins(context: &Context<'_, '_>, one: RuleId, other: RuleId) -> Option<bool> {
    let (a, b) = (context.rule(one), context.rule(other));
    let place = |rule: &Rule| (rule.level, rule.found.anchor.path.depth());
    if one == other || place(a) == place(b) {
        return None;
    }
    match context.profile(one).conflict {
        Conflict::LaterWins => Some(true),
        Conflict::EarlierWins => Some(false),
        Conflict::Unstated => None,
    }
}

fn finding(context: &Context<'_, '_>, id: RuleId, pairs: &[Pair<'_>], overrides: bool) -> Finding {
    let (first_id, first, late) = pairs[0];
    let (text, first_text) = (&context.texts[late.text], &context.texts[first.text]);
    let span = text.outline.directives[late.directive].span.clone();
    let first_span = first_text.outline.directives[first.directive].span.clone();
    let words = quoted(first_text.words(&first_span));
    let place = if late.text == first.text { "above".to_owned() } else { format!("in {}", first_text.location()) };
    let (info, message, help) = match wins(context, first_id, id).filter(|_| overrides) {
        Some(true) => (
            &OVERRIDE,
            format!("this overrides {words} {place}"),
            "nothing to do, if that is meant: the later one wins",
        ),
        Some(false) => (
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
    let profile = context.profile(id);
    let mut finding = Finding::in_rule(info, &profile.name, context.rule(id), span, message).help(help);
    for (_, early, _) in pairs.iter().take(MOST_RELATED) {
        let text = &context.texts[early.text];
        let span = text.outline.directives[early.directive].span.clone();
        finding = finding.related(text.location(), span, "this says otherwise");
    }
    let witness = context.meeting.of(context, first_id, id).flatten();
    finding.witness(witness)
}
