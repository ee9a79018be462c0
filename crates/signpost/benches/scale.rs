//! Whole runs of the program on generated trees, next to a bare walk and to git, as ratios of the same run.
//!
//! `cargo bench --bench scale` uses 10,000 and 100,000 files; `SIGNPOST_BENCH_FILES=1000000` other sizes
//! (a comma between several).

#![allow(clippy::unwrap_used, missing_docs)]

use std::fs;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

const RULES: usize = 200;
const FILES_A_FOLDER: usize = 20;
const ENDINGS: [&str; 6] = ["rs", "ts", "tsx", "py", "sql", "md"];
const RUNS: usize = 7;

fn main() {
    let sizes = std::env::var("SIGNPOST_BENCH_FILES").unwrap_or_else(|_| "10000,100000".to_owned());
    let mut before: Option<(usize, Duration)> = None;
    for size in sizes.split(',').filter_map(|size| size.trim().parse().ok()) {
        let folder = tempfile::tempdir().unwrap();
        generate(folder.path(), size);
        let survey = measure(folder.path(), size);
        if let Some((smaller, time)) = before {
            println!(
                "survey: {} times the files take {:.1} times the time\n",
                size / smaller,
                survey.as_secs_f64() / time.as_secs_f64()
            );
        }
        before = Some((size, survey));
        guide(folder.path());
        publishing(folder.path(), survey);
    }
    small();
    let folder = tempfile::tempdir().unwrap();
    many_rules(folder.path());
    println!("\n10,000 instruction files with 20 directives each");
    for command in [&["survey"][..], &["lint", "--fail-on", "never"]] {
        println!(
            "  {:<24} {:>8.1?}  {}",
            command.join(" "),
            best(|| run(folder.path(), command)),
            peak(folder.path(), command)
        );
    }
}

/// Folders of twenty files, three deep; two hundred rules of four pattern shapes; three assistants.
fn generate(root: &Path, files: usize) {
    let folders = files / FILES_A_FOLDER;
    let path_of = |number: usize| format!("area{:02}/part{:02}/unit{}", number % 20, number / 20 % 25, number / 500);
    for number in 0..folders {
        let folder = root.join(path_of(number));
        fs::create_dir_all(&folder).unwrap();
        for file in 0..FILES_A_FOLDER {
            fs::write(folder.join(format!("file{file:02}.{}", ENDINGS[file % ENDINGS.len()])), "").unwrap();
        }
        if number % 50 == 0 {
            fs::write(folder.join("TT.md"), "- A note for this folder\n").unwrap();
        }
    }
    let profile = |name: &str, place: &str| {
        let file = root.join(format!("guidance/profiles/{name}.toml"));
        fs::create_dir_all(file.parent().unwrap()).unwrap();
        fs::write(file, format!("name = \"{name}\"\n[[place]]\nid = \"p\"\n{place}")).unwrap();
    };
    profile(
        "oo",
        "level = \"project\"\nfiles = [\".oo/notes/**/*.md\"]\nheader = \"yaml\"\nreach = \"scoped\"\n[place.keys]\npaths = \"covers\"\n",
    );
    profile("tt", "level = \"folder\"\nfiles = [\"TT.md\"]\n");
    fs::write(root.join("AGENTS.md"), "- Be kind\n").unwrap();
    fs::create_dir_all(root.join(".oo/notes")).unwrap();
    let mut attributes = String::new();
    for rule in 0..RULES {
        let (area, part, ending) = (rule % 20, rule / 4 % 25, ENDINGS[rule % ENDINGS.len()]);
        let pattern = match rule % 4 {
            0 => format!("area{area:02}/part{part:02}/**"),
            1 => format!("**/file{:02}.{ending}", rule % FILES_A_FOLDER),
            2 => format!("area{area:02}/**/*.{ending}"),
            _ => format!("**/part{part:02}/**/*_{rule}.{{{ending},txt}}"),
        };
        fs::write(
            root.join(format!(".oo/notes/rule{rule}.md")),
            format!("---\ncovers: \"{pattern}\"\n---\n- Rule {rule}\n"),
        )
        .unwrap();
        attributes += &format!("{} rule{rule}\n", pattern.replace(&format!("{{{ending},txt}}"), ending));
    }
    fs::write(root.join(".gitattributes"), attributes).unwrap();
    fs::write(root.join("signpost.toml"), "").unwrap();
}

/// Puts the rules into the guidance of the same tree, for four assistants: scopes, folders, one sheet, `AGENTS.md`.
fn guide(root: &Path) {
    fs::create_dir_all(root.join("guidance/rules")).unwrap();
    for rule in 0..RULES {
        let note = root.join(format!(".oo/notes/rule{rule}.md"));
        let text = fs::read_to_string(&note).unwrap();
        let pattern = text.split('"').nth(1).unwrap();
        fs::write(
            root.join(format!("guidance/rules/rule{rule}.md")),
            format!("+++\npaths = [\"{pattern}\"]\n+++\n\n- Rule {rule}\n"),
        )
        .unwrap();
        fs::remove_file(note).unwrap();
    }
    fs::remove_file(root.join("AGENTS.md")).unwrap();
    let profile = "name = \"bb\"\n[[place]]\nid = \"p\"\nlevel = \"project\"\nfiles = [\"BB.txt\"]\n";
    fs::write(root.join("guidance/profiles/bb.toml"), profile).unwrap();
    // The folders' own notes would be in the way.
    let notes = ignore::Walk::new(root).flatten().filter(|entry| entry.file_name() == "TT.md");
    notes.for_each(|entry| fs::remove_file(entry.path()).unwrap());
    fs::write(root.join("signpost.toml"), "[project]\nassistants = [\"agents-md\", \"bb\", \"oo\", \"tt\"]\n").unwrap();
}

