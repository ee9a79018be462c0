use crate::base::repo_path::{Location, RepoPath};
use crate::base::toml_file::nearest;
use crate::check::text::mention::{commands, is_denied};
use crate::check::text::phrase;
use crate::check::{CheckInfo, Context, Finding, Text, reference};
use crate::config::Severity;
use crate::directive::words::words;
use crate::files::Look;
use crate::files::ignore_file::{HideList, hidden_on_the_way};
use std::collections::BTreeMap;
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("facts/missing-path", Severity::Warning, include_str!("missing_path.toml"));

/// Endings by which a name without a slash is known as a file.
const ENDINGS: &[&str] = &[
    "rs", "py", "pyi", "ts", "tsx", "js", "jsx", "mjs", "cjs", "go", "java", "kt", "swift", "rb", "php", "c", "h",
    "cpp", "cc", "hpp", "cs", "sql", "css", "scss", "html", "md", "mdx", "txt", "sh", "bash", "yaml", "yml", "toml",
    "json", "jsonc", "ini", "cfg", "conf", "lock", "xml", "csv", "proto", "graphql", "vue", "svelte", "tf", "env",
    "ipynb", "rst", "lua", "ex", "exs", "scala", "hs", "dart", "gradle", "properties", "svg", "png",
];
/// Folders that tools make, whether or not they are ignored.
const MADE: &[&str] = &[
    "target", "dist", "build", "out", "node_modules", ".venv", "venv", "coverage", ".next", "__pycache__", "tmp",
    "temp", "logs", ".git", ".cache", "bin", "obj", "htmlcov", ".pytest_cache", ".mypy_cache", ".ruff_cache",
    "storybook-static",
];
/// Programs whose first argument is a file to run.
const INTERPRETERS: &[&str] =
    &["python", "python3", "node", "bash", "sh", "zsh", "source", "deno", "ts-node", "tsx", "ruby", "php"];
/// Parts of a path that stand for another name.
const STAND_INS: &[&str] = &[
    "foo", "bar", "baz", "example", "examples", "path", "your", "name", "xxx", "some", "file", "filename", "folder",
    "dir", "directory", "module", "mymodule", "myfile", "feature", "component", "x", "y", "a", "b", "c", "nnnn",
    "yyyy", "id", "n", "something", "thing", "my", "my-feature", "mycomponent", "package", "foobar", "qux",
];
/// Words that say that the path is made, or only spoken of.
const MAKES: &[&str] = &[
    "create", "creates", "generate", "generates", "generated", "output", "outputs", "write to", "writes to",
    "written to", "produces", "save to", "saved to", "saves", "e.g", "for example", "such as", "for instance",
    "named like", "names like", "called like", "if it exists", "if present", "if there is", "if they exist",
    "when present", "optional", "would be", "rename", "renamed", "prefix", "branch", "scaffold", "new file",
    "add a file", "name it", "named", "looks like", "not committed", "gitignored", "git-ignored", "ignored by git",
    "will live", "will go", "will be", "will stand", "when somebody", "once somebody", "not yet", "yet to", "planned",
    "to be written", "once it exists", "if you need", "bring it back", "bring them back", "in the repository",
    "in the repo ", "another repository", "other repository", "become", "becomes", "placeholder", "like `", "artifact",
    "artifacts", "downloads", "emits", "emitted",
];
/// Words beside which something with a slash is no path, unless it ends like a file.
const OTHERS: &[&str] = &[
    "mime", "content type", "route", "routes", "endpoint", "endpoints", "url", "urls", "header", "headers", "bucket",
    "registry", "image", "images", "import", "imports", "branch", "branches", "tag", "tags", "package", "packages",
    "topic", "scope", "scopes", "label", "labels",
];

