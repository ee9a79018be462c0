//! The house has floors: a folder imports only from folders below it, and no files import each other in a circle.
//!
//! Both crates are read as text. A parent module and what lies below it may know each other.

#![allow(clippy::unwrap_used)]

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::path::{Path, PathBuf};

/// The folders of the core, bottom first: each may import from those before it.
const CORE: &[&str] = &[
    "base", "pattern", "header", "files", "directive", "config", "profile", "facts", "project", "resolve", "inspect",
    "check", "change",
];

/// The modules of the binary, likewise.
const BINARY: &[&str] = &[
    "options", "exit", "paths", "ask", "git", "render", "session", "apply", "write", "commands", "cli", "documents",
    "reference_page", "main",
];

type Module = Vec<String>;

/// One import: from which module, at which line of its file, to which module.
struct Import {
    from: Module,
    line: usize,
    to: Module,
}

struct House {
    files: BTreeMap<Module, PathBuf>,
    imports: Vec<Import>,
}

impl House {
    fn read(root: &Path) -> House {
        let mut files = BTreeMap::new();
        gather(root, &mut Vec::new(), &mut files);
        assert!(files.len() > 20, "{} holds no crate", root.display());
        let mut house = House { files, imports: Vec::new() };
        for (module, file) in house.files.clone() {
            let text = std::fs::read_to_string(file).unwrap();
            for (path, line) in paths(&text) {
                if let Some(to) = house.resolve(&module, &path).filter(|to| !related(&module, to)) {
                    house.imports.push(Import { from: module.clone(), line, to });
                }
            }
        }
        house
    }

    /// The module that a path leads into, as far as modules go.
    fn resolve(&self, from: &Module, path: &str) -> Option<Module> {
        let mut parts = path.split("::").peekable();
        let mut at: Module = match *parts.peek()? {
            "crate" => Vec::new(),
            "self" | "super" => from.clone(),
            first if self.files.contains_key(&child(from, first)) => from.clone(),
            _ => return None,
        };
        while let Some(part) = parts.next_if(|part| ["crate", "self", "super"].contains(part)) {
            if part == "super" {
                at.pop();
            }
        }
        for part in parts {
            let below = child(&at, part);
            if !self.files.contains_key(&below) {
                break;
            }
            at = below;
        }
        self.files.contains_key(&at).then_some(at)
    }

    fn show(&self, import: &Import) -> String {
        let file = self.files[&import.from].display();
        format!("{file}:{}: {} imports {}", import.line, import.from.join("::"), import.to.join("::"))
    }

    /// Imports that lead upwards, or sideways to a folder that is later in the list.
    fn upwards(&self, floors: &[&str]) -> String {
        let floor = |module: &Module| {
            let name = module.first().map_or("main", String::as_str);
            floors.iter().position(|own| *own == name).unwrap_or_else(|| panic!("`{name}` is on no floor; say which"))
        };
        let mut wrong = String::new();
        for import in self.imports.iter().filter(|import| floor(&import.to) > floor(&import.from)) {
            writeln!(wrong, "{}, which is above it", self.show(import)).unwrap();
        }
        wrong
    }

    /// Imports that are part of a circle of files.
    fn circles(&self) -> String {
        let mut below: BTreeMap<&Module, BTreeSet<&Module>> = BTreeMap::new();
        for import in &self.imports {
            below.entry(&import.from).or_default().insert(&import.to);
        }
        let reaches = |from: &Module, goal: &Module| {
            let (mut open, mut seen) = (vec![from], BTreeSet::new());
            while let Some(at) = open.pop() {
                if at == goal {
                    return true;
                }
                if seen.insert(at) {
                    open.extend(below.get(at).into_iter().flatten());
                }
            }
            false
        };
        let mut wrong = String::new();
        for import in self.imports.iter().filter(|import| reaches(&import.to, &import.from)) {
            writeln!(wrong, "{}, which leads back to it", self.show(import)).unwrap();
        }
        wrong
    }
}

fn child(module: &Module, name: &str) -> Module {
    module.iter().cloned().chain([name.to_owned()]).collect()
}

/// Whether one module lies below the other, or is it.
fn related(one: &Module, other: &Module) -> bool {
    one.starts_with(other) || other.starts_with(one)
}

fn gather(folder: &Path, module: &mut Module, files: &mut BTreeMap<Module, PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let stem = path.file_stem().unwrap().to_string_lossy().into_owned();
        if path.is_dir() {
            module.push(stem);
            gather(&path, module, files);
            module.pop();
        } else if path.extension().is_some_and(|ending| ending == "rs") && stem != "tests" {
            let own =
                if ["mod", "lib", "main"].contains(&stem.as_str()) { module.clone() } else { child(module, &stem) };
            files.insert(own, path);
        }
    }
}

