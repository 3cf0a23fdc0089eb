//! Requests, turns and settling: properties against the slow reference, and the cases of docs/model.md by hand.

use super::{CheckKind, Ended, Grid, Nobody, Taken};
use crate::board::CellId;
use crate::input::Input;
use crate::rulebook::{CounterRead, Rulebook, read_text};
use crate::space::{Cell, Heading};
use crate::tape::{Session, Start, parse_inputs};
use std::sync::Arc;

/// A rulebook with these rules, on this map. `A` is controlled; `B C` share its layer, `m n` lie on marks, `f g` on the
/// floor, `#` never moves.
fn book(rules: &str, map: &str) -> Arc<Rulebook> {
    book_with("", rules, map)
}

pub fn book_with(sections: &str, rules: &str, map: &str) -> Arc<Rulebook> {
    let source = text_with(sections, rules, map);
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    Arc::new(reading.rulebook.unwrap())
}

/// The text of such a rulebook.
pub fn text_with(sections: &str, rules: &str, map: &str) -> String {
    let indent = |text: &str| {
        let lines: Vec<String> = text.lines().map(|line| format!("  {}", line.trim_end())).collect();
        lines.join("\n") + "\n"
    };
    let rules = if rules.trim().is_empty() { String::new() } else { format!("rules\n{}", indent(rules)) };
    format!(
        "game \"Yard\"\ncell 10 px\n{sections}\nkinds\n  plank . floor\n  fen f floor\n  gap g floor\n  mat m mark\n  net n mark\n  \
         ada A body\n  box B body\n  cog C body\n  wall # body\ngroup thing = box, cog\nground plank\nmap \"One\"\n{}\n\
         control ada with arrows\n{rules}",
        indent(map)
    )
}

pub fn session(rules: &str, map: &str) -> Session {
    game_on(&book(rules, map))
}

/// The first map of a rulebook.
pub fn game_on(book: &Arc<Rulebook>) -> Session {
    Session::new(Start::map(book.clone(), 0)).unwrap()
}

/// Plays inputs; gives the board's lines joined by `/`.
fn played(rules: &str, map: &str, inputs: &str) -> String {
    let mut session = session(rules, map);
    for input in parse_inputs(inputs).unwrap() {
        session.give(&input);
    }
    session.grid().picture().join("/")
}

