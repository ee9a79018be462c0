//! Zones against briefs: what is computed once for many files must be what each file would be told.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::files::MemoryTree;
use signpost_core::inspect::survey::survey;
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Question, resolve};
use std::collections::BTreeSet;

const PROFILE: &str = r#"
[[place]]
id = "rules"
level = "folder"
files = [".t/*.md"]
header = "yaml"
base = "folder"
pick = "all"
reach = "called"
[place.keys]
paths = "covers"
except = "skips"
[[place.decide]]
key = "load"
is = "each"
reach = "standing"
[[place.decide]]
key = "covers"
present = true
reach = "scoped"
[place.patterns]
negate = true
[[place]]
id = "root-rules"
level = "folder"
files = [".r/*.md"]
header = "yaml"
base = "root"
reach = "scoped"
[place.keys]
paths = "covers"
[[place]]
id = "notes"
level = "folder"
files = ["T.own.md", "T.md"]
pick = "first"
[exclusions]
files = [".skip"]
"#;

fn any_pattern() -> impl Strategy<Value = String> {
    prop::sample::select(vec![
        "*.rs", "**/*.rs", "a/**", "a/*", "**", "b/**/*.py", "{a,b}/*.rs", "x.rs", "**/b/x.*", "a/**/x.rs", "[ax]*",
        "/y.py", "a**.rs", "!x.rs", "*.test.rs", "c/",
    ])
    .prop_map(str::to_owned)
}

fn any_project() -> impl Strategy<Value = Vec<(String, String)>> {
    let folder = || prop::sample::select(vec!["", "a/", "a/b/", "c/", "c/a/"]);
    let source = (folder(), prop::sample::select(vec!["x.rs", "y.py", "x.test.rs", "noend", "z.md"]))
        .prop_map(|(folder, name)| (format!("{folder}{name}"), String::new()));
    let rule = (
        folder(),
        prop::sample::select(vec![".t/1.md", ".t/2.md", ".r/1.md", "T.md", "T.own.md"]),
        prop::collection::vec(any_pattern(), 0..3),
        prop::option::of(any_pattern()),
        any::<bool>(),
    )
        .prop_map(|(folder, name, paths, except, each)| {
            let list = paths.iter().map(|path| format!("\"{path}\"")).collect::<Vec<_>>().join(", ");
            let except = except.map(|path| format!("skips: \"{path}\"\n")).unwrap_or_default();
            let each = if each { "load: each\n" } else { "" };
            (format!("{folder}{name}"), format!("---\ncovers: [{list}]\n{except}{each}---\n"))
        });
    let skip = (folder(), prop::sample::select(vec!["*.py\n", "b/\n", "x.*\n!x.rs\n"]))
        .prop_map(|(folder, text)| (format!("{folder}.skip"), text.to_owned()));
    (prop::collection::vec(source, 1..8), prop::collection::vec(rule, 0..6), prop::collection::vec(skip, 0..2))
        .prop_map(|(sources, rules, skips)| [sources, rules, skips].concat())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 500, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_zone_tells_each_of_its_files_what_its_brief_does(
        files in any_project(),
        nearest: bool,
        loads in prop::sample::select(vec!["touched", "start", "either"]),
    ) {
        let head = format!("name = \"t\"\nloads = \"{loads}\"\nnested = \"{}\"\n", if nearest { "nearest" } else { "all" });
        let mut tree = MemoryTree::new().with("guidance/profiles/t.toml", format!("{head}{PROFILE}"));
        for (path, text) in &files {
            tree = tree.with(path, text.as_str());
        }
        let workspace = Workspace::open(&tree, &[]).unwrap();
        let project = workspace.project().unwrap();
        let names = ["t".to_owned()];
        let found = survey(&workspace, &project, &names).unwrap();
        let assistant = &found.assistants[0];
        let sources: Vec<RepoPath> = project.index.sources().map(|(folder, item)| folder.path.join(item.name)).collect();
        prop_assert_eq!(found.zones.zones.iter().map(|zone| zone.files).sum::<usize>(), sources.len());
        let mut in_scope = vec![0; assistant.rules.len()];
        for file in &sources {
            let question = Question { files: vec![file.clone()], start: RepoPath::root() };
            let brief = resolve(&workspace, assistant.profile, &question, None).unwrap();
            let told: BTreeSet<String> = brief.entries.iter().map(|entry| entry.path.to_string()).collect();
            let matching = found.zones.zones.iter().filter(|zone| {
                let rules = found.zones.rules_of(zone).map(|id| assistant.rules[id.rule].file().to_string());
                rules.collect::<BTreeSet<_>>() == told && zone.hidden_from.is_empty() == brief.hidden.is_empty()
            });
            prop_assert_eq!(matching.count(), 1, "one zone for {}: {:?}", file, told);
            for (number, rule) in assistant.rules.iter().enumerate() {
                in_scope[number] += usize::from(rule.scope.takes(file));
            }
        }
        for (number, rule) in assistant.rules.iter().enumerate() {
            if rule.reach == signpost_core::profile::Reach::Scoped {
                prop_assert_eq!(found.zones.matches[0][number], in_scope[number], "{}", rule.file());
            }
        }
    }
}
