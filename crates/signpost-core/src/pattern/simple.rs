//! A pattern whose braces are spelled out.

use super::glob::{Glob, Token};

/// A pattern without braces, anchored to its base.
#[derive(Clone, Debug)]
pub struct Simple(Shape);

#[derive(Clone, Debug)]
enum Shape {
    /// Component by component, at most [`MAX_COMPONENTS`].
    Components(Vec<Component>),
    /// Has a `**` that is not a whole component and crosses `/` all the same, or is very long.
    Flat(Vec<Token>),
}

#[derive(Clone, Debug, PartialEq, Eq)]
enum Component {
    /// `**`: any number of components.
    Deep,
    Glob(Glob),
}

const MAX_COMPONENTS: usize = 63;

/// A pattern as it takes a path, character by character.
pub(super) enum Piece<'a> {
    /// Any character, any number of times.
    Any,
    /// A component `**` that others follow: nothing, or characters up to a slash. The loop is the next piece.
    Folders,
    /// Within such a loop.
    InFolders,
    /// A component `**` at the end takes at least one character.
    AtLeastOne,
    /// A token of one component; `Star` and `Deep` any number of times.
    Token(std::borrow::Cow<'a, Token>),
    /// The end of the path.
    End,
}

/// How far a [`Simple`] pattern has got on the way down to a folder: a set of components that may come
/// next.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum States {
    /// One bit a component that may come next; no bit: nothing below can match.
    Components(u64),
    /// The pattern can only be held against the whole path.
    Whole,
}

impl States {
    /// Whether nothing below this folder can match.
    pub fn is_dead(self) -> bool {
        self == States::Components(0)
    }
}

/// How a pattern gets from a folder into one directly below.
#[derive(Clone, Debug)]
pub struct WayOn<'a> {
    /// The name of the folder, where it is spelled out.
    pub name: Option<&'a str>,
    /// Which component the name is held against.
    at: usize,
    /// The states in that folder.
    pub states: States,
}

