use crate::base::repo_path::{Location, RepoPath};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::files::ignore_file::{HideChain, HideList, hidden_on_the_way};
use crate::project::rule::Rule;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("place/ignored-by-git", Severity::Warning, include_str!("ignored_by_git.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule, ignored) in super::in_project(context) {
        if ignored && !place.personal && !is_meant(context, rule) {
            let message = "git ignores this file, so nobody else gets it";
            let help = "take it out of .gitignore, or mark its place `personal = true` in the profile";
            findings.push(Finding::in_rule(&INFO, &profile.name, rule, 0..0, message).help(help));
        }
    }
}

/// Words by which a pattern means one person's own files.
const OWN: [&str; 6] = ["local", "private", "mine", "personal", "own", "me"];

/// Whether the pattern that ignores a file plainly means such files: it names it, or one person's own files.
fn is_meant(context: &Context<'_, '_>, rule: &Rule) -> bool {
    let Some(path) = rule.file().in_root() else { return false };
    let tree = context.workspace.tree();
    let enter = |folder: &RepoPath, chain: HideChain| {
        let file = folder.join(".gitignore");
        match tree.read(&Location::root(file.clone())) {
            Ok(bytes) => chain.with(folder, file, HideList::parse(&bytes)),
            Err(_) => chain,
        }
    };
    let Some((_, hit)) = hidden_on_the_way(path, false, enter) else { return false };
    let last = hit.pattern.trim_end_matches('/').rsplit('/').next().unwrap_or_default().to_lowercase();
    let own = last.split(|c: char| !c.is_alphanumeric()).any(|word| OWN.contains(&word));
    own || last == path.name().to_lowercase()
}
