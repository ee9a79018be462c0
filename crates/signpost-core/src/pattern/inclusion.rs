//! Whether one pattern takes every file that another one takes, proved on the patterns alone.
//!
//! Both are read as automata over characters. Their alphabet is cut into classes within which no pattern tells one
//! character from another, so that one character stands for each class. Then the ways of the narrow pattern are
//! followed together with the set of states that the wide one can be in (the subset construction); the wide one takes
//! all where no way ends with the narrow one content and the wide one not. Paths are tidy: no component is empty.
//!
//! Method: Hopcroft, Motwani, Ullman, *Introduction to Automata Theory, Languages, and Computation*, §§2.3 and 4.2.

use super::Pattern;
use super::glob::Token;
use super::simple::Piece;
use rustc_hash::FxHashSet;

/// So many steps are tried; what needs more is not proved.
const MOST_STEPS: usize = 200_000;

/// Whether `wide` takes every path that `narrow` takes. `false` where it does not, and where a proof would take too
/// long. Negation is not looked at.
pub(super) fn takes_all_of(wide: &Pattern, narrow: &Pattern) -> bool {
    let (wide, narrow) = (Automaton::new(wide), Automaton::new(narrow));
    let letters = letters(&[&wide, &narrow]);
    let start_of_wide = wide.closed(wide.starts.iter().copied());
    let mut seen: FxHashSet<(usize, Vec<usize>, bool)> = FxHashSet::default();
    let mut open: Vec<(usize, Vec<usize>, bool)> = Vec::new();
    for state in narrow.closed(narrow.starts.iter().copied()) {
        open.push((state, start_of_wide.clone(), true));
    }
    let mut steps = 0;
    while let Some((state, beside, at_start)) = open.pop() {
        if !seen.insert((state, beside.clone(), at_start)) {
            continue;
        }
        if !at_start && narrow.accepts(state) && !beside.iter().any(|state| wide.accepts(*state)) {
            return false;
        }
        for letter in &letters {
            steps += 1;
            if steps > MOST_STEPS {
                return false;
            }
            if at_start && *letter == '/' {
                continue;
            }
            let next = narrow.after(&[state], *letter);
            if next.is_empty() {
                continue;
            }
            let beside = wide.after(&beside, *letter);
            open.extend(next.into_iter().map(|state| (state, beside.clone(), *letter == '/')));
        }
    }
    true
}

/// One character of each class that the patterns tell apart.
fn letters(automata: &[&Automaton<'_>]) -> Vec<char> {
    let mut cuts: Vec<u32> = vec![0, '/' as u32, '/' as u32 + 1];
    let tokens = automata.iter().flat_map(|one| &one.pieces).filter_map(|piece| match piece {
        Piece::Token(token) => Some(&**token),
        _ => None,
    });
    for token in tokens {
        match token {
            Token::Char(c) => cuts.extend([*c as u32, *c as u32 + 1]),
            Token::Class(class) => {
                cuts.extend(class.ranges.iter().flat_map(|(low, high)| [*low as u32, *high as u32 + 1]))
            }
            _ => {}
        }
    }
    cuts.sort_unstable();
    cuts.dedup();
    // A class may begin among the numbers that are no characters.
    let first = |from: u32| (from..=from.saturating_add(0x800)).find_map(char::from_u32);
    let mut letters: Vec<char> = cuts.into_iter().filter_map(first).filter(|c| *c != '\0').collect();
    letters.push('\u{1}');
    letters.sort_unstable();
    letters.dedup();
    letters
}

/// The alternatives of a pattern, one after the other; a state is a place between their pieces.
struct Automaton<'p> {
    pieces: Vec<Piece<'p>>,
    starts: Vec<usize>,
}

impl<'p> Automaton<'p> {
    fn new(pattern: &'p Pattern) -> Self {
        let mut automaton = Automaton { pieces: Vec::new(), starts: Vec::new() };
        for simple in pattern.simple() {
            automaton.starts.push(automaton.pieces.len());
            automaton.pieces.extend(simple.pieces());
            automaton.pieces.push(Piece::End);
        }
        automaton
    }

    fn accepts(&self, state: usize) -> bool {
        matches!(self.pieces[state], Piece::End)
    }

    /// The states and all that can be got to from them without a character.
    fn closed(&self, states: impl Iterator<Item = usize>) -> Vec<usize> {
        let mut all: Vec<usize> = Vec::new();
        let mut open: Vec<usize> = states.collect();
        while let Some(state) = open.pop() {
            if all.contains(&state) {
                continue;
            }
            all.push(state);
            match &self.pieces[state] {
                Piece::Any => open.push(state + 1),
                Piece::Token(token) if matches!(**token, Token::Star | Token::Deep) => open.push(state + 1),
                // Past the loop and the slash that ends it.
                Piece::Folders => open.push(state + 2),
                _ => {}
            }
        }
        all.sort_unstable();
        all
    }

