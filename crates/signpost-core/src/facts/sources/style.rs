//! Style settings: of `.editorconfig` (see [`super::editorconfig`]) and of formatters.
//!
//! Only what a file states is a fact; a formatter's defaults are not, since a later version may change them.

use super::Gathered;
use super::formats::{json, line_of_key, toml};
use crate::base::repo_path::RepoPath;
use crate::facts::model::Source;
use std::fmt;
use std::sync::Arc;

/// What a setting is about.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Style {
    /// `tabs` or `spaces`.
    Indentation,
    /// Spaces a level.
    IndentWidth,
    /// Columns a line.
    LineLength,
    /// `single` or `double`.
    Quotes,
    /// `true` or `false`.
    Semicolons,
    /// `true` or `false`.
    TrailingCommas,
    /// `lf` or `crlf`.
    LineEnding,
    /// `true` or `false`.
    FinalNewline,
}

impl Style {
    /// The words for it.
    pub fn title(self) -> &'static str {
        match self {
            Style::Indentation => "indentation",
            Style::IndentWidth => "indent width",
            Style::LineLength => "line length",
            Style::Quotes => "quotes",
            Style::Semicolons => "semicolons",
            Style::TrailingCommas => "trailing commas",
            Style::LineEnding => "line endings",
            Style::FinalNewline => "final newline",
        }
    }
}

/// What is set.
#[derive(Clone, PartialEq, Debug)]
pub enum StyleValue {
    /// A number.
    Number(f64),
    /// A word.
    Word(String),
}

impl fmt::Display for StyleValue {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            StyleValue::Number(number) => write!(f, "{number}"),
            StyleValue::Word(word) => f.write_str(word),
        }
    }
}

/// The files that a setting is for.
#[derive(Clone)]
pub enum Applies {
    /// Those that a section of an `.editorconfig` takes.
    Section {
        /// The section.
        section: Arc<ec4rs::Section>,
        /// Its pattern as written.
        pattern: String,
    },
    /// Those with one of these endings.
    Endings(&'static [&'static str]),
}

/// One setting.
#[derive(Clone)]
pub struct StyleFact {
    /// What it is about.
    pub style: Style,
    /// What it says.
    pub value: StyleValue,
    /// For which files below its folder.
    pub applies: Applies,
    /// Where it stands.
    pub source: Source,
    /// A formatter's setting counts before that of an `.editorconfig`.
    pub rank: u8,
}

impl StyleFact {
    /// Whether it is about a file.
    pub fn takes(&self, file: &RepoPath) -> bool {
        let Some(path) = file.below(&self.source.file.folder()) else { return false };
        match &self.applies {
            Applies::Section { section, .. } => section.applies_to(path),
            Applies::Endings(endings) => {
                path.rsplit('.').next().is_some_and(|ending| path.contains('.') && endings.contains(&ending))
            }
        }
    }

    /// For which files, in words.
    pub fn scope_text(&self) -> String {
        match &self.applies {
            Applies::Section { pattern, .. } if pattern == "*" => String::new(),
            Applies::Section { pattern, .. } => format!(" for {pattern}"),
            Applies::Endings(endings) if endings.len() > MOST_ENDINGS => {
                let (first, rest) = endings.split_at(MOST_ENDINGS - 1);
                format!(" for .{} and {} more endings", first.join(", ."), rest.len())
            }
            Applies::Endings(endings) => format!(" for .{}", endings.join(", .")),
        }
    }
}

/// More endings are counted only.
const MOST_ENDINGS: usize = 4;

const SCRIPT: &[&str] = &["js", "jsx", "mjs", "cjs", "ts", "tsx", "mts", "cts", "vue", "svelte"];
const PYTHON: &[&str] = &["py", "pyi"];
const RUST: &[&str] = &["rs"];

struct Adder<'a> {
    file: &'a RepoPath,
    text: &'a str,
    endings: &'static [&'static str],
    gathered: &'a mut Gathered,
}

