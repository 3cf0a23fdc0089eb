//! Inputs as words, and sessions wound back and forth, held against playing from the beginning.

use super::{Input, Session, Start, parse_inputs, run_scenario};
use crate::input::Key;
use crate::rulebook::{Rulebook, read_text};
use crate::space::Cell;
use proptest::prelude::*;
use std::sync::Arc;

const YARD: &str = "game \"Yard\"\ncell 10 px\nkinds\n  plank . floor\n  ada A body\n  box B body\n  mat m mark\n  pit o mark\nground plank\n\
                    map \"One\"\n  A.B.m\n  ..B.o\nmap \"Two\"\n  m.BA.\ncontrol ada with arrows\nrules\n  ada into box: shove\n  \
                    on key act: spawn box at random empty\n  on key alt: restart\n  ada into pit: pass, next map\n  \
                    each turn: add 1 to steps\n  win when count box on mat > 0\n";

fn yard() -> (Arc<Rulebook>, Start) {
    let reading = read_text(YARD, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
    let book = Arc::new(reading.rulebook.unwrap());
    (book.clone(), Start::map(book, 0))
}

fn word() -> impl Strategy<Value = Input> {
    let cell = || (-999i64..999, -999i64..999).prop_map(|(column, row)| Cell::new(column, row));
    prop_oneof![
        prop::sample::select(vec!["left", "right", "up", "down", "act", "alt", "x", "7"])
            .prop_map(|key| Input::Key(Key(key.into()))),
        cell().prop_map(Input::Tap),
        (cell(), cell()).prop_map(|(from, to)| Input::Drag(from, to)),
        (0u64..=86_400_000).prop_map(Input::Wait),
        prop::sample::select(vec![Input::Undo, Input::Restart, Input::Next]),
    ]
}

/// What can be done to a session.
#[derive(Clone, Debug)]
enum Move {
    Give(&'static str),
    Go(usize),
    Switch(usize),
}

fn moves() -> impl Strategy<Value = Vec<Move>> {
    let words = vec!["left", "right", "up", "down", "act", "alt", "restart", "next", "undo", "wait:5", "tap:1,1"];
    let one = prop_oneof![
        6 => prop::sample::select(words).prop_map(Move::Give),
        2 => (0usize..30).prop_map(Move::Go),
        1 => (0usize..3).prop_map(Move::Switch),
    ];
    prop::collection::vec(one, 1..40)
}

type Seen = (usize, Vec<String>, Vec<i64>, u64, Option<crate::grid::Ended>);

fn seen(session: &Session) -> Seen {
    let grid = session.grid();
    let counters = grid.counters().map(|(_, value)| value).collect();
    (grid.map(), grid.picture(), counters, session.clock(), grid.outcome())
}

proptest! {
    #[test]
    fn inputs_come_back_from_their_words(inputs in prop::collection::vec(word(), 0..12)) {
        let words: Vec<String> = inputs.iter().map(Input::to_string).collect();
        prop_assert_eq!(parse_inputs(&words.join(" ")), Ok(inputs));
    }

    #[test]
    fn whatever_was_wound_a_session_stands_where_its_tape_leads(moves in moves()) {
        let (_, start) = yard();
        let mut session = Session::new(start.clone()).unwrap();
        for step in &moves {
            match step {
                Move::Give(word) => { session.give(&word.parse().unwrap()); }
                Move::Go(position) => session.go(*position),
                Move::Switch(branch) => session.switch(*branch),
            }
            prop_assert!(session.position() <= session.entries().len());
            let mut fresh = Session::new(start.clone()).unwrap();
            for entry in session.played() {
                fresh.give(&entry.input);
            }
            prop_assert_eq!(seen(&session), seen(&fresh), "after {:?}", step);
            // Answers kept with the tape are those of playing it.
            let turns = |session: &Session| {
                let answers = session.answers().map(|answer| (answer.turn, answer.requests.len(), answer.outcome));
                answers.collect::<Vec<_>>()
            };
            prop_assert_eq!(turns(&session), turns(&fresh));
        }
        let again = session.again(start).unwrap();
        prop_assert_eq!(seen(&again), seen(&session), "the same rules, the same place");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, ..ProptestConfig::default() })]

    /// The first input that an edit changed is the first at which two games, played side by side, part.
    #[test]
    fn the_first_change_is_where_two_games_part(
        words in prop::collection::vec(prop::sample::select(vec!["left", "right", "up", "down", "act"]), 1..25),
        edit in prop::sample::select(vec![
            ("ada into box: shove", "ada into box: swap"),
            ("ada into box: shove", "ada into box: shove, add 1 to steps"),
            ("ada into box: shove", "ada into box: shove, signal \"moved\""),
            ("each turn: add 1 to steps", "each turn: add 2 to steps"),
            ("count box on mat > 0", "count box on mat > 5"),
            ("A.B.m", "A..Bm"),
            ("game \"Yard\"", "game \"Court\""),
        ]),
    ) {
        let game = |text: &str| {
            let book = Arc::new(read_text(text, &|_| Err("none".into())).rulebook.unwrap());
            Session::new(Start::map(book, 0)).unwrap()
        };
        let edited = YARD.replace(edit.0, edit.1);
        let (mut old, mut side) = (game(YARD), game(&edited));
        let told = |session: &Session| {
            let answers = session.answers().flat_map(|answer| &answer.requests);
            let granted: Vec<_> = answers.map(|request| (request.granted, request.from, request.to)).collect();
            (seen(session), granted, session.signals().cloned().collect::<Vec<_>>())
        };
        let (mut parted, mut playing) = (None, game(YARD));
        for word in words {
            old.give(&word.parse().unwrap());
        }
        for (at, entry) in old.entries().iter().enumerate() {
            playing.give(&entry.input);
            side.give(&entry.input);
            if parted.is_none() && told(&playing) != told(&side) {
                parted = Some(at);
            }
        }
        let new = old.again(game(&edited).start().clone()).unwrap();
        let wanted = parted;
        // A board that is another from the beginning is seen at the first input.
        prop_assert_eq!(new.first_change(&old), wanted, "{:?}", edit);
    }
}

