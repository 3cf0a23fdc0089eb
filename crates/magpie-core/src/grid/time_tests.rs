//! Timers, slides and warps by hand.

use super::tests::{after, book_with, game, session};
use crate::rulebook::CounterRead;
use crate::tape::{Session, Start};
use proptest::prelude::*;

/// A game with timers; gives the signals told along some inputs, with the clock at the end.
fn timed(sections: &str, rules: &str, map: &str, inputs: &str) -> (String, u64, Session) {
    let book = book_with(sections, rules, map);
    let mut session = Session::new(Start::map(book, 0)).unwrap();
    after(&mut session, inputs);
    let told: Vec<&str> = session.signals().map(String::as_str).collect();
    let (told, clock) = (told.join(" "), session.clock());
    (told, clock, session)
}

#[test]
fn timers_fire_in_the_order_of_time_and_of_the_file() {
    let two = "timer one 100 ms\ntimer two 150 ms";
    let both = "each one: signal \"1\"\neach two: signal \"2\"";
    let table = [
        ("nothing before its time", two, both, "wait:99", "", 99),
        ("at its time", two, both, "wait:100", "1", 100),
        ("in the order of time, at once in that of the file", two, both, "wait:300", "1 2 1 1 2", 300),
        ("over several waits", two, both, "wait:60 wait:60 wait:60", "1 2", 180),
        ("a guard holds it back", two, "each one if clock > 250: signal \"1\"", "wait:400", "1 1", 400),
        ("a restart ends the wait and sets the clock back", two, "each two: signal \"2\", restart", "wait:400", "2", 0),
        ("a win lets the clock stand", two, "each one: signal \"1\", win", "wait:400", "1", 100),
        ("quicker", two, "each one: signal \"1\", quicken one by 50%", "wait:200", "1 1 1 1 1 1 1 1", 200),
        (
            "no quicker than",
            two,
            "each one: signal \"1\", quicken one by 50% to at least 40 ms",
            "wait:200",
            "1 1 1",
            200,
        ),
        (
            "at once where that is past",
            two,
            "on key act: quicken one by 90%\neach one: signal \"1\"",
            "wait:50 act wait:0",
            "1 1 1 1 1",
            50,
        ),
    ];
    for (name, sections, rules, inputs, wanted, clock) in table {
        let (told, now, _) = timed(sections, rules, "A..", inputs);
        let told = if name == "quicker" { told.split(' ').take(8).collect::<Vec<_>>().join(" ") } else { told };
        assert_eq!((told.as_str(), now), (wanted, clock), "{name}");
    }
    let (_, _, mut session) =
        timed("timer one 100 ms", "each one: step ada east, add 1 to beats", "A....", "wait:350 wait:60");
    assert_eq!(session.grid().picture(), ["....A"]);
    assert_eq!((session.grid().counter(CounterRead::Turns), session.grid().counter(CounterRead::Moves)), (4, 0));
    after(&mut session, "undo");
    assert_eq!((session.grid().picture(), session.clock()), (vec!["...A.".to_owned()], 350));
    after(&mut session, "wait:49");
    assert_eq!(session.grid().picture(), ["...A."], "the timer, too, is taken back");
    session.go(0);
    session.go(2);
    assert_eq!((session.grid().picture(), session.clock()), (vec!["...A.".to_owned()], 399));
}

#[test]
fn a_wait_over_several_maps_is_taken_back_as_a_whole() {
    let source = "kinds\n  ada A body\nmap \"One\"\n  A\nmap \"Two\"\n  A_\nmap \"Three\"\n  A__\ntimer bell 100 ms\nrules\n  each bell if clock < 250: next map\n";
    let mut session = game(source, 0);
    after(&mut session, "wait:30 wait:500");
    assert_eq!((session.grid().map(), session.clock()), (2, 530));
    after(&mut session, "undo");
    assert_eq!((session.grid().map(), session.clock()), (0, 30));
    after(&mut session, "wait:69");
    assert_eq!(session.grid().map(), 0);
    after(&mut session, "wait:1");
    assert_eq!(session.grid().map(), 1, "timers begin anew with a map");
    after(&mut session, "wait:99");
    assert_eq!(session.grid().map(), 1);
}

