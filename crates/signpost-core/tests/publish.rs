//! What holds for publishing, whatever the profiles and rules: what was written reads back the same, and
//! publishing twice changes nothing.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::publish::changes::{Refusal, Step, status};
use signpost_core::change::publish::{Content, LossKind, Plan, plan};
use signpost_core::directive::Outline;
use signpost_core::files::{MemoryTree, Overlay, Tree};
use signpost_core::profile::Reach;
use signpost_core::project::lock::Lock;
use signpost_core::project::workspace::Workspace;

/// The source files of the sample tree.
const SOURCES: [&str; 8] = [
    "main.rs", "src/lib.rs", "src/a,b.ts", "src/ui/x.test.tsx", "ledger/one.sql", "ledger/old/two.sql", "kiosk/t.ts",
    "kiosk/s{1}.md",
];

fn path(text: &str) -> RepoPath {
    RepoPath::new(text).unwrap()
}

/// One place of an assistant, with every way to write scopes and reaches that a profile can describe.
fn place(id: &'static str) -> impl Strategy<Value = String> {
    let files = prop_oneof![
        Just("NAME.md"),
        Just("NAME.txt"),
        Just(".name/notes/**/*.md"),
        Just(".name/*.md"),
        Just(".name/x/*/NOTE.md"),
    ];
    let header = prop_oneof![Just("none"), Just("yaml"), Just("toml")];
    let keys = prop_oneof![Just(""), Just("paths = \"covers\"\n"), Just("paths = \"covers\"\nexcept = \"skips\"\n")];
    let decide = prop_oneof![
        Just(""),
        Just(
            "[[place.decide]]\nkey = \"load\"\nis = \"each\"\nreach = \"standing\"\n[[place.decide]]\nkey = \"covers\"\npresent = true\nreach = \"scoped\"\n[[place.decide]]\nkey = \"about\"\npresent = true\nreach = \"offered\"\n"
        ),
        Just(
            "[[place.decide]]\nkey = \"always\"\nis = true\nreach = \"standing\"\n[[place.decide]]\nkey = \"covers\"\nabsent = true\nreach = \"offered\"\n"
        ),
        Just(
            "[[place.decide]]\nkey = \"covers\"\nis = \"**\"\nreach = \"standing\"\n[[place.decide]]\nkey = \"mode\"\nis = \"pick\"\nreach = \"offered\"\n[[place.decide]]\nkey = \"mode\"\nis = \"by hand\"\nreach = \"called\"\n"
        ),
    ];
    let reach = prop_oneof![Just("standing"), Just("scoped"), Just("offered"), Just("called")];
    let level = prop_oneof![Just("project"), Just("folder")];
    let base = prop_oneof![Just("root"), Just("folder")];
    let list = prop_oneof![Just("array"), Just("comma"), Just("either")];
    let bare = prop_oneof![Just("any-depth"), Just("anchored")];
    ((files, header, keys, decide, reach, level, base), (list, bare, any::<bool>(), any::<bool>())).prop_map(
        move |((files, header, keys, decide, reach, level, base), (list, bare, braces, negate))| {
            format!(
                "[[place]]\nid = \"{id}\"\nlevel = \"{level}\"\nfiles = [\"{}\"]\nheader = \"{header}\"\nbase = \"{base}\"\n\
                 reach = \"{reach}\"\n[place.patterns]\nlist = \"{list}\"\nbare = \"{bare}\"\nbraces = {braces}\nnegate = {negate}\n\
                 [place.keys]\nsummary = \"about\"\n{keys}{decide}",
                files.replace("name", id).replace("NAME", &id.to_uppercase()),
            )
        },
    )
}

fn profile() -> impl Strategy<Value = String> {
    let loads = prop_oneof![Just("touched"), Just("start"), Just("either")];
    let nested = prop_oneof![Just("all"), Just("nearest")];
    (loads, nested, place("one"), prop::option::of(place("two"))).prop_map(|(loads, nested, one, two)| {
        format!("name = \"some\"\nloads = \"{loads}\"\nnested = \"{nested}\"\n{one}{}", two.unwrap_or_default())
    })
}

