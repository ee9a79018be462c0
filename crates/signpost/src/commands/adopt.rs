use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use crate::{apply, ask};
use clap::Args;
use signpost_core::change::adopt::{Adoption, Checked, Difference, adopt, check};
use signpost_core::change::publish::changes::Change;
use signpost_core::change::publish::profiles;
use signpost_core::project::lock::Lock;
use signpost_core::project::workspace::Workspace;

/// Bring the files that are here into the guidance
///
/// What several assistants are told in the same words becomes one rule; scope, reach and level stay. Where
/// assistants are told nearly the same, the wordings are laid side by side: choose one with --prefer or when
/// asked, else each assistant keeps its own. Nothing is deleted: new rules are written to guidance/rules/, and
/// signpost.lock notes the adopted files, so that `signpost publish` may replace them afterwards.
///
/// Then every zone is checked: would publishing tell each assistant the same directives, in the same precedence?
/// Exits with 1 where it would not.
#[derive(Debug, Args)]
pub struct AdoptArgs {
    /// Where wordings differ, take this assistant's for all
    #[arg(long, value_name = "ASSISTANT")]
    prefer: Option<String>,
    /// Write nothing; show what would be written
    #[arg(long)]
    dry_run: bool,
    /// Ask nothing: where wordings differ, each assistant keeps its own
    #[arg(long, short, conflicts_with = "prefer")]
    yes: bool,
}

pub fn run(args: &AdoptArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let alone = if args.dry_run { None } else { Some(apply::alone(&session)?) };
    let workspace = session.workspace()?;
    let project = session.project(&workspace)?;
    let lock = workspace.lock()?;
    let chosen = profiles(&workspace, &project, &global.assistant, &lock)?;
    if let Some(name) = &args.prefer
        && !chosen.iter().any(|profile| profile.name == *name)
    {
        let all = chosen.iter().map(|profile| profile.name.as_str()).collect::<Vec<_>>().join(", ");
        return Err(Failure::told(format!("`{name}` is no assistant in use here"), format!("there are: {all}")));
    }
    let mut failed = None;
    let mut choose = |difference: &Difference| match (&args.prefer, failed.is_some()) {
        (Some(name), _) => difference.versions.iter().position(|version| version.assistants.contains(name)),
        (None, false) if !args.yes && !args.dry_run && ask::can_ask() => ask_which(&workspace, difference)
            .unwrap_or_else(|error| {
                failed = Some(error);
                None
            }),
        _ => None,
    };
    let adoption = adopt(&workspace, &project, &chosen, &mut choose)?;
    if let Some(error) = failed {
        return Err(error);
    }
    session.say_undescribed(&workspace, &project, global);
    let checked = session.patiently("Checking every zone", || check(&workspace, &project, &chosen, &adoption))?;
    if let Some(alone) = &alone {
        let (changes, new) = written(&lock, &adoption, &checked);
        apply::rules_then_lock(session.root(), changes, lock, new, alone)?;
    }
    let shown = render::adopt::Shown {
        workspace: &workspace,
        adoption: &adoption,
        checked: &checked,
        dry_run: args.dry_run,
        preferred: args.prefer.is_some(),
    };
    match global.format() {
        Format::Text => render::print(&render::adopt::text(&shown))?,
        Format::Json => session.print_json(&workspace, &render::adopt::json(&shown))?,
    }
    let same = checked.changes.is_empty();
    Ok(if same { Exit::Fine } else { Exit::Findings }.and(session.end(&workspace)))
}

fn ask_which(workspace: &Workspace<'_>, difference: &Difference) -> Result<Option<usize>, Failure> {
    anstream::eprint!("{}", render::adopt::side_by_side(workspace, difference));
    loop {
        let answer = ask::line("Which one for all? Its number, or nothing for each its own:")?;
        if answer.is_empty() {
            return Ok(None);
        }
        match answer.parse::<usize>() {
            Ok(number) if (1..=difference.versions.len()).contains(&number) => return Ok(Some(number - 1)),
            _ => anstream::eprintln!("a number from 1 to {}", difference.versions.len()),
        }
    }
}

/// The new rules, and the lock that knows what was adopted.
fn written(old: &Lock, adoption: &Adoption, checked: &Checked) -> (Vec<Change>, Lock) {
    let mut lock = adoption.lock(old);
    // Who chose a wording has said what is meant.
    lock.unconfirmed |= !checked.changes.is_empty() && adoption.changed.is_empty();
    // A rule that a killed run wrote is there already.
    let missing = adoption.rules.iter().filter(|rule| !rule.there);
    (missing.map(|rule| Change::create(&rule.path, &rule.text)).collect(), lock)
}
