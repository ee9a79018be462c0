//! Beginning: `signpost.toml` and a few rules made of facts that the repository itself states.
//!
//! What the project is nobody but a person can say, so that rule holds a mark to be filled in, which
//! `wording/placeholder` finds. Nothing is written that is true of any project: no advice, no style.

use crate::base::language;
use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::shorten;
use crate::config::CONFIG_NAME;
use crate::facts::{Commands, Ecosystem, Facts, Manifest};
use crate::files::index::Index;
use crate::files::{Look, Tree};
use crate::project::guidance::{RuleHeader, write};
use crate::project::workspace::{Project, Workspace};
use std::collections::BTreeMap;

/// A file that beginning would write.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Starter {
    /// Where.
    pub path: RepoPath,
    /// What.
    pub text: String,
}

/// What beginning would do.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Beginning {
    /// The files to write.
    pub files: Vec<Starter>,
    /// The files that are there already and stay as they are.
    pub there: Vec<RepoPath>,
    /// Instruction files that are here and could be adopted.
    pub adoptable: usize,
    /// Commands of the project that the rule about commands leaves out, since there are so many.
    pub more_commands: Vec<String>,
}

/// More folders, packages or commands than this are no overview.
const MOST: usize = 12;
/// So many commands of one tool are an overview.
const MOST_OF_A_TOOL: usize = 8;
/// Commands in the order in which people look for them; others come after.
const FIRST: [&str; 12] =
    ["setup", "test", "check", "lint", "format", "fmt", "typecheck", "build", "dev", "start", "serve", "run"];
/// Packages that say what a project is built on; others come after.
const FRAMEWORKS: &[&str] = &[
    "react", "vue", "svelte", "@angular/core", "solid-js", "preact", "next", "astro", "express", "fastify", "hono",
    "@nestjs/core", "typescript", "vite", "webpack", "esbuild", "vitest", "jest", "playwright", "tailwindcss",
    "prisma", "django", "flask", "fastapi", "starlette", "sqlalchemy", "pydantic", "pandas", "polars", "numpy",
    "torch", "pytest", "ruff", "mypy", "tokio", "axum", "actix-web", "rocket", "tonic", "sqlx", "diesel", "serde",
    "clap", "bevy", "leptos", "yew", "tauri", "rayon", "anyhow", "thiserror",
];

/// Plans how to begin. `folder` is the name of the root, for want of a better one.
///
/// # Errors
/// Something can't be read.
pub fn begin(
    workspace: &Workspace<'_>,
    project: &Project,
    folder: &str,
) -> Result<Beginning, crate::project::workspace::WorkspaceError> {
    let facts = Facts::read(workspace.tree(), &project.index);
    let in_use = workspace.assistants(&[], project)?;
    let mut names: Vec<&str> = in_use.iter().map(|one| one.profile.name.as_str()).collect();
    if names.is_empty() {
        // The open format is read by whoever comes.
        names.push("agents-md");
    }
    let (said, more_commands) = commands(&facts);
    let rule = |name: &str| RepoPath::root().join(&format!("guidance/rules/{name}.md"));
    let candidates = [
        (RepoPath::root().join(CONFIG_NAME), Some(settings(&names))),
        (rule("project"), Some(what(&name_of(workspace.tree(), &facts, folder)))),
        (rule("layout"), layout(&project.index, &facts)),
        (rule("stack"), stack(&facts)),
        (rule("commands"), said),
    ];
    let mut beginning =
        Beginning { more_commands, adoptable: in_use.iter().map(|one| one.rules.len()).sum(), ..Beginning::default() };
    for (number, (path, text)) in candidates.into_iter().enumerate() {
        let Some(text) = text else { continue };
        // A file that several of them share begins with what the project is.
        let order = (number > 0).then_some(number as i64 * 10);
        let text = match order {
            Some(_) => write(&RuleHeader { order, ..RuleHeader::default() }, &text),
            None => text,
        };
        if workspace.tree().look(&Location::root(path.clone())) == Look::Nothing {
            beginning.files.push(Starter { path, text });
        } else {
            beginning.there.push(path);
        }
    }
    Ok(beginning)
}

fn settings(names: &[&str]) -> String {
    let list: Vec<String> = names.iter().map(|name| format!("\"{name}\"")).collect();
    format!(
        "# The assistants in use, by the names of their profiles; `signpost profile list` shows all.\n[project]\nassistants = [{}]\n",
        list.join(", ")
    )
}

fn what(name: &str) -> String {
    format!("# {name}\n\nTODO: say in two sentences what {name} is and who uses it.\n")
}

