use super::{Passage, Pattern, denies, passages};
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
}

static PATTERNS: Patterns = Patterns {
    flags: Pattern::new(
        r"--no-verify\b|--no-gpg-sign\b|--dangerously[\w-]*|--yolo\b|--skip-(permissions?|approvals?|confirm\w*|hooks|checks|verification|review)\b|--auto-approve\b|--auto-accept\b|--allow-all\b|--no-sandbox\b|--disable-sandbox\b|--bypass-\w+|--trust-all\S*|\bhusky=0\b|\bgit commit\b[^`|&;]*\s-\w*n\b",
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
    let signs = [
        "--", "without", "ask", "approv", "confirm", "permission", "review", "skip", "bypass", "disable", "turn off",
        "hooks", "consent", "husky", "accept", "access", "assume", "allow", "prompt", "sign-off", "signoff", "sandbox",
        "commit -", "authori",
    ];
    if !signs.iter().any(|sign| low.contains(sign)) {
        return None;
    }
    let all = &PATTERNS;
    if let Some(hit) = all.flags.find(low)
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
