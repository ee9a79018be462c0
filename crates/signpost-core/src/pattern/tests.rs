//! A table for every sentence about patterns, and an obvious matcher to compare with.

use super::*;
use proptest::prelude::*;

fn dialect(bare: Bare, braces: bool, negate: bool) -> Dialect {
    Dialect { list: ListForm::Either, bare, braces, negate }
}

#[test]
fn patterns_mean_what_the_table_says() {
    let any = dialect(Bare::AnyDepth, true, false);
    let anchored = dialect(Bare::Anchored, true, false);
    let no_braces = dialect(Bare::AnyDepth, false, false);
    let rows: &[(&Dialect, &str, &[&str], &[&str])] = &[
        (&any, "*.rs", &["a.rs", "x/y/a.rs", ".rs"], &["a.rsx", "a.rs/b"]),
        (&anchored, "*.rs", &["a.rs"], &["x/a.rs"]),
        (&any, "/*.rs", &["a.rs"], &["x/a.rs"]),
        (&any, "./*.rs", &["a.rs", "x/a.rs"], &[]),
        (&any, "./a/*.rs", &["a/b.rs"], &["x/a/b.rs", "a/b/c.rs"]),
        (&any, "dir/", &["dir/a", "dir/b/c"], &["dir", "x/dir/a"]),
        (&any, "**/x", &["x", "a/x", "a/b/x"], &["ax", "a/x/b"]),
        (&any, "a/**/x", &["a/x", "a/b/x", "a/b/c/x"], &["a/bx", "x"]),
        (&any, "a/**", &["a/b", "a/b/c"], &["a", "ab/c"]),
        (&any, "a/**/", &["a/b", "a/b/c"], &["a"]),
        (&any, "**", &["a", "a/b", ".a/.b"], &[]),
        (&any, "a**b/c", &["ab/c", "a/x/b/c", "axb/c"], &["b/c"]),
        (&any, "a**", &["a", "ab", "a/b/c", "x/ab"], &["ba"]),
        (&any, "src/**.ts", &["src/a.ts", "src/a/b.ts", "src/.ts"], &["src/a.tsx"]),
        (&any, "?.md", &["é.md", "x/a.md"], &["ab.md", ".md"]),
        (&any, "a?b/x", &["acb/x"], &["a/b/x"]),
        (&any, "[!a]b", &["cb", "éb"], &["ab", "b"]),
        (&any, "[^a]b", &["cb"], &["ab"]),
        (&any, "x[^a]y", &["xby"], &["x/y"]),
        (&any, "x[+-9]y", &["x0y"], &["x/y"]),
        (&any, "[]a]", &["]", "a"], &["b"]),
        (&any, "[a-]", &["a", "-"], &["b"]),
        (&any, "a\\b", &["a\\b"], &["ab"]),
        (&any, "../a", &[], &["a", "../a/b"]),
        (&any, "{a,b}/x", &["a/x", "b/x"], &["c/x", "{a,b}/x"]),
        (&any, "*.{ts,tsx}", &["a.ts", "q/a.tsx"], &["a.t"]),
        (&any, "{a/**,b}/*.c", &["a/x/y.c", "a/y.c", "b/y.c"], &["b/x/y.c"]),
        (&any, "{x{1,2},y}z", &["x1z", "x2z", "yz"], &["xz"]),
        (&any, "a{,b}", &["a", "ab"], &["b"]),
        (&any, "{a,b/}", &["a", "b/c"], &["x/a", "b"]),
        (&any, "[{]", &["{"], &["a"]),
        (&no_braces, "{a,b}", &["{a,b}"], &["a"]),
        (&any, "!a", &["!a"], &["a"]),
        (&any, ".*", &[".a", "x/.b"], &["a"]),
        (&any, "a//b", &[], &["a/b"]),
    ];
    for (dialect, pattern, yes, no) in rows {
        let compiled = Pattern::parse(pattern, dialect).unwrap();
        for path in *yes {
            assert!(compiled.matches(path), "{pattern} should take {path}");
        }
        for path in *no {
            assert!(!compiled.matches(path), "{pattern} should not take {path}");
        }
    }
}

#[test]
fn invalid_patterns_point_at_the_fault() {
    let dialect = dialect(Bare::AnyDepth, true, true);
    for (pattern, kind, span) in [
        ("", PatternErrorKind::Empty, 0..0),
        ("!", PatternErrorKind::Empty, 0..1),
        ("a/[bc", PatternErrorKind::UnclosedClass, 2..3),
        ("[]", PatternErrorKind::UnclosedClass, 0..1),
        ("!x[z-a]", PatternErrorKind::TurnedRange, 3..6),
        ("a/{b,c", PatternErrorKind::UnclosedBrace, 2..3),
        ("a}b", PatternErrorKind::StrayBrace, 1..2),
    ] {
        assert_eq!(Pattern::parse(pattern, &dialect).unwrap_err(), PatternError { kind, span }, "{pattern}");
    }
}