#[test]
#[allow(clippy::too_many_lines)] // a table
fn verbs_by_hand() {
    let table = [
        ("default: one layer stops", "", "AB.", "right", "AB."),
        ("default: other layers pass", "", "Am.", "right", ".A."),
        ("shove one", "ada into box: shove", "AB.", "right", ".AB"),
        ("a shoved box asks too: by default it stops", "ada into box: shove", "ABB.", "right", "ABB."),
        ("a whole line", "ada into box: shove\nbox into box: shove", "ABBB.", "right", ".ABBB"),
        ("all or nothing at the edge", "ada into box: shove\nbox into box: shove", "ABBB", "right", "ABBB"),
        ("up to two", "ada into box: shove up to 2\nbox into box: shove", "ABB.", "right", ".ABB"),
        ("up to two of three", "ada into box: shove up to 2\nbox into box: shove", "ABBB.", "right", "ABBB."),
        ("the inner limit counts too", "ada into box: shove\nbox into box: shove up to 1", "ABBB.", "right", "ABBB."),
        ("else take", "ada into box: shove else take", "AB#", "right", ".A#"),
        ("else is not needed", "ada into box: shove else take", "AB.", "right", ".AB"),
        (
            "else where the limit refuses",
            "ada into box: shove\nbox into cog: shove up to 1 else take\ncog into cog: shove",
            "ABCC.",
            "right",
            ".ABC.",
        ),
        ("swap", "ada into box: swap", "AB.", "right", "BA."),
        ("swap in a chain has no room", "ada into box: shove\nbox into cog: swap", "ABC.", "right", "ABC."),
        ("take", "ada into box: take", "AB.", "right", ".A."),
        ("perish", "ada into box: perish", "AB.", "right", ".B."),
        ("clash", "ada into box: clash", "AB.", "right", "..."),
        ("the box perishes at the edge", "ada into box: shove\nbox into edge: perish", "AB", "right", ".A"),
        ("wrap", "ada into edge: wrap", "..A", "right", "A.."),
        ("wrap meets what is there", "ada into edge: wrap\nada into box: shove", "B.A", "right", "AB."),
        ("wrap into void meets void", "ada into edge: wrap", ".#.\n .A", "right", ".#./ .A"),
        ("perish in void", "ada into void: perish", "A .", "right", ". ."),
        ("the first clause decides", "ada into thing: take\nada into box: shove", "AB.", "right", ".A."),
        (
            "a guard that does not hold is passed over",
            "ada into box if count cog > 0: take\nada into box: shove",
            "AB.",
            "right",
            ".AB",
        ),
        ("any means other layers for pass", "ada into any: pass", "AB.", "right", "AB."),
        ("any never means the ground", "ada into any: take", "Am.", "right", ".A."),
        ("stop on a mark", "ada into mat: stop", "Am.", "right", "Am."),
        ("heading of the request", "ada into mat if heading west: stop", "Am.", "right", ".A."),
        ("closed ring of one column", "ada into edge: wrap", "A", "right", "A"),
        ("off: what is left behind turns", "ada off mat: turn mat into net", "&.", "right", "nA"),
        ("effects: the asker becomes another", "ada into mat: pass, become cog", "Am", "right", ".C"),
        ("effects of a refusal", "ada into box: stop, turn box into cog", "AB", "right", "AC"),
        (
            "effects in an abandoned branch do not happen",
            "ada into box: shove else stop, turn box into cog\nbox into wall: stop, remove wall",
            "AB#",
            "right",
            "AC#",
        ),
        (
            "place where the layer is taken does nothing",
            "ada into mat: pass, place net here",
            "Am.",
            "right right",
            ".mA",
        ),
        ("become counts the new kind", "when cog on mat: become box", "A..", "right", ".A."),
        (
            "settling by every rule",
            "ada into box: shove\nwhen box on mat: remove box, turn mat into net",
            "ABm",
            "right",
            ".An",
        ),
    ];
    for (name, rules, map, inputs, expected) in table {
        let (sections, map) = if map.contains('&') { ("glyph & = ada, mat", map) } else { ("", map) };
        let book = book_with(sections, rules, map);
        let mut session = Session::new(Start::map(book, 0)).unwrap();
        for input in parse_inputs(inputs).unwrap() {
            session.give(&input);
        }
        let pictured = session.grid().picture().join("/");
        assert_eq!(pictured, expected, "{name}");
    }
}

#[test]
fn a_bounce_turns_the_asker_and_only_as_the_reason() {
    let rules = "each turn: step cog ahead\ncog into wall: bounce";
    let map = "A...\n..C#";
    let book = book_with("", &format!("{rules}\non start: turn cog east"), map);
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    let mut seen = Vec::new();
    for input in parse_inputs("right left right").unwrap() {
        session.give(&input);
        seen.push(session.grid().picture()[1].clone());
    }
    assert_eq!(seen, ["..C#", ".C.#", "C..#"], "turned at the wall, then west");
}

#[test]
fn the_reason_is_the_first_check_that_did_not_hold() {
    let mut session = session("ada into box: shove\nbox into thing: stop", "ABC");
    session.give(&"right".parse().unwrap());
    let request = session.last_request().unwrap();
    let reason = &request.checks[request.reason.unwrap()];
    assert_eq!((reason.kind, reason.holds), (CheckKind::Meets, false));
    let book = session.grid().book();
    assert_eq!(reason.rule(book).as_deref(), Some("box into thing"));
    assert_eq!(reason.line(book), Some(22));
    let holds: Vec<bool> = request.checks.iter().map(|check| check.holds).collect();
    assert_eq!(holds, [true, true, true, true, true, true, true, false]);
}