/// A rule: where it stands, and its text.
fn rule() -> impl Strategy<Value = (String, String)> {
    let folder = prop_oneof![3 => Just(""), 1 => Just("kiosk/"), 1 => Just("ledger/old/")];
    let name = prop_oneof![Just("a"), Just("b"), Just("x/c"), Just("x/d-e")];
    let pattern = prop_oneof![
        Just("*.rs"),
        Just("/main.rs"),
        Just("ledger/**"),
        Just("src/"),
        Just("**/*.{ts,tsx}"),
        Just("a,b.ts"),
        Just("!odd"),
        Just("*.sql"),
        Just("./s*"),
        Just("s{1,2}*"),
        Just("src/**/[!x]*.ts"),
        Just("{,old/}two.sql"),
    ];
    let reach = prop_oneof![Just(""), Just("standing"), Just("offered"), Just("called")];
    let summary = prop_oneof![Just(""), Just("Say: \"this\", and # that"), Just("true"), Just("Plain words")];
    let body = prop_oneof![
        Just("- Sand the boards\n"),
        Just("# In Rust\n\n- Never hurry\n"),
        Just("Keep it cold.\n\n## Later\n\n- Warm it\n"),
        Just("### Deep\n\n1. One step\n"),
        Just("Title\n=====\n\n- Paint it\n"),
    ];
    (folder, name, prop::collection::vec(pattern.clone(), 0..3), prop::option::of(pattern), reach, summary, body)
        .prop_map(|(folder, name, paths, except, reach, summary, body)| {
            let mut header = String::new();
            let list = |items: &[&str]| items.iter().map(|one| format!("{one:?}")).collect::<Vec<_>>().join(", ");
            if !summary.is_empty() {
                header += &format!("summary = {summary:?}\n");
            }
            if !paths.is_empty() {
                header += &format!("paths = [{}]\n", list(&paths));
            }
            if let Some(except) = except.filter(|_| !paths.is_empty()) {
                header += &format!("except = [{}]\n", list(&[except]));
            }
            if !reach.is_empty() {
                header += &format!("reach = {reach:?}\n");
            }
            (format!("{folder}guidance/rules/{name}.md"), format!("+++\n{header}+++\n{body}"))
        })
}

