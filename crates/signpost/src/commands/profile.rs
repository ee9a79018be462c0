use crate::apply;
use crate::ask;
use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::render::snippet;
use crate::session::{MOST_PROFILE_BYTES, Session};
use clap::{Args, Subcommand};
use signpost_core::base::repo_path::Location;
use signpost_core::base::toml_file::nearest;
use signpost_core::base::wording::count;
use signpost_core::change::draft_profile::{Draft, Perhaps, drafted};
use signpost_core::change::publish::changes::Change;
use signpost_core::files::door;
use signpost_core::files::{Look, Tree};
use signpost_core::profile::{Origin, Profile};
use signpost_core::project::workspace::{Workspace, WorkspaceError};
use std::path::{Path, PathBuf};

/// List, explain, check and draft the profiles that describe assistants
///
/// A profile is a TOML file that says where one assistant looks for instruction files, how it reads them and
/// when it loads them. Projects keep theirs in guidance/profiles/, people in ~/.config/signpost/profiles/.
#[derive(Debug, Args)]
pub struct ProfileArgs {
    #[command(subcommand)]
    command: ProfileCommand,
}

#[derive(Debug, Subcommand)]
enum ProfileCommand {
    /// List the profiles that apply here
    List,
    /// Say in words what an assistant reads, and when
    Show {
        /// The profile's name
        #[arg(value_name = "NAME")]
        name: String,
    },
    /// Check a profile: keys, values, contradictions
    Check {
        /// The profile
        #[arg(value_name = "FILE")]
        file: PathBuf,
    },
    /// Write a profile for instruction-like files that no profile knows
    ///
    /// Looks at hidden folders of Markdown, Markdown names in capitals and dot-files of prose, and infers
    /// places, header keys, when files load, and the dialect of patterns. Each guess stands in the profile
    /// with its evidence. Prints the profile; with --write it is put where Signpost reads it. Files that look misplaced
    /// (a folder or an ending that is nearly that of many others) are no place of theirs: `signpost survey` names them.
    Draft {
        /// Only files in these folders, or these files [default: the whole project]
        #[arg(value_name = "PATH")]
        paths: Vec<PathBuf>,
        /// Of several assistants, the one of this name [default: the one with the most files; with --write all];
        /// OLD=NEW gives it another name
        #[arg(long, value_name = "NAME")]
        name: Option<String>,
        /// Write guidance/profiles/NAME.toml for each assistant, after asking
        #[arg(long)]
        write: bool,
        /// With --write: don't ask
        #[arg(long, requires = "write")]
        yes: bool,
    },
}

pub fn run(args: &ProfileArgs, global: &Global) -> Result<Exit, Failure> {
    match &args.command {
        ProfileCommand::List => list(global),
        ProfileCommand::Show { name } => show(name, global),
        ProfileCommand::Check { file } => check(file, global),
        ProfileCommand::Draft { paths, name, write, yes } => {
            draft_for(paths, name.as_deref(), write.then_some(*yes), global)
        }
    }
}

fn list(global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let (workspace, _) = session.read(global)?;
    match global.format() {
        Format::Text => render::print(&render::profile::list(&workspace.profiles))?,
        Format::Json => session.print_json(&workspace, &render::profile::list_json(&workspace.profiles))?,
    }
    Ok(session.end(&workspace))
}

fn show(name: &str, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let (workspace, _) = session.read(global)?;
    let Some(profile) = workspace.profiles.iter().find(|profile| profile.name == name) else {
        let names = || workspace.profiles.iter().map(|profile| profile.name.as_str());
        let all = format!("there are: {}", names().collect::<Vec<_>>().join(", "));
        let help = nearest(name, names()).map_or(all.clone(), |near| format!("did you mean `{near}`? {all}"));
        return Err(Failure::told(format!("there is no profile `{name}`"), help));
    };
    match global.format() {
        Format::Text => render::print(&render::profile::show(profile))?,
        Format::Json => session.print_json(&workspace, &render::profile::list_json(std::slice::from_ref(profile)))?,
    }
    Ok(session.end(&workspace))
}

fn check(file: &Path, global: &Global) -> Result<Exit, Failure> {
    let name = file.display().to_string();
    let bytes = door::read(file, MOST_PROFILE_BYTES)
        .map_err(|error| Failure::told(format!("cannot read {name}: {error}"), ""))?;
    let text =
        String::from_utf8(bytes).map_err(|_| Failure::told(format!("{name} is not UTF-8"), "save it as UTF-8"))?;
    let (profile, remarks) = match Profile::parse(&name, &text, Origin::Project) {
        Ok(parsed) => parsed,
        // Here a mistake is the answer, not a reason why there is none.
        Err(error) => {
            match global.format() {
                Format::Text => render::print(&format!("{}\n", snippet::config_error(&error, "error")))?,
                Format::Json => render::print_json(&render::profile::check_json(&name, Some(&error), &[]))?,
            }
            return Ok(Exit::Findings);
        }
    };
    match global.format() {
        Format::Text => {
            for remark in &remarks {
                render::print(&format!("{}\n\n", snippet::config_error(remark, "warning")))?;
            }
            render::print(&format!("{name} is a valid profile\n\n{}", render::profile::show(&profile)))?;
        }
        Format::Json => render::print_json(&render::profile::check_json(&name, None, &remarks))?,
    }
    Ok(Exit::Fine)
}

