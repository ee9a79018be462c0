use crate::apply;
use crate::exit::{Exit, Failure};
use crate::git;
use crate::options::{Format, FormatArg, Global};
use crate::render;
use crate::session::Session;
use crate::write;
use clap::{Args, ValueEnum};
use signpost_core::base::repo_path::{Location, RepoPath};
use signpost_core::base::wording::{count, group};
use signpost_core::change::publish::changes::Change;
use signpost_core::check::baseline::Baseline;
use signpost_core::check::{self, Choice, Context, Finding, Renames};
use signpost_core::config::FailOn;
use signpost_core::directive::MOST_DIRECTIVES;
use signpost_core::files::door::{self, Shut};
use signpost_core::project::guidance::Date;
use signpost_core::project::workspace::{Project, Workspace};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

/// Check the instruction files: what is never read, contradicts, is stale, costs too much or is unsafe
///
/// Each finding points at the words at fault, says why that matters and how to mend it. `signpost explain
/// CHECK` teaches a check with a bad and a good example. Severities are set in signpost.toml; a line
/// `<!-- signpost: allow CHECK — reason -->` in a file lets its next block pass.
#[derive(Debug, Args)]
pub struct LintArgs {
    /// Only findings in, or about, these files and folders
    #[arg(value_name = "PATH")]
    paths: Vec<PathBuf>,
    /// Only findings in, or about, files that git says are changed, staged or new
    #[arg(long, conflicts_with = "paths")]
    changed: bool,
    /// Run only this check or group; give it several times, or with commas
    #[arg(long, value_name = "CHECK", value_delimiter = ',')]
    only: Vec<String>,
    /// Leave this check or group out; give it several times, or with commas
    #[arg(long, value_name = "CHECK", value_delimiter = ',')]
    skip: Vec<String>,
    /// Mend what can be mended safely, then report the rest
    #[arg(long)]
    fix: bool,
    /// With --fix: show what would change, and change nothing
    #[arg(long, requires = "fix")]
    dry_run: bool,
    /// Record today's findings in this file if it is not there yet; else only findings that are not in it count
    #[arg(long, value_name = "FILE")]
    baseline: Option<PathBuf>,
    /// Draw notes with their lines too, which are listed otherwise
    #[arg(long)]
    notes: bool,
    /// From which severity on findings make the exit code 1 [default: warning, or `fail_on` in signpost.toml]
    #[arg(long, value_enum, value_name = "SEVERITY")]
    fail_on: Option<FailOnArg>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum FailOnArg {
    Note,
    Warning,
    Error,
    Never,
}

impl From<FailOnArg> for FailOn {
    fn from(arg: FailOnArg) -> Self {
        match arg {
            FailOnArg::Note => FailOn::Note,
            FailOnArg::Warning => FailOn::Warning,
            FailOnArg::Error => FailOn::Error,
            FailOnArg::Never => FailOn::Never,
        }
    }
}

pub fn run(args: &LintArgs, global: &Global) -> Result<Exit, Failure> {
    let choice = Choice { only: known(&args.only)?, skip: known(&args.skip)? };
    let mends = args.fix && !args.dry_run;
    if args.dry_run && !matches!(global.format, FormatArg::Text | FormatArg::Json) {
        let help = "use `--format text` for a diff, or `--format json`";
        return Err(Failure::told("what would be mended can't be shown in this format", help));
    }
    let session = Session::open(global)?;
    let alone = if mends { Some(apply::alone(&session)?) } else { None };
    let mut paths = None;
    let mut mended = Mended::default();
    let mut round = 0;
    loop {
        let (workspace, project) = looked_into(args, global, &session, round)?;
        if round == 0 {
            paths = looked_at(args, &session, &project)?;
        }
        let survey = signpost_core::inspect::survey::with_guidance(&workspace, &project, &global.assistant)?;
        let root = session.root();
        let renames = Renames::asked(move || git::renames(root));
        let context = Context::new(&workspace, &project, &survey, today())?.with_renames(renames);
        let mut findings = session.patiently("Checking", || check::run_chosen(&context, &choice));
        keep(&mut findings, paths.as_deref());
        // A fix can make room for another one that overlapped it, so it is looked again.
        if args.fix && round < MOST_ROUNDS {
            let changes = mended.plan(session.root(), &workspace, &findings);
            if args.dry_run {
                return dry_run(global, &session, &workspace, &mended, &changes);
            }
            if let Some(alone) = alone.as_ref().filter(|_| !changes.is_empty()) {
                apply::create(session.root(), changes, workspace.lock()?, alone)?;
                round += 1;
                continue;
            }
        }
        if args.fix {
            anstream::eprintln!("{}", mended.text(false));
        }
        return report(args, global, &session, &context, findings);
    }
}

/// The project. What is mended rests on profiles that somebody wrote.
fn looked_into<'s>(
    args: &LintArgs,
    global: &Global,
    session: &'s Session,
    round: usize,
) -> Result<(Workspace<'s>, Project), Failure> {
    if !args.fix {
        let (workspace, project) = session.read(global)?;
        session.say_guesses(&workspace, &project);
        return Ok((workspace, project));
    }
    let workspace = if round == 0 { session.workspace()? } else { session.workspace_quietly()? };
    let project = session.project(&workspace)?;
    Ok((workspace, project))
}

