//! One component of a path against one component of a pattern.

/// A character class; it never takes `/`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Class {
    pub negated: bool,
    pub ranges: Vec<(char, char)>,
}

impl Class {
    pub fn takes(&self, c: char) -> bool {
        c != '/' && self.ranges.iter().any(|(low, high)| (*low..=*high).contains(&c)) != self.negated
    }
}

/// A token of a pattern whose braces are spelled out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Token {
    Char(char),
    Separator,
    /// `*`
    Star,
    /// `**`
    Deep,
    /// `?`
    One,
    Class(Class),
}

impl Token {
    /// The token as a pattern writes it.
    pub fn words(&self) -> String {
        match self {
            Token::Char(c) => c.to_string(),
            Token::Separator => "/".to_owned(),
            Token::Star => "*".to_owned(),
            Token::Deep => "**".to_owned(),
            Token::One => "?".to_owned(),
            Token::Class(class) => {
                let sign = if class.negated { "!" } else { "" };
                let range =
                    |(low, high): &(char, char)| if low == high { low.to_string() } else { format!("{low}-{high}") };
                format!("[{sign}{}]", class.ranges.iter().map(range).collect::<String>())
            }
        }
    }

    /// Whether this token takes exactly one character, and this one.
    pub fn takes_one(&self, c: char) -> bool {
        match self {
            Token::Char(own) => *own == c,
            Token::One => c != '/',
            Token::Class(class) => class.takes(c),
            Token::Separator => c == '/',
            Token::Star | Token::Deep => false,
        }
    }
}

/// A component of a pattern without `**`, with the shapes that people mostly write singled out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Glob {
    Literal(String),
    /// `*`
    Any,
    /// `*.ts`
    Suffix(String),
    /// `test_*`
    Prefix(String),
    General(Vec<Token>),
}

impl Glob {
    pub fn new(tokens: &[Token]) -> Self {
        let literal = |tokens: &[Token]| -> Option<String> {
            tokens.iter().map(|token| if let Token::Char(c) = token { Some(*c) } else { None }).collect()
        };
        if let Some(text) = literal(tokens) {
            return Glob::Literal(text);
        }
        let special = match tokens {
            [Token::Star] => Some(Glob::Any),
            [Token::Star, rest @ ..] => literal(rest).map(Glob::Suffix),
            [rest @ .., Token::Star] => literal(rest).map(Glob::Prefix),
            _ => None,
        };
        special.unwrap_or_else(|| Glob::General(tokens.to_vec()))
    }

    /// The tokens that it was made from.
    pub fn tokens(&self) -> Vec<Token> {
        let chars = |text: &str| text.chars().map(Token::Char).collect::<Vec<_>>();
        match self {
            Glob::Literal(text) => chars(text),
            Glob::Any => vec![Token::Star],
            Glob::Suffix(text) => [vec![Token::Star], chars(text)].concat(),
            Glob::Prefix(text) => [chars(text), vec![Token::Star]].concat(),
            Glob::General(tokens) => tokens.clone(),
        }
    }

    pub fn matches(&self, name: &str) -> bool {
        match self {
            Glob::Literal(text) => text == name,
            Glob::Any => true,
            Glob::Suffix(text) => name.ends_with(text.as_str()),
            Glob::Prefix(text) => name.starts_with(text.as_str()),
            Glob::General(tokens) => general(tokens, name),
        }
    }
}

/// The classic match with one point of return: after a `*` failed to take enough, let it take one more.
fn general(tokens: &[Token], name: &str) -> bool {
    let mut token = 0;
    let mut rest = name.chars();
    let mut retry: Option<(usize, std::str::Chars<'_>)> = None;
    loop {
        if matches!(tokens.get(token), Some(Token::Star)) {
            token += 1;
            retry = Some((token, rest.clone()));
            continue;
        }
        let here = rest.clone();
        match (tokens.get(token), rest.next()) {
            (None, None) => return true,
            (Some(own), Some(c)) if own.takes_one(c) => token += 1,
            _ => {
                drop(here);
                let Some((after_star, from)) = &mut retry else { return false };
                if from.next().is_none() {
                    return false;
                }
                token = *after_star;
                rest = from.clone();
            }
        }
    }
}
