use crate::base::wording::group;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::inspect::cost::{Lost, lost};
use crate::profile::Excess;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("size/over-limit", Severity::Error, include_str!("over_limit.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (number, assistant) in context.survey.assistants.iter().enumerate() {
        let limits = &assistant.profile.limits;
        if limits.file_bytes == 0 && limits.total_bytes == 0 {
            continue;
        }
        // Without references nothing is lost where all files together fit.
        let bytes = || assistant.rules.iter().map(|rule| rule.document.bytes);
        let fits = (limits.file_bytes == 0 || bytes().all(|one| one <= limits.file_bytes))
            && (limits.total_bytes == 0 || bytes().sum::<u64>() <= limits.total_bytes);
        if fits && assistant.profile.references.is_none() {
            continue;
        }
        let Ok(all) = lost(context.workspace, context.survey, number) else { continue };
        for one in all {
            let Lost { path, from_line, bytes, example } = one;
            let document = context.workspace.document(&path);
            let text = &document.text;
            let (span, message) = match from_line {
                Some(line) => {
                    let at = text.match_indices('\n').nth(line.saturating_sub(2)).map_or(0, |(at, _)| at + 1);
                    let at = if line <= 1 { 0 } else { at };
                    let end = text[at..].find(['\n', '\r']).map_or(text.len(), |end| at + end);
                    let message = format!("from here on {} bytes are cut off and never read", group(bytes as usize));
                    (at..end, message)
                }
                None => (0..0, "nothing of this file is read: it does not fit".to_owned()),
            };
            let most = [(limits.file_bytes, "one file"), (limits.total_bytes, "all files together")];
            let most: Vec<String> = most
                .iter()
                .filter(|(limit, _)| *limit > 0)
                .map(|(limit, of)| format!("{} bytes of {of}", group(*limit as usize)))
                .collect();
            let how = if limits.excess == Excess::Cut { "reads" } else { "takes" };
            let help = format!(
                "{} {how} at most {}; shorten what comes before, or give it a scope",
                assistant.profile.title,
                most.join(" and ")
            );
            let finding = Finding::new(&INFO, document.location.clone(), span, message).help(help);
            findings
                .push(finding.for_assistant(&assistant.profile.name).witness((!example.is_root()).then_some(example)));
        }
    }
}
