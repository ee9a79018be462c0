use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "place/personal-not-ignored",
    severity: Severity::Warning,
    finds: "One person's own instruction file that git does not ignore.",
    why: "With the next `git add .` it is committed: then everybody's assistant follows one person's habits, and what \
          was written for no other eyes is in the history for good.",
    mend: "Add it to .gitignore.",
    bad: "TANSEL.mine.md:  - Answer me in Welsh.\n.gitignore:      target/\n",
    good: "TANSEL.mine.md:  - Answer me in Welsh.\n.gitignore:      target/\n                 TANSEL.mine.md\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule, ignored) in super::in_project(context) {
        if place.personal && !ignored {
            let message = "this file is one person's own, but git does not ignore it";
            let help = format!("add `{}` to .gitignore", rule.file().path.name());
            findings.push(Finding::in_rule(&INFO, &profile.name, rule, 0..0, message).help(help));
        }
    }
}
