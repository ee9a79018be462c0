use crate::exit::{Exit, Failure};
use crate::options::{FormatArg, Global};
use crate::session::Session;
use crate::{apply, ask, render};
use clap::Args;
use signpost_core::base::wording::count;
use signpost_core::change::publish::changes::Change;
use signpost_core::check::Context;
use signpost_core::check::doubts::{Doubt, Which, doubts};
use signpost_core::files::door;
use signpost_core::project::settled::{Ruling, SETTLED_FILE, Settled};
use signpost_core::project::workspace::{Workspace, WorkspaceError};
use std::io::Read;
use std::path::{Path, PathBuf};

/// Show pairs of instructions that may contradict or repeat each other, for a reader to decide
///
/// Where lint is not sure enough to report, it says so here, the likeliest first. `signpost doubts --format prompt` is one
/// text to hand to any assistant; `--answers` reads what comes back. `signpost settle` records a single verdict.
#[derive(Debug, Args)]
pub struct DoubtsArgs {
    /// Only doubts about instructions in these files and folders
    #[arg(value_name = "PATH")]
    paths: Vec<PathBuf>,
    /// Also what lint reports already
    #[arg(long)]
    all: bool,
    /// So many at most; without it, 5 to 20, as many as are more than faint
    #[arg(long, value_name = "NUMBER")]
    limit: Option<usize>,
    /// Read verdicts from a file, or from standard input (-), and record them: lines such as `8f3a2c1d fine: reason`
    #[arg(long, value_name = "FILE")]
    answers: Option<PathBuf>,
    /// With --answers: record them without asking
    #[arg(long, requires = "answers")]
    yes: bool,
}

/// Record what you decided of two instructions, by the id that `signpost doubts` names
///
/// The verdict is written to guidance/settled.toml with a hash of both sentences: from then on lint reports the pair as a
/// finding, or never again, the same on every machine. When either sentence changes, the verdict lapses.
#[derive(Debug, Args)]
pub struct SettleArgs {
    /// The pair, as `signpost doubts` names it
    id: String,
    /// contradiction: they can't both be followed; same: they say the same; fine: leave them alone
    #[arg(value_parser = ["contradiction", "same", "fine"])]
    verdict: String,
    /// Why, for who reads the file later
    #[arg(long, value_name = "TEXT")]
    because: String,
}

/// In whole files, of what is likely by less than this hardly any is a contradiction.
const FAINT: f32 = 0.4;
/// Nobody reads more at one sitting; and these few are shown however faint they are.
const MOST: usize = 20;
const FEW: usize = 5;

pub fn run(args: &DoubtsArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    if let Some(file) = &args.answers {
        return answered(&session, global, file, args.yes);
    }
    let (workspace, project) = session.read(global)?;
    session.say_guesses(&workspace, &project);
    let below = args.paths.iter().map(|path| session.path(path)).collect::<Result<Vec<_>, _>>()?;
    let survey = signpost_core::inspect::survey::with_guidance(&workspace, &project, &global.assistant)?;
    let context = Context::new(&workspace, &project, &survey, None)?;
    let found = session
        .patiently("Comparing", || doubts(&context, &below, if args.all { Which::Reported } else { Which::Open }));
    let limit =
        args.limit.unwrap_or_else(|| found.iter().filter(|doubt| doubt.score >= FAINT).count().clamp(FEW, MOST));
    let shown =
        render::doubts::Shown { workspace: &workspace, all: found.len(), doubts: &found[..found.len().min(limit)] };
    match global.format {
        FormatArg::Json => session.print_json(&workspace, &render::doubts::json(&shown))?,
        FormatArg::Prompt => render::print(&render::doubts::prompt(&shown))?,
        _ => render::print(&render::doubts::text(&shown))?,
    }
    Ok(session.end(&workspace))
}

/// All pairs that somebody could settle.
fn all_doubts(session: &Session, global: &Global, workspace: &Workspace<'_>) -> Result<Vec<Doubt>, Failure> {
    let project = session.project(workspace)?;
    let survey = signpost_core::inspect::survey::with_guidance(workspace, &project, &global.assistant)?;
    let context = Context::new(workspace, &project, &survey, None)?;
    Ok(session.patiently("Comparing", || doubts(&context, &[], Which::Every)))
}

pub fn settle(args: &SettleArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let alone = apply::alone(&session)?;
    let workspace = session.workspace_to_read()?;
    let found = all_doubts(&session, global, &workspace)?;
    let id = args.id.to_lowercase();
    let Some(doubt) = found.iter().find(|doubt| doubt.id == id) else {
        let help = "`signpost doubts --all` lists the pairs with their ids; an id changes when a sentence does";
        return Err(Failure::told(format!("there is no pair {}", args.id), help));
    };
    let verdict = Ruling::of(&args.verdict).unwrap_or(Ruling::Fine);
    record(&session, &workspace, &[(doubt, verdict, args.because.clone())], &alone)?;
    match global.format {
        FormatArg::Json => {
            session.print_json(&workspace, &render::doubts::settled_json(&[(doubt, verdict, args.because.clone())]))?
        }
        _ => render::print(&render::doubts::settled(&[(doubt, verdict, args.because.clone())]))?,
    }
    Ok(session.end(&workspace))
}

