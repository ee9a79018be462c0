use super::{idle, unsupported_syntax, wrong_base};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("scope/matches-nothing", Severity::Warning, include_str!("matches_nothing.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for one in idle(context) {
        let (rule, item) = (one.rule, one.item);
        let dialect = &rule.place_in(one.profile).dialect;
        let (base, below) = (&rule.scope.base, &rule.scope.below);
        // Those say better what is wrong.
        if unsupported_syntax::unsupported(&item.text, dialect).is_some() || wrong_base::found(&one, context).is_some()
        {
            continue;
        }
        let from = if base.is_root() { String::new() } else { format!(" (it counts from {base}/)") };
        let ignored = context.search.first_ignored(one.pattern, base);
        let message = match &ignored {
            Some(_) => format!("`{}` takes only files that git ignores{from}", item.text),
            None => format!("`{}` takes no file{from}", item.text),
        };
        let help = match context.search.nearest(&item.text, dialect, base, below) {
            Some((near, file)) => format!("did you mean `{near}`? It takes {file}"),
            None => match ignored {
                Some(file) => format!("it takes {file}, which is no source file"),
                None => "remove it, or correct the folder or ending".to_owned(),
            },
        };
        findings.push(Finding::in_rule(&INFO, &one.profile.name, rule, item.span.clone(), message).help(help));
    }
}