/// The project's name: its readme's title, else its own manifest's.
fn name_of(tree: &dyn Tree, facts: &Facts<'_>, folder: &str) -> String {
    let readme = tree.read(&Location::root(RepoPath::root().join("README.md"))).ok();
    let title = readme.and_then(|bytes| {
        let text = String::from_utf8(bytes).ok()?;
        let line = text.lines().find(|line| !line.trim().is_empty())?;
        let title = line.strip_prefix("# ")?.trim();
        // Pictures and links are no name.
        (!title.is_empty() && !title.contains(['[', '<', '!', '`'])).then(|| shorten(title, 60))
    });
    let own = facts.manifests.iter().find(|manifest| manifest.file.folder().is_root());
    title.or_else(|| own?.name.clone()).unwrap_or_else(|| folder.to_owned())
}

/// The folders directly below the root, with what is in them.
fn layout(index: &Index, facts: &Facts<'_>) -> Option<String> {
    let mut folders: BTreeMap<String, BTreeMap<&'static str, usize>> = BTreeMap::new();
    for (folder, item) in index.sources() {
        let Some(first) = folder.path.components().next().filter(|first| !first.starts_with('.')) else { continue };
        let ending = item.name.rsplit_once('.').map_or(item.name, |(_, ending)| ending);
        let languages = folders.entry(first.to_owned()).or_default();
        if let Some(language) = language::by_ending(ending) {
            *languages.entry(language.name).or_default() += 1;
        }
    }
    if folders.is_empty() {
        return None;
    }
    let lines = folders.iter().take(MOST).map(|(folder, languages)| {
        let package = facts.manifests.iter().find(|manifest| manifest.file.folder().as_str() == folder);
        let package = package.and_then(|manifest| manifest.name.as_ref()).map(|name| format!("package `{name}`"));
        // Settings and notes stand everywhere; they say what a folder is only where there is nothing else.
        let telling = |name: &str| !["toml", "json", "yaml", "markdown"].contains(&name);
        let code = languages.keys().any(|name| telling(name));
        let mut most: Vec<(&&str, &usize)> = languages.iter().filter(|(name, _)| !code || telling(name)).collect();
        most.sort_by_key(|(name, files)| (std::cmp::Reverse(**files), **name));
        let most: Vec<String> = most.into_iter().take(2).map(|(name, _)| title_of(name)).collect();
        let said: Vec<String> =
            [most.join(" and ")].into_iter().filter(|text| !text.is_empty()).chain(package).collect();
        let said = if said.is_empty() { String::new() } else { format!(": {}", said.join(", ")) };
        format!("- `{folder}/`{said}\n")
    });
    Some(format!("# Layout\n\n{}", lines.collect::<String>()))
}

fn title_of(language: &str) -> String {
    match language {
        "sql" | "css" | "html" | "yaml" | "toml" | "json" | "php" => language.to_uppercase(),
        "typescript" => "TypeScript".to_owned(),
        "javascript" => "JavaScript".to_owned(),
        "graphql" => "GraphQL".to_owned(),
        name => {
            let mut chars = name.chars();
            chars.next().map(|first| first.to_uppercase().collect::<String>() + chars.as_str()).unwrap_or_default()
        }
    }
}

fn place(folder: &RepoPath) -> String {
    if folder.is_root() { String::new() } else { format!(" (`{folder}/`)") }
}

/// Languages, tools and packages with their versions.
fn stack(facts: &Facts<'_>) -> Option<String> {
    let mut lines: Vec<String> = Vec::new();
    for (of, title) in
        [("rust", "Rust"), ("python", "Python"), ("node", "Node"), ("go", "Go"), ("ruby", "Ruby"), ("java", "Java")]
    {
        for (folder, text) in versions(facts, of) {
            let edition = versions(facts, "edition").into_iter().find(|(own, _)| of == "rust" && *own == folder);
            let edition = edition.map(|(_, edition)| format!(", edition {edition}")).unwrap_or_default();
            lines.push(format!("- {title} {text}{edition}{}\n", place(&folder)));
        }
    }
    for manifest in &facts.manifests {
        if let Some(line) = packages(facts, manifest) {
            lines.push(line);
        }
    }
    (!lines.is_empty()).then(|| format!("# Stack\n\n{}", lines.concat()))
}

/// The most exact version of something for each folder that states one, not said again below a folder that did.
fn versions(facts: &Facts<'_>, of: &str) -> Vec<(RepoPath, String)> {
    let mut by_folder: BTreeMap<RepoPath, (bool, String)> = BTreeMap::new();
    for fact in facts.versions.iter().filter(|fact| fact.of == of) {
        let known = by_folder.entry(Facts::folder_of(&fact.source.file)).or_insert((fact.exact, fact.text.clone()));
        if fact.exact && !known.0 {
            *known = (true, fact.text.clone());
        }
    }
    let mut found: Vec<(RepoPath, String)> = Vec::new();
    for (folder, (_, text)) in by_folder {
        if !found.iter().any(|(above, known)| folder.is_in(above) && *known == text) && found.len() < MOST {
            found.push((folder, text));
        }
    }
    found
}

