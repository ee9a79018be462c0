use crate::check::{CheckInfo, Context, Finding};
use crate::config::Severity;

pub(in crate::check) const INFO: CheckInfo = CheckInfo {
    name: "place/ignored-by-git",
    severity: Severity::Warning,
    finds: "An instruction file for everybody that git ignores.",
    why: "It works on the machine of whoever wrote it, and nowhere else: teammates and CI never get it, and their \
          assistants go on making the mistake that it was written against.",
    mend: "Take it out of .gitignore and commit it. If it is meant for one person alone, mark its place as personal in \
           the profile.",
    bad: ".gitignore:  *.md\nAGENTS.md:   (never committed)\n",
    good: ".gitignore:  notes/*.md\nAGENTS.md:   (committed)\n",
};

pub(in crate::check) fn run(context: &Context<'_, '_>, findings: &mut Vec<Finding>) {
    for (profile, place, rule, ignored) in super::in_project(context) {
        if ignored && !place.personal {
            let message = "git ignores this file, so nobody else gets it";
            let help = "take it out of .gitignore, or mark its place `personal = true` in the profile";
            findings.push(Finding::in_rule(&INFO, &profile.name, rule, 0..0, message).help(help));
        }
    }
}