    fn after(&self, states: &[usize], c: char) -> Vec<usize> {
        let mut next: Vec<usize> = Vec::new();
        for state in states {
            match &self.pieces[*state] {
                Piece::Any => next.push(*state),
                Piece::Token(token) if **token == Token::Deep || **token == Token::Star && c != '/' => {
                    next.push(*state);
                }
                // From here on it is inside of the loop.
                Piece::Folders | Piece::InFolders => {
                    next.push(if matches!(self.pieces[*state], Piece::Folders) { state + 1 } else { *state });
                    if c == '/' {
                        let past = if matches!(self.pieces[*state], Piece::Folders) { 2 } else { 1 };
                        next.push(state + past);
                    }
                }
                Piece::AtLeastOne => next.push(state + 1),
                Piece::Token(token) if token.takes_one(c) => next.push(state + 1),
                Piece::Token(_) | Piece::End => {}
            }
        }
        self.closed(next.into_iter())
    }
}

#[cfg(test)]
mod tests {
    use crate::pattern::{Dialect, Pattern};
    use proptest::prelude::*;

    fn takes(wide: &str, narrow: &str) -> bool {
        let read = |text: &str| Pattern::parse(text, &Dialect::default()).unwrap();
        read(wide).takes_all_of(&read(narrow))
    }

    #[test]
    fn wide_patterns_take_all_of_narrow_ones() {
        for (wide, narrow) in [
            ("kiosk/**", "kiosk/src/**/*.tsx"),
            ("**", "a/b.c"),
            ("*.ts", "src/**/*.ts"),
            ("src/", "src/a/*"),
            ("**/*.rs", "*.rs"),
            ("*.rs", "**/*.rs"),
            ("**/*", "**"),
            ("a/**/b.*", "a/b.c"),
            ("*.{ts,tsx}", "x/*.tsx"),
            ("*.{ts,tsx}", "*.{tsx,ts}"),
            ("*.ts*", "*.{ts,tsx}"),
            ("[a-z]*.ts", "[b-d]?.ts"),
            ("[!A-Z]*.ts", "[a-z]*.ts"),
            ("*", "?*"),
            ("a/**", "a/**/**"),
            ("a**b", "a/x/b"),
        ] {
            assert!(takes(wide, narrow), "{wide} takes {narrow}");
        }
        for (wide, narrow) in [
            ("src/*", "src/**"),
            ("src/*.ts", "src/**/*.ts"),
            ("a/**", "**/a/b"),
            ("[!A-Z]*.ts", "*.ts"),
            ("[a-z]*", "[a-z0-9]*"),
            ("?*.ts", "*.ts"),
            ("/*.rs", "*.rs"),
            ("*.{ts,tsx}", "*.ts*"),
            ("a/**/b", "a**b"),
            ("*a*b*", "*b*a*"),
        ] {
            assert!(!takes(wide, narrow), "{wide} does not take {narrow}");
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]

        /// What is proved holds for every path, and what is refuted (among small patterns nothing is left open) fails
        /// for some.
        #[test]
        fn proofs_hold(
            wide in "(/|\\./)?([ab*?/]|\\*\\*|\\*\\*/|\\[!?a\\]|\\{a,b/\\}){1,5}",
            narrow in "(/|\\./)?([ab*?/]|\\*\\*|\\*\\*/|\\[!?a\\]|\\{a,b/\\}){1,5}",
        ) {
            let dialect = Dialect::default();
            let (Ok(w), Ok(n)) = (Pattern::parse(&wide, &dialect), Pattern::parse(&narrow, &dialect)) else { return Ok(()) };
            let mut paths: Vec<String> = vec![String::new()];
            let mut all = Vec::new();
            for _ in 0..6 {
                paths = paths.iter().flat_map(|path| ["a", "b", "c", "/"].map(|next| format!("{path}{next}"))).collect();
                paths.retain(|path| !path.starts_with('/') && !path.contains("//"));
                all.extend(paths.iter().filter(|path| !path.ends_with('/')).cloned());
            }
            let proved = w.takes_all_of(&n);
            let against = all.iter().find(|path| n.matches(path) && !w.matches(path));
            prop_assert!(!(proved && against.is_some()), "{} {} {:?}", wide, narrow, against);
            prop_assert!(proved || against.is_some() || wide.len() + narrow.len() > 6, "{} {}", wide, narrow);
        }
    }
}
