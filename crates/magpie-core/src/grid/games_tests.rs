//! What games need: keys that are other names of inputs, counters and a seed that are kept, ways gone one step a beat,
//! a mark that goes with its piece, leaps along a heading, shapes of several kinds (docs/model.md, sections 3, 4 and 6a).

use super::tests::{book_with, game_on};
use super::{Ended, Taken};
use crate::rulebook::{Code, CounterRead, Severity, read_text};
use crate::tape::{Session, Start, parse_inputs};

fn game(sections: &str, rules: &str, map: &str) -> Session {
    game_on(&book_with(sections, rules, &map.replace('/', "\n")))
}

fn play(session: &mut Session, inputs: &str) -> Vec<Taken> {
    parse_inputs(inputs).unwrap().iter().map(|input| session.give(input)).collect()
}

fn board(session: &Session) -> String {
    session.grid().picture().join("/")
}

fn tape(session: &Session) -> String {
    session.played().iter().map(|entry| entry.input.to_string()).collect::<Vec<_>>().join(" ")
}

#[test]
fn a_key_may_be_another_name_for_an_input() {
    let rules = "on key \"r\": restart\non key \"u\": undo\non key \"n\": next map\non key \"r\": win\non key \"u\" if n > 5: add 1 to \
                 n\nada into mat: pass, win\nada into net: pass, lose";
    let book = book_with("counter n\n", rules, "A.n");
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    play(&mut session, "right key:r right key:u");
    assert_eq!((board(&session).as_str(), tape(&session).as_str()), ("A.n", "right restart"));
    assert_eq!(session.grid().counter(CounterRead::Turns), 0, "none of these is a turn");
    assert_eq!(play(&mut session, "key:n"), [Taken::No], "a `next` before a win does nothing");
    play(&mut session, "right right");
    assert_eq!(session.grid().outcome(), Some(Ended::Lost));
    assert_eq!(play(&mut session, "act"), [Taken::No]);
    assert_eq!(play(&mut session, "key:u"), [Taken::Yes], "after the end too");
    assert_eq!((session.grid().outcome(), board(&session).as_str()), (None, ".An"));
    play(&mut session, "right key:r");
    assert_eq!((session.grid().outcome(), board(&session).as_str()), (None, "A.n"));
    assert!(session.grid().book().uses_key(&crate::input::Key("u".into())));
    let mut fresh = game("", "on key \"u\": undo", "A.");
    assert_eq!(play(&mut fresh, "key:u"), [Taken::No], "nothing to take back");
}

#[test]
fn the_name_next_goes_on_after_a_win() {
    let text = super::tests::text_with("", "on key act: next map\nada into mat: pass, win", "Am");
    let text = text.replace("control ada", "map \"Two\"\n  A...\ncontrol ada");
    let book = std::sync::Arc::new(read_text(&text, &|_| Err("none".into())).rulebook.unwrap());
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    assert_eq!(play(&mut session, "act right act"), [Taken::No, Taken::Yes, Taken::Yes]);
    assert_eq!((session.grid().map(), board(&session).as_str(), tape(&session).as_str()), (1, "A...", "right next"));
}

#[test]
fn undo_stands_nowhere_else() {
    let table = [
        ("on key \"u\" if n > 0: undo", Some(Code::MisplacedWord)),
        ("on key \"u\": undo, add 1 to n", Some(Code::MisplacedWord)),
        ("on key \"u\": step ada east else undo", Some(Code::MisplacedWord)),
        ("on tap: undo", Some(Code::MisplacedWord)),
        ("on start: undo", Some(Code::MisplacedWord)),
        ("ada into box: take, undo", Some(Code::MisplacedWord)),
        ("win when n > 3: undo", Some(Code::MisplacedWord)),
        ("on key \"u\": undo", None),
    ];
    for (rule, wanted) in table {
        let source = super::tests::text_with("counter n\n", &format!("{rule}\non key alt: add 1 to n"), "A");
        let found = read_text(&source, &|_| Err("none".into()));
        let mistakes: Vec<_> =
            found.diagnostics.iter().filter(|found| found.code.severity() == Severity::Error).collect();
        assert_eq!(
            mistakes.iter().map(|found| found.code).collect::<Vec<_>>(),
            wanted.into_iter().collect::<Vec<_>>(),
            "{rule}"
        );
        if let Some(mistake) = mistakes.first() {
            assert_eq!(&source[mistake.span.start..mistake.span.end], "undo", "{rule}");
            assert!(mistake.help.as_deref().unwrap().contains("on key"), "{:?}", mistake.help);
        }
    }
}

