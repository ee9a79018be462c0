use super::own_folder;
use crate::base::repo_path::RepoPath;
use crate::base::toml_file::nearest;
use crate::check::text::mention::{Command, commands, is_denied};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::facts::{Commands, Ecosystem, Facts, nearest_for};
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
    /// The package of a workspace that it is run in.
    member: Option<&'a str>,
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

/// Options of package managers that are followed by a value.
const VALUED: &[&str] = &[
    "-w", "--workspace", "--filter", "-F", "-C", "--dir", "--prefix", "--cwd", "--working-directory", "-d", "-f",
    "--file", "--makefile", "--justfile", "-p", "--package", "--features", "--manifest-path", "--with", "--extra",
    "--group", "--python",
];

fn wanted(command: &Command) -> Vec<Wanted<'_>> {
    // What only sees to it that the right version of it runs.
    let lead: usize = match command.words.iter().take(2).map(|(word, _)| word.as_str()).collect::<Vec<_>>()[..] {
        ["corepack", _] => 1,
        _ => 0,
    };
    let program = command.words.get(lead).map_or("", |(word, _)| word);
    let folder = command
        .option(&["-C", "--prefix", "--cwd", "--dir", "--working-directory"])
        .or(command.option(&["-d"]).filter(|_| matches!(program, "just" | "task")))
        .or(command.folder.as_deref());
    let mut member = command.option(&["-w", "--workspace", "--filter", "-F"]).filter(|_| is_package_manager(program));
    let elsewhere = match program {
        "make" => command.option(&["-f", "--file", "--makefile"]).is_some(),
        "just" => command.option(&["-f", "--justfile"]).is_some(),
        _ => command.has(&["-r", "--recursive", "--workspaces", "-ws"]),
    };
    if elsewhere {
        return Vec::new();
    }
    let folder = folder.map(str::to_owned);
    let mut arguments = command.arguments_without(VALUED);
    arguments.retain(|(at, _)| *at > lead);
    // `yarn workspace @quay/shop dev`
    if program == "yarn" && arguments.first().is_some_and(|(_, word)| *word == "workspace") {
        member = arguments.get(1).map(|(_, word)| *word);
        arguments.drain(..2.min(arguments.len()));
    }
    let one = |tool, at: usize, or_program| Wanted {
        tool,
        name: &command.words[at].0,
        span: command.words[at].1.clone(),
        folder: folder.clone(),
        member,
        or_program,
    };
    let names: Vec<&str> = arguments.iter().map(|(_, name)| *name).collect();
    let at = |number: usize| arguments.get(number).map(|(at, _)| *at);
    let first = |tool, number: usize, or_program| at(number).map(|at| one(tool, at, or_program)).into_iter().collect();
    match (program, &names[..]) {
        ("npm" | "pnpm" | "yarn" | "bun", ["run" | "run-script", ..]) => first("npm", 1, program != "npm"),
        ("npm" | "pnpm" | "yarn", ["test" | "start" | "stop" | "restart", ..]) => first("npm", 0, false),
        ("pnpm" | "yarn", [name, ..]) if !BUILT_IN.contains(name) => first("npm", 0, true),
        ("deno", ["task", ..]) => first("deno", 1, false),
        ("make", _) => {
            arguments.iter().filter(|(_, name)| !name.contains('=')).map(|(at, _)| one("make", *at, false)).collect()
        }
        ("just", _) if command.has(&["--list", "-l", "--choose", "--show"]) => Vec::new(),
        ("just", [name, ..]) if !name.contains("::") && !name.contains('=') => first("just", 0, false),
        ("cargo", [name, ..]) => {
            let package = command.words.iter().position(|(word, _)| matches!(word.as_str(), "-p" | "--package"));
            let package = package.filter(|at| at + 1 < command.words.len()).map(|at| one("cargo -p", at + 1, false));
            let alias = !CARGO.contains(name) && !name.starts_with('+');
            let target =
                command.words.iter().position(|(word, _)| matches!(word.as_str(), "--bin" | "--example" | "--bench"));
            let target = target.filter(|at| at + 1 < command.words.len() && package.is_none());
            let target = target.map(|at| one("cargo --bin", at + 1, false));
            package
                .or(target)
                .or_else(|| alias.then(|| at(0)).flatten().map(|at| one("cargo", at, false)))
                .into_iter()
                .collect()
        }
        ("poetry" | "uv" | "pdm", ["run", ..]) => first("poetry", 1, true),
        ("hatch", ["run", ..]) => first("hatch", 1, true),
        ("composer", ["run" | "run-script", ..]) => first("composer", 1, false),
        ("composer", [name, ..]) if !COMPOSER.contains(name) => first("composer", 0, false),
        ("mix", [name, ..]) if !MIX.contains(name) && !name.contains('.') => first("mix", 0, false),
        ("task", [name, ..]) if !command.has(&["--list", "-l", "--init"]) && !name.contains('=') => {
            first("task", 0, false)
        }
        ("./gradlew" | "gradle" | "gradlew", _) => {
            let plain = arguments.iter().filter(|(_, name)| name.chars().all(char::is_alphanumeric));
            plain.map(|(at, _)| one("gradle", *at, false)).collect()
        }
        ("tox", _) => command
            .words
            .iter()
            .position(|(word, _)| matches!(word.as_str(), "-e" | "run" | "-m"))
            .filter(|at| command.words[*at].0 == "-e" && at + 1 < command.words.len())
            .map(|at| one("tox", at + 1, false))
            .into_iter()
            .collect(),
        ("nox", _) => {
            let option = command.words.iter().position(|(word, _)| matches!(word.as_str(), "-s" | "--session" | "-e"));
            option.filter(|at| at + 1 < command.words.len()).map(|at| one("nox", at + 1, false)).into_iter().collect()
        }
        ("cmake", _) => {
            let option = command.words.iter().position(|(word, _)| word == "--preset");
            option.filter(|at| at + 1 < command.words.len()).map(|at| one("cmake", at + 1, false)).into_iter().collect()
        }
        _ => Vec::new(),
    }
}

