//! Where a rule can go for an assistant, and what that loses.

use super::LossKind;
use super::compose::Above;
use super::header::{Wanted, Written, write};
use super::source::Source;
use crate::base::repo_path::RepoPath;
use crate::config::OfferedElsewhere;
use crate::pattern::escaped;
use crate::pattern::translate::translate;
use crate::pattern::{Pattern, Simple};
use crate::profile::{Base, Kind, Level, Loads, Nested, Pick, Place, Profile, Reach};
use crate::project::guidance::{self, Kept, Marker};
use std::cell::OnceCell;

/// One way to write a rule for an assistant.
#[derive(Clone, Debug)]
pub struct Way {
    /// The place, by number.
    pub place: usize,
    /// The folder that the file is anchored at.
    pub anchor: RepoPath,
    /// The file.
    pub path: RepoPath,
    /// Whether several rules share the file as its sections.
    pub shared: bool,
    /// Other files for the same, where the first is taken by another rule.
    pub others: Vec<RepoPath>,
    /// The header.
    pub header: Written,
    /// What stands above the rule in the file.
    pub above: Above,
    /// What is lost.
    pub losses: Vec<LossKind>,
    /// How much is lost, for choosing; 0 is nothing.
    rank: usize,
    /// Whether the header is the whole of it, what is kept included.
    pub whole_header: bool,
}

impl Way {
    /// A way that loses nothing, with all of its header.
    pub fn kept(place: usize, anchor: RepoPath, path: RepoPath, shared: bool, header: Written, above: Above) -> Self {
        Way {
            place,
            anchor,
            path,
            shared,
            others: Vec::new(),
            header,
            above,
            losses: Vec::new(),
            rank: 0,
            whole_header: true,
        }
    }
}

/// What is asked, with what it loses.
struct Ask {
    anchor: RepoPath,
    wanted: Wanted,
    above: Above,
    losses: Vec<LossKind>,
    rank: usize,
}

/// The ways to write a rule for an assistant, the best first. `folder` is the tightest folder of its scope.
pub fn ways(
    profile: &Profile,
    source: &Source,
    folder: &dyn Fn() -> RepoPath,
    offered: OfferedElsewhere,
    exists: &dyn Fn(&RepoPath) -> bool,
    owns: &dyn Fn(&Way) -> bool,
) -> Vec<Way> {
    let tight = OnceCell::new();
    let mut ways = Vec::new();
    for (number, place) in profile.places.iter().enumerate() {
        if place.kind == Kind::Role || place.personal || place.level == Level::User {
            continue;
        }
        for ask in asks(profile, place, source, &|| tight.get_or_init(folder).clone(), offered) {
            let simple = place.files.iter().flat_map(|pattern| pattern.simple().iter().zip(std::iter::repeat(pattern)));
            // The name that a file had is better than any that is made up.
            let kept = source.keep.get(&profile.name).and_then(Kept::file).map(|file| source.base.join(file));
            let kept = kept.as_ref().and_then(|path| path.below(&ask.anchor));
            let named = |(one, pattern): (&Simple, &Pattern)| {
                let (first, mut others, shared) = name_in(one, pattern.text(), &source.name, &source.base)?;
                Some(match kept.filter(|kept| !shared && one.matches(kept)) {
                    Some(kept) => {
                        others.insert(0, first);
                        (kept.to_owned(), others, false)
                    }
                    None => (first, others, shared),
                })
            };
            let mut names: Vec<_> = simple.filter_map(named).collect();
            if place.pick == Pick::First {
                // A file of another name would silence the one that is there.
                names.sort_by_key(|(below, ..)| !exists(&ask.anchor.join(below)));
            }
            for (below, others, shared) in names {
                let mut wanted = ask.wanted.clone();
                if shared {
                    // A header speaks of the whole file, so it can't hold what is true of one section.
                    if wanted.reach != Reach::Standing {
                        continue;
                    }
                    wanted.summary = None;
                }
                let Some(header) = write(place, &wanted) else { continue };
                let above = if shared { ask.above.clone() } else { Above::Nothing };
                let (anchor, path) = (ask.anchor.clone(), ask.anchor.join(&below));
                let others = others.iter().map(|other| ask.anchor.join(other)).collect();
                let (losses, rank) = (ask.losses.clone(), ask.rank);
                let place = number;
                let way = Way { place, anchor, path, shared, others, header, above, losses, rank, whole_header: false };
                if owns(&way) {
                    ways.push(way);
                    break;
                }
            }
        }
    }
    // Where it stood is better than where it could stand, as long as nothing is lost there.
    let kept = source.keep.get(&profile.name).and_then(Kept::file).map(|file| source.base.join(file));
    let elsewhere = |way: &Way| !(kept.as_ref() == Some(&way.path) && way.losses.is_empty());
    ways.sort_by_key(|way| (elsewhere(way), way.rank, way.place));
    ways
}

