//! `signpost survey`.

use super::table::{Table, cell, cell_with_tail, number};
use super::{BAD, COMMAND, FAINT, FILE, STRONG, paint, tokens, width};
use anstyle::Style;
use serde::Serialize;
use signpost_core::base::wording::{count, group};
use signpost_core::inspect::cost::AssistantWeight;
use signpost_core::inspect::survey::Survey;
use signpost_core::profile::{Kind, Origin, Reach};
use signpost_core::project::rule::Rule;
use signpost_core::project::workspace::{Assistant, Project, Workspace};

/// For people.
pub fn text(workspace: &Workspace<'_>, project: &Project, survey: &Survey<'_>, at_start: &[usize]) -> String {
    let mut out = String::new();
    let files: usize = survey.assistants.iter().map(|assistant| assistant.rules.len()).sum();
    if files == 0 {
        nothing(workspace, survey, &mut out);
    } else {
        let sources = count(survey.zones.files, "source file");
        let heads = format!(
            "{} for {}, {sources}",
            count(files, "instruction file"),
            count(survey.assistants.len(), "assistant")
        );
        out += &format!("{}\n", paint(STRONG, heads));
        for ((assistant, matches), at_start) in survey.assistants.iter().zip(&survey.zones.matches).zip(at_start) {
            one(assistant, *at_start, matches, &mut out);
        }
    }
    unclaimed(workspace, survey, &mut out);
    super::publish::beside(&survey.beside, &mut out);
    for (folder, why) in &project.index.unreadable {
        out += &format!("\n{} {folder}/ could not be read: {why}\n", paint(BAD, "!"));
    }
    if files > 0 {
        let next = |command: &str, what: &str| {
            format!("  {}  {}\n", paint(COMMAND, format!("{command:<18}")), paint(FAINT, what))
        };
        out += "\n";
        out += &next("signpost at FILE", "what applies to one file, and why");
        out += &next("signpost lint", "what is wrong with these files");
    }
    out
}

fn one(assistant: &Assistant<'_>, at_start: usize, matches: &[usize], out: &mut String) {
    let profile = assistant.profile;
    let name = if profile.title == profile.name { String::new() } else { format!(" ({})", profile.name) };
    out.push_str(&format!(
        "\n{}{}  {}, {} tokens in every conversation\n",
        paint(STRONG, &profile.title),
        paint(FAINT, name),
        count(assistant.rules.len(), "file"),
        tokens(at_start)
    ));
    if assistant.rules.is_empty() {
        return;
    }
    let mut table = Table::new(2);
    let head = |text: &str| cell(text, FAINT);
    let right = |text: &str| number(text);
    table.row(vec![head("reach"), right("gets to"), right("lines"), right("tokens"), head("file")]);
    for (rule, matches) in assistant.rules.iter().zip(matches) {
        let reach = if rule.kind == Kind::Role { "role" } else { rule.reach.word() };
        let gets_to = match (rule.kind, rule.reach) {
            (Kind::Role, _) => "-".to_owned(),
            (_, Reach::Scoped | Reach::Standing) => group(*matches),
            _ => "-".to_owned(),
        };
        let nowhere = *matches == 0 && matches!(rule.reach, Reach::Scoped);
        let style = if nowhere { BAD } else { Style::new() };
        table.row(vec![
            cell(reach, style),
            number(gets_to),
            number(group(rule.document.lines)),
            number(tokens(rule.document.tokens())),
            cell_with_tail(rule.file().to_string(), FILE, &detail(rule), FAINT),
        ]);
    }
    table.render(width(), out);
}

/// What stands behind the file: its patterns, or its summary.
fn detail(rule: &Rule) -> String {
    match rule.reach {
        Reach::Scoped => {
            let patterns: Vec<&str> = rule.scope.paths.items.iter().map(|item| item.text.as_str()).collect();
            let except: Vec<&str> = rule.scope.except.items.iter().map(|item| item.text.as_str()).collect();
            let paths = if patterns.is_empty() { "no paths".to_owned() } else { patterns.join(", ") };
            if except.is_empty() { paths } else { format!("{paths} but not {}", except.join(", ")) }
        }
        Reach::Offered => rule.summary.as_ref().map_or("no summary".to_owned(), |summary| format!("“{summary}”")),
        Reach::Standing | Reach::Called => String::new(),
    }
}

