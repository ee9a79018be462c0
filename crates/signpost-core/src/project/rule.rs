//! A rule: an instruction file, read as its place says.

use crate::base::repo_path::{Location, RepoPath};
use crate::base::tokens::Weigher;
use crate::base::wording::{LineIndex, count_lines};
use crate::files::{Tree, TreeError};
use crate::header::{Header, Key, Scalar, Value};
use crate::pattern::{Dialect, ListForm, Pattern, PatternError, PatternSet, split_commas};
use crate::profile::{Base, Kind, Level, Place, Profile, Reach};
use crate::project::discovery::Candidate;
use std::ops::Range;
use std::sync::{Arc, OnceLock};

/// The text of one file, read once however many assistants load it.
#[derive(Debug)]
pub struct Document {
    /// Where it stands.
    pub location: Location,
    /// Bytes on disk.
    pub bytes: u64,
    /// Its lines.
    pub lines: usize,
    /// The text; bytes that are not UTF-8 are replaced.
    pub text: String,
    /// The bytes, where they are not UTF-8.
    raw: Option<Vec<u8>>,
    /// Why it could not be read; the text is empty then.
    pub error: Option<TreeError>,
    index: OnceLock<LineIndex>,
    tokens: OnceLock<usize>,
    weigher: Weigher,
}

impl Document {
    /// Reads a file.
    pub fn read(tree: &dyn Tree, location: &Location, weigher: Weigher) -> Self {
        let (bytes, error) = match tree.read(location) {
            Ok(bytes) => (bytes, None),
            Err(error) => (Vec::new(), Some(error)),
        };
        let (length, lines) = (bytes.len() as u64, count_lines(&bytes));
        let (text, raw) = match String::from_utf8(bytes) {
            Ok(text) => (text, None),
            Err(error) => {
                let bytes = error.into_bytes();
                (String::from_utf8_lossy(&bytes).into_owned(), Some(bytes))
            }
        };
        let (index, tokens) = (OnceLock::new(), OnceLock::new());
        Document { location: location.clone(), bytes: length, lines, text, raw, error, index, tokens, weigher }
    }

    /// Where the lines begin.
    pub fn lines_index(&self) -> &LineIndex {
        self.index.get_or_init(|| LineIndex::new(&self.text))
    }

    /// What the whole text weighs.
    pub fn tokens(&self) -> usize {
        *self.tokens.get_or_init(|| (self.weigher)(&self.text))
    }

    /// What the first bytes of the file weigh.
    pub fn tokens_of_first(&self, bytes: u64) -> usize {
        (self.weigher)(&String::from_utf8_lossy(&self.on_disk()[..bytes as usize]))
    }

    /// The bytes on disk.
    pub fn on_disk(&self) -> &[u8] {
        self.raw.as_deref().unwrap_or(self.text.as_bytes())
    }

    /// The line that holds the first byte that is not UTF-8.
    pub fn bad_line(&self) -> Option<usize> {
        let raw = self.raw.as_deref()?;
        let good = std::str::from_utf8(raw).err()?.valid_up_to();
        Some(raw[..good].iter().filter(|byte| **byte == b'\n').count() + 1)
    }
}

/// One item of a list of patterns, as written.
#[derive(Clone, Debug)]
pub struct PatternItem {
    /// The words.
    pub text: String,
    /// Their bytes in the file.
    pub span: Range<usize>,
    /// The compiled pattern, or what is wrong with it.
    pub pattern: Result<Pattern, PatternError>,
}

/// The path patterns that one header key holds.
#[derive(Clone, Debug, Default)]
pub struct KeyPatterns {
    /// Whether the key is there.
    pub present: bool,
    /// Whether its value has a form that the dialect does not take.
    pub wrong_form: bool,
    /// The items, valid or not.
    pub items: Vec<PatternItem>,
    /// The valid ones.
    pub set: PatternSet,
}

impl KeyPatterns {
    pub(crate) fn read(key: Option<&Key>, text: &str, dialect: &Dialect) -> Self {
        let Some(key) = key else { return KeyPatterns::default() };
        let mut found = KeyPatterns { present: true, ..KeyPatterns::default() };
        let mut add = |words: String, span: Range<usize>| {
            let pattern = Pattern::parse(&words, dialect);
            found.items.push(PatternItem { text: words, span, pattern });
        };
        match &key.value {
            Value::List(_) if dialect.list == ListForm::Comma => found.wrong_form = true,
            Value::List(items) => items.iter().for_each(|item| {
                let span = item_span(item, text, &item.text, 0..item.text.len());
                add(item.text.clone(), span);
            }),
            Value::Scalar(_) if dialect.list == ListForm::Array => found.wrong_form = true,
            Value::Scalar(scalar) if !scalar.is_empty() => {
                for range in split_commas(&scalar.text, dialect) {
                    let words = &scalar.text[range.clone()];
                    let unquoted = unquote(words).unwrap_or(words);
                    add(unquoted.to_owned(), item_span(scalar, text, words, range));
                }
            }
            Value::Scalar(_) | Value::Nothing => {}
            Value::Table => found.wrong_form = true,
        }
        found.set.patterns = found.items.iter().filter_map(|item| item.pattern.clone().ok()).collect();
        found
    }
}