/// Shows what would be mended.
fn dry_run(
    global: &Global,
    session: &Session,
    workspace: &Workspace<'_>,
    mended: &Mended,
    changes: &[Change],
) -> Result<Exit, Failure> {
    match global.format() {
        Format::Text => {
            for change in changes {
                render::print(&render::lint::mend(change))?;
            }
            anstream::eprintln!("{}", mended.text(true));
        }
        Format::Json => session.print_json(workspace, &render::lint::mends_json(mended.findings, changes))?,
    }
    Ok(if mended.findings > 0 { Exit::Findings } else { Exit::Fine }.and(session.end(workspace)))
}

/// Fixes that overlap need another round; no more than so many do.
const MOST_ROUNDS: usize = 8;

/// Says of which texts only the beginning was read.
fn warn_of_cut_texts(context: &Context<'_, '_>) {
    let mut cut = context.texts.iter().filter(|text| text.outline.cut);
    let Some(first) = cut.next() else { return };
    let others = match cut.count() {
        0 => String::new(),
        1 => "; so it is with another file".to_owned(),
        many => format!("; so it is with {} other files", group(many)),
    };
    let read = first.outline.directives.len();
    let why = if read < MOST_DIRECTIVES { "there are very many files" } else { "no assistant follows as many" };
    let message = format!("{}: only its first {} directives are read, {why}{others}", first.location(), group(read));
    anstream::eprintln!("{}", render::snippet::plain("warning", &message));
}

/// Prints what was found.
fn report(
    args: &LintArgs,
    global: &Global,
    session: &Session,
    context: &Context<'_, '_>,
    mut findings: Vec<Finding>,
) -> Result<Exit, Failure> {
    let (workspace, survey) = (context.workspace, context.survey);
    warn_of_cut_texts(context);
    let note = match &args.baseline {
        Some(file) => Some(baseline(file, workspace, &mut findings)?),
        None => None,
    };
    let shown =
        render::lint::Shown { workspace, survey, findings: &findings, note: note.as_deref(), notes: args.notes };
    match global.format {
        FormatArg::Json => session.print_json(workspace, &render::lint::json(workspace, &findings))?,
        format => render::lint_formats::print(format, &shown, &session.unread(workspace))?,
    }
    let fail_on = args.fail_on.map(FailOn::from).or(workspace.config.lint.fail_on).unwrap_or_default();
    let counts = findings.iter().any(|finding| fail_on.counts(finding.severity));
    let exit = if counts { Exit::Findings } else { Exit::Fine };
    Ok(exit.and(session.end(workspace)))
}

fn today() -> Option<Date> {
    SystemTime::now().duration_since(UNIX_EPOCH).ok().map(|since| Date::from_seconds(since.as_secs()))
}

/// The names as checks.
fn known(names: &[String]) -> Result<Vec<String>, Failure> {
    let mut found = Vec::new();
    for name in names {
        let own = check::named(name);
        if own.is_empty() {
            return Err(Failure::told(format!("there is no check or group `{name}`"), check::did_you_mean(name)));
        }
        found.extend(own.into_iter().map(|info| info.name.to_owned()));
    }
    Ok(found)
}

