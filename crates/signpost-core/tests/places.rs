//! Which file publishing gives a rule in each kind of place, how the header there says what the guidance says, and what is
//! lost. One picture a profile: what each rule becomes.

#![allow(clippy::unwrap_used)]

use signpost_core::change::publish::{Content, plan};
use signpost_core::files::MemoryTree;
use signpost_core::project::workspace::Workspace;

/// One rule of each reach, scopes of each form, one in a part of the project, one for this assistant alone.
const RULES: &[(&str, &str)] = &[
    ("guidance/rules/always.md", "- Keep the ink dry.\n"),
    ("guidance/rules/rust.md", "+++\npaths = [\"*.rs\"]\n+++\n\n- Keep names short.\n"),
    (
        "guidance/rules/views.md",
        "+++\nsummary = \"Views: of tables\"\npaths = [\"kiosk/**\", \"web/**/*.{ts,tsx}\"]\nexcept = [\"kiosk/old/**\"]\n+++\n\n- Label it.\n",
    ),
    ("guidance/rules/one.md", "+++\npaths = [\"/main.rs\"]\n+++\n\n- Keep it short.\n"),
    ("guidance/rules/folder.md", "+++\npaths = [\"ledger/**\"]\n+++\n\n# Ledger\n\n- Append only.\n"),
    ("guidance/rules/offered.md", "+++\nsummary = \"How to cut a release\"\nreach = \"offered\"\n+++\n\n- Tag it.\n"),
    ("guidance/rules/called.md", "+++\nsummary = \"Tell a joke\"\nreach = \"called\"\n+++\n\n- Be funny.\n"),
    ("guidance/rules/deep/er.md", "- Deep.\n"),
    ("kiosk/guidance/rules/part.md", "- Only in the kiosk.\n"),
    ("kiosk/guidance/rules/screens.md", "+++\npaths = [\"*.ts\"]\n+++\n\n- Only its screens.\n"),
    ("guidance/rules/others.md", "+++\nassistants = [\"agents-md\"]\n+++\n\n- Not for us.\n"),
];

const SOURCES: &[&str] =
    &["main.rs", "src/lib.rs", "kiosk/a.ts", "kiosk/old/b.ts", "kiosk/c.css", "web/d.tsx", "ledger/e.sql"];

/// What each file would hold, and what is lost.
fn published(profile: &str) -> String {
    published_with(profile, "")
}

