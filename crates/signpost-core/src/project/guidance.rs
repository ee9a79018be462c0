//! The project's own source of truth: the rules in `guidance/`.

mod keep;
mod marker;

use crate::base::wording::{toml_list, toml_text};
use crate::header::{Header, HeaderStyle, Value};
use crate::pattern::Dialect;
use crate::profile::{Origin, Profile, Reach};
use crate::project::rule::Rule;
#[cfg(feature = "schema")]
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::fmt;
use std::ops::Range;
use std::sync::OnceLock;

pub use keep::{Kept, REMARK_END};
pub use marker::Marker;

/// The header of a guidance rule, TOML between `+++` lines.
#[derive(Clone, Debug, Default, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(JsonSchema))]
#[serde(deny_unknown_fields, default)]
#[cfg_attr(feature = "schema", schemars(title = "Signpost rule header"))]
pub struct RuleHeader {
    /// One line that says when the rule is of use.
    pub summary: Option<String>,
    /// Path patterns from the folder that holds `guidance/`; without a slash at any depth, braces understood.
    pub paths: Vec<String>,
    /// Path patterns that the rule does not apply to.
    pub except: Vec<String>,
    /// When the rule is told; absent: scoped with paths, otherwise standing.
    pub reach: Option<Reach>,
    /// The assistants that it is for, by the names of their profiles; absent: all.
    pub assistants: Option<Vec<String>>,
    /// A condition on the repository's manifests, such as `sqlx >= 0.8`.
    pub when: Option<String>,
    /// The day after which somebody should look at the rule again.
    #[cfg_attr(feature = "schema", schemars(with = "Option<String>"))]
    pub review_after: Option<ReviewDate>,
    /// Where several rules share a file, lower comes first; without it, last.
    pub order: Option<i64>,
    /// By the name of an assistant: header keys that have no meaning here, as its file writes them; remarks under `#`,
    /// and the file's path under `@file`.
    pub keep: BTreeMap<String, Kept>,
}

/// A date, also as a string.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged)]
pub enum ReviewDate {
    /// As TOML writes dates.
    Date(toml::value::Datetime),
    /// In quotes.
    Text(String),
}

/// A rule as a careful person writes it: a header where one is needed, then the text.
pub fn write(header: &RuleHeader, body: &str) -> String {
    let mut keys = String::new();
    if let Some(summary) = &header.summary {
        keys += &format!("summary = {}\n", toml_text(summary));
    }
    if !header.paths.is_empty() {
        keys += &format!("paths = {}\n", toml_list(&header.paths));
    }
    if !header.except.is_empty() {
        keys += &format!("except = {}\n", toml_list(&header.except));
    }
    if let Some(reach) = header.reach {
        keys += &format!("reach = {}\n", toml_text(reach.word()));
    }
    if let Some(assistants) = &header.assistants {
        keys += &format!("assistants = {}\n", toml_list(assistants));
    }
    if let Some(when) = &header.when {
        keys += &format!("when = {}\n", toml_text(when));
    }
    match &header.review_after {
        Some(ReviewDate::Date(date)) => keys += &format!("review_after = {date}\n"),
        Some(ReviewDate::Text(date)) => keys += &format!("review_after = {}\n", toml_text(date)),
        None => {}
    }
    if let Some(order) = header.order {
        keys += &format!("order = {order}\n");
    }
    for (assistant, kept) in &header.keep {
        keys += &format!("\n{}", kept.to_toml(assistant));
    }
    let body = body.trim_matches(['\n', '\r']).trim_end();
    // What looks like a header is none, where it is not on the first line.
    let apart = if HeaderStyle::Toml.fence().is_some_and(|fence| body.starts_with(fence)) { "\n" } else { "" };
    if keys.is_empty() { format!("{apart}{body}\n") } else { format!("+++\n{keys}+++\n\n{body}\n") }
}

/// A rule's header with summary, patterns and reach changed, and all else as it stands there. `head` is the text up to
/// where the rule's own text begins.
pub fn write_header(head: &str, header: &RuleHeader) -> String {
    let found = Header::read(head, HeaderStyle::Toml);
    let block = found.block.map_or("", |block| &head[block]);
    let mut document: toml_edit::DocumentMut = block.parse().unwrap_or_default();
    let mut set = |key: &str, value: Option<toml_edit::Value>| match value {
        Some(value) => match document.get_mut(key).and_then(toml_edit::Item::as_value_mut) {
            // What says the same already keeps its form.
            Some(own) if plain(own) == plain(&value) => {}
            // The remark behind it stays, and so does the one above.
            Some(own) => {
                let around = own.decor().clone();
                *own = value;
                *own.decor_mut() = around;
            }
            None => drop(document.insert(key, toml_edit::value(value))),
        },
        None => remove(&mut document, key),
    };
    let list = |items: &[String]| {
        let array: toml_edit::Array = items.iter().map(String::as_str).collect();
        (!items.is_empty()).then(|| toml_edit::Value::from(array))
    };
    set("summary", header.summary.as_deref().map(toml_edit::Value::from));
    set("paths", list(&header.paths));
    set("except", list(&header.except));
    set("reach", header.reach.map(|reach| toml_edit::Value::from(reach.word())));
    let keys = document.to_string();
    match head.split_once("+++") {
        _ if keys.trim().is_empty() => String::new(),
        Some((before, _)) if found.body > 0 => {
            let end = if head.contains("\r\n") { "\r\n" } else { "\n" };
            let after = &head[found.body..];
            format!("{before}+++{end}{keys}+++{end}{after}")
        }
        _ => format!("+++\n{keys}+++\n\n{head}"),
    }
}

