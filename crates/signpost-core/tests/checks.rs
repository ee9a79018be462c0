//! Checks against texts in memory: what fires, what stays silent, and what is said.

#![allow(clippy::unwrap_used)]

use signpost_core::check::Finding;
use signpost_core::files::MemoryTree;

/// Findings in a project with the assistant `quill`, whose place `lore` has this dialect and header.
fn findings(header: &str, patterns: &str, files: &[(&str, &str)]) -> Vec<Finding> {
    let profile = format!(
        r#"name = "quill"
title = "Quill"
[[place]]
id = "lore"
level = "folder"
files = [".quill/*.md"]
header = "{header}"
base = "folder"
reach = "called"
[place.keys]
summary = "gist"
paths = "where"
except = "save"
[[place.decide]]
key = "always"
is = true
reach = "standing"
[[place.decide]]
key = "mode"
is = "often"
reach = "standing"
[[place.decide]]
key = "mode"
is = "pick"
reach = "offered"
[[place.decide]]
key = "where"
present = true
reach = "scoped"
[place.patterns]
{patterns}
"#
    );
    let mut tree = MemoryTree::new()
        .with("guidance/profiles/quill.toml", profile)
        .with("src/main.rs", "")
        .with("src/web/a.ts", "");
    for (path, text) in files {
        tree = tree.with(path, *text);
    }
    crate::common::lint(&tree, |_, findings| findings)
}

/// `check: message` of what is found in one rule with that header.
fn said(patterns: &str, keys: &str) -> Vec<String> {
    let text = format!("---\n{keys}\n---\n- Be kind to the ink\n");
    let found = findings("yaml", patterns, &[(".quill/a.md", &text)]);
    let of_header =
        found.iter().filter(|finding| finding.check.starts_with("header/") || finding.check.starts_with("scope/"));
    of_header.map(|finding| format!("{}: {} ({})", finding.check, finding.message, finding.help)).collect()
}

/// Each row: the dialect, the header's lines, and how each finding begins.
#[test]
fn headers_are_checked_against_the_profile() {
    let rows: &[(&str, &str, &[&str])] = &[
        ("", "where: \"src/**\"", &[]),
        ("", "where: [\"src/**\", \"*.ts\"]\nsave: \"*.test.ts\"", &[]),
        ("", "always: true", &[]),
        ("", "always: false\nwhere: \"src/**\"", &[]),
        ("", "mode: pick\ngist: How to sharpen a quill", &[]),
        ("list = \"comma\"", "where: \"src/**, *.ts\"", &[]),
        ("list = \"array\"", "where: [\"src/**\"]", &[]),
        (
            "list = \"comma\"",
            "where: [\"src/**\", \"*.ts\"]",
            &["header/wrong-type: `where` is a list, but Quill reads only one string"],
        ),
        (
            "list = \"array\"",
            "where: \"src/**\"",
            &["header/wrong-type: `where` is one string, but Quill reads only a list"],
        ),
        ("", "where: {a: 1}", &["header/wrong-type: `where` is a table"]),
        (
            "",
            "always: yes",
            &["header/wrong-type: `yes` means nothing to Quill here: it knows `true` (did you mean `true`?)"],
        ),
        ("", "always: True", &["header/wrong-type: `True` means nothing"]),
        (
            "",
            "mode: oftn",
            &[
                "header/wrong-type: `oftn` means nothing to Quill here: it knows `often` or `pick` (did you mean `often`?)",
            ],
        ),
        ("", "mode: [often]", &["header/wrong-type: `mode` is a list or table"]),
        ("", "mode: pick", &["header/missing-summary: Quill picks this rule by its summary"]),
        ("", "mode: pick\ngist: [a, b]", &["header/missing-summary:", "header/wrong-type: `gist` is no text"]),
        ("", "were: \"src/**\"", &["header/unknown-key: Quill knows no key `were` (did you mean `where`?)"]),
        (
            "",
            "always: true\nauthor: Nerys",
            &["header/unknown-key: Quill knows no key `author` (the keys it knows here are"],
        ),
        ("", "where: src/**: x", &["header/invalid: not valid YAML", "scope/matches-nothing"]),
        (
            "",
            "where: !x",
            &["header/invalid: not valid YAML: a value that begins with `!`", "scope/unsupported-syntax"],
        ),
        ("", "where:\n\t- \"src/**\"", &["header/invalid: a tab stands where"]),
        ("", "always: true\nalways: true", &["header/invalid: the key `always` stands here a second time"]),
        ("", "where: \"src/[a\"", &["scope/invalid-pattern: `src/[a` takes no file: `[` is never closed"]),
        (
            "braces = false",
            "where: [\"src/{main,lib}.rs\"]",
            &["scope/unsupported-syntax: `src/{main,lib}.rs` takes no file: Quill does not know braces"],
        ),
        ("negate = true", "where: [\"src/**\", \"!*.gen.rs\"]", &[]),
        (
            "",
            "where: \"gone/**\"\nalways: true",
            &["header/conflicting-reach: `where` has no effect: `always: true` makes the rule standing"],
        ),
    ];
    for (patterns, keys, expected) in rows {
        let found = said(patterns, keys);
        assert_eq!(found.len(), expected.len(), "{patterns} {keys:?}: {found:#?}");
        for (found, expected) in found.iter().zip(*expected) {
            assert!(found.starts_with(expected), "{keys:?}: {found} is not {expected}");
        }
    }
}