/// Among more names in one folder the nearest is a guess, and takes long to find.
const MOST_NAMES: usize = 1000;

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let mut seen: BTreeMap<usize, usize> =
        reference::spans(context, text).into_iter().map(|span| (span.start, span.end)).collect();
    let mut mentions: Vec<(String, Range<usize>, bool)> = Vec::new();
    for code in text.outline.code.iter().filter(|code| code.block.is_none()) {
        mentions.push((text.words(&code.span).to_owned(), code.span.clone(), false));
    }
    for command in commands(text).iter().filter(|command| command.code) {
        let program = command.program();
        let is_path = program.contains('/') && !program.starts_with(['/', '~', '$']);
        let wanted = if is_path {
            command.words.first()
        } else if INTERPRETERS.contains(&program) && !command.has(&["-m", "-c", "-e"]) {
            command.words.iter().skip(1).find(|(word, _)| !word.starts_with('-')).filter(|(word, _)| word.contains('.'))
        } else {
            None
        };
        if let Some((word, span)) = wanted {
            let under = command.folder.as_ref().map_or(String::new(), |folder| format!("{folder}/"));
            mentions.push((format!("{under}{word}"), span.clone(), true));
        }
    }
    for link in &text.outline.links {
        let target = link.target.split(['#', '?']).next().unwrap_or_default();
        if !target.is_empty() && !target.contains(':') && !target.starts_with(['/', '#', '<']) {
            mentions.push((target.to_owned(), link.span.clone(), true));
        }
    }
    for directive in &text.outline.directives {
        let all = words(text.text(), directive.span.clone());
        for word in all.iter().filter(|word| !word.code && word.low.contains('/') && has_ending(&word.low)) {
            mentions.push((text.words(&word.span).to_owned(), word.span.clone(), false));
        }
    }
    mentions.retain(|(_, span, _)| span.start <= text.read_to());
    mentions.sort_by_key(|(_, span, certain)| (span.start, !certain));
    let listed = findings.len() + context.most_findings();
    for (path, span, certain) in mentions {
        let taken = seen.range(..span.end).next_back().is_some_and(|(_, end)| span.start < *end);
        if taken || text.in_comment(span.start) {
            continue;
        }
        if let Some(path) = path_in(&path).filter(|path| is_missing(context, text, path, &span, certain)) {
            let renamed = if findings.len() < listed { renamed(context, &text.bases, path) } else { None };
            if let Some(renamed) = renamed {
                findings.push(with_new_name(text, path, span.clone(), &renamed));
                seen.insert(span.start, span.end);
                continue;
            }
            let mut finding = text.finding(&INFO, span.clone(), format!("{path} is not there"));
            // What is not listed needs no search for a better path.
            if findings.len() < listed {
                finding = finding.help(match hint(context, &text.bases, path) {
                    Some(near) => format!("did you mean {near}?"),
                    None => "write the path as it is now, or remove the mention".to_owned(),
                });
            }
            findings.push(finding);
        }
        seen.insert(span.start, span.end);
    }
}

fn has_ending(name: &str) -> bool {
    let last = name.rsplit('/').next().unwrap_or(name);
    last.rsplit_once('.')
        .is_some_and(|(stem, ending)| !stem.is_empty() && ENDINGS.contains(&ending.to_lowercase().as_str()))
}

/// The path in some words, where they are one and it is meant as it stands.
fn path_in(words: &str) -> Option<&str> {
    let path = words.trim().trim_start_matches("./");
    // `src/a.rs:12` and `src/a.rs:12:3` name a line.
    let path = path
        .split_once(':')
        .filter(|(_, rest)| rest.starts_with(|c: char| c.is_ascii_digit()))
        .map_or(path, |(path, _)| path);
    let path = path.split('#').next()?;
    let plain = path.chars().all(|c| c.is_alphanumeric() || matches!(c, '.' | '_' | '-' | '/' | '+' | '@'));
    let ok = plain
        && !path.is_empty()
        && !path.starts_with(['/', '-', '~', '+'])
        && !path.contains(['@', '…'])
        && !path.contains("//");
    let stands_in = path.split('/').any(|part| {
        let stem = part.split('.').next().unwrap_or(part).to_lowercase();
        STAND_INS.contains(&stem.as_str())
            || part.contains("XX")
            || part.contains("NNN")
            || part.contains("YYYY")
            || part.contains("...")
            || ["my-", "your-", "example-", "my_", "your_", "example_", "foo-", "some-"]
                .iter()
                .any(|start| stem.starts_with(start))
    });
    // A file that is called `example.py` after all is there or not like any other.
    (ok && !stands_in).then_some(path)
}

