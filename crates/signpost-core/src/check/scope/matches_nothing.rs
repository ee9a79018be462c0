use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::profile::Reach;
use crate::reach::Reacher;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "scope/matches-nothing",
    severity: Severity::Warning,
    finds: "A path pattern of a scoped rule that takes no file of the project.",
    why: "A pattern with a folder that was renamed, or a missing `**`, fails without a word: the rule is there, and \
          never told.",
    mend: "Use the pattern that the finding offers, or remove the rule if what it was about is gone.",
    bad: "---\ncovers: \"germination/stat/*.py\"\n---\n",
    good: "---\ncovers: \"germination/stats/**/*.py\"\n---\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    // Before there are files there is nothing to match.
    if context.survey.zones.files == 0 {
        return;
    }
    let reacher = Reacher::new(&context.project.index);
    for (assistant, matches) in context.survey.assistants.iter().zip(&context.survey.zones.matches) {
        for (rule, matches) in assistant.rules.iter().zip(matches) {
            if rule.reach != Reach::Scoped || !rule.takes_part() {
                continue;
            }
            let dialect = &rule.place_in(assistant.profile).dialect;
            let (base, below) = (&rule.scope.base, &rule.scope.below);
            for item in &rule.scope.paths.items {
                let Ok(pattern) = &item.pattern else { continue };
                // Where the rule as a whole takes files, and has one pattern, that one does.
                let takes = *matches > 0 && rule.scope.paths.items.len() == 1;
                if takes || pattern.is_negated() || reacher.first_match(pattern, base, below).is_some() {
                    continue;
                }
                let from = if base.is_root() { String::new() } else { format!(" (it counts from {base}/)") };
                let ignored = reacher.first_ignored(pattern, base);
                let message = match &ignored {
                    Some(_) => format!("`{}` takes only files that git ignores{from}", item.text),
                    None => format!("`{}` takes no file{from}", item.text),
                };
                let help = match reacher.nearest(&item.text, dialect, base, below) {
                    Some((near, file)) => format!("did you mean `{near}`? It takes {file}"),
                    None => match ignored {
                        Some(file) => format!("it takes {file}, which is no source file"),
                        None => "remove it, or correct the folder or ending".to_owned(),
                    },
                };
                let name = &assistant.profile.name;
                findings.push(Finding::in_rule(&INFO, name, rule, item.span.clone(), message).help(help));
            }
        }
    }
}
