use super::{Stop, stops};
use crate::base::toml_file::nearest;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::facts::Ecosystem;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("reference/missing", Severity::Error, include_str!("missing.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    stops(context, &INFO, Stop::Missing, findings, |_, target| {
        let path = target;
        // `@shop/ui` is a package where one is called so.
        if context.facts.has_package(Ecosystem::JavaScript, &format!("@{target}")) {
            return None;
        }
        let name = path.rsplit('/').next().unwrap_or(path);
        let elsewhere = context.facts.named(name).first().map(ToString::to_string);
        let folder = target.rsplit_once('/').map_or("", |(folder, _)| folder);
        let beside = crate::base::repo_path::RepoPath::new(folder).and_then(|folder| {
            let folder = context.project.index.folder(&folder)?;
            let names: Vec<&str> = folder.items().map(|item| item.name).collect();
            nearest(name, names.iter().copied()).map(|near| folder.path.join(near).to_string())
        });
        let help = match beside.or(elsewhere) {
            Some(near) => format!("did you mean {near}?"),
            None => "correct the path, or remove the reference".to_owned(),
        };
        Some((format!("{path} is not there"), help))
    });
}
