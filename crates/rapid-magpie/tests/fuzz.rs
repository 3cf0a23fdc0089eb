//! Rulebooks put together from pieces of others: most can be played. Each is played, undone, laid out anew and drawn.
#![allow(clippy::unwrap_used)]

#[path = "../../magpie-core/tests/damage/mod.rs"]
mod damage;

use damage::{Draws, for_a_while, rulebooks};
use magpie_core::grid::Taken;
use magpie_core::input::Input;
use magpie_core::rulebook::{Rulebook, Severity, format, read_text};
use magpie_core::tape::{Session, Start, run_scenario};
use magpie_draw::Written;
use std::sync::Arc;

/// Words that can stand for each other.
const LIKE: &[&[&str]] = &[
    &["stop", "pass", "swap", "take", "perish", "clash", "bounce", "slide", "ride", "wrap", "shove"],
    &["west", "east", "north", "south", "north-west", "south-east"],
    &["left", "right", "up", "down", "act", "alt"],
    &["edge", "void", "any"],
    &["step", "drop"],
    &["win", "lose", "restart", "next map"],
    &["remove", "turn"],
    &["=", "!=", "<", "<=", ">", ">="],
    &["and", "or"],
    &["rows", "columns", "both"],
    &["every", ""],
    &["here", "chosen", "tapped"],
    &["instant", "linear", "ease-in"],
];

const NUMBERS: &[&str] = &["0", "1", "2", "3", "5", "10", "100", "1000", "-1", "2.5", "999999", "86400000", "1/3"];

/// A rulebook as its sections, each a head and the lines below it.
fn sections(source: &str) -> Vec<Vec<String>> {
    let mut found: Vec<Vec<String>> = Vec::new();
    for line in source.lines() {
        match found.last_mut() {
            Some(section) if line.starts_with([' ', '\t']) || line.is_empty() => section.push(line.into()),
            _ => found.push(vec![line.into()]),
        }
    }
    found
}

/// Names of kinds and groups of a rulebook.
fn names(source: &str) -> Vec<String> {
    let mut names = vec!["any".to_owned()];
    for section in sections(source) {
        if section[0] == "kinds" {
            names.extend(section[1..].iter().filter_map(|line| line.split_whitespace().next()).map(str::to_owned));
        } else if let Some(rest) = section[0].strip_prefix("group ") {
            names.extend(rest.split_whitespace().next().map(str::to_owned));
        }
    }
    names
}

/// A line with some of its words exchanged for others of their sort.
fn reworded(line: &str, foreign: &[String], own: &[String], draws: &mut Draws) -> String {
    let word = |word: &str, draws: &mut Draws| -> String {
        let core = word.trim_end_matches([',', ':']);
        let tail = &word[core.len()..];
        let other = if foreign.iter().any(|name| name == core) {
            // A name of another rulebook means nothing here.
            draws.of(own).clone()
        } else if draws.below(4) > 0 {
            core.to_owned()
        } else if let Some(like) = LIKE.iter().find(|like| like.contains(&core)) {
            (*draws.of(like)).to_owned()
        } else if own.iter().any(|name| name == core) {
            draws.of(own).clone()
        } else if core.parse::<f64>().is_ok() {
            (*draws.of(NUMBERS)).to_owned()
        } else {
            core.to_owned()
        };
        format!("{other}{tail}")
    };
    let indent = line.len() - line.trim_start().len();
    let words: Vec<String> = line.split_whitespace().map(|part| word(part, draws)).collect();
    format!("{}{}", &line[..indent], words.join(" "))
}

