use super::rules;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("header/missing-key", Severity::Warning, include_str!("missing_key.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        let missing = |name: &&String| rule.header.get(name).is_none_or(|key| key.is_empty());
        for name in place.known.iter().filter(|(_, key)| key.required).map(|(name, _)| name).filter(missing) {
            let message = format!("{} asks for a key `{name}` in the header, which is not there", profile.title);
            let span = rule.header.block.clone().map_or(0..0, |block| block.start..block.start);
            let values = &place.known[name].values;
            let finding = Finding::in_rule(&INFO, &profile.name, rule, span, message);
            findings.push(match values.first() {
                Some(value) => finding.help(format!("add it, for example `{name}: {value}`")),
                None => finding.help("add it"),
            });
        }
    }
}