fn packages(facts: &Facts<'_>, manifest: &Manifest) -> Option<String> {
    let mut names: Vec<&String> = manifest.dependencies.keys().collect();
    let rank = |name: &str| FRAMEWORKS.iter().position(|own| *own == name).unwrap_or(FRAMEWORKS.len());
    names.sort_by_key(|name| (rank(name), (*name).clone()));
    // Of many packages only those say something that the project is built on.
    if names.len() > 8 {
        names.retain(|name| rank(name) < FRAMEWORKS.len());
    }
    names.truncate(8);
    if names.is_empty() {
        return None;
    }
    let folder = manifest.file.folder();
    let version_of = |name: &str| {
        let own = |file: &RepoPath| folder.is_in(&file.folder());
        let stated = facts.versions_of(name);
        let mut here = stated.iter().filter(|fact| own(&fact.source.file));
        let exact = here.clone().find(|fact| fact.exact);
        exact.or_else(|| here.next()).map(|fact| format!(" {}", fact.text)).unwrap_or_default()
    };
    let all: Vec<String> = names.iter().map(|name| format!("{name}{}", version_of(name))).collect();
    Some(format!("- {} packages{}: {}\n", manifest.ecosystem.title(), place(&folder), all.join(", ")))
}

/// The commands that are really there, the first of each folder; and the others.
fn commands(facts: &Facts<'_>) -> (Option<String>, Vec<String>) {
    let mut by_folder: BTreeMap<RepoPath, Vec<String>> = BTreeMap::new();
    let mut cut: Vec<String> = Vec::new();
    for commands in &facts.commands {
        let folder = Facts::folder_of(&commands.file);
        let mut all = named(facts, commands);
        cut.extend(all.drain(all.len().min(MOST_OF_A_TOOL)..));
        by_folder.entry(folder).or_default().extend(all);
    }
    for manifest in &facts.manifests {
        let own = by_folder.entry(manifest.file.folder()).or_default();
        let has = |name: &str| manifest.dependencies.contains_key(name);
        match manifest.ecosystem {
            Ecosystem::Rust => {
                own.push("cargo test".to_owned());
                let formats = facts.styles.iter().any(|style| style.source.file.name().ends_with("rustfmt.toml"));
                own.extend(formats.then(|| "cargo fmt".to_owned()));
            }
            Ecosystem::Go => own.push("go test ./...".to_owned()),
            Ecosystem::Python => {
                own.extend(has("pytest").then(|| "pytest".to_owned()));
                own.extend(has("ruff").then(|| "ruff check".to_owned()));
                own.extend(has("ruff").then(|| "ruff format".to_owned()));
                own.extend(has("black").then(|| "black .".to_owned()));
                own.extend(has("mypy").then(|| "mypy .".to_owned()));
            }
            Ecosystem::Elixir => own.push("mix test".to_owned()),
            Ecosystem::DotNet => own.push("dotnet test".to_owned()),
            Ecosystem::Swift => own.push("swift test".to_owned()),
            _ => {}
        }
    }
    let mut lines = String::new();
    let mut said: Vec<(RepoPath, String)> = Vec::new();
    for (folder, mut commands) in by_folder {
        commands.retain(|command| !said.iter().any(|(above, known)| known == command && folder.is_in(above)));
        commands.dedup();
        cut.extend(commands.drain(commands.len().min(MOST)..));
        if commands.is_empty() {
            continue;
        }
        said.extend(commands.iter().map(|command| (folder.clone(), command.clone())));
        let list: Vec<String> = commands.iter().map(|command| format!("`{command}`")).collect();
        let place = if folder.is_root() { String::new() } else { format!("In `{folder}/`: ") };
        lines += &format!("- {place}{}\n", list.join(", "));
    }
    cut.retain(|command| !said.iter().any(|(_, known)| known == command));
    ((!lines.is_empty()).then(|| format!("# Commands\n\n{lines}")), cut)
}

fn named(facts: &Facts<'_>, commands: &Commands) -> Vec<String> {
    let mut names: Vec<&String> = commands.names.keys().filter(|name| !name.starts_with(['_', '.'])).collect();
    let rank = |name: &str| FIRST.iter().position(|first| name == *first).unwrap_or(FIRST.len());
    names.sort_by_key(|name| (rank(name), (*name).clone()));
    let folder = commands.file.folder();
    let managers = facts.managers.iter().filter(|one| one.ecosystem == Ecosystem::JavaScript);
    let manager =
        managers.filter(|one| folder.is_in(&one.source.file.folder())).max_by_key(|one| one.source.file.depth());
    let run = match commands.run_with() {
        "npm run" => format!("{} run", manager.map_or("npm", |one| one.name.as_str())),
        "run" => "poetry run".to_owned(),
        tool => tool.to_owned(),
    };
    names.into_iter().map(|name| format!("{run} {name}")).collect()
}
