//! Mending whatever a text and a note hold comes to an end, and changes no brief.
#![no_main]
mod project;
use libfuzzer_sys::fuzz_target;
use signpost_core::resolve::brief::{Question, resolve};
use signpost_core::check::{Context, Finding, fix, run};
use signpost_core::project::guidance::Date;
use signpost_core::base::repo_path::RepoPath;
use signpost_core::inspect::survey::with_guidance;
use signpost_core::project::workspace::Workspace;

fuzz_target!(|data: &[u8]| {
    let texts = project::texts(data);
    let mut files = project::project(&[]);
    for (path, text) in [".n/a.md", "FOLDER.md", "web/FOLDER.md"].iter().zip(&texts) {
        files.insert((*path).to_owned(), (*text).to_owned());
    }
    let told = |files: &project::Files| {
        let tree = project::tree(files);
        let workspace = Workspace::open(&tree, &[]).expect("the settings are valid");
        let mut told = Vec::new();
        for file in ["main.rs", "web/app.ts", "x.md", "a/B.rs"] {
            let question = Question { files: vec![RepoPath::new(file).expect("a path")], start: RepoPath::root() };
            for profile in &workspace.profiles {
                let brief = resolve(&workspace, profile, &question, None).expect("a tree in memory can be listed");
                told.push(brief.entries.iter().map(|one| (one.path.to_string(), one.state.word())).collect::<Vec<_>>());
            }
        }
        told
    };
    let before = told(&files);
    let start = files.clone();
    for _ in 0..32 {
        let tree = project::tree(&files);
        let workspace = Workspace::open(&tree, &[]).expect("the settings are valid");
        let project = workspace.project().expect("a tree in memory can be listed");
        let survey = with_guidance(&workspace, &project, &[]).expect("no name is given");
        let context = Context::new(&workspace, &project, &survey, Date::parse("2026-11-23")).expect("there is no lock");
        let findings = run(&context);
        let mut changed = false;
        for path in [".n/a.md", "FOLDER.md", "web/FOLDER.md"] {
            let Some(text) = files.get(path) else { continue };
            let own = |one: &&Finding| one.is_fixable() && one.location.to_string() == path;
            let (fixed, number) = fix::apply(text, &findings.iter().filter(own).collect::<Vec<_>>());
            changed |= number > 0;
            files.insert(path.to_owned(), fixed);
        }
        if !changed {
            assert_eq!(before, told(&files), "{start:?} {files:?}");
            return;
        }
    }
    panic!("mending never ends: {start:?} {files:?}");
});
