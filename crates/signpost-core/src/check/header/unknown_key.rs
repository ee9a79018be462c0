use super::rules;
use crate::base::toml_file::nearest;
use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;
use crate::project::guidance;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "header/unknown-key",
    severity: Severity::Warning,
    finds: "A header key that the assistant does not know.",
    why: "A key that is misspelt counts as missing: the rule then loads in every conversation, or in none. A key that \
          is meant for another assistant has no effect here.",
    mend: "Write the key as the assistant spells it, or remove it.",
    bad: "---\ncover: \"kiosk/**\"\n---\n\n- Screens are read aloud; label every button.\n",
    good: "---\ncovers: \"kiosk/**\"\n---\n\n- Screens are read aloud; label every button.\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule) in rules(context) {
        let mut known = place.known_keys();
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
