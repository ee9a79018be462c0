use crate::apply;
use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use clap::Args;
use signpost_core::base::repo_path::Location;
use signpost_core::change::publish::changes::Change;
use signpost_core::change::split::{Decisions, Split, is_published, split, told_at_start};
use signpost_core::profile::Profile;
use signpost_core::project::lock::Lock;
use signpost_core::project::workspace::Workspace;
use std::path::PathBuf;

/// See how a long file falls into scoped rules
///
/// Each section's scope is read from its heading, else from the paths, file kinds and packages that its
/// directives name and the project has. Shows what every part of the project is told before and after. The file
/// is one of an assistant's or a rule of the guidance, told in every conversation.
///
/// Exits with 1 where no section has a scope.
#[derive(Debug, Args)]
pub struct SplitArgs {
    /// The file
    file: PathBuf,
    /// Give a section this scope: `--section 'Web=web/**'`; several times for several patterns or sections
    #[arg(long, value_name = "HEADING=PATTERN", value_parser = section)]
    section: Vec<(String, String)>,
    /// Keep a section for all files
    #[arg(long, value_name = "HEADING")]
    keep: Vec<String>,
    /// Write the rules; an assistant's file stays until `signpost publish` replaces it, a rule keeps what is told always
    #[arg(long)]
    write: bool,
}

fn section(text: &str) -> Result<(String, String), String> {
    let (heading, pattern) = text.rsplit_once('=').ok_or("it is `HEADING=PATTERN`, such as `Web=web/**`")?;
    match (heading.trim(), pattern.trim()) {
        ("", _) | (_, "") => Err("it is `HEADING=PATTERN`, such as `Web=web/**`".to_owned()),
        (heading, pattern) => Ok((heading.to_owned(), pattern.to_owned())),
    }
}

pub fn run(args: &SplitArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let alone = if args.write { Some(apply::alone(&session)?) } else { None };
    let file = session.path(&args.file)?;
    let workspace = session.workspace()?;
    let project = session.project(&workspace)?;
    let decisions = Decisions { scopes: args.section.clone(), keep: args.keep.clone() };
    let done = split(&workspace, &project, &file, &decisions)?;
    if let Some(known) = done.adopted.as_ref().filter(|_| done.done && !args.write) {
        return Err(is_published(&file, known).into());
    }
    if let Some(alone) = &alone
        && done.scoped() > 0
    {
        let old = workspace.lock()?;
        let (changes, new) = written(&workspace, &done, &old);
        apply::rules_then_lock(session.root(), changes, old, new, alone)?;
    }
    let names = workspace.assistants(&global.assistant, &project)?;
    let profiles: Vec<&Profile> = names.iter().map(|one| one.profile).collect();
    // What is written already is told from the files; else publishing is tried in memory.
    let told = if done.scoped() > 0 && !args.write { told_at_start(&workspace, &profiles, &done)? } else { Vec::new() };
    match global.format() {
        Format::Text => render::print(&render::split::text(&workspace, &done, &told, args.write))?,
        Format::Json => session.print_json(&workspace, &render::split::json(&done, &told))?,
    }
    Ok(if done.scoped() > 0 { Exit::Fine } else { Exit::Findings }.and(session.end(&workspace)))
}

fn written(workspace: &Workspace<'_>, done: &Split, old_lock: &Lock) -> (Vec<Change>, Lock) {
    let mut lock = old_lock.clone();
    // What a killed run has written is there already.
    let missing = done.rules.iter().filter(|rule| !rule.there);
    let mut changes: Vec<Change> = missing.map(|rule| Change::create(&rule.path, &rule.text)).collect();
    if let Some(rest) = &done.rest {
        let document = workspace.document(&Location::root(done.file.clone()));
        changes.push(Change::replace(&done.file, document.on_disk(), Some(rest)));
    }
    if let Some(adopted) = &done.adopted {
        lock.file.retain(|file| file.path != adopted.path);
        lock.file.push(adopted.clone());
        lock.file.sort_by(|a, b| a.path.cmp(&b.path));
    }
    (changes, lock)
}