#[test]
fn a_rule_that_feeds_itself_is_taken_back_and_named() {
    let mut session = session("when ada on mat: add 1 to rounds", "Am.");
    session.give(&"right".parse().unwrap());
    let answer = session.answers().next_back().unwrap();
    assert_eq!((answer.turn, answer.feeding.as_slice()), (None, [0_usize].as_slice()));
    assert_eq!(session.grid().outcome(), Some(Ended::NeverSettles));
    assert_eq!(session.grid().picture(), ["Am."]);
    assert_eq!(session.entries().len(), 1, "the input stays on the tape");
    session.give(&"left".parse().unwrap());
    assert_eq!(session.grid().outcome(), None, "the game goes on");
}

#[test]
fn a_blinking_rule_never_settles_and_the_map_is_entered_as_before() {
    let mut session = session("when mat: turn mat into net\nwhen net: turn net into mat", "A.m");
    assert_eq!(session.grid().outcome(), Some(Ended::NeverSettles));
    assert_eq!(session.grid().picture(), ["A.m"]);
    assert_eq!(session.give(&Input::Undo), Taken::No, "there is no turn to take back");
    assert_eq!(session.give(&"right".parse().unwrap()), Taken::Yes, "the game goes on");
}

#[test]
fn a_rule_that_spawns_after_every_settling_never_settles() {
    // Granted once, asked for and refused ever after.
    let mut taken = session("on key act: step ada east\nwhen ada on mat: spawn box at column 0 row 1", "Am.\n...");
    taken.give(&"act".parse().unwrap());
    assert_eq!(
        (taken.grid().outcome(), taken.grid().picture()),
        (Some(Ended::NeverSettles), vec!["Am.".into(), "...".into()])
    );
    let told = taken.answers().last().unwrap();
    assert_eq!((told.turn, told.feeding.clone()), (None, vec![0]), "the rule is named");
    // On entering the map, until the board is full and beyond.
    let full = session("when ada: spawn box at random empty", "A..");
    assert_eq!((full.grid().outcome(), full.grid().picture()), (Some(Ended::NeverSettles), vec!["A..".to_owned()]));
    // One that ends by itself is no such rule.
    let mut once = session("on key act: spawn box at column 1 row 0\nwhen box on mat: turn box into cog", "Am.");
    once.give(&"act".parse().unwrap());
    assert_eq!((once.grid().outcome(), once.grid().picture()), (None, vec!["AC.".to_owned()]));
}

#[test]
fn spawns_draw_one_empty_cell_and_a_full_board_blocks() {
    let mut session = session("on key act: spawn box at random empty\nlose when blocked", "A..");
    for _ in 0..2 {
        session.give(&"act".parse().unwrap());
    }
    assert_eq!(session.grid().picture(), ["ABB"]);
    assert_eq!(session.grid().outcome(), None);
    session.give(&"act".parse().unwrap());
    let answer = session.answers().next_back().unwrap();
    assert_eq!(answer.actions[0].reason.as_deref(), Some("board full"));
    assert_eq!(session.grid().outcome(), Some(Ended::Lost));
}

#[test]
fn a_random_draw_is_the_published_generator() {
    // PCG-XSH-RR 64/32 worked by hand: state = seed + 109, one output thrown away.
    let mut state: u64 = 7 + 109;
    let mut output = || {
        let x = state;
        state = x.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(109);
        let word = (((x >> 18) ^ x) >> 27) & 0xffff_ffff;
        let turn = (x >> 59) as u32;
        ((word >> turn) | (word << ((32 - turn) % 32))) as u32
    };
    output();
    let expected: Vec<u32> = (0..50).map(|_| output()).collect();
    let mut random = super::random::Random::new(7);
    for expected in expected {
        // 2^32 mod 2^31 is 0, so that nothing is drawn twice.
        assert_eq!(random.below(1 << 31), expected % (1 << 31));
    }
}

#[test]
fn steppers_move_up_together_and_the_first_has_the_cell() {
    let rules = "on key act: step every thing east";
    assert_eq!(played(rules, "A\nBC.", "act"), "A  /.BC", "the foremost asks first");
    assert_eq!(played("on key act: step every thing east by 3", "A\nB...C.", "act"), "A     /...B.C");
}

