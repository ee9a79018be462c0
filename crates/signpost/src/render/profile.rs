//! `signpost profile`.

use super::table::{Table, cell, wrap};
use super::{COMMAND, FAINT, FILE, STRONG, paint, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::toml_file::ConfigError;
use signpost_core::base::wording::group;
use signpost_core::change::draft_profile::{Draft, Perhaps};
use signpost_core::header::HeaderStyle;
use signpost_core::pattern::{Bare, ListForm};
use signpost_core::profile::{
    Base, Condition, Conflict, Excess, Kind, Level, Loads, Nested, Origin, Pick, Place, Profile, Reach, ReferenceSyntax,
};

fn origin(profile: &Profile) -> &'static str {
    match profile.origin {
        Origin::BuiltIn => "built in",
        Origin::User => "yours",
        Origin::Project => "the project's",
        Origin::Guessed => "a guess",
    }
}

/// The profiles, for people.
pub fn list(profiles: &[Profile]) -> String {
    let mut out = String::new();
    let mut table = Table::new(2);
    for profile in profiles {
        let files: Vec<String> = profile.places.iter().map(Place::files_text).collect();
        table.row(vec![
            cell(profile.name.clone(), STRONG),
            cell(profile.title.clone(), Style::new()),
            cell(origin(profile), FAINT),
            cell(files.join(", "), FILE),
        ]);
    }
    table.render(width(), &mut out);
    out += &format!("\n{} says in words what one reads\n", paint(COMMAND, "signpost profile show NAME"));
    out
}

/// One profile in words.
pub fn show(profile: &Profile) -> String {
    let mut out = format!(
        "{}  {}\n",
        paint(STRONG, &profile.title),
        paint(FAINT, format!("{}, {}, {}", profile.name, origin(profile), profile.file))
    );
    for place in &profile.places {
        out += &format!("\n{}\n", paint(FILE, format!("{} ({})", place.files_text(), place.id)));
        for sentence in sentences(profile, place) {
            for (at, line) in wrap(&sentence, width() - 4).iter().enumerate() {
                out += &format!("  {} {line}\n", if at == 0 { "-" } else { " " });
            }
        }
    }
    let general = general(profile);
    if !general.is_empty() {
        out += &format!("\n{}\n", paint(FILE, "Besides"));
        for sentence in general {
            for (at, line) in wrap(&sentence, width() - 4).iter().enumerate() {
                out += &format!("  {} {line}\n", if at == 0 { "-" } else { " " });
            }
        }
    }
    out
}

fn sentences(profile: &Profile, place: &Place) -> Vec<String> {
    let where_ = match place.level {
        Level::User => "in the home folder",
        Level::Project => "at the root of the project",
        Level::Folder => "in every folder",
    };
    let mut said = vec![format!("looks for {} {where_}", place.files_text())];
    if place.pick == Pick::First && place.files.len() > 1 {
        said.push("reads only the first of these that is there".to_owned());
    }
    if place.level == Level::Folder {
        said.push(match (profile.loads, profile.nested) {
            (Loads::Touched, Nested::All) => "those of all folders on the way to a file it works on".to_owned(),
            (Loads::Touched, Nested::Nearest) => "only the one nearest to a file it works on".to_owned(),
            (Loads::Start, Nested::All) => {
                "those of all folders on the way to where the conversation started".to_owned()
            }
            (Loads::Start, Nested::Nearest) => "only the one nearest to where the conversation started".to_owned(),
            (Loads::Either, Nested::All) => {
                "those on the way to a file it works on, and on the way to where the conversation started".to_owned()
            }
            (Loads::Either, Nested::Nearest) => {
                "only the one nearest to a file it works on, else to the start".to_owned()
            }
        });
    }
    match place.kind {
        Kind::Role => said.push("they are roles for other conversations, and in no brief".to_owned()),
        Kind::Bundle => said.push("they are bundles: offered by their summary".to_owned()),
        Kind::Called => said.push("they are told when somebody names them".to_owned()),
        Kind::Rule => said.extend(reaches(place)),
    }
    if place.header != HeaderStyle::None {
        let keys =
            [("the summary", &place.keys.summary), ("paths", &place.keys.paths), ("exceptions", &place.keys.except)];
        let carried: Vec<String> =
            keys.iter().filter_map(|(what, key)| key.as_ref().map(|key| format!("`{key}` carries {what}"))).collect();
        let style = if place.header == HeaderStyle::Toml { "TOML" } else { "YAML" };
        said.push(format!(
            "a header in {style}{}",
            if carried.is_empty() { String::new() } else { format!(": {}", carried.join(", ")) }
        ));
    }
    if place.keys.paths.is_some() && place.header != HeaderStyle::None {
        said.push(dialect(place));
    }
    if place.personal {
        said.push("one person's own copy, which git should ignore".to_owned());
    }
    said
}

fn told(reach: Reach) -> &'static str {
    match reach {
        Reach::Standing => "told in every conversation",
        Reach::Scoped => "told when a file in its scope is worked on",
        Reach::Offered => "offered by its summary",
        Reach::Called => "told when somebody names it",
    }
}

fn reaches(place: &Place) -> Vec<String> {
    if place.decide.is_empty() || place.header == HeaderStyle::None {
        return vec![format!("a file is {}", told(place.reach))];
    }
    let mut said = Vec::new();
    for (at, row) in place.decide.iter().enumerate() {
        let holds = match &row.condition {
            Condition::Is(text) => format!("`{}` is {text}", row.key),
            Condition::Present => format!("`{}` is there", row.key),
            Condition::Absent => format!("`{}` is not there", row.key),
        };
        said.push(format!("{} {holds}: {}", if at == 0 { "where" } else { "else where" }, told(row.reach)));
    }
    said.push(format!("else: {}", told(place.reach)));
    said
}

