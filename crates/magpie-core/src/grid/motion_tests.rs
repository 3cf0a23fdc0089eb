//! Gliders, riders and controls that do not turn straight back, by hand (docs/model.md, section 8).

use super::Grid;
use super::tests::book_with;
use crate::rulebook::KindId;
use crate::tape::{Session, Start, parse_inputs};
use proptest::prelude::*;

/// A game on cells of 10 × 10 px after some inputs; the kinds are those of `book_with`.
pub fn game(sections: &str, rules: &str, map: &str, inputs: &str) -> Session {
    let book = book_with(sections, rules, map);
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    for input in parse_inputs(inputs).unwrap() {
        session.give(&input);
    }
    session
}

pub fn lines(grid: &Grid) -> String {
    grid.picture().join("/")
}

#[test]
#[allow(clippy::too_many_lines)] // a table
fn gliders_by_the_clock() {
    let table = [
        ("it comes over at half a second", "at 10 px/s", "m..", 499, "m.."),
        ("and stands there from then on", "at 10 px/s", "m..", 500, ".m."),
        ("cells a second", "at 1 cells/s", "m..", 1500, "..m"),
        ("a quotient is exact", "at 100/3 px/s", "m...", 450, "..m."),
        ("one millisecond before", "at 100/3 px/s", "m...", 449, ".m.."),
        ("stop: it stays in the middle of the last cell", "at 10 px/s, stop", "m..", 90_000, "..m"),
        ("turning: back from the middle of the last", "at 10 px/s, turning", "m..", 2499, "..m"),
        ("turning: it has come back over", "at 10 px/s, turning", "m..", 2501, ".m."),
        ("turning on a single cell", "at 10 px/s, turning", "m", 12_345, "m"),
        ("wrapping: out of every cell", "at 10 px/s, wrapping", "m..", 2500, "..."),
        ("wrapping: in again a whole cell later", "at 10 px/s, wrapping", "m..", 3500, "m.."),
        ("wrapping: the track is one cell longer", "at 10 px/s, wrapping", "m..", 4000 + 1500, "..m"),
        ("several cells in a millisecond", "at 100000 px/s, wrapping", "m........", 1, "."),
    ];
    for (name, how, map, ms, expected) in table {
        let session = game(&format!("glide mat east {how}"), "", map, &format!("wait:{ms}"));
        let shown = lines(session.grid());
        if expected == "." {
            // 10 cells in one millisecond on a track of 10: it is where it was, and no other millisecond was asked.
            assert_eq!(shown, map, "{name}");
        } else {
            assert_eq!(shown, expected, "{name}");
        }
    }
    let west = game("glide mat west at 10 px/s, wrapping", "", "..m", "wait:501");
    assert_eq!(lines(west.grid()), ".m.", "going down, a cell ends just after its edge");
    let up = game("glide mat north at 10 px/s", "", ".\n.\nm", "wait:501");
    assert_eq!(lines(up.grid()), "./m/.");
}

#[test]
fn gliders_ask_nobody_and_crowd() {
    let through = game("glide box east at 10 px/s", "", "BC#", "wait:1500");
    assert_eq!(lines(through.grid()), ".C#", "the first of its layer is drawn");
    assert_eq!(through.grid().board().count(KindId(6)), 1);
    let met = game("glide box east at 10 px/s", "when box on cog: remove cog", "BC.", "wait:1500");
    assert_eq!(lines(met.grid()), "..B");
    let stops = game("glide box east at 10 px/s", "", "BC.A", "wait:1500 left");
    assert_eq!(lines(stops.grid()), ".CBA", "who asks meets a glider as any other piece of its layer");
    let two = game("glide thing east at 10 px/s, turning", "when box on cog: signal \"met\"", "B.\nC.", "wait:3000");
    assert_eq!(two.signals().count(), 0);
}