impl Adder<'_> {
    fn add(&mut self, style: Style, value: StyleValue, key: &str) {
        let source = Source { file: self.file.clone(), line: line_of_key(self.text, key) };
        let applies = Applies::Endings(self.endings);
        self.gathered.styles.push(StyleFact { style, value, applies, source, rank: 1 });
    }

    fn number(&mut self, style: Style, value: Option<f64>, key: &str) {
        if let Some(value) = value {
            self.add(style, StyleValue::Number(value), key);
        }
    }

    fn word(&mut self, style: Style, value: Option<&str>, key: &str) {
        if let Some(value) = value {
            self.add(style, StyleValue::Word(value.to_owned()), key);
        }
    }
}

pub(super) fn rustfmt(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(table) = toml(text) else { return };
    let number = |key: &str| table.get(key).and_then(toml::Value::as_integer).map(|value| value as f64);
    let mut adder = Adder { file, text, endings: RUST, gathered };
    adder.number(Style::LineLength, number("max_width"), "max_width");
    let tabs = table.get("hard_tabs").and_then(toml::Value::as_bool);
    adder.word(Style::Indentation, tabs.map(|tabs| if tabs { "tabs" } else { "spaces" }), "hard_tabs");
    if tabs != Some(true) {
        adder.number(Style::IndentWidth, number("tab_spaces"), "tab_spaces");
    }
    let ending = match table.get("newline_style").and_then(toml::Value::as_str) {
        Some("Unix") => Some("lf"),
        Some("Windows") => Some("crlf"),
        _ => None,
    };
    adder.word(Style::LineEnding, ending, "newline_style");
}

pub(super) fn prettier(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let settings = if file.name().ends_with(".toml") {
        toml(text).and_then(|table| serde_json::to_value(table).ok())
    } else {
        json(text).or_else(|| Some(yaml(text)))
    };
    if let Some(settings) = settings.filter(serde_json::Value::is_object) {
        prettier_settings(file, text, &settings, gathered);
    }
}

/// `key: value` lines, which is all that such settings need.
fn yaml(text: &str) -> serde_json::Value {
    let mut all = serde_json::Map::new();
    for line in text.lines().filter(|line| !line.starts_with([' ', '\t', '#', '-'])) {
        if let Some((key, value)) = line.split_once(':') {
            let value = value.split(" #").next().unwrap_or_default().trim();
            let read = serde_json::from_str(value).unwrap_or_else(|_| value.trim_matches(['"', '\'']).into());
            all.insert(key.trim().trim_matches(['"', '\'']).to_owned(), read);
        }
    }
    all.into()
}

pub(super) fn prettier_settings(file: &RepoPath, text: &str, settings: &serde_json::Value, gathered: &mut Gathered) {
    let flag = |key: &str| settings.get(key).and_then(serde_json::Value::as_bool);
    let number = |key: &str| settings.get(key).and_then(serde_json::Value::as_f64);
    let word = |key: &str| settings.get(key).and_then(serde_json::Value::as_str);
    let mut adder = Adder { file, text, endings: SCRIPT, gathered };
    adder.word(Style::Indentation, flag("useTabs").map(|tabs| if tabs { "tabs" } else { "spaces" }), "useTabs");
    if flag("useTabs") != Some(true) {
        adder.number(Style::IndentWidth, number("tabWidth"), "tabWidth");
    }
    adder.number(Style::LineLength, number("printWidth"), "printWidth");
    adder.word(
        Style::Quotes,
        flag("singleQuote").map(|single| if single { "single" } else { "double" }),
        "singleQuote",
    );
    adder.word(Style::Semicolons, flag("semi").map(|semi| if semi { "true" } else { "false" }), "semi");
    let commas = match word("trailingComma") {
        Some("none") => Some("false"),
        Some("all") => Some("true"),
        _ => None,
    };
    adder.word(Style::TrailingCommas, commas, "trailingComma");
    adder.word(Style::LineEnding, word("endOfLine").filter(|one| matches!(*one, "lf" | "crlf")), "endOfLine");
}