#[test]
fn slides_and_warps_by_hand() {
    let ice = "ada into mat: slide";
    let table = [
        ("on to the end of the ice", ice, "Ammm..", "right", "....A."),
        ("up to a wall", ice, "Amm#", "right", "..A#"),
        ("off the ice no further", ice, "Am.m.", "right", "..A.."),
        (
            "a shoved box slides ahead of the asker",
            "ada into box: shove\nbox into mat: slide",
            "AB.mm.",
            "right right",
            "..A..B",
        ),
        (
            "both slide, the foremost first",
            "ada into box: shove\nthing into mat: slide\nada into mat: slide",
            "ABmmm.",
            "right right",
            "....AB",
        ),
        ("a closed ring ends where it began", "ada into mat: slide\nada into edge: wrap", "Ammm", "right", "A..."),
        (
            "a ring of ice alone",
            "ada into mat: slide, place mat here\nada into edge: wrap\nwhen ada: place mat here",
            "Ammm",
            "right",
            "A...",
        ),
        (
            "each body of a step by itself",
            "on key act: step every box east\nbox into mat: slide",
            "BmBm.",
            "act",
            "..B.B",
        ),
        ("by the next of its kind", "ada into net: warp net", "An..n.n", "right", "....A.n"),
        ("round the end", "ada into net: warp net", "n..n.An", "right", "A..n..n"),
        ("not where somebody stands", "ada into net: warp net\nbox into net: pass", "An.n.n", "right", "...A.n"),
        ("to a place of another kind", "ada into net: warp mat", "m.An", "right", "A..."),
        ("nowhere to go it stays", "ada into net: warp net", "An..", "right", ".A.."),
        (
            "beyond a place that is taken",
            "ada into net: warp net\non start: place box at column 3 row 0",
            "An.n.n",
            "right",
            "...B.A",
        ),
    ];
    for (name, rules, map, inputs, wanted) in table {
        let mut session = session(rules, map);
        after(&mut session, inputs);
        // The top pieces alone: what lies under a piece is not drawn.
        let shown = session.grid().picture().join("/");
        let visible = |text: &str| text.replace(['m', 'n'], ".");
        assert_eq!(visible(&shown), visible(wanted), "{name}: {shown}");
    }
    let mut session = session(ice, "Ammm..");
    after(&mut session, "right");
    let answer = session.answers().next().unwrap();
    let steps: Vec<_> =
        answer.requests.iter().map(|request| (request.from.column, request.to.unwrap().column)).collect();
    assert_eq!(steps, [(0, 1), (1, 2), (2, 3), (3, 4)], "every step of a slide is a request of its own");
    after(&mut session, "undo");
    assert_eq!(session.grid().picture(), ["Ammm.."]);
}

/// Two timers, millisecond by millisecond: periods, the last firing of each, and what has been told.
struct Clockwork {
    now: i64,
    periods: [i64; 2],
    last: [i64; 2],
    told: Vec<&'static str>,
    /// By how many percent the second timer quickens the first, down to how many ms.
    quicken: Option<(i64, i64)>,
}

impl Clockwork {
    fn quicken(&mut self, percent: i64, least: i64) {
        self.periods[0] = 1.max(least).max(self.periods[0] * (100 - percent) / 100);
    }

    /// All that is due now: the earliest first, of one instant the first timer first.
    fn fire(&mut self) {
        loop {
            let due = [0, 1].map(|timer| self.last[timer] + self.periods[timer]);
            let Some(timer) =
                [0, 1].into_iter().filter(|timer| due[*timer] <= self.now).min_by_key(|timer| due[*timer])
            else {
                return;
            };
            self.last[timer] = due[timer];
            self.told.push(["1", "2"][timer]);
            if let (1, Some((percent, least))) = (timer, self.quicken) {
                self.quicken(percent, least);
            }
        }
    }

    fn wait(&mut self, ms: i64) {
        self.fire();
        for _ in 0..ms {
            self.now += 1;
            self.fire();
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, ..ProptestConfig::default() })]

    #[test]
    fn timers_go_as_a_clockwork_of_single_milliseconds(
        periods in [5..120_i64, 5..120_i64],
        steps in prop::collection::vec((0..150_i64, any::<bool>()), 1..12),
        quicken in prop::option::of((1..60_i64, 1..30_i64)),
        key in (1..60_i64, 1..30_i64),
    ) {
        let rule = |(percent, least): (i64, i64)| format!("quicken one by {percent}% to at least {least} ms");
        let two = quicken.map_or(String::new(), |by| format!(", {}", rule(by)));
        let rules = format!("each one: signal \"1\"\neach two: signal \"2\"{two}\non key act: {}", rule(key));
        let sections = format!("timer one {} ms\ntimer two {} ms", periods[0], periods[1]);
        let mut slow = Clockwork { now: 0, periods, last: [0, 0], told: Vec::new(), quicken };
        let mut inputs: Vec<String> = Vec::new();
        for (ms, press) in steps {
            inputs.push(format!("wait:{ms}"));
            slow.wait(ms);
            if press {
                inputs.push("act".into());
                slow.quicken(key.0, key.1);
                // What is overdue by the new period fires when the next wait begins.
            }
        }
        inputs.push("wait:200".into());
        slow.wait(200);
        let (told, clock, _) = timed(&sections, &rules, "A.", &inputs.join(" "));
        prop_assert_eq!((told, clock as i64), (slow.told.join(" "), slow.now));
    }
}
