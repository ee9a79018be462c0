//! What two directives are to each other, how sure that is, and what tells.

/// What two directives are to each other.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Kind {
    /// They cannot both be followed.
    Contradiction,
    /// They say the same.
    Same,
}

/// How sure that is.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Certainty {
    /// Only a reader can tell.
    Possible,
    /// More likely than not.
    Likely,
    /// As good as certain.
    Sure,
}

/// What tells.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub enum Because {
    /// One asks for what the other forbids.
    Opposite,
    /// The same, but for words that hardly say anything.
    OppositeButWords,
    /// The same, but one says more.
    OppositeAndMore,
    /// One asks for what need not be.
    NeedNot,
    /// Another member of a family of choices.
    OtherChoice,
    /// Another value of one setting.
    OtherNumber,
    /// Another version.
    OtherVersion,
    /// Another name in the same sentence.
    OtherValue,
    /// The other way round.
    Order,
    /// One denies what the other chooses.
    DeniedChoice,
    /// Each denies what the other chooses.
    SwappedChoice,
    /// All that they say is the same.
    SameMeaning,
    /// The same, but for words that hardly say anything.
    SameButWords,
    /// One says a little more.
    SameAndMore,
    /// The same value of one setting.
    SameNumber,
    /// The same choice, set against the same.
    SameChoice,
    /// The same order.
    SameOrder,
    /// Somebody decided it.
    Decided,
}

fn score(certainty: Certainty, because: Because) -> f32 {
    match (certainty, because) {
        (Certainty::Sure, _) => 0.97,
        (Certainty::Likely, Because::OppositeAndMore) => 0.87,
        (Certainty::Likely, _) => 0.92,
        (Certainty::Possible, Because::DeniedChoice) => 0.3,
        (Certainty::Possible, Because::SameAndMore | Because::SameButWords | Because::SameMeaning) => 0.45,
        (Certainty::Possible, Because::OtherChoice) => 0.55,
        (Certainty::Possible, Because::OppositeAndMore) => 0.6,
        (Certainty::Possible, _) => 0.7,
    }
}

impl Because {
    /// In words, for who has to decide.
    pub fn words(self) -> &'static str {
        match self {
            Because::Opposite | Because::OppositeButWords => "one asks for what the other is against",
            Because::OppositeAndMore => "one asks for what the other is against, but says more",
            Because::NeedNot => "one asks for what the other leaves open",
            Because::OtherChoice => "they choose differently",
            Because::OtherNumber => "they set another value",
            Because::OtherVersion => "they name another version",
            Because::OtherValue => "the same sentence with another name in it",
            Because::Order => "they turn the order round",
            Because::DeniedChoice | Because::SwappedChoice => "one chooses what the other denies",
            Because::SameMeaning | Because::SameNumber | Because::SameChoice | Because::SameOrder => {
                "nothing that tells is other"
            }
            Because::SameButWords | Because::SameAndMore => "all but a few words is alike",
            Because::Decided => "somebody decided it",
        }
    }
}

/// The answer.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Verdict {
    /// What they are to each other.
    pub kind: Kind,
    /// How sure that is.
    pub certainty: Certainty,
    /// What tells.
    pub because: Because,
    /// The words of each that tell, as bytes of the directive.
    pub words: [(u32, u32); 2],
    /// How likely it is that a reader would say so too, from 0 to 1: about what was measured on labelled pairs.
    pub score: f32,
}

fn verdict(kind: Kind, because: Because, strength: i8) -> Option<Verdict> {
    let certainty = match strength {
        3.. => Certainty::Sure,
        2 => Certainty::Likely,
        1 => Certainty::Possible,
        _ => return None,
    };
    Some(Verdict { kind, certainty, because, words: [(0, 0); 2], score: score(certainty, because) })
}

pub(super) fn contradiction(because: Because, strength: i8) -> Option<Verdict> {
    verdict(Kind::Contradiction, because, strength)
}

pub(super) fn same(because: Because, strength: i8) -> Option<Verdict> {
    verdict(Kind::Same, because, strength)
}
