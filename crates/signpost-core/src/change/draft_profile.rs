//! A profile drafted from the files that no profile knows.
//!
//! Looks for files that read like instructions to an assistant (hidden folders of Markdown, names in
//! capitals, dot-files of prose), puts those of one assistant together by the name they share, and infers
//! places, header keys, decide rows and the dialect of patterns. Every guess stands in the profile with its
//! evidence, as a comment, for a person to correct.

mod candidates;
mod family;
mod gather;
mod introduced;
mod keys;
mod kind;

use crate::base::repo_path::{Location, RepoPath};
use crate::base::toml_file::ConfigError;
use crate::base::wording::count;
use crate::header::HeaderStyle;
use crate::pattern::{Dialect, ListForm};
use crate::profile::{Base, Format, Kind, KnownKey, Level, Origin, Profile};
use crate::project::workspace::{PROFILES_FOLDER, Project, Workspace};
pub use family::Perhaps;
use family::{Family, Group};
use keys::KeyGuess;

/// A drafted profile.
#[derive(Clone, Debug)]
pub struct Draft {
    /// Its name.
    pub name: String,
    /// The profile, with comments.
    pub toml: String,
    /// The files that it accounts for.
    pub files: Vec<Location>,
    /// Files that look like mistakes: with this profile nobody reads them, and a survey says so.
    pub misplaced: Vec<RepoPath>,
    /// What stands below its name.
    places: String,
}

impl Draft {
    /// Where it belongs.
    pub fn path(&self) -> RepoPath {
        RepoPath::root().join(&format!("{PROFILES_FOLDER}/{}.toml", self.name))
    }

    /// The same under another name.
    ///
    /// # Errors
    /// No profile may have that name.
    pub fn renamed(self, name: &str) -> Result<Draft, Box<ConfigError>> {
        let toml = opening(name, self.files.len()) + &self.places;
        Profile::parse(GUESS, &toml, Origin::Project)?;
        Ok(Draft { name: name.to_owned(), toml, ..self })
    }
}

/// The first lines of a profile.
fn opening(name: &str, files: usize) -> String {
    let title = name.split('-').map(capitalised).collect::<Vec<_>>().join(" ");
    format!(
        "# Drafted from {} that no profile knew. What speaks for a guess stands above it:\n# read it through, and correct what you know better.\nname = {}\ntitle = {}\n",
        count(files, "file"),
        quoted(name),
        quoted(&title)
    )
}

/// Drafts a profile for each assistant whose files no profile knows; those with the most files first.
pub fn draft(workspace: &Workspace<'_>, project: &Project, below: &[RepoPath]) -> Vec<Draft> {
    families(workspace, project, below).0.iter().map(|family| write(project, family)).collect()
}

fn families(workspace: &Workspace<'_>, project: &Project, below: &[RepoPath]) -> (Vec<Family>, Vec<Perhaps>) {
    let (mut families, perhaps) = gather::families(workspace, project, below);
    families.sort_by(|a, b| b.files().cmp(&a.files()).then_with(|| a.name.cmp(&b.name)));
    (families, perhaps)
}

/// The same, with the files that could be instructions and are in no draft.
pub fn drafted(workspace: &Workspace<'_>, project: &Project, below: &[RepoPath]) -> (Vec<Draft>, Vec<Perhaps>) {
    let (families, mut perhaps) = families(workspace, project, below);
    let drafted = families.iter().flat_map(|family| &family.groups).flat_map(|group| &group.files);
    let read = project.candidates.iter().flatten().map(|found| &found.file);
    let misplaced = families.iter().flat_map(|family| &family.misplaced);
    let taken = drafted.map(|file| &file.path).chain(read).filter_map(Location::in_root).chain(misplaced);
    let taken = taken.chain(perhaps.iter().map(|one| &one.path)).cloned().collect();
    perhaps.extend(introduced::introduced(workspace, project, below, &taken));
    perhaps.sort();
    (families.iter().map(|family| write(project, family)).collect(), perhaps)
}

/// Guesses the profiles of assistants whose files no profile knows: what [`draft`] would write, read.
pub fn guess(workspace: &Workspace<'_>, project: &Project) -> Vec<Profile> {
    let drafts = draft(workspace, project, &[]);
    let known = |name: &str| workspace.profiles.iter().any(|profile| profile.name == name);
    let read = |draft: Draft| Profile::parse(GUESS, &draft.toml, Origin::Guessed).ok().map(|(profile, _)| profile);
    drafts.into_iter().filter(|draft| !known(&draft.name)).filter_map(read).collect()
}

/// Whether something stands at the root, or on the way to some files, that [`guess`] would look at: asked before the
/// whole project is walked for it.
pub fn could_guess(workspace: &Workspace<'_>, files: &[RepoPath], start: &RepoPath) -> bool {
    let mut folders: Vec<RepoPath> = files.iter().flat_map(RepoPath::way).chain(start.way()).collect();
    folders.push(RepoPath::root());
    folders.sort();
    folders.dedup();
    folders.iter().any(|folder| candidates::stands_in(workspace, folder))
}