fn is_package_manager(program: &str) -> bool {
    matches!(program, "npm" | "pnpm" | "yarn" | "bun")
}

/// Subcommands of Cargo, and of what is often installed beside it.
const CARGO: &[&str] = &[
    "add", "bench", "build", "b", "check", "c", "clean", "clippy", "config", "doc", "d", "fetch", "fix", "fmt",
    "generate-lockfile", "help", "info", "init", "install", "locate-project", "login", "logout", "metadata", "miri",
    "new", "owner", "package", "pkgid", "publish", "read-manifest", "remove", "rm", "report", "run", "r", "rustc",
    "rustdoc", "search", "test", "t", "tree", "uninstall", "update", "vendor", "verify-project", "version", "yank",
    "nextest", "deny", "audit", "insta", "watch", "llvm-cov", "tarpaulin", "expand", "outdated", "udeps", "machete",
    "hack", "release", "semver-checks", "msrv", "criterion", "flamegraph", "fuzz", "mutants", "binstall", "bloat",
    "chef", "deb", "edit", "geiger", "leptos", "make", "public-api", "readme", "sort", "spellcheck", "sqlx", "shear",
    "tauri", "vet", "wasm", "wasi", "zigbuild", "about", "cache", "dist", "dylint", "embed", "espflash", "generate",
    "hakari", "lambda", "modules", "ndk", "pgrx", "rdme", "rail", "show-asm", "asm", "smart-release", "sweep",
    "typify", "upgrade", "workspaces", "xwin",
];
const COMPOSER: &[&str] = &[
    "about", "archive", "audit", "browse", "bump", "check-platform-reqs", "clear-cache", "config", "create-project",
    "depends", "diagnose", "dump-autoload", "dumpautoload", "exec", "fund", "global", "help", "info", "init",
    "install", "i", "licenses", "list", "outdated", "prohibits", "reinstall", "remove", "require", "search",
    "self-update", "show", "status", "suggests", "update", "u", "upgrade", "validate", "why", "why-not",
];
const MIX: &[&str] = &[
    "app", "archive", "clean", "cmd", "compile", "deps", "do", "escript", "eval", "format", "help", "hex",
    "loadconfig", "local", "new", "phx", "profile", "release", "run", "test", "xref", "credo", "dialyzer", "docs",
    "coveralls", "sobelow", "ecto", "doctor", "check",
];
/// Programs that packages bring, or that are there anyway.
const PYTHON_PROGRAMS: &[&str] = &[
    "python", "python3", "pip", "pytest", "py.test", "ruff", "mypy", "black", "isort", "flake8", "pylint", "pyright",
    "pre-commit", "mkdocs", "sphinx-build", "uvicorn", "gunicorn", "hypercorn", "celery", "alembic", "flask",
    "fastapi", "django-admin", "ipython", "jupyter", "coverage", "bandit", "tox", "nox", "twine", "build", "cython",
    "streamlit", "scrapy", "invoke", "poe", "task", "just", "make", "bash", "sh", "ty", "basedpyright", "pip-audit",
    "pyinstaller", "dvc", "locust", "behave", "robot", "vulture", "mutmut", "cosmic-ray", "griffe", "lefthook",
    "ansible", "ansible-playbook", "yamllint",
];

