//! `docs/commands.md`, made from the command line's own definition and held to it by a test.
//!
//! `UPDATE_DOCS=1 cargo test reference_page` writes it anew.

use crate::cli;
use std::path::Path;

fn page() -> String {
    let mut page = String::from(
        "# Commands\n\nThis page is made from the program itself (`UPDATE_DOCS=1 cargo test reference_page`).\n",
    );
    let mut command = cli::command().term_width(100);
    describe(&mut command, "signpost", &mut page);
    page
}

fn describe(command: &mut clap::Command, name: &str, page: &mut String) {
    let help = command.render_long_help().to_string();
    let help: Vec<&str> = help.lines().map(str::trim_end).collect();
    page.push_str(&format!("\n## `{name}`\n\n```text\n{}\n```\n", help.join("\n").trim_end()));
    for inner in command.get_subcommands_mut().filter(|inner| inner.get_name() != "help") {
        let name = format!("{name} {}", inner.get_name());
        describe(inner, &name, page);
    }
}

#[test]
fn the_page_is_what_the_program_says() {
    let file = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/commands.md");
    let page = page();
    if std::env::var_os("UPDATE_DOCS").is_some() {
        std::fs::write(&file, &page).unwrap();
    }
    let written = std::fs::read_to_string(&file).unwrap_or_default();
    assert!(written == page, "docs/commands.md is stale: UPDATE_DOCS=1 cargo test reference_page");
}