/// Whether a path leads nowhere that should lead somewhere. `certain` are those that stand where only a path can.
fn is_missing(context: &Context<'_, '_>, text: &Text, path: &str, span: &Range<usize>, certain: bool) -> bool {
    let folder = path.ends_with('/');
    let parts: Vec<&str> = path.split('/').filter(|part| !part.is_empty()).collect();
    let slash = path.contains('/');
    if parts.is_empty() || parts.iter().any(|part| MADE.contains(part)) || is_denied(text, span.start) {
        return false;
    }
    let bases = &text.bases;
    let tree = context.workspace.tree();
    // What climbs out of the project is not for us to judge.
    let places: Vec<RepoPath> = bases.iter().filter_map(|base| base.resolve(path)).collect();
    if places.is_empty() || places.into_iter().any(|at| tree.look(&Location::root(at)) != Look::Nothing) {
        return false;
    }
    let said = text
        .directive_at(span.start)
        .map(|number| text.words(&text.outline.directives[number].span).to_lowercase())
        .unwrap_or_default();
    let makes = MAKES.iter().any(|word| phrase::holds(&said, word));
    let other = OTHERS.iter().any(|word| phrase::holds(&said, word));
    let adds = ["add ", "put ", "place ", "write ", "new "].iter().any(|word| said.contains(word));
    if !certain {
        let known = if folder {
            // `feature/` may be the beginning of a branch's name.
            !makes
                && (parts.len() > 1 && first_is_folder(context, bases, parts[0])
                    || !other && (parts.len() > 1 || context_names_folder(&said)))
        } else if has_ending(path) {
            // Without a slash it is a name that may stand anywhere.
            !makes
                && (slash && !adds_file(&said, path)
                    || !slash
                        && refers(&said)
                        && !adds
                        && context.facts.named(path).is_empty()
                        && parts.len() == 1
                        && path.len() > 5
                        && !common(path))
        } else {
            // Without an ending it may be anything, unless its beginning is a folder here.
            slash
                && !makes
                && !adds
                && !other
                && first_is_folder(context, bases, parts[0])
                && parts.len() > 1
                && path.chars().all(|c| !c.is_uppercase() || parts.len() > 2)
        };
        if !known {
            return false;
        }
    } else if makes && !said.contains("run") && !said.contains("see") {
        return false;
    }
    !bases.iter().any(|base| is_ignored(context, base, path)) && !named_by_section(context, text, span.start, path)
}

fn context_names_folder(said: &str) -> bool {
    [
        "folder", "directory", "in `", "under `", "inside `", "into `", "to `", "lives", "live", "from `", "of `",
        "below `", "`: ", "holds", "contains", "edit", "touch",
    ]
    .iter()
    .any(|word| said.contains(word))
}

/// `Add a test to src/a.rs` expects the file; `add src/a.rs` makes it.
fn adds_file(said: &str, path: &str) -> bool {
    let lower = path.to_lowercase();
    let Some(at) = said.find(&lower) else { return false };
    let before = said[..at].trim_end_matches(['`', ' ', '*', '_']);
    let last: Vec<&str> = before.split_whitespace().rev().take(3).collect();
    last.first().is_some_and(|word| matches!(*word, "add" | "new" | "adding" | "creating" | "as"))
        || last.contains(&"new") && last.first() != Some(&"to") && last.first() != Some(&"in")
}

/// Words that speak of a file that is there.
fn refers(said: &str) -> bool {
    [
        "see ", "read ", "refer to", "follow ", "defined in", "listed in", "described in", "documented in",
        "configured in", "lives in", "stands in", "update ", "edit ", "consult ", "check ", "look at", "look in",
        "according to", "specified in", "found in", "from `", "settings in", "stand in", "are in `", "is in `",
        "kept in", "touch ", "modify ", "written down in", "written in", "explained in", "said in", "set out in",
        "noted in",
    ]
    .iter()
    .any(|word| said.contains(word))
}

/// Names that stand for a file of every package.
fn common(name: &str) -> bool {
    matches!(
        name,
        "index.ts"
            | "index.js"
            | "mod.rs"
            | "main.rs"
            | "lib.rs"
            | "__init__.py"
            | "package.json"
            | "index.html"
            | "index.tsx"
            | "main.py"
            | "main.go"
            | "config.json"
            | ".env"
            | "README.md"
            | "node.js"
            | "Node.js"
            | "next.js"
            | "vue.js"
            | "settings.json"
            | "d3.js"
            | "three.js"
            | "socket.io"
    )
}