#[test]
fn toml_headers_are_checked_too() {
    let check = |text: &str| -> Vec<&'static str> {
        findings("toml", "", &[(".quill/a.md", text)]).iter().map(|finding| finding.check).collect()
    };
    assert_eq!(check("+++\nwhere = [\"src/**\"]\n+++\nText\n"), [""; 0]);
    assert_eq!(check("+++\nwhere = src/**\n+++\nText\n"), ["header/invalid"]);
    assert_eq!(check("---\nwhere: src/**\n---\nText\n"), ["header/invalid"], "the other kind of fence");
    assert_eq!(check("\n+++\nwhere = \"src/**\"\n+++\n"), ["header/invalid"]);
}

#[test]
fn patterns_count_from_the_folder_of_the_place() {
    let rule = "---\nwhere: \"src/web/*.ts\"\n---\n- Text of a rule\n";
    let found = findings("yaml", "", &[("src/.quill/a.md", rule)]);
    assert_eq!(found[0].check, "scope/wrong-base");
    assert!(found[0].message.contains("counts from src/"), "{}", found[0].message);
    assert!(found[0].help.contains("`web/*.ts`"), "{}", found[0].help);
}

#[test]
fn a_rule_that_takes_everything_is_standing_in_disguise() {
    for (pattern, fires) in [("**", true), ("**/*", true), ("*", true), ("*.*", false), ("src/**", false)] {
        let found = said("", &format!("where: \"{pattern}\""));
        assert_eq!(
            found.iter().any(|line| line.starts_with("scope/matches-everything")),
            fires,
            "{pattern}: {found:?}"
        );
    }
    let excepted = said("", "where: \"**\"\nsave: \"*.ts\"");
    assert!(excepted.is_empty(), "{excepted:?}");
}

