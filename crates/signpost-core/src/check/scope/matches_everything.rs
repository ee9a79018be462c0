use crate::base::wording::group;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::pattern::Simple;
use crate::profile::Reach;

/// In a project with fewer files, a pattern may well take all of them for now.
const FEW_FILES: usize = 20;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("scope/matches-everything", Severity::Warning, include_str!("matches_everything.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let files = context.survey.zones.files;
    for (assistant, matches) in context.survey.assistants.iter().zip(&context.survey.zones.matches) {
        for (rule, matches) in assistant.rules.iter().zip(matches) {
            if rule.reach != Reach::Scoped || *matches < files || files == 0 || !rule.takes_part() {
                continue;
            }
            let items = || rule.scope.paths.items.iter();
            let whole = items().find(|item| {
                item.pattern.as_ref().is_ok_and(|pattern| pattern.simple().iter().any(Simple::takes_everything))
            });
            let (Some(span), true) =
                (whole.or_else(|| items().next()).map(|item| item.span.clone()), whole.is_some() || files >= FEW_FILES)
            else {
                continue;
            };
            let message = match whole {
                Some(item) => format!("`{}` takes every one of the {} source files", item.text, group(files)),
                None => format!("together these patterns take every one of the {} source files", group(files)),
            };
            let help = "name the folders or file types that it is about, or make the rule standing";
            findings.push(Finding::in_rule(&INFO, &assistant.profile.name, rule, span, message).help(help));
        }
    }
}
