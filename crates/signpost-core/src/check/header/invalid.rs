use super::rules;
use crate::base::toml_file::nearest;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::header::HeaderStyle;
use crate::project::condition::Condition;
use crate::project::guidance;

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
