//! What tests of checks begin with.
#![allow(clippy::unwrap_used)]

use signpost_core::check::{Context, Finding, run};
use signpost_core::files::MemoryTree;
use signpost_core::inspect::survey::with_guidance;
use signpost_core::project::guidance::Date;
use signpost_core::project::workspace::Workspace;

/// Settings that ask for the checks that are off otherwise.
pub const ASKING: &str = "[lint.checks]\n\"wording/pleasantry\" = \"note\"\n\"wording/no-alternative\" = \"note\"\n";

/// Lints a tree as on 23 November 2026, and asks something of what is found.
pub fn lint<T>(tree: &MemoryTree, ask: impl FnOnce(&Workspace<'_>, Vec<Finding>) -> T) -> T {
    with_context(tree, |context| ask(context.workspace, run(context)))
}

/// What checks look at.
pub fn with_context<T>(tree: &MemoryTree, ask: impl FnOnce(&Context<'_, '_>) -> T) -> T {
    let workspace = Workspace::open(tree, &[]).unwrap();
    let project = workspace.project().unwrap();
    let survey = with_guidance(&workspace, &project, &[]).unwrap();
    let context = Context::new(&workspace, &project, &survey, Date::parse("2026-11-23")).unwrap();
    ask(&context)
}
