//! What holds for adopting, whatever the files: publishing what was adopted tells every assistant the same about
//! every file, in the same precedence.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use std::collections::BTreeMap;

use signpost_core::base::repo_path::{Location, RepoPath};
use signpost_core::change::adopt::{Adoption, adopt, check};
use signpost_core::change::publish::changes::{Step, status};
use signpost_core::change::publish::{Content, plan};
use signpost_core::directive::Outline;
use signpost_core::files::{MemoryTree, Overlay, Tree};
use signpost_core::header::Header;
use signpost_core::project::lock::Lock;
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Question, State, resolve};

const SOURCES: [&str; 5] = ["main.rs", "src/lib.rs", "web/app.ts", "web/deep/x.test.ts", "docs/a.md"];

/// Notes with scopes in any folder, one file in any folder, and a single sheet; all may contradict each other.
const PROFILES: [(&str, &str); 3] = [
    (
        "guidance/profiles/notes.toml",
        "name = \"notes\"\nconflict = \"later-wins\"\n[[place]]\nid = \"notes\"\nlevel = \"folder\"\nfiles = [\".n/**/*.md\"]\nheader = \"yaml\"\n\
         base = \"folder\"\nreach = \"called\"\n[place.keys]\nsummary = \"about\"\npaths = \"covers\"\nexcept = \"skips\"\n\
         [[place.decide]]\nkey = \"load\"\nis = \"each\"\nreach = \"standing\"\n[[place.decide]]\nkey = \"covers\"\npresent = true\n\
         reach = \"scoped\"\n[[place.decide]]\nkey = \"about\"\npresent = true\nreach = \"offered\"\n",
    ),
    (
        "guidance/profiles/folders.toml",
        "name = \"folders\"\n[[place]]\nid = \"own\"\nlevel = \"folder\"\nfiles = [\"FOLDER.md\"]\n",
    ),
    (
        "guidance/profiles/sheet.toml",
        "name = \"sheet\"\n[[place]]\nid = \"own\"\nlevel = \"project\"\nfiles = [\"SHEET.txt\"]\nformat = \"plain\"\n",
    ),
];

/// A text of sections that files share wholly, in part, or in other words.
fn text() -> impl Strategy<Value = String> {
    let section = prop_oneof![
        Just("## Paint\n\n- Sand the boards\n- Use two coats"),
        Just("## Paint\n\n- Sand the boards\n- Use three coats"),
        Just("## Wood\n\nBuy oak.\n\n```sh\n# cut\nsaw -x\n```"),
        Just("## Wood\n\nBuy ash."),
        Just("# In Rust\n\n## Names\n\n- Short ones"),
        Just("- Answer in Welsh\n- Be on time"),
        Just("- Be on time\n- Answer in Welsh\n  always"),
        Just("# Yard\n\nA boat yard."),
    ];
    prop::collection::vec(section, 1..5).prop_map(|sections| format!("{}\n", sections.join("\n\n")))
}

fn file() -> impl Strategy<Value = (String, String)> {
    let folder = || prop_oneof![2 => Just(""), 1 => Just("web/"), 1 => Just("src/")];
    let header = prop_oneof![
        Just(""),
        Just("---\nload: each\n---\n"),
        Just("---\nabout: Painting\n---\n"),
        Just("---\ncovers: [\"*.ts\"]\nskips: \"*.test.ts\"\n---\n"),
        Just("---\ncovers: \"**/*.{rs,ts}\"\nabout: Code\n---\n"),
    ];
    let name = prop_oneof![Just("a"), Just("b"), Just("sub/c")];
    prop_oneof![
        3 => (folder(), name, header, text())
            .prop_map(|(folder, name, header, text)| (format!("{folder}.n/{name}.md"), format!("{header}{text}"))),
        3 => (folder(), text()).prop_map(|(folder, text)| (format!("{folder}FOLDER.md"), text)),
        1 => text().prop_map(|text| ("SHEET.txt".to_owned(), text)),
        1 => text().prop_map(|text| ("AGENTS.md".to_owned(), text)),
    ]
}

fn project(files: &[(String, String)], nearest: bool) -> MemoryTree {
    let mut tree = SOURCES.iter().fold(MemoryTree::new(), |tree, file| tree.with(file, ""));
    for (file, text) in PROFILES {
        let nearest = nearest && file.ends_with("folders.toml");
        let nested = if nearest { "nested = \"nearest\"\n[[place]]" } else { "[[place]]" };
        tree = tree.with(file, text.replacen("[[place]]", nested, 1));
    }
    files.iter().fold(tree, |tree, (file, text)| tree.with(file, text.as_str()))
}

/// What each assistant is told of each source file: the state and words of each directive, file by file.
fn told(tree: &dyn Tree) -> Vec<Vec<(State, String)>> {
    let workspace = Workspace::open(tree, &[]).unwrap();
    let mut all = Vec::new();
    for profile in &workspace.profiles {
        for source in SOURCES {
            let question = Question { files: vec![RepoPath::new(source).unwrap()], start: RepoPath::root() };
            let brief = resolve(&workspace, profile, &question, None).unwrap();
            let mut told = Vec::new();
            for entry in &brief.entries {
                let style = profile.place(&entry.place).unwrap().header;
                let body = Header::read(&entry.document.text, style).body;
                let outline = Outline::read(&entry.document.text, body);
                told.extend(outline.directives.into_iter().map(|one| (entry.state, one.words.to_string())));
            }
            all.push(told);
        }
    }
    all
}