#[test]
fn else_holds_the_rest_of_the_rule() {
    let rules = "on key act: step every box east else step every cog west, add 1 to tries else add 10 to tries";
    let mut session = session(rules, "A..\nB#.\n#C.");
    session.give(&"act".parse().unwrap());
    let tries: Vec<i64> = session.grid().counters().map(|(_, value)| value).collect();
    assert_eq!(tries, [1], "`add` is granted, so the last list is not done");
}

#[test]
fn outcomes_restart_and_next_map() {
    let source = "game \"Two\"\ncell 10 px\nkinds\n  ada A body\n  mat m mark\n  pit o mark\nmap \"One\"\n  A_m\nmap \"Two\"\n  oAm\n\
                  control ada with arrows\nrules\n  win when count ada on mat > 0: add 1 to won-maps, next map\n  \
                  lose when count ada on pit > 0: restart\n";
    let book = Arc::new(read_text(source, &|_| Err(String::new())).rulebook.unwrap());
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    for input in parse_inputs("right right").unwrap() {
        session.give(&input);
    }
    assert_eq!((session.grid().map(), session.grid().outcome()), (1, None), "the next map, and no win yet");
    assert_eq!(session.grid().picture(), ["oAm"]);
    session.give(&"left".parse().unwrap());
    assert_eq!(session.grid().picture(), ["oAm"], "restarted as the map was entered");
    let count = |session: &Session| session.grid().counters().map(|(_, value)| value).collect::<Vec<_>>();
    assert_eq!(count(&session), [1], "counters as when it was entered");
    session.give(&"right".parse().unwrap());
    assert_eq!((session.grid().outcome(), count(&session)), (Some(Ended::Won), vec![2]), "won on the last map");
    assert_eq!(session.give(&"left".parse().unwrap()), Taken::No, "nothing is done after the end");
    for _ in 0..4 {
        session.give(&Input::Undo);
    }
    assert_eq!((session.grid().map(), session.grid().picture()), (0, vec!["A_m".to_owned()]));
    assert_eq!((count(&session), session.give(&Input::Undo)), (vec![0], Taken::No));
}

#[test]
fn a_shove_of_a_hundred_thousand_needs_no_stack() {
    let line = format!("A{}.", "B".repeat(100_000));
    let book = book("ada into box: shove\nbox into box: shove", &line);
    let mut grid = Grid::new(book, 0, None, &mut Nobody).unwrap();
    grid.input(&"right".parse().unwrap(), &mut Nobody);
    assert!(grid.picture()[0].starts_with(".AB"));
}

#[test]
fn north_and_south_follow_the_screen_whichever_edge_rows_count_from() {
    for rows in ["top", "bottom"] {
        let book = book_with(&format!("rows from {rows}"), "", "A\n.\n.");
        let mut session = Session::new(Start::map(book, 0)).unwrap();
        session.give(&"down".parse().unwrap());
        assert_eq!(session.grid().picture(), [".", "A", "."], "rows from {rows}");
    }
}

#[test]
fn a_preview_and_a_reach_change_nothing() {
    let mut session = session("ada into box: shove\nada into mat: take", "A.B#\n.m..\n#...");
    let before = session.grid().picture();
    let grid = session.grid_mut();
    let piece = grid.controlled()[0];
    let east = grid.preview(piece, Heading::East);
    assert_eq!((east.granted, east.to), (true, Some(Cell::new(1, 0))));
    let reach = grid.reach(piece);
    let count = reach.reached.iter().filter(|reached| **reached).count();
    assert_eq!(count, 9, "all but the box, the walls and what is eaten on the way counts once");
    assert_eq!(session.grid().picture(), before);
}

/// A rulebook of its own, entered at a map.
pub fn game(source: &str, map: usize) -> Session {
    let source = format!("game \"G\"\ncell 10 px\n{source}");
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    Session::new(Start::map(Arc::new(reading.rulebook.unwrap()), map)).unwrap()
}

pub fn after(session: &mut Session, inputs: &str) -> String {
    for input in parse_inputs(inputs).unwrap() {
        session.give(&input);
    }
    session.grid().picture().join("/")
}

pub fn counters(session: &Session) -> Vec<(String, i64)> {
    session.grid().counters().map(|(name, value)| (name.to_owned(), value)).collect()
}