#[test]
fn a_moved_glider_begins_anew_from_its_cell() {
    let shoved = game("glide mat east at 10 px/s", "ada into mat: shove", "Am....", "wait:400 right wait:499");
    assert_eq!(lines(shoved.grid()), ".Am...");
    let shoved = game("glide mat east at 10 px/s", "ada into mat: shove", "Am....", "wait:400 right wait:500");
    assert_eq!(lines(shoved.grid()), ".A.m..");
    let made = game("glide net east at 10 px/s", "on key act: turn mat into net", "m..", "wait:700 act wait:500");
    assert_eq!(lines(made.grid()), ".n.", "what becomes a glider begins then");
}

#[test]
fn a_turn_is_a_millisecond_with_changes() {
    let session = game("glide mat east at 10 px/s\nglide net west at 10 px/s", "", "m....\n....n", "wait:3000");
    let turns: Vec<_> = session.answers().map(|answer| (answer.turn, answer.input.clone())).collect();
    // East at 500, 1500, 2500; west one millisecond later, as the edge belongs to the cell it leaves.
    let expected: Vec<_> = (1..=6).map(|turn| (Some(turn), "glide".to_owned())).collect();
    assert_eq!(turns, expected);
    let beat = game(
        "timer beat 500 ms\nglide mat east at 10 px/s\ncounter seen = 0",
        "each beat: add count mat in column 1 to seen",
        "m..",
        "wait:500",
    );
    assert_eq!(beat.grid().counters().next(), Some(("seen", 1)), "gliders change cells before timers fire");
}

const RIDE: &str = "ada into mat: ride";

#[test]
fn riders_are_carried() {
    let table = [
        ("boarding in the middle", "m...\nA...", "up wait:500", ".A../...."),
        ("the offset stays: boarded late, carried over late", "m...\nA...", "wait:400 up wait:499", "Am../...."),
        ("and a millisecond later", "m...\nA...", "wait:400 up wait:500", ".A../...."),
        ("stepping off lands on a whole cell", "m...\nA...", "up wait:700 down wait:5000", ".m../.A.."),
        ("the edge stops a rider: it stays in its cell", "m...\nA...", "wait:1 up wait:90000", "m..A/...."),
        ("a refused step leaves it riding", "m...\nA...\n####", "up left wait:500", ".A../..../####"),
    ];
    for (name, map, inputs, expected) in table {
        let session = game("glide mat east at 10 px/s, wrapping", RIDE, map, inputs);
        assert_eq!(lines(session.grid()), expected, "{name}");
        let mut back = session;
        back.go(0);
        assert_eq!(lines(back.grid()), map.replace('\n', "/"), "{name}: wound back");
    }
}

/// The first version let them ride each other, and looked for who carries whom without end.
#[test]
fn nobody_rides_on_whom_it_carries() {
    let rules = "ada into mat: ride\nmat into ada: ride\nada into edge: wrap\non key \"a\": step mat south";
    let refused_by = |session: &Session| {
        let book = session.grid().book();
        let request = session.answers().flat_map(|answer| &answer.requests).find(|request| !request.granted).unwrap();
        request.checks[request.reason.unwrap()].rule(book)
    };
    let session = game("", rules, "m\nA\n.", "key:a right");
    assert_eq!(refused_by(&session).as_deref(), Some("ada into mat"));
    assert_eq!(lines(session.grid()), "./A/.");
    // At one remove more: the net carries the mat, the mat ada, and ada would carry the net.
    let source = "game \"G\"\ncell 10 px\nlayers floor, low, mark, body\nkinds\n  plank . floor\n  net n low\n  mat m mark\n  \
                  ada A body\nground plank\nmap \"M\"\n  n\n  m\n  A\ncontrol ada with arrows\nrules\n  mat into net: ride\n  \
                  ada into mat: ride\n  net into ada: ride\n  net into edge: wrap\n  on key \"a\": step mat north\n  \
                  on key \"b\": step net east\n";
    let book = std::sync::Arc::new(crate::rulebook::read_text(source, &|_| Err("none".into())).rulebook.unwrap());
    let mut far = Session::new(Start::map(book, 0)).unwrap();
    for input in parse_inputs("key:a up up key:b").unwrap() {
        far.give(&input);
    }
    assert_eq!(refused_by(&far).as_deref(), Some("net into ada"));
}

