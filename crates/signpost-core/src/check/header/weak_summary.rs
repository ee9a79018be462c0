use super::rules;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::directive::words::{STOP, stem, words};
use crate::profile::{Kind, Reach};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("header/weak-summary", Severity::Warning, include_str!("weak_summary.toml"));

/// Words that fit any rule.
const EMPTY: &[&str] = &[
    "rule", "rules", "guideline", "guidelines", "guide", "guidance", "note", "notes", "instruction", "instructions",
    "info", "information", "important", "general", "useful", "helpful", "common", "project", "best", "practice",
    "practices", "standard", "standards", "convention", "conventions", "stuff", "things", "misc", "miscellaneous",
    "various", "how", "what", "use", "this", "read", "follow", "good", "tips", "tip", "help", "documentation", "docs",
    "doc", "details", "detail", "description", "summary", "about", "more", "other", "additional", "extra", "basic",
    "basics", "work", "working", "agent", "assistant", "always", "must", "should", "when", "needed", "necessary",
    "required", "relevant", "coding", "code", "development", "programming", "todo", "tbd", "it", "file", "knowledge",
];

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        let (Some(key), Some(summary)) = (&place.keys.summary, &rule.summary) else { continue };
        if rule.kind == Kind::Role || rule.reach != Reach::Offered || !is_weak(summary, rule.file().path.name()) {
            continue;
        }
        let span = rule.header.get(key).map_or(0..0, |key| key.value_span.clone());
        let message = format!("“{summary}” does not say when {} should pick this rule", profile.title);
        let help = "name the task, the folder or the technology that it is about";
        findings.push(Finding::in_rule(&INFO, &profile.name, rule, span, message).help(help));
    }
}

fn is_weak(summary: &str, file: &str) -> bool {
    let told: Vec<String> = words(summary, 0..summary.len())
        .into_iter()
        .filter(|word| word.code || !word.is(STOP) && !word.is(EMPTY))
        .map(|word| word.stem)
        .collect();
    let name = file.split('.').next().unwrap_or_default();
    let name: Vec<String> = name.split(['-', '_', ' ']).map(|part| stem(&part.to_lowercase())).collect();
    // A lone word that the file's name says already tells nothing more.
    told.is_empty() || told.len() == 1 && name.contains(&told[0])
}

#[cfg(test)]
mod tests {
    use super::is_weak;

    #[test]
    fn a_summary_must_say_what_for() {
        for weak in [
            "Rules",
            "Important guidelines for this project",
            "Useful info",
            "release",
            "General coding best practices",
            "...",
        ] {
            assert!(is_weak(weak, "release.md"), "{weak}");
        }
        for strong in [
            "How to write release notes", "SQL migrations", "Testing the kiosk", "When adding a sensor",
            "Use for `*.sql`",
        ] {
            assert!(!is_weak(strong, "release.md"), "{strong}");
        }
    }
}
