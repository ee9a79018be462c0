//! The form of a word that all its forms share.

use crate::directive::words::{VERBS, stem};
use rustc_hash::FxHashMap;
use std::sync::LazyLock;

/// Forms that no ending tells.
const IRREGULAR: &str = "written write wrote write kept keep ran run sent send built build made make taken take took take \
     given give gave give held hold stood stand begun begin began begin chosen choose chose choose drawn draw shown show \
     thrown throw caught catch found find done do did do does do got get gotten get gone go went go goes go said say told \
     tell paid pay met meet fed feed led lead lost lose broken break broke break hidden hide driven drive dealt deal \
     meant mean spent spend spelt spell spoken speak lain lie lying lie tying tie children child people person indices \
     index indexes index has have had have is be are be was be were be been be being be better good best good lives live \
     living live bought buy brought bring kept keep stuck stick swept sweep torn tear worn wear slept sleep sold sell \
     shut shut bound bind wound wind dependencies dependency statuses status aliases alias classes class processes process \
     addresses address accesses access passes pass axes axis analyses analysis matrices matrix vertices vertex schemas \
     schema schemata schema whitespace whitespace wrote write typed type using use unused unused naming name \
     nested nest nesting nest left leave overwritten overwrite overwrote overwrite rewritten rewrite rewrote rewrite \
     rebuilt rebuild reread reread unbroken unbreak gone go prs pr ids id urls url apis api tried try tries try retried retry retries retry forgotten forget upheld uphold";

static FORMS: LazyLock<FxHashMap<&str, &str>> = LazyLock::new(|| {
    let words: Vec<&str> = IRREGULAR.split_whitespace().collect();
    words.chunks_exact(2).map(|pair| (pair[0], pair[1])).collect()
});

/// Endings that make a noun or adjective of a verb, or a verb of a noun; what is left has four letters at least.
const ENDINGS: [&str; 21] = [
    "ment", "ingly", "edly", "ously", "ness", "ity", "ally", "able", "ible", "ful", "less", "ings", "ers", "ors",
    "ive", "ion", "ly", "er", "or", "al", "y",
];

/// Words that must keep their ending: without it they are other words.
const WHOLE: &[&str] = &[
    "order", "server", "number", "user", "error", "header", "folder", "docker", "never", "other", "after", "under",
    "over", "letter", "parameter", "paper", "color", "mirror", "editor", "author", "monitor", "vector", "general",
    "literal", "global", "local", "final", "formal", "normal", "total", "external", "internal", "manual", "serial",
    "signal", "terminal", "version", "session", "action", "option", "section", "region", "station", "permission",
    "mission", "ratio", "query", "entry", "library", "directory", "repository", "summary", "binary", "memory",
    "history", "category", "factory", "copy", "empty", "apply", "reply", "only", "early", "daily", "city", "body",
    "party", "key", "table", "variable", "enable", "disable", "native", "archive", "drive", "active", "private",
    "document", "comment", "element", "moment", "segment", "fragment", "statement", "environment", "argument",
    "department", "experiment", "implement", "supply", "policy", "proxy", "legacy", "currency", "latency", "accuracy",
    "concurrency", "buffer", "layer", "timer", "trigger", "filter", "master", "register", "render", "linter",
    "container", "controller", "worker", "reviewer", "customer", "transfer", "answer", "owner", "timber", "finger",
    "corner", "computer", "printer", "sensor", "tractor", "constructor", "decorator", "operator", "iterator",
    "generator", "locator", "selector", "sensible", "possible", "visible", "unless", "process", "access", "class",
    "express", "address", "business", "stateless", "wireless", "regular", "popular", "particular", "singular",
    "commit", "limit", "edit", "audit", "unit", "security", "quality", "priority", "identity", "activity", "entity",
    "university", "universal", "personal", "person", "reason", "season", "button", "common", "json", "python",
    "collection", "function", "production", "position", "question", "exception", "reception", "caption", "portion",
    "nation", "notation", "annotation", "condition", "edition", "addition", "tradition", "assertion", "extension",
    "dimension", "fashion", "religion", "union", "million", "onion", "opinion", "champion", "battery", "gallery",
    "delivery", "discovery", "recovery", "verify", "modify", "notify", "specify", "identify", "simplify", "every",
    "any", "many", "deploy", "display", "delay", "array", "layout", "play", "relay", "away", "today", "holiday",
    "survey", "money", "honey", "journey", "valley", "component", "alphabetical", "canonical", "optional", "decimal",
    "federal", "central", "several", "mutable", "immutable", "executable", "usable", "portable", "stable", "unstable",
    "readable", "nullable", "cacheable", "timer", "higher", "lower", "upper", "shorter", "longer", "larger", "smaller",
    "fewer", "newer", "older", "later", "earlier", "further", "inner", "outer", "user", "newsletter",
];

