use crate::base::repo_path::{Location, RepoPath};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::project::settled::{ID, SETTLED_FILE};

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("consistency/lapsed-verdict", Severity::Note, include_str!("lapsed_verdict.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    if context.settled.settled.is_empty() {
        return;
    }
    let location = Location::root(RepoPath::root().join(SETTLED_FILE));
    for number in &context.meanings().lapsed {
        let one = &context.settled.settled[*number];
        let id: String = one.hash.chars().take(ID).collect();
        let message = format!(
            "the verdict {id} ({}) has lapsed: one of its sentences has changed or is gone",
            one.verdict.word()
        );
        findings.push(
            Finding::new(&INFO, location.clone(), one.because.span(), message)
                .help("delete it; `signpost doubts` asks again where there is still a doubt"),
        );
    }
}