/// Runs a plan on a tree, and gives the plan with the tree as it is after publishing.
fn published<T>(tree: &dyn Tree, ask: impl FnOnce(&Plan, &Overlay<'_>, &Lock) -> T) -> T {
    let workspace = Workspace::open(tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let profiles: Vec<_> = workspace.profiles.iter().filter(|profile| profile.name == "some").collect();
    let plan = plan(&workspace, &project, &profiles).unwrap();
    let status = status(tree, &plan, &workspace.lock().unwrap(), &[]).unwrap();
    let mut after = Overlay::new(tree);
    for file in &plan.files {
        let Content::Text(text) = &file.content else { panic!("links were not asked for") };
        after.write(file.path.clone(), text.as_bytes());
    }
    if !status.lock.file.is_empty() {
        after.write(path("signpost.lock"), status.lock.to_text());
    }
    ask(&plan, &after, &status.lock)
}

fn directives(text: &str) -> Vec<String> {
    Outline::read(text, 0).directives.into_iter().map(|one| one.words.to_string()).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn what_is_written_reads_back(profile in profile(), rules in prop::collection::vec(rule(), 1..5)) {
        let mut tree = SOURCES.iter().fold(MemoryTree::new(), |tree, file| tree.with(file, ""));
        tree = tree.with("guidance/profiles/some.toml", profile.as_str()).with("signpost.toml", "");
        for (file, text) in &rules {
            tree = tree.with(file, text.as_str());
        }
        published(&tree, |plan, after, _| {
            let workspace = Workspace::open(after, &[]).unwrap();
            let project = workspace.project().unwrap();
            let profile = workspace.profiles.iter().find(|profile| profile.name == "some").unwrap();
            let read = workspace.rules(profile, &project);
            for source in &plan.sources {
                let lost: Vec<_> = plan.losses.iter().filter(|loss| loss.rule == source.path).collect();
                if lost.iter().any(|loss| matches!(loss.kind, LossKind::LeftOut { .. })) {
                    continue;
                }
                let file = plan.files.iter().find(|file| file.sources.contains(&source.path));
                let file = file.unwrap_or_else(|| panic!("{} is nowhere, and nothing says so\n{profile:?}", source.path));
                let rule = read.iter().find(|rule| rule.file().path == file.path).unwrap();
                // Every word is there.
                let there = directives(&rule.document.text[rule.header.body..]);
                for directive in directives(&source.body) {
                    prop_assert!(there.contains(&directive), "{directive:?} is not in {}:\n{}", file.path, rule.document.text);
                }
                // Nothing stands there that nobody wrote.
                prop_assert!(!rule.document.text.contains("signpost publish"));
                prop_assert!(rule.document.text.ends_with('\n') && !rule.document.text.ends_with("\n\n"));
                if !lost.iter().all(|loss| matches!(loss.kind, LossKind::SpelledOut { .. })) {
                    continue;
                }
                // It gets to the same files, in the same way.
                for source_file in SOURCES {
                    let at = path(source_file);
                    let meant = match source.reach {
                        Reach::Scoped => source.rule.scope.takes(&at),
                        _ => at.is_in(&source.base),
                    };
                    let told = match rule.reach {
                        Reach::Scoped => rule.scope.takes(&at),
                        _ => at.is_in(&rule.found.anchor.path),
                    };
                    prop_assert_eq!(meant, told, "{} for {}:\n{}", source.path, source_file, rule.document.text);
                }
                let kept = matches!(source.reach, Reach::Offered | Reach::Called);
                prop_assert!(!kept || rule.reach == source.reach);
                if source.reach == Reach::Offered && source.rule.summary.is_some() {
                    prop_assert_eq!(&rule.summary, &source.rule.summary);
                }
            }
            Ok(())
        })?;
    }

    #[test]
    fn publishing_twice_changes_nothing(profile in profile(), rules in prop::collection::vec(rule(), 0..5)) {
        let mut tree = SOURCES.iter().fold(MemoryTree::new(), |tree, file| tree.with(file, ""));
        tree = tree.with("guidance/profiles/some.toml", profile.as_str());
        for (file, text) in &rules {
            tree = tree.with(file, text.as_str());
        }
        published(&tree, |_, after, lock| {
            published(after, |plan, _, second| {
                prop_assert_eq!(lock, second);
                let status = status(after, plan, lock, &[]).unwrap();
                prop_assert!(status.is_clean(), "{:?}", status.pending().collect::<Vec<_>>());
                Ok(())
            })
        })?;
    }
}

/// A file is touched only as long as it is as publishing left it.
#[test]
fn what_people_wrote_is_never_touched() {
    let profile = "name = \"some\"\n[[place]]\nid = \"one\"\nlevel = \"folder\"\nfiles = [\"ONE.md\"]\n";
    let tree = MemoryTree::new()
        .with("a.rs", "")
        .with("guidance/profiles/some.toml", profile)
        .with("guidance/rules/a.md", "- Sand it\n");
    published(&tree, |plan, after, lock| {
        let step = |tree: &dyn Tree, lock: &Lock, plan: &Plan| {
            let status = status(tree, plan, lock, &[]).unwrap();
            (status.changes.iter().map(|change| change.step.clone()).collect::<Vec<_>>(), status.refused)
        };
        assert_eq!(step(&tree, &Lock::default(), plan), (vec![Step::Create], vec![]));
        assert_eq!(step(after, lock, plan), (vec![Step::Keep], vec![]));
        let mut edited = Overlay::new(after);
        edited.write(path("ONE.md"), "- Mine\n");
        assert_eq!(step(&edited, lock, plan).1, vec![(path("ONE.md"), Refusal::Edited)]);
        assert_eq!(step(&edited, &Lock::default(), plan).1, vec![(path("ONE.md"), Refusal::Foreign)]);
        let nothing = Plan { assistants: vec!["some".into()], profiles: plan.profiles.clone(), ..Plan::default() };
        assert_eq!(step(after, lock, &nothing), (vec![Step::Remove], vec![]));
        assert_eq!(step(&edited, lock, &nothing), (vec![], vec![(path("ONE.md"), Refusal::EditedAndGone)]));
        // A lock that names a source file, with its hash, makes it no file of ours.
        let mut tampered = lock.clone();
        tampered.file[0].path = RepoPath::new("a.rs").unwrap();
        tampered.file[0].hash = signpost_core::project::lock::hash(b"");
        assert_eq!(step(after, &tampered, &nothing), (vec![], vec![]));
    });
}
