//! Messages with the source lines that they are about.

use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Element, Group, Level, Origin, Renderer, Snippet};
use signpost_core::base::toml_file::ConfigError;
use signpost_core::check::Finding;
use signpost_core::config::Severity;
use signpost_core::project::workspace::Workspace;
use std::ops::Range;

/// Lines longer than this are shown around the words at fault only.
const LONGEST_LINE: usize = 400;

fn renderer() -> Renderer {
    Renderer::styled().decor_style(DecorStyle::Unicode).term_width(super::width())
}

fn level(word: &str) -> Level<'static> {
    match word {
        "error" => Level::ERROR,
        "warning" => Level::WARNING,
        "help" => Level::HELP,
        _ => Level::NOTE,
    }
}

/// One line: a level and a message.
pub fn plain(word: &str, message: &str) -> String {
    let title = level(word).primary_title(super::table::clean(message));
    renderer().render(&[Group::with_title(title)])
}

/// A mistake in a file that configures Signpost.
pub fn config_error(error: &ConfigError, word: &str) -> String {
    let (source, span, line) = window(&error.source_text, &error.span);
    let snippet = Snippet::source(source).path(error.file.as_str()).line_start(line);
    let group = level(word)
        .primary_title(error.message.as_str())
        .element(snippet.annotation(AnnotationKind::Primary.span(span)));
    let mut groups = vec![group];
    if let Some(help) = &error.help {
        groups.push(Group::with_title(Level::HELP.secondary_title(help.as_str())));
    }
    renderer().render(&groups)
}

/// A finding with its places.
pub fn finding(workspace: &Workspace<'_>, finding: &Finding) -> String {
    let word = match finding.severity {
        Severity::Note => "note",
        Severity::Warning => "warning",
        Severity::Error => "error",
    };
    let place = |location: &signpost_core::base::repo_path::Location,
                 span: &Range<usize>,
                 kind: AnnotationKind,
                 label: Option<&str>|
     -> Element<'static> {
        let path = location.to_string();
        if span.start == 0 && span.end == 0 {
            return Origin::path(path).into();
        }
        let (source, span, line) = window(&workspace.document(location).text, span);
        let annotation = kind.span(span).label(label.map(str::to_owned));
        Snippet::source(source).path(path).line_start(line).annotation(annotation).into()
    };
    let mut group = level(word).primary_title(super::table::clean(&finding.message)).id(finding.check).element(place(
        &finding.location,
        &finding.span,
        AnnotationKind::Primary,
        None,
    ));
    for related in &finding.related {
        group = group.element(place(&related.location, &related.span, AnnotationKind::Context, Some(&related.message)));
    }
    if let Some(witness) = &finding.witness {
        // Where two directives meet, and otherwise an example.
        let name = if finding.related.is_empty() || finding.check.starts_with("size/") {
            "for example"
        } else {
            "both apply to"
        };
        group = group.element(Level::NOTE.with_name(name).message(super::table::clean(&witness.to_string())));
    }
    if !finding.help.is_empty() {
        group = group.element(Level::HELP.message(super::table::clean(&finding.help)));
    }
    renderer().render(&[group])
}

/// The lines that a span is in, so that a large file costs nothing: the text, the span in it, and the
/// number of its first line.
fn window(text: &str, span: &Range<usize>) -> (String, Range<usize>, usize) {
    let start = floor(text, span.start.min(text.len()));
    let end = floor(text, span.end.clamp(start, text.len()));
    let from = text[..start].rfind('\n').map_or(0, |at| at + 1);
    // Three lines are enough to see what is meant.
    let until = text[start..end].match_indices('\n').nth(2).map_or(end, |(at, _)| start + at);
    let to = text[until..].find('\n').map_or(text.len(), |at| until + at);
    let from = if start - from > LONGEST_LINE { floor(text, start - LONGEST_LINE / 4) } else { from };
    let to = if to - until > LONGEST_LINE { floor(text, until + LONGEST_LINE / 2) } else { to };
    let line = text[..from].bytes().filter(|byte| *byte == b'\n').count() + 1;
    // A place without width is shown as the character that stands there.
    let end =
        if until > start { until } else { text[start..to].chars().next().map_or(start, |c| start + c.len_utf8()) };
    let (source, span) = visible(&text[from..to], start - from..end - from);
    (source, span, line)
}

/// A line with a sign for each character that cannot be seen or steers the terminal.
pub fn shown(text: &str) -> String {
    visible(text, 0..0).0
}

/// The text with a sign for each character that cannot be seen or steers the terminal, and the span in it.
fn visible(text: &str, span: Range<usize>) -> (String, Range<usize>) {
    let mut shown = String::with_capacity(text.len());
    let (mut start, mut end) = (0, 0);
    for (at, c) in text.char_indices() {
        if at == span.start {
            start = shown.len();
        }
        if at == span.end {
            end = shown.len();
        }
        let invisible = matches!(c, '\u{ad}' | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{e0000}'..='\u{e0fff}');
        shown.push(if invisible || c.is_control() && !matches!(c, '\n' | '\r' | '\t') { '▯' } else { c });
    }
    if span.start >= text.len() {
        start = shown.len();
    }
    if span.end >= text.len() {
        end = shown.len();
    }
    (shown, start..end)
}

fn floor(text: &str, mut at: usize) -> usize {
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}
