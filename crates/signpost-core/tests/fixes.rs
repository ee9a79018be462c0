//! What holds for every fix, baseline and pair of rules.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::check::baseline::Baseline;
use signpost_core::check::{Finding, fix};
use signpost_core::files::MemoryTree;
use signpost_core::header::{Header, HeaderStyle, Key, Value};
use signpost_core::project::workspace::Workspace;
use signpost_core::resolve::brief::{Question, resolve};
use std::collections::BTreeMap;

/// The findings of `AGENTS.md`, and what is asked of them.
fn with_findings<T>(files: &[(&str, &str)], ask: impl FnOnce(&Workspace<'_>, Vec<Finding>) -> T) -> T {
    let tree = files.iter().fold(MemoryTree::new().with("src/a.ts", ""), |tree, (path, text)| tree.with(path, *text));
    crate::common::lint(&tree, ask)
}

/// Lines that have fixes, and lines that have none.
fn line() -> impl Strategy<Value = &'static str> {
    prop_oneof![
        Just("- Please run the tests"),
        Just("- Sand it!!"),
        Just("- Keep the ink dark and cold"),
        Just("- a\u{200b}b"),
        Just("- Use сurl"),
        Just(""),
        Just("# Ink"),
        Just("  - please do"),
        Just("<!-- signpost: allow wording — why -->"),
        Just("Plain words, kindly meant."),
        Just("```"),
        Just("1. Please"),
        Just("- Please"),
        Just("> Please run it"),
    ]
}

