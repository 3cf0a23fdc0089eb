//! What a turn did is told once, and all of it: rules, sentences, clauses passed over, cells, numbers of turns.

use super::tests::{book_with, session};
use super::{Answer, CheckKind, Fired, Flow, Told};
use crate::rulebook::CounterRead;
use crate::tape::{Session, Start, parse_inputs};

fn last(session: &mut Session, inputs: &str) -> Answer {
    for input in parse_inputs(inputs).unwrap() {
        session.give(&input);
    }
    session.answers().next_back().unwrap().clone()
}

/// All that rules did in a turn, refused things with a `!` before them.
fn did(answer: &Answer) -> Vec<String> {
    let deeds = answer.rules.iter().flat_map(|acted| &acted.did);
    deeds.map(|deed| format!("{}{}", if deed.is_refused { "!" } else { "" }, deed.text)).collect()
}

/// A name, rules, a map, inputs, and what the rules did.
type Row<'a> = (&'a str, String, &'a str, &'a str, &'a [&'a str]);

fn act(actions: &str) -> String {
    format!("on key act: {actions}")
}

/// Holds every row of a table to what the game tells.
fn hold(table: &[Row]) {
    for (name, rules, map, inputs, wanted) in table {
        let counter = if rules.contains(" n") { "counter n\n" } else { "" };
        let sections = if rules.contains("shape") { "shapes of box\n  bar\n    XX\n" } else { counter };
        let book = book_with(sections, rules, &map.replace('/', "\n"));
        let mut session = Session::new(Start::map(book, 0)).unwrap();
        assert_eq!(did(&last(&mut session, inputs)), *wanted, "{name}");
    }
}

#[test]
fn every_action_is_told_in_a_sentence() {
    let table: [Row; 17] = [
        ("a step", String::new(), "A..", "right", &["stepped ada at 0,0 east to 1,0"]),
        ("a refused step", String::new(), "A#.", "right", &["!refused to step ada at 0,0 east: wall at 1,0: stop"]),
        ("a step of nobody", act("step cog east"), "A..", "act", &["!refused to step cog: nobody"]),
        (
            "a step without a heading",
            act("step ada ahead"),
            "A..",
            "act",
            &["!refused to step ada at 0,0 ahead: it has no heading"],
        ),
        (
            "a step to where one is",
            act("step ada toward the ada"),
            "A..",
            "act",
            &["!refused to step ada at 0,0 toward the ada: already there"],
        ),
        (
            "one of two steps",
            act("step every box east"),
            "B.B#A",
            "act",
            &["stepped box at 0,0 east to 1,0; refused box at 2,0 east: wall at 3,0: stop"],
        ),
        ("a leap", act("leap ada by 2, 0"), "A..", "act", &["leapt ada at 0,0 to 2,0"]),
        ("a refused leap", act("leap ada by 1, 0"), "A#.", "act", &["!refused to leap ada at 0,0: wall at 1,0: stop"]),
        ("a drop", act("drop ada east"), "A..", "act", &["dropped ada at 0,0 east to 2,0"]),
        ("a walk", act("walk ada to column 2 row 0"), "A..", "act", &["walked ada at 0,0 to 2,0"]),
        ("a walk of nobody", act("walk cog to column 2 row 0"), "A..", "act", &["!refused to walk cog to 2,0: nobody"]),
        (
            "a swap",
            act("swap column 0 row 0 with column 1 row 0"),
            "AB",
            "act",
            &["swapped ada at 0,0 with box at 1,0"],
        ),
        (
            "a swap with nothing",
            act("swap column 0 row 0 with column 1 row 0"),
            "A.",
            "act",
            &["swapped ada at 0,0 with nothing at 1,0"],
        ),
        (
            "a refused swap",
            act("swap column 0 row 0 with column 0 row 0"),
            "A.",
            "act",
            &["!refused to swap ada at 0,0 with ada at 0,0: twice the same cell"],
        ),
        ("a choice", act("choose the ada, choose nothing"), "A.", "act", &["chose ada at 0,0", "chose nothing"]),
        ("a flood", act("flood from the ada into fen"), "A..", "act", &["flooded 3 cells from 0,0 with fen"]),
        (
            "a refused flood",
            act("flood from column 1 row 0 into fen"),
            "Af",
            "act",
            &["!refused to flood from 1,0 into fen: already fen"],
        ),
    ];
    hold(&table);
}

