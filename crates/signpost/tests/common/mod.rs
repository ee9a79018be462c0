//! A project in a temporary folder, and the built program run on it.
#![allow(dead_code)]
#![allow(clippy::unwrap_used)]

use serde_json::Value;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use tempfile::TempDir;

/// Notes in `.o/` with YAML headers, all reaches, exclusions; `T.md` in any folder with references; one capped
/// sheet at the root.
pub const PROFILES: [(&str, &str); 3] = [
    (
        "guidance/profiles/oo.toml",
        r#"name = "oo"
title = "Oo"
[[place]]
id = "notes"
level = "project"
files = [".oo/notes/**/*.md"]
header = "yaml"
reach = "called"
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
[[place]]
id = "kits"
level = "project"
files = [".oo/kits/*/KIT.md"]
kind = "bundle"
header = "yaml"
[place.keys]
summary = "about"
[exclusions]
files = [".oo-skip"]
"#,
    ),
    (
        "guidance/profiles/tt.toml",
        r#"name = "tt"
title = "Tt"
[[place]]
id = "home"
level = "user"
files = [".tt/TT.md"]
[[place]]
id = "notes"
level = "folder"
files = ["TT.own.md", "TT.md"]
pick = "first"
[references]
syntax = ["at-path"]
"#,
    ),
    (
        "guidance/profiles/bb.toml",
        r#"name = "bb"
title = "Bb"
[[place]]
id = "sheet"
level = "project"
files = ["BBSHEET.txt"]
format = "plain"
[limits]
file_bytes = 100
"#,
    ),
];

/// Settings that ask for the checks that are off otherwise: a polite word is the smallest thing to find and to mend.
pub const ASKING: &str = "[lint.checks]\n\"wording/pleasantry\" = \"note\"\n\"wording/no-alternative\" = \"note\"\n";

/// The program, as it is where nothing of the machine decides what it shows.
pub fn signpost() -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_signpost"));
    for variable in OF_THE_MACHINE {
        command.env_remove(variable);
    }
    command.env("COLUMNS", "100");
    command
}

/// What a developer's machine or a CI server may have set, which changes what is shown.
const OF_THE_MACHINE: [&str; 5] = ["XDG_CONFIG_HOME", "NO_COLOR", "CLICOLOR", "CLICOLOR_FORCE", "CI"];

pub struct Project {
    folder: TempDir,
}

impl Project {
    /// An empty project with a root of its own.
    pub fn new() -> Self {
        let project = Project { folder: tempfile::tempdir().unwrap() };
        std::fs::create_dir_all(project.root()).unwrap();
        std::fs::create_dir_all(project.home()).unwrap();
        project.with("signpost.toml", ASKING)
    }

    /// With the three invented assistants.
    pub fn with_profiles() -> Self {
        PROFILES.iter().fold(Project::new(), |project, (path, text)| project.with(path, text))
    }

    pub fn root(&self) -> PathBuf {
        self.folder.path().join("root")
    }

    pub fn home(&self) -> PathBuf {
        self.folder.path().join("home")
    }

    pub fn with(self, path: &str, text: impl AsRef<[u8]>) -> Self {
        let file = match path.strip_prefix("~/") {
            Some(rest) => self.home().join(rest),
            None => self.root().join(path),
        };
        std::fs::create_dir_all(file.parent().unwrap()).unwrap();
        std::fs::write(file, text).unwrap();
        self
    }

    pub fn run_in(&self, folder: &Path, args: &[&str]) -> Ran {
        let output = self.command(args).current_dir(folder).output().unwrap();
        Ran::new(output)
    }

    /// A command that can be given more before it runs.
    pub fn command(&self, args: &[&str]) -> Command {
        let mut command = signpost();
        command.args(args).arg("--home").arg(self.home()).current_dir(self.root());
        command
    }

    pub fn read(&self, path: &str) -> String {
        std::fs::read_to_string(self.root().join(path)).unwrap_or_else(|error| panic!("{path}: {error}"))
    }

    pub fn has(&self, path: &str) -> bool {
        self.root().join(path).symlink_metadata().is_ok()
    }

    /// Every file with its bytes, `.git` left out.
    pub fn files(&self) -> BTreeMap<String, Vec<u8>> {
        let mut files = BTreeMap::new();
        let mut open = vec![self.root()];
        while let Some(folder) = open.pop() {
            for entry in std::fs::read_dir(folder).unwrap().flatten().filter(|entry| entry.file_name() != ".git") {
                if entry.file_type().unwrap().is_dir() {
                    open.push(entry.path());
                } else {
                    let name = entry.path().strip_prefix(self.root()).unwrap().to_string_lossy().into_owned();
                    files.insert(name, std::fs::read(entry.path()).unwrap_or_default());
                }
            }
        }
        files
    }

    pub fn run(&self, args: &[&str]) -> Ran {
        self.run_in(&self.root(), args)
    }

    /// Runs with `--format json`.
    pub fn json(&self, args: &[&str]) -> Value {
        let ran = self.run(&[args, &["--format", "json"]].concat());
        serde_json::from_str(&ran.out).unwrap_or_else(|error| panic!("{error}: {}{}", ran.out, ran.err))
    }
}

pub struct Ran {
    pub code: i32,
    pub out: String,
    pub err: String,
}

impl Ran {
    fn new(output: Output) -> Self {
        Ran {
            code: output.status.code().expect("it ended by itself"),
            out: String::from_utf8(output.stdout).unwrap(),
            err: String::from_utf8(output.stderr).unwrap(),
        }
    }

    /// Asserts the exit code and words of what was said on standard error.
    #[track_caller]
    pub fn fails(&self, code: i32, words: &[&str]) {
        assert_eq!(self.code, code, "{}{}", self.out, self.err);
        for word in words {
            assert!(self.err.contains(word), "{word:?} is not in {}", self.err);
        }
        assert!(!self.err.contains("panicked"), "{}", self.err);
    }
}

/// The strings of a list of objects under one key.
pub fn each<'v>(list: &'v Value, key: &str) -> Vec<&'v str> {
    list.as_array().unwrap().iter().map(|one| one[key].as_str().unwrap()).collect()
}

/// Runs git in a project, which is to succeed.
pub fn git(project: &Project, args: &[&str]) {
    let settings = ["-c", "user.name=a", "-c", "user.email=a@example.com", "-c", "commit.gpgsign=false"];
    let done = Command::new("git").args(settings).args(args).current_dir(project.root()).output().unwrap();
    assert!(done.status.success(), "{args:?}: {}", String::from_utf8_lossy(&done.stderr));
}
