//! What a text mentions: commands to run, paths, and in which light.

use super::Text;
use crate::directive::Modality;
use crate::directive::words::words;
use std::ops::Range;

/// One command of a shell line.
#[derive(Clone, Debug, PartialEq)]
pub(in crate::check) struct Command {
    /// Its words, quotes taken off, with their bytes in the file.
    pub words: Vec<(String, Range<usize>)>,
    /// The folder that a `cd` before it went to.
    pub folder: Option<String>,
    /// Whether it is written as code.
    pub code: bool,
}

impl Command {
    /// What is run.
    pub fn program(&self) -> &str {
        self.words.first().map_or("", |(word, _)| word)
    }

    /// Whether one of its words is one of some.
    pub fn has(&self, words: &[&str]) -> bool {
        self.words.iter().any(|(word, _)| words.contains(&word.as_str()))
    }

    /// The bytes of all of it.
    pub fn span(&self) -> Range<usize> {
        let last = self.words.last().map_or(0, |(_, span)| span.end);
        self.words.first().map_or(0..0, |(_, first)| first.start..last)
    }

    /// The words after the program that are no options nor values of these options, with their numbers.
    pub fn arguments_without(&self, valued: &[&str]) -> Vec<(usize, &str)> {
        let mut found = Vec::new();
        let mut at = 1;
        while let Some((word, _)) = self.words.get(at) {
            if !word.starts_with('-') {
                found.push((at, word.as_str()));
            } else if valued.contains(&word.as_str()) {
                at += 1;
            }
            at += 1;
        }
        found
    }

    /// The words after the program that are no options, with their numbers.
    pub fn arguments(&self) -> impl Iterator<Item = (usize, &str)> {
        self.words
            .iter()
            .enumerate()
            .skip(1)
            .filter(|(_, (word, _))| !word.starts_with('-'))
            .map(|(at, (word, _))| (at, word.as_str()))
    }

    /// The value of an option: `-C dir`, `--prefix=dir`.
    pub fn option(&self, names: &[&str]) -> Option<&str> {
        self.words.iter().enumerate().find_map(|(at, (word, _))| {
            let (name, value) = word.split_once('=').map_or((word.as_str(), None), |(name, value)| (name, Some(value)));
            names
                .contains(&name)
                .then(|| value.or_else(|| self.words.get(at + 1).map(|(word, _)| word.as_str())))
                .flatten()
        })
    }
}

/// Programs that a lone code span or a line without a prompt is known by.
const PROGRAMS: &[&str] = &[
    "npm", "npx", "yarn", "pnpm", "bun", "deno", "node", "make", "just", "cargo", "rustup", "pip", "pip3", "poetry",
    "uv", "pipenv", "pdm", "python", "python3", "pytest", "tox", "nox", "ruff", "mypy", "black", "go", "bash", "sh",
    "zsh", "source", "curl", "wget", "git", "docker", "cd", "sudo", "eval", "iex", "irm", "iwr", "hatch", "task",
    "mix", "composer", "cmake", "./gradlew", "gradle", "gradlew", "mvn", "sbt", "dotnet", "bundle", "rake",
    "terraform", "pre-commit",
];

const SHELLS: &[&str] = &[
    "", "sh", "bash", "shell", "zsh", "console", "terminal", "shell-session", "shellscript", "fish", "powershell",
    "ps1", "cmd", "makefile",
];

/// So many commands of a text are read, as many as directives.
const MOST_COMMANDS: usize = crate::directive::MOST_DIRECTIVES;

/// Every command in code, and in the prose around it where it is plain.
pub(in crate::check) fn commands(text: &Text) -> &[Command] {
    text.commands.get_or_init(|| find(text))
}

fn find(text: &Text) -> Vec<Command> {
    let mut found = Vec::new();
    for code in &text.outline.code {
        if found.len() >= MOST_COMMANDS || code.span.start > text.read_to() {
            break;
        }
        match &code.block {
            None => {
                let inner = text.words(&code.span);
                let first = inner.split_whitespace().next().unwrap_or_default();
                if PROGRAMS.contains(&first) || (first.starts_with("./") || first.contains('/')) && inner.contains(' ')
                {
                    line(text.text(), code.span.clone(), &mut found);
                }
            }
            Some(language) if SHELLS.contains(&language.as_str()) => {
                let lines: Vec<Range<usize>> = crate::base::wording::lines_in(text.text(), code.span.clone()).collect();
                let prompts = lines.iter().any(|one| text.words(one).trim_start().starts_with("$ "));
                for one in lines {
                    let words = text.words(&one);
                    let lead = words.len() - words.trim_start().len();
                    let (start, known) = match words.trim_start().strip_prefix("$ ") {
                        Some(_) => (one.start + lead + 2, true),
                        None => {
                            let first = words.split_whitespace().next().unwrap_or_default();
                            let program =
                                first.split('=').count() > 1 || PROGRAMS.contains(&first) || first.starts_with("./");
                            (one.start + lead, !prompts && (program || !language.is_empty()))
                        }
                    };
                    if known && !words.trim_start().starts_with('#') {
                        line(text.text(), start..one.end, &mut found);
                    }
                }
            }
            Some(_) => {}
        }
    }
    in_prose(text, &mut found);
    found.truncate(MOST_COMMANDS);
    found
}

