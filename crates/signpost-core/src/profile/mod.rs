//! Profiles: what one assistant reads, as data.
//!
//! A profile is a TOML file ([`schema`]). It is parsed and checked whole, and compiled into a [`Profile`]
//! that everything else runs off: discovery, resolving, linting and publishing. Built in is only the open
//! format `AGENTS.md`; every other assistant is described by a person or a project.
//!
//! Of two profiles with one name the later wins: built in, the user's, the project's.

pub mod schema;

use crate::base::repo_path::RepoPath;
use crate::base::toml_file::{ConfigError, nearest, parse_toml};
use crate::header::{Header, HeaderStyle};
use crate::pattern::{Dialect, Pattern, Simple};
pub use schema::{
    Base, Conflict, Excess, Format, Keys, Kind, KnownKey, Level, Limits, Loads, Nested, Pick, Reach, ReferenceBase,
    ReferenceSyntax, References,
};
use schema::{DecideFile, PlaceFile, ProfileFile};
use std::collections::BTreeMap;
use std::ops::Range;
use toml::Spanned;

const BUILT_IN: [(&str, &str); 1] = [("agents-md.toml", include_str!("builtin/agents-md.toml"))];

/// Where a profile comes from; a later one wins.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Origin {
    /// It ships with Signpost.
    BuiltIn,
    /// The person's configuration folder.
    User,
    /// The project's `guidance/profiles/`.
    Project,
    /// Nobody wrote it: it was guessed from the files that are here.
    Guessed,
}

/// One assistant.
#[derive(Clone, Debug)]
pub struct Profile {
    /// Its unique name.
    pub name: String,
    /// The name that people read.
    pub title: String,
    /// Where the profile comes from.
    pub origin: Origin,
    /// The profile's file, as the person knows it.
    pub file: String,
    /// When folder-level files load.
    pub loads: Loads,
    /// Which of several folder-level files on the way load.
    pub nested: Nested,
    /// What it says of contradictions.
    pub conflict: Conflict,
    /// Levels or place ids, the first told first.
    pub order: Vec<String>,
    /// Where its files stand.
    pub places: Vec<Place>,
    /// How much it reads.
    pub limits: Limits,
    /// Which references it follows.
    pub references: Option<References>,
    /// The names of its exclusion files.
    pub exclusions: Vec<RepoPath>,
}

/// One place of a profile.
#[derive(Clone, Debug)]
pub struct Place {
    /// Its name.
    pub id: String,
    /// Where it is anchored.
    pub level: Level,
    /// Where files stand, from the anchor.
    pub files: Vec<Pattern>,
    /// Which of the patterns are read in one folder.
    pub pick: Pick,
    /// What the files are.
    pub kind: Kind,
    /// How their text is read.
    pub format: Format,
    /// The syntax of their header.
    pub header: HeaderStyle,
    /// What patterns in the header count from.
    pub base: Base,
    /// Whether it is one person's own copy.
    pub personal: bool,
    /// The reach where no row holds.
    pub reach: Reach,
    /// Which header key carries what.
    pub keys: Keys,
    /// Further header keys that the assistant knows.
    pub known: BTreeMap<String, KnownKey>,
    /// Rows that set the reach.
    pub decide: Vec<Decide>,
    /// The dialect of path patterns.
    pub dialect: Dialect,
}

/// A row of `decide`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Decide {
    /// The header key.
    pub key: String,
    /// What is asked of it.
    pub condition: Condition,
    /// The reach where that holds.
    pub reach: Reach,
}

/// What a row of `decide` asks of its key.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Condition {
    /// Its written text is this.
    Is(String),
    /// It is there and not empty.
    Present,
    /// It is not there, or empty.
    Absent,
}

