//! Sentences in German, French and Spanish: their plain words, in English, from `glossary.txt`.

use crate::directive::words::Word;
use rustc_hash::FxHashMap;
use std::sync::LazyLock;

type Language = FxHashMap<&'static str, &'static str>;

static LANGUAGES: LazyLock<Vec<Language>> = LazyLock::new(|| {
    let lines = include_str!("glossary.txt").lines().filter(|line| !line.starts_with('#'));
    let language = |line: &'static str| -> Option<Language> {
        let (_, words) = line.split_once(':')?;
        Some(words.split_whitespace().filter_map(|pair| pair.split_once('=')).collect())
    };
    lines.filter_map(language).collect()
});

/// Words that are as good as only English, and common enough to tell.
const ENGLISH: &[&str] = &[
    "the", "and", "is", "are", "with", "of", "for", "that", "it", "to", "be", "must", "should", "use", "never", "not",
    "when", "write", "by", "as", "this", "you", "your", "only", "always", "before", "after", "from", "into",
];

/// Puts English words in the place of those of another language, where a sentence is in one.
pub(super) fn translate(words: &mut Vec<Word>) {
    let plain = || words.iter().filter(|word| !word.code);
    if plain().any(|word| word.is(ENGLISH)) {
        return;
    }
    let number = plain().count();
    let known = |language: &Language| plain().filter(|word| language.contains_key(word.low.as_str())).count();
    let Some(language) = LANGUAGES.iter().max_by_key(|language| known(language)) else { return };
    // Two of its words, or one that is half of a short sentence.
    let hits = known(language);
    if hits < 2 && !(hits == 1 && number < 4) {
        return;
    }
    for word in words.iter_mut().filter(|word| !word.code) {
        if let Some(english) = language.get(word.low.as_str()) {
            word.low = (*english).to_owned();
            word.capital = false;
        }
    }
    words.retain(|word| !word.low.is_empty());
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]
    use crate::directive::reading::Reading;
    use crate::directive::reading::compare::{Kind, compare};
    use crate::directive::reading::lexicon::Lexicon;

    fn kind(one: &str, other: &str) -> Option<Kind> {
        let read = |text: &str| Reading::all(text, &[], false, Lexicon::built_in());
        compare(&read(one), &read(other)).map(|verdict| verdict.kind)
    }

    #[test]
    fn choices_numbers_and_polarity_are_read_in_other_languages() {
        for (one, other) in [
            ("Verwende Tabs zur Einrückung.", "Einrückung mit zwei Leerzeichen."),
            ("Bearbeite niemals erzeugte Dateien.", "Bearbeite erzeugte Dateien."),
            ("Zeilen sind höchstens 90 Zeichen lang.", "Zeilen sind höchstens 110 Zeichen lang."),
            ("Utilise toujours des espaces.", "Utilise des tabulations."),
            ("N'utilise jamais `eval`.", "Utilise `eval` pour les filtres."),
            ("Usa siempre comillas dobles.", "Usa comillas simples."),
            ("No uses `eval`.", "Usa siempre `eval`."),
        ] {
            assert_eq!(kind(one, other), Some(Kind::Contradiction), "{one} / {other}");
        }
        for (one, other) in [
            ("Kommentare sind auf Deutsch.", "Bezeichner sind auf Englisch."),
            ("Utilise `pytest` pour les tests.", "Utilise `ruff` pour le format."),
            ("Verwende Tabs zur Einrückung.", "Use two spaces in YAML."),
        ] {
            assert_ne!(kind(one, other), Some(Kind::Contradiction), "{one} / {other}");
        }
    }
}