/// The letters that the forms of a word, and words made of it, share. Of code and names it is the text itself.
pub fn root(low: &str) -> String {
    // `node.js` is Node.
    let low = low.strip_suffix(".js").filter(|base| base.len() > 1).unwrap_or(low);
    let form = FORMS.get(low).copied().unwrap_or(low);
    if WHOLE.contains(&form) {
        return stem(form);
    }
    let singular = form.strip_suffix('s').unwrap_or(form);
    if WHOLE.contains(&singular) {
        return stem(singular);
    }
    let base = american(stem(form));
    if WHOLE.contains(&base.as_str()) {
        return base;
    }
    if let Some(rest) = base.strip_suffix("ation").filter(|rest| rest.len() > 3) {
        let with_e = format!("{rest}e");
        let verb = VERBS.iter().find(|verb| **verb == rest || **verb == with_e);
        return verb.map_or_else(|| format!("{rest}at"), |verb| stem(verb));
    }
    if base.len() <= 4 || !base.is_ascii() {
        return base;
    }
    // `stem` has taken a final e off already: `isation` may stand as `isation`, `ive` as `iv`.
    let full = if form.ends_with('e') { form } else { base.as_str() };
    let cut = ENDINGS.iter().find_map(|ending| full.strip_suffix(ending)).filter(|rest| rest.len() >= 4);
    let Some(cut) = cut else { return base };
    let cut = stem(cut);
    let mut letters = cut.chars().rev();
    let (last, before) = (letters.next(), letters.next());
    let doubled = last == before && !matches!(last, Some('s' | 'l' | 'z' | 'f' | 'd'));
    if doubled { cut[..cut.len() - 1].to_owned() } else { cut }
}

/// `normalise` is `normalize`.
fn american(base: String) -> String {
    const OTHERS: &[&str] =
        &["exercis", "otherwis", "likewis", "enterpris", "franchis", "compromis", "merchandis", "surpris"];
    let british = base.len() > 6 && base.ends_with("is") && !OTHERS.contains(&base.as_str());
    let noun = base.strip_suffix("isation").map(|rest| format!("{rest}iz"));
    match noun.or_else(|| base.strip_suffix("ization").map(|rest| format!("{rest}iz"))) {
        Some(verb) => verb,
        None if british => format!("{}iz", &base[..base.len() - 2]),
        None => base,
    }
}

#[cfg(test)]
mod tests {
    use super::root;

    #[test]
    fn forms_of_a_word_share_a_root() {
        for forms in [
            &["write", "writes", "written", "wrote", "writing"][..],
            &["indent", "indented", "indentation"],
            &["deploy", "deploys", "deployed", "deployment"],
            &["name", "named", "naming", "names"],
            &["abbreviate", "abbreviated", "abbreviation", "abbreviations"],
            &["format", "formatting", "formatted", "formatter"],
            &["dependency", "dependencies"],
            &["test", "tests", "tested"],
        ] {
            let roots: Vec<String> = forms.iter().map(|form| root(form)).collect();
            assert!(roots.iter().all(|one| *one == roots[0]), "{forms:?}: {roots:?}");
        }
        for (one, other) in [("version", "verse"), ("order", "ord"), ("server", "serve"), ("number", "numb")] {
            assert_ne!(root(one), root(other), "{one} {other}");
        }
    }
}
