use super::{ago, counted, entry, plain};
use crate::bench::tests::loaded;
use magpie_core::tape::{Session, Start};
use std::sync::Arc;

/// What is said of the last input of a game on cells of 10 px: kinds `ada box cog wall` on bodies, `mat net` on marks.
fn said(rules: &str, map: &str, inputs: &str) -> (String, bool) {
    let lines = |text: &str| text.lines().map(|line| format!("  {line}\n")).collect::<Vec<_>>().concat();
    let source = format!(
        "game \"Yard\"\ncell 10 px\nkinds\n  plank . floor\n  mat m mark\n  net n mark\n  ada A body\n  box B body\n  cog C body\n  \
         wall # body\ngroup thing = box, cog\nground plank\ncounter score\nmap \"One\"\n{}control ada with arrows\nrules\n{}",
        lines(map),
        lines(rules)
    );
    let reading = loaded(&source).reading;
    assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
    let book = Arc::new(reading.rulebook.unwrap());
    let mut session = Session::new(Start::map(book.clone(), 0)).unwrap();
    inputs.split(' ').for_each(|input| {
        session.give(&input.parse().unwrap());
    });
    let last = session.entries().last().unwrap();
    (entry(last, &book, session.grid().board().extent()), last.is_refused)
}

/// Every sort of input in one sentence: what decided, and what came of it.
#[test]
fn the_fact_that_decided_is_said_in_a_sentence() {
    let table = [
        ("a plain step", "ada into box: shove", "A.", "right", "ada 0,0 to 1,0", false),
        ("a shove", "ada into box: shove", "AB.", "right", "shove", false),
        ("a refusal", "ada into box: stop", "AB", "right", "stop", true),
        ("the edge", "ada into box: stop", "A.", "left", "edge", true),
        (
            "a limit",
            "ada into thing: shove up to 1\nbox into cog: shove",
            "ABC.",
            "right",
            "more than 1 in motion",
            true,
        ),
        ("what is taken", "ada into box: take, add 1 to score", "AB", "right", "take", false),
        ("nobody answers", "ada into box: stop", "A.", "key:x", "nothing changed", false),
        ("a signal", "on key \"x\": signal \"ding\"", "A.", "key:x", "ding", false),
        ("a refused action", "on tap: walk ada to tapped", "A#.", "tap:2,0", "no way", true),
        ("a win", "ada into mat: pass, win", "Am", "right", "won", false),
        ("a loss", "lose when count ada = 0\nada into edge: perish", "A.", "left", "lost", false),
        ("full rows", "when row full of box: clear\nada into box: shove", "AB.\nBB.", "down", "edge", true),
        (
            "a run",
            "when run of 3 same thing in both: clear\nada into box: shove",
            "AB.BB",
            "right",
            "1 run of 3 pieces: 3 gone",
            false,
        ),
        ("a match", "when box on mat: become cog\nada into box: shove", "ABm", "right", "1 match: 1 turned", false),
        (
            "a patch",
            "when patch of 3 same thing: clear\nada into box: shove",
            "A.B\n.BB",
            "right",
            "ada 0,0 to 1,0",
            false,
        ),
        ("a spawn", "on key act: spawn cog at column 1 row 0", "A.", "act", "spawn", false),
        ("a full board", "on key act: spawn cog at random empty", "AB", "act", "board full", true),
        ("a swap of nothing", "on key act: swap column 1 row 0 with column 1 row 0", "A.", "act", "swap", true),
        ("a flood", "on key act: flood from column 1 row 0 into net", "Am", "act", "1 cell", false),
    ];
    for (name, rules, map, inputs, words, refused) in table {
        let (said, is) = said(rules, map, inputs);
        assert!(said.contains(words), "{name}: `{words}` is not in `{said}`");
        assert_eq!(is, refused, "{name}: {said}");
    }
}

#[test]
fn numbers_have_their_plural_and_files_no_control_characters() {
    assert_eq!(
        (counted(1, "cell"), counted(0, "cell"), counted(12, "cell")),
        ("1 cell".into(), "0 cells".into(), "12 cells".into())
    );
    // Characters that turn the order of others round would show another text than there is.
    assert_eq!(plain("a\u{202e}b\u{2066}c\u{200f}d\u{61c}e"), "a\u{fffd}b\u{fffd}c\u{fffd}d\u{fffd}e");
    assert_eq!(plain("a\u{1b}[31mb\tc\nd\u{9b}e\u{0}"), "a\u{fffd}[31mb\tc\nd\u{fffd}e\u{fffd}");
}

#[test]
fn what_is_past_is_said_in_its_largest_unit() {
    let said = |seconds| ago(std::time::Duration::from_secs(seconds));
    let table = [
        (0, "less than a minute ago"),
        (59, "less than a minute ago"),
        (60, "1 minute ago"),
        (3_599, "59 minutes ago"),
        (7_200, "2 hours ago"),
        (86_399, "23 hours ago"),
        (200_000, "2 days ago"),
    ];
    table.into_iter().for_each(|(seconds, words)| assert_eq!(said(seconds), words));
}