/// Takes a key out; the remarks above it stay, above what comes next.
fn remove(document: &mut toml_edit::DocumentMut, key: &str) {
    let next = document.iter().map(|(name, _)| name.to_owned()).skip_while(|name| name != key).nth(1);
    let Some((gone, _)) = document.remove_entry(key) else { return };
    let text =
        |decor: Option<&toml_edit::RawString>| decor.and_then(|text| text.as_str()).unwrap_or_default().to_owned();
    let above = text(gone.leaf_decor().prefix());
    if !above.contains('#') {
        return;
    }
    match next.as_deref().and_then(|next| document.key_mut(next)) {
        Some(mut next) => {
            let decor = next.leaf_decor_mut();
            let own = text(decor.prefix());
            decor.set_prefix(above + &own);
        }
        None => {
            let end = above + document.trailing().as_str().unwrap_or_default();
            document.set_trailing(end);
        }
    }
}

/// A value without blanks and remarks around it.
fn plain(value: &toml_edit::Value) -> String {
    match value {
        toml_edit::Value::Array(array) => array.iter().map(|item| format!("{},", plain(item))).collect(),
        toml_edit::Value::String(text) => format!("{:?}", text.value()),
        other => other.to_string().trim().to_owned(),
    }
}

/// The name under which the guidance is read like an assistant's files.
pub const PROFILE: &str = "guidance";
/// Header keys of a guidance rule that decide nothing about its reach.
pub const OTHER_KEYS: [&str; 5] = ["assistants", "when", "review_after", "order", "keep"];

/// The profile that reads the guidance.
pub fn profile() -> &'static Profile {
    static READ: OnceLock<Profile> = OnceLock::new();
    READ.get_or_init(|| {
        let text = include_str!("guidance.toml");
        Profile::parse("guidance.toml", text, Origin::BuiltIn).expect("the built-in profile is valid").0
    })
}

/// The dialect of the guidance's patterns.
pub fn dialect() -> &'static Dialect {
    &profile().places[0].dialect
}

/// The assistants that a guidance rule is for, as its header names them; `None` for all.
pub fn assistants(rule: &Rule) -> Option<Vec<String>> {
    match &rule.header.get("assistants")?.value {
        Value::List(items) => Some(items.iter().map(|item| item.text.clone()).collect()),
        Value::Scalar(one) => Some(vec![one.text.clone()]),
        Value::Nothing | Value::Table => None,
    }
}

/// What a guidance rule keeps for each assistant's file; nothing where its header can't be read.
pub fn kept(rule: &Rule) -> BTreeMap<String, Kept> {
    let block = rule.header.block.clone().map(|block| &rule.document.text[block]);
    block.and_then(|block| toml::from_str::<RuleHeader>(block).ok()).unwrap_or_default().keep
}

/// The day after which somebody should look at a guidance rule again, with the bytes that name it. A string
/// will do as well.
pub fn review_after(rule: &Rule) -> Option<(Date, Range<usize>)> {
    let key = rule.header.get("review_after")?;
    let text = key.scalar()?;
    Date::parse(text.get(..10).unwrap_or(text)).map(|date| (date, key.value_span.clone()))
}

/// A day.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub struct Date {
    /// The year.
    pub year: u16,
    /// The month, from 1.
    pub month: u8,
    /// The day, from 1.
    pub day: u8,
}

impl Date {
    /// Reads `2027-03-01`.
    pub fn parse(text: &str) -> Option<Self> {
        let date = text.trim().parse::<toml::value::Datetime>().ok()?.date?;
        Some(Date { year: date.year, month: date.month, day: date.day })
    }

    /// The day that holds a moment, given in seconds since 1970 in UTC.
    ///
    /// Algorithm: Howard Hinnant, <https://howardhinnant.github.io/date_algorithms.html#civil_from_days>.
    pub fn from_seconds(seconds: u64) -> Self {
        let days = (seconds / 86_400) as i64 + 719_468;
        let era = days / 146_097;
        let of_era = days - era * 146_097;
        let year_of_era = (of_era - of_era / 1460 + of_era / 36_524 - of_era / 146_096) / 365;
        let of_year = of_era - (365 * year_of_era + year_of_era / 4 - year_of_era / 100);
        let shifted = (5 * of_year + 2) / 153;
        let day = of_year - (153 * shifted + 2) / 5 + 1;
        let month = if shifted < 10 { shifted + 3 } else { shifted - 9 };
        let year = year_of_era + era * 400 + i64::from(month <= 2);
        Date { year: year as u16, month: month as u8, day: day as u8 }
    }
}

impl fmt::Display for Date {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:04}-{:02}-{:02}", self.year, self.month, self.day)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn days_are_counted_as_calendars_do() {
        assert_eq!(Date::from_seconds(0).to_string(), "1970-01-01");
        assert_eq!(Date::from_seconds(951_782_400).to_string(), "2000-02-29");
        assert_eq!(Date::from_seconds(1_795_392_000).to_string(), "2026-11-23");
        assert!(Date::parse("2027-03-01") > Date::parse("2026-11-23"));
        assert_eq!(Date::parse("soon"), None);
    }
}
