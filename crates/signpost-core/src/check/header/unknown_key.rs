use super::rules;
use crate::base::toml_file::nearest;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::project::guidance;

pub(in crate::check) const INFO: CheckInfo =
    CheckInfo::new("header/unknown-key", Severity::Warning, include_str!("unknown_key.toml"));

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        let mut known = place.understood_keys();
        if profile.name == guidance::PROFILE {
            known.extend(guidance::OTHER_KEYS);
            known.sort_unstable();
        }
        for key in rule.header.keys.iter().filter(|key| !known.contains(&key.name.as_str())) {
            let message = format!("{} knows no key `{}`", profile.title, key.name);
            let list = known.iter().map(|key| format!("`{key}`")).collect::<Vec<_>>().join(", ");
            let unused = known.iter().copied().filter(|known| rule.header.get(known).is_none());
            let finding = Finding::in_rule(&INFO, &profile.name, rule, key.name_span.clone(), message);
            findings.push(match nearest(&key.name, unused) {
                Some(near) => finding.help(format!("did you mean `{near}`?")),
                // Nothing goes wrong: it is there for somebody else, or for people.
                None if known.is_empty() => finding.severity(Severity::Note).help("it reads no keys at all here"),
                None => finding.severity(Severity::Note).help(format!("the keys it knows here are {list}")),
            });
        }
    }
}