fn dialect(place: &Place) -> String {
    let form = match place.dialect.list {
        ListForm::Array => "a list of patterns",
        ListForm::Comma => "one string of patterns with commas",
        ListForm::Either => "a list of patterns, or a string with commas",
    };
    let from = match place.base {
        Base::Folder => "counting from the folder of the file's place",
        Base::Root => "counting from the root",
    };
    let bare = match place.dialect.bare {
        Bare::AnyDepth => "without a slash at any depth",
        Bare::Anchored => "without a slash only in that folder",
    };
    let braces = if place.dialect.braces { "{a,b} understood" } else { "braces are plain characters" };
    let negate = if place.dialect.negate { ", a leading ! takes files out" } else { "" };
    format!("{form}, {from}, {bare}, {braces}{negate}")
}

fn general(profile: &Profile) -> Vec<String> {
    let mut said = Vec::new();
    if profile.places.len() > 1 {
        said.push(format!("told in this order: {}; then the rest", profile.order.join(", ")));
    }
    match profile.conflict {
        Conflict::LaterWins => said.push("where rules contradict each other, it follows the later one".to_owned()),
        Conflict::EarlierWins => said.push("where rules contradict each other, it follows the earlier one".to_owned()),
        Conflict::Unstated => {}
    }
    let excess = match profile.limits.excess {
        Excess::Cut => "cut there",
        Excess::Skip => "skipped",
    };
    if profile.limits.file_bytes > 0 {
        said.push(format!("a file beyond {} bytes is {excess}", group(profile.limits.file_bytes as usize)));
    }
    if profile.limits.total_bytes > 0 {
        said.push(format!("what goes beyond {} bytes in all is {excess}", group(profile.limits.total_bytes as usize)));
    }
    if let Some(references) = &profile.references {
        let syntax: Vec<&str> = references
            .syntax
            .iter()
            .map(|syntax| match syntax {
                ReferenceSyntax::AtPath => "@some/file",
                ReferenceSyntax::Link => "[text](some/file)",
            })
            .collect();
        said.push(format!(
            "follows {} up to {} in a row, from the {}",
            syntax.join(" and "),
            references.depth,
            references.from.word()
        ));
    }
    if !profile.exclusions.is_empty() {
        let names: Vec<&str> = profile.exclusions.iter().map(|path| path.as_str()).collect();
        said.push(format!("does not see source files that {} hides", names.join(" or ")));
    }
    said
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct ProfilesJson {
    schema: &'static str,
    profiles: Vec<ProfileJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ProfileJson {
    name: String,
    title: String,
    origin: &'static str,
    file: String,
    places: Vec<PlaceJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct PlaceJson {
    id: String,
    level: &'static str,
    kind: &'static str,
    files: Vec<String>,
    says: Vec<String>,
}

/// For programs: `signpost.profile/1`.
pub fn list_json(profiles: &[Profile]) -> ProfilesJson {
    let one = |profile: &Profile| ProfileJson {
        name: profile.name.clone(),
        title: profile.title.clone(),
        origin: match profile.origin {
            Origin::BuiltIn => "built-in",
            Origin::User => "user",
            Origin::Project => "project",
            Origin::Guessed => "guessed",
        },
        file: profile.file.clone(),
        places: profile
            .places
            .iter()
            .map(|place| PlaceJson {
                id: place.id.clone(),
                level: place.level.word(),
                kind: place.kind.word(),
                files: place.files.iter().map(|pattern| pattern.text().to_owned()).collect(),
                says: sentences(profile, place),
            })
            .collect(),
    };
    ProfilesJson { schema: "signpost.profile/1", profiles: profiles.iter().map(one).collect() }
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct CheckJson {
    schema: &'static str,
    file: String,
    valid: bool,
    problems: Vec<ProblemJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ProblemJson {
    severity: &'static str,
    line: usize,
    column: usize,
    message: String,
    help: Option<String>,
}

/// For programs: `signpost.profile-check/1`.
pub fn check_json(file: &str, error: Option<&ConfigError>, remarks: &[ConfigError]) -> CheckJson {
    let one = |severity: &'static str, error: &ConfigError| ProblemJson {
        severity,
        line: error.at.line,
        column: error.at.column,
        message: error.message.clone(),
        help: error.help.clone(),
    };
    let problems =
        error.into_iter().map(|error| one("error", error)).chain(remarks.iter().map(|remark| one("warning", remark)));
    CheckJson {
        schema: "signpost.profile-check/1",
        file: file.to_owned(),
        valid: error.is_none(),
        problems: problems.collect(),
    }
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct DraftsJson {
    schema: &'static str,
    drafts: Vec<DraftJson>,
    perhaps: Vec<PerhapsJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct PerhapsJson {
    path: String,
    why: &'static str,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct DraftJson {
    name: String,
    toml: String,
    files: Vec<String>,
}

/// For programs: `signpost.profile-draft/1`.
pub fn drafts_json(drafts: &[Draft], perhaps: &[Perhaps]) -> DraftsJson {
    let one = |draft: &Draft| DraftJson {
        name: draft.name.clone(),
        toml: draft.toml.clone(),
        files: draft.files.iter().map(ToString::to_string).collect(),
    };
    let perhaps = perhaps.iter().map(|one| PerhapsJson { path: one.path.to_string(), why: one.why }).collect();
    DraftsJson { schema: "signpost.profile-draft/1", drafts: drafts.iter().map(one).collect(), perhaps }
}
