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

/// A file of each kind, and what it states, as `survey --facts` lists it: kind, name, value, line.
const STATED: &[(&str, &str, &[&str])] = &[
    (".editorconfig", "root = true\n[*]\nindent_style = tab\n", &["style indentation tabs :3"]),
    ("Cargo.toml", "[package]\nname = \"a\"\nedition = \"2024\"\n", &["version edition 2024 :3"]),
    (".cargo/config.toml", "[alias]\nxtask = \"run\"\n", &["command cargo xtask  :2"]),
    ("rustfmt.toml", "max_width = 90\n", &["style line length 90 :1"]),
    (".rustfmt.toml", "hard_tabs = true\n", &["style indentation tabs :1"]),
    ("rust-toolchain", "1.85.0\n", &["version rust 1.85.0 :1"]),
    ("rust-toolchain.toml", "[toolchain]\nchannel = \"1.85.0\"\n", &["version rust 1.85.0 :2"]),
    ("package.json", "{\n\"scripts\": {\n\"lint\": \"x\"}}\n", &["command npm run lint  :3"]),
    ("pnpm-workspace.yaml", "packages:\n  - a\n", &["package manager JavaScript pnpm :1"]),
    (".prettierrc", "semi: false\n", &["style semicolons false :1"]),
    (".prettierrc.json", "{\n\"tabWidth\": 3}\n", &["style indent width 3 :2"]),
    (".prettierrc.yaml", "singleQuote: true\n", &["style quotes single :1"]),
    (".prettierrc.yml", "printWidth: 77\n", &["style line length 77 :1"]),
    (".prettierrc.toml", "useTabs = true\n", &["style indentation tabs :1"]),
    ("biome.json", "{\"formatter\": {\n\"lineWidth\": 66}}\n", &["style line length 66 :2"]),
    ("biome.jsonc", "{\"formatter\": {\n\"indentWidth\": 3 /* x */}}\n", &["style indent width 3 :2"]),
    ("dprint.json", "{\n\"lineWidth\": 70}\n", &["style line length 70 :2"]),
    ("deno.json", "{\"tasks\": {\n\"go\": \"x\"}}\n", &["command deno task go  :2"]),
    ("pyproject.toml", "[project]\nrequires-python = \">=3.11\"\n", &["version python >=3.11 :2"]),
    ("requirements.txt", "# x\nflask==2.0\n", &["dependency flask ==2.0 :2"]),
    ("requirements-dev.txt", "pytest>=7\n", &["dependency pytest >=7 :1"]),
    ("setup.cfg", "[options]\npython_requires = >=3.9\n", &["version python >=3.9 :2"]),
    // A program: what it names is not known, only that it may name anything.
    ("setup.py", "setup(\n    python_requires=\">=3.8\",\n)\n", &[]),
    ("Pipfile", "[packages]\nflask = \"*\"\n", &["dependency flask * :2"]),
    ("ruff.toml", "line-length = 88\n", &["style line length 88 :1"]),
    (".ruff.toml", "line-length = 89\n", &["style line length 89 :1"]),
    (".flake8", "[flake8]\nmax-line-length = 99\n", &["style line length 99 :2"]),
    ("tox.ini", "[flake8]\nmax-line-length = 98\n", &["style line length 98 :2"]),
    ("go.mod", "module a.org/b\n\ngo 1.22\n", &["version go 1.22 :3"]),
    ("Makefile", "check:\n\ttrue\n", &["command make check  :1"]),
    ("makefile", ".PHONY: all\nall:\n\ttrue\n", &["command make all  :1"]),
    ("GNUmakefile", "x := 1\nrun: x\n\ttrue\n", &["command make run  :2"]),
    ("justfile", "build:\n    true\n", &["command just build  :1"]),
    ("Justfile", "alias b := build\nbuild:\n    true\n", &["command just b  :1", "command just build  :2"]),
    (".justfile", "@quiet arg:\n    true\n", &["command just quiet  :1"]),
    (".nvmrc", "v20.11.0\n", &["version node 20.11.0 :1"]),
    (".node-version", "\n20.11.0\n", &["version node 20.11.0 :2"]),
    (".python-version", "3.12.1\n", &["version python 3.12.1 :1"]),
    (".ruby-version", "ruby-3.3.0\n", &["version ruby 3.3.0 :1"]),
    (".java-version", "21.0\n", &["version java 21.0 :1"]),
    (".go-version", "1.22.1\n", &["version go 1.22.1 :1"]),
    (".tool-versions", "# x\ngolang 1.22.1\n", &["version go 1.22.1 :2"]),
    ("noxfile.py", "@nox.session(name=\"types\")\ndef check(session):\n    pass\n", &["command nox -s types  :2"]),
    ("Taskfile.yml", "version: '3'\ntasks:\n  build:\n    cmds: [x]\n", &["command task build  :3"]),
    ("Taskfile.yaml", "tasks:\n  test:unit:\n    cmds: [x]\n", &["command task test:unit  :2"]),
    ("taskfile.yml", "tasks:\n  a:\n    cmds: [x]\n", &["command task a  :2"]),
    (
        "pom.xml",
        "<project>\n<java.version>21</java.version>\n<dependency><groupId>a.b</groupId><artifactId>c</artifactId>\n<version>1.2</version></dependency></project>\n",
        &["version java 21 :2", "dependency a.b:c 1.2 :3"],
    ),
    (
        "build.gradle",
        "task smoke {}\nimplementation 'a.b:c:1.2'\n",
        &["command ./gradlew smoke  :1", "dependency a.b:c 1.2 :2"],
    ),
    (
        "build.gradle.kts",
        "kotlin { jvmToolchain(21) }\ntasks.register(\"smoke\") {}\n",
        &["version java 21 :1", "command ./gradlew smoke  :2"],
    ),
    ("libs.versions.toml", "[versions]\nktor = \"2.3.11\"\n", &["version ktor 2.3.11 :2"]),
    (
        "build.sbt",
        "scalaVersion := \"3.4.2\"\n\"a.b\" %% \"c\" % \"2.1\"\n",
        &["version scala 3.4.2 :1", "dependency a.b:c 2.1 :2"],
    ),
    ("global.json", "{\"sdk\": {\n\"version\": \"8.0.204\"}}\n", &["version .net 8.0.204 :2"]),
    (
        "Directory.Packages.props",
        "<Project>\n<PackageVersion Include=\"A.B\" Version=\"4.0\" />\n",
        &["dependency A.B 4.0 :2"],
    ),
    (
        "Gemfile",
        "ruby \"3.3.1\"\ngem \"rails\", \"~> 7.1\"\n",
        &["version ruby 3.3.1 :1", "dependency rails ~> 7.1 :2"],
    ),
    ("composer.json", "{\"scripts\": {\n\"check\": \"x\"}}\n", &["command composer check  :2"]),
    (
        "pubspec.yaml",
        "environment:\n  sdk: ^3.4.0\ndependencies:\n  dio: ^5.0.0\n",
        &["version dart ^3.4.0 :2", "dependency dio ^5.0.0 :4"],
    ),
    (
        "Package.swift",
        "// swift-tools-version: 5.10\n.package(url: \"a/nio.git\")\n",
        &["version swift 5.10 :1", "dependency nio  :2"],
    ),
    (
        "mix.exs",
        "def project do\n[elixir: \"~> 1.16\"]\nend\ndefp deps do\n[{:phoenix, \"~> 1.7\"}]\nend\ndefp aliases do\n[setup: [\"x\"]]\nend\n",
        &["version elixir ~> 1.16 :2", "dependency phoenix ~> 1.7 :5", "command mix setup  :8"],
    ),
    ("CMakeLists.txt", "project(a)\nset(CMAKE_CXX_STANDARD 20)\n", &["version c++ 20 :2"]),
    ("CMakePresets.json", "{\"configurePresets\": [\n{\"name\": \"dev\"}]}\n", &["command cmake --preset dev  :2"]),
    ("vcpkg.json", "{\"dependencies\": [\n\"fmt\"]}\n", &["dependency fmt  :2"]),
    ("versions.tf", "terraform {\n  required_version = \"~> 1.8.0\"\n}\n", &["version terraform ~> 1.8.0 :2"]),
    ("a.csproj", "<Project>\n<PackageReference Include=\"A.B\" />\n", &["dependency A.B  :2"]),
    ("Dockerfile", "FROM python:3.12-slim\n", &["version python 3.12 :1"]),
    ("compose.yaml", "services:\n  db:\n    image: postgres:16\n", &["version postgresql 16 :3"]),
    ("compose.yml", "services:\n  db:\n    image: postgres:16\n", &["version postgresql 16 :3"]),
    ("docker-compose.yml", "    image: \"redis:7.2\"\n", &["version redis 7.2 :1"]),
    ("docker-compose.yaml", "    image: node:22\n", &["version node 22 :1"]),
    ("deno.jsonc", "{\"tasks\": { // x\n\"go\": \"x\"}}\n", &["command deno task go  :2"]),
];