#[test]
fn corners_may_be_closed() {
    let diagonal = "on key act: step ada south-east";
    let table = [
        ("corners open", "", "A#\n#.", ".#/#A"),
        ("corners closed", "", "A#\n..", "A#/.."),
        ("corners closed", "", "A.\n#.", "A./#."),
        ("corners closed", "", "AB\n..", "AB/.."),
        ("corners closed", "ada into box: shove", "AB\n..", ".B/.A"),
        ("corners closed", "ada into mat: stop", "Am\n..", "Am/.."),
        ("corners closed", "", "A.\n..", "../.A"),
    ];
    for (corners, rules, map, expected) in table {
        let book = book_with(corners, &format!("{rules}\n{diagonal}"), map);
        let mut session = Session::new(Start::map(book, 0)).unwrap();
        let pictured = after(&mut session, "act");
        assert_eq!(pictured, expected, "{corners} {rules} on {map}");
    }
    // Without a corner neighbour on the board a diagonal step off it is refused by the corner.
    let book = book_with("corners closed", "on key act: step ada north-east\nada into edge: wrap", "..\nA.");
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    assert_eq!(after(&mut session, "act"), ".A/..");
    assert_eq!(after(&mut session, "act"), ".A/..", "the edge closes a corner even where it wraps");
    assert_eq!(session.grid().last_request().1.unwrap().kind, CheckKind::Corner);
}

#[test]
fn steering_and_relative_steps() {
    let source = "kinds\n  cart C body\n  rail . floor\nground rail\nmap \"M\"\n  ....\n  C...\n  ....\ncontrol cart with arrows, steering\n\
                  rules\n  each turn: add 1 to granted-turns\n  on key act: step cart ahead by 2 else step cart left\n  on key alt: step cart back\n";
    let mut session = game(source, 0);
    assert_eq!(after(&mut session, "act"), "..../C.../....", "no heading: relative steps are refused");
    assert_eq!(after(&mut session, "right act"), "..../..C./....");
    assert_eq!(after(&mut session, "alt"), "..../.C../....");
    // It stepped back, and so looks west now.
    assert_eq!(after(&mut session, "act"), "..../C.../....");
    assert_eq!(after(&mut session, "act"), "..../..../C...", "refused ahead, so left of west");
    assert_eq!(counters(&session), [("granted-turns".to_owned(), 4)], "keys that only steer grant nothing");
}

#[test]
fn toward_goes_along_the_longer_axis_and_looks_anew() {
    let source = "kinds\n  cart C body\n  bell b mark\n  rail . floor\nground rail\nmap \"M\"\n  C....\n  .....\n  ...b.\ncontrol cart with arrows\n\
                  rules\n  on key act: step cart toward the bell\n  on key alt: step cart toward the bell by 9\n  on key \"x\": step cart toward column 9 row 9\n";
    let mut session = game(source, 0);
    assert_eq!(after(&mut session, "act"), ".C.../...../...b.");
    assert_eq!(after(&mut session, "act"), "..C../...../...b.", "a tie goes along the row");
    assert_eq!(after(&mut session, "alt"), "...../...../...C.", "and ends where it is");
    let depth = session.entries().len();
    assert_eq!(after(&mut session, "key:x"), "...../...../...C.");
    assert_eq!(session.entries().len(), depth + 1);
    assert!(session.entries()[depth].answers[0].requests.is_empty(), "a spot off the board makes no request");
}

#[test]
fn places_and_draws_keep_to_their_region() {
    let source = "kinds\n  ada A body\n  box B body\n  mat m mark\n  plank . floor\n  wall # body\nground plank\nmap \"M\"\n  A.m.\n  .#m.\n  ....\n\
                  control ada with arrows\nrules\n  on key act: spawn box at random empty in row last\n  \
                  on key alt: spawn box at random empty on mat in column 2\n  on key \"x\": place box at column 1 row 0, place box at column 1 row 0\n";
    let mut session = game(source, 0);
    assert_eq!(after(&mut session, "act act act act"), "A.m./.#m./BBBB");
    assert_eq!(after(&mut session, "act"), "A.m./.#m./BBBB");
    assert_eq!(session.answers().next_back().unwrap().actions[0].reason.as_deref(), Some("board full"));
    assert_eq!(after(&mut session, "alt alt key:x"), "ABB./.#B./BBBB");
    let random = |seed: u64| {
        let start = Start { seed: Some(seed), ..session.start().clone() };
        let mut session = Session::new(start).unwrap();
        after(&mut session, "act act")
    };
    assert_eq!(random(5), random(5), "a seed gives the same draws");
    assert!((1..20).any(|seed| random(seed) != random(seed + 1)));
}