fn publishing(root: &Path, survey: Duration) {
    let row = |what: &str, time: Duration| {
        println!("  {what:<24} {time:>8.1?}  {:.2} surveys", time.as_secs_f64() / survey.as_secs_f64());
    };
    println!("the same tree, {RULES} rules published to 4 assistants");
    let start = Instant::now();
    run(root, &["publish"]);
    row("publish, all new", start.elapsed());
    let mut turn = 0;
    let one = best(|| {
        turn += 1;
        let text = format!("+++\npaths = [\"*.rs\"]\n+++\n\n- Rule in turn {turn}\n");
        fs::write(root.join("guidance/rules/rule0.md"), text).unwrap();
        run(root, &["publish"]);
    });
    row("publish, 1 rule changed", one);
    row("publish, none changed", best(|| run(root, &["publish"])));
    row("publish --check", best(|| run(root, &["publish", "--check"])));
    row("parity", best(|| run(root, &["parity"])));
    println!("  peak memory: publish {}", peak(root, &["publish"]));
}

/// What a team runs in CI: ten rules, some hundred files.
fn small() {
    let folder = tempfile::tempdir().unwrap();
    generate(folder.path(), 500);
    guide(folder.path());
    for rule in 10..RULES {
        fs::remove_file(folder.path().join(format!("guidance/rules/rule{rule}.md"))).unwrap();
    }
    run(folder.path(), &["publish"]);
    let time = best(|| run(folder.path(), &["publish", "--check"]));
    println!("\n500 files, 10 rules, 4 assistants\n  publish --check {time:.1?}");
}

/// Ten thousand notes of twenty directives, one in each folder.
fn many_rules(root: &Path) {
    for number in 0..10_000 {
        let folder = root.join(format!("area{:02}/unit{}", number % 50, number / 50));
        fs::create_dir_all(&folder).unwrap();
        let text: String =
            (0..20).map(|line| format!("- In unit {number} thing {line} is named thing_{line}\n")).collect();
        fs::write(folder.join("AGENTS.md"), text).unwrap();
        fs::write(folder.join("main.rs"), "").unwrap();
    }
    fs::write(root.join("signpost.toml"), "").unwrap();
}

fn measure(root: &Path, size: usize) -> Duration {
    let list = root.join(".files");
    let walk = best(|| {
        bare_walk(root);
    });
    let survey = best(|| run(root, &["survey"]));
    let lint = best(|| run(root, &["lint", "--fail-on", "never"]));
    let at = best(|| run(root, &["at", "area07/part03/unit1/file04.sql"]));
    git(root, &["init", "-q"]);
    let mut paths = String::new();
    for entry in ignore::Walk::new(root).flatten().filter(|entry| entry.file_type().is_some_and(|kind| kind.is_file()))
    {
        paths += &format!("{}\n", entry.path().strip_prefix(root).unwrap().display());
    }
    fs::write(&list, paths).unwrap();
    let start = Instant::now();
    let input = fs::File::open(&list).unwrap();
    let done = Command::new("git")
        .args(["check-attr", "--stdin", "-a"])
        .current_dir(root)
        .stdin(input)
        .stdout(Stdio::null())
        .status();
    let attributes = start.elapsed();
    assert!(done.unwrap().success());
    println!("{size} files, {RULES} rules, 3 assistants (best of {RUNS})");
    let row = |what: &str, time: Duration| {
        println!("  {what:<24} {time:>8.1?}  {:.2} walks", time.as_secs_f64() / walk.as_secs_f64());
    };
    row("bare parallel walk", walk);
    row("survey", survey);
    row("lint", lint);
    row("at FILE", at);
    row("git check-attr -a", attributes);
    println!("  survey is {:.1} times as fast as git check-attr", attributes.as_secs_f64() / survey.as_secs_f64());
    println!("  peak memory: survey {}, lint {}", peak(root, &["survey"]), peak(root, &["lint", "--fail-on", "never"]));
    survey
}

fn bare_walk(root: &Path) -> usize {
    let count = std::sync::atomic::AtomicUsize::new(0);
    ignore::WalkBuilder::new(root).hidden(false).threads(2).build_parallel().run(|| {
        Box::new(|_| {
            count.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
            ignore::WalkState::Continue
        })
    });
    count.into_inner()
}

fn best(mut work: impl FnMut()) -> Duration {
    let timed = (0..RUNS).map(|_| {
        let start = Instant::now();
        work();
        start.elapsed()
    });
    timed.min().unwrap()
}

fn run(root: &Path, args: &[&str]) {
    let program = env!("CARGO_BIN_EXE_signpost");
    let status = Command::new(program).args(args).current_dir(root).stdout(Stdio::null()).status().unwrap();
    assert!(status.success(), "{args:?}");
}

/// The most memory that a run had at once, from GNU time where there is one.
fn peak(root: &Path, args: &[&str]) -> String {
    let program = env!("CARGO_BIN_EXE_signpost");
    let timed = Command::new("/usr/bin/time")
        .args(["-f", "%M", program])
        .args(args)
        .current_dir(root)
        .stdout(Stdio::null())
        .output();
    match timed {
        Ok(output) => {
            let said = String::from_utf8_lossy(&output.stderr).trim().to_owned();
            said.parse::<usize>().map_or(said, |kilobytes| format!("{} MB", kilobytes / 1024))
        }
        Err(_) => "not measured (no /usr/bin/time)".to_owned(),
    }
}

fn git(root: &Path, args: &[&str]) {
    assert!(Command::new("git").args(args).current_dir(root).status().unwrap().success());
}
