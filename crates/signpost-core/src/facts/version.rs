//! Versions and ranges of them, of every ecosystem here, as the interval of versions that they take.
//!
//! Ranges: <https://doc.rust-lang.org/cargo/reference/specifying-dependencies.html>,
//! <https://docs.npmjs.com/cli/configuring-npm/package-json#dependencies>,
//! <https://packaging.python.org/en/latest/specifications/version-specifiers/>. Pre-releases and build
//! metadata are left out of account.

use crate::base::ecosystem::Ecosystem;
use crate::directive::measure::{version, version_value};

/// The versions from `low` to `high`, both in it, as numbers that compare like versions.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Span {
    /// The lowest.
    pub low: f64,
    /// The highest; infinite where there is none.
    pub high: f64,
}

impl Span {
    /// Whether it is one version.
    pub fn is_one(&self) -> bool {
        self.low == self.high
    }

    /// Whether both take some version.
    pub fn meets(&self, other: &Span) -> bool {
        self.low <= other.high && other.low <= self.high
    }

    /// Whether it takes a version that the other one does not bound.
    pub fn is_open(&self) -> bool {
        self.high.is_infinite()
    }
}

/// `1.2.3`, `v18`, `20.x`: all versions that begin so.
pub fn exact(text: &str) -> Option<Span> {
    let core = text.trim().split(['+', '-', ' ', '(']).next()?;
    let (parts, _) = version(core)?;
    Some(prefix(&parts))
}

fn prefix(parts: &[u64]) -> Span {
    Span { low: version_value(parts, 0), high: version_value(parts, 99_999) }
}

/// Just below a version.
fn below(parts: &[u64]) -> f64 {
    version_value(parts, 0) - 1.0
}

/// A range as a manifest writes it. Alternatives are taken together; what cannot be read is no range.
pub fn range(text: &str, ecosystem: Ecosystem) -> Option<Span> {
    let text = text.trim().trim_start_matches("workspace:").trim_start_matches("npm:");
    if matches!(text, "" | "*" | "latest" | "any" | "x") || text.contains(['/', '@']) {
        return None;
    }
    let spans: Option<Vec<Span>> = text.split("||").map(|part| conjunction(part, ecosystem)).collect();
    let spans = spans?;
    let low = spans.iter().map(|span| span.low).fold(f64::INFINITY, f64::min);
    let high = spans.iter().map(|span| span.high).fold(f64::NEG_INFINITY, f64::max);
    (low <= high).then_some(Span { low, high })
}

fn conjunction(text: &str, ecosystem: Ecosystem) -> Option<Span> {
    if let Some((from, to)) = text.split_once(" - ") {
        let (from, to) = (exact(from)?, exact(to)?);
        return Some(Span { low: from.low, high: to.high });
    }
    let mut span = Span { low: f64::NEG_INFINITY, high: f64::INFINITY };
    let mut any = false;
    // `>= 1.2` is one comparator, `>=1.2 <2` two.
    let mut operator = String::new();
    for token in text.split([',', ' ']).filter(|token| !token.is_empty()) {
        let token = format!("{operator}{token}");
        operator.clear();
        if token.chars().all(|c| matches!(c, '<' | '>' | '=' | '~' | '^' | '!')) {
            operator = token;
            continue;
        }
        let one = comparator(&token, ecosystem)?;
        span = Span { low: span.low.max(one.low), high: span.high.min(one.high) };
        any = true;
    }
    any.then_some(span)
}

fn comparator(token: &str, ecosystem: Ecosystem) -> Option<Span> {
    let at = token.find(|c: char| c.is_ascii_digit() || c == 'v')?;
    let (operator, rest) = token.split_at(at);
    let core = rest.split(['+', '-']).next()?;
    let wild = core.ends_with(['*', 'x']);
    let core = core.trim_end_matches(['*', 'x']).trim_end_matches('.');
    let (parts, _) = version(core)?;
    let all = prefix(&parts);
    let next = |at: usize| {
        let mut next: Vec<u64> = parts[..=at.min(parts.len() - 1)].to_vec();
        if let Some(last) = next.last_mut() {
            *last += 1;
        }
        below(&next)
    };
    // The first part that is not zero.
    let leading = parts.iter().position(|part| *part != 0).unwrap_or(parts.len() - 1);
    Some(match operator {
        ">=" => Span { low: all.low, high: f64::INFINITY },
        ">" => Span { low: all.high + 1.0, high: f64::INFINITY },
        "<=" => Span { low: f64::NEG_INFINITY, high: all.high },
        "<" => Span { low: f64::NEG_INFINITY, high: below(&parts) },
        "^" => Span { low: all.low, high: next(leading) },
        "~" => Span { low: all.low, high: next(1) },
        "~>" if parts.len() < 2 => Span { low: all.low, high: next(0) },
        "~=" | "~>" => Span { low: all.low, high: next(parts.len().saturating_sub(2)) },
        "=" | "==" | "===" => all,
        "!=" => Span { low: f64::NEG_INFINITY, high: f64::INFINITY },
        "" if ecosystem == Ecosystem::Rust && !wild => Span { low: all.low, high: next(leading) },
        "" => all,
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn takes(text: &str, ecosystem: Ecosystem, other: &str) -> bool {
        range(text, ecosystem).unwrap().meets(&exact(other).unwrap())
    }

    #[test]
    fn ranges_take_what_their_ecosystem_says() {
        for (text, ecosystem, inside, outside) in [
            ("^17.0.2", Ecosystem::JavaScript, "17.3", "18"),
            ("~1.2.3", Ecosystem::JavaScript, "1.2.9", "1.3"),
            ("18.x", Ecosystem::JavaScript, "18.19", "20"),
            (">=18 <21", Ecosystem::JavaScript, "20", "21"),
            (">= 18", Ecosystem::JavaScript, "22", "16"),
            ("16 || 18", Ecosystem::JavaScript, "18", "20"),
            ("0.7", Ecosystem::Rust, "0.7.4", "0.8"),
            ("1", Ecosystem::Rust, "1.40", "2"),
            ("=1.2.3", Ecosystem::Rust, "1.2.3", "1.2.4"),
            (">=3.10,<4", Ecosystem::Python, "3.12", "3.9"),
            ("~=4.2", Ecosystem::Python, "4.5", "5.0"),
            ("==2.1.*", Ecosystem::Python, "2.1.7", "2.2"),
            ("1.0 - 2.3", Ecosystem::JavaScript, "2.3.9", "2.4"),
        ] {
            assert!(takes(text, ecosystem, inside), "{text} takes {inside}");
            assert!(!takes(text, ecosystem, outside), "{text} does not take {outside}");
        }
        assert!(range("latest", Ecosystem::JavaScript).is_none());
        assert!(range("git+https://x.org/y", Ecosystem::JavaScript).is_none());
    }
}
