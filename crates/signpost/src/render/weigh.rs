//! `signpost weigh`, and the zones of `signpost survey`.

use super::table::{Table, cell, cell_with_tail, number};
use super::{BAD, FAINT, FILE, GOOD, STRONG, paint, tokens, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::wording::{count, group};
use signpost_core::inspect::cost::AssistantWeight;
use signpost_core::inspect::survey::Survey;
use signpost_core::profile::Origin;
use signpost_core::profile::Reach;
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::zones::{RuleId, Zone};
use std::collections::HashMap;

/// The widest bar, in columns.
const BAR: usize = 24;

/// A bar for `number` where `most` is the longest; what is beyond `budget` is in another colour.
fn bar(number: usize, most: usize, budget: usize) -> (String, Style) {
    let eighths = (number * BAR * 8).div_ceil(most.max(1));
    let parts = ["", "▏", "▎", "▍", "▌", "▋", "▊", "▉"];
    let text = "█".repeat(eighths / 8) + parts[eighths % 8];
    (text, if number > budget { BAD } else { GOOD })
}

/// A zone in words: its folder, how many files, and one of them.
fn place_of(zone: &Zone) -> (String, String) {
    let folder = if zone.folder.is_root() { "several folders".to_owned() } else { format!("{}/", zone.folder) };
    if zone.files == 1 { (zone.example.to_string(), String::new()) } else { (folder, format!("like {}", zone.example)) }
}

/// For people.
pub fn text(workspace: &Workspace<'_>, survey: &Survey<'_>, weights: &[AssistantWeight], top: usize) -> String {
    if survey.assistants.is_empty() {
        return "No instruction files here, so nothing to weigh.\n".to_owned();
    }
    let budget = workspace.config.budget.brief;
    let most_of = |weight: &AssistantWeight| weight.zones.iter().copied().max().unwrap_or(0).max(weight.at_start);
    let most = weights.iter().map(most_of).max().unwrap_or(0);
    let mut out = format!("{}\n\n", paint(STRONG, "Tokens in every conversation, before a word is typed"));
    let mut table = Table::new(2);
    for weight in weights {
        let assistant = &survey.assistants[weight.assistant];
        let (drawn, style) = bar(weight.at_start, most, budget);
        let summaries = match weight.summaries {
            0 => String::new(),
            summaries => format!("and {} for the summaries of what it may pick", tokens(summaries)),
        };
        table.row(vec![
            cell(assistant.profile.title.clone(), STRONG),
            number(tokens(weight.at_start)),
            cell_with_tail(drawn, style, &summaries, FAINT),
        ]);
    }
    table.render(width(), &mut out);
    for weight in weights {
        one(survey, weight, top, most, budget, &mut out);
    }
    out
}

fn one(survey: &Survey<'_>, weight: &AssistantWeight, top: usize, most: usize, budget: usize, out: &mut String) {
    let assistant = &survey.assistants[weight.assistant];
    let zones = merged(survey, weight);
    out.push_str(&format!("\n{}\n", paint(STRONG, &assistant.profile.title)));
    if let [(_, tokens_there)] = &zones[..]
        && *tokens_there == weight.at_start
    {
        out.push_str("  The same everywhere.\n");
    } else if !zones.is_empty() {
        out.push_str(&format!("  {}\n", paint(FAINT, "where it is told the most")));
        let mut table = Table::new(2);
        for (zone, tokens_there) in zones.iter().take(top) {
            let (drawn, style) = bar(*tokens_there, most, budget);
            let (place, example) = place_of(zone);
            let tail =
                if zone.files == 1 { String::new() } else { format!("{}, {example}", count(zone.files, "file")) };
            let adds = match tokens_there.saturating_sub(weight.at_start) {
                0 => String::new(),
                more => format!("+{}", group(more)),
            };
            let padded = format!("{drawn}{}", " ".repeat(BAR.saturating_sub(drawn.chars().count())));
            table.row(vec![
                number(tokens(*tokens_there)),
                number(adds),
                cell(padded, style),
                cell_with_tail(place, FILE, &tail, FAINT),
            ]);
        }
        table.render(width(), out);
        if zones.len() > top {
            out.push_str(&format!(
                "  {}\n",
                paint(FAINT, format!("and {} (--top)", count(zones.len() - top, "lighter part")))
            ));
        }
    }
    out.push_str(&format!("  {}\n", paint(FAINT, "its heaviest rules")));
    let mut table = Table::new(2);
    for rule in weight.rules.iter().take(top) {
        let gets_to = match rule.reach {
            Reach::Standing => format!("standing, {}", count(rule.matches, "file")),
            Reach::Scoped => format!("scoped, {}", count(rule.matches, "file")),
            Reach::Offered => "offered".to_owned(),
            Reach::Called => "called".to_owned(),
        };
        table.row(vec![number(tokens(rule.tokens)), cell_with_tail(rule.path.to_string(), FILE, &gets_to, FAINT)]);
    }
    table.render(width(), out);
    for lost in &weight.lost {
        let what = match lost.from_line {
            Some(line) => format!(
                "  {} is cut off in line {line}: {} bytes are never seen",
                lost.path,
                group(lost.bytes as usize)
            ),
            None => format!("  {} does not fit at all ({} bytes)", lost.path, group(lost.bytes as usize)),
        };
        out.push_str(&format!("{}\n", paint(BAD, super::table::clean(&what))));
    }
    let over: usize = zones.iter().filter(|(_, tokens)| *tokens > budget).map(|(zone, _)| zone.files).sum();
    if over > 0 {
        let what = format!("  Over the budget of {} tokens for {}", group(budget), count(over, "source file"));
        out.push_str(&format!("{}\n", paint(BAD, what)));
    }
}

/// The zones of one assistant: those that it is told the same about are one to it. The heaviest first.
fn merged(survey: &Survey<'_>, weight: &AssistantWeight) -> Vec<(Zone, usize)> {
    let mut merged: Vec<(Zone, usize)> = Vec::new();
    let mut known: HashMap<(Vec<RuleId>, bool), usize> = HashMap::new();
    for (zone, tokens) in survey.zones.zones.iter().zip(&weight.zones) {
        let rules: Vec<RuleId> = zone.rules.iter().copied().filter(|id| id.assistant == weight.assistant).collect();
        let hidden = zone.hidden_from.contains(&weight.assistant);
        match known.get(&(rules.clone(), hidden)) {
            Some(number) => {
                let (same, _): &mut (Zone, usize) = &mut merged[*number];
                same.files += zone.files;
                same.folder = same.folder.common(&zone.folder);
            }
            None => {
                known.insert((rules.clone(), hidden), merged.len());
                let (example, folder) = (zone.example.clone(), zone.folder.clone());
                merged.push((Zone { files: zone.files, example, folder, rules, hidden_from: Vec::new() }, *tokens));
            }
        }
    }
    merged.sort_by(|(a, a_tokens), (b, b_tokens)| b_tokens.cmp(a_tokens).then_with(|| a.example.cmp(&b.example)));
    merged
}

/// The zones of a survey, for people.
pub fn zones_text(survey: &Survey<'_>, weights: &[AssistantWeight]) -> String {
    let zones = &survey.zones.zones;
    let all = format!(
        "{} of {} that get the same from every assistant",
        count(zones.len(), "zone"),
        count(survey.zones.files, "source file")
    );
    let mut out = format!("{}\n", paint(STRONG, all));
    for (at, zone) in zones.iter().enumerate() {
        let (place, example) = place_of(zone);
        let files = if zone.files == 1 { String::new() } else { format!("  {}, {example}", count(zone.files, "file")) };
        out +=
            &format!("\n{}{}\n", paint(FILE, super::table::clean(&place)), paint(FAINT, super::table::clean(&files)));
        let mut table = Table::new(2);
        for (assistant, weight) in survey.assistants.iter().zip(weights) {
            let own = survey.zones.rules_of(zone).filter(|id| id.assistant == weight.assistant);
            let told: Vec<String> = own
                .map(|id| &assistant.rules[id.rule])
                .filter(|rule| matches!(rule.reach, Reach::Standing | Reach::Scoped))
                .map(|rule| rule.file().to_string())
                .collect();
            let hidden = if zone.hidden_from.contains(&weight.assistant) { " (hidden)" } else { "" };
            let rules = if told.is_empty() { "nothing".to_owned() } else { told.join(", ") };
            table.row(vec![
                cell(assistant.profile.title.clone(), STRONG),
                number(tokens(weight.zones[at])),
                cell(format!("{rules}{hidden}"), Style::new()),
            ]);
        }
        table.render(width(), &mut out);
    }
    out
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct WeighJson {
    schema: &'static str,
    exact: bool,
    budget: usize,
    assistants: Vec<AssistantJson>,
    zones: Vec<ZoneJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct AssistantJson {
    name: String,
    title: String,
    guessed: bool,
    tokens_at_start: usize,
    tokens_summaries: usize,
    over_budget_files: usize,
    rules: Vec<RuleJson>,
    lost: Vec<LostJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct RuleJson {
    path: String,
    reach: &'static str,
    tokens: usize,
    matches: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct LostJson {
    path: String,
    from_line: Option<usize>,
    bytes: u64,
    example: String,
}

/// One zone, as `survey --zones` and `weigh` give it to programs.
#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct ZoneJson {
    folder: String,
    files: usize,
    example: String,
    hidden_from: Vec<String>,
    briefs: Vec<ZoneBriefJson>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct ZoneBriefJson {
    assistant: String,
    tokens: usize,
    adds: usize,
    rules: Vec<String>,
}

/// The zones of a survey, for programs.
pub fn zones_json(survey: &Survey<'_>, weights: &[AssistantWeight]) -> Vec<ZoneJson> {
    let name = |number: usize| survey.assistants[number].profile.name.clone();
    let one = |(number, zone): (usize, &Zone)| ZoneJson {
        folder: zone.folder.to_string(),
        files: zone.files,
        example: zone.example.to_string(),
        hidden_from: zone.hidden_from.iter().map(|number| name(*number)).collect(),
        briefs: weights
            .iter()
            .map(|weight| ZoneBriefJson {
                assistant: name(weight.assistant),
                tokens: weight.zones[number],
                adds: weight.zones[number].saturating_sub(weight.at_start),
                rules: survey
                    .zones
                    .rules_of(zone)
                    .filter(|id| id.assistant == weight.assistant)
                    .map(|id| survey.assistants[id.assistant].rules[id.rule].file().to_string())
                    .collect(),
            })
            .collect(),
    };
    survey.zones.zones.iter().enumerate().map(one).collect()
}

/// For programs: `signpost.weigh/1`.
pub fn json(workspace: &Workspace<'_>, survey: &Survey<'_>, weights: &[AssistantWeight]) -> WeighJson {
    let budget = workspace.config.budget.brief;
    let over = |weight: &AssistantWeight| {
        let zones = survey.zones.zones.iter().zip(&weight.zones);
        zones.filter(|(_, tokens)| **tokens > budget).map(|(zone, _)| zone.files).sum()
    };
    let one = |weight: &AssistantWeight| AssistantJson {
        name: survey.assistants[weight.assistant].profile.name.clone(),
        title: survey.assistants[weight.assistant].profile.title.clone(),
        guessed: survey.assistants[weight.assistant].profile.origin == Origin::Guessed,
        tokens_at_start: weight.at_start,
        tokens_summaries: weight.summaries,
        over_budget_files: over(weight),
        rules: weight
            .rules
            .iter()
            .map(|rule| RuleJson {
                path: rule.path.to_string(),
                reach: rule.reach.word(),
                tokens: rule.tokens,
                matches: rule.matches,
            })
            .collect(),
        lost: weight
            .lost
            .iter()
            .map(|lost| LostJson {
                path: lost.path.to_string(),
                from_line: lost.from_line,
                bytes: lost.bytes,
                example: lost.example.to_string(),
            })
            .collect(),
    };
    WeighJson {
        schema: "signpost.weigh/1",
        exact: super::is_exact(),
        budget,
        assistants: weights.iter().map(one).collect(),
        zones: zones_json(survey, weights),
    }
}