/// Each row: two notes of one assistant, and whether the second repeats the first.
#[test]
fn repetition_is_about_what_is_said_and_to_whom() {
    let rows: &[(&str, &str, bool)] = &[
        ("- Sharpen the quill first.\n", "* sharpen the  Quill first\n", true),
        ("- Sharpen the quill first.\n", "Sharpen the quill first. Then write.\n", true),
        ("- Sharpen the quill first.\n", "- Sharpen the pencil first.\n", false),
        ("- Use `a b`.\n", "- Use `a  c`.\n", false),
        ("- Be brief\n", "- Be brief\n", false),
        ("# Style\n\n- Sharpen the quill first\n", "# Tone\n\n- Sharpen the quill first\n", true),
        ("# Rust\n\n- Sharpen the quill first\n", "# Python\n\n- Sharpen the quill first\n", false),
        ("> - Sharpen the quill first\n", "- Sharpen the quill first\n", false),
        ("    - Sharpen the quill first\n", "- Sharpen the quill first\n", false),
    ];
    for (first, second, fires) in rows {
        let text = |body: &str, more: &str| format!("---\nalways: true\n---\n\n{body}\n{more}\n");
        let (a, b) = (text(first, "- Ink"), text(second, "- Sand"));
        let found = findings("yaml", "", &[(".quill/a.md", &a), (".quill/b.md", &b)]);
        assert_eq!(
            found.iter().any(|finding| finding.check == "consistency/repeated"),
            *fires,
            "{first:?} {second:?}: {found:#?}"
        );
    }
    // Scoped to files that are not the same, the two never meet.
    let rust = "---\nwhere: \"*.rs\"\n---\n- Sharpen the quill first\n- Ink\n";
    let script = "---\nwhere: \"*.ts\"\n---\n- Sharpen the quill first\n";
    assert!(findings("yaml", "", &[(".quill/a.md", rust), (".quill/b.md", script)]).is_empty());
    let both = "---\nwhere: \"src/**\"\n---\n- Sharpen the quill first\n";
    let found = findings("yaml", "", &[(".quill/a.md", rust), (".quill/b.md", both)]);
    assert_eq!(found[0].witness.as_ref().unwrap().as_str(), "src/main.rs");
    // What is offered is told only if it is picked; then it would be there twice.
    let offered = "---\nmode: pick\ngist: When a quill is blunt\n---\n- Sharpen the quill first\n- Sand\n";
    let standing = "---\nalways: true\n---\n- Sharpen the quill first\n";
    assert_eq!(findings("yaml", "", &[(".quill/a.md", standing), (".quill/b.md", offered)]).len(), 1);
}

/// Each row: a text, and how many findings of hidden text.
#[test]
fn hidden_text_is_found_wherever_it_stands() {
    let rows: &[(&str, usize)] = &[
        ("- plain words\n", 0),
        ("- a\u{200b}b\n", 1),
        ("```\ncode\u{202e}\n```\n", 1),
        ("- two\u{200b}\u{200b}\u{2060} in a row\n", 1),
        ("- one\u{200b} and \u{2063}two\n", 2),
        ("<!-- \u{e0041}\u{e0042} -->\n", 1),
        ("<div style=\"display:none\">x</div>\n", 1),
        ("<div style=\"color:green\">x</div>\n", 0),
        ("العربية\u{200f} نص\n", 0),
        ("- x\u{200f}y\n", 1),
        ("- naïve café ½ – “quotes” …\n", 0),
        ("- 👨\u{200d}👩\u{200d}👧 family ❤\u{fe0f}\n", 0),
    ];
    for (text, number) in rows {
        let found = findings("yaml", "", &[("AGENTS.md", text)]);
        let hidden = found.iter().filter(|finding| finding.check == "safety/hidden-text").count();
        assert_eq!(hidden, *number, "{text:?}: {found:#?}");
    }
}

#[test]
fn findings_are_sorted_by_place_and_point_into_the_text() {
    let bad = "---\nwhere: [\"[x\", \"gone/**\"]\nwere: 1\n---\n- Say it once only\n- Say it once only\n";
    let found = findings("yaml", "", &[(".quill/b.md", bad), (".quill/a.md", bad)]);
    let places: Vec<(String, usize)> =
        found.iter().map(|finding| (finding.location.to_string(), finding.span.start)).collect();
    let mut sorted = places.clone();
    sorted.sort();
    assert_eq!(places, sorted);
    assert!(found.iter().all(|finding| bad.get(finding.span.clone()).is_some()));
    assert_eq!(found.iter().filter(|finding| finding.location.to_string() == ".quill/a.md").count(), 4);
}

