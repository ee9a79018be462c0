//! Where files and folders are now that stood elsewhere before, going by what git knows.

use crate::base::repo_path::RepoPath;
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// Asks for renames, old and new name, the newest first.
type Ask<'a> = Box<dyn Fn() -> Vec<(RepoPath, RepoPath)> + Send + Sync + 'a>;

/// What was renamed. It is asked for once, and only where something is not there.
#[derive(Default)]
pub struct Renames<'a> {
    ask: Option<Ask<'a>>,
    /// Each old name, with the one that its file has now.
    known: OnceLock<BTreeMap<String, RepoPath>>,
}

impl<'a> Renames<'a> {
    /// Renames that `ask` gives when they are needed: old and new name, the newest first.
    #[must_use]
    pub fn asked(ask: impl Fn() -> Vec<(RepoPath, RepoPath)> + Send + Sync + 'a) -> Self {
        Renames { ask: Some(Box::new(ask)), known: OnceLock::new() }
    }

    fn known(&self) -> &BTreeMap<String, RepoPath> {
        self.known.get_or_init(|| {
            let mut now: BTreeMap<String, RepoPath> = BTreeMap::new();
            for (from, to) in self.ask.as_ref().map_or_else(Vec::new, |ask| ask()) {
                // What it became was renamed again, perhaps; what had its name later is another file's story.
                let last = now.get(to.as_str()).cloned().unwrap_or(to);
                now.entry(from.as_str().to_owned()).or_insert(last);
            }
            now
        })
    }

    /// Where a file or folder is now. A folder is where most of its files went, if those that kept their place in it went
    /// to one folder.
    #[must_use]
    pub fn now(&self, old: &RepoPath) -> Option<RepoPath> {
        let known = self.known();
        if let Some(new) = known.get(old.as_str()) {
            return Some(new.clone());
        }
        let within = format!("{old}/");
        let (mut folder, mut kept, mut all) = (None, 0, 0);
        for (from, to) in known.range(within.clone()..).take_while(|(from, _)| from.starts_with(&within)) {
            all += 1;
            let Some(head) = to.as_str().strip_suffix(&from[within.len()..]) else { continue };
            let Some(new) = head.strip_suffix('/').and_then(RepoPath::new) else { continue };
            if folder.as_ref().is_some_and(|folder| *folder != new) {
                return None;
            }
            (folder, kept) = (Some(new), kept + 1);
        }
        folder.filter(|_| kept * 2 > all)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn renames(list: &[(&str, &str)]) -> Renames<'static> {
        let path = |text: &str| RepoPath::new(text).unwrap_or_default();
        let list: Vec<_> = list.iter().map(|(from, to)| (path(from), path(to))).collect();
        Renames::asked(move || list.clone())
    }

    fn now(renames: &Renames<'_>, old: &str) -> Option<String> {
        renames.now(&RepoPath::new(old)?).map(|new| new.to_string())
    }

    #[test]
    fn names_are_followed_to_the_last() {
        // The newest first: a became b, and b became c.
        let known = renames(&[("b.ts", "c.ts"), ("a.ts", "b.ts")]);
        assert_eq!(now(&known, "a.ts").as_deref(), Some("c.ts"));
        assert_eq!(now(&known, "c.ts"), None);
        // Another file had the name before.
        let known = renames(&[("a.ts", "new.ts"), ("a.ts", "old.ts")]);
        assert_eq!(now(&known, "a.ts").as_deref(), Some("new.ts"));
        // There and back, and away again.
        let known = renames(&[("b", "a"), ("a", "b")]);
        assert_eq!(now(&known, "a").as_deref(), Some("a"));
    }

    #[test]
    fn folders_are_where_their_files_went() {
        let known = renames(&[("src/old/a.ts", "src/new/a.ts"), ("src/old/in/b.ts", "src/new/in/b.ts")]);
        assert_eq!(now(&known, "src/old").as_deref(), Some("src/new"));
        assert_eq!(now(&known, "src/old/in").as_deref(), Some("src/new/in"));
        assert_eq!(now(&known, "src/ol"), None);
        assert_eq!(now(&known, "src"), None, "the folder is still there, and keeps its name");
        let apart = renames(&[("old/a.ts", "one/a.ts"), ("old/b.ts", "two/b.ts")]);
        assert_eq!(now(&apart, "old"), None);
        let scattered = renames(&[("old/a.ts", "one/a.ts"), ("old/b.ts", "x.ts"), ("old/c.ts", "y.ts")]);
        assert_eq!(now(&scattered, "old"), None);
    }

    #[test]
    fn nothing_is_asked_before_something_is_missing() {
        assert_eq!(now(&Renames::default(), "a"), None);
        let asked = std::sync::atomic::AtomicUsize::new(0);
        let counting = || {
            asked.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
            Vec::new()
        };
        let known = Renames::asked(counting);
        assert_eq!(asked.load(std::sync::atomic::Ordering::Relaxed), 0);
        for name in ["a", "b"] {
            assert_eq!(now(&known, name), None);
        }
        assert_eq!(asked.load(std::sync::atomic::Ordering::Relaxed), 1);
    }
}
