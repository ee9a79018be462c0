//! The rules of the guidance, as publishing sees them.

use super::PublishError;
use crate::base::repo_path::RepoPath;
use crate::base::toml_file::{ConfigError, nearest, parse_toml};
use crate::base::wording::{MOST_WORDS, beginning, size};
use crate::directive::Outline;
use crate::facts::Facts;
use crate::pattern::Pattern;
use crate::pattern::escaped;
use crate::pattern::translate::translate;
use crate::profile::{Profile, Reach};
use crate::project::condition::Condition;
use crate::project::guidance::{self, Kept, Marker, RuleHeader};
use crate::project::rule::Rule;
use crate::project::workspace::Assistant;
use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

/// One rule of the guidance.
#[derive(Clone, Debug)]
pub struct Source {
    /// The rule.
    pub rule: Arc<Rule>,
    /// Its file.
    pub path: RepoPath,
    /// The folder that holds its `guidance/`.
    pub base: RepoPath,
    /// Its path in `guidance/rules/`, without the ending.
    pub name: String,
    /// Its text, without blanks around it, with `\n` at line ends.
    pub body: String,
    /// When it gets to an assistant.
    pub reach: Reach,
    /// Whom it is for; `None` for all.
    pub assistants: Option<Vec<String>>,
    /// Where it comes among the rules of a file; what has no order comes last.
    pub order: i64,
    /// What is kept for each assistant's file.
    pub keep: BTreeMap<String, Kept>,
    read: OnceLock<Read>,
}

/// What is read of a rule's text once, however many files it goes into.
#[derive(Clone, Debug)]
struct Read {
    headings: Vec<(Range<usize>, usize)>,
    conditions: usize,
}

/// A rule that is not published.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unpublished {
    /// The rule.
    pub rule: RepoPath,
    /// Why not.
    pub why: String,
}

impl Source {
    /// Whether an assistant is to get it.
    pub fn is_for(&self, profile: &Profile) -> bool {
        self.assistants.as_ref().is_none_or(|names| names.contains(&profile.name))
    }

    fn read(&self) -> &Read {
        self.read.get_or_init(|| {
            let outline = Outline::read(beginning(&self.body), 0);
            let conditions = outline.directives.iter().map(|one| one.conditions.len()).sum();
            Read { headings: headings(&self.body), conditions }
        })
    }

    /// The headings of its text: their bytes and level.
    pub fn headings(&self) -> &[(Range<usize>, usize)] {
        &self.read().headings
    }

    /// How many headings stand as conditions above its directives, each counted for each.
    pub fn conditions(&self) -> usize {
        self.read().conditions
    }

    /// A title made from the file's name: `Two people` for `two-people.md`.
    pub fn title(&self) -> String {
        let last = self.name.rsplit('/').next().unwrap_or_default();
        // A number that only keeps files in order is no part of it.
        let words = last.trim_start_matches(|c: char| c.is_ascii_digit()).trim_start_matches(['-', '_']);
        let words = if words.is_empty() { last } else { words }.replace(['-', '_'], " ");
        let words = words.replace(char::is_control, " ");
        let mut chars = words.chars();
        chars.next().map(|first| first.to_uppercase().collect::<String>() + chars.as_str()).unwrap_or_default()
    }

    /// The patterns that take files in, and those that take files out, as the guidance writes them.
    pub fn patterns(&self) -> (Vec<&str>, Vec<&str>) {
        let scope = &self.rule.scope;
        (
            scope.paths.set.patterns.iter().map(Pattern::text).collect(),
            scope.except.set.patterns.iter().map(Pattern::text).collect(),
        )
    }