#[test]
fn patterns_made_to_explode_cost_little() {
    let dialect = Dialect::default();
    let braces = "{a,b}".repeat(64);
    assert_eq!(Pattern::parse(&braces, &dialect).unwrap_err().kind, PatternErrorKind::TooMany);
    let nested = "{".repeat(100_000);
    assert_eq!(Pattern::parse(&nested, &dialect).unwrap_err().kind, PatternErrorKind::TooMany);
    let path = "a/".repeat(200) + "b";
    for pattern in ["**/".repeat(2_000) + "c", "a**".repeat(300) + "c", "*a".repeat(500) + "c"] {
        assert!(!Pattern::parse(&pattern, &dialect).unwrap().matches(&path));
    }
}

#[test]
fn commas_inside_braces_do_not_separate() {
    let text = " a/{b,c}.ts , ,*.md";
    let split = |braces| {
        let dialect = dialect(Bare::AnyDepth, braces, false);
        split_commas(text, &dialect).into_iter().map(|range| &text[range]).collect::<Vec<_>>()
    };
    assert_eq!(split(true), ["a/{b,c}.ts", "*.md"]);
    assert_eq!(split(false), ["a/{b", "c}.ts", "*.md"]);
}

#[test]
fn the_last_matching_pattern_decides() {
    let dialect = dialect(Bare::AnyDepth, true, true);
    let set = |patterns: &[&str]| PatternSet {
        patterns: patterns.iter().map(|text| Pattern::parse(text, &dialect).unwrap()).collect(),
    };
    let both = set(&["*.ts", "!*.d.ts", "keep.d.ts"]);
    assert!(both.takes("a.ts") && !both.takes("a.d.ts") && both.takes("keep.d.ts"));
    assert!(!set(&["!*.ts"]).takes("a.ts"));
    assert!(!set(&["!*.ts"]).takes("a.rs"));
}

/// Spells braces out and then tries every way, character by character.
fn obvious(pattern: &str, path: &str, bare_any_depth: bool) -> bool {
    let rest = pattern.strip_prefix("./").unwrap_or(pattern);
    let (anchored, rest) = rest.strip_prefix('/').map_or((false, rest), |rest| (true, rest));
    let any_depth = bare_any_depth && !anchored && !rest.contains('/');
    expand(rest).into_iter().any(|mut text| {
        if text.ends_with('/') {
            text.push_str("**");
        }
        if any_depth {
            text.insert_str(0, "**/");
        }
        let pattern: Vec<char> = text.chars().collect();
        let path: Vec<char> = path.chars().collect();
        try_all(&pattern, 0, &path, 0)
    })
}

fn expand(text: &str) -> Vec<String> {
    let Some(open) = text.find('{') else { return vec![text.to_owned()] };
    let mut depth = 0;
    let mut cuts = vec![open];
    for (at, c) in text.char_indices().skip_while(|(at, _)| *at < open) {
        match c {
            '{' => depth += 1,
            ',' if depth == 1 => cuts.push(at),
            '}' => {
                depth -= 1;
                if depth == 0 {
                    cuts.push(at);
                    break;
                }
            }
            _ => {}
        }
    }
    let close = *cuts.last().unwrap();
    cuts.windows(2)
        .flat_map(|pair| expand(&format!("{}{}{}", &text[..open], &text[pair[0] + 1..pair[1]], &text[close + 1..])))
        .collect()
}

fn try_all(pattern: &[char], p: usize, path: &[char], s: usize) -> bool {
    let Some(c) = pattern.get(p) else { return s == path.len() };
    if *c != '*' {
        let takes = path.get(s).is_some_and(|own| if *c == '?' { *own != '/' } else { own == c });
        return takes && try_all(pattern, p + 1, path, s + 1);
    }
    let end = (p..pattern.len()).find(|at| pattern[*at] != '*').unwrap_or(pattern.len());
    if end - p == 1 {
        return (s..=path.len())
            .take_while(|to| !path[s..*to].contains(&'/'))
            .any(|to| try_all(pattern, end, path, to));
    }
    let starts = p == 0 || pattern[p - 1] == '/';
    match pattern.get(end) {
        None if starts => s < path.len(),
        Some('/') if starts => {
            try_all(pattern, end + 1, path, s)
                || (s..path.len()).any(|at| path[at] == '/' && try_all(pattern, end + 1, path, at + 1))
        }
        _ => (s..=path.len()).any(|to| try_all(pattern, end, path, to)),
    }
}