fn published_with(profile: &str, settings: &str) -> String {
    let profile = format!("name = \"us\"\ntitle = \"Us\"\n{profile}");
    let mut tree = MemoryTree::new()
        .with("guidance/profiles/us.toml", profile.as_str())
        .with("signpost.toml", format!("[project]\nassistants = [\"us\"]\n{settings}"));
    tree = SOURCES.iter().fold(tree, |tree, path| tree.with(path, ""));
    tree = RULES.iter().fold(tree, |tree, (path, text)| tree.with(path, *text));
    let workspace = Workspace::open(&tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let us = workspace.profiles.iter().find(|profile| profile.name == "us").unwrap();
    let plan = plan(&workspace, &project, &[us]).unwrap();
    let mut out = String::new();
    for file in &plan.files {
        let Content::Text(text) = &file.content else { panic!("{} is a link", file.path) };
        out += &format!("===== {}\n{text}\n", file.path);
    }
    for loss in &plan.losses {
        let file = loss.file.as_ref().map_or_else(|| "nowhere".to_owned(), ToString::to_string);
        out +=
            &format!("{} {} -> {file}: meant for {}, told of {}\n", loss.kind.name(), loss.rule, loss.meant, loss.told);
    }
    for unpublished in &plan.unpublished {
        out += &format!("unpublished {}: {}\n", unpublished.rule, unpublished.why);
    }
    out
}

const YAML: &str = r#"
header = "yaml"
[place.keys]
summary = "about"
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
[[place.decide]]
key = "about"
present = true
reach = "offered"
"#;

fn notes(level: &str, base: &str) -> String {
    format!(
        "[[place]]\nid = \"notes\"\nlevel = \"{level}\"\nfiles = [\".us/**/*.md\"]\nbase = \"{base}\"\nreach = \"called\"\n{YAML}"
    )
}

const SHEET: &str = "[[place]]\nid = \"sheet\"\nlevel = \"project\"\nfiles = [\"US.md\"]\n";
const FOLDERS: &str = "[[place]]\nid = \"folders\"\nlevel = \"folder\"\nfiles = [\"US.md\"]\n";

macro_rules! pictured {
    ($($(#[$doc:meta])* $name:ident: $profile:expr;)*) => {
        $($(#[$doc])* #[test] fn $name() { insta::assert_snapshot!(published(&$profile)); })*
    };
}

pictured! {
    /// All in one file, under headings that say what each part is for.
    one_sheet: SHEET;
    one_sheet_with_a_limit: format!("{SHEET}[limits]\nfile_bytes = 300\n");
    a_file_in_any_folder: FOLDERS;
    only_the_nearest_is_read: format!("nested = \"nearest\"\n{FOLDERS}");
    only_where_the_conversation_starts: format!("loads = \"start\"\n{FOLDERS}");
    notes_at_the_root: notes("project", "root");
    notes_in_any_folder_that_count_from_it: notes("folder", "folder");
    notes_in_any_folder_that_count_from_the_root: notes("folder", "root");
    notes_without_exceptions: notes("project", "root").replace("except = \"skips\"\n", "");
    notes_that_exclude_by_a_sign: notes("project", "root").replace("except = \"skips\"\n", "") + "[place.patterns]\nnegate = true\n";
    notes_without_braces: notes("project", "root") + "[place.patterns]\nbraces = false\n";
    notes_with_one_string: notes("project", "root") + "[place.patterns]\nlist = \"comma\"\n";
    notes_with_lists_only: notes("project", "root") + "[place.patterns]\nlist = \"array\"\n";
    notes_where_bare_names_are_anchored: notes("project", "root") + "[place.patterns]\nbare = \"anchored\"\n";
    notes_with_toml: notes("project", "root").replace("\"yaml\"", "\"toml\"");
    notes_by_absence: notes("project", "root").replace("reach = \"called\"", "reach = \"standing\"").replace("key = \"load\"\nis = \"each\"\nreach = \"standing\"", "key = \"mode\"\nis = \"by hand\"\nreach = \"called\"");
    notes_of_numbers_and_flags: notes("project", "root").replace("is = \"each\"", "is = true").replace("key = \"load\"", "key = \"always\"");
    a_folder_a_note: notes("project", "root").replace(".us/**/*.md", ".us/kits/*/NOTE.md");
    notes_beside_a_sheet: format!("{SHEET}{}", notes("project", "root"));
    folders_beside_notes: format!("{FOLDERS}{}", notes("project", "root"));
    first_of_two_names: FOLDERS.replace("[\"US.md\"]", "[\"US.own.md\", \"US.md\"]\npick = \"first\"");
    called_place_beside_a_sheet: format!("{SHEET}[[place]]\nid = \"commands\"\nlevel = \"project\"\nfiles = [\".us/do/*.md\"]\nkind = \"called\"\n");
    /// Nobody publishes there.
    personal_copies_and_roles: "[[place]]\nid = \"mine\"\nlevel = \"project\"\nfiles = [\"US.mine.md\"]\npersonal = true\n[[place]]\nid = \"crew\"\nlevel = \"project\"\nfiles = [\".us/crew/*.md\"]\nkind = \"role\"\n[[place]]\nid = \"home\"\nlevel = \"user\"\nfiles = [\".us/US.md\"]\n";
}

/// Where it is wanted, a remark says where to edit: in the header, above the text, or below it where there is little room.
#[test]
fn a_remark_says_where_to_edit() {
    let pictures: String = [SHEET.to_owned(), format!("{SHEET}[limits]\nfile_bytes = 300\n"), notes("project", "root")]
        .iter()
        .map(|profile| published_with(profile, "[publish]\nremark = true\n"))
        .collect();
    assert_eq!(
        pictures.matches("edit it there, then run").count() + pictures.matches("edit them there, then run").count(),
        12
    );
    insta::assert_snapshot!(pictures);
}