pub(super) fn biome(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(value) = json(text) else { return };
    let at = |path: &str| value.pointer(path);
    let word = |path: &str| at(path).and_then(serde_json::Value::as_str).map(str::to_owned);
    let number = |path: &str| at(path).and_then(serde_json::Value::as_f64);
    let mut adder = Adder { file, text, endings: SCRIPT, gathered };
    let indent = word("/javascript/formatter/indentStyle").or_else(|| word("/formatter/indentStyle"));
    let plural = indent.as_deref().map(|one| if one == "tab" { "tabs" } else { "spaces" });
    adder.word(Style::Indentation, plural, "indentStyle");
    if plural != Some("tabs") {
        adder.number(
            Style::IndentWidth,
            number("/javascript/formatter/indentWidth").or(number("/formatter/indentWidth")),
            "indentWidth",
        );
    }
    adder.number(
        Style::LineLength,
        number("/javascript/formatter/lineWidth").or(number("/formatter/lineWidth")),
        "lineWidth",
    );
    adder.word(Style::Quotes, word("/javascript/formatter/quoteStyle").as_deref(), "quoteStyle");
    let semicolons = word("/javascript/formatter/semicolons");
    adder.word(
        Style::Semicolons,
        semicolons.as_deref().map(|one| if one == "always" { "true" } else { "false" }),
        "semicolons",
    );
}

pub(super) fn dprint(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let Some(value) = json(text) else { return };
    let number = |path: &str| value.pointer(path).and_then(serde_json::Value::as_f64);
    let mut adder = Adder { file, text, endings: SCRIPT, gathered };
    adder.number(Style::LineLength, number("/typescript/lineWidth").or(number("/lineWidth")), "lineWidth");
    adder.number(Style::IndentWidth, number("/typescript/indentWidth").or(number("/indentWidth")), "indentWidth");
}

/// `[tool.black]`, `[tool.ruff]`, `[tool.isort]`.
pub(super) fn pyproject(file: &RepoPath, text: &str, table: &toml::Table, gathered: &mut Gathered) {
    let Some(tools) = table.get("tool").and_then(toml::Value::as_table) else { return };
    if let Some(ruff) = tools.get("ruff").and_then(toml::Value::as_table) {
        ruff_settings(file, text, ruff, gathered);
    }
    if let Some(length) =
        tools.get("black").and_then(|black| black.get("line-length")).and_then(toml::Value::as_integer)
    {
        Adder { file, text, endings: PYTHON, gathered }.number(Style::LineLength, Some(length as f64), "line-length");
    }
}

pub(super) fn ruff(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    if let Some(table) = toml(text) {
        ruff_settings(file, text, &table, gathered);
    }
}

fn ruff_settings(file: &RepoPath, text: &str, table: &toml::Table, gathered: &mut Gathered) {
    let number = |key: &str| table.get(key).and_then(toml::Value::as_integer).map(|value| value as f64);
    let format = |key: &str| table.get("format").and_then(|one| one.get(key)).and_then(toml::Value::as_str);
    let mut adder = Adder { file, text, endings: PYTHON, gathered };
    adder.number(Style::LineLength, number("line-length"), "line-length");
    adder.number(Style::IndentWidth, number("indent-width"), "indent-width");
    adder.word(Style::Quotes, format("quote-style").filter(|one| matches!(*one, "single" | "double")), "quote-style");
    let indent = format("indent-style").map(|one| if one == "tab" { "tabs" } else { "spaces" });
    adder.word(Style::Indentation, indent, "indent-style");
}

/// `max-line-length` in the section of the linter.
pub(super) fn flake8(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    let mut inside = false;
    for line in text.lines() {
        if line.starts_with('[') {
            inside = matches!(line.trim(), "[flake8]" | "[pycodestyle]");
        } else if inside
            && let Some((key, value)) = line.split_once('=')
            && matches!(key.trim(), "max-line-length" | "max_line_length")
        {
            let length = value.trim().parse().ok();
            Adder { file, text, endings: PYTHON, gathered }.number(Style::LineLength, length, key.trim());
        }
    }
}