    /// The folder whose whole subtree is the scope, where it is one.
    pub fn subtree(&self) -> Option<RepoPath> {
        if self.reach != Reach::Scoped {
            return Some(self.base.clone());
        }
        let (paths, except) = self.patterns();
        let [only] = paths[..] else { return None };
        let text = only.strip_prefix("./").unwrap_or(only);
        let text = text.strip_prefix('/').unwrap_or(text);
        let folder = text.strip_suffix("/**").or_else(|| text.strip_suffix('/'))?;
        let literal = !folder.is_empty() && !folder.contains(['*', '?', '[', '{', '}']);
        let clean = !folder.split('/').any(|part| matches!(part, "" | "." | ".."));
        (literal && clean && except.is_empty()).then(|| self.base.join(folder))
    }

    /// Whether an exception takes out all that is below a folder.
    pub fn leaves_out(&self, folder: &RepoPath) -> bool {
        self.reach == Reach::Scoped
            && self.patterns().1.into_iter().any(|text| {
                let inside = text.trim_start_matches('/').strip_suffix("/**").map(|out| self.base.join(out));
                inside.is_some_and(|out| folder.is_in(&out))
            })
    }

    /// The deepest folder that the patterns spell out, which every file in scope is below.
    pub fn spelled_folder(&self) -> RepoPath {
        if self.reach != Reach::Scoped {
            return self.base.clone();
        }
        let simple = self.rule.scope.paths.set.patterns.iter().flat_map(Pattern::simple);
        let folders = simple.map(|one| {
            one.literal_folders()
                .iter()
                .fold(self.base.clone(), |folder, name| folder.resolve(name).unwrap_or_default())
        });
        folders.reduce(|one, other| one.common(&other)).unwrap_or_else(|| self.base.clone())
    }

    /// The heading that says what it applies to.
    pub fn marker(&self) -> Marker {
        let dialect = guidance::dialect();
        if self.reach != Reach::Scoped {
            let folder = match self.base.as_str() {
                "" => "**".to_owned(),
                base => format!("{}/**", escaped(base, dialect)),
            };
            return Marker::For { paths: vec![on_one_line(&folder)], except: Vec::new() };
        }
        let from_root = |texts: Vec<&str>| -> Vec<String> {
            let words = texts.into_iter().flat_map(|text| translate(text, dialect, dialect, &self.base).words);
            words.map(|text| on_one_line(&text)).collect()
        };
        let (paths, except) = self.patterns();
        Marker::For { paths: from_root(paths), except: from_root(except) }
    }
}

/// The headings of a text: their bytes and level.
pub(crate) fn headings(body: &str) -> Vec<(Range<usize>, usize)> {
    let possible = body.lines().any(|line| {
        let line = line.trim_start();
        line.starts_with('#') || line.starts_with("==") || line.starts_with("--") || line == "=" || line == "-"
    });
    if !possible || body.len() > MOST_WORDS {
        return Vec::new();
    }
    let outline = Outline::read(body, 0);
    outline.sections.into_iter().map(|section| (section.heading, usize::from(section.level))).collect()
}

/// A pattern may hold a line break, a heading may not: `?` takes it too.
fn on_one_line(text: &str) -> String {
    text.replace(char::is_control, "?")
}

