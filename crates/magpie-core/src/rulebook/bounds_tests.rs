//! Files that are large or wrong without end: what is kept of them, and what is told.

use super::{Code, Reading, Severity, format, read_text};
use crate::limits::{MOST_DRAWN, MOST_FINDINGS, MOST_GROUPS, MOST_TOKENS};
use std::fmt::Write as _;

const HEAD: &str = "game \"Yard\"\ncell 10 px\nkinds\n  plank . floor\n  man M body\nmap \"One\"\n  M.\n";

fn reading(source: &str) -> Reading {
    read_text(source, &|_| Err("no file".into()))
}

/// The code and the words of what is found first.
fn first(reading: &Reading) -> (&'static str, &str) {
    let found = &reading.diagnostics[0];
    (found.code.word(), &reading.source[found.span.start..found.span.end])
}

#[test]
fn the_first_thousand_mistakes_and_warnings_are_listed_and_the_others_counted() {
    let wrong = |count: usize| {
        let mut source = String::from(HEAD);
        for number in 0..count {
            let _ = write!(source, "timer t{number} 5 mm\ncounter c{number}\nrules\n  win when c{number} > 1\n");
        }
        source
    };
    for count in [1, MOST_FINDINGS, MOST_FINDINGS + 1, 5000] {
        let reading = reading(&wrong(count));
        let listed = count.min(MOST_FINDINGS);
        assert_eq!((reading.diagnostics.len(), reading.unlisted.errors), (listed, count - listed));
        assert_eq!(reading.count(Severity::Error), count);
        let units =
            reading.diagnostics.iter().all(|found| found.code == Code::UnknownUnit && !found.message.is_empty());
        assert!(units, "the first of the file, in words");
    }
    // Warnings are for files that can be read: they neither hide a mistake nor are hidden by one.
    let mut warned = String::from(HEAD);
    for number in 0..3000 {
        let _ = write!(warned, "counter c{number}\nrules\n  win when c{number} > 1\n");
    }
    warned += "ground nobody\n";
    let reading = reading(&warned);
    assert_eq!((reading.count(Severity::Warning), reading.count(Severity::Error)), (3000, 1));
    let errors: Vec<&str> = reading
        .diagnostics
        .iter()
        .filter(|found| found.code.severity() == Severity::Error)
        .map(|found| found.code.word())
        .collect();
    assert_eq!((errors, reading.diagnostics.len()), (vec!["unknown-name"], MOST_FINDINGS + 1));
}

/// Mistakes are found phase by phase; those that are listed are the first of the file all the same.
#[test]
fn what_is_listed_comes_first_in_the_file_whatever_is_found_first() {
    let mut source = String::from(HEAD);
    for number in 0..1500 {
        let _ = write!(source, "rules\n  ghost{number} into man: stop\ntimer t{number} 5 mm\n");
    }
    let reading = reading(&source);
    let starts: Vec<usize> = reading.diagnostics.iter().map(|found| found.span.start).collect();
    assert!(starts.is_sorted());
    let line = reading.source[..starts[MOST_FINDINGS - 1]].matches('\n').count();
    assert_eq!(line, 7 + 3 * (MOST_FINDINGS / 2 - 1) + 2, "two mistakes in three lines");
    assert_eq!(reading.count(Severity::Error), 3000);
}

#[test]
fn groups_may_be_chained_by_the_thousands_and_hold_what_the_first_holds() {
    let chain = |count: usize| {
        let mut source = format!("{HEAD}group g0 = man, plank\n");
        for number in 1..count {
            let _ = writeln!(source, "group g{number} = g{}", number - 1);
        }
        source
    };
    let source = format!("{}rules\n  g59999 into edge: stop\n", chain(60_000));
    let book = reading(&source).rulebook.unwrap();
    let kinds: Vec<&str> = book.set(book.meetings[0].who).iter().map(|kind| &*book.kind(kind).name).collect();
    assert_eq!(kinds, ["plank", "man"]);
    let reading = reading(&chain(MOST_GROUPS + 2));
    assert_eq!((first(&reading), reading.diagnostics.len()), (("too-many", "g65535"), 1));
}

#[test]
fn groups_that_contain_themselves_are_told_at_every_member_of_the_circle() {
    let source = format!("{HEAD}group a = b, man\ngroup b = c\ngroup c = man, a\ngroup d = a, d\ngroup e = d, man\n");
    let reading = reading(&source);
    let found: Vec<(&str, usize)> = reading
        .diagnostics
        .iter()
        .map(|found| (&source[found.span.start..found.span.end], source[..found.span.start].matches('\n').count() - 7))
        .collect();
    assert_eq!(found, [("b", 0), ("c", 1), ("a", 2), ("d", 3)]);
}

#[test]
fn cells_of_all_drawings_together_have_a_limit() {
    let wide = "M".repeat(4000);
    let mut source = String::from(HEAD);
    // A long row and a thousand blank ones below it: four million cells of a few bytes.
    let maps = MOST_DRAWN / 4_004_000 + 2;
    for number in 0..maps {
        let _ = write!(source, "map \"Wide {number}\"\n  {wide}\n{}  M\n", "  _\n".repeat(999));
    }
    let reading = reading(&source);
    assert_eq!((first(&reading).0, reading.diagnostics.len()), ("too-many", 1));
}

#[test]
fn files_of_all_maps_together_have_a_limit() {
    let mut source = String::from(HEAD);
    for number in 0..20 {
        let _ = writeln!(source, "map \"File {number}\" from \"big.csv\"");
    }
    // A megabyte and a half of one field each is no problem, sixteen are.
    let small = read_text(&source, &|_| Ok(format!("M{}\n", " ".repeat(1_500_000)).into_bytes()));
    assert_eq!(small.count(Severity::Error), 0);
    let large = read_text(&source, &|_| Ok(format!("M{}\n", " ".repeat(16_000_000)).into_bytes()));
    assert_eq!(first(&large), ("map-file", "\"big.csv\""));
    assert!(large.diagnostics[0].message.contains("256 MiB"), "{}", large.diagnostics[0].message);
}

/// Advice for names costs at most so much; where none is left the mistakes are told all the same.
#[test]
fn thousands_of_unknown_names_among_thousands_of_names_are_told_in_time() {
    let mut source = String::from(HEAD);
    for number in 0..20_000 {
        let _ = writeln!(source, "counter counted-number-{number}");
    }
    source += "rules\n";
    for number in 0..20_000 {
        let _ = writeln!(source, "  win when kounted-number-{number} = 1");
    }
    let reading = reading(&source);
    assert_eq!(reading.count(Severity::Error), 20_000);
    assert_eq!(reading.diagnostics[0].help.as_deref(), Some("did you mean `counted-number-0`?"));
}

#[test]
fn a_statement_of_too_many_words_is_told_where_it_becomes_too_long() {
    let source = format!("{HEAD}rules\n  on key act: step man east{}\n", ", step man east".repeat(MOST_TOKENS / 4));
    let reading = reading(&source);
    assert_eq!(reading.diagnostics.iter().map(|found| found.code.word()).collect::<Vec<_>>(), ["too-deep"]);
    assert!(format(&source).is_none());
}
