use super::{Passage, Pattern, denies, describes, passages, tongues};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("safety/override-attempt", Severity::Error, include_str!("override_attempt.toml"));

struct Patterns {
    drops: Pattern,
    becomes: Pattern,
    poses: Pattern,
    hides: Pattern,
    hides_silently: Pattern,
    outranks: Pattern,
    from_data: Pattern,
    voids: Pattern,
    deceives: Pattern,
}

static PATTERNS: Patterns = Patterns {
    voids: Pattern::new(
        r"\b(all |any |every |your |the |these |those |other |previous |earlier |prior |safety )*(rules?|instructions?|guidance|guidelines?|policies|directives|orders)\b[^.]{0,80}\b(is|are|were|become|becomes|count as) (now |hereby |all |from here on |no longer )*(void|null|invalid|suspended|cancelled|canceled|revoked|lifted|superseded|obsolete|in force|binding|in effect)\b|\b(ignore|disregard|forget|drop|discard)\b[^.]{0,40}\b(other |previous |earlier |prior |any |all )+(guidance|advice|rules)\b|\b(has|have) no (restrictions|rules|limits|guardrails)\b[^.]{0,60}\b(rules|policies|bound|instructions)\b|\bnot bound by\b[^.]{0,40}\b(polic(y|ies)|rules|instructions|guidelines)\b|\b(this|the following) (file|page|list|document|section)[^.]{0,30}\b(is|are) the only (one|ones|thing|rules?|instructions?)\b[^.]{0,20}\b(counts?|matters?|valid|follow)",
    ),
    deceives: Pattern::new(
        r"\b(tell|say to|answer|assure) (them|him|her|the (user|developer|person|reviewer|team)s?|whoever asks|anyone who asks|anybody who asks)\b[^.]{0,80}\b(and|but|,) (do not|don't|never) (say|tell|mention|explain|add|give)\b|\b(if|when) (somebody|someone|anybody|anyone|the user|they|people) asks?\b[^.]{0,80}\b(say|tell them|answer|claim|pretend)\b[^.]{0,60}\b(instead|the formatter|the linter|a bug|nothing (has )?changed|somebody else|an update)|\b(user|users|developer|developers|reviewer|reviewers|people|team|nobody|they|he|she)\b[^.]{0,12}\b(needn't|need not|needs? not|must not|mustn't|should not|shouldn't|doesn't need to|don't need to|do not need to|don't have to|has no need to|never) (ever )?(to )?(know|find out|learn|notice|see|hear)\b( (of|about|that|this|it|anything)\b|[.,;]|$)|\b(leave|keep|left) (it |this |that |them |these )?out of (the )?(summary|report|description|changelog|your (answer|summary|report))|\bleave out that you\b",
    ),
    drops: Pattern::new(
        r"\b(ignore|ignoring|disregard|disregarding|forget|discard|stop following|stop obeying|do not follow|don't follow|do not obey|don't obey|pay no attention to|set aside|override|bypass|drop|abandon|no longer follow)\b[^.]{0,45}?\b((previous|prior|above|earlier|preceding|existing|other|original|former|system|initial|your|developer'?s?|safety|default|all|any|every|those)\b[^.]{0,25}?\b(instructions?|prompts?|directives?|guidelines?|system messages?|guardrails?|safeguards?|restrictions|orders)|(previous|prior|above|earlier|preceding|your|safety|system|security|all other|all|all the|other) (rules|policies|constraints|polic(y|ies))|(everything|anything|all)( that| you)? (above|before|previously|was said|were told|have been told|you know)|(instructions?|rules|directives) (above|before|given (above|before|earlier)|you were given|so far|of the (system|user|developer)))",
    ),
    becomes: Pattern::new(
        r"\byou are (now|no longer) (a|an|in|the|free|unrestricted|bound|unbound|called|operating|dan|my)\b|\b(developer|debug|god|admin|unrestricted|jailbreak) mode (is )?(enabled|on|activated|now)|\benter (developer|god|admin|unrestricted|jailbreak) mode|\bpretend (that )?you (are|have) (no|an? unrestricted|not)|\bact as (if you (have|had) no|an? (unrestricted|uncensored))|\bwithout (any )?(ethical|safety|moral|content) (restrictions|guidelines|filters|limits)\b|\bfrom now on,? you (are|will be|must obey|obey)\b",
    ),
    poses: Pattern::new(
        r"^[\W_]*(system|new system|admin|root|developer)( message| prompt| override| note)?\s*:\s|\b(new|real|actual|true|secret|hidden|updated) (system )?(instructions|prompt|orders)\b( for (the )?(assistant|agent|model|ai)\b)?\s*:|\bsystem (prompt )?override\b|<\|?(system|im_start)\|?>|\[(system|inst)\]|\bend of (the )?(system prompt|instructions)\b|\byour (real|true|actual|new) (task|goal|purpose|instructions?|objective|job) (is|are)\b",
    ),
    hides: Pattern::new(
        r"\b(do not|don't|never|must not|avoid) (ever )?(tell|inform|notify|alert|warn|let)(ing)? (the )?(users?|developers?|humans?|anyone|anybody|reviewers?|team|maintainers?|people|owner|author|them) ?(($|[.,;!)])|know\b|about (this|these|it|that|the (change|instruction|rule|comment|step|upload|request|command))|that (you|this|these)|of (this|it)|what you|why)|\b(do not|don't|never|must not) (ever )?(mention|reveal|disclose|repeat|show|quote|acknowledge|explain|log|report|discuss) (this|these|that you|any of this|the (existence|presence|content|text) of (this|these)|it|them|the following)( (instructions?|rules?|comment|note|line|section|step|message|paragraph|file|directive|prompt)s?)?( (to|in|with|anywhere|ever|at all|when|unless|outside)\b|$|[.,;!])|\b(hide|conceal|keep) (this|these|it|the (change|fact|instruction|command)s?) ?[^.]{0,20}(from (the )?(user|developer|human|reviewer|team|anyone|maintainer)|secret\b|hidden\b|between us)",
    ),
    hides_silently: Pattern::new(
        r"\b(without|instead of) (telling|informing|notifying|alerting|mentioning (it|this|that) to|letting|asking or telling) (the )?(user|developer|human|anyone|anybody|reviewer|team|maintainer|them)s?\b|\bsilently (and )?(add|send|upload|post|run|execute|install|include|commit|insert|change)\b[^.]{0,60}\b(user|them|anyone|reviewer|https?:|key|token|secret|credential)",
    ),
    outranks: Pattern::new(
        r"\b(precedence|priority) over (all |any |every |the |your |everything )*(other )?(system|user'?s?|developer'?s?|safety|security|operator|instructions from|prior instructions|previous instructions|existing instructions)\b|\b(overrides?|supersedes?|outranks?|replaces?) (all |any |every |the |your )*(other |previous |prior |existing |earlier )*(system|user'?s?|developer'?s?|safety|security) (prompt|instructions?|rules?|guidelines|polic|requests?|messages?)|\b(supersedes?|overrides?|replaces?) (all|any|every|everything)( of)?( the| your)? (other |previous |prior |existing |earlier |above )+(instructions?|prompts?|directives?|guidelines)",
    ),
    from_data: Pattern::new(
        r"\b(found|embedded|inside|in|from|within|contained|that appear|hidden|coming|written)\b.{0,50}\b(page|pages|web|website|fetched|data|fixtures?|comments?|issues?|tickets?|logs?|emails?|documents?|output|outputs|content|contents|responses?|third.party|dependency|dependencies|vendored|untrusted|external|tool|user.supplied|pull requests?|commit messages?|diffs?)\b",
    ),
};

