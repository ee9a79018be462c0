use crate::base::repo_path::RepoPath;
use crate::base::toml_file::nearest;
use crate::check::text::mention::{Command, commands, is_denied};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::facts::{Commands, Ecosystem, Facts};
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("facts/missing-command", Severity::Warning, include_str!("missing_command.toml"));

/// Commands of the package managers themselves; everything else may be a script.
const BUILT_IN: &[&str] = &[
    "add", "audit", "bin", "cache", "ci", "config", "create", "dedupe", "dlx", "exec", "fetch", "help", "i", "import",
    "info", "init", "install", "link", "list", "login", "logout", "ls", "node", "npm", "outdated", "pack", "patch",
    "prune", "publish", "rebuild", "remove", "rm", "root", "self-update", "set", "setup", "store", "uninstall",
    "unlink", "up", "update", "upgrade", "version", "view", "why", "workspace", "workspaces", "x", "env", "plugin",
    "global", "licenses", "policies", "explain", "recursive", "m", "server", "approve-builds", "deploy", "doctor",
    "tag", "team", "owner", "show", "unplug", "constraints", "stage", "pm", "licences",
];

struct Wanted<'a> {
    tool: &'static str,
    name: &'a str,
    span: Range<usize>,
    folder: Option<String>,
    /// Whether it may be the program of a package as well.
    or_program: bool,
}

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    for command in commands(text) {
        if is_denied(text, command.span().start) || text.in_comment(command.span().start) {
            continue;
        }
        for one in wanted(command) {
            // A gap to fill in, or something the shell makes up.
            let plain = one.name.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | ':' | '.' | '/' | '@'));
            if plain && !one.name.is_empty() && !is_gap(one.name) {
                findings.extend(missing(context, text, &one));
            }
        }
    }
}

fn is_gap(name: &str) -> bool {
    matches!(
        name.to_lowercase().as_str(),
        "foo"
            | "bar"
            | "name"
            | "script"
            | "target"
            | "task"
            | "command"
            | "xxx"
            | "x"
            | "..."
            | "script-name"
            | "recipe"
            | "your-script"
    )
}

fn wanted(command: &Command) -> Vec<Wanted<'_>> {
    let program = command.program();
    let folder = command
        .option(&["-C", "--prefix", "--cwd", "--dir", "-f", "--justfile", "-d", "--working-directory"])
        .or(command.folder.as_deref());
    let elsewhere = command
        .option(&[
            "-w", "--workspace", "--filter", "-F", "-f", "--file", "--makefile", "--workspaces", "-r", "--justfile",
        ])
        .is_some();
    let span = |at: usize| command.words[at].1.clone();
    let folder = folder.map(str::to_owned);
    let one = |tool, at: usize, or_program| Wanted {
        tool,
        name: &command.words[at].0,
        span: span(at),
        folder: folder.clone(),
        or_program,
    };
    let mut arguments = command.arguments();
    if elsewhere && program != "make" {
        return Vec::new();
    }
    match program {
        "npm" | "pnpm" | "yarn" | "bun" => match arguments.next() {
            Some((_, "run" | "run-script")) => {
                arguments.next().map(|(at, _)| one("npm", at, program != "npm")).into_iter().collect()
            }
            Some((at, "test" | "start" | "stop" | "restart")) if program != "bun" => vec![one("npm", at, false)],
            Some((at, name)) if matches!(program, "pnpm" | "yarn") && !BUILT_IN.contains(&name) => {
                vec![one("npm", at, true)]
            }
            _ => Vec::new(),
        },
        "deno" => match (arguments.next(), arguments.next()) {
            (Some((_, "task")), Some((at, _))) => vec![one("deno", at, false)],
            _ => Vec::new(),
        },
        "make" if elsewhere => Vec::new(),
        "make" => {
            let given = command.option(&["-C"]);
            arguments
                .filter(|(_, name)| !name.contains('=') && Some(*name) != given)
                .map(|(at, _)| one("make", at, false))
                .collect()
        }
        "just" => {
            let asks = command.has(&["--list", "-l", "--choose", "--show"]);
            arguments
                .next()
                .filter(|(_, name)| !asks && !name.contains("::") && !name.contains('='))
                .map(|(at, _)| one("just", at, false))
                .into_iter()
                .collect()
        }
        "cargo" => match arguments.next() {
            Some((at, "xtask")) => vec![one("cargo", at, false)],
            _ => {
                let package = command.words.iter().position(|(word, _)| matches!(word.as_str(), "-p" | "--package"));
                package
                    .filter(|at| at + 1 < command.words.len())
                    .map(|at| one("cargo -p", at + 1, false))
                    .into_iter()
                    .collect()
            }
        },
        _ => Vec::new(),
    }
}