#[test]
fn each_source_states_what_it_is_read_for() {
    for (file, text, expected) in STATED {
        facts(&[(file, text)], |facts| {
            let listed = facts.list();
            let listed: Vec<String> = listed
                .iter()
                .map(|one| format!("{} {} {} :{}", one.kind, one.name, one.value, one.source.line))
                .collect();
            for line in *expected {
                // A setting may hold for some endings only, which stand after it.
                let (said, at) = line.rsplit_once(' ').unwrap();
                let there = |one: &String| one.starts_with(said.trim_end()) && one.ends_with(at);
                assert!(listed.iter().any(there), "{file}: {line} is not in {listed:?}");
            }
        });
        // Half a file, and one that is something else, state nothing wrong and end.
        for cut in [text.len() / 2, text.len() - 1] {
            facts(&[(file, &text[..cut])], |facts| assert!(facts.list().len() <= expected.len() + 2, "{file}"));
        }
        facts(&[(file, "\u{0}{{[[\"'\n=:\n")], |facts| assert!(facts.versions.is_empty(), "{file}"));
    }
    let known = |name: &str| STATED.iter().any(|(file, ..)| file.rsplit('/').next() == Some(name));
    for (name, _) in SOURCES {
        assert!(known(name), "{name} has no row above");
    }
}