/// Words one of which every pattern needs.
const SIGNS: &[&str] = &[
    "instruction", "prompt", "directive", "guideline", "rules", "system", "everything", "anything", "you are now",
    "no longer", "mode", "pretend", "act as", "from now on", "tell", "inform", "mention", "reveal", "disclose",
    "secret", "hide", "conceal", "silently", "without", "precedence", "priority", "override", "supersede", "your real",
    "your true", "your actual", "your new", "inst]", "notify", "alert", "warn", "let ", "repeat", "quote",
    "acknowledge", "explain", "log ", "report", "policies", "constraints", "keep ", "restrictions", "guardrail",
    "safeguard", "guidance", "void", "asks", "needn't", "need not", "know", "leave out", "out of", "orders", "admin",
    "root", "developer", "show", "discuss",
];

pub(super) fn found(text: &Text, passage: &Passage<'_>) -> Option<&'static str> {
    let low = passage.low;
    // A text about attacks quotes them.
    let quoted = || describes(low) || low.contains('"') || low.contains('“') || low.contains('«');
    if tongues::drops(low) && !quoted() {
        return Some("this tells the assistant to drop its other instructions");
    }
    if tongues::hides(low) && !about_product(low) {
        return Some("this keeps something from the people whom the assistant works for");
    }
    if !SIGNS.iter().any(|sign| low.contains(sign)) {
        return None;
    }
    let all = &PATTERNS;
    if let Some(hit) = all.voids.find(low)
        && !denies(text, passage, hit.start())
    {
        return Some("this tells the assistant to drop its other instructions");
    }
    if let Some(hit) = all.deceives.find(low)
        && !denies(text, passage, hit.start())
        && !about_product(low)
    {
        return Some("this keeps something from the people whom the assistant works for");
    }
    if let Some(hit) = all.drops.find(low)
        && !denied_drop(text, passage, hit.start())
        && !all.from_data.is_match(&low[hit.start()..])
    {
        return Some("this tells the assistant to drop its other instructions");
    }
    if let Some(hit) = all.becomes.find(low)
        && !denies(text, passage, hit.start())
    {
        return Some("this tells the assistant to be something else");
    }
    if let Some(hit) = all.poses.find(low)
        && !denies(text, passage, hit.start())
    {
        return Some("this poses as instructions from above the project");
    }
    if let Some(hit) = all.outranks.find(low)
        && !denies(text, passage, hit.start())
    {
        return Some("this sets itself above what the people say whom the assistant works for");
    }
    let quiet = all.hides_silently.find(low).filter(|hit| !denies(text, passage, hit.start()));
    if all.hides.is_match(low) && !about_product(low) || quiet.is_some() {
        return Some("this keeps something from the people whom the assistant works for");
    }
    None
}

/// `Never ignore …` forbids; `do not follow …` is the attempt itself.
fn denied_drop(text: &Text, passage: &Passage<'_>, at: usize) -> bool {
    let own = passage.low[at..].starts_with("do not") || passage.low[at..].starts_with("don't");
    let before = &passage.low[..at];
    let negated = before.trim_end().ends_with("never") || denies(text, passage, at);
    negated && !own
}

/// Rules about what a product shows to its users.
fn about_product(low: &str) -> bool {
    [
        "error message", "stack trace", "the ui", "in the interface", "screen", "toast", "page", "internal id",
        "raw error", "button", "dialog", "in responses", "api response", "to end users", "customers",
    ]
    .iter()
    .any(|word| low.contains(word))
}

pub(in crate::check) fn run(_: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for passage in passages(text) {
        if let Some(message) = found(text, &passage) {
            let help = "delete it, find out where the file comes from, and don't trust the rest of it";
            findings.push(text.finding(&INFO, passage.span.clone(), passage.message(message)).help(help));
        }
    }
}
