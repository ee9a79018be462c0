use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use crate::session::Session;
use crate::{apply, ask};
use clap::Args;
use signpost_core::base::repo_path::{Location, RepoPath};
use signpost_core::change::new_rule::{Example, attempt, body};
use signpost_core::change::publish::changes::Change;
use signpost_core::change::publish::profiles;
use signpost_core::files::{Look, Tree, door};
use signpost_core::inspect::pattern_suggest::from_examples;
use signpost_core::pattern::Dialect;
use signpost_core::profile::Reach;
use signpost_core::project::guidance::RuleHeader;
use signpost_core::project::workspace::Project;
use std::path::PathBuf;
use std::process::Command;

/// Write a new rule, and see at once what it reaches, weighs, repeats and contradicts
///
/// The rule is written to guidance/rules/NAME.md. Without a scope it is told in every conversation; `--for` and
/// `--like` make it a rule for some files, `--offered` one that assistants pick by its summary. Without words it
/// opens $EDITOR.
#[derive(Debug, Args)]
pub struct DraftArgs {
    /// The rule's name, such as `retries` or `ledger/migrations`
    name: String,
    /// A path pattern that the rule is for; give it several times
    #[arg(long = "for", value_name = "PATTERN")]
    paths: Vec<String>,
    /// Example files that it is for; the smallest pattern that takes them is found
    #[arg(long, value_name = "FILE", num_args = 1.., conflicts_with = "paths")]
    like: Vec<PathBuf>,
    /// Offer it by this summary, for assistants to pick when it is of use
    #[arg(long, value_name = "SUMMARY")]
    offered: Option<String>,
    /// A file with code as it should not be
    #[arg(long, value_name = "FILE", requires = "right")]
    wrong: Option<PathBuf>,
    /// A file with code as it should be
    #[arg(long, value_name = "FILE", requires = "wrong")]
    right: Option<PathBuf>,
    /// The rule's words
    #[arg(long, value_name = "WORDS", allow_hyphen_values = true)]
    text: Option<String>,
    /// Write nothing; show the rule and what it does
    #[arg(long)]
    dry_run: bool,
}

pub fn run(args: &DraftArgs, global: &Global) -> Result<Exit, Failure> {
    let session = Session::open(global)?;
    let path = rule_path(&args.name)?;
    if session.tree.look(&Location::root(path.clone())) != Look::Nothing {
        let help = "choose another name, or edit the rule that is there";
        return Err(Failure::told(format!("{path} is there already"), help));
    }
    let alone = if args.dry_run { None } else { Some(apply::alone(&session)?) };
    let workspace = session.workspace()?;
    let project = session.project(&workspace)?;
    let (header, fits) = header(args, &session, &project)?;
    let words = words(args)?;
    let lock = workspace.lock()?;
    let chosen = profiles(&workspace, &project, &global.assistant, &lock)?;
    let trial =
        session.patiently("Trying the rule", || attempt(&workspace, &project, &chosen, &path, &header, &words))?;
    if let Some(alone) = &alone {
        apply::create(session.root(), vec![Change::create(&path, &trial.text)], lock, alone)?;
    }
    let shown = render::draft::Shown {
        path: &path,
        header: &header,
        trial: &trial,
        fits: &fits,
        all_files: project.index.sources().count(),
        dry_run: args.dry_run,
    };
    match global.format() {
        Format::Text => render::print(&render::draft::text(&shown))?,
        Format::Json => session.print_json(&workspace, &render::draft::json(&shown))?,
    }
    Ok(session.end(&workspace))
}

/// The file of a rule of that name.
fn rule_path(name: &str) -> Result<RepoPath, Failure> {
    let name = name.strip_suffix(".md").unwrap_or(name);
    let plain = !name.is_empty()
        && name.split('/').all(|part| {
            !part.is_empty()
                && !part.starts_with('.')
                && part.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '.'))
        });
    if !plain {
        let help = "use letters, digits and hyphens, and `/` for folders: `retries` or `ledger/migrations`";
        return Err(Failure::told(format!("`{name}` is no name for a rule"), help));
    }
    Ok(RepoPath::root().join(&format!("guidance/rules/{name}.md")))
}