/// What stands for the file of a profile that nobody wrote.
const GUESS: &str = "a guess";

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
    let nested = places.iter().any(|place| place.level == Level::Folder);
    let mut toml = "\n# When folder-level files load: touched (a file below their folder is worked on), start (the\n# conversation began there), or either. Nothing in the files tells.\nloads = \"touched\"\n".to_owned();
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
            count(family.mentions, "mention")
        );
    }
    if !family.exclusions.is_empty() {
        let list = family.exclusions.iter().map(|name| quoted(name)).collect::<Vec<_>>().join(", ");
        toml += &format!(
            "\n# Lines like those of .gitignore, in a file of the same name as the rest.\n[exclusions]\nfiles = [{list}]\n"
        );
    }
    let (name, misplaced) = (family.name.clone(), family.misplaced.clone());
    let files = family.groups.iter().flat_map(|group| &group.files).map(|file| file.path.clone()).collect();
    Draft { toml: opening(&name, family.files()) + &toml, name, files, misplaced, places: toml }
}

fn place(project: &Project, group: &Group) -> PlaceDraft {
    let keys = keys::guess(project, group);
    let first = &group.files[0].path;
    let mut evidence = vec![match group.files.len() {
        1 => format!("one file: {first}"),
        number => format!("{}, such as {first}", count(number, "file")),
    }];
    if group.level == Level::Folder {
        let several = group.files.iter().any(|file| file.anchor != group.files[0].anchor);
        evidence.push(if several { "they stand in several folders" } else { "it may stand in any folder" }.to_owned());
    }
    evidence.extend(group.kind_evidence.clone());
    if group.level == Level::User {
        evidence = vec![format!("{} is there too", group.files[0].path)];
    }
    PlaceDraft {
        id: group.id.clone(),
        level: group.level,
        files: group.pattern.clone(),
        kind: group.kind,
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
    if place.kind == Kind::Rule && place.keys.paths.is_some() {
        toml += &format!("# {}\nbase = \"{}\"\n", place.keys.base_evidence, place.base.word());
    }
    if place.personal {
        toml += "personal = true  # git ignores it, or its name says so\n";
    }
    if place.header == HeaderStyle::None {
        return toml;
    }
    let decides = place.kind == Kind::Rule;
    if decides {
        toml += &format!("# {}\nreach = \"{}\"\n", place.keys.reach_evidence, place.keys.reach.word());
    }
    let keys = [("summary", &place.keys.summary), ("paths", &place.keys.paths), ("except", &place.keys.except)];
    let keys = if decides { &keys[..] } else { &keys[..1] };
    if keys.iter().any(|(_, key)| key.is_some()) {
        toml += "\n[place.keys]\n";
        for (what, key) in keys {
            if let Some(key) = *key {
                toml += &format!("# {}\n{what} = {}\n", key.evidence, quoted(&key.name));
            }
        }
    }
    for (what, key) in &place.keys.named {
        if !toml.contains("[place.keys]") {
            toml += "\n[place.keys]\n";
        }
        toml += &format!("{what} = {}\n", quoted(key));
    }
    if !place.keys.known.is_empty() {
        toml += "\n# Further keys that stand in these headers; what is no key of these is reported.\n[place.known]\n";
        toml.extend(place.keys.known.iter().map(|(name, key)| known_key(name, key)));
    }
    for row in place.keys.rows.iter().filter(|_| decides) {
        toml += &format!("\n# {}\n[[place.decide]]\nkey = {}\n", row.evidence, quoted(&row.key));
        toml += &match &row.is {
            Some(text) => format!("is = {}\n", quoted(text)),
            None => "present = true\n".to_owned(),
        };
        toml += &format!("reach = \"{}\"\n", row.reach.word());
    }
    if decides && place.keys.paths.is_some() {
        toml += &write_dialect(&place.keys.dialect, &place.keys.dialect_evidence);
    }
    toml
}

fn known_key(name: &str, key: &KnownKey) -> String {
    let values = key.values.iter().map(|value| quoted(value)).collect::<Vec<_>>().join(", ");
    let values = (!values.is_empty()).then(|| format!("values = [{values}]"));
    let required = key.required.then(|| "required = true".to_owned());
    let all: Vec<String> = values.into_iter().chain(required).collect();
    let all = if all.is_empty() { "{}".to_owned() } else { format!("{{ {} }}", all.join(", ")) };
    format!("{} = {all}\n", toml_edit::Key::new(name).display_repr())
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

fn capitalised(word: &str) -> String {
    let mut chars = word.chars();
    chars.next().map(|first| first.to_uppercase().collect::<String>() + chars.as_str()).unwrap_or_default()
}

/// A TOML string.
fn quoted(text: &str) -> String {
    toml_edit::Value::from(text).to_string()
}