/// `Run npm run lint` and `run make check` without backticks.
fn in_prose(text: &Text, found: &mut Vec<Command>) {
    for directive in &text.outline.directives {
        let said = text.words(&directive.span);
        let programs = ["npm", "pnpm", "yarn", "make"].iter().any(|program| said.contains(program));
        if !programs {
            continue;
        }
        let all = words(text.text(), directive.span.clone());
        for (at, word) in all.iter().enumerate().filter(|(_, word)| !word.code && !word.joined) {
            let is_run = |at: usize| all.get(at).is_some_and(|word| word.is(&["run"]));
            let told = at
                .checked_sub(1)
                .is_some_and(|before| all[before].is(&["run", "execute", "with", "via", "use", "invoke"]));
            let length = match word.low.as_str() {
                "npm" | "pnpm" | "yarn" if is_run(at + 1) => 3,
                "npm" if all.get(at + 1).is_some_and(|word| word.is(&["test"])) && told => 2,
                "make" if told => 2,
                _ => continue,
            };
            let last =
                all.get(at + length - 1).filter(|last| !last.code && last.sep == crate::directive::words::Sep::None);
            let name = last.map(|last| last.low.clone()).unwrap_or_default();
            let plain = !name.is_empty()
                && !crate::directive::words::STOP.contains(&name.as_str())
                && !matches!(name.as_str(), "sure" | "scripts" | "commands" | "targets" | "before" | "after");
            if !plain {
                continue;
            }
            // Joined words (`test:unit`, `type-check`) are one name.
            let whole = text.text();
            let mut spans: Vec<Range<usize>> = all[at..at + length].iter().map(|word| word.span.clone()).collect();
            if let Some(span) = spans.last_mut() {
                let end = whole[span.start..directive.span.end]
                    .find(|c: char| !(c.is_alphanumeric() || matches!(c, '-' | '_' | ':')))
                    .map_or(directive.span.end, |end| span.start + end);
                *span = span.start..span.start + whole[span.start..end].trim_end_matches([':', '-']).len();
            }
            let words = spans.into_iter().map(|span| (text.words(&span).to_owned(), span)).collect();
            found.push(Command { words, folder: None, code: false });
        }
    }
}

/// Cuts a shell line into commands.
fn line(text: &str, range: Range<usize>, found: &mut Vec<Command>) {
    let mut words: Vec<(String, Range<usize>)> = Vec::new();
    let mut folder: Option<String> = None;
    let mut at = range.start;
    // What only says how to run it.
    let is_setting = |word: &str| {
        let name = word.split_once('=').map_or("", |(name, _)| name);
        !name.is_empty() && name.chars().all(|c| c.is_ascii_uppercase() || c == '_' || c.is_ascii_digit())
    };
    let mut finish = |words: &mut Vec<(String, Range<usize>)>| {
        let mut words = std::mem::take(words).into_iter().peekable();
        while words
            .next_if(|(word, _)| matches!(word.as_str(), "sudo" | "time" | "env" | "exec" | "$") || is_setting(word))
            .is_some()
        {}
        let words: Vec<_> = words.collect();
        match words.first().map(|(word, _)| word.as_str()) {
            Some("cd") => folder = words.get(1).map(|(word, _)| word.trim_end_matches('/').to_owned()),
            Some(_) => found.push(Command { words, folder: folder.clone(), code: true }),
            None => {}
        }
    };
    while at < range.end {
        let rest = &text[at..range.end];
        let c = rest.chars().next().unwrap_or(' ');
        if c.is_whitespace() {
            at += c.len_utf8();
        } else if c == '#' && words.is_empty() || rest.starts_with("# ") {
            break;
        } else if matches!(c, ';' | '|' | '&') {
            finish(&mut words);
            at += 1;
        } else if matches!(c, '"' | '\'') {
            let end = rest[1..].find(c).map_or(rest.len(), |end| end + 2);
            words.push((rest[..end].trim_matches(c).to_owned(), at..at + end));
            at += end;
        } else {
            let end = rest.find(|c: char| c.is_whitespace() || matches!(c, ';' | '|')).unwrap_or(rest.len());
            let end = rest[..end].find("&&").unwrap_or(end).max(1);
            let mut end = end.min(rest.len());
            while !rest.is_char_boundary(end) {
                end += 1;
            }
            words.push((rest[..end].to_owned(), at..at + end));
            at += end;
        }
    }
    finish(&mut words);
}

/// Words that say that a thing is not there now.
const GONE: &[&str] = &[
    "no longer", "removed", "deleted", "deprecated", "used to", "formerly", "was renamed", "were renamed", "was moved",
    "were moved", "renamed from", "gone", "there is no", "there's no", "there are no", "does not exist",
    "do not exist", "doesn't exist", "don't exist", "obsolete", "replaced by", "not exist", "migrated from",
    "previously", "in the past", "historical", "has no ", "have no ",
];

/// Whether a text in lower case says that what it names is not there now.
pub(in crate::check) fn says_gone(lower: &str) -> bool {
    GONE.iter().any(|gone| lower.contains(gone))
}

/// Whether the directive around a byte forbids, or says that what it names is gone.
pub(in crate::check) fn is_denied(text: &Text, at: usize) -> bool {
    let Some(number) = text.directive_at(at) else {
        // A block after `Never:`, or after a sentence that forbids and ends with a colon.
        let before = text.outline.directives.partition_point(|one| one.span.end <= at).checked_sub(1);
        return before.map(|number| (&text.outline.directives[number], &text.said[number])).is_some_and(
            |(one, said)| {
                text.words(&one.span).ends_with(':')
                    && said.modality.is_against()
                    && text.text()[one.span.end..at].trim().len() < 40
            },
        );
    };
    text.light(number).gone || text.modality_at(number, at).is_some_and(Modality::is_against)
}