/// `write`: whether to write what is drafted, and then without asking.
fn draft_for(paths: &[PathBuf], name: Option<&str>, write: Option<bool>, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let alone = if write.is_some() { Some(apply::alone(&session)?) } else { None };
    let workspace = session.workspace_to_read()?;
    let project = session.project(&workspace)?;
    let below = paths.iter().map(|path| session.path(path)).collect::<Result<Vec<_>, _>>()?;
    let (mut drafts, perhaps) = session.patiently("Drafting", || drafted(&workspace, &project, &below));
    if let Some(name) = name {
        drafts = named(drafts, name)?;
    }
    if let Some(alone) = &alone {
        let all = (&drafts[..], &perhaps[..]);
        return written(all, write == Some(true), &session, &workspace, alone, global);
    }
    match (global.format(), drafts.split_first()) {
        (Format::Json, _) => session.print_json(&workspace, &render::profile::drafts_json(&drafts, &perhaps))?,
        (Format::Text, None) => {
            let message = "no file here looks like an instruction file without a profile";
            anstream::eprintln!("{}", snippet::plain("note", message));
            say_perhaps(&perhaps);
            return Ok(Exit::Findings);
        }
        (Format::Text, Some((first, more))) => {
            render::print(&first.toml)?;
            let accounts = count(first.files.len(), "file");
            let note =
                format!("accounts for {accounts}; `signpost profile draft --write` puts it into {}", first.path());
            anstream::eprintln!("{}", snippet::plain("note", &note));
            for other in more {
                let files = count(other.files.len(), "file");
                let message = format!("{files} of another assistant: signpost profile draft --name {}", other.name);
                anstream::eprintln!("{}", snippet::plain("note", &message));
            }
            say_perhaps(&perhaps);
        }
    }
    // A profile that is broken, or not yet written, is what a draft is made for.
    for error in &workspace.broken {
        anstream::eprintln!("{}", snippet::plain("warning", &format!("{error}; the draft goes on without it")));
    }
    Ok(Exit::Fine)
}

/// So many files that are perhaps instructions are named.
const MOST_PERHAPS: usize = 5;

/// What is in no draft, and could be.
fn say_perhaps(perhaps: &[Perhaps]) {
    for one in perhaps.iter().take(MOST_PERHAPS) {
        let message = format!("perhaps {} too, which is left out: {}", one.path, one.why);
        anstream::eprintln!("{}", snippet::plain("note", &message));
    }
    if perhaps.len() > MOST_PERHAPS {
        let message = format!("perhaps {} more files too; `--format json` lists them", perhaps.len() - MOST_PERHAPS);
        anstream::eprintln!("{}", snippet::plain("note", &message));
    }
}

/// The draft of that name; `OLD=NEW` renames it.
fn named(drafts: Vec<Draft>, name: &str) -> Result<Vec<Draft>, Failure> {
    let (old, new) = name.split_once('=').map_or((name, None), |(old, new)| (old, Some(new)));
    let all: Vec<String> = drafts.iter().map(|draft| draft.name.clone()).collect();
    let Some(draft) = drafts.into_iter().find(|draft| draft.name == old) else {
        let help = if all.is_empty() { String::new() } else { format!("there are files of: {}", all.join(", ")) };
        return Err(Failure::told(format!("no file here seems to be of `{old}`"), help));
    };
    let Some(new) = new else { return Ok(vec![draft]) };
    match draft.renamed(new) {
        Ok(draft) => Ok(vec![draft]),
        Err(error) => Err(Failure::told(error.message, error.help.unwrap_or_default())),
    }
}

/// Puts drafts where the project's profiles stand. One that is there is replaced only if it can't be used.
fn written(
    (drafts, perhaps): (&[Draft], &[Perhaps]),
    yes: bool,
    session: &Session,
    workspace: &Workspace<'_>,
    alone: &apply::Guard,
    global: &Global,
) -> Result<Exit, Failure> {
    let mut changes = Vec::new();
    for draft in drafts {
        let path = draft.path();
        let at = Location::root(path.clone());
        let broken = workspace.broken.iter().any(|error| error.file() == path.as_str());
        match session.tree.look(&at) {
            Look::Nothing => changes.push(Change::create(&path, &draft.toml)),
            Look::File(_) if broken => {
                let old = session.tree.read(&at).map_err(WorkspaceError::from)?;
                changes.push(Change::replace(&path, &old, Some(&draft.toml)));
            }
            _ => {
                let help = format!("give it another name: `--name {0}={0}-2`", draft.name);
                return Err(Failure::told(format!("{path} is there already"), help));
            }
        }
    }
    if drafts.is_empty() {
        let message = "no file here looks like an instruction file without a profile";
        anstream::eprintln!("{}", snippet::plain("note", message));
        return Ok(Exit::Findings);
    }
    let text = global.format() == Format::Text;
    if text {
        let lines = drafts.iter().map(|draft| {
            let misplaced = match draft.misplaced.len() {
                0 => String::new(),
                1 => "; 1 file looks misplaced, `signpost survey` says why".to_owned(),
                number => format!("; {number} files look misplaced, `signpost survey` says why"),
            };
            format!("  {}  {}{misplaced}\n", draft.path(), count(draft.files.len(), "file"))
        });
        render::print(&lines.collect::<String>())?;
        say_perhaps(perhaps);
    }
    let done = yes || ask::can_ask() && ask::yes(&format!("Write {}?", count(drafts.len(), "profile")))?;
    if done {
        apply::create(session.root(), changes, workspace.lock()?, alone)?;
    }
    match (text, done) {
        (true, true) => render::print("Written. Read them through, and correct what you know better.\n")?,
        (true, false) => render::print("Nothing written; `--yes` writes without asking.\n")?,
        (false, _) => session.print_json(workspace, &render::profile::drafts_json(drafts, perhaps))?,
    }
    Ok(if done { Exit::Fine } else { Exit::Findings })
}
