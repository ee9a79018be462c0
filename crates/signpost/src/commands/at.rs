use crate::cli::{Format, Global};
use crate::exit::{Exit, Failure};
use crate::git;
use crate::render;
use crate::session::Session;
use clap::Args;
use signpost_core::brief::{Brief, Question, resolve};
use signpost_core::repo_path::{Location, RepoPath};
use signpost_core::tree::{Look, Tree};
use signpost_core::workspace::{Project, Workspace};
use std::io::Read;
use std::path::{Path, PathBuf};

/// Show what each assistant has been told when it works on a file, in which order, and why
///
/// The answer is a brief for each assistant: the instruction files it has loaded, in its order, with the
/// reason for each; then those it may pick, and those somebody may name. The file need not exist yet: ask
/// before you create it. Several files are answered one by one, those with the same brief together.
#[derive(Debug, Args)]
pub struct AtArgs {
    /// The files to ask about; a folder stands for its source files, `-` for a list on standard input
    #[arg(required_unless_present = "changed", value_name = "FILE")]
    files: Vec<PathBuf>,
    /// Ask about the files that are changed, staged or new in the git work tree
    #[arg(long)]
    changed: bool,
    /// One brief: what is told in a conversation that touches all of the files
    #[arg(long)]
    together: bool,
    /// The folder that the conversation started in [default: the root]
    #[arg(long, value_name = "DIR")]
    from: Option<PathBuf>,
    /// Show every rule that stays out, with its reason and the patterns tried
    #[arg(long)]
    why_not: bool,
    /// With --why-not, list the rules of other folders too
    #[arg(long)]
    all_rules: bool,
    /// Print exactly the text that the assistant has been told
    #[arg(long, conflicts_with = "why_not")]
    text: bool,
}

pub fn run(args: &AtArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let start = match &args.from {
        Some(folder) => session.path(folder)?,
        None => RepoPath::root(),
    };
    let look = |path: &RepoPath| session.tree.look(&Location::root(path.clone()));
    if !start.is_root() && !matches!(look(&start), Look::Folder) {
        return Err(Failure::told(
            format!("--from {start}: there is no such folder"),
            "a conversation starts in a folder",
        ));
    }
    let workspace = session.workspace()?;
    let walked = if args.changed { Some(session.project(&workspace)?) } else { None };
    let (asked, mut refused) = files_asked(args, &session, walked.as_ref())?;
    if asked.is_empty()
        && refused.len() == 1
        && let Some((_, failure)) = refused.pop()
    {
        return Err(failure);
    }
    let nothing_else = !refused.is_empty();
    refused.into_iter().for_each(|(asked, why)| session.refuse(asked, why));
    let is_folder = |path: &RepoPath| path.is_root() || look(path) == Look::Folder;
    let project = match walked {
        Some(project) => Some(project),
        None if args.all_rules || asked.iter().any(is_folder) => Some(session.project(&workspace)?),
        None => None,
    };
    let mut files: Vec<RepoPath> = Vec::new();
    for path in asked {
        match &project {
            Some(project) if is_folder(&path) => files.extend(sources_below(project, &path)),
            _ => files.push(path),
        }
    }
    let mut seen = std::collections::HashSet::new();
    files.retain(|file| seen.insert(file.clone()));
    let all_rules = project.as_ref().filter(|_| args.all_rules);
    let briefs = session.patiently("Resolving", || briefs(args, global, &workspace, &files, &start, all_rules))?;
    match global.format() {
        Format::Json => session.print_json(&workspace, &render::brief::json(&start, &briefs))?,
        Format::Text if files.is_empty() && nothing_else => {}
        Format::Text if files.is_empty() => render::print(&nothing_asked(args))?,
        Format::Text if args.text => render::print(&render::brief::told(&workspace, &briefs))?,
        Format::Text => {
            let missing: Vec<&RepoPath> = files.iter().filter(|file| look(file) == Look::Nothing).collect();
            let why_not = args.why_not || args.all_rules;
            render::print(&render::brief::text(&workspace, &files, &missing, &start, &briefs, why_not))?;
        }
    }
    Ok(session.end(&workspace))
}

fn nothing_asked(args: &AtArgs) -> String {
    if args.changed {
        "No file is changed in the git work tree.\n".to_owned()
    } else {
        "No source files there.\n".to_owned()
    }
}

fn briefs(
    args: &AtArgs,
    global: &Global,
    workspace: &Workspace<'_>,
    files: &[RepoPath],
    start: &RepoPath,
    all_rules: Option<&Project>,
) -> Result<Vec<Brief>, Failure> {
    let selected = workspace.selected(&global.assistant)?;
    let all = selected.is_none();
    let profiles = selected.unwrap_or_else(|| workspace.profiles.iter().collect());
    let conversations: Vec<Vec<RepoPath>> = match files {
        [] => Vec::new(),
        files if args.together => vec![files.to_vec()],
        files => files.iter().map(|file| vec![file.clone()]).collect(),
    };
    let mut briefs = Vec::new();
    for files in conversations {
        let question = Question { files, start: start.clone() };
        for profile in &profiles {
            let brief = resolve(workspace, profile, &question, all_rules)?;
            if !all || brief.has_candidates {
                briefs.push(brief);
            }
        }
    }
    Ok(briefs)
}

/// The files and folders that a person named, in order; and what can't be answered of that.
fn files_asked(
    args: &AtArgs,
    session: &Session,
    walked: Option<&Project>,
) -> Result<(Vec<RepoPath>, Vec<(String, Failure)>), Failure> {
    let (mut asked, mut refused) = (Vec::new(), Vec::new());
    if let Some(project) = walked {
        let (files, odd) = git::changed(session.root(), &project.index)?;
        asked.extend(files);
        let failure =
            |name: &str| Failure::told(format!("cannot answer for {name}: its name is not UTF-8"), "rename it");
        refused.extend(odd.into_iter().map(|name| (name.clone(), failure(&name))));
    }
    let mut add = |typed: &Path| match session.path(typed) {
        Ok(path) => asked.push(path),
        Err(failure) => refused.push((typed.display().to_string(), failure)),
    };
    for typed in &args.files {
        if typed == Path::new("-") {
            let mut list = Vec::new();
            std::io::stdin()
                .read_to_end(&mut list)
                .map_err(|error| Failure::told(format!("cannot read the list on standard input: {error}"), ""))?;
            let separator = if list.contains(&0) { 0 } else { b'\n' };
            for line in list.split(|byte| *byte == separator) {
                let line = line.strip_suffix(b"\r").unwrap_or(line);
                if !line.is_empty() {
                    add(&path_of(line));
                }
            }
        } else {
            add(typed);
        }
    }
    Ok((asked, refused))
}

/// A path as the system writes it.
#[cfg(unix)]
fn path_of(bytes: &[u8]) -> PathBuf {
    use std::os::unix::ffi::OsStrExt;
    PathBuf::from(std::ffi::OsStr::from_bytes(bytes))
}

#[cfg(not(unix))]
fn path_of(bytes: &[u8]) -> PathBuf {
    PathBuf::from(String::from_utf8_lossy(bytes).into_owned())
}

fn sources_below(project: &Project, folder: &RepoPath) -> Vec<RepoPath> {
    let sources = project.index.sources().filter(|(own, _)| own.path.is_in(folder));
    sources.map(|(own, item)| own.path.join(item.name)).collect()
}