#[test]
fn kept_counters_and_a_kept_seed_outlive_a_restart() {
    let sections = "counter deaths, kept\ncounter best = 7, kept\ncounter n\nseed 5, kept\n";
    let rules = "ada into mat: pass, add 1 to deaths, add 1 to n, restart\non key act: spawn box at random empty, set best to 3";
    let mut session = game(sections, rules, "A.m/...");
    let counters = |session: &Session| session.grid().counters().map(|(_, value)| value).collect::<Vec<_>>();
    play(&mut session, "right act");
    let first = board(&session);
    play(&mut session, "restart");
    assert_eq!(counters(&session), [0, 3, 0], "the input `restart` keeps them");
    play(&mut session, "right act");
    assert_ne!(board(&session), first, "the random state goes on");
    play(&mut session, "undo undo restart right right");
    assert_eq!(
        (counters(&session), board(&session).as_str()),
        (vec![1, 3, 0], "A.m/..."),
        "the effect keeps what it did"
    );
    play(&mut session, "undo");
    assert_eq!((counters(&session), board(&session).as_str()), (vec![0, 3, 0], ".Am/..."), "undo brings them back");
    play(&mut session, "right undo undo undo undo");
    assert_eq!(counters(&session), [0, 3, 0]);
    play(&mut session, "undo undo");
    assert_eq!(counters(&session), [0, 7, 0], "before the first act");
    // Without `kept` the same draws come again.
    let mut other = game("seed 5\n", "on key act: spawn box at random empty", "A../...");
    play(&mut other, "act");
    let first = board(&other);
    play(&mut other, "restart act");
    assert_eq!(board(&other), first);
}

#[test]
fn along_takes_one_step_of_the_way_at_each_beat() {
    let table = [
        ("round a wall", "step ada along the cog", "A#C/...", ".#C/A.."),
        ("three in a row look anew", "step ada along the cog by 3", "A#C/...", ".#C/..A"),
        ("no more than the way", "step ada along the mat by 9", "A#m/...", ".#A/..."),
        ("no way", "step ada along the cog else place box at column 0 row 1", "A#C/.#.", "A#C/B#."),
        ("already there", "step ada along the ada else place box at column 1 row 0", "A.", "AB"),
        ("no such cell", "step ada along column 7 row 0 else place box at column 1 row 0", "A.", "AB"),
        ("a heading without a step", "turn ada along the mat, step ada ahead", "A#m/...", ".#m/A.."),
        ("each its own way", "step every ada along column 2 row 1", "A...A/.....", ".A.A./....."),
    ];
    for (name, action, map, wanted) in table {
        let rules = format!("ada into cog: take\non key act: {action}");
        let mut session = game("", &rules, map);
        play(&mut session, "act");
        assert_eq!(board(&session), wanted, "{name}");
    }
    // One step at each beat, round what has moved since.
    let mut session = game("timer beat 100 ms\n", "ada into mat: pass\neach beat: step ada along the mat", "A..m/....");
    play(&mut session, "wait:100");
    assert_eq!(board(&session), ".A.m/....");
    play(&mut session, "wait:200");
    assert_eq!(board(&session), "...A/....");
}

#[test]
fn the_mark_goes_with_the_piece() {
    let rules = "on key act: choose column 0 row 0\non key \"c\": choose column 3 row 0\non key \"m\": step box east\non key \"p\": place cog at \
                 chosen\non key \"t\": turn chosen into cog\non key \"r\": remove box, place cog at column 0 row 0\non key \"k\": step chosen \
                 east\non key \"n\": choose nothing\non key \"x\": place net at chosen";
    let column = |session: &Session| session.grid().chosen().map(|cell| cell.column);
    let mut session = game("", rules, "B..../AA...");
    play(&mut session, "act key:m");
    assert_eq!(column(&session), Some(1), "the mark has gone with the box");
    play(&mut session, "undo");
    assert_eq!(column(&session), Some(0), "and comes back with it");
    play(&mut session, "key:m key:k key:t");
    assert_eq!(
        (column(&session), board(&session).as_str()),
        (Some(2), "..C../AA..."),
        "as pieces it is the marked one"
    );
    play(&mut session, "undo key:r");
    assert_eq!(column(&session), None, "the mark ends with the piece");
    play(&mut session, "key:c key:x");
    assert_eq!(
        (column(&session), board(&session).as_str()),
        (Some(3), "C..n./AA..."),
        "an empty cell is marked as a cell"
    );
    play(&mut session, "key:t");
    assert_eq!(board(&session), "C..n./AA...", "and marks no piece, whatever comes there");
    play(&mut session, "key:n");
    assert_eq!(column(&session), None);
}

