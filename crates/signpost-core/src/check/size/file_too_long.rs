use crate::base::wording::{beginning, group, shorten};
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::directive::Outline;
use crate::profile::Reach;
use crate::project::rule::Rule;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("size/file-too-long", Severity::Warning, include_str!("file_too_long.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    let budget = context.workspace.config.budget.file_lines;
    for assistant in &context.survey.assistants {
        for rule in assistant.rules.iter().filter(|rule| rule.document.lines > budget) {
            let text = &rule.document.text;
            // The first line beyond the budget, from where on it is too much.
            let at = text.match_indices('\n').nth(budget.saturating_sub(1)).map_or(0, |(at, _)| at + 1);
            let end = text[at..].find(['\n', '\r']).map_or(text.len(), |end| at + end);
            let when = match rule.reach {
                Reach::Standing => "every time",
                Reach::Scoped => "whenever its scope is worked on",
                Reach::Offered | Reach::Called => "when it is picked",
            };
            let message = format!(
                "{} lines (≈{} tokens, {when}), where the budget is {}",
                group(rule.document.lines),
                group(rule.document.tokens()),
                group(budget)
            );
            let help = way_out(context, rule);
            findings.push(Finding::in_rule(&INFO, &assistant.profile.name, rule, at..end, message).help(help));
        }
    }
}

/// So many sections are named.
const HEAVIEST: usize = 3;

/// The heaviest sections, and the command that moves them.
fn way_out(context: &Context<'_, '_>, rule: &Rule) -> String {
    let text = beginning(&rule.document.text);
    let outline = Outline::read(text, rule.header.body.min(text.len()));
    let top = outline.sections.iter().map(|section| section.level).filter(|level| *level > 1).min();
    let mut sections: Vec<(usize, &str)> = (outline.sections.iter())
        .filter(|section| Some(section.level) == top)
        .map(|section| (context.workspace.weigh(&text[section.span.clone()]), section.title.as_str()))
        .collect();
    sections.sort_by_key(|(tokens, _)| std::cmp::Reverse(*tokens));
    let named: Vec<String> = (sections.iter().take(HEAVIEST))
        .map(|(tokens, title)| format!("“{}” (≈{})", shorten(title, 40), group(*tokens)))
        .collect();
    let way = match rule.file().in_root() {
        Some(path) => format!("`signpost split {path}` moves sections into rules of their own"),
        None => "move what is about some folders or file types into rules of their own".to_owned(),
    };
    if named.is_empty() { way } else { format!("{way}; the heaviest are {}", named.join(", ")) }
}