fn unclaimed(workspace: &Workspace<'_>, survey: &Survey<'_>, out: &mut String) {
    if survey.unclaimed.is_empty() {
        return;
    }
    let files = survey.unclaimed.len();
    let heads = if files == 1 {
        "1 file looks like an instruction file, but nobody reads it".to_owned()
    } else {
        format!("{files} files look like instruction files, but nobody reads them")
    };
    out.push_str(&format!("\n{}\n", paint(STRONG.fg_color(BAD.get_fg_color()), heads)));
    let mut table = Table::new(2);
    for one in &survey.unclaimed {
        let title = workspace.title_of(&one.assistant);
        table.row(vec![cell(one.path.to_string(), FILE), cell(one.text(title), Style::new())]);
    }
    table.render(width(), out);
}

/// What to do where nothing is there yet.
fn nothing(workspace: &Workspace<'_>, survey: &Survey<'_>, out: &mut String) {
    out.push_str(&format!("{}\n\n", paint(STRONG, "No instruction files here yet")));
    let looked: Vec<String> = if survey.assistants.is_empty() {
        workspace.profiles.iter().map(|profile| profile.title.clone()).collect()
    } else {
        survey.assistants.iter().map(|assistant| assistant.profile.title.clone()).collect()
    };
    out.push_str(&format!("Looked for the files of: {}.\n\n", looked.join(", ")));
    let begin = |command: &str, what: &str| format!("  {}  {}\n", paint(COMMAND, format!("{command:<22}")), what);
    out.push_str(&begin("signpost init", "writes first rules from what the repository states"));
    out.push_str(&begin("signpost draft NAME", "writes one rule: say what an assistant got wrong the last time"));
    out.push_str(&begin(
        "signpost profile draft",
        "describes an assistant that reads other files, as soon as one stands here",
    ));
    out.push_str(&format!("\nTo see what Signpost does with such files: {}\n", paint(COMMAND, "signpost tour")));
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct SurveyJson {
    schema: &'static str,
    assistants: Vec<AssistantJson>,
    files: Vec<FileJson>,
    unclaimed: Vec<UnclaimedJson>,
    beside: Vec<String>,
    source_files: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    zones: Option<Vec<super::weigh::ZoneJson>>,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct AssistantJson {
    name: String,
    title: String,
    guessed: bool,
    files: usize,
    tokens_standing: usize,
    tokens_at_start: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct FileJson {
    path: String,
    assistant: String,
    place: String,
    level: &'static str,
    kind: &'static str,
    reach: &'static str,
    personal: bool,
    summary: Option<String>,
    patterns: Vec<String>,
    except: Vec<String>,
    matches: usize,
    bytes: u64,
    lines: usize,
    tokens: usize,
}

#[derive(Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
struct UnclaimedJson {
    path: String,
    assistant: String,
    why: String,
    right: Option<String>,
}

/// For programs: `signpost.survey/1`.
pub fn json(
    workspace: &Workspace<'_>,
    survey: &Survey<'_>,
    at_start: &[usize],
    weights: Option<&[AssistantWeight]>,
) -> SurveyJson {
    let file = |assistant: &Assistant<'_>, rule: &Rule, matches: usize| FileJson {
        path: rule.file().to_string(),
        assistant: assistant.profile.name.clone(),
        place: rule.place.clone(),
        level: rule.level.word(),
        kind: rule.kind.word(),
        reach: rule.reach.word(),
        personal: rule.place_in(assistant.profile).personal,
        summary: rule.summary.clone(),
        patterns: rule.scope.paths.items.iter().map(|item| item.text.clone()).collect(),
        except: rule.scope.except.items.iter().map(|item| item.text.clone()).collect(),
        matches,
        bytes: rule.document.bytes,
        lines: rule.document.lines,
        tokens: rule.document.tokens(),
    };
    let with_matches = survey.assistants.iter().zip(&survey.zones.matches);
    SurveyJson {
        schema: "signpost.survey/1",
        assistants: survey
            .assistants
            .iter()
            .zip(at_start)
            .map(|(assistant, at_start)| AssistantJson {
                name: assistant.profile.name.clone(),
                title: assistant.profile.title.clone(),
                guessed: assistant.profile.origin == Origin::Guessed,
                files: assistant.rules.len(),
                tokens_standing: Survey::tokens_standing(assistant),
                tokens_at_start: *at_start,
            })
            .collect(),
        files: with_matches
            .flat_map(|(assistant, matches)| {
                assistant.rules.iter().zip(matches).map(move |(rule, matches)| file(assistant, rule, *matches))
            })
            .collect(),
        beside: survey.beside.iter().map(ToString::to_string).collect(),
        unclaimed: survey
            .unclaimed
            .iter()
            .map(|one| UnclaimedJson {
                path: one.path.to_string(),
                assistant: one.assistant.clone(),
                why: one.text(workspace.title_of(&one.assistant)),
                right: one.right().map(ToString::to_string),
            })
            .collect(),
        source_files: survey.zones.files,
        zones: weights.map(|weights| super::weigh::zones_json(survey, weights)),
    }
}
