//! From the words of a pattern to [`Simple`] patterns.

use super::glob::{Class, Token};
use super::{Bare, Dialect, MAX_ALTERNATIVES, Pattern, PatternError, PatternErrorKind, Simple};

/// A pattern as a tree: braces not yet spelled out.
#[derive(Debug, Clone)]
enum Node {
    Token(Token),
    Alternatives(Vec<Vec<Node>>),
}

/// Braces nested deeper than this are refused like those that multiply.
const MAX_NESTING: usize = 32;

pub(super) fn compile(text: &str, dialect: &Dialect) -> Result<Pattern, PatternError> {
    let mut rest = text;
    let negated = dialect.negate && rest.starts_with('!');
    if negated {
        rest = &rest[1..];
    }
    rest = rest.strip_prefix("./").unwrap_or(rest);
    let anchored = rest.starts_with('/');
    rest = rest.strip_prefix('/').unwrap_or(rest);
    let offset = text.len() - rest.len();
    if rest.is_empty() {
        return Err(PatternError { kind: PatternErrorKind::Empty, span: 0..text.len() });
    }
    let any_depth = dialect.bare == Bare::AnyDepth && !anchored && !rest.contains('/');
    let mut reader = Reader { text: rest, offset, at: 0, braces: dialect.braces };
    let nodes = reader.sequence(0)?;
    let whole = offset..text.len();
    let too_many = || PatternError { kind: PatternErrorKind::TooMany, span: whole.clone() };
    let count = count(&nodes);
    if count > MAX_ALTERNATIVES || count.saturating_mul(rest.len()) > 1 << 20 {
        return Err(too_many());
    }
    let simple =
        spell_out(&nodes).into_iter().map(|tokens| Simple::from_tokens(join_stars(tokens), any_depth)).collect();
    Ok(Pattern { text: text.to_owned(), negated, simple })
}

/// The patterns without braces that a pattern of a dialect with braces stands for, in words.
pub(super) fn spelled_out(text: &str) -> Vec<String> {
    let mut reader = Reader { text, offset: 0, at: 0, braces: true };
    match reader.sequence(0) {
        Ok(nodes) if count(&nodes) <= MAX_ALTERNATIVES => {
            spell_out(&nodes).iter().map(|tokens| tokens.iter().map(Token::words).collect()).collect()
        }
        _ => Vec::new(),
    }
}

/// The same pattern with each comma that a comma-separated list would split at as `?`.
pub(super) fn commas_as_any(text: &str, braces: bool) -> String {
    let mut reader = Reader { text, offset: 0, at: 0, braces };
    let words = |token: &Token| match token {
        Token::Char(',') => "?".to_owned(),
        Token::Class(class) if class.ranges.iter().any(|(low, high)| (*low..=*high).contains(&',')) => "?".to_owned(),
        token => token.words(),
    };
    fn write(nodes: &[Node], words: &dyn Fn(&Token) -> String) -> String {
        nodes
            .iter()
            .map(|node| match node {
                Node::Token(token) => words(token),
                Node::Alternatives(all) => {
                    format!("{{{}}}", all.iter().map(|nodes| write(nodes, words)).collect::<Vec<_>>().join(","))
                }
            })
            .collect()
    }
    reader.sequence(0).map_or_else(|_| text.replace(',', "?"), |nodes| write(&nodes, &words))
}

struct Reader<'a> {
    text: &'a str,
    offset: usize,
    at: usize,
    braces: bool,
}

