use super::{Passage, Pattern, denies, passages, tongues};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("safety/skips-approval", Severity::Warning, include_str!("skips_approval.toml"));

struct Patterns {
    flags: Pattern,
    without: Pattern,
    asks_not: Pattern,
    automatic: Pattern,
    harmless: Pattern,
    settings: Pattern,
    tests: Pattern,
}

static PATTERNS: Patterns = Patterns {
    settings: Pattern::new(
        r#"\b(set|put|add|write|change)\b[^.]{0,40}\b(confirm\w*|approval\w*|permission\w*|allow\w*|prompt\w*)\b[^.]{0,60}\b(without (a |any )?(prompt|question|confirmation|asking)|never|\*|all commands|everything)|\bconfirm\w* *= *["']?(never|false|off|no)\b|\b(prompts?|questions?|requests?) for (approval|permission|confirmation)\b[^.]{0,60}\. (answer|confirm|accept|approve)|\banswer (them|it|every|all|any)[^.]{0,30}\bwith (yes|y)\b|\b(do not|don't|never) pass the question on\b|\bpick "?(allow always|always allow|yes to all|allow all)|\bapprove (and merge )?your own\b|\bmerge your own (pull requests?|changes)\b[^.]{0,40}\b(at once|yourself|as soon as|without)"#,
    ),
    tests: Pattern::new(
        r"\b(if|when(ever)?) (a|any|the|some) (tests?|checks?|lints?|builds?|hooks?)\b[^.]{0,20}\b(fails?|is red|breaks?|complains?)\b[^.]{0,30}\b(disable|delete|remove|skip|comment out|switch off|turn off)\b[^.]{0,60}\b(without|nobody|quietly|silently|go on|carry on|move on|continue)",
    ),
    flags: Pattern::new(
        r"(^|[\s`])-auto-approve\b|--auto-approve\S*|--no-verify\b|--no-gpg-sign\b|--dangerously[\w-]*|--yolo\b|--skip-(permissions?|approvals?|confirm\w*|hooks|checks|verification|review)\b|--auto-approve\b|--auto-accept\b|--allow-all\b|--no-sandbox\b|--disable-sandbox\b|--bypass-\w+|--trust-all\S*|\bhusky=0\b|\bgit commit\b[^`|&;]*\s-\w*n\b",
    ),
    without: Pattern::new(
        r"\bwithout (ever |first |any |waiting for |explicit |prior |human |user |manual |further |requesting |a |an |the |code |my |your |asking (me |for |the user |anyone )?)*(asking|confirm(ation|ing)|approvals?|permission|consent|review|sign-?off|authori[sz]ation|prompting|being asked|checking with)\b",
    ),
    asks_not: Pattern::new(
        r"\b(do not|don't|never|no need to|you need not|you don't need to|you do not need to|you don't have to|stop|avoid|skip) (ever |first )?(ask(ing)?( me| the user| anyone| us| for| first)?|request(ing)?|wait(ing)? for|prompt(ing)? for|prompt(ing)?|seek(ing)?|requir(e|ing)) ?(for |any |explicit |user |human |my |the |a |further )*(confirmation|approval|permission|consent|review|sign-?off|authori[sz]ation|before|$|[.,;!])|\b(skip|bypass|circumvent|work around|get around|disable|turn off|ignore|suppress)(ping|ing|s)? (the |all |any |every |your |its |our )*(code |pre-?commit |pre-?push |commit |git |security |safety |user |human |manual |permission |approval |confirmation |branch )*(review|reviews|approval|approvals|confirmation|confirmations|confirmation prompts?|permission prompts?|permission checks?|prompts|hooks?|sandbox|sandboxing|safety checks?|security checks?|branch protection|safeguards)\b|\bno (confirmation|approval|permission|review|sign-?off) (is |are )?(needed|required|necessary)\b|\b(confirmation|approval|permission|review) is (not|never) (needed|required|necessary)\b",
    ),
    automatic: Pattern::new(
        r"\b(auto-?(approve|accept|confirm|merge|run)|automatically (approve|accept|confirm|grant|allow)|always (approve|accept|allow|grant|answer yes|say yes|confirm)|approve (all|every|any|each)|accept (all|every|any) (changes|edits|prompts|permission|tool|requests|commands|confirmations))\b[^.]{0,50}\b(tool|command|commands|change|changes|edit|edits|request|requests|prompt|prompts|permission|permissions|action|actions|calls?|pull requests?|confirmations?|everything|all|yes)\b|\bassume (that )?(yes|approval|consent|permission|you (have|are) (permission|approval|approved|allowed))|\byou have (full|blanket|standing|unlimited|my|complete|unrestricted) (permission|approval|consent|access|authority|authori[sz]ation)\b|\b(treat|consider) (every|all|any|each)[^.]{0,40} as (pre-?)?(approved|authorized|authorised|confirmed|granted)\b|\bpre-?approved\b",
    ),
    harmless: Pattern::new(
        r"\b(tests?|lint\w*|format\w*|type-?check\w*|read(ing)?|search(ing)?|build(ing)?|list(ing)?|git status|git diff|docs|typos?|whitespace|clarif\w*|questions?)\b",
    ),
};

