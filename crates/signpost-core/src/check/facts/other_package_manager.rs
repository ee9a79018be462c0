use super::{own_folder, place};
use crate::check::text::mention::{Command, commands, is_denied};
use crate::check::{CheckInfo, Context, Finding, Text};
use crate::config::Severity;
use crate::directive::About;
use crate::directive::words::{Sep, Word, words};
use crate::facts::{Ecosystem, ManagerFact, nearest_for};
use std::ops::Range;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("facts/other-package-manager", Severity::Warning, include_str!("other_package_manager.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, text: &Text, findings: &mut Vec<Finding>) {
    let mut said: Vec<Range<usize>> = Vec::new();
    let mut say = |span: Range<usize>, named: &str, ecosystem: Ecosystem, findings: &mut Vec<Finding>| {
        let Some(fact) = other(context, text, ecosystem, named) else { return };
        if said.iter().any(|one| one.start < span.end && span.start < one.end) {
            return;
        }
        said.push(span.clone());
        let message = format!("this names {named}, but {} is of {}", place(&fact.source), fact.name);
        findings.push(text.finding(&INFO, span, message).help(format!("use {}", fact.name)));
    };
    for command in commands(text) {
        let span = command.span();
        if let Some((named, ecosystem)) = manager_of(command)
            && !is_denied(text, span.start)
            && !text.in_comment(span.start)
        {
            say(span, named, ecosystem, findings);
        }
    }
    for (name, ecosystem) in [("javascript-packages", Ecosystem::JavaScript), ("python-packages", Ecosystem::Python)] {
        let Some((own_family, family)) = context.families.by_name(name) else { continue };
        for (number, (directive, said)) in text.directives().enumerate() {
            for claim in said.claims.iter().filter(|claim| claim.modality.is_for()) {
                let About::Choice { family: own, choice, .. } = claim.about else { continue };
                if own != own_family {
                    continue;
                }
                let named = &family.choices[usize::from(choice)].name;
                let all = words(text.text(), directive.span.clone());
                let mention = context.families.hits(&all.iter().collect::<Vec<_>>()).into_iter().find(|hit| {
                    hit.family == own_family
                        && hit.choice == choice
                        && !hit.command
                        && text
                            .modality_at(number, all[hit.start].span.start)
                            .is_none_or(|modality| !modality.is_against())
                });
                // `Poetry is sorted by line`, `the names of npm scripts`: the word speaks of something else.
                let chosen = mention.is_some_and(|hit| is_chosen(&all, hit.start));
                if let Some(hit) = mention.filter(|_| chosen)
                    && !is_denied(text, all[hit.start].span.start)
                {
                    say(all[hit.start].span.start..all[hit.end - 1].span.end, named, ecosystem, findings);
                }
            }
        }
    }
}

/// Whether a word is what somebody is told to use: `use x`, `with x`, `x is the package manager`, not what is said of it.
fn is_chosen(all: &[Word], at: usize) -> bool {
    let next = all.get(at + 1).filter(|next| next.sep == Sep::None);
    let of_it = next.is_some_and(|next| {
        next.is(&["script", "scripts", "registry", "package", "cache", "token", "account", "user", "version"])
    });
    let manages = all.iter().any(|word| {
        word.is(&[
            "manager", "dependencies", "dependency", "packages", "install", "installs", "installed", "manage",
            "managed", "manages",
        ])
    });
    let used = all[..at].iter().rev().take(4).any(|word| {
        word.is(&[
            "use", "uses", "using", "with", "via", "by", "prefer", "through", "on", "only", "always", "run", "choose",
        ])
    });
    !of_it && (all[at].code || used || manages || all.len() < 4)
}

/// The manager that the repository uses, where that is another one.
fn other<'a>(context: &'a Context<'_, '_>, text: &Text, ecosystem: Ecosystem, named: &str) -> Option<&'a ManagerFact> {
    let all = context.facts.managers.iter().filter(|fact| fact.ecosystem == ecosystem);
    let known: Vec<&ManagerFact> = nearest_for(all, &own_folder(text), |fact| &fact.source.file);
    if known.iter().any(|fact| fact.name == named) {
        return None;
    }
    // Two managers in one repository are somebody's plan; which one is meant is not known.
    let first = known.first()?;
    known.iter().all(|fact| fact.name == first.name).then_some(*first)
}

/// The package manager that a command uses on this project's packages.
fn manager_of(command: &Command) -> Option<(&str, Ecosystem)> {
    let program = command.program();
    let first = command.arguments().next().map(|(_, word)| word);
    let global = command.has(&["-g", "--global", "--user", "--version", "-v"]);
    if global {
        return None;
    }
    let own = |names: &[&str]| first.is_some_and(|first| names.contains(&first));
    match program {
        "npm"
            if own(&[
                "run", "test", "start", "install", "ci", "i", "add", "uninstall", "update", "exec", "run-script",
                "remove", "t",
            ]) =>
        {
            Some((program, Ecosystem::JavaScript))
        }
        "yarn" | "pnpm"
            if !own(&["publish", "login", "config", "dlx", "info", "npm", "create", "self-update", "env"]) =>
        {
            Some((program, Ecosystem::JavaScript))
        }
        "bun" if own(&["install", "add", "remove", "i", "update"]) => Some((program, Ecosystem::JavaScript)),
        "pip" | "pip3" if own(&["install", "uninstall", "freeze", "sync"]) => {
            let others = command.has(&["uv", "poetry", "pipenv", "pdm", "pipx"]);
            (!others).then_some(("pip", Ecosystem::Python))
        }
        "python" | "python3" => {
            let rest: Vec<&str> = command.words.iter().skip(1).map(|(word, _)| word.as_str()).collect();
            rest.starts_with(&["-m", "pip", "install"]).then_some(("pip", Ecosystem::Python))
        }
        "poetry" if first.is_some() && !own(&["self", "init", "new"]) => Some((program, Ecosystem::Python)),
        "pipenv" | "pdm" if first.is_some() => Some((program, Ecosystem::Python)),
        "uv" if own(&["run", "sync", "add", "remove", "lock", "pip"]) => Some((program, Ecosystem::Python)),
        _ => None,
    }
}