#[test]
fn filled_and_scattered_maps() {
    let kinds = "kinds\n  ada A body\n  wall # body\n  mat m mark\n  plank . floor\nground plank\n";
    let plain = game(&format!("{kinds}map \"M\" 3 x 2 of plank\ncontrol ada with arrows\n"), 0);
    assert_eq!(plain.grid().picture(), ["...", "..."]);
    let source = format!(
        "{kinds}map \"M\" 40 x 25 of mat, 30 % of wall\nmap \"N\" 4 x 1 of mat, 50 % of plank\ncontrol ada with arrows\n"
    );
    let scattered = game(&source, 0);
    let walls = scattered.grid().picture().concat().matches('#').count();
    assert!((230..370).contains(&walls), "{walls} of 1000");
    let board = scattered.grid().board();
    let stacked = (0..1000).map(CellId).filter(|cell| board.kinds_at(*cell).count() == 3).count();
    assert_eq!(stacked, walls, "walls stand on top of the mats, and the ground lies under both");
    // The first cells by the published generator: one draw below 10,000 each.
    let mut draws = super::random::Random::new(1);
    let expected: String = (0..40).map(|_| if draws.below(10_000) < 3000 { '#' } else { 'm' }).collect();
    assert_eq!(scattered.grid().picture()[0], expected);
}

#[test]
fn glyphs_of_several_pieces_and_void() {
    let source = "kinds\n  ada A body\n  mat m mark\n  hole o floor\n  plank . floor\nglyph & = ada, mat\nglyph % = mat, hole\nground plank\n\
                  map \"M\"\n  &_.\n   %m\ncontrol ada with arrows\n";
    let mut session = game(source, 0);
    assert_eq!(session.grid().picture(), ["&..", " %m"], "an empty cell holds the ground");
    assert_eq!(after(&mut session, "right"), "mA./ %m");
    assert_eq!(after(&mut session, "down"), "m../ Am", "three pieces have no glyph of their own: the top one is drawn");
    assert_eq!(after(&mut session, "right"), "m../ %&");
}

#[test]
fn counts_by_place_and_conditions_with_spots() {
    let rules = "win when count thing in row 0 = 2 and count mat off thing = 1 and not count thing at column 0 row 1 > 0\n\
                 on key act if column 9 row 9: add 1 to never-there\non key act if the box beside the cog: add 1 to beside\n\
                 on key act if the ada: add 1 to here-she-is";
    let mut session = session(rules, "BCm\nA..");
    after(&mut session, "act");
    assert_eq!(counters(&session), [("never-there".into(), 0), ("beside".into(), 1), ("here-she-is".into(), 1)]);
    assert_eq!(session.grid().outcome(), Some(Ended::Won));
}

#[test]
fn win_and_lose_as_effects_come_before_the_clauses() {
    let mut session = session("ada into mat: pass, lose\nwin when count ada on mat > 0", "Am");
    after(&mut session, "right");
    assert_eq!(session.grid().outcome(), Some(Ended::Lost));
}

#[test]
fn a_tape_wound_over_restarts_and_maps_comes_to_the_same_boards() {
    let source = "kinds\n  ada A body\n  box B body\n  mat m mark\nmap \"One\"\n  AB_m_\nmap \"Two\"\n  m_BA_\ncontrol ada with arrows\nrules\n  \
                  ada into box: shove\n  ada into edge: stop, restart\n  win when count box on mat > 0\n  each turn: add 1 to steps\n";
    let mut session = game(source, 0);
    let inputs = "right restart right left right right next right right left left";
    let mut boards = vec![(session.grid().map(), session.grid().picture(), counters(&session))];
    for input in parse_inputs(inputs).unwrap() {
        session.give(&input);
        boards.push((session.grid().map(), session.grid().picture(), counters(&session)));
    }
    assert_eq!(session.entries().len(), boards.len() - 1, "every input did something");
    assert_eq!(session.grid().map(), 1);
    for position in [0, 7, 3, 11, 8, 1, 10, 2, 11] {
        session.go(position);
        assert_eq!(
            (session.grid().map(), session.grid().picture(), counters(&session)),
            boards[position],
            "at {position}"
        );
    }
}

