//! The reasons of a brief, as values. Text and JSON are both made from them.

use crate::base::repo_path::{Location, RepoPath};
use crate::base::wording::count;
use crate::profile::Level;

/// Why an entry is in a brief.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Why {
    /// It is told in every conversation of its folder.
    Standing {
        /// Where it is anchored.
        level: Level,
        /// The anchor.
        folder: RepoPath,
    },
    /// Its patterns take the file.
    InScope {
        /// The pattern that does.
        pattern: String,
    },
    /// Another file mentions it.
    Referenced {
        /// That file.
        via: Location,
    },
    /// The assistant may pick it.
    Offered {
        /// What it knows of it.
        summary: Option<String>,
    },
    /// Somebody may name it.
    Callable,
}

impl Why {
    /// The word that programs rely on.
    pub fn code(&self) -> &'static str {
        match self {
            Why::Standing { .. } => "standing",
            Why::InScope { .. } => "in-scope",
            Why::Referenced { .. } => "referenced",
            Why::Offered { .. } => "offered",
            Why::Callable => "callable",
        }
    }

    /// The reason in words.
    pub fn text(&self) -> String {
        match self {
            Why::Standing { level: Level::User, .. } => "in every conversation, from the home folder".into(),
            Why::Standing { level: Level::Project, .. } => "in every conversation of this project".into(),
            Why::Standing { folder, .. } if folder.is_root() => "for every file of this project".into(),
            Why::Standing { folder, .. } => format!("for every file below {folder}/"),
            Why::InScope { pattern } => format!("the pattern {pattern} takes this file"),
            Why::Referenced { via } => format!("mentioned in {via}"),
            Why::Offered { summary: Some(summary) } => format!("picked by its summary: {summary}"),
            Why::Offered { summary: None } => "picked by its summary, but it has none".into(),
            Why::Callable => "only when somebody names it".into(),
        }
    }
}

/// Why a rule is left out of a brief, or a mention is not followed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum LeftOutWhy {
    /// No pattern takes the file.
    OutOfScope {
        /// The patterns tried.
        patterns: Vec<String>,
        /// The exception that takes the file out.
        except: Option<String>,
        /// The folder it only reaches below, where the file stands elsewhere.
        below: Option<RepoPath>,
    },
    /// It stands in a folder that is not on the way.
    OtherFolder {
        /// That folder.
        folder: RepoPath,
    },
    /// The assistant reads only the nearest file of this place.
    NearerFile {
        /// The one it reads.
        winner: Location,
    },
    /// The assistant reads only the first pattern that has a file.
    EarlierPattern {
        /// The one it reads.
        winner: Location,
    },
    /// It is scoped and has no pattern that could take anything.
    NoValidPattern {
        /// The words that are no valid patterns.
        invalid: Vec<String>,
        /// Whether the key is there at all.
        present: bool,
    },
    /// Nothing of it fits.
    OverLimit {
        /// Bytes on disk.
        bytes: u64,
        /// The limit.
        limit: u64,
        /// Whether that is the limit of one file.
        of_file: bool,
    },
    /// The file worked on is hidden from the assistant.
    HiddenFile {
        /// The exclusion file.
        by: RepoPath,
        /// Its line.
        line: usize,
    },
    /// The mention leads back to a file that it comes from.
    Cycle {
        /// The file that mentions it.
        via: Location,
    },
    /// Too many references in a row.
    TooDeep {
        /// The file that mentions it.
        via: Location,
        /// How many are followed.
        depth: u32,
    },
    /// The mention leads out of the project.
    OutsideRoot {
        /// The file that mentions it.
        via: Location,
    },
    /// There is no such file.
    Missing {
        /// The file that mentions it.
        via: Location,
    },
}

impl LeftOutWhy {
    /// The word that programs rely on.
    pub fn code(&self) -> &'static str {
        match self {
            LeftOutWhy::OutOfScope { .. } => "out-of-scope",
            LeftOutWhy::OtherFolder { .. } => "other-folder",
            LeftOutWhy::NearerFile { .. } => "nearer-file",
            LeftOutWhy::EarlierPattern { .. } => "earlier-pattern",
            LeftOutWhy::NoValidPattern { .. } => "no-valid-pattern",
            LeftOutWhy::OverLimit { .. } => "over-limit",
            LeftOutWhy::HiddenFile { .. } => "hidden-file",
            LeftOutWhy::Cycle { .. } => "cycle",
            LeftOutWhy::TooDeep { .. } => "too-deep",
            LeftOutWhy::OutsideRoot { .. } => "outside-root",
            LeftOutWhy::Missing { .. } => "missing",
        }
    }

    /// The reason in words.
    pub fn text(&self) -> String {
        match self {
            LeftOutWhy::OutOfScope { below: Some(folder), .. } => format!("it only reaches files below {folder}/"),
            LeftOutWhy::OutOfScope { except: Some(except), .. } => format!("its exception {except} takes the file out"),
            LeftOutWhy::OutOfScope { patterns, .. } => match &patterns[..] {
                [one] => format!("its pattern {one} does not match"),
                all => format!("none of its patterns matches: {}", all.join(", ")),
            },
            LeftOutWhy::OtherFolder { folder } => {
                format!("it stands in {folder}/, which is not on the way to the file")
            }
            LeftOutWhy::NearerFile { winner } => format!("only the nearest file is read, and {winner} is nearer"),
            LeftOutWhy::EarlierPattern { winner } => format!("{winner} is read in its stead"),
            LeftOutWhy::NoValidPattern { present: false, .. } => "it is scoped, but names no paths".into(),
            LeftOutWhy::NoValidPattern { invalid, .. } if invalid.is_empty() => {
                "it is scoped, but its paths hold no pattern that this assistant reads".into()
            }
            LeftOutWhy::NoValidPattern { invalid, .. } => {
                format!("it is scoped, but none of its patterns is valid: {}", invalid.join(", "))
            }
            LeftOutWhy::OverLimit { bytes, limit, of_file: true } => {
                format!("at {} it is over the limit of {} for one file", bytes_text(*bytes), bytes_text(*limit))
            }
            LeftOutWhy::OverLimit { limit, .. } => {
                format!("what is loaded before it leaves no room in the limit of {}", bytes_text(*limit))
            }
            LeftOutWhy::HiddenFile { by, line } => {
                format!("the file is hidden from this assistant by {by}, line {line}")
            }
            LeftOutWhy::Cycle { via } => format!("mentioned in {via}, which it leads to itself"),
            LeftOutWhy::TooDeep { via, depth } => {
                let followed = count(*depth as usize, "reference");
                format!("mentioned in {via}, beyond the {followed} in a row that are followed")
            }
            LeftOutWhy::OutsideRoot { via } => format!("mentioned in {via}, but it leads out of the project"),
            LeftOutWhy::Missing { via } => format!("mentioned in {via}, but there is no such file"),
        }
    }
}

fn bytes_text(bytes: u64) -> String {
    format!("{} bytes", crate::base::wording::group(bytes as usize))
}