/// What a pattern asks of the names of the files directly in a folder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Leaf<'a> {
    /// It takes none.
    None,
    /// It takes every file.
    All,
    /// It takes the files whose names end so.
    Suffix(&'a str),
    /// It takes the file of that name.
    Name(&'a str),
    /// Ask [`Simple::matches_leaf`] for each file.
    Ask,
}

impl Simple {
    /// Whether the pattern matches a path that counts from its base.
    pub fn matches(&self, path: &str) -> bool {
        match &self.0 {
            Shape::Flat(tokens) => flat(tokens, path),
            Shape::Components(_) => {
                let (folder, name) = path.rsplit_once('/').unwrap_or(("", path));
                let mut states = self.start();
                for part in folder.split('/').filter(|part| !part.is_empty()) {
                    states = self.enter(states, part);
                }
                self.matches_leaf(states, path, name)
            }
        }
    }

    /// The state at the base folder.
    pub fn start(&self) -> States {
        match &self.0 {
            Shape::Flat(_) => States::Whole,
            Shape::Components(components) => States::Components(close(components, 1)),
        }
    }

    /// The state in the folder `name` of a folder whose state is `states`.
    pub fn enter(&self, states: States, name: &str) -> States {
        let (Shape::Components(components), States::Components(mut bits)) = (&self.0, states) else { return states };
        let mut next = 0u64;
        while bits != 0 {
            let at = bits.trailing_zeros() as usize;
            bits &= bits - 1;
            match &components[at] {
                Component::Deep => next |= 1 << at,
                Component::Glob(glob) => {
                    if at + 1 < components.len() && glob.matches(name) {
                        next |= 1 << (at + 1);
                    }
                }
            }
        }
        States::Components(close(components, next))
    }

    /// Whether the file `name` directly in a folder with these states matches; `path` is the whole path
    /// from the base.
    pub fn matches_leaf(&self, states: States, path: &str, name: &str) -> bool {
        match (&self.0, states) {
            (Shape::Flat(tokens), _) => flat(tokens, path),
            (Shape::Components(components), States::Components(bits)) => {
                let last = components.len() - 1;
                bits >> last & 1 == 1
                    && match &components[last] {
                        Component::Deep => true,
                        Component::Glob(glob) => glob.matches(name),
                    }
            }
            (Shape::Components(_), States::Whole) => self.matches(path),
        }
    }

    /// Splits states into those that hold in every folder further down too (a `**` keeps them), and the rest,
    /// which hold in this folder only.
    pub fn split(&self, states: States) -> (States, States) {
        let (Shape::Components(components), States::Components(bits)) = (&self.0, states) else {
            return (states, States::Components(0));
        };
        let deep = (0..components.len()).filter(|at| bits >> at & 1 == 1 && components[*at] == Component::Deep);
        let lasting = close(components, deep.fold(0, |lasting, at| lasting | 1 << at));
        (States::Components(lasting), States::Components(bits & !lasting))
    }

    /// The ways on into a folder directly below, from these states: what its name must be, and the states there.
    /// A `**` that stays where it is is none.
    pub fn ways_on(&self, states: States) -> Vec<WayOn<'_>> {
        let (Shape::Components(components), States::Components(bits)) = (&self.0, states) else { return Vec::new() };
        let globs = (0..components.len() - 1).filter(|at| bits >> at & 1 == 1).filter_map(|at| match &components[at] {
            Component::Deep => None,
            Component::Glob(glob) => Some((at, glob)),
        });
        globs
            .map(|(at, glob)| {
                let name = if let Glob::Literal(text) = glob { Some(text.as_str()) } else { None };
                WayOn { name, at, states: States::Components(close(components, 1 << (at + 1))) }
            })
            .collect()
    }

    /// Whether a folder's name fits a way on whose name is not spelled out.
    pub fn way_fits(&self, way: &WayOn<'_>, name: &str) -> bool {
        match &self.0 {
            Shape::Components(components) => matches!(&components[way.at], Component::Glob(glob) if glob.matches(name)),
            Shape::Flat(_) => false,
        }
    }

    /// Whether the pattern can only be held against a whole path.
    pub fn needs_path(&self) -> bool {
        matches!(self.0, Shape::Flat(_))
    }

    /// What the pattern asks of the files directly in a folder with these states.
    pub fn leaf(&self, states: States) -> Leaf<'_> {
        let (Shape::Components(components), States::Components(bits)) = (&self.0, states) else { return Leaf::Ask };
        let last = components.len() - 1;
        if bits >> last & 1 == 0 {
            return Leaf::None;
        }
        match &components[last] {
            Component::Deep | Component::Glob(Glob::Any) => Leaf::All,
            Component::Glob(Glob::Suffix(text)) => Leaf::Suffix(text),
            Component::Glob(Glob::Literal(text)) => Leaf::Name(text),
            Component::Glob(_) => Leaf::Ask,
        }
    }

    /// The folders that every match stands in, as far as they are spelled out: `a/b` for `a/b/*.md`.
    pub fn literal_folders(&self) -> Vec<&str> {
        let Shape::Components(components) = &self.0 else { return Vec::new() };
        let before_last = &components[..components.len() - 1];
        before_last
            .iter()
            .map_while(|component| match component {
                Component::Glob(Glob::Literal(text)) => Some(text.as_str()),
                _ => None,
            })
            .collect()
    }

    /// Whether some of these names of files, and of folders, could be those of a match. `true` may be wrong,
    /// `false` never is.
    pub fn could_match<'n>(&self, folders: &dyn Fn(&str) -> bool, mut names: impl Iterator<Item = &'n str>) -> bool {
        let Shape::Components(components) = &self.0 else { return true };
        let (last, before) = components.split_last().expect("a pattern has a component");
        let spelled = |one: &Component| match one {
            Component::Glob(Glob::Literal(name)) => folders(name),
            _ => true,
        };
        before.iter().all(spelled)
            && match last {
                Component::Deep => true,
                Component::Glob(glob) => names.any(|name| glob.matches(name)),
            }
    }

    /// The first component, where it is spelled out.
    pub fn first_name(&self) -> Option<&str> {
        match &self.0 {
            Shape::Components(components) => match components.first() {
                Some(Component::Glob(Glob::Literal(text))) => Some(text),
                _ => None,
            },
            Shape::Flat(_) => None,
        }
    }

    /// The last component, where it is spelled out.
    pub fn last_name(&self) -> Option<&str> {
        match &self.0 {
            Shape::Components(components) => match components.last() {
                Some(Component::Glob(Glob::Literal(text))) => Some(text),
                _ => None,
            },
            Shape::Flat(_) => None,
        }
    }

    /// The whole path, where the pattern spells out one file.
    pub fn literal_path(&self) -> Option<String> {
        let Shape::Components(components) = &self.0 else { return None };
        let names = components.iter().map(|component| match component {
            Component::Glob(Glob::Literal(text)) => Some(text.as_str()),
            _ => None,
        });
        Some(names.collect::<Option<Vec<_>>>()?.join("/"))
    }

    /// Whether the pattern takes every file below its base.
    pub fn takes_everything(&self) -> bool {
        match &self.0 {
            Shape::Flat(_) => false,
            Shape::Components(components) => {
                let (last, before) = components.split_last().expect("a pattern has a component");
                matches!(last, Component::Deep) && before.iter().all(|c| *c == Component::Deep)
                    || *last == Component::Glob(Glob::Any)
                        && !before.is_empty()
                        && before.iter().all(|c| *c == Component::Deep)
            }
        }
    }

    /// The pattern as it takes a path, character by character.
    pub(super) fn pieces(&self) -> Vec<Piece<'_>> {
        use std::borrow::Cow::{Borrowed, Owned};
        let mut pieces = Vec::new();
        let deep = |pieces: &mut Vec<Piece<'_>>, last: bool| match last {
            true => pieces.extend([Piece::AtLeastOne, Piece::Any]),
            false => pieces.extend([Piece::Folders, Piece::InFolders]),
        };
        match &self.0 {
            Shape::Components(components) => {
                for (at, component) in components.iter().enumerate() {
                    let last = at + 1 == components.len();
                    match component {
                        Component::Deep => deep(&mut pieces, last),
                        Component::Glob(glob) => {
                            pieces.extend(glob.tokens().into_iter().map(|token| Piece::Token(Owned(token))));
                            if !last {
                                pieces.push(Piece::Token(Owned(Token::Separator)));
                            }
                        }
                    }
                }
            }
            Shape::Flat(tokens) => {
                let mut at = 0;
                while at < tokens.len() {
                    let starts = at == 0 || tokens[at - 1] == Token::Separator;
                    match &tokens[at] {
                        Token::Deep if starts && at + 1 == tokens.len() => deep(&mut pieces, true),
                        Token::Deep if starts && tokens[at + 1] == Token::Separator => {
                            deep(&mut pieces, false);
                            at += 1;
                        }
                        token => pieces.push(Piece::Token(Borrowed(token))),
                    }
                    at += 1;
                }
            }
        }
        pieces
    }

    pub(super) fn from_tokens(mut tokens: Vec<Token>, any_depth: bool) -> Self {
        if tokens.last() == Some(&Token::Separator) {
            tokens.push(Token::Deep);
        }
        if any_depth {
            tokens.splice(0..0, [Token::Deep, Token::Separator]);
        }
        let mut components = Vec::new();
        for part in tokens.split(|token| *token == Token::Separator) {
            let component = match part {
                [Token::Deep] => Component::Deep,
                part if part.contains(&Token::Deep) => return Simple(Shape::Flat(tokens)),
                part => Component::Glob(Glob::new(part)),
            };
            // `**/**` is `**`, but for the last, which asks for a component of its own.
            if component != Component::Deep || components.last() != Some(&Component::Deep) {
                components.push(component);
            }
        }
        if components.len() > MAX_COMPONENTS {
            return Simple(Shape::Flat(tokens));
        }
        Simple(Shape::Components(components))
    }
}

