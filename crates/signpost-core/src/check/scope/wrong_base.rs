use super::{Idle, idle, unsupported_syntax};
use crate::base::repo_path::RepoPath;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("scope/wrong-base", Severity::Error, include_str!("wrong_base.toml"));

pub(super) struct WrongBase {
    /// The folder from which it would match.
    from: RepoPath,
    /// A file that it would take.
    file: RepoPath,
    /// The pattern as it should be.
    right: Option<String>,
}

/// More folders of one name are not tried.
const MOST_FOLDERS: usize = 32;

pub(super) fn found(idle: &Idle<'_>, context: &Context<'_, '_>) -> Option<WrongBase> {
    let scope = &idle.rule.scope;
    let text = idle.item.text.strip_prefix("./").unwrap_or(&idle.item.text).trim_start_matches('/');
    let first = text.split('/').next()?;
    let literal = text.contains('/') && !first.contains(['*', '?', '[', '{']);
    if !literal {
        return None;
    }
    let everywhere = RepoPath::root();
    let mut folders: Vec<RepoPath> = vec![RepoPath::root(), scope.below.clone()];
    let named = context.project.index.folders().iter().filter(|folder| !folder.apart && folder.path.name() == first);
    folders.extend(named.take(MOST_FOLDERS).map(|folder| folder.path.folder()));
    let from = folders.into_iter().filter(|folder| *folder != scope.base).find_map(|folder| {
        let file = context.search.first_match(idle.pattern, &folder, &everywhere)?;
        Some((folder, file))
    });
    let (from, file) = from?;
    let right = if from.is_root() {
        let below = text.strip_prefix(scope.base.as_str()).and_then(|rest| rest.strip_prefix('/'));
        below.map(str::to_owned)
    } else {
        from.below(&scope.base).map(|way| format!("{way}/{text}"))
    };
    Some(WrongBase { from, file, right })
}

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for one in idle(context) {
        let dialect = &one.rule.place_in(one.profile).dialect;
        if unsupported_syntax::unsupported(&one.item.text, dialect).is_some() {
            continue;
        }
        let Some(wrong) = found(&one, context) else { continue };
        let shown = |folder: &RepoPath| if folder.is_root() { "the root".to_owned() } else { format!("{folder}/") };
        let (text, base) = (&one.item.text, shown(&one.rule.scope.base));
        let message =
            format!("`{text}` counts from {base}, where it takes no file; from {} it would", shown(&wrong.from));
        let help = match wrong.right {
            Some(right) => format!("write `{right}`, which takes {}", wrong.file),
            None => format!("move the rule, or write the pattern so that it begins in {base}"),
        };
        findings.push(Finding::in_rule(&INFO, &one.profile.name, one.rule, one.item.span.clone(), message).help(help));
    }
}