/// However many directives of however many rules contradict one, each of them is named.
#[test]
fn no_contradiction_is_lost_in_a_crowd() {
    let contradictions = |tree: MemoryTree| {
        crate::common::lint(&tree, |_, found| {
            let found = found.into_iter().filter(|one| one.check == "consistency/contradiction");
            found.map(|one| (one.location.to_string(), one.span.start)).collect::<Vec<_>>()
        })
    };
    for many in [1, 5, 6, 7, 13, 240] {
        // One rule says one thing often, after or before another that says the other.
        let often: String = (0..many).map(|number| format!("Part {number}\n\n- Indent with tabs.\n\n")).collect();
        let tree = || MemoryTree::new().with("x.rs", "").with("guidance/rules/c.md", &*often);
        for (other, late, expected) in [("a", "c", many), ("d", "d", 1)] {
            let found =
                contradictions(tree().with(&format!("guidance/rules/{other}.md"), "- Indent with two spaces.\n"));
            let at = format!("guidance/rules/{late}.md");
            assert_eq!(found.iter().filter(|(file, _)| *file == at).count(), expected, "{many} {other}");
            assert_eq!(found.len(), expected, "nowhere else: {many} {other}");
        }
    }
}

/// Rules for other assistants, and rules that say it only for others, do not crowd out the one that matters.
#[test]
fn rules_that_never_meet_do_not_hide_one_that_does() {
    for many in [5, 6, 7, 13, 600] {
        let mut tree = MemoryTree::new().with("x.rs", "");
        for number in 0..many {
            let text = "+++\nassistants = [\"agents-md\"]\n+++\n- Indent with tabs.\n";
            tree = tree.with(&format!("guidance/rules/a{number:03}.md"), text);
        }
        let tree = tree
            .with("guidance/rules/b.md", "+++\nassistants = [\"other\"]\n+++\n- Indent with tabs.\n")
            .with("guidance/rules/c.md", "+++\nassistants = [\"other\"]\n+++\n- Indent with two spaces.\n");
        let found = crate::common::lint(&tree, |_, found| {
            let found = found.into_iter().filter(|one| one.check == "consistency/contradiction");
            found.map(|one| one.related[0].location.to_string()).collect::<Vec<_>>()
        });
        assert_eq!(found, ["guidance/rules/b.md"], "{many}");
    }
}

/// Rules whose patterns are the same words, but take in what others take out, are rules of two kinds.
#[test]
fn patterns_taken_in_and_out_are_told_apart() {
    let mut tree = MemoryTree::new().with("x.rs", "").with("y.ts", "");
    for number in 0..20 {
        let text = "+++\npaths = [\"*.rs\"]\nexcept = [\"*.ts\"]\n+++\n- Indent with tabs in Rust files.\n";
        tree = tree.with(&format!("guidance/rules/a{number:02}.md"), text);
    }
    // What each of the twenty says of Rust is said of Rust alone, so only the last one speaks of the same things.
    let tree = tree
        .with("guidance/rules/b.md", "+++\npaths = [\"*.rs\", \"*.ts\"]\n+++\n- Indent with tabs in Rust files.\n")
        .with("guidance/rules/c.md", "+++\npaths = [\"*.ts\"]\n+++\n- Indent with two spaces in Rust files.\n");
    let found = crate::common::lint(&tree, |_, found| {
        let found = found.into_iter().filter(|one| one.check == "consistency/contradiction");
        found.map(|one| one.related[0].location.to_string()).collect::<Vec<_>>()
    });
    assert_eq!(found, ["guidance/rules/b.md"]);
}

/// Many contradictions of one sort beside a directive do not hide one of another sort.
#[test]
fn an_override_is_said_beside_contradictions() {
    let profile = "name = \"q\"\norder = [\"project\", \"folder\"]\nconflict = \"later-wins\"\n[[place]]\nid = \"p\"\nlevel = \"project\"\nfiles = [\"P.md\"]\n\
         [[place]]\nid = \"f\"\nlevel = \"folder\"\nfiles = [\"F.md\"]\n";
    let tree = MemoryTree::new()
        .with("guidance/profiles/q.toml", profile)
        .with("x.rs", "")
        .with("P.md", "- Indent with tabs.\n")
        .with("F.md", "- Indent with tabs.\n".repeat(9) + "- Indent with two spaces.\n");
    crate::common::lint(&tree, |workspace, found| {
        assert!(workspace.profiles.iter().any(|one| one.name == "q"));
        let of = |check: &str| found.iter().filter(|one| one.check == check).count();
        assert_eq!((of("consistency/contradiction"), of("consistency/override")), (1, 1), "{found:?}");
    });
}
