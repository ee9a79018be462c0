use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::render::snippet;
use crate::session::{MOST_PROFILE_BYTES, Session};
use clap::{Args, Subcommand};
use signpost_core::base::toml_file::nearest;
use signpost_core::change::draft_profile::draft;
use signpost_core::files::door;
use signpost_core::profile::{Origin, Profile};
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
    /// with its evidence. Prints the profile; redirect it to guidance/profiles/NAME.toml once you have read it.
    Draft {
        /// Only files in these folders, or these files [default: the whole project]
        #[arg(value_name = "PATH")]
        paths: Vec<PathBuf>,
        /// Of several assistants, the one of this name [default: the one with the most files]
        #[arg(long, value_name = "NAME")]
        name: Option<String>,
    },
}

pub fn run(args: &ProfileArgs, global: &Global) -> Result<Exit, Failure> {
    match &args.command {
        ProfileCommand::List => list(global),
        ProfileCommand::Show { name } => show(name, global),
        ProfileCommand::Check { file } => check(file, global),
        ProfileCommand::Draft { paths, name } => draft_for(paths, name.as_deref(), global),
    }
}

fn list(global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let workspace = session.workspace()?;
    match global.format() {
        Format::Text => render::print(&render::profile::list(&workspace.profiles))?,
        Format::Json => session.print_json(&workspace, &render::profile::list_json(&workspace.profiles))?,
    }
    Ok(session.end(&workspace))
}

fn show(name: &str, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let workspace = session.workspace()?;
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

fn draft_for(paths: &[PathBuf], name: Option<&str>, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let workspace = session.workspace()?;
    let project = session.project(&workspace)?;
    let below = paths.iter().map(|path| session.path(path)).collect::<Result<Vec<_>, _>>()?;
    let mut drafts = draft(&workspace, &project, &below);
    if let Some(name) = name {
        let all: Vec<String> = drafts.iter().map(|draft| draft.name.clone()).collect();
        drafts.retain(|draft| draft.name == name);
        if drafts.is_empty() {
            let help = if all.is_empty() { String::new() } else { format!("there are files of: {}", all.join(", ")) };
            return Err(Failure::told(format!("no file here seems to be of `{name}`"), help));
        }
    }
    match (global.format(), drafts.split_first()) {
        (Format::Json, _) => session.print_json(&workspace, &render::profile::drafts_json(&drafts))?,
        (Format::Text, None) => {
            let message = "no file here looks like an instruction file without a profile";
            anstream::eprintln!("{}", snippet::plain("note", message));
            return Ok(Exit::Findings.and(session.end(&workspace)));
        }
        (Format::Text, Some((first, more))) => {
            render::print(&first.toml)?;
            let target = format!("guidance/profiles/{}.toml", first.name);
            let accounts = signpost_core::base::wording::count(first.files.len(), "file");
            anstream::eprintln!(
                "{}",
                snippet::plain("note", &format!("accounts for {accounts}; it belongs into {target}"))
            );
            for other in more {
                let files = signpost_core::base::wording::count(other.files.len(), "file");
                let message = format!("{files} of another assistant: signpost profile draft --name {}", other.name);
                anstream::eprintln!("{}", snippet::plain("note", &message));
            }
        }
    }
    Ok(session.end(&workspace))
}
