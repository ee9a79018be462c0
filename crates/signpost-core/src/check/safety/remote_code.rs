use super::{Passage, PassageKind, Pattern, denies, passages, tongues};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("safety/remote-code", Severity::Error, include_str!("remote_code.toml"));

struct Patterns {
    piped: Pattern,
    substituted: Pattern,
    stored: Pattern,
    evaluated: Pattern,
    told: Pattern,
}

static PATTERNS: Patterns = Patterns {
    piped: Pattern::new(
        r#"\b(curl|wget|fetch|iwr|irm|invoke-webrequest|invoke-restmethod|http)\b[^|`]*\|\s*(base64\s+(-d|--decode)\s*\|\s*)?(sudo\s+(-\S+\s+)*)?(env\s+)?([\w./]*/)?(sh|bash|zsh|dash|ksh|python[23]?|node|perl|ruby|php|iex|invoke-expression|pwsh|powershell|fish|deno run|source)\b"#,
    ),
    substituted: Pattern::new(
        r#"\b(bash|sh|zsh|source|eval|exec|python[23]?|node|perl|ruby)\b\s*(-\w+\s+)*["'(]*\s*["'(]*\s*(<\(|\$\(|`)\s*(sudo\s+)?(curl|wget)\b|(^|[\s;&`])\.\s+<\(\s*(curl|wget)"#,
    ),
    stored: Pattern::new(
        r"\b(curl|wget|iwr|invoke-webrequest)\b.*https?://\S+.*(&&|;|\|\||\band then\b|\bthen\b|\band\b)\s*(sudo\s+)?(`)?(bash|sh|zsh|chmod\s+(\+x|[0-7]{3,4}|a\+x|u\+x)|source|python[23]?|node|\./\S+|run|execute)\b",
    ),
    evaluated: Pattern::new(
        r"\b(eval|exec|iex|invoke-expression)\s*\(?.{0,40}(urlopen|requests\.get|urllib|fetch\(|http\.get|downloadstring|axios\.get|iwr|irm|invoke-webrequest|curl|wget)",
    ),
    told: Pattern::new(
        r"\b(download|fetch|retrieve|pull|get|grab|load|curl|wget|open|read|visit|request)\b[^.]{0,80}?(https?://|\bthe url\b|\bthis url\b|\bremote (server|host)\b|\bthe internet\b|\bpastebin\b)\S*[^.]{0,60}?\b(and|then|,|&&)\s*(then )?(immediately |silently |always )?(run|execute|eval|evaluate|source|follow|obey|apply|do what|perform|install)\b( it| them| that| the| its| what| whatever| any| all|$)|\b(run|execute|eval|evaluate|follow|obey|perform)\b[^.]{0,40}\b(code|script|scripts|commands?|instructions?|payload|steps|whatever|binary|what)\b[^.]{0,40}?\b(returned|served|found|hosted|published|provided|downloaded|fetched|it returns|from|at)\b[^.]{0,25}?https?://\S+",
    ),
};

pub(super) fn found(text: &Text, passage: &Passage<'_>) -> bool {
    let low = passage.low;
    let signs =
        ["curl", "wget", "http", "iwr", "irm", "invoke-", "eval", "exec", "base64", "url", "remote", "internet"];
    if !signs.iter().any(|sign| low.contains(sign)) {
        return false;
    }
    if tongues::runs(low) {
        return true;
    }
    let all = &PATTERNS;
    let hit =
        [&all.piped, &all.substituted, &all.stored, &all.evaluated, &all.told].iter().find_map(|one| one.find(low));
    let Some(hit) = hit else { return false };
    let local = ["localhost", "127.0.0.1", "0.0.0.0", "[::1]"].iter().any(|host| low.contains(&format!("://{host}")));
    // `Install with the instructions at https://…` has a person read them.
    let reads = all.told.is_match(low)
        && ["installation instructions", "style guide", "documentation", "contributing guide", "setup guide"]
            .iter()
            .any(|one| low.contains(one));
    // `curl … | sh` names the habit, not a download.
    let gap = low[hit.range()].contains('…') || low[hit.range()].contains("...");
    !local && !gap && !reads && !denies(text, passage, hit.start())
}

/// Whether this stores a download that a later line runs: the two steps of one deed.
fn stored_then_run(passages: &[Passage<'_>], number: usize) -> bool {
    static STORED: Pattern = Pattern::new(
        r"\b(curl|wget|iwr|invoke-webrequest)\b[^|]*https?://[^|]*?(-o|-o=|--output|--output-document|-outfile|>)\s*([\w./~-]+)|\b(curl|wget)\b[^|]*?(-o|--output|--output-document)\s+([\w./~-]+)[^|]*https?://",
    );
    let low = passages[number].low;
    let Some(groups) = STORED.groups(low).next() else { return false };
    let Some(target) = [3, 6].into_iter().find_map(|group| groups.get(group).copied().flatten()) else { return false };
    let target = &low[target.range()];
    let target = target.trim_start_matches("./");
    let local = low.contains("://localhost") || low.contains("://127.0.0.1");
    if local || target.len() < 2 || target == "-" || target.starts_with("/dev/") {
        return false;
    }
    passages[number..].iter().take(STEPS).enumerate().any(|(ahead, later)| {
        let text = if ahead == 0 { low.rsplit(target).next().unwrap_or_default() } else { later.low };
        text.match_indices(target).any(|(at, _)| {
            let before = text[..at].trim_end_matches(['.', '/', '`', ' ', '"']);
            let starts = ahead > 0 && (at <= 3 || before.ends_with(['|', ';', '&', '$', '`']));
            let runs = [
                "sh", "bash", "zsh", "python", "python3", "node", "perl", "ruby", "source", "chmod +x", "sudo", "exec",
                "run", "execute",
            ];
            starts || runs.iter().any(|word| before.ends_with(word))
        })
    })
}

/// So many lines apart two steps are still one deed.
const STEPS: usize = 8;

pub(in crate::check) fn run(_: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let all: Vec<Passage<'_>> = passages(text).collect();
    for (number, passage) in all.iter().enumerate() {
        let plain = matches!(passage.kind, PassageKind::Code | PassageKind::Prose);
        let in_steps = || plain && stored_then_run(&all, number) && !denies(text, passage, 0);
        if found(text, passage) || in_steps() {
            let help = "keep the script in the repository, or pin a version and check its hash";
            findings.push(
                text.finding(
                    &INFO,
                    passage.span.clone(),
                    passage.message("this downloads something and runs it unread"),
                )
                .help(help),
            );
        }
    }
}
