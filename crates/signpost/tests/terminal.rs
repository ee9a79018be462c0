//! What happens where somebody sits at the terminal: questions, confirmations, the editor, the word about long work. The
//! program is run on a pseudo-terminal.

#![allow(clippy::unwrap_used)]

use crate::common::{Project, Ran};
use rustix::pty::{OpenptFlags, grantpt, openpt, ptsname, unlockpt};
use std::fs::File;
use std::io::{Read, Write};
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

/// A program on a terminal: its questions and errors are read from there, its output through a pipe.
struct Terminal {
    child: Child,
    keyboard: File,
    screen: Receiver<Vec<u8>>,
    shown: String,
}

/// Nothing here takes so long, on any machine.
const PATIENCE: Duration = Duration::from_secs(60);

impl Terminal {
    fn start(mut command: Command) -> Self {
        let ours = openpt(OpenptFlags::RDWR | OpenptFlags::NOCTTY).unwrap();
        grantpt(&ours).unwrap();
        unlockpt(&ours).unwrap();
        let name = ptsname(&ours, Vec::new()).unwrap();
        let theirs = File::options().read(true).write(true).open(name.to_str().unwrap()).unwrap();
        command.stdin(theirs.try_clone().unwrap()).stderr(theirs).stdout(Stdio::piped());
        let child = command.spawn().unwrap();
        // The command holds the other end open, which would keep the screen from ending.
        drop(command);
        let keyboard = File::from(ours);
        let mut screen = keyboard.try_clone().unwrap();
        let (send, receive) = channel();
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            // The other end being closed is an error here.
            while let Ok(number @ 1..) = screen.read(&mut bytes) {
                if send.send(bytes[..number].to_vec()).is_err() {
                    break;
                }
            }
        });
        Terminal { child, keyboard, screen: receive, shown: String::new() }
    }

    /// Waits for words on the screen, which what comes later stands behind.
    #[track_caller]
    fn expect(&mut self, words: &str) -> &mut Self {
        let started = Instant::now();
        loop {
            if let Some(at) = self.shown.find(words) {
                self.shown.drain(..at + words.len());
                return self;
            }
            assert!(started.elapsed() < PATIENCE, "{words:?} does not come: {}", self.shown);
            match self.screen.recv_timeout(Duration::from_millis(200)) {
                Ok(bytes) => self.shown += &String::from_utf8_lossy(&bytes),
                Err(std::sync::mpsc::RecvTimeoutError::Timeout) => {}
                Err(_) => panic!("it ended before {words:?}: {}", self.shown),
            }
        }
    }

    fn types(&mut self, keys: &str) -> &mut Self {
        self.keyboard.write_all(keys.as_bytes()).unwrap();
        self
    }

    /// Waits for its end.
    fn ends(mut self) -> Ran {
        let mut out = String::new();
        self.child.stdout.take().unwrap().read_to_string(&mut out).unwrap();
        let code = self.child.wait().unwrap().code().expect("it ended by itself");
        while let Ok(bytes) = self.screen.recv_timeout(PATIENCE) {
            self.shown += &String::from_utf8_lossy(&bytes);
        }
        Ran { code, out, err: self.shown }
    }
}

fn on_terminal(project: &Project, args: &[&str]) -> Terminal {
    Terminal::start(without_editor(project, args))
}

fn without_editor(project: &Project, args: &[&str]) -> Command {
    let mut command = project.command(args);
    command.env_remove("VISUAL").env_remove("EDITOR").env("TERM", "dumb");
    command
}