/// The paths that a source text names, with their lines: of `use` each that its braces hold, and those in the code.
/// Unit tests and comments are left out.
fn paths(text: &str) -> Vec<(String, usize)> {
    let text = text.split("\nmod tests {").next().unwrap_or(text);
    let mut found = Vec::new();
    let mut open: Option<(String, usize)> = None;
    for (number, line) in text.lines().enumerate() {
        let code = line.split("//").next().unwrap_or(line).trim();
        if let Some((import, _)) = &mut open {
            import.push_str(code);
        } else {
            let start = ["pub(crate) ", "pub(super) ", "pub "].iter().find_map(|own| code.strip_prefix(own));
            match start.unwrap_or(code).strip_prefix("use ") {
                Some(rest) => open = Some((rest.to_owned(), number + 1)),
                None => found.extend(plain_paths(code).map(|path| (path, number + 1))),
            }
        }
        if let Some((import, line)) = open.take_if(|(import, _)| import.ends_with(';')) {
            let mut all = Vec::new();
            spread(String::new(), import.trim_end_matches(';'), &mut all);
            found.extend(all.into_iter().map(|path| (path, line)));
        }
    }
    found
}

/// The paths in a line of code.
fn plain_paths(code: &str) -> impl Iterator<Item = String> {
    let words = code.split(|c: char| !c.is_alphanumeric() && c != '_' && c != ':');
    words.filter(|word| word.contains("::") && !word.starts_with(':')).map(|word| word.trim_end_matches(':').to_owned())
}

/// `a::{b, c::{d, e}}` as `a::b`, `a::c::d`, `a::c::e`.
fn spread(before: String, import: &str, found: &mut Vec<String>) {
    let Some((head, inner)) = import.split_once('{') else {
        let name = import.split(" as ").next().unwrap_or(import).trim();
        found.push(format!("{before}{name}"));
        return;
    };
    let before = format!("{before}{}", head.trim());
    let inner = &inner[..inner.rfind('}').unwrap_or(inner.len())];
    let (mut depth, mut start) = (0, 0);
    for (at, c) in inner.char_indices().chain([(inner.len(), ',')]) {
        match c {
            '{' => depth += 1,
            '}' => depth -= 1,
            ',' if depth == 0 => {
                if !inner[start..at].trim().is_empty() {
                    spread(before.clone(), inner[start..at].trim(), found);
                }
                start = at + 1;
            }
            _ => {}
        }
    }
}

fn crates() -> [(House, &'static [&'static str]); 2] {
    let core = Path::new(env!("CARGO_MANIFEST_DIR"));
    [(House::read(&core.join("src")), CORE), (House::read(&core.join("../signpost/src")), BINARY)]
}

#[test]
fn folders_import_only_from_below() {
    for (house, floors) in crates() {
        let wrong = house.upwards(floors);
        assert!(wrong.is_empty(), "\n{wrong}");
    }
}

#[test]
fn no_files_import_each_other_in_a_circle() {
    for (house, _) in crates() {
        let wrong = house.circles();
        assert!(wrong.is_empty(), "\n{wrong}");
    }
}

#[test]
fn imports_are_read_as_they_are_written() {
    let text = "use crate::a::{b, c::{d, e as f}};\npub(crate) use super::g;\n// use crate::no;\nfn x() -> crate::h::I {\n\
                    y::z();\n}\n#[cfg(test)]\nmod tests {\n    use crate::no;\n}\n";
    let found: Vec<String> = paths(text).into_iter().map(|(path, line)| format!("{line} {path}")).collect();
    assert_eq!(
        found,
        ["1 crate::a::b", "1 crate::a::c::d", "1 crate::a::c::e", "2 super::g", "4 crate::h::I", "5 y::z"]
    );
}

/// What the test is for: an import that leads up, and two files that know each other.
#[test]
fn what_is_wrong_is_named_with_its_line() {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    for (file, text) in [
        ("low/mod.rs", "mod a;\nmod b;\n"),
        ("low/a.rs", "use super::b::X;\nuse crate::high::Y;\n"),
        ("low/b.rs", "\n\nfn f(_: &super::a::Z) {}\n"),
        ("high.rs", "use crate::low::a::Z;\n"),
    ] {
        std::fs::create_dir_all(root.join("low")).unwrap();
        std::fs::write(root.join(file), text).unwrap();
    }
    for number in 0..20 {
        std::fs::write(root.join(format!("low/filler{number}.rs")), "").unwrap();
    }
    let house = House::read(root);
    let (upwards, circles) = (house.upwards(&["low", "high"]), house.circles());
    assert!(upwards.contains("a.rs:2: low::a imports high, which is above it"), "{upwards}");
    assert_eq!(upwards.lines().count(), 1);
    for line in ["a.rs:1: low::a imports low::b", "b.rs:3: low::b imports low::a", "a.rs:2:", "high.rs:1:"] {
        assert!(circles.contains(line), "{line}: {circles}");
    }
}
