use super::{Idle, idle, unsupported_syntax, wrong_base};
use crate::base::repo_path::RepoPath;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::pattern::Pattern;

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
        if let Some(renamed) = renamed(&one, context) {
            let Renamed { old, right, file } = renamed;
            let message = format!("`{}` takes no file: {old} was renamed", item.text);
            let mut finding = Finding::in_rule(&INFO, &one.profile.name, rule, item.span.clone(), message)
                .help(format!("write `{right}`, which takes {file}"));
            let words = &rule.document.text[item.span.clone()];
            // What is written in another way, such as with escapes, is for people to mend.
            if let [(at, old)] = words.match_indices(&item.text).collect::<Vec<_>>()[..] {
                let start = item.span.start + at;
                finding = finding.edit(start..start + old.len(), right);
            }
            findings.push(finding);
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

/// A pattern whose folder or file was renamed.
struct Renamed {
    old: RepoPath,
    /// The pattern as it should be.
    right: String,
    /// A file that it would take.
    file: RepoPath,
}

fn renamed(idle: &Idle<'_>, context: &Context<'_, '_>) -> Option<Renamed> {
    let (scope, dialect) = (&idle.rule.scope, &idle.rule.place_in(idle.profile).dialect);
    let text = &idle.item.text;
    let bare = text.strip_prefix("./").unwrap_or(text).trim_start_matches('/');
    let lead = &text[..text.len() - bare.len()];
    let parts: Vec<&str> = bare.split('/').collect();
    let literal = parts.iter().take_while(|part| !part.is_empty() && !part.contains(['*', '?', '[', '{', '\\', '!']));
    (1..=literal.count()).rev().find_map(|count| {
        let old = scope.base.resolve(&parts[..count].join("/"))?;
        let new = context.renames.now(&old)?;
        let rest: String = parts[count..].iter().flat_map(|part| ["/", part]).collect();
        let right = format!("{lead}{}{rest}", new.below(&scope.base)?);
        let pattern = Pattern::parse(&right, dialect).ok()?;
        let file = context.search.first_match(&pattern, &scope.base, &scope.below)?;
        Some(Renamed { old, right, file })
    })
}
