//! What one assistant is told and another is told the opposite of.

use super::{MOST_PAIRED, Row, are_apart};
use crate::base::repo_path::Location;
use crate::base::wording::beginning;
use crate::directive::clash::clash;
use crate::directive::families::Families;
use crate::directive::{About, Claim, MOST_DIRECTIVES, Outline};
use crate::header::{Header, HeaderStyle};
use crate::project::workspace::Workspace;
use rustc_hash::FxHashMap;

/// What a claim is about; only claims about one thing can clash.
type Subject = (u8, Box<str>);

/// Finds for each row another that nobody can follow beside it, told to somebody who is not told this one.
pub(super) fn pair_opposed(workspace: &Workspace<'_>, rows: &mut [Row]) {
    let families = Families::with(&workspace.config.families);
    let mut documents: FxHashMap<Location, FxHashMap<usize, Vec<Claim>>> = FxHashMap::default();
    let mut claims: Vec<Vec<Claim>> = Vec::new();
    for row in rows.iter().take(MOST_PAIRED) {
        let place = row.places.iter().flatten().next();
        let of_row = place.and_then(|(file, span)| {
            let said = documents.entry(file.clone()).or_insert_with(|| said_in(workspace, &families, file));
            said.get(&span.start).cloned()
        });
        claims.push(of_row.unwrap_or_default());
    }
    let mut by_subject: FxHashMap<Subject, Vec<(usize, &Claim)>> = FxHashMap::default();
    for (row, claims) in claims.iter().enumerate() {
        for claim in claims {
            by_subject.entry(subject(claim)).or_default().push((row, claim));
        }
    }
    let mut pairs: Vec<(usize, usize)> = Vec::new();
    for said in by_subject.values() {
        for (at, (one, claim)) in said.iter().enumerate() {
            for (other, against) in &said[at + 1..] {
                let apart = || are_apart(&rows[*one], &rows[*other]);
                let shared = || rows[*one].zones.iter().any(|zone| rows[*other].zones.contains(zone));
                let alike = claim.conditions == against.conditions;
                if one != other && alike && clash(&families, claim, against) && apart() && shared() {
                    pairs.push((*one.min(other), *one.max(other)));
                }
            }
        }
    }
    pairs.sort_unstable();
    for (one, other) in pairs {
        let meant = rows[one].meant.is_some() || rows[other].meant.is_some();
        if !meant && !rows[one].opposed && !rows[other].opposed {
            (rows[one].opposed, rows[one].near) = (true, Some(other));
            (rows[other].opposed, rows[other].near) = (true, Some(one));
        }
    }
}

fn subject(claim: &Claim) -> Subject {
    match &claim.about {
        About::Choice { family, .. } => (0, family.to_string().into()),
        About::Measure { of, .. } => (1, of.clone()),
        About::Act { key, .. } => (2, key.clone()),
    }
}

/// What each directive of a file claims, by where it begins.
fn said_in(workspace: &Workspace<'_>, families: &Families, file: &Location) -> FxHashMap<usize, Vec<Claim>> {
    let document = workspace.document(file);
    let text = beginning(&document.text);
    let body = [HeaderStyle::Yaml, HeaderStyle::Toml].into_iter().map(|style| Header::read(text, style).body).max();
    let (outline, said) = Outline::with_meaning(text, body.unwrap_or(0), families, MOST_DIRECTIVES);
    let each = outline.directives.iter().zip(said);
    each.map(|(directive, said)| (directive.span.start, said.claims.to_vec())).collect()
}
