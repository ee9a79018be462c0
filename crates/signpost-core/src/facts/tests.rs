use super::sources::formats::json;
use super::*;
use crate::files::MemoryTree;

fn facts(files: &[(&str, &str)], ask: impl FnOnce(&Facts<'_>)) {
    let tree = files.iter().fold(MemoryTree::new(), |tree, (path, text)| tree.with(path, *text));
    let index = tree.index().unwrap();
    ask(&Facts::read(&tree, &index));
}

#[test]
fn manifests_and_lockfiles_state_versions() {
    facts(
        &[
            (
                "kiosk/package.json",
                "{\n \"scripts\": {\n  \"lint\": \"x\"\n },\n \"dependencies\": {\"react\": \"^18.0.0\"}\n}\n",
            ),
            ("pnpm-lock.yaml", "packages:\n\n  react@18.2.0:\n    x: y\n"),
            (
                "Cargo.toml",
                "[package]\nname = \"a\"\nedition = \"2024\"\n[dependencies]\nserde = { version = \"1\" }\n",
            ),
            ("Cargo.lock", "[[package]]\nname = \"serde\"\nversion = \"1.0.200\"\n"),
            (
                "pyproject.toml",
                "[project]\nrequires-python = \">=3.11\"\ndependencies = [\"fastapi[all]>=0.100\"]\n[tool.black]\nline-length = 100\n",
            ),
            (".nvmrc", "v20.11.0\n"),
            ("go.mod", "module x.org/y\n\ngo 1.22\n\nrequire (\n\tx.org/z v1.2.3 // indirect\n)\n"),
            (".tool-versions", "nodejs 20.11.0\n"),
        ],
        |facts| {
            let versions = |of: &str| -> Vec<String> {
                facts
                    .versions_of(of)
                    .into_iter()
                    .map(|fact| format!("{} {}:{}", fact.text, fact.source.file, fact.source.line))
                    .collect()
            };
            assert_eq!(versions("react"), ["18.2.0 pnpm-lock.yaml:3", "^18.0.0 kiosk/package.json:5"]);
            assert_eq!(versions("serde"), ["1.0.200 Cargo.lock:3", "1 Cargo.toml:5"]);
            assert_eq!(versions("python"), [">=3.11 pyproject.toml:2"]);
            assert_eq!(versions("node"), ["20.11.0 .nvmrc:1", "20.11.0 .tool-versions:1"]);
            assert_eq!(versions("edition"), ["2024 Cargo.toml:3"]);
            assert_eq!(versions("go"), ["1.22 go.mod:3"]);
            assert!(facts.has_package(Ecosystem::Python, "FastAPI"));
            assert!(!facts.has_package(Ecosystem::JavaScript, "vue"));
            assert!(
                facts
                    .list()
                    .iter()
                    .any(|one| one.kind == "command" && one.name == "npm run lint" && one.source.line == 3)
            );
        },
    );
}

#[test]
fn other_lockfiles_are_read() {
    for (name, text, own) in [
        (
            "package-lock.json",
            r#"{"packages": {"": {}, "node_modules/a": {"version": "1.2.3"}, "node_modules/b/node_modules/a": {"version": "9.0.0"}}}"#,
            "a",
        ),
        ("yarn.lock", "\"@x/a@^1.0.0\", \"@x/a@^1.2.0\":\n  version \"1.2.3\"\n", "@x/a"),
        ("bun.lock", "{ \"packages\": { \"a\": [\"a@1.2.3\", \"\", {}], }, }", "a"),
        ("pnpm-lock.yaml", "packages:\n  /@x/a@1.2.3(b@2.0.0):\n    dev: true\n", "@x/a"),
    ] {
        let locked = (lock::by_name(name).unwrap().read)(text);
        assert_eq!(locked[own].iter().map(|(version, _)| version.as_str()).collect::<Vec<_>>(), ["1.2.3"], "{name}");
    }
}

#[test]
fn tasks_are_commands() {
    facts(
        &[
            ("Makefile", ".PHONY: all check\nVAR := x\nall: check\n\techo a: b\ncheck lint:\n\ttrue\n"),
            (
                "justfile",
                "set shell := [\"bash\"]\nalias c := check\n\n# all\ncheck *args:\n    cargo test\n_hidden:\n    true\n",
            ),
        ],
        |facts| {
            let names = |tool: &str| -> Vec<&str> {
                let all = facts.commands.iter().filter(|one| one.tool == tool);
                all.flat_map(|one| one.names.keys().map(String::as_str)).collect()
            };
            assert_eq!(names("make"), ["all", "check", "lint"]);
            assert_eq!(names("just"), ["_hidden", "c", "check"]);
            assert!(facts.commands.iter().all(|one| !one.open));
        },
    );
}

#[test]
fn styles_hold_below_their_folder_and_for_their_files() {
    facts(
        &[
            (
                ".editorconfig",
                "root = true\n\n[*]\nindent_style = space\nindent_size = 4\n\n[*.{ts,tsx}]\nindent_size = 2\n\n[Makefile]\nindent_style = tab\n",
            ),
            ("kiosk/.prettierrc", "singleQuote: true # yes\nprintWidth: 100\n"),
            ("rustfmt.toml", "max_width = 120\nhard_tabs = true\n"),
        ],
        |facts| {
            let takes = |file: &str, style: Style| -> Vec<String> {
                let file = RepoPath::new(file).unwrap();
                let all = facts.styles.iter().filter(|fact| fact.style == style && fact.takes(&file));
                all.map(|fact| format!("{} :{}", fact.value, fact.source.line)).collect()
            };
            assert_eq!(takes("a/b.py", Style::IndentWidth), ["4 :5"]);
            assert_eq!(takes("a/b.ts", Style::IndentWidth), ["4 :5", "2 :8"]);
            assert_eq!(takes("x/Makefile", Style::Indentation), ["spaces :4", "tabs :11"]);
            assert_eq!(takes("kiosk/a.ts", Style::Quotes), ["single :1"]);
            assert!(takes("other/a.ts", Style::Quotes).is_empty());
            assert_eq!(takes("a.rs", Style::LineLength), ["120 :1"]);
        },
    );
}

#[test]
fn settings_with_comments_are_read_and_broken_ones_passed_over() {
    assert_eq!(json("{ // why\n \"a\": \"//x\", /* y */ }").unwrap()["a"], "//x");
    facts(&[("package.json", "{ broken"), ("Cargo.toml", "= ="), (".editorconfig", "[[[\n=")], |facts| {
        assert!(facts.manifests.is_empty());
        assert!(facts.styles.is_empty());
    });
}
