//! Files that only the README beside them calls an assistant's: perhaps they are.

use super::family::Perhaps;
use crate::base::repo_path::{Location, RepoPath};
use crate::directive::Outline;
use crate::files::EntryKind;
use crate::project::workspace::{Project, Workspace};
use rustc_hash::FxHashSet;

/// So many READMEs are read for it, those nearest to the root first.
const MOST_READMES: usize = 200;
/// A longer one introduces more than its neighbours.
const MOST_BYTES: u64 = 64 << 10;
const READERS: [&str; 5] = ["assistant", "assistants", "agent", "agents", "ai"];

/// Texts beside a README that it says an assistant or agent reads, and that nothing else speaks for.
pub(super) fn introduced(
    workspace: &Workspace<'_>,
    project: &Project,
    below: &[RepoPath],
    taken: &FxHashSet<RepoPath>,
) -> Vec<Perhaps> {
    let is_readme = |name: &str| name.eq_ignore_ascii_case("readme.md") || name.eq_ignore_ascii_case("readme");
    let asked = |path: &RepoPath| below.is_empty() || below.iter().any(|folder| path.is_in(folder));
    let mut readmes: Vec<RepoPath> = (project.index.folders().iter())
        .filter(|folder| !folder.apart)
        .flat_map(|folder| {
            let own = folder.items().filter(|item| item.kind == EntryKind::File && !item.ignored);
            own.filter(|item| is_readme(item.name)).map(|item| folder.path.join(item.name))
        })
        .filter(asked)
        .collect();
    readmes.sort_by_key(|path| (path.components().count(), path.clone()));
    let mut found: Vec<Perhaps> = Vec::new();
    for readme in readmes.into_iter().take(MOST_READMES) {
        let document = workspace.document(&Location::root(readme.clone()));
        if document.error.is_some() || document.bytes > MOST_BYTES {
            continue;
        }
        let folder = readme.folder();
        for name in named_for_an_assistant(&document.text) {
            let path = folder.join(&name);
            if !taken.contains(&path) && project.index.holds(&path) && !is_readme(&name) {
                found.push(Perhaps { path, why: "only the README beside it says that an assistant reads it" });
            }
        }
    }
    found.sort();
    found.dedup();
    found
}

/// Names of texts in code spans and links of lines that speak of an assistant.
fn named_for_an_assistant(text: &str) -> Vec<String> {
    let outline = Outline::read(text, 0);
    // What one sentence or line says of an assistant it does not say of a file that the next one names.
    let speaks = |at: usize| {
        let start = text[..at].rfind(['\n', ';']).map_or(0, |end| end + 1);
        let end = text[at..].find(['\n', ';']).map_or(text.len(), |end| at + end);
        let line = text[start..end].to_lowercase();
        let mut words = line.split(|c: char| !c.is_alphanumeric());
        words.any(|word| READERS.contains(&word)) || line.contains("language model")
    };
    let spans =
        outline.code.iter().filter(|code| code.block.is_none()).map(|code| (code.span.start, &text[code.span.clone()]));
    let links = outline.links.iter().filter(|link| !link.image).map(|link| (link.span.start, link.target.as_str()));
    let prose = |name: &str| {
        let ending = name.rsplit_once('.').map(|(_, ending)| ending.to_lowercase());
        ending.is_some_and(|ending| ["md", "mdx", "txt", "markdown", "prompt"].contains(&ending.as_str()))
    };
    let plain = |name: &str| !name.contains(['/', '\\', '*', '<', ' ']) && name.len() < 200;
    let named = spans.chain(links).map(|(at, name)| (at, name.trim_start_matches("./")));
    named.filter(|(at, name)| prose(name) && plain(name) && speaks(*at)).map(|(_, name)| name.to_owned()).collect()
}