fn missing(context: &Context<'_, '_>, text: &Text, wanted: &Wanted<'_>) -> Option<Finding> {
    let (message, help) = match wanted.tool {
        "cargo -p" => missing_package(context, wanted.name)?,
        "cargo" => missing_alias(context, wanted.name)?,
        _ => missing_task(context, text, wanted)?,
    };
    Some(text.finding(&INFO, wanted.span.clone(), message).help(help))
}

/// `cargo test -p kiosk`: what is wrong, and what to do.
fn missing_package(context: &Context<'_, '_>, name: &str) -> Option<(String, String)> {
    let facts = &context.facts;
    let rust = facts.manifests.iter().filter(|manifest| manifest.ecosystem == Ecosystem::Rust);
    let names: Vec<&str> = rust.filter_map(|manifest| manifest.name.as_deref()).collect();
    let plain = name.split(['@', ':']).next().unwrap_or(name);
    if names.is_empty() || names.contains(&plain) || facts.has_package(Ecosystem::Rust, plain) {
        return None;
    }
    Some((format!("there is no package `{plain}`"), did_you_mean(plain, &names, "the packages are")))
}

/// `cargo xtask`.
fn missing_alias(context: &Context<'_, '_>, name: &str) -> Option<(String, String)> {
    let facts = &context.facts;
    let alias = facts.commands.iter().any(|file| file.tool == "cargo" && file.names.contains_key(name));
    let package = facts.manifests.iter().any(|manifest| manifest.name.as_deref() == Some(name));
    if alias || package || !facts.manifests.iter().any(|manifest| manifest.ecosystem == Ecosystem::Rust) {
        return None;
    }
    let message = format!("`cargo {name}` is no alias of .cargo/config.toml");
    Some((message, "add the alias, or name the command that there is".to_owned()))
}

/// A script, target, recipe or task.
fn missing_task(context: &Context<'_, '_>, text: &Text, wanted: &Wanted<'_>) -> Option<(String, String)> {
    let (facts, name) = (&context.facts, wanted.name);
    let mut here: Vec<&Commands> = facts.commands.iter().filter(|file| file.tool == wanted.tool).collect();
    if let Some(folder) = &wanted.folder {
        let folders: Vec<RepoPath> = text.bases.iter().filter_map(|base| base.resolve(folder)).collect();
        here.retain(|file| folders.contains(&Facts::folder_of(&file.file)));
        // Where the folder is not known, neither is what is in it.
        if here.is_empty() {
            return None;
        }
    }
    let known = here.iter().any(|file| file.open || file.names.contains_key(name));
    if known || wanted.or_program && is_program(facts, name, here.is_empty()) {
        return None;
    }
    let (noun, file) = match wanted.tool {
        "npm" => ("script", "package.json"),
        "make" => ("target", "Makefile"),
        "just" => ("recipe", "justfile"),
        _ => ("task", "deno.json"),
    };
    if here.is_empty() {
        let message = format!("there is no {file}, so there is no {noun} `{name}`");
        return Some((message, "name the command that there is".to_owned()));
    }
    // A make rule can be built in, and a file of that name may be there.
    if wanted.tool == "make" && (name.contains('/') || name.contains('.') || !facts.named(name).is_empty()) {
        return None;
    }
    let names = here.iter().flat_map(|file| file.names.keys().map(String::as_str));
    let names: Vec<&str> = names.filter(|name| !name.starts_with(['_', '.'])).collect();
    let in_file = if here.len() == 1 { here[0].file.to_string() } else { format!("any {file}") };
    let message = format!("there is no {noun} `{name}` in {in_file}");
    Some((message, did_you_mean(name, &names, &format!("the {noun}s are"))))
}

/// Whether a package may bring a program of that name; it is often called like the last part of the package.
fn is_program(facts: &Facts<'_>, name: &str, no_scripts: bool) -> bool {
    let part = |package: &String| package.rsplit('/').next() == Some(name);
    no_scripts
        || name == "tsc"
        || facts.has_package(Ecosystem::JavaScript, name)
        || facts.manifests.iter().flat_map(|manifest| manifest.dependencies.keys()).any(part)
}

fn did_you_mean(name: &str, names: &[&str], list: &str) -> String {
    let inside =
        || names.iter().copied().find(|other| other.len() > 2 && (name.starts_with(other) || other.starts_with(name)));
    match nearest(name, names.iter().copied()).or_else(inside) {
        Some(near) => format!("did you mean `{near}`?"),
        None if names.is_empty() => "name the command that there is".to_owned(),
        None => {
            format!("{list} {}", names.iter().take(8).map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", "))
        }
    }
}
