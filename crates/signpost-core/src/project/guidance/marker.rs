//! The headings by which a file that several rules share says what stands below: what publishing writes there, and what
//! readers make of it.
//!
//! An assistant that reads only whole files has no other way to know for which files a section is meant
//! (`` ## For `*.sql` and `views/**`, except `views/old/**` ``), or that it is only of use at times
//! (`## When needed: How to add a view`).

use std::fmt;

/// What a heading says of the text below it.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Marker {
    /// It is meant for these files.
    For {
        /// The patterns, from the root.
        paths: Vec<String>,
        /// What they do not take.
        except: Vec<String>,
    },
    /// It is of use at times: when, or for what.
    When(String),
}

const FOR: &str = "For ";
const EXCEPT: &str = ", except ";
const WHEN: &str = "When needed: ";

impl Marker {
    /// Reads a heading without its signs; `None` for one that publishing does not write.
    pub fn read(title: &str) -> Option<Marker> {
        if let Some(summary) = title.strip_prefix(WHEN) {
            return Some(Marker::When(summary.to_owned()));
        }
        let rest = title.strip_prefix(FOR)?;
        let (paths, except) = match rest.split_once(&format!("`{EXCEPT}`")) {
            // What was cut off belongs to either side.
            Some((paths, except)) => (patterns(&format!("{paths}`"))?, patterns(&format!("`{except}"))?),
            None => (patterns(rest)?, Vec::new()),
        };
        Some(Marker::For { paths, except })
    }
}

/// The patterns of `` `a`, `b` and `c` ``.
fn patterns(words: &str) -> Option<Vec<String>> {
    let inner = words.strip_prefix('`')?;
    let inner = inner.strip_suffix('`').unwrap_or(inner);
    let patterns = inner.split("`, `").flat_map(|part| part.split("` and `")).map(str::to_owned);
    (!inner.is_empty()).then(|| patterns.collect())
}

impl fmt::Display for Marker {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Marker::For { paths, except } => {
                write!(f, "{FOR}{}", listed(paths))?;
                if !except.is_empty() {
                    write!(f, "{EXCEPT}{}", listed(except))?;
                }
                Ok(())
            }
            Marker::When(summary) => write!(f, "{WHEN}{summary}"),
        }
    }
}

fn listed(patterns: &[String]) -> String {
    let quoted: Vec<String> = patterns.iter().map(|pattern| format!("`{pattern}`")).collect();
    match &quoted[..] {
        [head @ .., last] if !head.is_empty() => format!("{} and {last}", head.join(", ")),
        _ => quoted.concat(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn what_publishing_does_not_write_is_no_marker() {
        for title in ["For the team", "For", "For ``", "When needed", "Style", "For `a`, except ``"] {
            assert_eq!(Marker::read(title), None, "{title}");
        }
    }

    proptest! {
        #[test]
        fn what_is_written_reads_back(
            paths in proptest::collection::vec("[a-z*/{},! .-]{1,12}", 1..4),
            except in proptest::collection::vec("[a-z*/ ,]{1,12}", 0..3),
            summary in "[a-zA-Z` ,:]{0,30}",
        ) {
            for marker in [Marker::For { paths, except }, Marker::When(summary)] {
                prop_assert_eq!(Marker::read(&marker.to_string()), Some(marker));
            }
        }
    }
}