#[test]
fn every_effect_is_told_in_a_sentence() {
    let table: [Row; 13] = [
        (
            "things removed",
            act("remove box, remove cog"),
            "ABB",
            "act",
            &["removed box at 1,0, box at 2,0", "!refused to remove cog: nobody"],
        ),
        (
            "things turned",
            act("turn box into cog, turn ada west"),
            "AB",
            "act",
            &["turned box at 1,0 into cog", "turned ada at 0,0 west"],
        ),
        ("something placed", act("place box at column 1 row 0"), "A.", "act", &["placed box at 1,0"]),
        (
            "something not placed",
            act("place box at the ada"),
            "A.",
            "act",
            &["!refused to place box at 0,0: its layer is taken by ada"],
        ),
        (
            "nowhere to place",
            act("place box at column 7 row 0"),
            "A.",
            "act",
            &["!refused to place box at column 7 row 0: no such cell"],
        ),
        ("a spawn", act("spawn box at column 1 row 0"), "A.", "act", &["asked to spawn box at 1,0"]),
        (
            "a shape",
            act("spawn shape bar at column 1 row 0, lock active"),
            "A...",
            "act",
            &["asked to spawn shape bar at 1,0", "!refused to lock active: nobody"],
        ),
        (
            "counters",
            act("add 2 to n, set n to n + 3"),
            "A.",
            "act",
            &["added 2 to n: 0 to 2", "set n to n + 3 (5): 2 to 5"],
        ),
        (
            "a signal and a win",
            act("signal \"ding\", win"),
            "A.",
            "act",
            &["signalled \"ding\"", "won, once the turn has settled"],
        ),
        ("a fall", act("fall box east"), "AB.", "act", &["let box fall east"]),
        ("nothing to fall", act("fall box east"), "A.B", "act", &["!refused to let box fall east: none can"]),
        (
            "a meeting's effects",
            "ada into box: take, add 1 to n, become cog".into(),
            "AB",
            "right",
            &["stepped ada at 0,0 east to 1,0", "added 1 to n: 0 to 1", "ada at 1,0 became cog"],
        ),
        (
            "a leaving's effects",
            "ada off mat: turn mat into net".into(),
            "A./m.",
            "down right",
            &["stepped ada at 0,1 east to 1,1", "turned mat at 0,1 into net"],
        ),
    ];
    hold(&table);
}

#[test]
fn rules_are_told_in_the_order_in_which_they_begin() {
    let rules =
        "ada into box: shove, add 1 to n\nbox off plank: add 1 to n\non key right: signal \"again\"\nwin when n = 2";
    let book = book_with("counter n\n", rules, "AB..");
    let mut session = Session::new(Start::map(book.clone(), 0)).unwrap();
    let answer = last(&mut session, "right");
    let texts: Vec<&str> = answer.rules.iter().map(|acted| acted.rule.at(&book).text.as_str()).collect();
    assert_eq!(
        texts,
        ["control ada with arrows", "box off plank", "ada into box", "on key right", "win when n = 2"],
        "a meeting's rule begins when its effects do"
    );
    let order: Vec<&str> = answer
        .told()
        .map(|told| match told {
            Told::Rule(_) => "rule",
            Told::Request(_) => "request",
            Told::Action(_) => "action",
            Told::Settled(_) => "settled",
        })
        .collect();
    assert_eq!(order, ["rule", "request", "rule", "rule", "rule", "rule"]);
    assert_eq!(answer.rules[4].rule, Fired::Outcome(0));
}

