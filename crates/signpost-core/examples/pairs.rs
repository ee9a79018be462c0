use signpost_core::directive::reading::{Reading, compare::*, lexicon::Lexicon};
use std::collections::BTreeMap;
fn main() {
    let args: Vec<String> = std::env::args().collect();
    let show = args.get(2).cloned().unwrap_or_default();
    let text = std::fs::read_to_string(&args[1]).unwrap();
    let lexicon = Lexicon::built_in();
    let mut counts: BTreeMap<(String, String, u8, String), usize> = BTreeMap::new();
    let mut totals: BTreeMap<String, usize> = BTreeMap::new();
    for line in text.lines() {
        let (label, cat, a, b) = if line.starts_with('{') {
            let v: serde_json::Value = serde_json::from_str(line).unwrap();
            (
                v["label"].as_str().unwrap().to_owned(),
                v["category"].as_str().unwrap().to_owned(),
                v["a"].as_str().unwrap().to_owned(),
                v["b"].as_str().unwrap().to_owned(),
            )
        } else if let Some((label, rest)) = line.split_once(' ').filter(|(l, _)| ["+", "=", "-"].contains(l)) {
            let (a, b) = rest.split_once(" || ").unwrap();
            (
                match label {
                    "+" => "contradiction",
                    "=" => "duplicate",
                    _ => "none",
                }
                .to_owned(),
                String::new(),
                a.to_owned(),
                b.to_owned(),
            )
        } else {
            continue;
        };
        *totals.entry(label.clone()).or_default() += 1;
        let r = |t: &str| Reading::all(t, &[], false, lexicon);
        let (ra, rb) = (r(&a), r(&b));
        let v = compare(&ra, &rb);
        let (kind, why, strength) = match v {
            Some(v) => (
                if v.kind == Kind::Contradiction { "contradiction" } else { "duplicate" },
                format!("{:?}", v.because),
                v.certainty as u8 + 1,
            ),
            None => ("none", String::new(), 0),
        };
        *counts.entry((kind.into(), why.clone(), strength, label.clone())).or_default() += 1;
        let wrong = kind != label;
        let want = match show.as_str() {
            "fp" => wrong && strength >= 2,
            "fp1" => wrong && strength >= 1,
            "fn" => wrong && label != "none",
            "fnc" => label == "contradiction" && kind != label,
            "fnd" => label == "duplicate" && kind != label,
            "all" => true,
            _ => false,
        };
        if want {
            println!("{label:13} got {kind} {why} {strength} [{cat}] {a} || {b}");
            if args.len() > 3 {
                for (t, r) in [(&a, &ra), (&b, &rb)] {
                    for one in r {
                        println!(
                            "      {}{} {} {:?} {:?}",
                            if one.affirms { "+" } else { "-" },
                            if one.allows { "may" } else { "" },
                            one.units
                                .iter()
                                .map(|u| format!(
                                    "{}<{:?}{:?}{}>",
                                    &t[u.span.0 as usize..u.span.1 as usize],
                                    u.role,
                                    u.part,
                                    if u.filler || u.light_act { "~" } else { "" }
                                ))
                                .collect::<Vec<_>>()
                                .join(" "),
                            one.numbers.iter().map(|n| (n.value, n.direction, n.soft)).collect::<Vec<_>>(),
                            one.order
                        );
                    }
                }
            }
        }
    }
    if show.is_empty() {
        for (k, n) in &counts {
            if k.2 > 0 {
                println!("{:14}{:18}{} {:14}{n}", k.0, k.1, k.2, k.3);
            }
        }
    }
    for kind in ["contradiction", "duplicate"] {
        for s in [3u8, 2, 1] {
            let tp: usize = counts.iter().filter(|(k, _)| k.0 == kind && k.2 >= s && k.3 == kind).map(|(_, n)| n).sum();
            let all: usize = counts.iter().filter(|(k, _)| k.0 == kind && k.2 >= s).map(|(_, n)| n).sum();
            println!(
                "{kind} >= {s}: P {:.3} R {:.3} ({tp}/{all} of {})",
                tp as f64 / all.max(1) as f64,
                tp as f64 / totals.get(kind).copied().unwrap_or(0).max(1) as f64,
                totals.get(kind).copied().unwrap_or(0)
            );
        }
    }
}
