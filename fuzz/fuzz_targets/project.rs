//! A small project in memory, published from whatever texts a fuzzer thinks of.

use signpost_core::change::publish::changes::{Status, status};
use signpost_core::change::publish::{Content, plan};
use signpost_core::files::MemoryTree;
use signpost_core::project::workspace::Workspace;
use std::collections::BTreeMap;

pub type Files = BTreeMap<String, String>;

const PROFILES: [(&str, &str); 3] = [
    (
        "guidance/profiles/notes.toml",
        "name = \"notes\"\n[[place]]\nid = \"notes\"\nlevel = \"project\"\nfiles = [\".n/**/*.md\"]\nheader = \"yaml\"\n[place.keys]\n\
         summary = \"about\"\npaths = \"covers\"\n[[place.decide]]\nkey = \"covers\"\npresent = true\nreach = \"scoped\"\n",
    ),
    (
        "guidance/profiles/folders.toml",
        "name = \"folders\"\n[[place]]\nid = \"own\"\nlevel = \"folder\"\nfiles = [\"FOLDER.md\"]\n",
    ),
    (
        "guidance/profiles/sheet.toml",
        "name = \"sheet\"\n[[place]]\nid = \"own\"\nlevel = \"project\"\nfiles = [\"SHEET.txt\"]\n[limits]\nfile_bytes = 4096\n",
    ),
];

/// A project with some rules.
pub fn project(rules: &[&str]) -> Files {
    let mut files: Files =
        [("main.rs", ""), ("web/app.ts", ""), ("x.md", "")].map(|(a, b)| (a.into(), b.into())).into();
    files.extend(PROFILES.map(|(path, text)| (path.into(), text.into())));
    files.insert("signpost.toml".into(), "[project]\nassistants = [\"notes\", \"folders\", \"sheet\"]\n".into());
    for (number, rule) in rules.iter().enumerate() {
        files.insert(format!("guidance/rules/r{number}.md"), (*rule).to_owned());
    }
    files
}

/// The files as a tree.
pub fn tree(files: &Files) -> MemoryTree {
    files.iter().fold(MemoryTree::new(), |tree, (path, text)| tree.with(path, text.as_str()))
}

/// Publishes, and gives what there was to do; nothing where a rule is refused.
pub fn publish(files: &mut Files) -> Option<Status> {
    let tree = tree(files);
    let workspace = Workspace::open(&tree, &[]).expect("the settings are valid");
    let project = workspace.project().expect("a tree in memory can be listed");
    let profiles: Vec<_> = workspace.profiles.iter().filter(|profile| profile.name != "agents-md").collect();
    let plan = plan(&workspace, &project, &profiles).ok()?;
    let status = status(&tree, &plan, &workspace.lock().expect("the lock is ours"), &[]).expect("all can be read");
    if status.refused.is_empty() {
        for change in status.pending() {
            match &change.new {
                Some(Content::Text(text)) => drop(files.insert(change.path.to_string(), text.clone())),
                _ => drop(files.remove(change.path.as_str())),
            }
        }
        if status.lock.file.is_empty() {
            files.remove("signpost.lock");
        } else {
            files.insert("signpost.lock".into(), status.lock.to_text());
        }
    }
    Some(status)
}

/// The texts that a fuzzer's bytes stand for, cut at a byte that no text holds.
pub fn texts(data: &[u8]) -> Vec<&str> {
    data.split(|byte| *byte == 0xff).map(|part| std::str::from_utf8(part).unwrap_or_default()).collect()
}
