//! What the files of a place are, by how they are written: rules, roles, bundles, or what somebody calls by name.

use super::family::Found;
use crate::directive::words::{VERBS, words};
use crate::directive::{Directive, Modality, Outline, modalities};
use crate::header::Value;
use crate::profile::Kind;

/// Words in a name by which a file is one person's own.
pub(super) const PERSONAL: [&str; 6] = ["local", "private", "mine", "personal", "own", "me"];

/// Whether a name says that a file is one person's own: `NAME.local.md`.
pub(super) fn is_personal(name: &str) -> bool {
    let name = name.rsplit('/').next().unwrap_or_default().to_lowercase();
    let parts: Vec<&str> = name.split(['.', '-', '_']).collect();
    let hidden = name.starts_with('.') && parts.last().is_some_and(|part| PERSONAL.contains(part));
    parts.len() > 2 && (hidden || parts[1..parts.len() - 1].iter().any(|part| PERSONAL.contains(part)))
}

/// The kind, with what speaks for it. `elsewhere`: the assistant's rules stand in another place, so that this one may
/// hold something else.
pub(super) fn kind_of(files: &[Found], same_name: bool, elsewhere: bool) -> (Kind, Option<String>) {
    let share = |holds: &dyn Fn(&Found) -> bool| files.iter().filter(|file| holds(file)).count() * 2 > files.len();
    if share(&|file| has_patterns(file)) {
        return (Kind::Rule, None);
    }
    let header = share(&|file| !file.header.keys.is_empty());
    if same_name && header {
        return (Kind::Bundle, Some("each has a folder of its own and a header, so they look like bundles".to_owned()));
    }
    if !elsewhere {
        return (Kind::Rule, None);
    }
    if share(&|file| names_tools(file) || speaks_to_a_persona(file)) {
        return (Kind::Role, Some("they speak to a persona, or their headers name tools: roles".to_owned()));
    }
    if share(&|file| called_score(file) >= 2) {
        return (Kind::Called, Some("each tells one thing to do, so they look like what is called by name".to_owned()));
    }
    (Kind::Rule, None)
}

/// So many directives tell what a text is.
const MOST_READ: usize = 30;

/// Whether a text asks something of its reader, mostly: what only tells is a page.
pub(super) fn instructs(file: &Found) -> bool {
    let text = &file.document.text;
    let outline = Outline::read(text, file.header.body);
    let first = &outline.directives[..outline.directives.len().min(MOST_READ)];
    let asks = |one: &&Directive| modalities(text, one).iter().any(|(_, modality)| *modality != Modality::State);
    !first.is_empty() && first.iter().filter(asks).count() * 5 >= first.len() * 3
}

/// Whether most of a text speaks to somebody who does things: `Run the tests`, not `An implementation must support …`.
pub(super) fn commands(file: &Found) -> bool {
    let text = &file.document.text;
    let outline = Outline::read(text, file.header.body);
    // A list of links is a table of contents.
    let asks = outline.directives.iter().filter(|one| !text[..one.span.start].ends_with('['));
    let own: Vec<&str> = asks.map(|one| &text[one.span.clone()]).collect();
    let first = |text: &&&str| {
        let all = words(text, 0..text.len());
        let verb = all.first().is_some_and(|word| {
            word.is(VERBS)
                || word.is(&["never", "don't", "always", "do", "please", "prefer", "avoid", "no", "when", "if"])
        });
        verb && !text.starts_with('[')
    };
    own.iter().filter(first).count() * 2 > outline.directives.len()
}

/// Whether a header says when a file is told, or for what: only instructions have that.
pub(super) fn has_reach(file: &Found) -> bool {
    has_patterns(file)
        || file
            .header
            .keys
            .iter()
            .any(|key| key.scalar().is_some_and(super::keys::says_reach) || super::keys::says_reach(&key.name))
}

fn has_patterns(file: &Found) -> bool {
    file.header.keys.iter().any(super::keys::looks_like_patterns)
}

fn body(file: &Found) -> &str {
    file.document.text.get(file.header.body..).unwrap_or_default().trim()
}

/// A key whose name, or list, speaks of tools or a model.
fn names_tools(file: &Found) -> bool {
    file.header.keys.iter().any(|key| {
        let words: Vec<String> = key.name.split(|c: char| !c.is_alphanumeric()).map(str::to_lowercase).collect();
        let named =
            words.iter().any(|word| matches!(word.trim_end_matches('s'), "tool" | "model" | "persona" | "role"));
        named && !matches!(key.value, Value::Nothing)
    })
}

/// `You are a careful reviewer.`, `You write tests.`
fn speaks_to_a_persona(file: &Found) -> bool {
    let text = body(file);
    let first = text.lines().map(str::trim).find(|line| !line.is_empty() && !line.starts_with('#')).unwrap_or_default();
    let lower = first.trim_start_matches(['*', '_', '>', ' ']).to_lowercase();
    ["you ", "you're ", "act as "].iter().any(|start| lower.starts_with(start))
}

/// How much speaks for a text that is called by name: a place for an argument, steps, one demand instead of a list.
fn called_score(file: &Found) -> usize {
    let text = body(file);
    let argument = has_argument(text)
        || file.header.keys.iter().any(|key| {
            key.scalar().is_some_and(|value| {
                value.contains('[') && value.contains(']') || value.contains('<') && value.contains('>')
            })
        });
    let steps = text
        .lines()
        .filter(|line| line.trim_start().starts_with(|c: char| c.is_ascii_digit()) && line.contains(". "))
        .count()
        >= 2;
    let bullet = |line: &&str| line.trim_start().starts_with("- ") || line.trim_start().starts_with("* ");
    let bullets = text.lines().filter(bullet).count();
    let outline = Outline::read(text, 0);
    let first = outline.directives.first().map(|first| modalities(text, first)).unwrap_or_default();
    let demand = first.iter().map(|(_, asks)| *asks).find(|asks| *asks != Modality::State) == Some(Modality::Require);
    2 * usize::from(argument) + usize::from(steps) + usize::from(demand && bullets == 0) + usize::from(bullets == 0)
}

/// `{number}`, `$1`, `$NAME`, `<name>`: something that whoever calls it fills in.
fn has_argument(text: &str) -> bool {
    let mut code = false;
    text.lines().any(|line| {
        if line.trim_start().starts_with("```") {
            code = !code;
        }
        let braces = line.split('{').skip(1).any(|rest| {
            rest.split_once('}').is_some_and(|(inner, _)| {
                !inner.is_empty()
                    && inner.trim_matches('{').chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-' | ' '))
            })
        });
        let dollar = line
            .split('$')
            .skip(1)
            .any(|rest| rest.starts_with(|c: char| c.is_ascii_digit() || c.is_ascii_uppercase()));
        !code && (braces || dollar)
    })
}
