use super::rules;
use crate::base::toml_file::nearest;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::header::{Header, HeaderStyle};
use crate::project::condition::Condition;
use crate::project::guidance;
use crate::project::rule::Rule;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("header/invalid", Severity::Warning, include_str!("invalid.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        if let Some(line) = rule.document.bad_line() {
            let message = format!("line {line} holds bytes that are not UTF-8");
            let at = rule.document.text.find('\u{fffd}').unwrap_or(0);
            let finding = Finding::in_rule(&INFO, &profile.name, rule, at..at + 3, message);
            findings.push(finding.help("save the file as UTF-8"));
        }
        if place.header == HeaderStyle::None {
            continue;
        }
        if profile.name == guidance::PROFILE
            && let Some(key) = rule.header.get("when")
            && let Err(error) = Condition::parse(key.scalar().unwrap_or_default())
        {
            let message = format!("this condition can't be read: {error}");
            let finding = Finding::in_rule(&INFO, &profile.name, rule, key.value_span.clone(), message);
            findings.push(finding.help("for example: `when = \"sqlx >= 0.8\"`"));
        }
        let named = guidance::assistants(rule).filter(|_| profile.name == guidance::PROFILE).unwrap_or_default();
        let known = || context.workspace.profiles.iter().map(|profile| profile.name.as_str());
        for name in named.iter().filter(|name| !known().any(|own| own == name.as_str())) {
            let span = rule.header.get("assistants").map_or(0..0, |key| key.value_span.clone());
            let finding = Finding::in_rule(&INFO, &profile.name, rule, span, format!("there is no assistant `{name}`"));
            findings.push(finding.help(match nearest(name, known()) {
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("there are: {}", known().collect::<Vec<_>>().join(", ")),
            }));
        }
        if profile.name == guidance::PROFILE {
            findings.extend(kept_headers(context, rule));
        }
        for problem in &rule.header.problems {
            let message = problem.message.clone();
            let finding = Finding::in_rule(&INFO, &profile.name, rule, problem.span.clone(), message);
            let finding = finding.help(problem.help.clone());
            findings.push(match &problem.fix {
                Some(right) => finding.edit(problem.span.clone(), right.clone()),
                None => finding,
            });
        }
    }
}

/// What is wrong with the headers that a guidance rule keeps for the files of assistants.
fn kept_headers(context: &Context<'_, '_>, rule: &Rule) -> Vec<Finding> {
    let mut findings = Vec::new();
    for (name, kept) in guidance::kept(rule) {
        let profile = context.workspace.profiles.iter().find(|profile| profile.name == name);
        let style = profile.and_then(|profile| profile.places.iter().find(|place| place.header != HeaderStyle::None));
        let (Some(profile), Some(place), Some(head)) = (profile, style, kept.whole_head()) else { continue };
        let text = place.header.fenced(head);
        let table = format!("[keep.{name}]");
        let at = rule.document.text.find(&table).unwrap_or_default();
        for problem in Header::read(&text, place.header).problems {
            let line = text[..problem.span.start].matches('\n').count();
            let message = format!("line {line} of the header kept for {}: {}", profile.title, problem.message);
            let finding = Finding::in_rule(&INFO, guidance::PROFILE, rule, at..at + table.len(), message);
            findings.push(finding.help(problem.help));
        }
    }
    findings
}