/// Reads the rules of the guidance: those to publish, and those not to.
///
/// # Errors
/// A header holds something that would be lost or misunderstood.
pub fn read<'t>(
    guidance: &Assistant<'_>,
    profiles: &[Profile],
    facts: &dyn Fn() -> &'t Facts<'t>,
) -> Result<(Vec<Source>, Vec<Unpublished>), PublishError> {
    let (mut sources, mut unpublished) = (Vec::new(), Vec::new());
    for rule in &guidance.rules {
        let Some(path) = rule.file().in_root().cloned() else { continue };
        let text = &rule.document.text;
        if let Some(error) = &rule.document.error {
            return Err(PublishError::Tree(error.clone()));
        }
        let refuse =
            |span, message: String, help: String| ConfigError::new(path.as_str(), text, span, message, Some(help));
        if let Some(line) = rule.document.bad_line() {
            let message = format!("line {line} is not UTF-8, so the text would not survive publishing");
            return Err(refuse(0..0, message, "save the file as UTF-8".to_owned()).into());
        }
        if let Some(problem) = rule.header.problems.first() {
            return Err(refuse(problem.span.clone(), problem.message.clone(), problem.help.clone()).into());
        }
        let header = header(rule, &path)?;
        let span_of = |key: &str| rule.header.get(key).map_or(0..0, |key| key.value_span.clone());
        if let Some(name) =
            header.assistants.iter().flatten().find(|name| !profiles.iter().any(|profile| profile.name == **name))
        {
            let names = || profiles.iter().map(|profile| profile.name.as_str());
            let all = names().collect::<Vec<_>>().join(", ");
            let near = nearest(name, names()).map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
            let message = format!("there is no assistant `{name}`");
            return Err(refuse(span_of("assistants"), message, format!("{near}there are: {all}")).into());
        }
        for (name, kept) in &header.keep {
            let places = || profiles.iter().filter(|profile| profile.name == *name).flat_map(|profile| &profile.places);
            let means = |key: &&str| places().any(|place| place.known_keys().contains(key));
            if let Some(key) = kept.keys().find(means) {
                let message = format!("`{key}` means something to `{name}`, so it can't only be kept");
                let help = "say it with the rule's own keys, such as `paths` or `reach`".to_owned();
                return Err(refuse(span_of("keep"), message, help).into());
            }
        }
        let base = rule.found.anchor.path.clone();
        let mut leave = |why: &str| unpublished.push(Unpublished { rule: path.clone(), why: why.to_owned() });
        if let Some(when) = &header.when {
            let condition = Condition::parse(when).map_err(|error| {
                refuse(span_of("when"), error.message, "for example: `when = \"sqlx >= 0.8\"`".to_owned())
            })?;
            if !condition.holds(facts(), &base) {
                leave(&format!("the manifests do not say `{when}`"));
                continue;
            }
        }
        let body = text[rule.header.body..].replace("\r\n", "\n");
        let body = without_blank_lines(&body).to_owned();
        if body.len() > MOST_WORDS {
            let message = format!("at {} this is more than any assistant reads", size(body.len() as u64));
            return Err(refuse(0..0, message, "cut it into rules of which each says one thing".to_owned()).into());
        }
        if body.is_empty() {
            leave("it has no text");
            continue;
        }
        if rule.reach == Reach::Scoped && !rule.scope.paths.set.patterns.iter().any(|one| !one.is_negated()) {
            leave("it is scoped and has no valid pattern");
            continue;
        }
        let folder = base.join("guidance/rules");
        let name = path.below(&folder).unwrap_or(path.as_str());
        let name = name.strip_suffix(".md").unwrap_or(name).to_owned();
        let (rule, reach, assistants, keep) = (rule.clone(), rule.reach, header.assistants, header.keep);
        let order = header.order.unwrap_or(i64::MAX);
        sources.push(Source { rule, path, base, name, body, reach, assistants, order, keep, read: OnceLock::new() });
    }
    Ok((sources, unpublished))
}

/// A text without the blank lines around it and the blanks at its end. Blanks before its first words stay: they may
/// make them code.
pub fn without_blank_lines(text: &str) -> &str {
    let text = text.trim_end();
    let first = text.len() - text.trim_start().len();
    &text[text[..first].rfind('\n').map_or(0, |at| at + 1)..]
}

/// The header, read strictly: a key that nobody knows is a rule that reaches the wrong files.
fn header(rule: &Rule, path: &RepoPath) -> Result<RuleHeader, PublishError> {
    let Some(block) = rule.header.block.clone() else { return Ok(RuleHeader::default()) };
    // What stands around the block is blanked out, so that positions stay right.
    let text = &rule.document.text;
    let blank = |part: &str| part.bytes().map(|byte| if byte == b'\n' { '\n' } else { ' ' }).collect::<String>();
    let alone = format!("{}{}{}", blank(&text[..block.start]), &text[block.clone()], blank(&text[block.end..]));
    parse_toml(path.as_str(), &alone).map_err(|mut error: Box<ConfigError>| {
        error.source_text.clone_from(text);
        error.into()
    })
}