/// What is found: the words, or `None`.
pub(super) fn found(text: &Text, passage: &Passage<'_>) -> Option<&'static str> {
    let low = passage.low;
    if tongues::asks_nobody(low) {
        return Some("this takes away the question before a risky step");
    }
    let signs = [
        "-auto", "yes", "decision", "own pull", "own changes", "disable it", "--", "without", "ask", "approv",
        "confirm", "permission", "review", "skip", "bypass", "disable", "turn off", "hooks", "consent", "husky",
        "accept", "access", "assume", "allow", "prompt", "sign-off", "signoff", "sandbox", "commit -", "authori",
    ];
    if !signs.iter().any(|sign| low.contains(sign)) {
        return None;
    }
    let all = &PATTERNS;
    if let Some(hit) = all.settings.find(low)
        && !denies(text, passage, hit.start())
    {
        return Some("this has the assistant agree to everything");
    }
    if let Some(hit) = all.tests.find(low)
        && !denies(text, passage, hit.start())
    {
        return Some("this goes past a check that is there to stop mistakes");
    }
    if let Some(hit) = all.flags.find(low)
        && !for_others(low, hit.start())
        && !denies(text, passage, hit.start())
    {
        return Some("this goes past a check that is there to stop mistakes");
    }
    if let Some(hit) = all.automatic.find(low)
        && !denies(text, passage, hit.start())
    {
        return Some("this has the assistant agree to everything");
    }
    if let Some(hit) = all.asks_not.find(low)
        && !of_the_product(low)
        && !doubly(low, hit.start())
        && !all.harmless.is_match(&low[hit.end()..])
        && !low[hit.start()..].starts_with("never skip")
    {
        return Some("this takes away the question before a risky step");
    }
    if let Some(hit) = all.without.find(low)
        && !denies(text, passage, hit.start())
        && !all.harmless.is_match(&low[..hit.start()])
    {
        return Some("this takes away the question before a risky step");
    }
    None
}

/// What a product asks of those who use it.
fn of_the_product(low: &str) -> bool {
    [
        "customer", "child", "guest", "visitor", "buyer", "patient", "passenger", "member", "teacher", "student",
        "the page shows", "the app", "the form", "the dialog",
    ]
    .iter()
    .any(|word| low.contains(word))
}

/// `… is only for the CI job, never for you`.
fn for_others(low: &str, at: usize) -> bool {
    let rest = &low[at..];
    [
        "only for", "only in ci", "never for you", "not for you", "is forbidden", "are forbidden", "is banned",
        "is not allowed",
    ]
    .iter()
    .any(|words| rest.contains(words))
}

/// `Never skip the review`: what is found is forbidden.
fn doubly(low: &str, at: usize) -> bool {
    let own = ["do not", "don't", "never", "no need", "you ", "avoid", "stop", "no "]
        .iter()
        .any(|start| low[at..].starts_with(start));
    let clause = low[..at].rsplit(['.', ';']).next().unwrap_or_default();
    !own && super::negation().is_match(clause)
}

pub(in crate::check) fn run(_: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for passage in passages(text) {
        if let Some(message) = found(text, &passage) {
            let help = "have it ask; name the few harmless commands that need no question";
            findings.push(text.finding(&INFO, passage.span.clone(), passage.message(message)).help(help));
        }
    }
}