#[test]
fn signals_are_told_on_entering_too_and_dropped_with_a_turn_that_never_settles() {
    let rules = "on start: signal \"begin\"\nada into mat: pass, signal \"in\"\nwhen ada on mat: add 1 to rounds";
    let mut session = session(rules, "Am");
    after(&mut session, "left restart right");
    let told: Vec<&String> = session.signals().collect();
    assert_eq!(told, ["begin", "begin"]);
}

#[test]
fn taps_and_drags_choose_and_exchange_what_lies_on_top() {
    let swap = "on drag: swap dragged with dropped";
    let table = [
        ("two bodies exchange", swap, "AB.", "drag:0,0>1,0", "BA.", None),
        ("an empty cell exchanges emptiness", swap, "A..", "drag:0,0>2,0", "..A", None),
        ("onto a piece", swap, ".B.", "drag:0,0>1,0", "B..", None),
        ("both empty", swap, "A..", "drag:1,0>2,0", "A..", Some("both cells are empty")),
        ("twice the same", swap, "A..", "drag:0,0>0,0", "A..", Some("twice the same cell")),
        ("outside", swap, "A..", "drag:0,0>3,0", "A..", Some("no such cell")),
        ("void", swap, "A .", "drag:0,0>1,0", "A .", Some("no such cell")),
        ("between layers", swap, "Am.", "drag:0,0>1,0", "Am.", Some("between two layers")),
        ("a floor piece and the ground", swap, "f..", "drag:0,0>1,0", ".f.", None),
        ("only what is meant", "on drag box to mat: remove dragged", "AmB", "drag:0,0>1,0", "AmB", None),
        ("from and to", "on drag box to mat: remove dragged", "AmB", "drag:2,0>1,0", "Am.", None),
        ("the top counts", "on tap mat: remove tapped", "m..", "tap:0,0", "...", None),
        (
            "the ground where nothing else stands",
            "on tap plank: place box at tapped",
            "A..",
            "tap:2,0 tap:0,0",
            "A.B",
            None,
        ),
        (
            "edge and void",
            "on tap edge: step ada east\non tap void: step ada west",
            ".A. .",
            "tap:9,9 tap:3,0 tap:3,0",
            "A.. .",
            None,
        ),
        (
            "choose, then act on it",
            "on tap box: choose tapped\non tap plank if chosen: swap chosen with tapped, choose nothing",
            "B..",
            "tap:0,0 tap:2,0 tap:1,0",
            "..B",
            None,
        ),
        ("no such cell to choose", "on tap: choose tapped", "A..", "tap:-1,0", "A..", Some("no such cell")),
        (
            "else after a refused swap",
            "on drag: swap dragged with dropped else remove dragged",
            "Am.",
            "drag:0,0>1,0",
            ".m.",
            Some("between two layers"),
        ),
    ];
    for (name, rules, map, inputs, wanted, reason) in table {
        let mut session = session(rules, map);
        after(&mut session, inputs);
        assert_eq!(session.grid().picture().join("/"), wanted.replace('/', "\n"), "{name}");
        let told: Option<String> =
            session.answers().flat_map(|answer| &answer.actions).find_map(|action| action.reason.clone());
        assert_eq!(told.as_deref(), reason, "{name}");
    }
    let mut session = session("on drag: swap dragged with dropped\non tap box: choose tapped", "AB.");
    after(&mut session, "drag:0,0>1,0 drag:0,0>9,0 tap:0,0");
    assert_eq!((session.grid().counter(CounterRead::Moves), session.grid().counter(CounterRead::Turns)), (1, 3));
    after(&mut session, "undo undo undo");
    assert_eq!(session.grid().picture(), ["AB."]);
}

