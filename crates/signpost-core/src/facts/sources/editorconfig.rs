//! `.editorconfig`. Format: <https://spec.editorconfig.org/>, read by the `ec4rs` crate.

use super::Gathered;
use super::style::{Applies, Style, StyleFact, StyleValue};
use crate::base::repo_path::RepoPath;
use crate::facts::model::Source;
use ec4rs::ConfigParser;
use std::sync::Arc;

/// Longer files, and patterns with more in them, are nobody's settings.
const MOST_BYTES: usize = 1 << 16;
const LONGEST_LINE: usize = 256;

pub(super) fn read(file: &RepoPath, text: &str, gathered: &mut Gathered) {
    if text.len() > MOST_BYTES || text.lines().any(|line| line.len() > LONGEST_LINE || line.matches('*').count() > 8) {
        return;
    }
    let Ok(parser) = ConfigParser::new(text.as_bytes()) else { return };
    let heads: Vec<(usize, &str)> =
        text.lines().enumerate().filter(|(_, line)| line.trim_start().starts_with('[')).collect();
    for (section, (head, pattern)) in parser.flatten().zip(heads) {
        let line_of = |key: &str| {
            let mut lines =
                text.lines().enumerate().skip(head + 1).take_while(|(_, line)| !line.trim_start().starts_with('['));
            lines.find(|(_, line)| line.trim_start().to_lowercase().starts_with(key)).map_or(head + 1, |(at, _)| at + 1)
        };
        let section = Arc::new(section);
        let pattern = pattern.trim().trim_start_matches('[').trim_end_matches(']').to_owned();
        let get = |key: &str| section.props().get_raw_for_key(key).into_str().to_lowercase();
        let mut add = |style: Style, value: Option<StyleValue>, key: &str| {
            let Some(value) = value else { return };
            let applies = Applies::Section { section: section.clone(), pattern: pattern.clone() };
            let source = Source { file: file.clone(), line: line_of(key) };
            gathered.styles.push(StyleFact { style, value, applies, source, rank: 0 });
        };
        let word = |text: &str| (!text.is_empty() && text != "unset").then(|| StyleValue::Word(text.to_owned()));
        let number = |text: &str| text.parse().ok().map(StyleValue::Number);
        let indent = match get("indent_style").as_str() {
            "tab" => word("tabs"),
            "space" => word("spaces"),
            _ => None,
        };
        let is_tab = indent == word("tabs");
        add(Style::Indentation, indent, "indent_style");
        if !is_tab {
            add(Style::IndentWidth, number(&get("indent_size")), "indent_size");
        }
        add(Style::LineLength, number(&get("max_line_length")), "max_line_length");
        add(Style::LineEnding, word(&get("end_of_line")), "end_of_line");
        let quotes = get("quote_type");
        add(Style::Quotes, word(&quotes).filter(|_| matches!(quotes.as_str(), "single" | "double")), "quote_type");
        add(Style::FinalNewline, word(&get("insert_final_newline")), "insert_final_newline");
    }
}
