//! A profile drafted from the files that no profile knows.
//!
//! Looks for files that read like instructions to an assistant (hidden folders of Markdown, names in
//! capitals, dot-files of prose), puts those of one assistant together by the name they share, and infers
//! places, header keys, decide rows and the dialect of patterns. Every guess stands in the profile with its
//! evidence, as a comment, for a person to correct.

mod gather;
mod keys;

use crate::header::HeaderStyle;
use crate::pattern::{Dialect, ListForm};
use crate::profile::{Base, Format, Kind, Level, Reach};
use crate::project::workspace::{Project, Workspace};
pub use gather::Family;
use keys::KeyGuess;

/// A drafted profile.
#[derive(Clone, Debug)]
pub struct Draft {
    /// Its name.
    pub name: String,
    /// The profile, with comments.
    pub toml: String,
    /// The files that it accounts for.
    pub files: Vec<String>,
}

/// Drafts a profile for each assistant whose files no profile knows; those with the most files first.
pub fn draft(workspace: &Workspace<'_>, project: &Project, below: &[crate::base::repo_path::RepoPath]) -> Vec<Draft> {
    let mut families = gather::families(workspace, project, below);
    families.sort_by(|a, b| b.files().cmp(&a.files()).then_with(|| a.name.cmp(&b.name)));
    families.iter().map(|family| write(project, family)).collect()
}

/// One place of a draft, with what speaks for it.
struct PlaceDraft {
    id: String,
    level: Level,
    files: String,
    kind: Kind,
    format: Format,
    header: HeaderStyle,
    base: Base,
    personal: bool,
    keys: KeyGuess,
    evidence: Vec<String>,
}

fn write(project: &Project, family: &Family) -> Draft {
    let places: Vec<PlaceDraft> = family.groups.iter().map(|group| place(project, group)).collect();
    let title: String = family.name.split('-').map(capitalised).collect::<Vec<_>>().join(" ");
    let mut toml = format!(
        "# Drafted from {} that no profile knew. What speaks for a guess stands above it:\n# read it through, and correct what you know better.\nname = {}\ntitle = {}\n",
        crate::base::wording::count(family.files(), "file"),
        quoted(&family.name),
        quoted(&title)
    );
    let nested = places.iter().any(|place| place.level == Level::Folder);
    toml += "\n# When folder-level files load: touched (a file below their folder is worked on), start (the\n# conversation began there), or either. Nothing in the files tells.\nloads = \"touched\"\n";
    if nested {
        toml +=
            "# All files on the way to a file load; write \"nearest\" if only the deepest does.\nnested = \"all\"\n";
    }
    for place in &places {
        toml += &write_place(place);
    }
    if family.mentions > 0 {
        toml += &format!(
            "\n# {} of other files with @ in these texts lead to files that are there.\n[references]\nsyntax = [\"at-path\"]\n",
            crate::base::wording::count(family.mentions, "mention")
        );
    }
    if !family.exclusions.is_empty() {
        let list = family.exclusions.iter().map(|name| quoted(name)).collect::<Vec<_>>().join(", ");
        toml += &format!(
            "\n# Lines like those of .gitignore, in a file of the same name as the rest.\n[exclusions]\nfiles = [{list}]\n"
        );
    }
    let files = family.groups.iter().flat_map(|group| &group.files).map(|file| file.path.to_string()).collect();
    Draft { name: family.name.clone(), toml, files }
}

fn place(project: &Project, group: &gather::Group) -> PlaceDraft {
    let keys = keys::guess(project, group);
    let mut evidence =
        vec![format!("{}, such as {}", crate::base::wording::count(group.files.len(), "file"), group.files[0].path)];
    if group.level == Level::Folder {
        evidence.push("they stand in several folders".to_owned());
    }
    let bundle = group.same_name && keys.summary.is_some();
    if bundle {
        evidence.push("each has a folder of its own and a summary, so they look like bundles".to_owned());
    }
    PlaceDraft {
        id: group.id.clone(),
        level: group.level,
        files: group.pattern.clone(),
        kind: if bundle { Kind::Bundle } else { Kind::Rule },
        format: if group.markdown { Format::Markdown } else { Format::Plain },
        header: group.header,
        base: keys.base,
        personal: group.personal,
        keys,
        evidence,
    }
}

fn write_place(place: &PlaceDraft) -> String {
    let mut toml = String::from("\n");
    place.evidence.iter().for_each(|evidence| toml += &format!("# {evidence}\n"));
    toml += &format!("[[place]]\nid = {}\nlevel = \"{}\"\n", quoted(&place.id), place.level.word());
    toml += &format!("files = [{}]\n", quoted(&place.files));
    if place.kind != Kind::Rule {
        toml += &format!("kind = \"{}\"\n", place.kind.word());
    }
    if place.format != Format::Markdown {
        toml += &format!("format = \"{}\"\n", place.format.word());
    }
    if let Some(fence) = place.header.fence() {
        let style = if place.header == HeaderStyle::Toml { "toml" } else { "yaml" };
        toml += &format!("header = \"{style}\"  # the files begin with {fence}\n");
    }
    if place.keys.paths.is_some() {
        toml += &format!("# {}\nbase = \"{}\"\n", place.keys.base_evidence, place.base.word());
    }
    if place.personal {
        toml += "personal = true  # git ignores it\n";
    }
    if place.header == HeaderStyle::None {
        return toml;
    }
    let decides = place.kind == Kind::Rule;
    if decides {
        toml += &format!("# {}\nreach = \"{}\"\n", place.keys.reach_evidence, place.keys.reach.word());
    }
    let keys = [("summary", &place.keys.summary), ("paths", &place.keys.paths), ("except", &place.keys.except)];
    if keys.iter().any(|(_, key)| key.is_some()) {
        toml += "\n[place.keys]\n";
        for (what, key) in keys {
            if let Some(key) = key {
                toml += &format!("# {}\n{what} = {}\n", key.evidence, quoted(&key.name));
            }
        }
    }
    for row in place.keys.rows.iter().filter(|_| decides) {
        toml += &format!("\n# {}\n[[place.decide]]\nkey = {}\n", row.evidence, quoted(&row.key));
        toml += &match &row.is {
            Some(text) => format!("is = {}\n", quoted(text)),
            None => "present = true\n".to_owned(),
        };
        toml += &format!("reach = \"{}\"\n", row.reach.word());
    }
    if place.keys.paths.is_some() {
        toml += &write_dialect(&place.keys.dialect, &place.keys.dialect_evidence);
    }
    toml
}

fn write_dialect(dialect: &Dialect, evidence: &str) -> String {
    let list = match dialect.list {
        ListForm::Array => "array",
        ListForm::Comma => "comma",
        ListForm::Either => "either",
    };
    format!(
        "\n# {evidence}\n[place.patterns]\nlist = \"{list}\"\n# Write \"anchored\" if a pattern without a slash only takes files in the base folder.\nbare = \"any-depth\"\nbraces = {}\nnegate = {}\n",
        dialect.braces, dialect.negate
    )
}

/// A row of a draft.
struct RowGuess {
    key: String,
    is: Option<String>,
    reach: Reach,
    evidence: String,
}

fn capitalised(word: &str) -> String {
    let mut chars = word.chars();
    chars.next().map(|first| first.to_uppercase().collect::<String>() + chars.as_str()).unwrap_or_default()
}

/// A TOML string.
fn quoted(text: &str) -> String {
    toml_edit::Value::from(text).to_string()
}
