use crate::exit::{Exit, Failure};
use crate::git;
use crate::options::{Format, Global};
use crate::render;
use crate::render::brief::{Each, Groups};
use crate::session::Session;
use clap::Args;
use rayon::prelude::*;
use signpost_core::base::repo_path::{Location, RepoPath};
use signpost_core::change::draft_profile::could_guess;
use signpost_core::files::{Look, Tree};
use signpost_core::inspect::on_the_way::on_the_way;
use signpost_core::profile::Profile;
use signpost_core::project::workspace::{Project, Workspace};
use signpost_core::resolve::brief::{Brief, Question, resolve_with};
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
    let mut workspace = session.workspace_to_read()?;
    // A guess looks at the whole project; where everything on the way is described there is nothing to guess.
    let asked_for: Vec<RepoPath> = args.files.iter().filter_map(|file| session.path(file).ok()).collect();
    let undescribed = session.may_guess(&workspace, global) && could_guess(&workspace, &asked_for, &start);
    let walked = if args.changed || undescribed {
        let project = session.project(&workspace)?;
        let project = session.guess(&mut workspace, project, global)?;
        session.say_guesses(&workspace, &project);
        Some(project)
    } else {
        None
    };
    let (asked, mut refused) = files_asked(args, &session, walked.as_ref().filter(|_| args.changed))?;
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
        None if args.all_rules || args.why_not || asked.iter().any(is_folder) => Some(session.project(&workspace)?),
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
    let asker = Asker::new(global, &workspace, &start, all_rules, project.as_ref())?;
    let trouble = match project.as_ref().filter(|_| args.why_not) {
        Some(project) => on_the_way(&workspace, project, &asker.profiles, &files),
        None => Vec::new(),
    };
    let several = args.text && !files.is_empty() && asker.several(args.together, &files)?;
    match global.format() {
        Format::Json => {
            let each = |each: &mut Each<'_>| {
                asker.each(args.together, &files, &mut |_, briefs| briefs.iter().try_for_each(&mut *each))
            };
            session.patiently("Resolving", || {
                session.print_json(&workspace, &render::brief::json(&start, &each, args.text, &trouble))
            })?;
        }
        Format::Text if files.is_empty() && nothing_else => {}
        Format::Text if files.is_empty() => render::print(&nothing_asked(args))?,
        Format::Text if args.text => asker.each(args.together, &files, &mut |_, briefs| {
            render::print(&render::brief::told(&workspace, &briefs, several))
        })?,
        Format::Text => {
            let mut groups = Groups::default();
            session.patiently("Resolving", || {
                asker.each(args.together, &files, &mut |files, briefs| {
                    groups.add(files, briefs);
                    Ok(())
                })
            })?;
            let missing = |file: &RepoPath| look(file) == Look::Nothing;
            let why_not = args.why_not || args.all_rules;
            let mut text = groups.text(&workspace, &missing, &start, why_not);
            render::brief::trouble(&trouble, &mut text);
            render::print(&text)?;
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

/// Answers for one file, or one conversation, after the other.
struct Asker<'a, 'w> {
    workspace: &'a Workspace<'w>,
    profiles: Vec<&'a Profile>,
    /// Whether nobody named the assistants, so that those with nothing on the way are left out.
    all: bool,
    start: &'a RepoPath,
    all_rules: Option<&'a Project>,
    walked: Option<&'a Project>,
}

/// So many files are answered at once, on all cores.
const AT_ONCE: usize = 256;

impl<'a, 'w> Asker<'a, 'w> {
    fn new(
        global: &Global,
        workspace: &'a Workspace<'w>,
        start: &'a RepoPath,
        all_rules: Option<&'a Project>,
        walked: Option<&'a Project>,
    ) -> Result<Self, Failure> {
        let selected = workspace.selected(&global.assistant)?;
        let all = selected.is_none();
        let profiles = selected.unwrap_or_else(|| workspace.profiles.iter().collect());
        Ok(Asker { workspace, profiles, all, start, all_rules, walked })
    }

    /// Whether there is more than one brief to tell apart.
    fn several(&self, together: bool, files: &[RepoPath]) -> Result<bool, Failure> {
        if !together && files.len() > 1 {
            return Ok(true);
        }
        Ok(self.briefs(files.to_vec())?.len() > 1)
    }

    fn briefs(&self, files: Vec<RepoPath>) -> Result<Vec<Brief>, Failure> {
        let question = Question { files, start: self.start.clone() };
        let mut briefs = Vec::new();
        for profile in &self.profiles {
            let brief = resolve_with(self.workspace, profile, &question, self.all_rules, self.walked)?;
            if !self.all || brief.has_candidates {
                briefs.push(brief);
            }
        }
        Ok(briefs)
    }

    /// Hands on the briefs of each file, in order.
    fn each(
        &self,
        together: bool,
        files: &[RepoPath],
        take: &mut dyn FnMut(Vec<RepoPath>, Vec<Brief>) -> Result<(), Failure>,
    ) -> Result<(), Failure> {
        if files.is_empty() {
            return Ok(());
        }
        if together {
            return take(files.to_vec(), self.briefs(files.to_vec())?);
        }
        for chunk in files.chunks(AT_ONCE) {
            let answers: Vec<_> = chunk.par_iter().map(|file| self.briefs(vec![file.clone()])).collect();
            for (file, briefs) in chunk.iter().zip(answers) {
                take(vec![file.clone()], briefs?)?;
            }
        }
        Ok(())
    }
}

/// What was asked and can't be answered, each with the reason.
type Refused = Vec<(String, Failure)>;

/// The files and folders that a person named, in order; and what can't be answered of that.
fn files_asked(
    args: &AtArgs,
    session: &Session,
    walked: Option<&Project>,
) -> Result<(Vec<RepoPath>, Refused), Failure> {
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
