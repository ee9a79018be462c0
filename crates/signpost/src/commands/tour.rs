use crate::exit::{Exit, Failure};
use crate::options::Global;
use crate::render::{COMMAND, FAINT, STRONG, paint, print, table::wrap, width};
use clap::Args;
use include_dir::{Dir, include_dir};
use std::path::{Path, PathBuf};
use std::process::Command;

static PROJECT: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/demo");
static HOME: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/demo-home");

/// See the whole tool at work on a sample project, in a temporary folder
///
/// Lays out the repository of a made-up seed bank, with four assistants and the mistakes that people make,
/// and runs the commands on it one after another.
#[derive(Debug, Args)]
pub struct TourArgs {
    /// Keep the sample project in this folder, which must be empty or not there yet
    #[arg(long, value_name = "DIR")]
    into: Option<PathBuf>,
}

/// What is run, and what a newcomer should look for in it.
const STEPS: &[(&str, &[&str])] = &[
    (
        "What is there? Every instruction file, for which assistant, when it loads, how many source files it gets \
         to and what it weighs; then the files that nobody will ever read.",
        &["survey"],
    ),
    (
        "What applies here? One source file: what each assistant has been told, in its order, and why.",
        &["at", "kiosk/src/screens/DepositScreen.tsx"],
    ),
    (
        "And why not the other rules? Here for one assistant, on a file that does not exist yet.",
        &["at", "ledger/migrations/0010_regrade_lots.sql", "--assistant", "oddwick", "--why-not"],
    ),
    (
        "What does it cost? Tokens in every conversation, and what each part of the project adds.",
        &["weigh", "--top", "3"],
    ),
    (
        "Where should a rule reach? Name files that it is about, and get the pattern.",
        &["scope", "--like", "kiosk/src/screens/DepositScreen.tsx", "kiosk/src/screens/LookUpScreen.tsx"],
    ),
    (
        "Is any of it wrong? Each finding shows the words at fault, and the mend. Here for one folder; without it, for \
         all.",
        &["lint", "kiosk"],
    ),
    (
        "This folder's rules were copied from somewhere. What do they want from the assistant?",
        &["lint", "docs", "--only", "safety"],
    ),
    ("What can be mended safely? First as a dry run.", &["lint", "--fix", "--dry-run"]),
    ("Rules are compared with what the repository states. What is that?", &["survey", "--facts"]),
    ("What does a finding mean? Each check teaches itself.", &["explain", "consistency/contradiction"]),
];

/// The second half: what is run on a copy, since it writes files. A step may begin with an edit by hand: a file, and
/// the words to put in place of others.
const WRITING: &[(&str, Option<Edit>, &[&str])] = &[
    (
        "Now write once, and publish to every assistant. First bring in what is here (this runs on a copy): what several \
         assistants are told in the same words becomes one rule, and every zone is checked.",
        None,
        &["adopt"],
    ),
    ("From the rules, write each assistant's files, in its own form.", None, &["publish"]),
    ("Are all told the same? A rule that names its assistants is meant to differ.", None, &["parity"]),
    (
        "A colleague mends a published file by hand. Publishing would not overwrite that; absorbing takes it back into \
         the rule.",
        Some(Edit {
            file: "kiosk/TANSEL.md",
            from: "# Kiosk\n",
            to: "# Kiosk\n\n- Keep the way back to the welcome screen on every screen.\n",
        }),
        &["absorb"],
    ),
    ("And from there to whoever is told that rule.", None, &["publish"]),
    ("In CI: is every file as publishing would write it?", None, &["publish", "--check"]),
    (
        "A new rule says at once what it reaches, weighs, repeats and contradicts.",
        None,
        &["draft", "packages", "--for", "kiosk/**", "--text", "Use npm for packages, never pnpm.", "--dry-run"],
    ),
    (
        "A long file can be split: each section gets the scope that it speaks of.",
        None,
        &["split", "guidance/rules/hollowbarrow-seed-bank.md"],
    ),
];

/// An edit by hand.
struct Edit {
    file: &'static str,
    from: &'static str,
    to: &'static str,
}

impl Edit {
    fn make(&self, project: &Path) -> Result<(), Failure> {
        let file = project.join(self.file);
        let failed = |error| Failure::told(format!("cannot edit {}: {error}", file.display()), "");
        let text = std::fs::read_to_string(&file).map_err(failed)?;
        std::fs::write(&file, text.replacen(self.from, self.to, 1)).map_err(failed)
    }
}