/// The header, from options or questions, with the other patterns that fit the examples.
fn header(args: &DraftArgs, session: &Session, project: &Project) -> Result<(RuleHeader, Vec<String>), Failure> {
    let mut header = RuleHeader { paths: args.paths.clone(), summary: args.offered.clone(), ..RuleHeader::default() };
    let mut fits = Vec::new();
    if !args.like.is_empty() {
        let like = args.like.iter().map(|file| session.path(file)).collect::<Result<Vec<_>, _>>()?;
        let found = from_examples(&project.index, &like, &[], &Dialect::default());
        let mut found = found.into_iter().map(|fit| fit.patterns);
        header.paths = found.next().unwrap_or_default();
        fits = found.map(|patterns| patterns.join(", ")).collect();
    }
    let silent = args.paths.is_empty() && args.like.is_empty() && args.offered.is_none();
    if silent && args.text.is_none() && args.wrong.is_none() && ask::can_ask() {
        let pattern = ask::line("Which files is it for? A pattern, or nothing for all:")?;
        if !pattern.is_empty() {
            header.paths = vec![pattern];
        } else {
            let summary = ask::line("To be picked when needed? A summary, or nothing to tell it always:")?;
            header.summary = (!summary.is_empty()).then_some(summary);
        }
    }
    for pattern in &header.paths {
        if let Err(error) = signpost_core::pattern::Pattern::parse(pattern, &Dialect::default()) {
            let help = "patterns count from the root: `*.rs`, `kiosk/**/*.ts`";
            return Err(Failure::told(format!("`{pattern}` is no valid pattern: {error}"), help));
        }
    }
    if let Some(summary) = &mut header.summary {
        *summary = summary.split_whitespace().collect::<Vec<_>>().join(" ");
        header.reach = Some(Reach::Offered);
    }
    Ok((header, fits))
}

/// The body: the words given, else what is written in the editor.
fn words(args: &DraftArgs) -> Result<String, Failure> {
    let read = |file: &PathBuf| -> Result<Example, Failure> {
        let code = door::read_text(file, MOST_EXAMPLE_BYTES)
            .map_err(|error| Failure::told(format!("cannot read {}: {error}", file.display()), "name a text file"))?;
        let name = file.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        Ok(Example { name, code })
    };
    let (wrong, right) = (args.wrong.as_ref().map(read).transpose()?, args.right.as_ref().map(read).transpose()?);
    let mut text = body(args.text.as_deref().unwrap_or_default(), wrong.as_ref(), right.as_ref());
    if args.text.is_none() && ask::can_ask() {
        text = in_editor(&text)?;
    }
    if text.trim().is_empty() {
        return Err(Failure::told(
            "the rule has no words",
            "give them with --text, or set $EDITOR and run on a terminal",
        ));
    }
    Ok(text)
}

/// More than any rule holds.
const MOST_EXAMPLE_BYTES: u64 = 1 << 20;

/// What is taken out of a text that comes from the editor.
const REMARK: &str = "<!-- Write the rule above: one instruction an item. This line is taken out. -->";

fn in_editor(text: &str) -> Result<String, Failure> {
    let editor =
        ["VISUAL", "EDITOR"].into_iter().find_map(|name| std::env::var(name).ok()).filter(|one| !one.is_empty());
    let Some(editor) = editor else { return Ok(text.to_owned()) };
    let failed =
        |error: std::io::Error| Failure::told(format!("cannot open {editor}: {error}"), "give the words with --text");
    let file = tempfile::Builder::new().prefix("rule-").suffix(".md").tempfile().map_err(failed)?;
    std::fs::write(file.path(), format!("{text}\n\n{REMARK}\n")).map_err(failed)?;
    // The variable may hold options, as other programs take it.
    let mut words = editor.split_whitespace();
    let program = words.next().unwrap_or_default();
    let status = Command::new(program).args(words).arg(file.path()).status().map_err(failed)?;
    if !status.success() {
        return Err(Failure::told(format!("{editor} ended with {status}"), "nothing was written"));
    }
    let text = door::read_text(file.path(), MOST_EXAMPLE_BYTES)
        .map_err(|error| Failure::told(format!("cannot read what {editor} left: {error}"), "nothing was written"))?;
    Ok(text.replace(REMARK, "").trim().to_owned())
}
