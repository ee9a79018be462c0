//! What a clause asks, by the words that say so.

use super::Modality;
use super::words::{VERBS, Word};

impl Modality {
    /// What `not x`, `instead of x` asks after a clause that asks this.
    pub(super) fn contrast(self) -> Modality {
        match self {
            Modality::Require => Modality::Forbid,
            Modality::Prefer => Modality::Avoid,
            _ => Modality::State,
        }
    }
}

/// What a clause asks, and which of its words say so.
pub(super) fn modality(words: &[&Word], fragment: bool) -> (Modality, Vec<usize>) {
    let is = |at: usize, list: &[&str]| words.get(at).is_some_and(|word| word.is(list));
    let number_follows = |at: usize| {
        is(at + 1, &["more", "less", "fewer", "longer", "exceed", "be"])
            && is(at + 2, &["than", "longer", "more", "wider", "larger", "exceed"])
            || is(at + 1, &["exceed"])
    };
    for at in 0..words.len() {
        if words[at].code {
            continue;
        }
        let low = words[at].low.as_str();
        let found: Option<(Modality, usize)> = match low {
            "never" if is(at + 1, &["forget"]) => Some((Modality::Require, 2)),
            "never" => Some((Modality::Forbid, 1)),
            "no" if is(at + 1, &["need"]) => return (Modality::State, Vec::new()),
            "no" if is(at + 1, &["more", "less", "fewer", "longer"]) => None,
            "no" if is(at + 1, &["matter", "longer"]) => None,
            "no" => Some((Modality::Forbid, 1)),
            "do" | "must" | "should" | "shall" | "may" | "can" | "does" | "will" if is(at + 1, &["not"]) => {
                if is(at + 2, &["need", "have"]) && is(at + 3, &["to"]) {
                    return (Modality::State, Vec::new());
                }
                match words.get(at + 2).map(|word| word.low.as_str()) {
                    Some("forget" | "fail" | "neglect") => Some((Modality::Require, 3)),
                    Some("hesitate") => Some((Modality::Allow, 3)),
                    _ if low == "does" || low == "will" => return (Modality::State, Vec::new()),
                    _ if number_follows(at + 1) => Some((Modality::Require, 0)),
                    _ => Some((Modality::Forbid, 2)),
                }
            }
            "don't" | "dont" | "mustn't" | "shouldn't" | "cannot" | "can't" => {
                match words.get(at + 1).map(|word| word.low.as_str()) {
                    Some("forget" | "fail") => Some((Modality::Require, 2)),
                    Some("need" | "have") if is(at + 2, &["to"]) => return (Modality::State, Vec::new()),
                    _ if number_follows(at) => Some((Modality::Require, 0)),
                    _ => Some((Modality::Forbid, 1)),
                }
            }
            "doesn't" | "isn't" | "aren't" | "won't" | "wasn't" => return (Modality::State, Vec::new()),
            "is" | "are" | "be"
                if is(at + 1, &["not"])
                    && is(
                        at + 2,
                        &["allowed", "permitted", "acceptable", "welcome", "tolerated", "ok", "okay", "fine", "wanted"],
                    ) =>
            {
                Some((Modality::Forbid, 3))
            }
            "is" | "are" if is(at + 1, &["not"]) && is(at + 2, &["required", "needed", "necessary", "mandatory"]) => {
                return (Modality::State, Vec::new());
            }
            "is" | "are" if is(at + 1, &["never"]) => None,
            "is" | "are"
                if is(at + 1, &["forbidden", "prohibited", "banned", "disallowed", "off-limits", "verboten"]) =>
            {
                Some((Modality::Forbid, 2))
            }
            "is" | "are" if is(at + 1, &["discouraged"]) => Some((Modality::Avoid, 2)),
            "is" | "are" if is(at + 1, &["required", "mandatory", "obligatory", "compulsory"]) => {
                Some((Modality::Require, 2))
            }
            "is" | "are" if is(at + 1, &["preferred", "recommended"]) => Some((Modality::Prefer, 2)),
            "is" | "are" if is(at + 1, &["allowed", "permitted", "acceptable", "fine", "ok", "okay", "welcome"]) => {
                Some((Modality::Allow, 2))
            }
            "forbidden" | "prohibited" | "banned" | "disallowed" if at > 0 => Some((Modality::Forbid, 1)),
            "avoid" => Some((Modality::Avoid, 1)),
            "refrain" => Some((Modality::Forbid, 2)),
            "stay" | "steer" if is(at + 1, &["away", "clear"]) => Some((Modality::Avoid, 3)),
            "leave" if is(at + 1, &["out", "off"]) && at <= 1 => Some((Modality::Forbid, 2)),
            "omit" | "ban" | "forbid" | "disallow" if at <= 1 => Some((Modality::Forbid, 1)),
            "skip" | "exclude" if at <= 1 => Some((Modality::Forbid, 1)),
            "not" if at == 0 => Some((Modality::Forbid, 1)),
            "prefer" | "favor" | "favour" | "preferably" | "ideally" if at <= 3 => Some((Modality::Prefer, 1)),
            "may" | "can" | "could" => Some((Modality::Allow, 1)),
            "feel" if is(at + 1, &["free"]) => Some((Modality::Allow, 3)),
            "free" if is(at + 1, &["to"]) => Some((Modality::Allow, 2)),
            "it's" | "it"
                if at == 0
                    && (is(at + 1, &["ok", "okay", "fine"]) || is(at + 2, &["ok", "okay", "fine", "acceptable"])) =>
            {
                Some((Modality::Allow, 3))
            }
            "optional" => return (Modality::State, Vec::new()),
            "must" | "shall" | "should" => {
                if is(at + 1, &["never"]) {
                    None
                } else {
                    Some((Modality::Require, 1))
                }
            }
            "always" => {
                // `always avoid x`, `always prefer x`.
                if is(at + 1, &["avoid", "prefer", "omit", "skip", "leave"]) {
                    None
                } else {
                    Some((Modality::Require, 1))
                }
            }
            "need" | "needs" | "has" | "have" if is(at + 1, &["to"]) => Some((Modality::Require, 2)),
            "ensure" | "make" if at == 0 && (low == "ensure" || is(1, &["sure"])) => {
                Some((Modality::Require, if low == "make" { 2 } else { 1 }))
            }
            _ => None,
        };
        if let Some((modality, length)) = found {
            let mut marks: Vec<usize> = (at..at + length).collect();
            // `Never do x` where more says so: `must never`, `always avoid`.
            marks.extend((0..at).filter(|at| is(*at, &["always", "please", "must", "should", "shall", "you", "we"])));
            if modality.is_against() && is(at + length, &["use", "using", "do", "be"]) {
                marks.push(at + length);
            }
            return (modality, marks);
        }
        // A negation later in the clause counts; before that, what the clause begins with.
    }
    let first = words.iter().position(|word| {
        !word.is(&[
            "please", "then", "also", "just", "and", "but", "only", "first", "finally", "instead", "generally",
            "kindly", "strictly", "consistently", "explicitly", "simply",
        ])
    });
    let Some(first) = first else { return (Modality::State, Vec::new()) };
    if words[first].is(VERBS)
        && !(first == 0 && words.get(1).is_some_and(|next| next.is(&["is", "are", "was", "were", "has", "have"])))
    {
        return (Modality::Require, (0..first).collect());
    }
    let ours = words[first].is(&["we", "the", "this", "our", "i", "all", "every", "each"]);
    let verb = words.iter().take(6).position(|word| {
        word.is(&[
            "use", "uses", "prefer", "indent", "indents", "format", "run", "follow", "follows", "write", "name",
            "target", "targets", "require", "requires",
        ])
    });
    if ours && let Some(verb) = verb {
        let mut marks: Vec<usize> = (0..=verb).collect();
        marks.retain(|at| !words[first].is(&["all", "every", "each"]) || *at >= verb);
        return (Modality::Require, marks);
    }
    if words.iter().any(|word| word.is(&["use", "uses"])) && words.len() <= 8 && fragment {
        return (Modality::Require, Vec::new());
    }
    let finite = words.iter().any(|word| {
        word.is(&[
            "was", "were", "has", "had", "does", "did", "will", "would", "comes", "stands", "lives", "contains",
            "holds", "means", "gets", "makes", "handles", "talks", "reads", "writes", "supports", "returns",
            "provides", "includes",
        ])
    });
    if !finite
        && (fragment && words.len() <= 10 || words.iter().any(|word| word.is(&["is", "are"])) && words.len() <= 10)
    {
        return (Modality::Require, Vec::new());
    }
    (Modality::State, Vec::new())
}
/// Whether a clause asks for something only by being there: it has no word that asks, and does not begin with
/// a verb.
pub(super) fn is_weak(words: &[&Word], marks: &[usize]) -> bool {
    let asks = words.iter().any(|word| {
        word.is(&[
            "must", "shall", "should", "always", "need", "needs", "ensure", "required", "mandatory", "has", "have",
        ])
    });
    let first = words.iter().find(|word| {
        !word.is(&["please", "then", "also", "just", "and", "but", "only", "first", "finally", "instead"])
    });
    let verb = first.is_some_and(|first| first.is(VERBS));
    marks.is_empty() && !asks && !verb
}
