//! Cutting a text into sections, and sections into list items and paragraphs.

use crate::change::publish::source::without_blank_lines;
use crate::directive::Outline;

/// A section with all below it, or what stands before the first.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unit {
    /// The heading's words.
    pub heading: Option<String>,
    /// The whole text.
    pub text: String,
}

/// A text of more sections than this stays whole: they are laid side by side one by one.
const MOST_UNITS: usize = 1000;

/// Cuts a text at its highest headings that are not its title. A text whose sections depend on a heading above
/// them stays whole; one of more directives than are read is not cut.
pub fn units(body: &str) -> Option<Vec<Unit>> {
    let outline = Outline::read(body, 0);
    if outline.cut {
        return None;
    }
    let whole = || {
        let heading = outline.sections.first().filter(|first| body[..first.heading.start].trim().is_empty());
        vec![Unit { heading: heading.map(|section| section.title.clone()), text: body.to_owned() }]
    };
    let highest = outline.sections.iter().map(|section| section.level).min();
    let Some(highest) = highest else { return Some(whole()) };
    let tops: Vec<_> = outline.sections.iter().filter(|section| section.level == highest).collect();
    let title = tops.len() == 1 && body[..tops[0].heading.start].trim().is_empty();
    let level = if title {
        outline.sections.iter().filter(|one| one.level > highest).map(|one| one.level).min()
    } else {
        Some(highest)
    };
    let Some(level) = level else { return Some(whole()) };
    let cuts: Vec<_> = outline.sections.iter().filter(|section| section.level == level).collect();
    if cuts.len() > MOST_UNITS {
        return Some(whole());
    }
    let mut units = Vec::new();
    let before = without_blank_lines(&body[..cuts[0].heading.start]);
    if !before.is_empty() {
        units.push(Unit { heading: None, text: before.to_owned() });
    }
    for (number, section) in cuts.iter().enumerate() {
        let end = cuts.get(number + 1).map_or(body.len(), |next| next.heading.start);
        let text = body[section.heading.start..end].trim().to_owned();
        units.push(Unit { heading: Some(section.title.clone()), text });
    }
    // Alone they must mean what they mean together.
    let alone = units.iter().flat_map(|unit| Outline::read(&unit.text, 0).directives);
    let same = alone.map(|one| one.key()).eq(outline.directives.iter().map(|one| one.key()));
    Some(if same { units } else { whole() })
}

/// Cuts a section into its heading, list items and paragraphs; code stays whole, and with what it follows.
pub fn atoms(text: &str) -> Vec<String> {
    let mut atoms: Vec<String> = Vec::new();
    let mut fence: Option<String> = None;
    let mut blank = true;
    for line in text.lines() {
        let trimmed = line.trim_start();
        if let Some(open) = &fence {
            let closes = trimmed.starts_with(open.as_str()) && trimmed.trim_end().chars().all(|c| open.starts_with(c));
            push_line(&mut atoms, line);
            if closes {
                fence = None;
            }
            continue;
        }
        let sign = trimmed.chars().next().filter(|c| matches!(c, '`' | '~'));
        let length = trimmed.chars().take_while(|c| Some(*c) == sign).count();
        if sign.is_some() && length >= 3 {
            fence = Some(trimmed[..length].to_owned());
            push_line(&mut atoms, line);
            blank = false;
            continue;
        }
        if trimmed.is_empty() {
            blank = true;
            continue;
        }
        let indented = line.starts_with([' ', '\t']);
        let heading = !indented && trimmed.starts_with('#');
        let after_heading = atoms.last().is_some_and(|last| last.starts_with('#') && !last.contains('\n'));
        let item = !indented && is_item(trimmed);
        // A comment speaks of what follows it.
        let after_comment = !blank && atoms.last().is_some_and(|last| last.trim_end().ends_with("-->"));
        if after_comment {
            push_line(&mut atoms, line);
            blank = false;
            continue;
        }
        if heading || item || after_heading || atoms.is_empty() || blank && !indented {
            atoms.push(line.to_owned());
        } else {
            if blank {
                push_line(&mut atoms, "");
            }
            push_line(&mut atoms, line);
        }
        blank = false;
    }
    atoms
}

fn push_line(atoms: &mut Vec<String>, line: &str) {
    match atoms.last_mut() {
        Some(last) => *last += &format!("\n{line}"),
        None => atoms.push(line.to_owned()),
    }
}

fn is_item(line: &str) -> bool {
    let digits = line.chars().take_while(char::is_ascii_digit).count();
    ["- ", "* ", "+ "].iter().any(|mark| line.starts_with(mark))
        || digits > 0 && digits < 10 && [". ", ") "].iter().any(|mark| line[digits..].starts_with(mark))
}

/// Puts atoms together: items below each other, an empty line around everything else.
pub fn joined(atoms: &[String]) -> String {
    let mut text = String::new();
    for (number, atom) in atoms.iter().enumerate() {
        if number > 0 {
            let both = is_item(&atoms[number - 1]) && is_item(atom);
            text += if both { "\n" } else { "\n\n" };
        }
        text += atom;
    }
    text
}

/// The words with all blanks as one, for comparing.
pub fn squeezed(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_fall_into_sections_and_items() {
        let text = "# Yard\n\nWhat it is.\n\n## Paint\n\n- One\n  more\n- Two\n\n```sh\n# no heading\n\nrun\n```\n\n## Wood\n\nSand it.";
        let cut = units(text).unwrap();
        assert_eq!(
            cut.iter().map(|unit| unit.heading.as_deref()).collect::<Vec<_>>(),
            [None, Some("Paint"), Some("Wood")]
        );
        let own = atoms(&cut[1].text);
        assert_eq!(own, ["## Paint", "- One\n  more", "- Two\n```sh\n# no heading\n\nrun\n```"]);
        assert_eq!(joined(&atoms(&cut[2].text)), "## Wood\n\nSand it.");
        // A heading that is a condition keeps what stands below it.
        assert_eq!(units("# In Rust files\n\n## Names\n\n- Short\n\n## Errors\n\n- Typed").unwrap().len(), 1);
    }
}
