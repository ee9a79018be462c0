//! What holds for absorbing, whatever was edited: the edit is in the rules, publishing keeps it, and then nothing is
//! left to do.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::absorb::absorb;
use signpost_core::change::publish::changes::{Status, status};
use signpost_core::change::publish::{Content, plan};
use signpost_core::files::MemoryTree;
use signpost_core::project::lock::Lock;
use signpost_core::project::workspace::Workspace;
use std::collections::BTreeMap;

type Files = BTreeMap<String, String>;

const PROFILES: [(&str, &str); 3] = [
    (
        "guidance/profiles/notes.toml",
        "name = \"notes\"\n[[place]]\nid = \"notes\"\nlevel = \"project\"\nfiles = [\".n/**/*.md\"]\nheader = \"yaml\"\n[place.keys]\n\
         paths = \"covers\"\n[[place.decide]]\nkey = \"covers\"\npresent = true\nreach = \"scoped\"\n",
    ),
    (
        "guidance/profiles/folders.toml",
        "name = \"folders\"\n[[place]]\nid = \"own\"\nlevel = \"folder\"\nfiles = [\"FOLDER.md\"]\n",
    ),
    (
        "guidance/profiles/sheet.toml",
        "name = \"sheet\"\n[[place]]\nid = \"own\"\nlevel = \"project\"\nfiles = [\"SHEET.txt\"]\n",
    ),
];

fn tree(files: &Files) -> MemoryTree {
    files.iter().fold(MemoryTree::new(), |tree, (path, text)| tree.with(path, text.as_str()))
}

/// Publishes, and gives what there was to do.
fn publish(files: &mut Files) -> Status {
    let tree = tree(files);
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let profiles: Vec<_> = workspace.profiles.iter().filter(|profile| profile.name != "agents-md").collect();
    let plan = plan(&workspace, &project, &profiles).unwrap();
    let status = status(&tree, &plan, &workspace.lock().unwrap(), &[]).unwrap();
    if status.refused.is_empty() {
        for change in status.pending() {
            match &change.new {
                Some(Content::Text(text)) => drop(files.insert(change.path.to_string(), text.clone())),
                _ => drop(files.remove(change.path.as_str())),
            }
        }
        files.insert("signpost.lock".into(), status.lock.to_text());
    }
    status
}

/// A rule's file and text.
fn rule() -> impl Strategy<Value = (String, String)> {
    let body = prop_oneof![
        Just("- Sand the boards\n- Oil the boards\n- Wax the boards\n"),
        Just("# In Rust\n\n- Never hurry\n- Ask twice\n"),
        Just("Keep it cold.\n\n## Later\n\n- Warm it\n\nThen stop.\n"),
    ];
    let header =
        prop_oneof![Just(""), Just("+++\npaths = [\"*.rs\"]\n+++\n\n"), Just("+++\npaths = [\"web/**\"]\n+++\n")];
    (prop_oneof![Just("a"), Just("b"), Just("c/d")], header, body)
        .prop_map(|(name, header, body)| (format!("guidance/rules/{name}.md"), format!("{header}{body}")))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn edits_are_absorbed_or_refused_whole(
        rules in prop::collection::vec(rule(), 1..4),
        (file, line, kind) in (0usize..8, 0usize..40, 0usize..3),
        (other_file, other_line) in (0usize..8, 0usize..40),
    ) {
        let mut files: Files = [("main.rs", ""), ("web/app.ts", ""), ("x.md", "")].map(|(a, b)| (a.into(), b.into())).into();
        files.extend(PROFILES.map(|(path, text)| (path.into(), text.into())));
        files.insert("signpost.toml".into(), "[project]\nassistants = [\"notes\", \"folders\", \"sheet\"]\n".into());
        files.extend(rules);
        prop_assert!(publish(&mut files).refused.is_empty());
        let published: Vec<String> = Lock::parse(&files["signpost.lock"]).unwrap().file.into_iter().map(|file| file.path.to_string()).collect();
        let edit = |text: &str, line: usize, kind: usize| {
            let mut lines: Vec<&str> = text.lines().collect();
            let at = line % lines.len();
            match kind {
                0 => lines.insert(at + 1, "- Sing while you work"),
                1 => lines[at] = "- Whistle while you work",
                _ => drop(lines.remove(at)),
            }
            format!("{}\n", lines.join("\n"))
        };
        for (file, line, kind) in [(file, line, kind), (other_file, other_line, 0)] {
            let name = &published[file % published.len()];
            let text = edit(&files[name], line, kind);
            files.insert(name.clone(), text);
        }
        let before = files.clone();
        let done = absorb(&Workspace::open(&tree(&files), &[]).unwrap(), &[], &[], &|_, _| None).unwrap();
        // Every edited file is either absorbed or named, and no rule is changed for one that is only named.
        let lock = Lock::parse(&files["signpost.lock"]).unwrap();
        for name in &published {
            let path = RepoPath::new(name).unwrap();
            let edited = !lock.records(&path, files[name].as_bytes());
            let absorbed = done.files.iter().any(|(own, _)| *own == path);
            let conflict = done.conflicts.iter().any(|conflict| conflict.file == path);
            prop_assert_eq!(edited, absorbed || conflict);
            prop_assert!(!(absorbed && conflict));
        }
        prop_assert!(!done.files.is_empty() || done.rules.is_empty());
        for rule in &done.rules {
            prop_assert_eq!(&files[rule.path.as_str()], &rule.old);
            files.insert(rule.path.to_string(), rule.new.clone());
        }
        if !done.conflicts.is_empty() {
            return Ok(());
        }
        let mut lock = lock;
        for (path, hash) in &done.files {
            lock.file.iter_mut().filter(|file| file.path == *path).for_each(|file| file.hash.clone_from(hash));
        }
        files.insert("signpost.lock".into(), lock.to_text());
        let status = publish(&mut files);
        prop_assert!(status.refused.is_empty(), "{:?}", status.refused);
        // What somebody wrote into a file is still told there.
        for (path, _) in &done.files {
            for words in ["Sing while you work", "Whistle while you work"] {
                // An edit of another file's header may have moved the rule; then it is told elsewhere.
                let told = files.get(path.as_str()).map_or_else(|| files.values().any(|text| text.contains(words)), |is| is.contains(words));
                prop_assert!(told || !before[path.as_str()].contains(words), "{:?} is lost from {}", words, path);
            }
        }
        // And then there is nothing left to do.
        prop_assert!(publish(&mut files).is_clean());
        let again = absorb(&Workspace::open(&tree(&files), &[]).unwrap(), &[], &[], &|_, _| None).unwrap();
        prop_assert!(again.files.is_empty() && again.conflicts.is_empty());
    }
}
