//! What could do harm, said in other languages than English: words of a few concepts in one sentence, from `tongues.txt`.

use aho_corasick::{AhoCorasick, AhoCorasickKind};
use rustc_hash::FxHashMap;
use std::sync::OnceLock;

/// The words of a concept.
struct Words {
    /// Each, and whether it may stand inside of another word.
    list: Vec<(&'static str, bool)>,
    /// Finds all of them in one go; none where there are no words.
    finder: Option<AhoCorasick>,
}

impl Words {
    /// Where words of the concept stand: begin, end, and whether they may stand inside of another word.
    fn hits<'a>(&'a self, sentence: &'a str) -> impl Iterator<Item = (usize, usize, bool)> + 'a {
        let hits = self.finder.iter().flat_map(move |finder| finder.find_overlapping_iter(sentence));
        hits.map(|hit| (hit.start(), hit.end(), self.list[hit.pattern().as_usize()].1))
    }
}

fn lists() -> &'static FxHashMap<&'static str, Words> {
    static LISTS: OnceLock<FxHashMap<&'static str, Words>> = OnceLock::new();
    LISTS.get_or_init(|| {
        let lines = include_str!("tongues.txt").lines().filter(|line| !line.starts_with('#'));
        let concept = |line: &'static str| {
            let (name, words) = line.split_once(':')?;
            let word = |word: &'static str| {
                let word = word.trim();
                let plain = word.strip_prefix('*').unwrap_or(word);
                (plain, plain.len() < word.len() || plain.chars().any(without_blanks))
            };
            let list: Vec<(&str, bool)> = words.split(',').map(word).filter(|(word, _)| !word.is_empty()).collect();
            // Few texts are read in most runs: what is built quickly counts for more than what finds quickest.
            let mut finder = AhoCorasick::builder();
            finder.kind(Some(AhoCorasickKind::ContiguousNFA));
            let finder = finder.build(list.iter().map(|(word, _)| word)).ok();
            Some((name, Words { list, finder }))
        };
        lines.filter_map(concept).collect()
    })
}

/// Whether a letter is of a script that puts no blanks between words.
fn without_blanks(c: char) -> bool {
    matches!(c, '\u{3040}'..='\u{30ff}' | '\u{3400}'..='\u{9fff}' | '\u{ac00}'..='\u{d7af}')
}

/// Where the first word of a concept begins.
fn find(sentence: &str, concept: &str) -> Option<usize> {
    let begins =
        |at: usize| sentence[..at].chars().next_back().is_none_or(|c| !c.is_alphanumeric() && !matches!(c, '-' | '_'));
    let hits = lists().get(concept)?.hits(sentence);
    hits.filter(|(start, _, inside)| *inside || begins(*start)).map(|(start, ..)| start).min()
}

/// The same, for words that are taken whole.
fn holds_word(sentence: &str, concept: &str) -> bool {
    let Some(words) = lists().get(concept) else { return false };
    words.hits(sentence).any(|(start, end, inside)| {
        let before = || sentence[..start].chars().next_back().is_none_or(|c| !c.is_alphanumeric());
        let after = || sentence[end..].chars().next().is_none_or(|c| !c.is_alphanumeric());
        inside || before() && (sentence[..end].ends_with('\'') || after())
    })
}

/// Whether a sentence is English, of which other patterns know more.
fn is_english(sentence: &str) -> bool {
    let common =
        ["the", "and", "for", "of", "to", "with", "is", "are", "by", "your", "you", "it", "that", "from", "this"];
    let words = sentence.split(|c: char| !c.is_alphanumeric()).filter(|word| common.contains(word));
    words.take(2).count() > 1
}

/// The sentences of a passage that are in another language.
fn sentences(low: &str) -> impl Iterator<Item = &str> {
    let mut ends: Vec<usize> = low
        .char_indices()
        .filter(|(at, c)| match c {
            '。' | '！' | '？' | '।' => true,
            '.' | '!' | '?' | ';' => low[at + 1..].starts_with(' '),
            _ => false,
        })
        .map(|(at, c)| at + c.len_utf8())
        .collect();
    ends.push(low.len());
    let mut start = 0;
    let cut = move |end| {
        let sentence = &low[start..end];
        start = end;
        sentence
    };
    ends.into_iter().map(cut).filter(|sentence| !is_english(sentence))
}