/// No answer is longer.
const MOST_BYTES: u64 = 4 << 20;

fn answered(session: &Session, global: &Global, file: &Path, yes: bool) -> Result<Exit, Failure> {
    let text = if file == Path::new("-") {
        let mut bytes = Vec::new();
        let read = std::io::stdin().take(MOST_BYTES).read_to_end(&mut bytes);
        read.map_err(|error| Failure::told(format!("cannot read standard input: {error}"), "give the answer there"))?;
        String::from_utf8_lossy(&bytes).into_owned()
    } else {
        door::read_text(file, MOST_BYTES)
            .map_err(|error| Failure::told(format!("cannot read {}: {error}", file.display()), "name a text file"))?
    };
    let alone = apply::alone(session)?;
    let workspace = session.workspace_to_read()?;
    let found = all_doubts(session, global, &workspace)?;
    let mut verdicts: Vec<(&Doubt, Ruling, String)> = Vec::new();
    let mut unknown = Vec::new();
    for (id, verdict, because) in text.lines().filter_map(answer) {
        match found.iter().find(|doubt| doubt.id == id) {
            Some(doubt) => {
                verdicts.retain(|(known, ..)| known.id != id);
                verdicts.push((doubt, verdict, because));
            }
            None => unknown.push(id),
        }
    }
    if !unknown.is_empty() {
        let message = format!("no pair is called {}", unknown.join(", "));
        anstream::eprintln!(
            "{}",
            render::snippet::plain("warning", &format!("{message}: a sentence may have changed"))
        );
    }
    if verdicts.is_empty() {
        let help = "a verdict is a line such as `8f3a2c1d fine: the second is for tests`";
        return Err(Failure::told("there is no verdict in the answer", help));
    }
    if !yes {
        render::print(&render::doubts::settled(&verdicts))?;
        if !ask::can_ask() {
            return Err(Failure::told("nothing was recorded", "`--yes` records them without asking"));
        }
        if !ask::yes(&format!("Record {}?", count(verdicts.len(), "verdict")))? {
            return Ok(Exit::Findings);
        }
    }
    record(session, &workspace, &verdicts, &alone)?;
    match global.format {
        FormatArg::Json => session.print_json(&workspace, &render::doubts::settled_json(&verdicts))?,
        _ if yes => render::print(&render::doubts::settled(&verdicts))?,
        _ => {}
    }
    Ok(session.end(&workspace))
}

/// The verdict that a line gives: an id, one of the three words, and why.
fn answer(line: &str) -> Option<(String, Ruling, String)> {
    let mut words = line.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty());
    let id = words.find(|word| word.len() == 8 && word.bytes().all(|byte| byte.is_ascii_hexdigit()))?;
    let word = words.next()?;
    let verdict = Ruling::of(&word.to_lowercase())?;
    let after = line.find(word).map_or("", |at| &line[at + word.len()..]);
    let because =
        after.trim_matches(|c: char| c.is_whitespace() || matches!(c, ':' | '-' | '–' | '—' | '`' | '*' | '|' | ')'));
    let because = if because.is_empty() { "no reason was given" } else { because };
    Some((id.to_lowercase(), verdict, because.chars().take(300).collect()))
}

fn record(
    session: &Session,
    workspace: &Workspace<'_>,
    verdicts: &[(&Doubt, Ruling, String)],
    alone: &apply::Guard,
) -> Result<(), Failure> {
    let old = workspace.settled_text()?;
    let with = |text: String, (doubt, verdict, because): &(&Doubt, Ruling, String)| {
        let [one, other] = &doubt.sides;
        Settled::with(&text, &doubt.hash, *verdict, because, [&one.text, &other.text])
    };
    let new = verdicts.iter().try_fold(old.clone(), with).map_err(WorkspaceError::from)?;
    let path = signpost_core::base::repo_path::RepoPath::root().join(SETTLED_FILE);
    let change =
        if old.is_empty() { Change::create(&path, &new) } else { Change::replace(&path, old.as_bytes(), Some(&new)) };
    apply::create(session.root(), vec![change], workspace.lock()?, alone)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn verdicts_are_found_in_what_assistants_write() {
        for line in
            ["8f3a2c1d fine: for tests", "- **8f3a2c1d** — fine — for tests", "| `8F3A2C1D` | Fine | for tests |"]
        {
            assert_eq!(answer(line), Some(("8f3a2c1d".to_owned(), Ruling::Fine, "for tests".to_owned())), "{line}");
        }
        for line in ["", "8f3a2c1d", "8f3a2c1d perhaps", "fine 12345678", "The pair 8f3a2c1d is fine", "x8f3a2c1d fine"]
        {
            assert_eq!(answer(line), None, "{line}");
        }
    }
}