/// Adds what can come next because a `**` may also take nothing.
fn close(components: &[Component], mut bits: u64) -> u64 {
    for (at, component) in components.iter().enumerate() {
        if bits >> at & 1 == 1 && *component == Component::Deep && at + 1 < components.len() {
            bits |= 1 << (at + 1);
        }
    }
    bits
}

/// Holds tokens against a whole path, position by position of the pattern: `reach[i]` tells whether the
/// tokens so far can have taken the first `i` characters.
fn flat(tokens: &[Token], path: &str) -> bool {
    let chars: Vec<char> = path.chars().collect();
    let mut reach = vec![false; chars.len() + 1];
    reach[0] = true;
    let mut at = 0;
    while at < tokens.len() {
        let starts = at == 0 || tokens[at - 1] == Token::Separator;
        let next = match &tokens[at] {
            Token::Star => spread(&reach, |c| c != '/', &chars),
            Token::Deep if starts && tokens.get(at + 1) == Some(&Token::Separator) => {
                at += 1;
                let anywhere = spread(&reach, |_| true, &chars);
                (0..=chars.len()).map(|i| reach[i] || i > 0 && chars[i - 1] == '/' && anywhere[i - 1]).collect()
            }
            Token::Deep if starts && at + 1 == tokens.len() => {
                let anywhere = spread(&reach, |_| true, &chars);
                (0..=chars.len()).map(|i| i > 0 && anywhere[i - 1]).collect()
            }
            Token::Deep => spread(&reach, |_| true, &chars),
            one => (0..=chars.len()).map(|i| i > 0 && reach[i - 1] && one.takes_one(chars[i - 1])).collect(),
        };
        reach = next;
        at += 1;
    }
    reach[chars.len()]
}

fn spread(reach: &[bool], takes: impl Fn(char) -> bool, chars: &[char]) -> Vec<bool> {
    let mut next = reach.to_vec();
    for i in 1..next.len() {
        next[i] |= next[i - 1] && takes(chars[i - 1]);
    }
    next
}