#[test]
fn clauses_passed_over_because_of_their_if_are_told_with_what_they_saw() {
    let rules = "ada into box if n > 0 and heading west: take\nada into box if not (n = 0 or blocked): take\nada into \
                 edge if chosen: wrap\nada into box: stop\nada into box if n = 0: take";
    let mut session = Session::new(Start::map(book_with("counter n\n", rules, "AB."), 0)).unwrap();
    let answer = last(&mut session, "right");
    let checks: Vec<(CheckKind, String, bool)> = answer.requests[0]
        .checks
        .iter()
        .skip(3)
        .map(|check| (check.kind, check.text(session.grid().book(), session.grid().board().extent()), check.decided()))
        .collect();
    let wanted = [
        (CheckKind::If, "n > 0 and heading west: 0 > 0 does not hold, the heading is east", false),
        (CheckKind::If, "not (n = 0 or blocked): 0 = 0 holds, no spawn was refused", false),
        (CheckKind::Meets, "box at 1,0: stop", true),
    ];
    let wanted: Vec<_> = wanted.into_iter().map(|(kind, text, decides)| (kind, text.to_owned(), decides)).collect();
    assert_eq!(checks, wanted, "the clause behind the one that decides is not reached");
    assert_eq!(answer.requests[0].reason, Some(5), "the reason is still the check that refused");
    let answer = last(&mut session, "left");
    let texts: Vec<String> = answer.requests[0]
        .checks
        .iter()
        .map(|check| check.text(session.grid().book(), session.grid().board().extent()))
        .collect();
    assert_eq!(texts[1..], ["chosen: chosen is no cell", "edge, column -1 < 0: stop"]);
}

#[test]
fn actions_carry_their_cells_and_a_turn_its_heading_and_mark() {
    let rules =
        "on key act: swap column 0 row 0 with column 1 row 0, choose column 1 row 0, spawn cog at column 2 row 0";
    let mut session = session(rules, "AB.");
    let answer = last(&mut session, "act");
    let cells: Vec<(&str, Vec<i64>)> = answer
        .actions
        .iter()
        .map(|action| (action.action, action.cells.iter().map(|cell| cell.column).collect()))
        .collect();
    assert_eq!(cells, [("swap", vec![0, 1]), ("choose", vec![1]), ("spawn", vec![2])]);
    assert_eq!((answer.heading, answer.chosen.map(|cell| cell.column)), (None, Some(1)));
    let answer = last(&mut session, "left");
    assert_eq!(answer.heading, None, "refused: box stands there");
}

#[test]
fn a_turn_that_leads_back_to_the_beginning_keeps_its_number() {
    let mut game = session("ada into mat: pass, restart\non start: place net at the ada", "A.m");
    let opening = game.opening().clone();
    assert_eq!((opening.rules.len(), opening.rules[0].did[0].text.as_str()), (1, "placed net at 0,0"));
    let answer = last(&mut game, "right right");
    assert_eq!((answer.number, answer.turn, answer.left), (2, Some(0), Some(Flow::Restart)));
    assert_eq!(game.grid().counter(CounterRead::Turns), 0);
    assert!(did(&answer).contains(&"placed net at 0,0".to_owned()), "entering the map is told: {:?}", did(&answer));
    game.give(&"restart".parse().unwrap());
    let entered = game.played().last().unwrap().entered.as_deref().unwrap();
    assert_eq!(entered.rules[0].did[0].text, "placed net at 0,0");
    let quiet = session("", "A.");
    assert!(quiet.opening().is_empty());
}

#[test]
fn what_a_settling_did_and_was_refused_is_told() {
    let mut game = session("ada into box: shove\nwhen box on mat: place net here, become cog, place wall here", "ABm.");
    let answer = last(&mut game, "right");
    let told: Vec<(&str, bool)> =
        answer.settled[0].did.iter().map(|deed| (deed.text.as_str(), deed.is_refused)).collect();
    assert_eq!(
        told,
        [
            ("refused to place net at 2,0: its layer is taken by mat", true),
            ("box at 2,0 became cog", false),
            ("refused to place wall at 2,0: its layer is taken by cog", true),
        ]
    );
    // A rule that was refused and changed nothing says so, once.
    let mut still = session("when ada on mat: place net here", "Am");
    let answer = last(&mut still, "right");
    assert_eq!(answer.notes, ["refused to place net at 1,0: its layer is taken by mat"]);
    assert!(answer.settled.is_empty());
}