fn any_pattern() -> impl Strategy<Value = String> {
    let piece = prop_oneof![
        4 => "[abé.]",
        3 => Just("/".to_owned()),
        2 => Just("*".to_owned()),
        3 => Just("**".to_owned()),
        1 => Just("**/".to_owned()),
        1 => Just("?".to_owned()),
    ];
    let text = prop::collection::vec(piece, 0..5).prop_map(|pieces| pieces.concat());
    let braces = prop::collection::vec(text.clone(), 1..3).prop_map(|all| format!("{{{}}}", all.join(",")));
    prop::collection::vec(prop_oneof![3 => text, 1 => braces], 1..4).prop_map(|parts| parts.concat())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 4000, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn matches_like_the_obvious_matcher(
        pattern in any_pattern(),
        path in prop::collection::vec("[abé.]{1,3}", 1..5),
        any_depth: bool,
    ) {
        let path = path.join("/");
        let dialect = dialect(if any_depth { Bare::AnyDepth } else { Bare::Anchored }, true, false);
        if let Ok(compiled) = Pattern::parse(&pattern, &dialect) {
            prop_assert_eq!(compiled.matches(&path), obvious(&pattern, &path, any_depth), "{} on {}", pattern, path);
        }
    }

    #[test]
    fn any_text_is_read_or_refused(pattern in "[\\[\\]{}!^,*?/.a-z\\\\-]{0,30}", path in "[a-z/.]{0,20}") {
        if let Ok(compiled) = Pattern::parse(&pattern, &dialect(Bare::AnyDepth, true, true)) {
            compiled.matches(&path);
        }
    }
}

/// The bounds of what is compiled: at the very number, and one beyond it.
#[test]
fn alternatives_are_bounded() {
    let most = "{a,b}".repeat(10);
    assert_eq!(1 << 10, MAX_ALTERNATIVES);
    let beyond = format!("{{{most},c}}");
    let own = dialect(Bare::AnyDepth, true, false);
    assert!(Pattern::parse(&most, &own).is_ok());
    let error = Pattern::parse(&beyond, &own).unwrap_err();
    assert!(matches!(error.kind, PatternErrorKind::TooMany), "{error}");
    assert_eq!(Pattern::spelled_out(&most).len(), MAX_ALTERNATIVES);
    assert!(Pattern::spelled_out(&beyond).is_empty());
    // Few alternatives of very many letters are too many as well.
    let long = |letters: usize| format!("{{a,b,c,d}}{}", "x".repeat(letters));
    assert!(Pattern::parse(&long((1 << 18) - 9), &own).is_ok());
    assert!(Pattern::parse(&long((1 << 18) - 8), &own).is_err());
}

/// What a dialect without braces makes of them: characters like any other.
#[test]
fn braces_are_plain_where_they_are_not_known() {
    let plain = dialect(Bare::AnyDepth, false, false);
    let parts = |text: &str, dialect: &Dialect| -> Vec<String> {
        split_commas(text, dialect).into_iter().map(|range| text[range].to_owned()).collect()
    };
    assert_eq!(parts("{a,b}, c", &plain), ["{a", "b}", "c"]);
    assert_eq!(parts("{a,b}, c", &dialect(Bare::AnyDepth, true, false)), ["{a,b}", "c"]);
    assert_eq!(escaped("a{b}", &plain), "a{b}");
    assert_eq!(escaped("a{b}", &dialect(Bare::AnyDepth, true, false)), "a[{]b[}]");
}

/// A list that is split at commas can't hold a class with one; other classes stay.
#[test]
fn classes_with_a_comma_become_any_character() {
    assert_eq!(compile::commas_as_any("a,b[,]c[+-.]d[a-z]e", false), "a?b?c?d[a-z]e");
    assert_eq!(compile::commas_as_any("{a,b}[!,]", true), "{a,b}?");
}

#[test]
fn a_class_of_one_character_is_a_class() {
    let own = dialect(Bare::AnyDepth, true, false);
    let pattern = Pattern::parse("[a-a]x", &own).unwrap();
    assert!(pattern.matches("ax") && !pattern.matches("bx"));
    assert_eq!(Pattern::spelled_out("{[a-a],[b-d]}x"), ["[a]x", "[b-d]x"]);
}

/// The characters on either side of a class are others.
#[test]
fn inclusion_looks_at_the_borders_of_classes() {
    let own = dialect(Bare::AnyDepth, true, false);
    let takes_all = |wide: &str, narrow: &str| {
        inclusion::takes_all_of(&Pattern::parse(wide, &own).unwrap(), &Pattern::parse(narrow, &own).unwrap())
    };
    assert!(takes_all("x[b-d]", "x[b-d]") && takes_all("x[b-d]", "xc"));
    for beyond in ["x[a-d]", "x[b-e]", "xa", "xe", "x?"] {
        assert!(!takes_all("x[b-d]", beyond), "{beyond}");
    }
    assert!(takes_all("xb", "xb") && !takes_all("xb", "xc") && !takes_all("xb", "xa"));
}