/// Adopts, publishes, and gives the tree as it is then.
fn after<'t>(tree: &'t MemoryTree, choice: Option<usize>) -> (Overlay<'t>, Adoption, usize) {
    let workspace = Workspace::open(tree, &[]).unwrap();
    let found = workspace.project().unwrap();
    let profiles: Vec<_> = workspace.profiles.iter().collect();
    let adoption = adopt(&workspace, &found, &profiles, &mut |_| choice).unwrap();
    let changes = check(&workspace, &found, &profiles, &adoption).unwrap().changes.len();
    let mut adopted = Overlay::new(tree);
    adoption.rules.iter().for_each(|rule| adopted.write(rule.path.clone(), rule.text.as_bytes()));
    let lock = adoption.lock(&Lock::default());
    adopted.write(RepoPath::new("signpost.lock").unwrap(), lock.to_text());
    let mut published = Overlay::new(tree);
    adoption.rules.iter().for_each(|rule| published.write(rule.path.clone(), rule.text.as_bytes()));
    let workspace = Workspace::open(&adopted, &[]).unwrap();
    let found = workspace.project().unwrap();
    let profiles: Vec<_> = workspace.profiles.iter().collect();
    let plan = plan(&workspace, &found, &profiles).unwrap();
    let status = status(&adopted, &plan, &lock, &[]).unwrap();
    assert!(status.refused.is_empty(), "{:?}", status.refused);
    for change in &status.changes {
        match (&change.new, &change.step) {
            (_, Step::Keep) => {}
            (Some(Content::Text(text)), _) => published.write(change.path.clone(), text.as_bytes()),
            (None, Step::Remove) => published.remove(change.path.clone()),
            other => panic!("{other:?}"),
        }
    }
    published.write(RepoPath::new("signpost.lock").unwrap(), status.lock.to_text());
    (published, adoption, changes)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn everybody_is_told_the_same_as_before(files in prop::collection::vec(file(), 1..7), nearest: bool) {
        let tree = project(&files, nearest);
        let (published, adoption, changes) = after(&tree, None);
        let (before, now) = (told(&tree), told(&published));
        for (before, now) in before.iter().zip(&now) {
            let sorted = |told: &[(State, String)]| {
                let mut told = told.to_vec();
                told.sort();
                told.dedup();
                told
            };
            prop_assert_eq!(sorted(before), sorted(now), "{:#?}", adoption.rules);
        }
        prop_assert_eq!(changes, 0);
        let last: BTreeMap<&str, &str> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
        for (path, text) in last {
            let now = published.read(&Location::root(RepoPath::new(path).unwrap())).unwrap();
            prop_assert_eq!(String::from_utf8_lossy(&now), text, "{}: {:#?}", path, adoption.rules);
        }
        // Nothing is left to adopt.
        let workspace = Workspace::open(&published, &[]).unwrap();
        let found = workspace.project().unwrap();
        let profiles: Vec<_> = workspace.profiles.iter().collect();
        prop_assert!(adopt(&workspace, &found, &profiles, &mut |_| None).unwrap().rules.is_empty());
    }
}

#[test]
fn what_is_told_in_the_same_words_is_one_rule() {
    let same = "## Paint\n\n- Sand the boards\n- Use two coats\n\n## Wood\n\nBuy oak.\n";
    let files = [
        ("AGENTS.md".into(), same.into()),
        ("FOLDER.md".into(), same.into()),
        ("SHEET.txt".into(), same.replace("two coats", "three coats")),
    ];
    let tree = project(&files, false);
    let (_, adoption, _) = after(&tree, None);
    let told: Vec<(&str, usize, bool)> = adoption
        .rules
        .iter()
        .map(|rule| (rule.path.name(), rule.assistants.as_ref().map_or(0, Vec::len), rule.text.contains("two coats")))
        .collect();
    // The notes are told nothing; of the others, one has other words for one item, so that its section is its own.
    assert_eq!(told, [("paint-2.md", 1, false), ("paint.md", 2, true), ("wood.md", 3, false)], "{:#?}", adoption.rules);
    assert!(adoption.rules[1].text.contains("order = 10") && adoption.rules[2].text.contains("order = 30"));
    assert_eq!(adoption.differences.len(), 1);
    assert_eq!(adoption.differences[0].versions[1].own, ["- Use three coats"]);
    // One wording for all.
    let (_, adoption, changes) = after(&tree, Some(0));
    assert_eq!(adoption.rules.len(), 1, "{:#?}", adoption.rules);
    assert!(adoption.rules[0].text.contains("two coats") && changes > 0);
}

/// Of very many places some are left for the next time, and named, and the next time comes.
#[test]
fn very_many_places_are_taken_over_in_turns() {
    let tree = (0..2_010).fold(MemoryTree::new(), |tree, number| {
        tree.with(&format!("d{number}/AGENTS.md"), format!("- Use hinge {number}\n"))
            .with(&format!("d{number}/a.rs"), "")
    });
    let take = |tree: &dyn Tree| {
        let workspace = Workspace::open(tree, &[]).unwrap();
        let project = workspace.project().unwrap();
        let profiles: Vec<_> = workspace.profiles.iter().collect();
        adopt(&workspace, &project, &profiles, &mut |_| None).unwrap()
    };
    let first = take(&tree);
    assert_eq!((first.rules.len(), first.left.len()), (2_000, 10));
    assert!(first.left[0].why.contains("2,000 places are taken over at once"), "{}", first.left[0].why);
    let mut later = Overlay::new(&tree);
    for rule in &first.rules {
        later.write(rule.path.clone(), rule.text.as_bytes());
    }
    later.write(RepoPath::new("signpost.lock").unwrap(), first.lock(&Lock::default()).to_text());
    let second = take(&later);
    assert_eq!((second.rules.len(), second.left.len()), (10, 0));
}