#[test]
fn a_leap_along_a_line_has_a_heading_to_an_if() {
    let table = [
        ("ada into box if heading east: take", "2, 0", "A.B", "..A"),
        ("ada into box if heading west: take", "2, 0", "A.B", "A.B"),
        ("ada into box if heading south-east: take", "2, 2", "A../.../..B", ".../.../..A"),
        ("ada into box if heading south: take", "0, 2", "A../.../B..", ".../.../A.."),
        ("ada into box if not heading east: stop\nada into box: take", "2, 1", "A../..B", "A../..B"),
    ];
    for (rule, by, map, wanted) in table {
        let mut session = game("", &format!("{rule}\non key act: leap ada by {by}"), map);
        play(&mut session, "act");
        assert_eq!(board(&session), wanted, "{rule}");
        let request = session.last_request().unwrap();
        assert_eq!(request.heading, None, "it is still told without one");
    }
    let upwards = "rows from bottom\n";
    let mut session =
        game(upwards, "ada into box if heading north: take\non key act: leap ada by 0, -2", "B../.../A..");
    play(&mut session, "act");
    assert_eq!(board(&session), "A../.../...", "north is up on the screen, whichever edge rows count from");
}

#[test]
fn shapes_of_a_group_draw_a_kind_for_each_piece() {
    let sections = "shapes of thing\n  bar\n    XX\n  hook\n    X.\n    XX\n";
    let rules = "on key act: spawn shape hook at column 0 row 0\non key alt: spawn shape any at column 0 row 0";
    let draws = |seed: u64, count: usize| {
        // The generator of docs/model.md, section 10, by hand.
        let mut state: u64 = seed.wrapping_add(109);
        let mut next = || {
            let x = state;
            state = x.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(109);
            ((((x >> 18) ^ x) >> 27) as u32).rotate_right((x >> 59) as u32)
        };
        next();
        (0..count).map(|_| next() % 2).collect::<Vec<u32>>()
    };
    for seed in [1, 2, 3, 4] {
        let kinds: Vec<&str> = draws(seed, 3).into_iter().map(|draw| ["B", "C"][draw as usize]).collect();
        let mut session = game(&format!("seed {seed}\n{sections}"), rules, ".../...");
        play(&mut session, "act");
        assert_eq!(board(&session), format!("{}../{}{}.", kinds[0], kinds[1], kinds[2]), "in reading order");
        let drawn = draws(seed, 4);
        let mut session = game(&format!("seed {seed}\n{sections}"), rules, ".../...");
        play(&mut session, "alt");
        let kind = |at: usize| ["B", "C"][drawn[at] as usize];
        let wanted = match drawn[0] {
            0 => format!("{}{}./...", kind(1), kind(2)),
            _ => format!("{}../{}{}.", kind(1), kind(2), kind(3)),
        };
        assert_eq!(board(&session), wanted, "first the shape, then its pieces");
    }
    // Refused, the draws are gone all the same.
    let mut refused = game(
        &format!("seed 7\n{sections}"),
        &format!("{rules}\non key \"f\": spawn shape hook at column 9 row 9"),
        ".../...",
    );
    play(&mut refused, "key:f act");
    let kinds: Vec<&str> = draws(7, 6).into_iter().map(|draw| ["B", "C"][draw as usize]).collect();
    assert_eq!(board(&refused), format!("{}../{}{}.", kinds[3], kinds[4], kinds[5]));
}

#[test]
fn a_group_of_several_layers_makes_no_shapes() {
    let source = super::tests::text_with("group mixed = box, mat\nshapes of mixed\n  bar\n    XX\n", "", "A");
    let found = read_text(&source, &|_| Err("none".into()));
    let mut mistakes = found.diagnostics.iter().filter(|found| found.code.severity() == Severity::Error);
    let mistake = mistakes.next().unwrap();
    assert!(mistakes.next().is_none(), "{:?}", found.diagnostics);
    assert_eq!((mistake.code, &source[mistake.span.start..mistake.span.end]), (Code::LayerClash, "mixed"));
    assert!(mistake.help.is_some());
}
