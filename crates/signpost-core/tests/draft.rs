//! A profile drafted from files that were written for another reads them as that one does.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::change::draft_profile::{Draft, Perhaps, draft, drafted as drafted_for};
use signpost_core::files::MemoryTree;
use signpost_core::profile::{Origin, Profile};
use signpost_core::project::workspace::Workspace;
use std::collections::BTreeMap;

const SOURCES: [&str; 6] = ["a/x.rs", "a/y.py", "b/x.rs", "b/c/z.ts", "c/w.sql", "top.rs"];

/// What a profile makes of the files: reach, and the source files in scope.
fn reading(files: &[(String, String)], profile: &str) -> BTreeMap<String, (String, Vec<&'static str>)> {
    let mut tree = MemoryTree::new().with("guidance/profiles/t.toml", profile);
    for (path, text) in files {
        tree = tree.with(path, text.as_str());
    }
    for source in SOURCES {
        tree = tree.with(source, "");
    }
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let own = workspace.profiles.iter().find(|profile| profile.origin == Origin::Project).unwrap();
    let read = workspace.rules(own, &project).into_iter().map(|rule| {
        let in_scope = SOURCES.into_iter().filter(|source| rule.scope.takes(&RepoPath::new(source).unwrap()));
        (rule.file().to_string(), (rule.reach.word().to_owned(), in_scope.collect()))
    });
    read.collect()
}

fn drafted(files: &[(String, String)]) -> String {
    let mut tree = MemoryTree::new();
    for (path, text) in files {
        tree = tree.with(path, text.as_str());
    }
    for source in SOURCES {
        tree = tree.with(source, "");
    }
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    draft(&workspace, &project, &[]).remove(0).toml
}

#[derive(Clone, Debug)]
struct Shape {
    folder: &'static str,
    ending: &'static str,
    toml: bool,
    base: &'static str,
    in_folders: bool,
    summary: &'static str,
    paths: &'static str,
    except: Option<&'static str>,
    /// The key and value that say "in every conversation", and those for "when named".
    always: Option<(&'static str, &'static str)>,
    comma: bool,
}

fn any_shape() -> impl Strategy<Value = Shape> {
    let pick = |words: &'static [&'static str]| prop::sample::select(words.to_vec());
    (
        pick(&[".zorp/notes", ".quill/lore", ".mado/rules"]),
        pick(&["md", "mdx"]),
        any::<bool>(),
        pick(&["root", "folder"]),
        any::<bool>(),
        pick(&["about", "summary", "gist"]),
        pick(&["covers", "paths", "where"]),
        prop::option::of(pick(&["except", "skips"])),
        prop::option::of(prop::sample::select(vec![("load", "each"), ("always", "true"), ("mode", "every-time")])),
        any::<bool>(),
    )
        .prop_map(|(folder, ending, toml, base, in_folders, summary, paths, except, always, comma)| Shape {
            folder,
            ending,
            toml,
            base,
            in_folders,
            summary,
            paths,
            except,
            always,
            comma,
        })
}

impl Shape {
    fn profile(&self) -> String {
        let mut profile = format!(
            "name = \"t\"\n[[place]]\nid = \"p\"\nlevel = \"{}\"\nfiles = [\"{}/*.{}\"]\nheader = \"{}\"\nbase = \"{}\"\nreach = \"{}\"\n",
            if self.in_folders { "folder" } else { "project" },
            self.folder,
            self.ending,
            if self.toml { "toml" } else { "yaml" },
            self.base,
            if self.always.is_some() { "called" } else { "standing" },
        );
        profile += &format!("[place.keys]\nsummary = \"{}\"\npaths = \"{}\"\n", self.summary, self.paths);
        if let Some(except) = self.except {
            profile += &format!("except = \"{except}\"\n");
        }
        let mut row = |key: &str, condition: String, reach: &str| {
            profile += &format!("[[place.decide]]\nkey = \"{key}\"\n{condition}\nreach = \"{reach}\"\n");
        };
        if let Some((key, value)) = self.always {
            row(key, format!("is = \"{value}\""), "standing");
        }
        row(self.paths, "present = true".into(), "scoped");
        row(self.summary, "present = true".into(), "offered");
        profile
    }

