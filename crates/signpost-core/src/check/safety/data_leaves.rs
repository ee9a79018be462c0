use super::{Passage, Pattern, denies, passages, tongues};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("safety/data-leaves", Severity::Error, include_str!("data_leaves.toml"));

struct Patterns {
    sent: Pattern,
    piped: Pattern,
    query: Pattern,
    told: Pattern,
    shown: Pattern,
    image: Pattern,
    header: Pattern,
    program: Pattern,
    name_lookup: Pattern,
}

const SENSITIVE: &str = r"(\.env\b|\benv(ironment)? (variables?|vars?|file)\b|\benvironment\b|\bsecrets?\b|\bcredentials?\b|\bapi[ _-]?keys?\b|\baccess[ _-]?(keys?|tokens?)\b|\b(auth|api|session|bearer|ssh|deploy) (tokens?|keys?|cookies?)\b|\btokens\b|\bpasswords?\b|\bprivate[ _-]?keys?\b|\bssh[ _-]?keys?\b|id_rsa|id_ed25519|\.ssh\b|\.aws\b|\.netrc|\.npmrc|\.git-credentials|\bkeychain\b|\bcookies\b|/etc/passwd|\bprintenv\b|\$\(env\))";
const CONTENTS: &str = r"(\bsource code\b|\bsource files?\b|\bcontents? of (the |this |every |each |all |any )*(files?|repo|repository|project|codebase|workspace|folder|directory|conversation|session|\S*\.\w+)|\b(full|whole|entire|complete) (conversation|repository|repo|codebase|diff|transcript|source|file|project|code)\b|\b(conversation|chat|session)( history| transcript| log)?\b|\btranscripts?\b|\bthe (diff|codebase|repository|repo|prompt|code you (wrote|changed|write))\b|\bproprietary\b|\bcustomer (data|records)\b|\bpersonal data\b|\buser data\b|\bfile contents\b|\b(its|their|the) (full|whole|entire|complete) (text|content|contents|source)\b|\bshell history\b|\bcop(y|ies) of (every|each|all|the) (files?|changes?|documents?)\b|\bclipboard\b|\bdatabase dump\b|\ball (changed |modified |source |project )?files\b|\bgit (history|log|diff)\b|\bhostname\b|\bworking directory\b|\bfiles? you (read|edit|touch|open|change)\b)";
const AWAY: &str = r"(https?://\S+|\bwebhook\b|\bpastebin\b|\bexternal (server|host|service|endpoint|url|api|address)\b|\bremote (server|host|endpoint|url|address)\b|\b(the|an|this) (e-?mail )?address\b|\bthird[- ]party (server|service|endpoint|api)\b|\b[\w.+-]+@[\w-]+\.[a-z]{2,}\b|\bftp://\S+|\bdns (query|lookup)\b|\b(our|the|my) (telemetry|analytics|collection|logging|tracking|collector) (server|endpoint|service|url)\b)";