#[test]
fn leaps_drops_and_walks_by_hand() {
    let table = [
        ("a leap meets only what is there", "on key act: leap ada by 2, 1", "AB./...", "act", ".B./..A", None),
        (
            "a leap off the board",
            "on key act: leap ada by -1, 0",
            "A..",
            "act",
            "A..",
            Some("edge, column -1 < 0: stop"),
        ),
        (
            "a shoved body makes the same leap",
            "on key act: leap ada by 2, 0\nada into box: shove",
            "A.B..",
            "act",
            "..A.B",
            None,
        ),
        ("a leap slides by no corner", "on key act: leap ada by 1, 1", "AB/C.", "act", ".B/CA", None),
        ("leaps in reading order", "on key act: leap box by 1, 0", "BB..", "act", "B.B.", None),
        (
            "on nobody",
            "on key act: leap net by 1, 0 else place box at column 0 row 0",
            "..",
            "act",
            "B.",
            Some("nobody"),
        ),
        ("a drop to the wall", "on key act: drop ada east", "A...#", "act", "...A#", None),
        ("each to its end, the foremost first", "on key act: drop box east", "B.B.#", "act", "..BB#", None),
        (
            "a drop that takes",
            "on key act: drop ada south\nada into mat: pass, remove mat",
            "A/m/.",
            "act",
            "././A",
            None,
        ),
        (
            "a drop round the edge comes back once",
            "on key act: drop ada east\nany into edge: wrap",
            ".A..",
            "act",
            "A...",
            None,
        ),
        ("nowhere to drop", "on key act: drop ada east", "A#", "act", "A#", Some("wall at 1,0: stop")),
        ("a walk round a wall", "control ada with taps", "A#./...", "tap:2,0", ".#A/...", None),
        (
            "west before north among equals",
            "on tap: walk ada to tapped\nada into mat: pass, add 1 to mats",
            "m.#/..A/..#",
            "tap:0,0",
            "A.#/.../..#",
            None,
        ),
        ("no way", "on tap: walk ada to tapped", "A#.", "tap:2,0", "A#.", Some("no way")),
        (
            "nothing is shoved on a walk",
            "on tap: walk ada to tapped\nada into box: shove",
            "AB../....",
            "tap:2,0",
            ".BA./....",
            None,
        ),
        ("what is taken is taken", "on tap: walk ada to tapped\nada into box: take", "ABB.", "tap:3,0", "...A", None),
        ("already there", "on tap: walk ada to tapped", "A..", "tap:0,0", "A..", Some("already there")),
        ("a walk to nowhere", "on tap: walk ada to tapped", "A..", "tap:7,0", "A..", Some("no such cell")),
        (
            "a walk that never wraps",
            "on tap: walk ada to tapped\nany into edge: wrap",
            "A.#.",
            "tap:3,0",
            "A.#.",
            Some("no way"),
        ),
    ];
    for (name, rules, map, inputs, wanted, reason) in table {
        let map = map.replace('/', "\n");
        // `control` is a section, not a rule.
        let (sections, rules) = if rules.starts_with("control") { (rules, "") } else { ("", rules) };
        let book = book_with(sections, rules, &map);
        let mut session = Session::new(Start::map(book, 0)).unwrap();
        after(&mut session, inputs);
        assert_eq!(session.grid().picture().join("/"), wanted, "{name}");
        let told: Option<String> =
            session.answers().flat_map(|answer| &answer.actions).find_map(|action| action.reason.clone());
        assert_eq!(told.as_deref(), reason, "{name}");
        after(&mut session, "undo");
        assert_eq!(session.grid().picture().join("\n"), map, "{name} is taken back");
    }
    let mut walked = session("on tap: walk ada to tapped", "A..\n...");
    after(&mut walked, "tap:2,0");
    assert_eq!(walked.answers().next().unwrap().requests.len(), 2, "every step of a walk is a request");
    let mut leapt = session("on key act: leap ada by 1, 0", "A.");
    after(&mut leapt, "act");
    assert_eq!(leapt.last_request().unwrap().heading, None);
}