fn missing(context: &Context<'_, '_>, text: &Text, wanted: &Wanted<'_>) -> Option<Finding> {
    let (message, help) = match wanted.tool {
        "cargo -p" => missing_package(context, wanted.name)?,
        "cargo" => missing_alias(context, wanted.name)?,
        "cargo --bin" => missing_target(context, wanted.name)?,
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

/// `cargo run --bin heatmap`.
fn missing_target(context: &Context<'_, '_>, name: &str) -> Option<(String, String)> {
    let facts = &context.facts;
    let mut rust = facts.manifests.iter().filter(|one| one.ecosystem == Ecosystem::Rust).peekable();
    let file = format!("{name}.rs");
    let none = rust.peek().is_none();
    let stated = rust.any(|one| one.name.as_deref() == Some(name))
        || facts.commands.iter().any(|one| one.tool == "cargo run --bin" && one.names.contains_key(name));
    if none || stated || !facts.named(&file).is_empty() || !facts.named(name).is_empty() {
        return None;
    }
    Some((
        format!("no manifest has a target `{name}`, and there is no {file}"),
        "name the target that there is".to_owned(),
    ))
}

/// `cargo xtask`.
fn missing_alias(context: &Context<'_, '_>, name: &str) -> Option<(String, String)> {
    let facts = &context.facts;
    // What may be installed beside Cargo is told by an alias of nearly that name, or by being a project's own word.
    let aliases: Vec<&str> = facts
        .commands
        .iter()
        .filter(|file| file.tool == "cargo")
        .flat_map(|file| file.names.keys().map(String::as_str))
        .collect();
    let near = nearest(name, aliases.iter().copied()).is_some() || aliases.iter().any(|one| name.starts_with(one));
    if name != "xtask" && !near {
        return None;
    }
    let alias = aliases.contains(&name);
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
    let all = || facts.commands.iter().filter(|file| file.tool == wanted.tool);
    let mut here: Vec<&Commands> = all().collect();
    if let Some(member) = wanted.member {
        // `@quay/shop`, `shop`, `./apps/shop`; a pattern may be any of them.
        let plain = member.trim_start_matches("./").trim_end_matches('/').trim_end_matches("...");
        let is = |file: &Commands| {
            let folder = file.file.folder();
            let named = facts.manifests.iter().find(|one| one.file == file.file).and_then(|one| one.name.as_deref());
            named == Some(plain) || folder.as_str() == plain || folder.name() == plain
        };
        here.retain(|file| is(file));
        if here.is_empty() {
            return None;
        }
    } else if let Some(folder) = &wanted.folder {
        let folders: Vec<RepoPath> = text.bases.iter().filter_map(|base| base.resolve(folder)).collect();
        here.retain(|file| folders.contains(&Facts::folder_of(&file.file)));
        // Where the folder is not known, neither is what is in it.
        if here.is_empty() {
            return None;
        }
    } else {
        here = meant(text, wanted, here);
    }
    // A runner that nobody has set up here is not this project's.
    if here.is_empty() && !matches!(wanted.tool, "npm" | "make" | "just" | "deno") {
        return None;
    }
    let known = here.iter().any(|file| file.open || file.names.contains_key(name));
    if known || wanted.or_program && is_program(facts, name, here.is_empty()) || brought(wanted, &here, facts) {
        return None;
    }
    let (noun, file) = match wanted.tool {
        "npm" => ("script", "package.json"),
        "make" => ("target", "Makefile"),
        "just" => ("recipe", "justfile"),
        "poetry" | "hatch" => ("script", "pyproject.toml"),
        "composer" => ("script", "composer.json"),
        "mix" => ("alias", "mix.exs"),
        "tox" => ("environment", "tox.ini"),
        "nox" => ("session", "noxfile.py"),
        "cmake" => ("preset", "CMakePresets.json"),
        "task" => ("task", "Taskfile"),
        "gradle" => ("task", "build file"),
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

/// The files that a command may be looked for in: those of the nearest folder above that has any, else those below, and
/// those of folders that are named beside it.
fn meant<'f>(text: &Text, wanted: &Wanted<'_>, all: Vec<&'f Commands>) -> Vec<&'f Commands> {
    let mut meant = nearest_for(all.iter().copied(), &own_folder(text), |file: &Commands| &file.file);
    let number = text.outline.directives.partition_point(|one| one.span.start <= wanted.span.start);
    let beside: Vec<&str> =
        (number.saturating_sub(2)..number).map(|number| text.words(&text.outline.directives[number].span)).collect();
    let named = |file: &&Commands| {
        let folder = file.file.folder();
        let names = |words: &str| {
            !folder.is_root()
                && (words.contains(folder.as_str())
                    || words
                        .split(|c: char| !c.is_alphanumeric() && c != '-' && c != '_')
                        .any(|word| word == folder.name()))
        };
        beside.iter().any(|words| names(words))
            || text.sections_at(wanted.span.start).any(|title| names(title) || names(&title.to_lowercase()))
    };
    for file in all.iter().copied().filter(named) {
        if !meant.iter().any(|known| std::ptr::eq(*known, file)) {
            meant.push(file);
        }
    }
    meant
}

/// Whether a tool or its plugins bring a command of that name.
fn brought(wanted: &Wanted<'_>, here: &[&Commands], facts: &Facts<'_>) -> bool {
    let name = wanted.name;
    let names = || here.iter().flat_map(|file| file.names.keys().map(String::as_str));
    match wanted.tool {
        // Plugins add tasks; only a name that is nearly a task's own is a mistake.
        "gradle" => !names().any(|own| {
            own != name && (name.starts_with(own) || own.starts_with(name)) || nearest(name, [own]).is_some()
        }),
        "poetry" | "hatch" => {
            // Packages bring programs of any name; a project's own have a name in several words.
            let own = wanted.tool == "hatch" || name.contains('-') && names().next().is_some();
            !own || PYTHON_PROGRAMS.contains(&name)
                || facts.has_package(Ecosystem::Python, name)
                || name.contains('/')
                || name.ends_with(".py")
        }
        // Any factor of an environment's name will do, and Python's versions are known.
        "tox" => name.split(['-', ',']).all(|part| part.starts_with("py") || names().any(|own| own == part)),
        _ => false,
    }
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
