use super::condition::Situation;
use super::families::Families;
use super::*;

fn shown(condition: &Condition) -> String {
    let situation = |of: &Situation| {
        let files = of.files.iter().map(shown);
        files.chain(of.stems.iter().map(ToString::to_string)).collect::<Vec<_>>().join(" ")
    };
    match condition {
        Condition::Language(name) => format!("lang:{name}"),
        Condition::Path(path) => format!("path:{path}"),
        Condition::When(of) => format!("when:{}", situation(of)),
        Condition::Unless(of) => format!("unless:{}", situation(of)),
        Condition::Heading(stems) => format!("head:{stems}"),
    }
}

fn words(text: &str) -> Vec<String> {
    Outline::read(text, 0).directives.into_iter().map(|one| one.words.into()).collect()
}

/// What a text says, in short: `Require javascript-packages=pnpm [conditions]`.
fn says(text: &str) -> Vec<String> {
    let families = Families::built_in();
    let (_, said) = Outline::with_meaning(text, 0, families, MOST_DIRECTIVES);
    let claims = said.iter().flat_map(|said| said.claims.iter());
    claims
        .map(|claim| {
            let about = match &claim.about {
                About::Choice { family: clause::LANGUAGE_FAMILY, choice, .. } => {
                    format!("language={}", crate::base::language::LANGUAGES[*choice as usize].name)
                }
                About::Choice { family, choice, of } => {
                    let family = &families.all[*family as usize];
                    let of = if of.is_empty() { String::new() } else { format!(" of {}", of.join(" ")) };
                    format!("{}={}{of}", family.name, family.choices[*choice as usize].name)
                }
                About::Measure { of, low, high } => format!("{of} {low}..{high}"),
                About::Act { key, side } => {
                    format!("{key}{}", side.map_or("", |side| if side { " (1)" } else { " (2)" }))
                }
            };
            let conditions = if claim.conditions.is_empty() {
                String::new()
            } else {
                format!(" [{}]", claim.conditions.iter().map(shown).collect::<Vec<_>>().join(", "))
            };
            format!("{:?} {about}{conditions}", claim.modality)
        })
        .collect()
}

#[test]
fn items_and_sentences_are_directives() {
    let text = "# Style\n\nUse tabs. Never use `unwrap()`, e.g. in tests! Be kind\n\n- One item. Still one.\n- Second\n  goes on\n  - nested\n\n> Quoted\n\n```\ncode\n```\n\n| a | b |\n|---|---|\n| x | y |\n";
    assert_eq!(
        words(text),
        ["use tabs", "never use `unwrap()` e.g in tests", "be kind", "one item still one", "second goes on", "nested"]
    );
    assert_eq!(words("- ~~Use tabs~~\n- x <!-- Use tabs --> y\n\n<!-- never closed\n\n- Use tabs\n"), ["x y"]);
}

#[test]
fn a_heading_that_names_a_language_is_a_condition() {
    let all = Outline::read("## Rust\n\n- Use tabs\n\n## Style\n\n- Use tabs\n", 0).directives;
    assert_eq!(*all[0].conditions, ["rust".into()]);
    assert!(all[1].conditions.is_empty());
    assert_ne!(all[0].key(), all[1].key());
    assert_eq!(says("## Rust\n\n- Use tabs\n")[0], "Require indentation=tabs [lang:rust]");
    assert_eq!(says("## Kiosk\n\n- Use tabs\n")[0], "Require indentation=tabs [head:kiosk]");
    assert_eq!(says("## Never\n\n- Use tabs\n")[0], "Forbid indentation=tabs");
    assert_eq!(says("In Python files:\n\n- Use tabs\n")[0], "Require indentation=tabs [lang:python]");
}

#[test]
fn choices_are_read_with_their_modality() {
    for (text, expected) in [
        ("- Use pnpm, never npm.", &["Require javascript-packages=pnpm", "Forbid javascript-packages=npm"][..]),
        ("- Use tabs instead of spaces", &["Require indentation=tabs", "Forbid indentation=spaces"]),
        ("- Prefer single quotes over double quotes", &["Prefer quotes=single", "Avoid quotes=double"]),
        ("- Don't use npm; use pnpm instead.", &["Forbid javascript-packages=npm", "Require javascript-packages=pnpm"]),
        ("- Run `npm test` before each commit", &["Require javascript-packages=npm"]),
        ("- Package manager: pnpm", &["Require javascript-packages=pnpm"]),
        ("- Avoid default exports", &["Avoid exports=default"]),
        ("- Convert tabs to spaces", &[]),
        ("- Use npm or yarn", &[]),
        ("- Name variables in camelCase", &["Require naming-case=camel of variabl"]),
        ("- Use snake_case for functions", &["Require naming-case=snake of function"]),
        ("- In Python files, use tabs", &["Require indentation=tabs [lang:python]"]),
        ("- Use tabs in `kiosk/`", &["Require indentation=tabs [path:kiosk]"]),
        ("- Use double quotes when writing JSON", &["Require quotes=double [lang:json]"]),
        ("- Is it fine to use tabs?", &[]),
        ("- The team migrated from npm to pnpm last year", &[]),
        ("- Write everything in TypeScript", &["Require language=typescript"]),
        ("- No semicolons", &["Forbid semicolons=semicolons"]),
        ("- Always end statements with semicolons", &["Require semicolons=semicolons"]),
    ] {
        assert_eq!(says(text), expected, "{text}");
    }
}

#[test]
fn acts_of_opposite_modality_have_one_key() {
    for (one, other) in [
        ("Always use `unwrap()`", "Never use unwrap"),
        ("Commit the lockfiles", "Never commit lockfiles"),
        ("Add docstrings to all functions", "Do not write docstrings"),
        ("Default parameters are allowed", "Avoid default parameters"),
        ("Mock external services in tests", "Never mock external services in tests"),
        ("You may push directly to main", "Do not push to main"),
        ("Use wildcard imports", "Wildcard imports are forbidden"),
    ] {
        let key =
            |text: &str| says(&format!("- {text}\n")).first().map(|said| said.split_once(' ').unwrap().1.to_owned());
        assert!(key(one).is_some(), "{one}");
        assert_eq!(key(one), key(other), "{one} / {other}");
    }
}

#[test]
fn opposites_are_sides_of_one_act() {
    assert_eq!(says("- Sort imports in ascending order"), ["Require ascend/descend import order sort (1)"]);
    assert_eq!(says("- Sort imports in descending order"), ["Require ascend/descend import order sort (2)"]);
}

/// What is asked of a directive again and again must not grow with the text.
#[test]
fn no_directive_is_longer_than_anybody_writes() {
    for text in ["a ".repeat(20_000), "ab".repeat(20_000), "- ä".repeat(9_000), "version 2020-01-01\n".repeat(2_000)] {
        let outline = Outline::read(&text, 0);
        assert!(outline.directives.iter().all(|one| one.span.len() <= 2048));
        let read: usize = outline.directives.iter().map(|one| one.span.len()).sum();
        assert!(read * 10 > text.len() * 9, "only {read} of {} bytes are read", text.len());
    }
}