fn first_is_folder(context: &Context<'_, '_>, bases: &[RepoPath], first: &str) -> bool {
    bases.iter().any(|base| context.project.index.folder(&base.join(first)).is_some())
}

/// Whether git would ignore it: then it is made by a tool, or somebody's own.
fn is_ignored(context: &Context<'_, '_>, base: &RepoPath, path: &str) -> bool {
    let Some(at) = base.resolve(path) else { return false };
    let ignored = hidden_on_the_way(&at, path.ends_with('/'), |folder, chain| {
        let list = folder.join(".gitignore");
        if context.project.index.folder(folder).is_some_and(|here| here.get(".gitignore").is_some())
            && let Ok(bytes) = context.workspace.tree().read(&Location::root(list.clone()))
        {
            return chain.with(folder, list, HideList::parse(&bytes));
        }
        chain
    });
    ignored.is_some()
}

/// Whether a heading above names the folder that the path counts from.
fn named_by_section(context: &Context<'_, '_>, text: &Text, at: usize, path: &str) -> bool {
    text.sections_at(at).any(|title| {
        let words = title.split_whitespace().map(|word| {
            word.trim_matches(|c: char| !c.is_alphanumeric() && c != '/' && c != '-' && c != '_').trim_end_matches('/')
        });
        words.filter(|word| !word.is_empty()).any(|word| {
            [word.to_owned(), word.to_lowercase()].iter().any(|folder| {
                let at = RepoPath::root().resolve(folder).and_then(|folder| folder.resolve(path));
                at.is_some_and(|at| context.workspace.tree().look(&Location::root(at)) != Look::Nothing)
            })
        })
    })
}

/// Where a path is now that was renamed, and how it is written where the old one was, if it can be.
struct Renamed {
    new: RepoPath,
    written: Option<String>,
}

fn renamed(context: &Context<'_, '_>, bases: &[RepoPath], path: &str) -> Option<Renamed> {
    bases.iter().find_map(|base| {
        let new = context.renames.now(&base.resolve(path)?)?;
        let there = context.workspace.tree().look(&Location::root(new.clone())) != Look::Nothing;
        let written = new.below(base).map(str::to_owned);
        there.then_some(Renamed { new, written })
    })
}

/// A finding that says where a path is now, and writes it wherever the old one stands in these words.
fn with_new_name(text: &Text, path: &str, span: Range<usize>, renamed: &Renamed) -> Finding {
    let (old, new) = (path.trim_end_matches('/'), &renamed.new);
    let finding = text.finding(&INFO, span.clone(), format!("{path} is not there: it was renamed"));
    let Some(written) = &renamed.written else {
        return finding.help(format!("it is {new} now: write the way there from here"));
    };
    let words = text.words(&span);
    let begins = |at: usize| words[..at].chars().next_back().is_none_or(|c| !c.is_alphanumeric() && !"-_".contains(c));
    let ends = |at: usize| words[at..].chars().next().is_none_or(|c| !c.is_alphanumeric() && !"-_".contains(c));
    let places = words.match_indices(old).filter(|(at, _)| begins(*at) && ends(at + old.len()));
    places.fold(finding.help(format!("write {written}")), |finding, (at, _)| {
        let start = span.start + at;
        finding.edit(start..start + old.len(), written)
    })
}

/// The path that was meant: the same name elsewhere, or a name near to it in the same folder.
fn hint(context: &Context<'_, '_>, bases: &[RepoPath], path: &str) -> Option<String> {
    let path = path.trim_end_matches('/');
    let name = path.rsplit('/').next()?;
    if let [one] = &context.facts.named(name)[..] {
        return Some(one.to_string());
    }
    bases.iter().find_map(|base| {
        let mut here = base.clone();
        for (number, part) in path.split('/').enumerate() {
            let folder = context.project.index.folder(&here)?;
            if folder.get(part).is_some() {
                here = here.join(part);
                continue;
            }
            let names: Vec<&str> = folder.items().map(|item| item.name).take(MOST_NAMES + 1).collect();
            if names.len() > MOST_NAMES {
                return None;
            }
            let near = nearest(part, names.iter().copied())?;
            let rest: Vec<&str> = path.split('/').skip(number + 1).collect();
            let found = here.join(near).resolve(&rest.join("/"))?;
            return (context.workspace.tree().look(&Location::root(found.clone())) != Look::Nothing)
                .then(|| found.to_string());
        }
        None
    })
}