impl Condition {
    /// Whether it holds for a header.
    pub fn holds(&self, header: &Header, key: &str) -> bool {
        let key = header.get(key);
        match self {
            Condition::Is(text) => key.and_then(|key| key.scalar()).is_some_and(|own| own == text),
            Condition::Present => key.is_some_and(|key| !key.is_empty()),
            Condition::Absent => key.is_none_or(|key| key.is_empty()),
        }
    }
}

impl Place {
    /// The reach of a file with that header.
    pub fn reach_of(&self, header: &Header) -> Reach {
        match self.kind {
            Kind::Called => Reach::Called,
            Kind::Bundle => Reach::Offered,
            Kind::Rule | Kind::Role => {
                let row = self.decide.iter().find(|row| row.condition.holds(header, &row.key));
                row.map_or(self.reach, |row| row.reach)
            }
        }
    }

    /// Every header key that means something here.
    pub fn known_keys(&self) -> Vec<&str> {
        let keys = [&self.keys.summary, &self.keys.paths, &self.keys.except];
        let mut known: Vec<&str> = keys.into_iter().flatten().map(String::as_str).collect();
        known.extend(self.decide.iter().map(|row| row.key.as_str()));
        known.sort_unstable();
        known.dedup();
        known
    }

    /// Every header key that the assistant knows here, with or without a meaning for Signpost.
    pub fn understood_keys(&self) -> Vec<&str> {
        let mut keys = self.known_keys();
        let others = [&self.keys.name, &self.keys.tools, &self.keys.model];
        keys.extend(others.into_iter().flatten().map(String::as_str));
        keys.extend(self.known.keys().map(String::as_str));
        keys.sort_unstable();
        keys.dedup();
        keys
    }

    /// The patterns as written, for messages.
    pub fn files_text(&self) -> String {
        self.files.iter().map(Pattern::text).collect::<Vec<_>>().join(", ")
    }
}

/// The profiles that ship with Signpost.
///
/// # Panics
/// Never: a test reads them.
pub fn built_in() -> Vec<Profile> {
    BUILT_IN
        .iter()
        .map(|(file, text)| Profile::parse(file, text, Origin::BuiltIn).expect("built-in profiles are valid").0)
        .collect()
}

impl Profile {
    /// Reads and checks a profile. The second half of the answer are remarks on what is valid but costly.
    ///
    /// # Errors
    /// It is not TOML, not of the schema, or contradicts itself.
    pub fn parse(file: &str, text: &str, origin: Origin) -> Result<(Self, Vec<ConfigError>), Box<ConfigError>> {
        let text = text.strip_prefix('\u{feff}').unwrap_or(text);
        let parsed: ProfileFile = parse_toml(file, text)?;
        let mut checker = Checker { origin, file, text, remarks: Vec::new() };
        let profile = checker.compile(parsed)?;
        Ok((profile, checker.remarks))
    }

    /// The place of that id.
    pub fn place(&self, id: &str) -> Option<&Place> {
        self.places.iter().find(|place| place.id == id)
    }

    /// The rank of a place in the order of a brief: its id's, else its level's, else last.
    pub fn rank(&self, place: &Place) -> usize {
        let position = |word: &str| self.order.iter().position(|own| own == word);
        position(&place.id).or_else(|| position(place.level.word())).unwrap_or(self.order.len())
    }
}

/// Whether a pattern of a place spells out a path that no assistant may own: publishing would feed on its own rules, or
/// break the project.
fn leads_into_ours(simple: &Simple) -> bool {
    let mut path: Vec<&str> = simple.literal_folders();
    path.extend(simple.last_name());
    RepoPath::new(&path.join("/")).is_some_and(|path| crate::base::own_files::is_ours(&path))
}

struct Checker<'a> {
    origin: Origin,
    file: &'a str,
    text: &'a str,
    remarks: Vec<ConfigError>,
}