#[test]
fn init_asks_before_it_writes() {
    for (answer, written) in [("y\n", true), ("YES\n", true), ("n\n", false), ("\n", false), ("yess\n", false)] {
        let project = Project::new().with("package.json", r#"{"scripts": {"test": "run-tests"}}"#);
        let mut terminal = on_terminal(&project, &["init"]);
        terminal.expect("Write these files? [y/N]").types(answer);
        let ran = terminal.ends();
        assert_eq!(project.has("guidance/rules"), written, "{answer:?}: {}", ran.out);
        assert_eq!(ran.code, i32::from(!written), "{answer:?}: {}", ran.out);
    }
}

#[test]
fn the_end_of_the_input_is_no() {
    let project = Project::new().with("package.json", r#"{"scripts": {"test": "run-tests"}}"#);
    let mut terminal = on_terminal(&project, &["init"]);
    terminal.expect("[y/N]").types("\u{4}");
    assert_eq!(terminal.ends().code, 1);
    assert!(!project.has("guidance/rules"));
}

#[test]
fn init_does_not_ask_who_has_said_yes_or_where_nobody_is() {
    let project = Project::new().with("package.json", r#"{"scripts": {"test": "run-tests"}}"#);
    let ran = on_terminal(&project, &["init", "--yes"]).ends();
    assert!(!ran.err.contains("[y/N]") && project.has("guidance/rules"), "{}", ran.err);
    let project = Project::new().with("package.json", r#"{"scripts": {"test": "run-tests"}}"#);
    let ran = project.run(&["init"]);
    assert!(!ran.err.contains("[y/N]") && !project.has("guidance/rules"), "{}", ran.err);
    assert_eq!(ran.code, 1);
}

#[test]
fn a_drafted_profile_is_kept_after_a_yes() {
    for (answer, kept) in [("n\n", false), ("y\n", true)] {
        let project =
            Project::new().with("ROOK.md", "- Run the tests.\n- Never edit generated files.\n").with("a.rs", "");
        let mut terminal = on_terminal(&project, &["profile", "draft", "--write"]);
        terminal.expect("Write 1 profile? [y/N]").types(answer);
        let ran = terminal.ends();
        assert_eq!(project.has("guidance/profiles/rook.toml"), kept, "{answer:?}: {}", ran.out);
        assert_eq!(ran.code, i32::from(!kept), "{answer:?}: {}", ran.out);
    }
}

/// Four published rules, of which three are deleted: more than half of what was published would go.
fn much_to_remove() -> Project {
    let mut project = Project::with_profiles();
    for name in ["ink", "wax", "quill", "sand"] {
        let rule = format!("+++\npaths = [\"{name}/**\"]\nassistants = [\"oo\"]\n+++\n\n- Keep the {name} dry.\n");
        project = project.with(&format!("guidance/rules/{name}.md"), rule).with(&format!("{name}/a.txt"), "");
    }
    project = project.with("signpost.toml", "[project]\nassistants = [\"oo\"]\n");
    let ran = project.run(&["publish"]);
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    for name in ["ink", "wax", "quill"] {
        std::fs::remove_file(project.root().join(format!("guidance/rules/{name}.md"))).unwrap();
    }
    project
}

#[test]
fn publish_asks_before_it_removes_much() {
    for (answer, removed) in [("n\n", false), ("y\n", true)] {
        let project = much_to_remove();
        assert!(project.has(".oo/notes/ink.md"));
        let mut terminal = on_terminal(&project, &["publish"]);
        terminal.expect("Remove 3 files? [y/N]").types(answer);
        let ran = terminal.ends();
        assert_eq!(!project.has(".oo/notes/ink.md"), removed, "{answer:?}: {}{}", ran.out, ran.err);
        assert!(project.has(".oo/notes/sand.md"));
        assert_eq!(ran.code == 0, removed, "{}{}", ran.out, ran.err);
    }
    let project = much_to_remove();
    project.run(&["publish"]).fails(2, &["--yes"]);
    assert!(project.has(".oo/notes/ink.md"));
}

/// Two assistants that are told nearly the same.
fn two_wordings() -> Project {
    Project::with_profiles()
        .with("TT.md", "# Style\n\n- Keep the ink dry.\n- Seal with red wax.\n")
        .with("BBSHEET.txt", "# Style\n\n- Keep the ink dry.\n- Seal with green wax.\n")
}

#[test]
fn adopt_shows_two_wordings_and_asks_for_one() {
    let project = two_wordings();
    let mut terminal = on_terminal(&project, &["adopt"]);
    terminal.expect("Which one for all?").types("7\n");
    terminal.expect("a number from 1 to 2").expect("Which one for all?").types("two\n");
    terminal.expect("a number from 1 to 2").expect("Which one for all?").types("2\n");
    let ran = terminal.ends();
    let told: Vec<u8> = project
        .files()
        .into_iter()
        .filter(|(path, _)| path.starts_with("guidance/rules"))
        .flat_map(|(_, text)| text)
        .collect();
    let told = String::from_utf8(told).unwrap();
    assert_eq!((told.matches("red wax").count(), told.matches("green wax").count()), (1, 0), "{told}{}", ran.out);
}

#[test]
fn without_an_answer_each_assistant_keeps_its_own() {
    let project = two_wordings();
    let mut terminal = on_terminal(&project, &["adopt"]);
    terminal.expect("Which one for all?").types("\n");
    assert_eq!(terminal.ends().code, 0);
    let files = project.files();
    let holds = |words: &str| {
        files
            .iter()
            .filter(|(path, text)| path.starts_with("guidance/rules") && String::from_utf8_lossy(text).contains(words))
            .count()
    };
    assert_eq!((holds("red wax"), holds("green wax")), (1, 1));
}

#[test]
fn a_draft_asks_what_it_is_for() {
    let project = Project::with_profiles().with("src/a.rs", "").with("src/b.py", "");
    let mut command = without_editor(&project, &["draft", "ink"]);
    command.env("EDITOR", editor(&project, "printf -- '- Keep the ink dry.\\n' > \"$1\""));
    let mut terminal = Terminal::start(command);
    terminal.expect("Which files is it for? A pattern, or nothing for all:").types("*.rs\n");
    let ran = terminal.ends();
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert_eq!(project.read("guidance/rules/ink.md"), "+++\npaths = [\"*.rs\"]\n+++\n\n- Keep the ink dry.\n");
}

#[test]
fn a_draft_can_be_offered_by_its_summary() {
    let project = Project::with_profiles().with("src/a.rs", "");
    let mut command = without_editor(&project, &["draft", "ink"]);
    command.env("VISUAL", editor(&project, "printf -- '- Keep the ink dry.\\n' > \"$1\"")).env("EDITOR", "false");
    let mut terminal = Terminal::start(command);
    terminal.expect("Which files is it for?").types("\n");
    terminal.expect("A summary, or nothing to tell it always:").types("How to   keep ink\n");
    assert_eq!(terminal.ends().code, 0);
    let rule = project.read("guidance/rules/ink.md");
    assert!(rule.contains("summary = \"How to keep ink\"") && rule.contains("reach = \"offered\""), "{rule}");
}

/// A program that stands in for an editor: a script that is given the file.
fn editor(project: &Project, script: &str) -> String {
    use std::os::unix::fs::PermissionsExt;
    let path = project.root().join("../editor.sh");
    std::fs::write(&path, format!("#!/bin/sh\n{script}\n")).unwrap();
    std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o755)).unwrap();
    path.to_str().unwrap().to_owned()
}

fn drafted_with(project: &Project, editor: &str) -> Ran {
    let mut command = without_editor(project, &["draft", "ink"]);
    command.env("EDITOR", editor);
    let mut terminal = Terminal::start(command);
    terminal.expect("Which files is it for?").types("*.rs\n");
    terminal.ends()
}

#[test]
fn the_editor_may_have_options_and_sees_what_to_do() {
    let project = Project::with_profiles().with("src/a.rs", "");
    let script = "[ \"$1\" = --wait ] || exit 3\ncp \"$2\" seen.md\nprintf -- '\\n- Keep the ink dry.\\n\\n' > \"$2\"; tail -n 1 seen.md >> \"$2\"";
    let ran = drafted_with(&project, &format!("{} --wait", editor(&project, script)));
    assert_eq!(ran.code, 0, "{}{}", ran.out, ran.err);
    assert!(project.read("seen.md").contains("Write the rule above"));
    assert!(project.read("guidance/rules/ink.md").ends_with("+++\n\n- Keep the ink dry.\n"));
}

#[test]
fn what_the_editor_does_not_do_is_not_written() {
    let project = Project::with_profiles().with("src/a.rs", "");
    drafted_with(&project, &editor(&project, "exit 7")).fails(2, &["ended with exit status: 7", "nothing was written"]);
    drafted_with(&project, "/nowhere/at/all").fails(2, &["cannot open /nowhere/at/all", "--text"]);
    drafted_with(&project, &editor(&project, "true")).fails(2, &["the rule has no words"]);
    drafted_with(&project, &editor(&project, "rm \"$1\"")).fails(2, &["cannot read what"]);
    drafted_with(&project, &editor(&project, "printf '\\377' > \"$1\"")).fails(2, &["cannot read what"]);
    assert!(!project.has("guidance/rules/ink.md"));
    let mut terminal = on_terminal(&project, &["draft", "ink"]);
    terminal.expect("Which files is it for?").types("*.rs\n");
    terminal.ends().fails(2, &["the rule has no words", "set $EDITOR"]);
}

#[test]
fn colour_comes_on_a_terminal_and_not_where_it_is_unwanted() {
    let project = Project::with_profiles().with("TT.md", "- Keep the ink dry.\n");
    let colours = |set: &[(&str, &str)]| {
        let mut command = without_editor(&project, &["at", "nowhere.rs", "--assistant", "nobody"]);
        command.env("TERM", "xterm").envs(set.iter().copied());
        Terminal::start(command).ends().err.contains("\u{1b}[")
    };
    assert!(colours(&[]));
    assert!(!colours(&[("NO_COLOR", "1")]));
    assert!(!colours(&[("TERM", "dumb")]));
}

#[test]
fn verbose_says_what_is_read() {
    let project = Project::with_profiles().with("TT.md", "- Keep the ink dry.\n");
    let ran = project.run(&["survey", "--verbose"]);
    let root = format!("root: {}\n", project.root().canonicalize().unwrap().display());
    assert!(ran.err.contains(&root), "{}", ran.err);
    assert!(ran.err.contains("profile: tt (Project, guidance/profiles/tt.toml)\n"), "{}", ran.err);
    assert!(ran.err.contains("profile: agents-md (BuiltIn, "), "{}", ran.err);
    assert!(ran.err.lines().last().unwrap().starts_with("took "), "{}", ran.err);
    assert_eq!(ran.out, project.run(&["survey"]).out);
    assert_eq!(project.run(&["survey"]).err, "");
}