#[test]
fn riders_at_the_edge() {
    let at_edge = |rule: &str, ms: u32| {
        let rules = format!("{RIDE}\nada into edge: {rule}\nlose when count ada = 0");
        let session = game("glide mat east at 10 px/s, wrapping", &rules, "m..\nA..", &format!("up wait:{ms}"));
        (lines(session.grid()), session.grid().board().count(KindId(5)))
    };
    assert_eq!(at_edge("stop", 2500), ("..A/...".into(), 1), "the ride ends");
    assert_eq!(at_edge("stop", 9000).0, ".mA/...", "and it is not taken along later");
    assert_eq!(at_edge("perish", 2500).1, 0);
    assert_eq!(at_edge("wrap", 2600), (".../...".into(), 1), "out of every cell with what carries it");
    assert_eq!(at_edge("wrap", 3500).0, "A../...");
    assert_eq!(at_edge("wrap", 4500).0, ".A./...");
}

#[test]
fn riders_are_asked_by_their_own_layer_only() {
    let carried = |rules: &str, map: &str| {
        let rules = format!("{RIDE}\n{rules}");
        lines(game("glide mat east at 10 px/s", &rules, map, "up wait:1000").grid())
    };
    assert_eq!(carried("", "m#..\nA..."), "A#../....", "a wall holds the rider back");
    assert_eq!(carried("ada into box: shove", "mB..\nA..."), ".AB./....");
    assert_eq!(carried("ada into box: take", "mB..\nA..."), ".A../....");
    assert_eq!(carried("ada into net: stop", "mn..\nA..."), ".A../....", "other layers are not asked");
    assert_eq!(carried("ada into box: stop, turn box into cog", "mB..\nA..."), "AB../....", "no effects of a refusal");
}

#[test]
fn a_rider_is_on_its_carrier_only() {
    let rules =
        "ada into mat: ride\nada into fen: stop\nlose when count ada on fen > 0\nwhen ada on mat: signal \"on\"";
    // The mat glides over fen; the rider does not touch it.
    let session = game("glide mat east at 10 px/s", rules, "mffff\nA....", "up wait:900");
    assert_eq!(session.grid().outcome(), None);
    assert_eq!(lines(session.grid()), "fAfff/.....".replacen('f', ".", 1));
    assert!(session.signals().count() >= 2, "the rider is matched with its carrier at every turn");
    let walker = game("", "lose when count ada on fen > 0\nada into mat: pass", "mf\nA.", "up right");
    assert_eq!(walker.grid().outcome(), Some(super::Ended::Lost));
}

#[test]
fn off_clauses_of_a_rider_look_at_its_carrier() {
    let rules = "ada into mat: ride\nada off mat: signal \"off\"\nada off fen: signal \"fen\"";
    let session = game("glide mat east at 10 px/s", rules, "mff\nA..", "up wait:600 down");
    assert_eq!(session.signals().collect::<Vec<_>>(), ["off"]);
}

#[test]
fn any_piece_can_carry() {
    // The mat is moved cell by cell; ada rides at once.
    let rules = "ada into mat: ride\non key act: step mat east";
    let session = game("", rules, "m..\nA..", "up act act");
    assert_eq!(lines(session.grid()), "..A/...");
    let blocked = game("", rules, "m#.\nA..", "up act act");
    assert_eq!(lines(blocked.grid()), "A#m/...", "refused once it stays");
    let gone =
        game("", "ada into mat: ride\non key act: remove mat\non key alt: step ada east", "m..\nA..", "up act alt");
    assert_eq!(lines(gone.grid()), ".A./...", "without its carrier it is a piece like any other");
}

