use super::*;
use proptest::prelude::*;

fn list(key: &Key) -> Vec<&str> {
    match &key.value {
        Value::List(items) => items.iter().map(|item| item.text.as_str()).collect(),
        Value::Scalar(scalar) => vec![&scalar.text],
        _ => vec![],
    }
}

/// Each row: a YAML header's lines, the key asked for, what it holds, and whether something is said.
#[test]
fn yaml_is_read_as_meant() {
    let rows: &[(&str, &str, &[&str], bool)] = &[
        ("covers: \"*.ts\"", "covers", &["*.ts"], false),
        ("covers: *.ts", "covers", &["*.ts"], true),
        ("covers: **/*.ts, *.js", "covers", &["**/*.ts, *.js"], true),
        ("covers: !vendor/**", "covers", &["!vendor/**"], true),
        ("covers: {src,lib}/**", "covers", &["{src,lib}/**"], true),
        ("covers: {src,lib}", "covers", &["{src,lib}"], true),
        ("covers: [*.ts, \"*.tsx\"]", "covers", &["*.ts", "*.tsx"], true),
        ("covers: [\"{a,b}/*.ts\", c]", "covers", &["{a,b}/*.ts", "c"], false),
        ("covers: [*.{ts,tsx}, c]", "covers", &["*.{ts,tsx}", "c"], true),
        ("covers: [*.ts,\n  *.tsx]", "covers", &["*.ts", "*.tsx"], true),
        ("covers:\n- *.ts\n- 'b' # why", "covers", &["*.ts", "b"], true),
        ("covers:\n  - a\n  - b", "covers", &["a", "b"], false),
        ("covers:\n\t- a\n\t- b", "covers", &["a", "b"], true),
        ("about: Ledger: append only", "about", &["Ledger: append only"], true),
        ("about: yes # really", "about", &["yes"], false),
        ("about: \"a # b\"", "about", &["a # b"], false),
        ("about: >\n  two\n  lines\nload: each", "about", &["two lines"], false),
        ("about: 'it''s'", "about", &["it's"], false),
        ("about: [draft] x", "about", &["[draft] x"], true),
        ("about: @x", "about", &["@x"], true),
        ("about:\tx", "about", &["x"], false),
        ("bad line\nabout: x", "about", &["x"], true),
        ("about: x\nbad line\nload: each", "load", &["each"], true),
        ("about: x\nbad line\nload: each", "about", &["x"], true),
        ("covers:*.ts\nload: each", "covers", &["*.ts"], true),
        ("  about: x\n  load: each", "load", &["each"], false),
        ("covers: [\n\"a\",\n\"b\"\n]\nload: each", "covers", &["a", "b"], true),
        ("a: 1\na: 2", "a", &["2"], true),
        ("\"about\": x", "about", &["x"], false),
        ("covers: [a/[bc].ts]", "covers", &["a/[bc].ts"], true),
        ("covers:\n  - {a,b}/*.ts", "covers", &["{a,b}/*.ts"], true),
        ("about:", "about", &[], false),
        ("about: {a: 1}", "about", &[], false),
    ];
    for (lines, key, expected, said) in rows {
        for text in [
            format!("---\n{lines}\n---\nText.\n"),
            format!("\u{feff}--- \n{lines}\n---\nText.\n").replace('\n', "\r\n"),
        ] {
            let header = Header::read(&text, HeaderStyle::Yaml);
            let found = header.get(key).unwrap_or_else(|| panic!("{lines:?} has no {key}: {header:?}"));
            assert_eq!(list(found), *expected, "{lines:?}");
            assert_eq!(!header.problems.is_empty(), *said, "{lines:?}: {:?}", header.problems);
            assert!(text[header.body..].starts_with("Text."), "{lines:?}");
        }
    }
}