static PATTERNS: Patterns = Patterns {
    sent: Pattern::made(|| {
        format!(
            r#"\b(curl|wget|nc|ncat|netcat|scp|rsync|invoke-webrequest|invoke-restmethod|iwr|irm|http|fetch|axios|requests)\b.*({SENSITIVE}|\$\((cat|git|env|printenv|base64|tar|find|ls|whoami|hostname)\b|@~?/?\S*(\.ssh|\.env|\.aws|secret|credential|token|id_rsa|key)|<\s*\.env|\$\{{?\w*(token|secret|password|passwd|api_?key|private_?key)\w*)"#
        )
    }),
    piped: Pattern::made(|| {
        format!(
            r"(\bcat\b.*{SENSITIVE}|\benv\b|\bprintenv\b|\bgit (diff|log|show|bundle|archive)\b|\btar\b.*|\bset\b)[^|]*\|.*\b(curl|wget|nc|ncat|netcat|ssh|mail|sendmail|socat)\b"
        )
    }),
    query: Pattern::new(
        r"\b(fetch|open|request|call|visit|get|load)\b[^\s]* `?https?://[^\s`]*[?&]\w+=`?[^.]{0,20}\bwith (that|the|this) (value|token|key|result|contents?|string)\b|https?://[^\s)]*[?&=][^\s)]*(\$\(|\$\{?\w*(token|secret|key|password|env)\w*)",
    ),
    told: Pattern::made(|| {
        format!(
            r"\b(send|sends|sending|post|posts|posting|upload|uploads|uploading|submit|forward|transmit|e-?mail|share|exfiltrate|report|copy|push|put|deliver|beacon|leak|encode|append|attach|pass|publish|sync|back up|mirror|relay|stream)\b[^.]{{0,90}}?({SENSITIVE}|{CONTENTS}).{{0,90}}?{AWAY}|\b(send|post|upload|submit|forward|transmit|push|report|e-?mail)\b[^.]{{0,20}}?(to )?{AWAY}[^.]{{0,60}}?\b(with|containing|including|that contains?|carrying)\b[^.]{{0,60}}?({SENSITIVE}|{CONTENTS})|\b(make|send|issue|perform)\b[^.]{{0,15}}\b(request|get|post|call)\b[^.]{{0,20}}{AWAY}[^.]{{0,60}}({SENSITIVE}|{CONTENTS})"
        )
    }),
    shown: Pattern::made(|| {
        format!(
            r"\b(include|paste|print|echo|output|append|add|embed|attach|dump|write|put|insert|copy|quote|list|post|publish|commit)\b[^.]{{0,40}}?(values? of |contents? of |all |the )*{SENSITIVE}[^.]{{0,50}}?\b(in|into|to|at|inside|as part of)\b[^.]{{0,30}}?\b(commit messages?|pull requests?|pr (description|body|comment)s?|issues?|public|gist|comments?|(the |your |each |every )(response|answer|reply|output|message)s?|urls?|query string|image|link|readme|chat)\b"
        )
    }),
    program: Pattern::new(
        r"\b(requests|httpx|axios|http|https|urllib|fetch|got|client|session)\b[^;]{0,20}\b(post|put|request|urlopen|fetch|send)?\(?[^;]{0,60}https?://[^;]{0,80}\b(os\.environ|process\.env|env::vars|system\.getenv\(\)|environ\.copy|getenv)\b",
    ),
    name_lookup: Pattern::made(|| {
        format!(
            r"\b(dig|nslookup|host|ping|resolve|look up|lookup)\b[^.]{{0,60}}(\$\(|\$\{{|`cat |\bbase64\b|\bhex\b|{SENSITIVE}).{{0,80}}\.[\w-]+\.[a-z]{{2,}}\b"
        )
    }),
    image: Pattern::new(
        r"!\[[^\]]*\]\(\s*<?https?://[^)\s]*[?&/][^)\s]*(\{|\$|<|%7b|\[|data=|base64|secret|token|key=|summary|content|exfil|leak)",
    ),
    header: Pattern::new(r#"(-h|--header)\s*(=)?\s*("[^"]*"|'[^']*'|\S+)|(-u|--user)\s+\S+"#),
};

pub(super) fn found(text: &Text, passage: &Passage<'_>) -> bool {
    let low = passage.low;
    if tongues::sends(low) && !low.contains(".env.example") {
        return true;
    }
    let all = &PATTERNS;
    let code = [&all.program, &all.name_lookup].into_iter().find_map(|one| one.find(low));
    if code.is_some_and(|hit| !denies(text, passage, hit.start())) {
        return true;
    }
    if low.contains("![")
        && all.image.is_match(low)
        && !denies(text, passage, all.image.find(low).map_or(0, |hit| hit.start()))
    {
        return true;
    }
    let signs = [
        "http", "curl", "wget", "nc ", "scp", "rsync", "send", "post", "upload", "submit", "forward", "mail",
        "webhook", "pastebin", "include", "paste", "print", "append", "dump", "embed", "echo", "server", "endpoint",
        "add ", "write", "put ", "commit", "output", "share", "publish", "list", "attach", "| ",
    ];
    if !signs.iter().any(|sign| low.contains(sign)) {
        return false;
    }
    // A key in a header is how one signs in, not what is sent.
    let plain = without(low, &all.header);
    let outside = plain.contains("://")
        || plain.contains("scp ")
        || plain.contains("nc ")
        || plain.contains("rsync")
        || plain.contains("netcat")
        || plain.contains("@")
        || plain.contains("ssh ")
        || plain.contains("mail");
    let local = ["://localhost", "://127.0.0.1", "://0.0.0.0", "://[::1]", "://host.docker.internal"]
        .iter()
        .any(|host| plain.contains(host));
    let commands =
        || [&all.sent, &all.piped, &all.query].iter().find_map(|one| one.find(&plain)).filter(|_| outside && !local);
    let hit = commands()
        .or_else(|| all.told.find(&plain).filter(|hit| !local && !describes_api(&plain[hit.range()])))
        .or_else(|| all.shown.find(&plain));
    let Some(hit) = hit else { return false };
    // Positions before a header that was taken out are the same.
    let at = hit.start().min(low.len());
    let at = (0..=at).rev().find(|at| low.is_char_boundary(*at)).unwrap_or(0);
    !denies(text, passage, at)
        && !low.contains("placeholder")
        && !low.contains("names of")
        && !low.contains(".env.example")
}

/// `POST /orders requires a session token` says how a service works.
fn describes_api(said: &str) -> bool {
    [" requires ", " require ", " needs ", " expects ", " returns ", " takes ", " accepts ", " is required"]
        .iter()
        .any(|verb| said.contains(verb))
}

/// The words without what a pattern matches.
fn without(low: &str, pattern: &Pattern) -> String {
    let (mut kept, mut at) = (String::with_capacity(low.len()), 0);
    for hit in pattern.find_iter(low) {
        kept.push_str(&low[at..hit.start().max(at)]);
        kept.push(' ');
        at = hit.end();
    }
    kept + &low[at..]
}

pub(in crate::check) fn run(_: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for passage in passages(text) {
        if found(text, &passage) {
            let message = passage.message("this sends what the assistant can read to somewhere else");
            let help = "delete it; where a report has to be sent, let a script do it that people have read";
            findings.push(text.finding(&INFO, passage.span.clone(), message).help(help));
        }
    }
}