/// The paths that findings are asked for; `None` for all.
fn looked_at(args: &LintArgs, session: &Session, project: &Project) -> Result<Option<Vec<RepoPath>>, Failure> {
    if args.changed {
        // Of files whose names are not UTF-8 the walk speaks.
        return Ok(Some(crate::git::changed(session.root(), &project.index)?.0));
    }
    if args.paths.is_empty() {
        return Ok(None);
    }
    let mut paths = Vec::new();
    for typed in &args.paths {
        let path = session.path(typed)?;
        if !path.is_root() && session.root().join(path.as_str()).symlink_metadata().is_err() {
            return Err(Failure::told(
                format!("there is no file or folder {}", typed.display()),
                "paths count from the current folder",
            ));
        }
        paths.push(path);
    }
    Ok(Some(paths))
}

/// Leaves the findings in, or about, some paths.
fn keep(findings: &mut Vec<Finding>, paths: Option<&[RepoPath]>) {
    let Some(paths) = paths else { return };
    let inside = |path: &RepoPath| paths.iter().any(|asked| path.is_in(asked));
    let there = |location: &Location| location.in_root().is_some_and(&inside);
    findings.retain(|finding| {
        there(&finding.location)
            || finding.related.iter().any(|related| there(&related.location))
            || finding.witness.as_ref().is_some_and(|witness| paths.contains(witness))
    });
}

/// What was mended.
#[derive(Default)]
struct Mended {
    findings: usize,
    files: BTreeSet<Location>,
}

impl Mended {
    /// What mending what is safe would change; it is counted as done.
    fn plan(&mut self, root: &Path, workspace: &Workspace<'_>, findings: &[Finding]) -> Vec<Change> {
        let mut by_file: BTreeMap<&Location, Vec<&Finding>> = BTreeMap::new();
        for finding in findings.iter().filter(|finding| finding.is_fixable()) {
            by_file.entry(&finding.location).or_default().push(finding);
        }
        let mut changes = Vec::new();
        // Several links may lead to one file, which is mended once.
        let mut real = BTreeSet::new();
        for (location, findings) in by_file {
            let document = workspace.document(location);
            if !real.insert(root.join(location.path.as_str()).canonicalize().ok()) {
                continue;
            }
            // Bytes that are not UTF-8 would not survive.
            if document.bad_line().is_some() || document.error.is_some() {
                continue;
            }
            let (fixed, number) = check::fix::apply(&document.text, &findings);
            if number == 0 {
                continue;
            }
            changes.push(Change::replace(&location.path, document.on_disk(), Some(&fixed)));
            self.findings += number;
            self.files.insert(location.clone());
        }
        changes
    }

    fn text(&self, dry_run: bool) -> String {
        let done = if dry_run { "would be mended" } else { "mended" };
        match self.findings {
            0 => "nothing here can be mended safely".to_owned(),
            number => format!("{} in {} {done}", count(number, "finding"), count(self.files.len(), "file")),
        }
    }
}

/// Of some hundred thousand findings.
const MOST_BASELINE_BYTES: u64 = 64 << 20;

/// Records findings, or takes the recorded ones out; what to say of that.
fn baseline(file: &Path, workspace: &Workspace<'_>, findings: &mut Vec<Finding>) -> Result<String, Failure> {
    let document = |finding: &Finding| workspace.document(&finding.location);
    let name = file.display().to_string();
    match door::read_text(file, MOST_BASELINE_BYTES) {
        Ok(text) => {
            let known = Baseline::parse(&name, &text).map_err(Failure::Config)?;
            let (taken, gone) = known.apply(findings, &document);
            let gone = match gone {
                0 => String::new(),
                gone => format!("; {gone} more in it are mended, delete the file and record it anew to forget them"),
            };
            Ok(format!("{} known from {name}{gone}", count(taken, "finding")))
        }
        Err(Shut::System(error)) if error.kind() == std::io::ErrorKind::NotFound => {
            let record = Baseline::record(findings, &document);
            let text = serde_json::to_string_pretty(&record).map_err(|error| Failure::told(error.to_string(), ""))?;
            write::create(file, format!("{text}\n").as_bytes())?;
            let number = std::mem::take(findings).len();
            Ok(format!("{} recorded in {name}; from now on only new ones count", count(number, "finding")))
        }
        Err(error) => Err(Failure::told(format!("cannot read {name}: {error}"), "")),
    }
}