/// Whether a sentence says not to do what stands in it.
fn forbids(sentence: &str) -> bool {
    holds_word(sentence, "not")
        || [
            "禁止", "しない", "せず", "しないで", "ない", "마세요", "말 것", "않", "금지", "indirme", "gönderme",
            "çalıştırma",
        ]
        .iter()
        .any(|word| sentence.contains(word))
}

/// Whether other instructions are to be dropped.
pub(super) fn drops(low: &str) -> bool {
    sentences(low).any(|sentence| {
        let (Some(drop), Some(orders), Some(_)) =
            (find(sentence, "drop"), find(sentence, "orders"), find(sentence, "prior"))
        else {
            return false;
        };
        // `Never ignore …`, in whatever language, has its negation right beside the verb.
        let near = sentence[..drop].rsplit([',', '，', '、']).next().unwrap_or_default();
        drop.abs_diff(orders) < 160 && !holds_word(near, "not")
    })
}

/// Whether something is to be kept from the people who work with the assistant.
pub(super) fn hides(low: &str) -> bool {
    sentences(low).any(|sentence| {
        let told = || find(sentence, "tell").is_some() && holds_word(sentence, "not");
        let hidden = || find(sentence, "conceal").is_some() && !holds_word(sentence, "not");
        find(sentence, "person").is_some()
            && (told() || hidden() || find(sentence, "untold").is_some())
            && find(sentence, "product").is_none()
    })
}

/// Whether nobody is to be asked.
pub(super) fn asks_nobody(low: &str) -> bool {
    sentences(low).any(|sentence| {
        let denied = || {
            let ask = find(sentence, "ask")?;
            let before = sentence[..ask].rsplit([',', '，']).next()?;
            let after: String = sentence[ask..].chars().take(24).collect();
            Some(holds_word(before, "not") || holds_word(&after, "not"))
        };
        let unasked = find(sentence, "unasked").is_some_and(|at| !holds_word(&sentence[..at], "not"));
        (unasked || find(sentence, "ask").is_some() && denied() == Some(true)) && find(sentence, "harmless").is_none()
    })
}

fn has_address(sentence: &str) -> bool {
    let local = ["://localhost", "://127.0.0.1", "://0.0.0.0"].iter().any(|host| sentence.contains(host));
    sentence.contains("://") && !local
}

/// Whether what is private is to be sent somewhere.
pub(super) fn sends(low: &str) -> bool {
    sentences(low).any(|sentence| {
        has_address(sentence)
            && find(sentence, "send").is_some()
            && find(sentence, "private").is_some()
            && !forbids(sentence)
    })
}

/// Whether something is to be fetched and run.
pub(super) fn runs(low: &str) -> bool {
    sentences(low).any(|sentence| {
        has_address(sentence)
            && find(sentence, "load").is_some()
            && find(sentence, "run").is_some()
            && !forbids(sentence)
    })
}

/// Whether somebody is to do something.
pub(super) fn obliges(low: &str) -> bool {
    low.chars().filter(|c| c.is_alphabetic()).count() > 9
        && sentences(low).any(|sentence| find(sentence, "oblige").is_some())
}

/// What stands after a word for a password, in code or quotes: its bytes.
pub(super) fn passwords(text: &str) -> Vec<std::ops::Range<usize>> {
    let low = text.to_lowercase();
    if low.len() != text.len() {
        return Vec::new();
    }
    let mut found = Vec::new();
    if let Some(words) = lists().get("passphrase") {
        for (_, word_end, _) in words.hits(&low) {
            let after = &text[word_end..];
            let open = after.char_indices().take(24).find(|(_, c)| matches!(c, '`' | '"' | '“' | '„' | '«' | '「'));
            let Some((quote, c)) = open.filter(|(quote, _)| !after[..*quote].contains('\n')) else { continue };
            let value = &after[quote + c.len_utf8()..];
            let end = value
                .find(|c: char| c.is_whitespace() || matches!(c, '`' | '"' | '”' | '“' | '»' | '」'))
                .unwrap_or(value.len());
            let start = word_end + quote + c.len_utf8();
            found.push(start..start + end);
        }
    }
    found
}