pub fn run(args: &TourArgs, global: &Global) -> Result<Exit, Failure> {
    let (folder, _temporary) = match &args.into {
        Some(folder) => (folder.clone(), None),
        None => {
            let made = tempfile::tempdir()
                .map_err(|error| Failure::told(format!("cannot make a temporary folder: {error}"), "use --into DIR"))?;
            (made.path().to_path_buf(), Some(made))
        }
    };
    let project = folder.join("hollowbarrow");
    let home = folder.join("home");
    if args.into.is_some() && std::fs::read_dir(&folder).is_ok_and(|mut entries| entries.next().is_some()) {
        return Err(Failure::told(
            format!("{} is not empty", folder.display()),
            "name a folder that is empty or not there yet",
        ));
    }
    lay_out(&PROJECT, &project)?;
    lay_out(&HOME, &home)?;
    link(&project)?;
    // The commands run in another folder, where a relative path would lead elsewhere.
    let here = |folder: PathBuf| std::path::absolute(&folder).unwrap_or(folder);
    let (project, home) = (here(project), here(home));
    let files = count_files(&PROJECT);
    say(&format!(
        "The repository of the Hollowbarrow Seed Bank: {files} files, four assistants, and the mistakes that people make."
    ))?;
    for (text, command) in STEPS {
        say(text)?;
        show(command)?;
        step(command, &project, &home, global)?;
    }
    let copy = here(folder.join("adopted"));
    lay_out(&PROJECT, &copy)?;
    for (text, edit, command) in WRITING {
        say(text)?;
        if let Some(edit) = edit {
            edit.make(&copy)?;
        }
        show(command)?;
        step(command, &copy, &home, global)?;
    }
    let kept = match &args.into {
        Some(folder) => {
            format!("The project stays in {}. Change to it and go on trying.", folder.join("hollowbarrow").display())
        }
        None => "To keep the project and try things: `signpost tour --into DIR`.".to_owned(),
    };
    say(&format!("That was the tour. {kept} Then go to a repository of your own: `signpost survey`."))?;
    Ok(Exit::Fine)
}

/// The command as a person types it.
fn show(command: &[&str]) -> Result<(), Failure> {
    let quoted = |word: &&str| if word.contains([' ', '*']) { format!("'{word}'") } else { (*word).to_owned() };
    let line: Vec<String> = command.iter().map(quoted).collect();
    let style = STRONG.fg_color(COMMAND.get_fg_color());
    print(&format!("{}\n\n", paint(style, format!("$ signpost {}", line.join(" ")))))
}

/// Runs one command as a person would.
fn step(command: &[&str], project: &Path, home: &Path, global: &Global) -> Result<(), Failure> {
    let failed = |error: std::io::Error| Failure::told(format!("cannot run signpost: {error}"), "");
    let program = std::env::current_exe().map_err(failed)?;
    let color = match anstream::stdout().current_choice() {
        anstream::ColorChoice::Never => "never",
        _ => "always",
    };
    let status = Command::new(program)
        .args(command)
        .args(["--color", color, "--home"])
        .arg(home)
        .env_remove("XDG_CONFIG_HOME")
        .current_dir(project)
        .status()
        .map_err(failed)?;
    if global.verbose {
        anstream::eprintln!("{status}");
    }
    match status.code() {
        Some(0 | 1) => Ok(()),
        _ => Err(Failure::told(format!("signpost {} failed: {status}", command.join(" ")), "")),
    }
}

fn say(text: &str) -> Result<(), Failure> {
    let lines: Vec<String> = wrap(text, width().min(90)).iter().map(|line| paint(FAINT, format!("# {line}"))).collect();
    print(&format!("\n{}\n", lines.join("\n")))
}

fn lay_out(files: &Dir<'_>, folder: &Path) -> Result<(), Failure> {
    std::fs::create_dir_all(folder)
        .and_then(|()| files.extract(folder))
        .map_err(|error| Failure::told(format!("cannot write the sample project to {}: {error}", folder.display()), ""))
}

/// The program can't carry links along, so they are made here: a file that was linked to another assistant's
/// name, and then renamed.
fn link(project: &Path) -> Result<(), Failure> {
    #[cfg(unix)]
    std::os::unix::fs::symlink("../RULES.md", project.join("docs/TANSEL.md"))
        .map_err(|error| Failure::told(format!("cannot write the sample project: {error}"), ""))?;
    #[cfg(not(unix))]
    let _ = project;
    Ok(())
}

fn count_files(folder: &Dir<'_>) -> usize {
    folder.files().count() + folder.dirs().map(count_files).sum::<usize>()
}