/// `"*.ts", "*.tsx"`: quotes around the items of a list that is no list to YAML.
fn unquote(words: &str) -> Option<&str> {
    let quote = words.chars().next().filter(|c| matches!(c, '"' | '\''))?;
    words.strip_prefix(quote)?.strip_suffix(quote)
}

/// Where an item of a comma-separated string stands in the file; the whole string where escapes or folding
/// moved it.
fn item_span(scalar: &Scalar, text: &str, words: &str, range: Range<usize>) -> Range<usize> {
    let shift = scalar.span.start + usize::from(scalar.quoted);
    let span = shift + range.start..shift + range.end;
    if text.get(span.clone()) == Some(words) { span } else { scalar.span.clone() }
}

/// The source files that a rule is about.
#[derive(Clone, Debug)]
pub struct Scope {
    /// Only files below this folder.
    pub below: RepoPath,
    /// What patterns count from.
    pub base: RepoPath,
    /// The patterns that take files in.
    pub paths: KeyPatterns,
    /// The patterns that take files out.
    pub except: KeyPatterns,
}

impl Scope {
    /// Whether the patterns take a file.
    pub fn takes(&self, file: &RepoPath) -> bool {
        file.below(&self.below).is_some()
            && file.below(&self.base).is_some_and(|path| self.paths.set.takes(path) && !self.except.set.takes(path))
    }

    /// The pattern that takes a file in.
    pub fn matching(&self, file: &RepoPath) -> Option<&Pattern> {
        let path = file.below(&self.base)?;
        self.paths.set.patterns.iter().rev().find(|pattern| pattern.matches(path))
    }

    /// The exception that takes a file out which a pattern takes in.
    pub fn excepting(&self, file: &RepoPath) -> Option<&Pattern> {
        let path = file.below(&self.base)?;
        let taken = self.paths.set.takes(path) && self.except.set.takes(path);
        self.except.set.patterns.iter().rev().find(|pattern| taken && pattern.matches(path))
    }
}

/// An instruction file of one assistant.
#[derive(Clone, Debug)]
pub struct Rule {
    /// Which place found it, and where.
    pub found: Candidate,
    /// The place's id.
    pub place: String,
    /// The place's level.
    pub level: Level,
    /// What the file is.
    pub kind: Kind,
    /// When it gets to the assistant.
    pub reach: Reach,
    /// The text.
    pub document: Arc<Document>,
    /// The header.
    pub header: Header,
    /// What it is about.
    pub scope: Scope,
    /// The text that it is picked by.
    pub summary: Option<String>,
}

impl Rule {
    /// Reads a candidate as its place says.
    pub fn read(profile: &Profile, found: Candidate, document: Arc<Document>) -> Self {
        let place = &profile.places[found.place];
        let header = Header::read(&document.text, place.header);
        let key = |name: &Option<String>| name.as_ref().and_then(|name| header.get(name));
        let patterns = |name: &Option<String>| KeyPatterns::read(key(name), &document.text, &place.dialect);
        let anchor = if place.level == Level::Folder { found.anchor.path.clone() } else { RepoPath::root() };
        let base = if place.base == Base::Folder { anchor.clone() } else { RepoPath::root() };
        let scope =
            Scope { below: anchor, base, paths: patterns(&place.keys.paths), except: patterns(&place.keys.except) };
        let summary = key(&place.keys.summary).and_then(Key::scalar).map(|text| text.trim().to_owned());
        Rule {
            place: place.id.clone(),
            level: place.level,
            kind: place.kind,
            reach: place.reach_of(&header),
            summary: summary.filter(|text| !text.is_empty()),
            found,
            document,
            header,
            scope,
        }
    }

    /// The file.
    pub fn file(&self) -> &Location {
        &self.found.file
    }

    /// The place in its profile.
    pub fn place_in<'p>(&self, profile: &'p Profile) -> &'p Place {
        &profile.places[self.found.place]
    }

    /// Where a brief puts this rule: the order's rank, the anchor's depth, the place, the path.
    pub fn sort_key(&self, profile: &Profile) -> (usize, usize, usize, RepoPath) {
        let rank = profile.rank(self.place_in(profile));
        (rank, self.found.anchor.path.depth(), self.found.place, self.file().path.clone())
    }

    /// Whether the rule can get to the assistant while it works on a file of the folder it stands in.
    pub fn takes_part(&self) -> bool {
        self.kind != Kind::Role
    }
}