/// Applies fixes until there are none, as the command does.
fn mended(text: &str) -> (String, usize) {
    let mut text = text.to_owned();
    for round in 0..16 {
        let (next, number) = with_findings(&[("AGENTS.md", &text)], |_, findings| {
            fix::apply(&text, &findings.iter().filter(|one| !one.fix.is_empty()).collect::<Vec<_>>())
        });
        if number == 0 {
            return (next, round);
        }
        text = next;
    }
    panic!("it never ends: {text:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// Mending ends, changes nothing the second time, and leaves line ends, the mark and the last byte alone.
    #[test]
    fn fixes_come_to_an_end(lines in prop::collection::vec(line(), 0..12), crlf: bool, mark: bool, last: bool) {
        let end = if crlf { "\r\n" } else { "\n" };
        let mut text = lines.join(end);
        if last {
            text.push_str(end);
        }
        if mark {
            text.insert(0, '\u{feff}');
        }
        let (fixed, _) = mended(&text);
        prop_assert_eq!(mended(&fixed), (fixed.clone(), 0));
        prop_assert_eq!(fixed.starts_with('\u{feff}'), mark);
        prop_assert_eq!(fixed.matches("\r\n").count() == fixed.matches('\n').count(), crlf || !fixed.contains('\n'));
        // No line that has nothing to mend is changed.
        for kept in ["# Ink", "> Please run it"] {
            let count = |text: &str| text.lines().filter(|line| line.trim_start_matches('\u{feff}') == kept).count();
            prop_assert_eq!(count(&text), count(&fixed), "{:?} {:?}", text, fixed);
        }
    }

    /// Quoting a value of a header never changes what is read.
    #[test]
    fn quoted_values_read_the_same(raw in prop_oneof![
        "[*!&@%a-c.,{}/ \\[\\]#:'\"~|>-]{0,12}",
        "\\[[*!a-c.,{}/ '\"#:-]{0,10}\\]?",
    ]) {
        let text = format!("---\nfirst: one\ncovers: {raw}\n---\nWords.\n");
        let read = |text: &str| {
            let header = Header::read(text, HeaderStyle::Yaml);
            let words = |key: &Key| match &key.value {
                Value::List(items) => items.iter().map(|item| item.text.clone()).collect(),
                Value::Scalar(scalar) => vec![scalar.text.clone()],
                Value::Nothing | Value::Table => Vec::new(),
            };
            let lists = |key: &Key| matches!(key.value, Value::List(_));
            (header.keys.iter().map(|key| (key.name.clone(), lists(key), words(key))).collect::<Vec<_>>(), header.problems)
        };
        let (before, problems) = read(&text);
        for problem in problems {
            if let Some(right) = problem.fix {
                let mut fixed = text.clone();
                fixed.replace_range(problem.span, &right);
                let (after, problems) = read(&fixed);
                prop_assert_eq!(&before, &after, "{:?}", fixed);
                prop_assert!(problems.is_empty(), "{:?}", fixed);
            }
        }
    }

    /// What a baseline recorded is known wherever it moves; what it did not record is not.
    #[test]
    fn baselines_know_what_they_recorded(lines in prop::collection::vec(line(), 0..10), above in 0usize..5) {
        let text = lines.join("\n");
        let moved = format!("{}{text}", "A line of words above\n\n".repeat(above));
        let record = with_findings(&[("AGENTS.md", &text)], |workspace, findings| {
            Baseline::record(&findings, &|finding| workspace.document(&finding.location))
        });
        prop_assert_eq!(&Baseline::parse("b", &serde_json::to_string(&record).unwrap()).unwrap(), &record);
        let number = record.findings.len();
        with_findings(&[("AGENTS.md", &text)], |workspace, mut findings| {
            let (taken, gone) = record.apply(&mut findings, &|finding| workspace.document(&finding.location));
            assert!(findings.is_empty() && taken == number && gone == 0);
        });
        // Text above can only take findings away, where it makes a block of what was none.
        with_findings(&[("AGENTS.md", &moved)], |workspace, mut findings| {
            record.apply(&mut findings, &|finding| workspace.document(&finding.location));
            let same = findings.iter().filter(|one| !one.check.starts_with("allowance/") && !one.check.starts_with("consistency/")).count();
            assert_eq!(same, 0, "{findings:?}");
        });
    }

    /// Which of two directives stands first changes where a contradiction is shown, not whether.
    #[test]
    fn contradictions_do_not_depend_on_the_order(one in 0usize..12, other in 0usize..12) {
        let directives = [
            "Indent with tabs.", "Use two spaces for indentation.", "Use pnpm.", "Run `npm test` first.", "Never use npm.", "Name files in kebab-case.",
            "Files are named in snake_case.", "Wrap lines at 80 characters.", "Lines are at most 100 characters long.", "Never use `unwrap()`.", "Use `unwrap()`.", "Commit lockfiles.",
        ];
        let fires = |first: &str, second: &str| {
            with_findings(&[("AGENTS.md", &format!("- {first}\n- {second}\n"))], |_, findings| {
                findings.iter().filter(|one| one.check == "consistency/contradiction").count()
            })
        };
        prop_assert_eq!(fires(directives[one], directives[other]), fires(directives[other], directives[one]));
        prop_assert!(one != other || fires(directives[one], directives[other]) == 0);
    }
}

/// Of each assistant and file, the rules that are loaded, offered and callable.
type Told = Vec<(String, String, Vec<(String, &'static str)>)>;

fn told(tree: &MemoryTree) -> Told {
    let workspace = Workspace::open(tree, &[]).unwrap();
    let mut told = Vec::new();
    for file in ["src/a.ts", "src/b.tsx", "src/C.ts", "lib/d/e.rs", "lib/.f.ts", "g{h.ts", "top.rs"] {
        let question = Question { files: vec![RepoPath::new(file).unwrap()], start: RepoPath::root() };
        for profile in &workspace.profiles {
            let brief = resolve(&workspace, profile, &question, None).unwrap();
            let entries = brief.entries.iter().map(|entry| (entry.path.to_string(), entry.state.word())).collect();
            told.push((profile.name.clone(), file.to_owned(), entries));
        }
    }
    told
}

const NOTES: &str = "name = \"n\"\n[[place]]\nid = \"notes\"\nlevel = \"folder\"\nfiles = [\".n/*.md\"]\nheader = \"yaml\"\nbase = \"folder\"\n\
    [place.keys]\nsummary = \"about\"\npaths = \"covers\"\nexcept = \"skips\"\n[[place.decide]]\nkey = \"load\"\nis = \"each\"\nreach = \"standing\"\n\
    [[place.decide]]\nkey = \"covers\"\npresent = true\nreach = \"scoped\"\n";

fn pattern() -> impl Strategy<Value = &'static str> {
    prop::sample::select(vec![
        "*.ts", "[!A-Z]*.ts", "*.{ts,tsx}", "src/**", "src/**/*.ts", "**/*.ts", "**", "*", "?.ts", "lib/**", "/top.rs",
        "lib/", "{src,lib}/**", "src/{a,b}.*", "g{h.ts", "[a-z]*", "!src/a.ts", "./*.rs", "a b.ts", "*", "**/",
        "src/*",
    ])
}

/// A header as people write it: values bare, quoted, listed in brackets or line by line.
fn header() -> impl Strategy<Value = String> {
    let value = || {
        (prop::collection::vec(pattern(), 1..5), 0usize..5).prop_map(|(patterns, form)| {
            let quoted = |mark: &str| patterns.iter().map(|one| format!("{mark}{one}{mark}")).collect::<Vec<_>>();
            match form {
                0 => format!("[{}]", quoted("").join(", ")),
                1 => format!("[{}]", quoted("\"").join(",")),
                2 => format!("\n{}", quoted("").iter().map(|one| format!("  - {one}\n")).collect::<String>())
                    .trim_end()
                    .to_owned(),
                3 => quoted("").join(", "),
                _ => format!("\n{}", quoted("'").iter().map(|one| format!("- {one}\n")).collect::<String>())
                    .trim_end()
                    .to_owned(),
            }
        })
    };
    (
        value(),
        prop::option::of(value()),
        prop::sample::select(vec!["", "load: each\n", "about: *x\n", "load: no # why\n"]),
    )
        .prop_map(|(covers, skips, more)| {
            let skips = skips.map(|skips| format!("skips: {skips}\n")).unwrap_or_default();
            format!("---\n{more}covers: {covers}\n{skips}---\n")
        })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// A fix never changes which rules reach which file.
    #[test]
    fn fixes_change_no_brief(headers in prop::collection::vec(header(), 1..4), lines in prop::collection::vec(line(), 0..8)) {
        let mut files: BTreeMap<String, String> = BTreeMap::new();
        for (number, header) in headers.iter().enumerate() {
            let folder = ["", "src/", "lib/"][number % 3];
            files.insert(format!("{folder}.n/{number}.md"), format!("{header}\n{}\n", lines.join("\n")));
        }
        let tree = |files: &BTreeMap<String, String>| {
            let sources = ["src/a.ts", "src/b.tsx", "src/C.ts", "lib/d/e.rs"].iter().fold(MemoryTree::new(), |tree, path| tree.with(path, ""));
            let tree = sources.with("guidance/profiles/n.toml", NOTES);
            files.iter().fold(tree, |tree, (path, text)| tree.with(path, text.as_str()))
        };
        let before = told(&tree(&files));
        for _ in 0..8 {
            let mut changed = false;
            let fixed: Vec<(String, String)> = crate::common::lint(&tree(&files), |_, findings| {
                files.iter().map(|(path, text)| {
                    let own: Vec<&Finding> = findings.iter().filter(|one| one.is_fixable() && one.location.to_string() == *path).collect();
                    let (fixed, number) = fix::apply(text, &own);
                    changed |= number > 0;
                    (path.clone(), fixed)
                }).collect()
            });
            files.extend(fixed);
            if !changed {
                break;
            }
        }
        prop_assert_eq!(before, told(&tree(&files)), "{:?}", files);
    }
}
