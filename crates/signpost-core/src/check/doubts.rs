//! Doubts: pairs of directives of which only a reader can say whether they go together.

use super::consistency::meeting;
use super::context::Context;
use super::meaning::{Pair, Place};
use crate::base::repo_path::{Location, RepoPath};
use crate::directive::reading::compare::{Certainty, Kind};
use crate::project::settled::{ID, pair};
use std::ops::Range;

/// One of the two directives.
#[derive(Clone, Debug)]
pub struct Side {
    /// The file.
    pub location: Location,
    /// Its bytes.
    pub span: Range<usize>,
    /// Its words as they stand there.
    pub text: String,
}

/// A pair.
#[derive(Clone, Debug)]
pub struct Doubt {
    /// By which it is named.
    pub id: String,
    /// The hash of both sentences.
    pub hash: String,
    /// Whether they may contradict each other; else they may say the same.
    pub contradiction: bool,
    /// How likely that is, from 0 to 1.
    pub score: f32,
    /// Whether lint reports it already.
    pub reported: bool,
    /// The earlier and the later one.
    pub sides: [Side; 2],
    /// A file that is told both.
    pub witness: Option<RepoPath>,
    /// The assistants that are told both, by name.
    pub assistants: Vec<String>,
    /// What makes it doubtful.
    pub because: &'static str,
}

/// Which pairs are asked for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Which {
    /// Those that nobody has decided and lint does not report.
    Open,
    /// What lint reports too.
    Reported,
    /// Also those that somebody decided are fine.
    Every,
}

/// So many places of the same words are tried.
const MOST_PLACES: usize = 8;

/// The doubts about directives in some files and folders (none named: everywhere), the likeliest first.
pub fn doubts(context: &Context<'_, '_>, below: &[RepoPath], which: Which) -> Vec<Doubt> {
    let asked = |pair: &&Pair| match which {
        Which::Open => pair.verdict.certainty < Certainty::Likely,
        Which::Reported => !pair.is_fine(),
        Which::Every => true,
    };
    let pairs = context.meanings().pairs.iter().filter(asked);
    let mut found: Vec<Doubt> = pairs.filter_map(|pair| doubt(context, pair, below)).collect();
    found.sort_by(|a, b| {
        b.score.total_cmp(&a.score).then_with(|| {
            let place = |one: &Doubt| (one.sides[1].location.clone(), one.sides[1].span.start, one.sides[0].span.start);
            place(a).cmp(&place(b))
        })
    });
    found
}

/// `LEDGER: REPORTS`: a title in a text without headings.
fn is_title(text: &str) -> bool {
    text.chars().any(char::is_uppercase) && !text.chars().any(char::is_lowercase)
}

fn doubt(context: &Context<'_, '_>, met: &Pair, below: &[RepoPath]) -> Option<Doubt> {
    let classes = &context.meanings().classes;
    let places = |class: usize| classes[class].places.iter().copied().take(MOST_PLACES);
    let asked = |place: Place| {
        let path = context.texts[place.text].location().in_root();
        below.is_empty() || path.is_some_and(|path| below.iter().any(|one| path == one || path.is_in(one)))
    };
    let (one, other, witness) = places(met.one).find_map(|one| {
        places(met.other).filter(|other| asked(one) || asked(*other)).find_map(|other| {
            let (_, witness) = meeting(context, one, other)?;
            Some((one, other, witness?))
        })
    })?;
    let (first, second) = (one.min(other), one.max(other));
    let side = |place: Place| {
        let text = &context.texts[place.text];
        let span = text.statement(place.statement).clone();
        Side { location: text.location().clone(), text: text.words(&span).to_owned(), span }
    };
    let sides = [side(first), side(second)];
    if sides.iter().any(|side| is_title(&side.text)) {
        return None;
    }
    let words = |place: Place| context.texts[place.text].statements().nth(place.statement).map(|own| own.words.clone());
    let hash = pair(&words(first)?, &words(second)?);
    let told = |place: Place| context.texts[place.text].assistants.iter();
    let assistants = told(first).filter(|name| told(second).any(|other| other == *name)).cloned().collect();
    Some(Doubt {
        id: hash.chars().take(ID).collect(),
        hash,
        contradiction: met.verdict.kind == Kind::Contradiction,
        score: met.verdict.score,
        reported: met.verdict.certainty >= Certainty::Likely,
        sides,
        witness: Some(witness),
        assistants,
        because: met.verdict.because.words(),
    })
}