#[test]
fn words_that_are_no_inputs_are_told() {
    for word in [
        "jump",
        "key:",
        "key:ab",
        "key:A",
        "tap:1",
        "tap:a,b",
        "drag:1,1",
        "drag:1,1>2",
        "wait:",
        "wait:-1",
        "wait:86400001",
        "tap:1,2,3",
        "wait:99999999999999999999",
    ] {
        assert!(word.parse::<Input>().is_err(), "{word}");
        assert!(parse_inputs(&format!("left {word}")).unwrap_err().to_string().contains(word));
    }
}

#[test]
fn scenarios_tell_every_expectation_that_is_not_met() {
    let scenarios = "scenario \"all met\"\n  map \"Two\"\n  inputs left left left\n  expect m.BA.\nscenario \"none met\"\n  map\n    AB.\n  inputs right\n  \
                     expect refused\n  expect\n    AB.\n  expect lost\n  expect signal \"ding\"\n  expect steps = 7\n  expect never settles\n\
                     scenario \"won by now\"\n  map \"Two\"\n  inputs left left left right undo\n  expect won\n  expect refused by box into edge\n";
    let scenarios = scenarios.replace("  expect m.BA.\n", "  expect\n    BA...\n  expect won\n  expect steps = 2\n");
    let source = format!("{YARD}{scenarios}");
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}", reading.diagnostics);
    let book = Arc::new(reading.rulebook.unwrap());
    let failures: Vec<usize> =
        book.scenarios.iter().map(|scenario| run_scenario(&book, scenario).unwrap().failures.len()).collect();
    assert_eq!(failures, [0, 6, 0]);
}

#[test]
fn a_long_tape_keeps_the_counts_and_sheds_the_boards() {
    let source = "game \"Long\"\ncell 10 px\nkinds\n  plank . floor\n  crate c body\n  damp d floor\nground plank\nmap \"One\"\n  ...\nrules\n  \
                  on key act: place crate at column 0 row 0\n  on key alt: flood from column 0 row 0 into damp else flood from column 0 row 0 into plank\n  \
                  when crate: remove crate\n";
    let book = Arc::new(read_text(source, &|_| Err("none".into())).rulebook.unwrap());
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    for _ in 0..150 {
        session.give(&"act".parse().unwrap());
        session.give(&"alt".parse().unwrap());
    }
    let (first, last) = (&session.entries()[0].answers[0], &session.entries()[298].answers[0]);
    assert_eq!((first.settled[0].found, first.settled[0].counts.gone), (1, 1));
    assert!(first.settled[0].board.is_empty() && !last.settled[0].board.is_empty());
    assert_eq!(session.entries()[1].answers[0].actions[0].size, Some(3), "the size of a flood stays");
    assert!(session.entries()[1].answers[0].actions[0].rings.is_none());
    assert!(session.entries()[299].answers[0].actions.iter().any(|action| action.rings.is_some()));
}
