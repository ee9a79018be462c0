use super::*;

const PLACE: &str = "name = \"t\"\n[[place]]\nid = \"a\"\nlevel = \"folder\"\nfiles = [\"T.md\"]\n";

fn refused(text: &str) -> (String, String) {
    let error = Profile::parse("t.toml", text, Origin::Project).unwrap_err();
    (error.to_string(), error.help.unwrap_or_default())
}

#[test]
fn the_built_in_profile_reads_the_open_format() {
    let all = built_in();
    assert_eq!(all.iter().map(|profile| profile.name.as_str()).collect::<Vec<_>>(), ["agents-md"]);
    assert_eq!(all[0].places[0].files_text(), "AGENTS.md");
}

#[test]
fn defaults_are_those_of_the_fine_print() {
    let profile = Profile::parse("t.toml", PLACE, Origin::Project).unwrap().0;
    let place = &profile.places[0];
    assert_eq!(profile.title, "t");
    assert_eq!(profile.order, ["user", "project", "folder"]);
    assert_eq!((profile.loads, profile.nested, profile.conflict), (Loads::Touched, Nested::All, Conflict::Unstated));
    assert_eq!((place.pick, place.kind, place.format), (Pick::All, Kind::Rule, Format::Markdown));
    assert_eq!((place.header, place.base, place.reach), (HeaderStyle::None, Base::Root, Reach::Standing));
    assert_eq!(place.dialect, Dialect::default());
    assert!(profile.references.is_none() && profile.exclusions.is_empty());
    let text = format!("{PLACE}[references]\nsyntax = [\"link\"]\n");
    let references = Profile::parse("t.toml", &text, Origin::Project).unwrap().0.references.unwrap();
    assert_eq!((references.depth, references.from), (5, ReferenceBase::File));
}

/// Each row: what is added to a valid profile, the start of the message, and a word of the help.
#[test]
fn mistakes_are_refused_at_their_place() {
    for (added, message, help) in [
        ("lods = \"start\"", "t.toml:6:1: unknown key `lods`", ""),
        ("pick = \"frist\"", "t.toml:6:8: `frist` is not a value", "did you mean `first`?"),
        ("personal = 3", "t.toml:6:12: a value of the wrong type", ""),
        (
            "[[place.decide]]\nkey = \"x\"\nis = 1\npresent = true\nreach = \"called\"",
            "t.toml:7:7: a decide row has one",
            "one row",
        ),
        ("[[place.decide]]\nkey = \"x\"\nreach = \"called\"", "t.toml:7:7: a decide row has one", ""),
        (
            "[[place.decide]]\nkey = \"x\"\nabsent = false\nreach = \"called\"",
            "t.toml:8:10: this condition",
            "present = true",
        ),
        ("[[place]]\nid = \"a\"\nlevel = \"user\"\nfiles = [\"b\"]", "t.toml:7:6: two places have the id", ""),
        (
            "[[place]]\nid = \"user\"\nlevel = \"user\"\nfiles = [\"b\"]",
            "t.toml:7:6: `user` is the name of a level",
            "",
        ),
        (
            "[[place]]\nid = \"b\"\nlevel = \"folder\"\nfiles = [\"**/b\"]",
            "t.toml:9:10: a pattern of a folder-level",
            "leave",
        ),
        (
            "[[place]]\nid = \"b\"\nlevel = \"project\"\nfiles = [\"**/*\"]",
            "t.toml:9:10: `**/*` would match the whole",
            "",
        ),
        ("[[place]]\nid = \"b\"\nlevel = \"project\"\nfiles = [\"[b\"]", "t.toml:9:10: `[b` is no valid pattern", ""),
        ("[[place]]\nid = \"b\"\nlevel = \"project\"\nfiles = []", "t.toml:7:6: the place `b` has no file", ""),
        ("[exclusions]\nfiles = [\"../x\"]", "t.toml:7:10: an exclusion file", ""),
    ] {
        let (error, suggestion) = refused(&format!("{PLACE}{added}\n"));
        assert!(error.starts_with(message), "{added}: {error}");
        assert!(suggestion.contains(help), "{added}: {suggestion}");
    }
    assert!(refused("name = \"Not Kebab\"\n").0.contains("kebab-case"));
    assert!(refused("name = \"t\"\n").0.contains("has no place"));
    assert!(refused(&format!("order = [\"usr\"]\n{PLACE}")).1.contains("did you mean `user`?"));
    assert!(refused(&format!("order = [\"user\", \"user\"]\n{PLACE}")).0.contains("stands twice"));
}

#[test]
fn a_place_that_walks_everything_is_told_so() {
    let text = "name = \"t\"\n[[place]]\nid = \"a\"\nlevel = \"project\"\nfiles = [\"**/T.md\"]\n";
    let (_, remarks) = Profile::parse("t.toml", text, Origin::Project).unwrap();
    assert!(remarks[0].message.contains("walk the whole project folder"));
}

#[test]
fn conditions_compare_written_text() {
    let text = format!(
        "{PLACE}[[place.decide]]\nkey = \"v\"\nis = 1.0\nreach = \"called\"\n[[place.decide]]\nkey = \"v\"\nis = true\nreach = \"offered\"\n"
    );
    let place = Profile::parse("t.toml", &text, Origin::Project).unwrap().0.places.remove(0);
    let reach = |value: &str| place.reach_of(&Header::read(&format!("---\nv: {value}\n---\n"), HeaderStyle::Yaml));
    assert_eq!(reach("1.0"), Reach::Called);
    assert_eq!(reach("1"), Reach::Standing);
    assert_eq!(reach("\"true\""), Reach::Offered);
    assert_eq!(reach("yes"), Reach::Standing);
    assert_eq!(reach("[true]"), Reach::Standing);
}