/// A rulebook made of one and of rules, sections and words of others.
fn mutant(all: &[String], draws: &mut Draws) -> String {
    let base = draws.of(all);
    let own = names(base);
    let mut made = sections(base);
    for _ in 0..=draws.below(4) {
        let other = draws.of(all);
        let foreign: Vec<String> = names(other).into_iter().filter(|name| !own.contains(name)).collect();
        let others = sections(other);
        let from = draws.of(&others).clone();
        let at = draws.below(made.len());
        match draws.below(8) {
            0 => made.push(from.iter().map(|line| reworded(line, &foreign, &own, draws)).collect()),
            1 if made.len() > 3 => {
                made.remove(at);
            }
            2 => {
                let copy = made[at].clone();
                made.push(copy);
            }
            3 if made[at][0].starts_with("map") => {
                // A glyph of the kinds somewhere on the map.
                let glyphs: Vec<char> =
                    base.lines().filter_map(|line| line.split_whitespace().nth(1)?.chars().next()).collect();
                let glyph = *draws.of(&glyphs);
                let line = draws.below(made[at].len());
                let mut row: Vec<char> = made[at][line].chars().collect();
                if line > 0 && row.len() > 2 {
                    let column = 2 + draws.below(row.len() - 2);
                    row[column] = glyph;
                    made[at][line] = row.into_iter().collect();
                }
            }
            4..=5 => {
                let rules: Vec<&String> =
                    others.iter().filter(|section| section[0] == "rules").flat_map(|section| &section[1..]).collect();
                if !rules.is_empty() {
                    let rule = rules[draws.below(rules.len())];
                    let rule = reworded(rule, &foreign, &own, draws);
                    made.push(vec!["rules".into(), rule]);
                }
            }
            _ => {
                let line = draws.below(made[at].len());
                if !made[at][0].starts_with("map") {
                    made[at][line] = reworded(&made[at][line], &[], &own, draws);
                }
            }
        }
    }
    made.concat().join("\n") + "\n"
}

fn input(draws: &mut Draws) -> Input {
    let words = [
        "left",
        "right",
        "up",
        "down",
        "act",
        "alt",
        "key:x",
        "undo",
        "restart",
        "next",
        "wait:16",
        "wait:700",
        "wait:4000",
    ];
    let (column, row) = (draws.below(12) as i64 - 1, draws.below(9) as i64 - 1);
    let word = match draws.below(10) {
        0 => format!("tap:{column},{row}"),
        1 => format!("drag:{column},{row}>{},{row}", column + 1),
        _ => (*draws.of(&words)).to_owned(),
    };
    word.parse().unwrap()
}

/// Plays, winds back and forth, and holds what is seen against what was seen.
fn play(book: &Arc<Rulebook>, draws: &mut Draws) {
    let map = draws.below(book.maps.len());
    let cells = u64::from(book.maps[map].extent.columns) * u64::from(book.maps[map].extent.rows);
    let Ok(mut session) = Session::new(Start::map(book.clone(), map)) else { return };
    let count = if cells > 2_000 { 4 } else { 20 };
    let first = session.grid().picture();
    for _ in 0..count {
        let (before, input) = (session.position(), input(draws));
        if session.give(&input) == Taken::Yes && input != Input::Undo {
            assert_eq!(session.position(), before + 1);
        }
    }
    let (end, last) = (session.position(), session.grid().picture());
    session.go(0);
    assert_eq!(session.grid().picture(), first, "undone to the first input");
    session.go(end);
    assert_eq!(session.grid().picture(), last, "played again");
    if let Ok(drawing) = magpie_draw::board(book, "board", session.grid().board(), Written::Place) {
        assert!(drawing.svg().trim_end().ends_with("</svg>"));
    }
    if book.kinds.len() < 30 {
        magpie_draw::meetings(book).unwrap();
    }
    for scenario in book.scenarios.iter().take(3) {
        let _ = run_scenario(book, scenario).map(|report| report.failures.len());
    }
}

#[test]
fn fuzz_rulebooks_made_of_others() {
    let all = rulebooks();
    let mut draws = Draws(23);
    let mut played = 0;
    let rounds = for_a_while("mutants", |_| {
        let source = mutant(&all, &mut draws);
        let reading = read_text(&source, &|_| Err("none".into()));
        assert_eq!(reading.rulebook.is_none(), reading.count(Severity::Error) > 0, "{source}");
        if let Some(laid_out) = format(&source) {
            assert_eq!(format(&laid_out).as_ref(), Some(&laid_out), "twice is once:\n{source}");
            let again = read_text(&laid_out, &|_| Err("none".into()));
            let codes = |reading: &magpie_core::rulebook::Reading| {
                reading.diagnostics.iter().map(|found| found.code).collect::<Vec<_>>()
            };
            assert_eq!(codes(&reading), codes(&again), "the layout means the same:\n{source}");
        }
        if let Some(book) = reading.rulebook {
            play(&Arc::new(book), &mut draws);
            played += 1;
        }
        source
    });
    assert!(played * 10 > rounds, "only {played} of {rounds} could be played");
}