/// What to ask of a place.
fn asks(
    profile: &Profile,
    place: &Place,
    source: &Source,
    folder: &dyn Fn() -> RepoPath,
    offered: OfferedElsewhere,
) -> Vec<Ask> {
    let mut asks = Vec::new();
    let root = RepoPath::root();
    // A conversation starts at the root: files further down would not load, or hide those above.
    let only_root = place.level == Level::Project || profile.loads == Loads::Start;
    let anchored = |anchor: &RepoPath| !only_root || anchor.is_root();
    let summary = source.rule.summary.as_ref().map(|text| text.split_whitespace().collect::<Vec<_>>().join(" "));
    let plain = |reach| Wanted { reach, summary: summary.clone(), ..Wanted::default() };
    let nearest = place.level == Level::Folder && profile.nested == Nested::Nearest;
    // With scopes, the root's files can say all; only then do nearer files not have to repeat them.
    let own_base = if only_root || nearest && place.keys.paths.is_some() { root.clone() } else { source.base.clone() };
    let mut scoped = |anchor: &RepoPath, rank: usize, extra: Option<LossKind>| {
        let (wanted, mut losses) = scoped_from(place, source, anchor, summary.clone());
        losses.extend(extra);
        let rank = if losses.iter().any(|loss| matches!(loss, LossKind::WiderReach)) { rank.max(2) } else { rank };
        asks.push(Ask { anchor: anchor.clone(), wanted, above: Above::Nothing, losses, rank });
    };
    match source.reach {
        Reach::Standing if source.base == own_base => {}
        Reach::Standing => scoped(&own_base, 1, None),
        Reach::Scoped => scoped(&own_base, 0, None),
        Reach::Offered if !source.rule.scope.paths.set.is_empty() => {
            scoped(&own_base, 3, Some(LossKind::Changed { from: Reach::Offered, to: Reach::Scoped }));
        }
        Reach::Offered | Reach::Called => {}
    }
    if source.reach == Reach::Standing && anchored(&source.base) {
        let (wanted, above) = (plain(Reach::Standing), Above::Nothing);
        asks.push(Ask { anchor: source.base.clone(), wanted, above, losses: Vec::new(), rank: 0 });
    }
    if let Reach::Standing | Reach::Scoped = source.reach {
        // The folder's own file, else the root's.
        let exact = source.subtree();
        let mut anchors = vec![exact.clone().unwrap_or_else(folder), root.clone()];
        anchors.retain(anchored);
        anchors.dedup();
        for anchor in anchors {
            let whole = exact.as_ref() == Some(&anchor);
            if source.reach == Reach::Standing && whole {
                continue;
            }
            let above = if whole { Above::Nothing } else { Above::Under(source.marker()) };
            let losses = if whole { Vec::new() } else { vec![LossKind::WiderReach] };
            let rank = if whole { 1 } else { 4 + usize::from(anchor.is_root()) };
            asks.push(Ask { anchor, wanted: plain(Reach::Standing), above, losses, rank });
        }
    }
    if let Reach::Offered | Reach::Called = source.reach {
        // Offered in a part of the project only, where there are folders for that.
        let mut anchors = vec![source.base.clone(), root.clone()];
        anchors.retain(anchored);
        anchors.dedup();
        for anchor in anchors {
            let wider = (anchor != source.base).then_some(LossKind::WiderReach);
            let rank = usize::from(wider.is_some()) * 2;
            let above = Above::Nothing;
            asks.push(Ask {
                anchor: anchor.clone(),
                wanted: plain(source.reach),
                above,
                losses: wider.clone().into_iter().collect(),
                rank,
            });
            let change = |to| wider.clone().into_iter().chain([LossKind::Changed { from: source.reach, to }]).collect();
            if source.reach == Reach::Called && summary.is_some() {
                let (wanted, losses) = (plain(Reach::Offered), change(Reach::Offered));
                asks.push(Ask { anchor: anchor.clone(), wanted, above: Above::Nothing, losses, rank: rank + 4 });
            }
            if source.reach == Reach::Offered && offered == OfferedElsewhere::Standing {
                let summary = summary.clone().unwrap_or_else(|| source.title());
                let above = Above::Under(Marker::When(summary));
                let losses = change(Reach::Standing);
                asks.push(Ask { anchor, wanted: plain(Reach::Standing), above, losses, rank: rank + 6 });
            }
        }
    }
    asks
}