    fn files(&self) -> Vec<(String, String)> {
        let quote = |items: &[&str]| {
            if self.comma {
                format!("\"{}\"", items.join(", "))
            } else {
                format!("[{}]", items.iter().map(|item| format!("\"{item}\"")).collect::<Vec<_>>().join(", "))
            }
        };
        let line = |key: &str, value: String| format!("{key}{} {value}\n", if self.toml { " =" } else { ":" });
        let fence = if self.toml { "+++" } else { "---" };
        let file = |folder: &str, name: &str, lines: String| {
            let text =
                if lines.is_empty() { "- Text\n".to_owned() } else { format!("{fence}\n{lines}{fence}\n- Text\n") };
            (format!("{folder}{}/{name}.{}", self.folder, self.ending), text)
        };
        let except = |lines: String| match self.except {
            Some(except) => lines + &line(except, quote(&["**/*.py"])),
            None => lines,
        };
        let mut files = vec![
            file("", "one", except(line(self.paths, quote(&["a/**", "*.sql"])))),
            file(
                "",
                "two",
                line(self.paths, quote(&["**/*.rs"])) + &line(self.summary, "\"How to write good code\"".into()),
            ),
            file("", "three", line(self.summary, "\"What to do on a bad day\"".into())),
            file("", "four", String::new()),
        ];
        if let Some((key, value)) = self.always {
            let value = if value == "true" { value.to_owned() } else { format!("\"{value}\"") };
            files.push(file(
                "",
                "five",
                line(key, value.clone()) + &line(self.summary, "\"What holds for all of it\"".into()),
            ));
            files.push(file("", "six", line(key, value)));
        }
        if self.in_folders {
            let patterns: [&str; 2] = if self.base == "folder" { ["c/**", "c/*.ts"] } else { ["b/c/**", "b/**/*.ts"] };
            files.push(file("b/", "seven", line(self.paths, quote(&patterns))));
        }
        files
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 250, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn the_draft_reads_files_as_their_own_profile_does(shape in any_shape()) {
        let files = shape.files();
        let draft = drafted(&files);
        Profile::parse("draft.toml", &draft, Origin::Project).unwrap();
        prop_assert_eq!(reading(&files, &draft), reading(&files, &shape.profile()), "{}", draft);
    }
}

/// What stands beside instructions in real projects: pages, forms, fragments for other tools, prose that asks nothing.
const NOISE: [(&str, &str); 8] = [
    ("README.md", "# Shop\n\nUse it. Never break it.\n"),
    ("LICENSE-MIT.md", "Permission is granted to use it.\n"),
    (".forge/ISSUE_TEMPLATE/bug.md", "---\nname: Bug\nabout: Something is wrong here\n---\n\n**What happened?**\n"),
    (".forge/pull_request_template.md", "## What\n\n- [ ] Write a test\n"),
    (".fragments/brave.md", "---\n\"@shop/web\": minor\n---\n\nShow the day.\n"),
    (".decisions/0001-store.md", "# Store\n\nThe store is one file, since that is simple.\n"),
    ("prompts/sum.md", "Sum up {{order}} for a customer.\n"),
    ("docs/guide.md", "# Guide\n\nRun it.\n"),
];

/// A mistake as people make it: the folder in the other number or case, another ending.
fn mistake(shape: &Shape, kind: usize) -> (String, String) {
    let text = shape.files()[0].1.clone();
    let (top, folder) = shape.folder.split_once('/').unwrap();
    let other = folder.strip_suffix('s').map_or_else(|| format!("{folder}s"), str::to_owned);
    let capital = folder[..1].to_uppercase() + &folder[1..];
    let path = match kind {
        0 => format!("{top}/{other}/zz.{}", shape.ending),
        1 => format!("{top}/{capital}/zz.{}", shape.ending),
        _ => format!("{}/zz.{}", shape.folder, if shape.ending == "md" { "txt" } else { "md" }),
    };
    (path, text)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn noise_and_mistakes_change_no_draft(shape in any_shape(), noisy: bool, kind in 0..3usize) {
        let mut files = shape.files();
        let (path, text) = mistake(&shape, kind);
        files.push((path.clone(), text));
        if noisy {
            files.extend(NOISE.map(|(path, text)| (path.to_owned(), text.to_owned())));
        }
        let draft = drafted(&files);
        let read = reading(&files, &draft);
        prop_assert!(!read.contains_key(&path), "{} is a mistake, and no place: {}", path, draft);
        prop_assert_eq!(read, reading(&files, &shape.profile()), "{}", draft);
    }
}

/// What is drafted says which files are mistakes, and a survey with the draft says why.
#[test]
fn mistakes_are_named() {
    let shape = Shape {
        folder: ".quill/lore",
        ending: "md",
        toml: false,
        base: "root",
        in_folders: false,
        summary: "about",
        paths: "covers",
        except: None,
        always: Some(("load", "each")),
        comma: false,
    };
    for kind in 0..3 {
        let mut files = shape.files();
        let (path, text) = mistake(&shape, kind);
        files.push((path.clone(), text));
        let mut tree = MemoryTree::new();
        for (path, text) in &files {
            tree = tree.with(path, text.as_str());
        }
        let workspace = Workspace::open(&tree, &[]).unwrap();
        let drafts = draft(&workspace, &workspace.project().unwrap(), &[]);
        assert_eq!(drafts.len(), 1);
        assert_eq!(drafts[0].misplaced.iter().map(ToString::to_string).collect::<Vec<_>>(), [path.as_str()]);
        let tree = tree.with("guidance/profiles/quill.toml", drafts[0].toml.as_str());
        let workspace = Workspace::open(&tree, &[]).unwrap();
        let project = workspace.project().unwrap();
        let survey = signpost_core::inspect::survey::survey(&workspace, &project, &[]).unwrap();
        assert_eq!(survey.unclaimed.iter().map(|one| one.path.to_string()).collect::<Vec<_>>(), [path]);
    }
}

#[test]
fn pages_of_every_project_are_left_alone() {
    let tree = ["README.md", "CHANGELOG.md", "docs/CONTRIBUTING.md", ".gitignore", ".editorconfig", "src/main.rs"]
        .into_iter()
        .fold(MemoryTree::new(), |tree, path| tree.with(path, "Some words that are prose to read.\n"));
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let drafts = draft(&workspace, &project, &[]);
    assert!(drafts.is_empty(), "{drafts:?}");
}

fn of(files: &[(&str, &str)]) -> (Vec<Draft>, Vec<Perhaps>) {
    let tree = files.iter().fold(MemoryTree::new().with("src/a.rs", ""), |tree, (path, text)| tree.with(path, *text));
    let workspace = Workspace::open(&tree, &[]).unwrap();
    drafted_for(&workspace, &workspace.project().unwrap(), &[])
}

/// Keys without a meaning for Signpost are known where they are more than a stray, with their values where these are few.
#[test]
fn further_keys_of_headers_are_known() {
    let note = |stage: &str, extra: &str| {
        format!("---\nabout: When to use {}\nstage: {stage}\n{extra}---\n\n- Keep the ink dry.\n", extra.trim())
    };
    let texts: Vec<(String, String)> = (0..8)
        .map(|number| {
            let extra = if number == 5 { "stag: final\n".to_owned() } else { format!("n{number}: {number}\n") };
            (format!(".quill/notes/n{number}.md"), note(if number % 2 == 0 { "early" } else { "final" }, &extra))
        })
        .collect();
    let files: Vec<(&str, &str)> = texts.iter().map(|(path, text)| (&**path, &**text)).collect();
    let (drafts, perhaps) = of(&files);
    let known = "[place.known]\nstage = { values = [\"early\", \"final\"], required = true }\n";
    assert!(drafts[0].toml.contains(known), "{}", drafts[0].toml);
    assert!(!drafts[0].toml.contains("stag ="), "a misspelt key is none: {}", drafts[0].toml);
    assert_eq!(perhaps, []);
}

/// Roles say their name, tools and model; what is called has an ending like the other files of its assistant, and no header.
#[test]
fn roles_and_called_files_are_read_for_what_they_are() {
    let note = "---\nabout: When to mix\ncovers: \"*.rs\"\n---\n\n- Keep the ink dry.\n";
    let role =
        "---\nabout: Reads with care\nname: reader\ntools: [read]\nmodel: large\n---\n\nYou are a careful reader.\n";
    let called = "Cut release $VERSION:\n\n1. Write the notes of the release.\n2. Tag it and push the tag.\n";
    let (drafts, _) = of(&[
        (".quill/notes/a.ql", note),
        (".quill/notes/b.ql", note),
        (".quill/notes/c.ql", note),
        (".quill/crew/reader.ql", role),
        (".quill/asks/release.ql", called),
    ]);
    let toml = &drafts[0].toml;
    for part in
        ["kind = \"role\"", "kind = \"called\"", "name = \"name\"\n", "tools = \"tools\"\n", "model = \"model\"\n"]
    {
        assert!(toml.contains(part), "{part}: {toml}");
    }
}

/// Booleans in the words of any YAML: the key's name says what they are for.
#[test]
fn yes_is_true_to_some() {
    for word in ["yes", "on", "True", "true"] {
        let first = format!("---\nabout: How we commit here\nalways: {word}\n---\n\n- Write why.\n");
        let second = "---\nabout: How we paint here\ncovers: \"*.rs\"\n---\n\n- Keep the ink dry.\n";
        let (drafts, _) = of(&[(".quill/notes/a.md", &first), (".quill/notes/b.md", second)]);
        let row = format!("key = \"always\"\nis = \"{word}\"\nreach = \"standing\"\n");
        assert!(drafts[0].toml.contains(&row), "{word}: {}", drafts[0].toml);
        assert_eq!(drafts[0].toml.contains("if it reads that as true"), matches!(word, "yes" | "on"), "{word}");
    }
}

/// What could be an instruction and is in no draft is said, and what a program reads is not.
#[test]
fn what_is_left_out_for_want_of_proof_is_named() {
    let note = "---\nabout: When to mix\ncovers: \"*.rs\"\n---\n\n- Keep the ink dry.\n";
    let (drafts, perhaps) = of(&[
        (".quill/notes/a.md", note),
        (".quill/notes/b.md", note),
        (".quill/prompt.qx", "Write the summary of all changes\nKeep it below ten lines of text\n"),
        (".quill/settings.json", "{\"model\": \"the large one of them\"}\n"),
        (
            "UNICODE.md",
            "# Letters\n\n- Letters must be folded before they are compared.\n- Two marks must not be split.\n",
        ),
    ]);
    assert_eq!(drafts.len(), 1);
    let named: Vec<String> = perhaps.iter().map(|one| one.path.to_string()).collect();
    assert_eq!(named, [".quill/prompt.qx", "UNICODE.md"], "{perhaps:?}");
}

/// What nothing but the README beside it calls an assistant's is perhaps one.
#[test]
fn a_file_that_only_a_readme_names_is_perhaps_one() {
    let (drafts, perhaps) = of(&[
        (
            "tools/README.md",
            "# Tools\n\nThe agent reads `habits.md`; people read [the manual](manual.md).\nThe assistant starts with [this](./first.md).\n",
        ),
        ("tools/habits.md", "- Keep the ink dry.\n"),
        ("tools/manual.md", "# Manual\n"),
        ("tools/first.md", "- Look at the kiln first.\n"),
        ("README.md", "The AI reads `AGENTS.md` and `gone.md`.\n"),
        ("AGENTS.md", "- Keep it short.\n"),
    ]);
    assert_eq!(drafts.len(), 0);
    let named: Vec<String> = perhaps.iter().map(|one| one.path.to_string()).collect();
    assert_eq!(named, ["tools/first.md", "tools/habits.md"], "{perhaps:?}");
}

/// A copy of one's own is known by its name, also where it has no ending but that.
#[test]
fn local_copies_are_personal() {
    let text = "You work on a small shop.\n\n- Keep the till closed at night.\n- Never log the card numbers.\n";
    let (drafts, _) = of(&[(".quillrules", text), (".quillrules.local", "- Speak with me in Dutch only.\n")]);
    assert!(drafts[0].toml.contains("files = [\".quillrules.local\"]\npersonal = true"), "{}", drafts[0].toml);
}
