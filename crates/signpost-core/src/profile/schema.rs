//! A profile as its TOML file holds it. Defaults are those of an assistant that says nothing else.

use crate::header::HeaderStyle;
use crate::pattern::Dialect;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use toml::Spanned;

macro_rules! words {
    ($(#[$meta:meta])* $name:ident { $($(#[$doc:meta])* $variant:ident = $word:literal,)* }) => {
        $(#[$meta])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
        #[serde(rename_all = "kebab-case")]
        pub enum $name { $($(#[$doc])* $variant,)* }

        impl $name {
            /// The word for it in profiles and output.
            pub fn word(self) -> &'static str {
                match self { $($name::$variant => $word,)* }
            }
        }
    };
}

words! {
    /// When folder-level files load.
    Loads {
        /// When a file below their folder is worked on.
        #[default]
        Touched = "touched",
        /// When the conversation's start folder is at or below theirs.
        Start = "start",
        /// In both cases.
        Either = "either",
    }
}

words! {
    /// Which of several folder-level files on the way load.
    Nested {
        /// All of them.
        #[default]
        All = "all",
        /// Only the one nearest to the file, place by place.
        Nearest = "nearest",
    }
}

words! {
    /// What the assistant says of rules that contradict each other.
    Conflict {
        /// The one it is told later.
        LaterWins = "later-wins",
        /// The one it is told earlier.
        EarlierWins = "earlier-wins",
        /// It does not say.
        #[default]
        Unstated = "unstated",
    }
}

words! {
    /// Where a place is anchored.
    Level {
        /// The home folder.
        User = "user",
        /// The root of the project.
        #[default]
        Project = "project",
        /// Any folder from the root down.
        Folder = "folder",
    }
}

words! {
    /// Which of a place's patterns are read in one folder.
    Pick {
        /// All of them.
        #[default]
        All = "all",
        /// The first that has a file.
        First = "first",
    }
}

words! {
    /// What the files of a place are.
    Kind {
        /// A rule: part of briefs with its reach.
        #[default]
        Rule = "rule",
        /// Instructions for another conversation; in no brief.
        Role = "role",
        /// Offered by its summary.
        Bundle = "bundle",
        /// Always callable.
        Called = "called",
    }
}

words! {
    /// How the text of a file is read.
    Format {
        /// As Markdown: code is told from text.
        #[default]
        Markdown = "markdown",
        /// As plain text, which has no code.
        Plain = "plain",
    }
}

words! {
    /// What path patterns in a header count from.
    Base {
        /// The folder of the anchor.
        Folder = "folder",
        /// The root of the project.
        #[default]
        Root = "root",
    }
}

words! {
    /// When a rule gets to the assistant.
    Reach {
        /// In every conversation.
        #[default]
        Standing = "standing",
        /// When a file in its scope is worked on.
        Scoped = "scoped",
        /// When the assistant picks it by its summary.
        Offered = "offered",
        /// When somebody names it.
        Called = "called",
    }
}

words! {
    /// What happens to text beyond a limit.
    Excess {
        /// The text is cut there.
        #[default]
        Cut = "cut",
        /// The file is skipped.
        Skip = "skip",
    }
}

words! {
    /// How one file mentions another.
    ReferenceSyntax {
        /// `@some/file`
        #[default]
        AtPath = "at-path",
        /// `[text](some/file)`
        Link = "link",
    }
}

words! {
    /// What the paths of references count from.
    ReferenceBase {
        /// The folder of the file that mentions.
        #[default]
        File = "file",
        /// The root of the project.
        Root = "root",
    }
}

/// A description of one assistant: where it looks for instruction files, how it reads them and when it
/// loads them.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", schemars(title = "Signpost profile"))]
pub struct ProfileFile {
    /// A unique name in kebab-case.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub name: Spanned<String>,
    /// The name that people read; absent: `name`.
    pub title: Option<String>,
    /// When folder-level files load.
    #[serde(default)]
    pub loads: Loads,
    /// Which of several folder-level files on the way load.
    #[serde(default)]
    pub nested: Nested,
    /// What the assistant says of rules that contradict each other.
    #[serde(default)]
    pub conflict: Conflict,
    /// Levels or place ids, the first told first; what is not named comes last.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schemars(with = "Option<Vec<String>>"))]
    pub order: Option<Vec<Spanned<String>>>,
    /// Where instruction files may stand.
    #[serde(default)]
    pub place: Vec<PlaceFile>,
    /// How much the assistant reads.
    #[serde(default)]
    pub limits: Limits,
    /// Which mentions of other files it follows; absent: none.
    pub references: Option<References>,
    /// Files that hide source files from it.
    #[serde(default)]
    pub exclusions: ExclusionsFile,
}

/// One set of locations where instruction files may stand.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PlaceFile {
    /// A name, unique in the profile and no level's.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub id: Spanned<String>,
    /// Where the place is anchored.
    pub level: Level,
    /// Patterns relative to the anchor: home, root or each folder.
    #[cfg_attr(feature = "schema", schemars(with = "Vec<String>"))]
    pub files: Vec<Spanned<String>>,
    /// Which of the patterns are read in one folder.
    #[serde(default)]
    pub pick: Pick,
    /// What the files are.
    #[serde(default)]
    pub kind: Kind,
    /// How their text is read.
    #[serde(default)]
    pub format: Format,
    /// The syntax of their header.
    #[serde(default)]
    pub header: HeaderStyle,
    /// What path patterns in the header count from.
    #[serde(default)]
    pub base: Base,
    /// Whether it is one person's own copy, expected to be ignored by version control.
    #[serde(default)]
    pub personal: bool,
    /// The reach where no decide row holds.
    #[serde(default)]
    pub reach: Reach,
    /// Which header key carries what.
    #[serde(default)]
    pub keys: Keys,
    /// Further header keys that the assistant knows, and Signpost gives no meaning to.
    #[serde(default)]
    pub known: BTreeMap<String, KnownKey>,
    /// Rows that set the reach; the first that holds decides.
    #[serde(default)]
    pub decide: Vec<DecideFile>,
    /// The dialect of path patterns.
    #[serde(default)]
    pub patterns: Dialect,
}

/// Which header key carries what; only the ones that this assistant has.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Keys {
    /// The text that an offered rule is picked by.
    pub summary: Option<String>,
    /// The path patterns that a rule applies to.
    pub paths: Option<String>,
    /// The path patterns that it does not apply to.
    pub except: Option<String>,
    /// The name of a role or bundle.
    pub name: Option<String>,
    /// The tools that a role or bundle may use.
    pub tools: Option<String>,
    /// The model that a role or bundle runs with.
    pub model: Option<String>,
}

/// A header key that the assistant knows.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct KnownKey {
    /// The values that it takes, as they are written; empty: any.
    pub values: Vec<String>,
    /// Whether each file has to have it.
    pub required: bool,
}

/// A row of `decide`: one condition on a header key, and the reach where it holds.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct DecideFile {
    /// The header key.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub key: Spanned<String>,
    /// Holds where the key's written text is this.
    #[cfg_attr(feature = "schema", schemars(with = "Option<Literal>"))]
    pub is: Option<Spanned<toml::Value>>,
    /// Holds where the key is there and not empty.
    #[cfg_attr(feature = "schema", schemars(with = "Option<bool>"))]
    pub present: Option<Spanned<bool>>,
    /// Holds where the key is not there or empty.
    #[cfg_attr(feature = "schema", schemars(with = "Option<bool>"))]
    pub absent: Option<Spanned<bool>>,
    /// The reach where the condition holds.
    pub reach: Reach,
}

/// A value that `is` compares with.
#[cfg(feature = "schema")]
#[derive(JsonSchema)]
#[serde(untagged)]
#[expect(dead_code, reason = "only its schema is used")]
enum Literal {
    Text(String),
    Integer(i64),
    Number(f64),
    Boolean(bool),
}

/// How much the assistant reads.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Limits {
    /// Bytes of one file; 0: no limit.
    pub file_bytes: u64,
    /// Bytes of all that is loaded; 0: no limit.
    pub total_bytes: u64,
    /// What happens to text beyond.
    pub excess: Excess,
}

/// Which mentions of other files are followed.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct References {
    /// How a file mentions another.
    #[serde(default)]
    pub syntax: Vec<ReferenceSyntax>,
    /// How many references in a row are followed.
    #[serde(default = "default_depth")]
    pub depth: u32,
    /// What the paths count from.
    #[serde(default)]
    pub from: ReferenceBase,
}

fn default_depth() -> u32 {
    5
}

/// Files that hide source files.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct ExclusionsFile {
    /// Names of files in the syntax of `.gitignore`, in any folder.
    #[cfg_attr(feature = "schema", schemars(with = "Vec<String>"))]
    pub files: Vec<Spanned<String>>,
}
