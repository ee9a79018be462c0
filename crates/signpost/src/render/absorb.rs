//! `signpost absorb`.

use super::{BAD, COMMAND, FAINT, FILE, GOOD, diff, paint};
use serde::Serialize;
use signpost_core::base::wording::count;
use signpost_core::change::absorb::{Absorbed, Conflict};

/// For people.
pub fn text(done: &Absorbed, dry_run: bool) -> String {
    let mut out = String::new();
    if done.files.is_empty() && done.conflicts.is_empty() {
        return "There is nothing to absorb: no published file was edited.\n".to_owned();
    }
    if !done.files.is_empty() {
        let files = count(done.files.len(), "file");
        let rules = count(done.rules.len(), "rule");
        let text = match (dry_run, done.rules.is_empty()) {
            (_, true) => format!("The edits of {files} are in the rules already."),
            (true, _) => format!("Absorbing the edits of {files} would change {rules}."),
            (false, _) => paint(GOOD, format!("Took the edits of {files} back into {rules}.")),
        };
        out += &format!("{text}\n");
    }
    if !done.conflicts.is_empty() {
        let mut files: Vec<_> = done.conflicts.iter().map(|conflict| &conflict.file).collect();
        files.dedup();
        let those = if files.len() == 1 { "1 file is".to_owned() } else { format!("{} files are", files.len()) };
        out += &format!("{}\n", paint(BAD, format!("{those} left to you.")));
    }
    for rule in &done.rules {
        out += &format!("\n{}", diff::unified(rule.path.as_str(), &rule.old, &rule.new));
    }
    for conflict in &done.conflicts {
        let line = conflict.line.map(|line| format!(":{line}")).unwrap_or_default();
        out += &format!("\n{}{line}  {}\n", paint(FILE, &conflict.file), conflict.message);
        if let Some((ours, theirs)) = &conflict.sides {
            for (title, text, style) in [("the rule", ours, BAD), ("the file", theirs, GOOD)] {
                out += &format!("  {}\n", paint(FAINT, title));
                for line in text.lines() {
                    out += &format!("    {}\n", paint(style, super::snippet::shown(line)));
                }
            }
        }
        out += &format!("  {} {}\n", paint(FAINT, "→"), conflict.help);
    }
    if !done.files.is_empty() && !dry_run {
        out += &format!("\n{} tells the other assistants too\n", paint(COMMAND, "signpost publish"));
    }
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct AbsorbJson {
    schema: &'static str,
    files: Vec<String>,
    rules: Vec<String>,
    conflicts: Vec<ConflictJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ConflictJson {
    path: String,
    line: Option<usize>,
    message: String,
    help: String,
    rule_says: Option<String>,
    file_says: Option<String>,
}

/// For programs: `signpost.absorb/1`.
pub fn json(done: &Absorbed) -> AbsorbJson {
    let conflict = |one: &Conflict| ConflictJson {
        path: one.file.to_string(),
        line: one.line,
        message: one.message.clone(),
        help: one.help.clone(),
        rule_says: one.sides.as_ref().map(|(ours, _)| ours.clone()),
        file_says: one.sides.as_ref().map(|(_, theirs)| theirs.clone()),
    };
    AbsorbJson {
        schema: "signpost.absorb/1",
        files: done.files.iter().map(|(path, _)| path.to_string()).collect(),
        rules: done.rules.iter().map(|rule| rule.path.to_string()).collect(),
        conflicts: done.conflicts.iter().map(conflict).collect(),
    }
}