#[test]
fn no_straight_turn_back() {
    let controls = "control box with keys \"a\" \"d\" \"w\" \"s\", no reverse";
    let play = |inputs: &str| lines(game(controls, "", "....\n.B..\n....", inputs).grid());
    assert_eq!(play("key:a"), "..../B.../....", "nothing has been granted yet");
    assert_eq!(play("key:d key:a"), "..../..B./....");
    assert_eq!(play("key:d key:w key:a"), ".B../..../....");
    let steering = "control box with keys \"a\" \"d\" \"w\" \"s\", steering, no reverse\ntimer beat 100 ms";
    let steer = |inputs: &str| lines(game(steering, "each beat: step box ahead", "....\n.B..\n....", inputs).grid());
    // Two quick presses between two beats: up, then back west, would run into the own neck.
    assert_eq!(steer("key:d wait:100 key:w key:a wait:100"), "..B./..../....");
    assert_eq!(steer("key:d wait:100 key:w wait:100 key:a wait:100"), ".B../..../....");
}

proptest! {
    /// However a wait is cut into pieces, gliders and riders end in the same state, and undo brings every one back.
    #[test]
    fn cutting_a_wait_changes_nothing(cuts in proptest::collection::vec(0_u32..900, 1..6), speed in 1_u32..90,
                                      end in prop_oneof![Just("wrapping"), Just("turning"), Just("stop")], late in 0_u32..300) {
        let sections = format!("glide mat east at {speed} px/s, {end}\nglide net west at {speed}/3 px/s, {end}");
        let rules = "ada into mat: ride\nada into edge: wrap\nada into net: ride";
        let map = "m...\nA.n.";
        let whole: u32 = cuts.iter().sum();
        let one = game(&sections, rules, map, &format!("wait:{late} up wait:{whole}"));
        let pieces: Vec<String> = cuts.iter().map(|ms| format!("wait:{ms}")).collect();
        let mut many = game(&sections, rules, map, &format!("wait:{late} up {}", pieces.join(" ")));
        prop_assert_eq!(lines(one.grid()), lines(many.grid()));
        let at = |session: &Session| {
            let grid = session.grid();
            grid.between_cells().map(|piece| grid.at(piece)).collect::<Vec<_>>()
        };
        prop_assert_eq!(at(&one), at(&many));
        let start = game(&sections, rules, map, &format!("wait:{late}"));
        for _ in 0..=cuts.len() {
            many.give(&crate::input::Input::Undo);
        }
        prop_assert_eq!(at(&start), at(&many));
        prop_assert_eq!(lines(start.grid()), lines(many.grid()));
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    /// Walkers, riders and gliders of two directions: a wait in one, and millisecond by millisecond, with steps in between.
    #[test]
    fn waiting_in_milliseconds_is_waiting_at_once(
        steps in prop::collection::vec((prop::sample::select(vec!["left", "right", "up", "down"]), 0_u32..60), 1..12),
        speed in 5_u32..400, end in prop_oneof![Just("wrapping"), Just("turning"), Just("stop")],
        edge in prop_oneof![Just("stop"), Just("wrap"), Just("perish")],
    ) {
        let sections = format!("glide mat east at {speed} px/s, {end}\nglide net north at {speed}/2 px/s, {end}");
        let rules = format!("ada into mat: ride\nada into net: ride\nada into edge: {edge}\nada into box: shove\nwhen ada on net: signal \"up\"");
        let map = "m..B\nA..n\n...B";
        let whole: Vec<String> = steps.iter().map(|(key, ms)| format!("{key} wait:{ms}")).collect();
        let parts: Vec<String> = steps.iter().map(|(key, ms)| format!("{key}{}", " wait:1".repeat(*ms as usize))).collect();
        let (one, many) = (game(&sections, &rules, map, &whole.join(" ")), game(&sections, &rules, map, &parts.join(" ")));
        prop_assert_eq!(lines(one.grid()), lines(many.grid()));
        let at = |session: &Session| {
            let grid = session.grid();
            grid.between_cells().map(|piece| grid.at(piece)).collect::<Vec<_>>()
        };
        prop_assert_eq!(at(&one), at(&many));
        prop_assert_eq!(one.signals().count(), many.signals().count());
        let mut back = one;
        back.go(0);
        prop_assert_eq!(lines(back.grid()), map.replace('\n', "/"));
    }
}