/// The scope in a place's dialect, for a file anchored at a folder.
fn scoped_from(place: &Place, source: &Source, anchor: &RepoPath, summary: Option<String>) -> (Wanted, Vec<LossKind>) {
    let base =
        if place.level == Level::Folder && place.base == Base::Folder { anchor.clone() } else { RepoPath::root() };
    // The anchor is the rule's own folder or the root, so the way down is never a way up.
    let prefix = source.base.below(&base).and_then(RepoPath::new).unwrap_or_default();
    let mut losses = Vec::new();
    let mut wider = false;
    let mut in_dialect = |texts: &[&str]| -> Vec<String> {
        let mut words = Vec::new();
        for text in texts {
            let done = translate(text, guidance::dialect(), &place.dialect, &prefix);
            if done.spelled_out {
                losses.push(LossKind::SpelledOut { pattern: (*text).to_owned() });
            }
            wider |= done.wider;
            words.extend(done.words);
        }
        words
    };
    let (paths, except) = source.patterns();
    let (paths, mut except) = if source.reach == Reach::Standing {
        (vec![format!("{}/**", escaped(prefix.as_str(), &place.dialect))], Vec::new())
    } else {
        (in_dialect(&paths), in_dialect(&except))
    };
    if wider {
        losses.push(LossKind::WiderReach);
    }
    if !except.is_empty() && place.keys.except.is_none() && !place.dialect.negate {
        losses.push(LossKind::WiderReach);
        except.clear();
    }
    losses.dedup();
    (Wanted { reach: Reach::Scoped, summary, paths, except }, losses)
}

/// A file's path below its anchor, with others for where it is taken, and whether it is one that several rules share.
pub(crate) fn name_in(
    simple: &Simple,
    pattern: &str,
    name: &str,
    base: &RepoPath,
) -> Option<(String, Vec<String>, bool)> {
    if let Some(path) = simple.literal_path() {
        let clean = !path.split('/').any(|part| matches!(part, "" | "." | ".." | ".git"));
        return clean.then_some((path, Vec::new(), true));
    }
    let text = pattern.trim_start_matches("./").trim_start_matches('/');
    // A rule of a part of the project keeps the part in its name where it has to make room.
    let base = base.as_str().replace('/', "-");
    let mut names = vec![name.to_owned()];
    names.extend((!base.is_empty()).then(|| format!("{base}-{}", name)));
    names.extend((2..10).map(|number| format!("{}-{number}", name)));
    let forms = Pattern::spelled_out(text);
    let named = |name: &String| {
        let of_form = |form: &String| [true, false].into_iter().find_map(|deep| filled(form, name, deep));
        forms.iter().filter_map(of_form).find(|path| simple.matches(path))
    };
    let mut paths = names.iter().filter_map(named);
    Some((paths.next()?, paths.collect(), false))
}

/// The pattern with a rule's name in the place of its wildcards.
fn filled(form: &str, name: &str, deep: bool) -> Option<String> {
    let slug: Vec<String> = name.split('/').map(slug).collect();
    let (last, folders) = slug.split_last()?;
    let nested = deep && form.split('/').any(|part| part == "**");
    let name = if nested { last.clone() } else { slug.join("-") };
    let mut parts: Vec<String> = Vec::new();
    let (mut named, mut in_folders) = (false, false);
    let pieces: Vec<&str> = form.split('/').collect();
    for (at, piece) in pieces.iter().enumerate() {
        match *piece {
            "**" if at + 1 == pieces.len() => parts.push(format!("{name}.md")),
            "**" if nested && !in_folders => {
                parts.extend(folders.iter().cloned());
                in_folders = true;
            }
            "**" => {}
            piece if piece.contains(['?', '[']) => return None,
            piece if piece.contains('*') => {
                // The first wildcard takes the name.
                let with = if named { "" } else { name.as_str() };
                named = true;
                parts.push(piece.replacen("**", "*", 1).replacen('*', with, 1).replace('*', ""));
            }
            piece => parts.push(piece.to_owned()),
        }
    }
    Some(parts.join("/"))
}

/// A name that every file system takes.
fn slug(part: &str) -> String {
    let kept: String =
        part.chars().map(|c| if c.is_alphanumeric() || matches!(c, '-' | '_' | '.') { c } else { '-' }).collect();
    let kept = kept.trim_start_matches(['.', '-']);
    if kept.is_empty() { "rule".to_owned() } else { kept.to_owned() }
}