impl Checker<'_> {
    fn error(&self, span: Range<usize>, message: impl Into<String>, help: impl Into<String>) -> Box<ConfigError> {
        ConfigError::new(self.file, self.text, span, message, Some(help.into()).filter(|help| !help.is_empty()))
    }

    fn compile(&mut self, parsed: ProfileFile) -> Result<Profile, Box<ConfigError>> {
        self.kebab(&parsed.name, "the name of a profile")?;
        if parsed.place.is_empty() {
            let help = "add a `[[place]]` with `id`, `level` and `files`";
            return Err(self.error(parsed.name.span(), "the profile has no place, so it would read no file", help));
        }
        let mut places: Vec<Place> = Vec::new();
        for place in &parsed.place {
            let id = place.id.get_ref();
            self.kebab(&place.id, "the id of a place")?;
            if ["user", "project", "folder"].contains(&id.as_str()) {
                return Err(self.error(place.id.span(), format!("`{id}` is the name of a level"), "choose another id"));
            }
            if places.iter().any(|other| other.id == *id) {
                return Err(self.error(place.id.span(), format!("two places have the id `{id}`"), "ids are unique"));
            }
            places.push(self.place(place)?);
        }
        let name = parsed.name.into_inner();
        Ok(Profile {
            title: parsed.title.unwrap_or_else(|| name.clone()),
            name,
            origin: self.origin,
            file: self.file.to_owned(),
            loads: parsed.loads,
            nested: parsed.nested,
            conflict: parsed.conflict,
            order: self.order(parsed.order, &places)?,
            places,
            limits: parsed.limits,
            references: parsed.references.filter(|references| !references.syntax.is_empty()),
            exclusions: self.exclusions(&parsed.exclusions.files)?,
        })
    }

    fn kebab(&self, name: &Spanned<String>, what: &str) -> Result<(), Box<ConfigError>> {
        let text = name.get_ref();
        let kebab = text
            .split('-')
            .all(|part| !part.is_empty() && part.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit()));
        if kebab {
            return Ok(());
        }
        let help = "use lower-case letters, digits and single hyphens";
        Err(self.error(name.span(), format!("{what} is in kebab-case, which `{text}` is not"), help))
    }

    fn place(&mut self, place: &PlaceFile) -> Result<Place, Box<ConfigError>> {
        if place.files.is_empty() {
            let message = format!("the place `{}` has no file pattern", place.id.get_ref());
            return Err(self.error(place.id.span(), message, "write `files = [\"NAME.md\"]`"));
        }
        let files = place.files.iter().map(|file| self.file_pattern(file, place.level)).collect::<Result<_, _>>()?;
        Ok(Place {
            id: place.id.get_ref().clone(),
            level: place.level,
            files,
            pick: place.pick,
            kind: place.kind,
            format: place.format,
            header: place.header,
            base: place.base,
            personal: place.personal,
            reach: place.reach,
            keys: place.keys.clone(),
            known: place.known.clone(),
            decide: place.decide.iter().map(|row| self.decide(row)).collect::<Result<_, _>>()?,
            dialect: place.patterns.clone(),
        })
    }

    fn file_pattern(&mut self, file: &Spanned<String>, level: Level) -> Result<Pattern, Box<ConfigError>> {
        let text = file.get_ref();
        let deep = text.trim_start_matches("./").trim_start_matches('/').starts_with("**");
        if deep && level == Level::Folder {
            let message = "a pattern of a folder-level place may not begin with `**`";
            let help = "the place is looked for in every folder anyway: leave the `**/` out";
            return Err(self.error(file.span(), message, help));
        }
        if text.starts_with("~/") {
            let help = "with `level = \"user\"` patterns count from the home folder: leave the `~/` out";
            return Err(self.error(file.span(), "`~` has no meaning in a pattern", help));
        }
        if text.split('/').any(|part| part == "..") {
            let help = "a pattern counts from its anchor and only goes down";
            return Err(self.error(file.span(), "`..` never matches anything", help));
        }
        let pattern = Pattern::parse(text, &Dialect::of_places())
            .map_err(|error| self.error(file.span(), format!("`{text}` is no valid pattern: {error}"), ""))?;
        if pattern.simple().iter().any(|simple| simple.takes_everything()) {
            let message = format!("`{text}` would match the whole tree below each anchor");
            return Err(self.error(file.span(), message, "name the files, or the folder that they stand in"));
        }
        if self.origin != Origin::BuiltIn && pattern.simple().iter().any(leads_into_ours) {
            let message = format!("`{text}` leads into what Signpost or version control keeps for itself");
            let help = "an assistant's files stand outside of guidance/, .git/, signpost.toml and signpost.lock";
            return Err(self.error(file.span(), message, help));
        }
        if deep {
            let message = format!("`{text}` makes every look-up walk the whole {} folder", level.word());
            let help = "use `level = \"folder\"` for a file that may stand in any folder".to_owned();
            self.remarks.push(*self.error(file.span(), message, help));
        }
        Ok(pattern)
    }

    fn decide(&self, row: &DecideFile) -> Result<Decide, Box<ConfigError>> {
        let given = [row.is.is_some(), row.present.is_some(), row.absent.is_some()];
        if given.iter().filter(|given| **given).count() != 1 {
            let message = "a decide row has one condition: `is`, `present` or `absent`";
            return Err(self.error(row.key.span(), message, "write one row a condition; the first that holds decides"));
        }
        for (flag, other) in [(&row.present, "absent"), (&row.absent, "present")] {
            if let Some(flag) = flag
                && !flag.get_ref()
            {
                let help = format!("write `{other} = true`");
                return Err(self.error(flag.span(), "this condition can only be `true`", help));
            }
        }
        let condition = match &row.is {
            Some(value) => Condition::Is(self.written(value)?),
            None if row.present.is_some() => Condition::Present,
            None => Condition::Absent,
        };
        Ok(Decide { key: row.key.get_ref().clone(), condition, reach: row.reach })
    }

    /// The text that a header would have to hold.
    fn written(&self, value: &Spanned<toml::Value>) -> Result<String, Box<ConfigError>> {
        match value.get_ref() {
            toml::Value::String(text) => Ok(text.clone()),
            toml::Value::Array(_) | toml::Value::Table(_) => {
                let help = "use `present = true` for a key that holds a list";
                Err(self.error(value.span(), "`is` compares with a string, number or boolean", help))
            }
            // A number or boolean as it stands in the file: `1.0` is not `1`.
            _ => Ok(self.text.get(value.span()).unwrap_or_default().trim().to_owned()),
        }
    }

    fn order(&self, order: Option<Vec<Spanned<String>>>, places: &[Place]) -> Result<Vec<String>, Box<ConfigError>> {
        let Some(order) = order else { return Ok(["user", "project", "folder"].map(str::to_owned).to_vec()) };
        let mut words = Vec::new();
        for word in order {
            let known = ["user", "project", "folder"].into_iter().chain(places.iter().map(|place| place.id.as_str()));
            let text = word.get_ref();
            if !known.clone().any(|known| known == text) {
                let help = match nearest(text, known) {
                    Some(near) => format!("did you mean `{near}`?"),
                    None => "name levels (user, project, folder) or ids of places".to_owned(),
                };
                return Err(self.error(word.span(), format!("`{text}` is neither a level nor a place"), help));
            }
            if words.contains(text) {
                return Err(self.error(word.span(), format!("`{text}` stands twice in the order"), "name it once"));
            }
            words.push(text.clone());
        }
        Ok(words)
    }

    fn exclusions(&self, files: &[Spanned<String>]) -> Result<Vec<RepoPath>, Box<ConfigError>> {
        files
            .iter()
            .map(|file| {
                RepoPath::new(file.get_ref()).filter(|path| !path.is_root()).ok_or_else(|| {
                    self.error(
                        file.span(),
                        "an exclusion file is named by a path below its folder",
                        "write a file name",
                    )
                })
            })
            .collect()
    }
}

#[cfg(test)]
mod tests;