#[test]
fn toml_is_read_as_meant() {
    let rows: &[(&str, &str, &[&str], bool)] = &[
        ("paths = [\"*.ts\"]\nload = true", "load", &["true"], false),
        ("paths = [\"*.ts\"]", "paths", &["*.ts"], false),
        ("paths = *.ts", "paths", &["*.ts"], true),
        ("paths = [*.ts, \"b\"]\nload = 1.0", "paths", &["*.ts", "b"], true),
        ("paths = *.ts\nload = 'x'", "load", &["x"], true),
        ("paths = [\n  \"a\",\n  \"b\",\n]\nbad = = 1", "paths", &["a", "b"], true),
        ("due = 2027-03-01", "due", &["2027-03-01"], false),
    ];
    for (lines, key, expected, said) in rows {
        let text = format!("+++\n{lines}\n+++\nText.\n");
        let header = Header::read(&text, HeaderStyle::Toml);
        let found = header.get(key).unwrap_or_else(|| panic!("{lines:?} has no {key}: {header:?}"));
        assert_eq!(list(found), *expected, "{lines:?}");
        assert_eq!(!header.problems.is_empty(), *said, "{lines:?}: {:?}", header.problems);
    }
}

#[test]
fn spans_hold_the_words() {
    let text = "---\nüber: ä\ncovers: [\"*.ts\", b]\nlist:\n  - 'x'\n---\n";
    let header = Header::read(text, HeaderStyle::Yaml);
    let spans: Vec<&str> = header.keys.iter().map(|key| &text[key.value_span.clone()]).collect();
    assert_eq!(spans, ["ä", "[\"*.ts\", b]", "'x'"]);
    let Value::List(items) = &header.get("covers").unwrap().value else { panic!("a list") };
    assert_eq!(&text[items[1].span.clone()], "b");
    assert_eq!(&text[items[0].span.clone()], "\"*.ts\"");
}

#[test]
fn a_header_elsewhere_or_unclosed_is_none() {
    for text in ["\n---\na: 1\n---\n", "---\na: 1\n", " ---\na: 1\n---\n", "+++\na = 1\n+++\n"] {
        let header = Header::read(text, HeaderStyle::Yaml);
        assert!(header.keys.is_empty() && header.block.is_none(), "{text:?}");
        assert_eq!(header.problems.len(), 1, "{text:?}");
    }
    let rule = Header::read("Text\n\n---\n\nMore: text\n---\n", HeaderStyle::Yaml);
    assert_eq!(rule.problems, []);
    assert_eq!(Header::read("---\n---\nx", HeaderStyle::Yaml).body, 8);
}

#[test]
fn emptiness_is_as_the_design_says() {
    let text = "---\na:\nb: \"\"\nc: []\nd: [\"\"]\ne: null\nf: ~\ng: \"null\"\nh: false\ni: 0\nj: '  '\n---\n";
    let header = Header::read(text, HeaderStyle::Yaml);
    let empty: Vec<&str> = header.keys.iter().filter(|key| key.is_empty()).map(|key| key.name.as_str()).collect();
    assert_eq!(empty, ["a", "b", "c", "d", "e", "f", "j"]);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 3000, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn no_bytes_make_it_panic(body in prop::collection::vec(any::<u8>(), 0..60), toml: bool) {
        let text = String::from_utf8_lossy(&body);
        check(&text, toml);
    }

    #[test]
    fn no_header_makes_it_panic(body in "[a-c:=\\[\\]{}\"'*!&#,\\-|> \t\r\n\u{feff}é~@%]{0,60}", toml: bool) {
        check(&body, toml);
    }
}

fn check(body: &str, toml: bool) {
    let (style, fence) = if toml { (HeaderStyle::Toml, "+++") } else { (HeaderStyle::Yaml, "---") };
    let text = format!("{fence}\n{body}\n{fence}\n");
    let header = Header::read(&text, style);
    for key in &header.keys {
        assert!(text.get(key.name_span.clone()).is_some() && text.get(key.value_span.clone()).is_some());
        if let Value::List(items) = &key.value {
            assert!(items.iter().all(|item| text.get(item.span.clone()).is_some()));
        }
    }
    assert!(header.problems.iter().all(|problem| text.get(problem.span.clone()).is_some()));
    assert!(text.get(header.body..).is_some());
}