impl Reader<'_> {
    fn peek(&self) -> Option<char> {
        self.text[self.at..].chars().next()
    }

    fn next(&mut self) -> Option<char> {
        let c = self.peek()?;
        self.at += c.len_utf8();
        Some(c)
    }

    fn error(&self, kind: PatternErrorKind, from: usize, to: usize) -> PatternError {
        PatternError { kind, span: self.offset + from..self.offset + to }
    }

    /// Reads up to the end, or inside of braces (`depth` > 0) up to a `,` or `}`.
    fn sequence(&mut self, depth: usize) -> Result<Vec<Node>, PatternError> {
        let mut nodes = Vec::new();
        loop {
            let start = self.at;
            match self.peek() {
                None => return Ok(nodes),
                Some(',' | '}') if depth > 0 => return Ok(nodes),
                Some('}') if self.braces => return Err(self.error(PatternErrorKind::StrayBrace, start, start + 1)),
                Some('{') if self.braces => {
                    if depth == MAX_NESTING {
                        return Err(self.error(PatternErrorKind::TooMany, start, self.text.len()));
                    }
                    nodes.push(self.alternatives(depth)?);
                }
                Some(c) => {
                    self.next();
                    let token = match c {
                        '/' => Token::Separator,
                        '?' => Token::One,
                        '*' => Token::Star,
                        '[' => Token::Class(self.class(start)?),
                        c => Token::Char(c),
                    };
                    nodes.push(Node::Token(token));
                }
            }
        }
    }

    fn alternatives(&mut self, depth: usize) -> Result<Node, PatternError> {
        let start = self.at;
        let mut alternatives = Vec::new();
        loop {
            self.next(); // the `{` or `,`
            alternatives.push(self.sequence(depth + 1)?);
            match self.peek() {
                Some(',') => {}
                Some(_) => {
                    self.next();
                    return Ok(Node::Alternatives(alternatives));
                }
                None => return Err(self.error(PatternErrorKind::UnclosedBrace, start, start + 1)),
            }
        }
    }

    fn class(&mut self, start: usize) -> Result<Class, PatternError> {
        let negated = matches!(self.peek(), Some('!' | '^'));
        if negated {
            self.next();
        }
        let mut ranges = Vec::new();
        let mut first = true;
        loop {
            let from = self.at;
            let Some(low) = self.next() else {
                return Err(self.error(PatternErrorKind::UnclosedClass, start, start + 1));
            };
            if low == ']' && !first {
                return Ok(Class { negated, ranges });
            }
            first = false;
            let mut ahead = self.text[self.at..].chars();
            match (ahead.next(), ahead.next()) {
                (Some('-'), Some(high)) if high != ']' => {
                    self.next();
                    self.next();
                    if low > high {
                        return Err(self.error(PatternErrorKind::TurnedRange, from, self.at));
                    }
                    ranges.push((low, high));
                }
                _ => ranges.push((low, low)),
            }
        }
    }
}

/// How many patterns the braces stand for.
fn count(nodes: &[Node]) -> usize {
    nodes.iter().fold(1usize, |product, node| match node {
        Node::Token(_) => product,
        Node::Alternatives(all) => {
            product.saturating_mul(all.iter().map(|nodes| count(nodes)).fold(0, usize::saturating_add))
        }
    })
}

fn spell_out(nodes: &[Node]) -> Vec<Vec<Token>> {
    let mut all = vec![Vec::new()];
    for node in nodes {
        match node {
            Node::Token(token) => all.iter_mut().for_each(|tokens| tokens.push(token.clone())),
            Node::Alternatives(alternatives) => {
                let spelled: Vec<Vec<Token>> = alternatives.iter().flat_map(|nodes| spell_out(nodes)).collect();
                all = all.iter().flat_map(|head| spelled.iter().map(move |tail| [&head[..], tail].concat())).collect();
            }
        }
    }
    all
}

/// Two or more stars in a row are one `**`.
fn join_stars(tokens: Vec<Token>) -> Vec<Token> {
    let mut joined: Vec<Token> = Vec::with_capacity(tokens.len());
    for token in tokens {
        match (joined.last(), &token) {
            (Some(Token::Star | Token::Deep), Token::Star) => {
                joined.pop();
                joined.push(Token::Deep);
            }
            _ => joined.push(token),
        }
    }
    joined
}
