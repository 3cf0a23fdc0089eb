//! Games that are long, large or endless: what they hold is bounded, and nothing is lost by it. In tests the limits are small.

use super::{Played, Session, Start, WrongTime};
use crate::grid::{Answer, Ended, Taken};
use crate::input::Input;
use crate::limits::{LONGEST_PAUSE, MOST_BRANCHES, MOST_BYTES_REPORTS, MOST_TOLD, MOST_TURNS, MOST_TURNS_KEPT};
use crate::rulebook::{Severity, read_text};
use proptest::prelude::*;
use std::fmt::Write as _;
use std::sync::Arc;

const HEAD: &str = "game \"Yard\"\ncell 10 px\nkinds\n  plank . floor\n  ada A body\n  box B body\n  pump P mark\n  damp d floor\nground plank\ncounter n\ntimer t 1 ms\n";

fn started(rest: &str) -> Session {
    game(&format!("{HEAD}{rest}"))
}

fn game(source: &str) -> Session {
    let reading = read_text(source, &|_| Err("none".into()));
    let errors = reading.count(Severity::Error);
    assert_eq!(errors, 0, "{:?}", reading.diagnostics);
    Session::new(Start::map(Arc::new(reading.rulebook.unwrap()), 0)).unwrap()
}

fn give(session: &mut Session, word: &str) -> Taken {
    session.give(&word.parse::<Input>().unwrap())
}

/// A board on which every input moves, floods, fills and settles a good deal.
const BUSY: &str = "map \"Wide\" 40 x 30 of plank, 30% of box\nmap \"Next\" 20 x 20 of plank, 10% of box\ncontrol box with arrows\nrules\n  \
                    on key act: flood from column 0 row 0 into damp else flood from column 0 row 0 into plank\n  \
                    on key alt: add 1 to n, next map\n  on tap: place box at tapped, place pump at tapped, add 1 to n, step every ada east\n  when box on damp: add 1 to n, turn damp into plank\n";

/// What can be seen of a game.
fn seen(session: &Session) -> (usize, Vec<String>, Vec<i64>, u64, u64, Option<bool>) {
    let grid = session.grid();
    let last = session.last_request().map(|request| request.granted);
    (
        grid.map(),
        grid.picture(),
        grid.counters().map(|(_, value)| value).collect(),
        session.clock(),
        session.turns(),
        last,
    )
}

fn outline(answers: &[Answer]) -> Vec<(Option<u64>, usize, usize, usize)> {
    answers.iter().map(|a| (a.turn, a.requests.len(), a.actions.len(), a.settled.len())).collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    /// Far more is played than is held. Undone input by input, every state is the one that there was, back to the first; and
    /// every report can still be told.
    #[test]
    fn what_is_no_longer_held_is_worked_out_again(
        words in prop::collection::vec(prop::sample::select(vec!["act", "left", "down", "tap:3,3", "restart", "alt", "wait:3"]), 40..120),
    ) {
        let mut session = started(BUSY);
        let mut states = vec![seen(&session)];
        let mut reports = Vec::new();
        let mut held = 0;
        for word in &words {
            // A won game takes few inputs only.
            if give(&mut session, word) == Taken::No {
                continue;
            }
            states.push(seen(&session));
            reports.push(outline(&session.played().last().unwrap().answers));
            held = held.max(session.entries().iter().flat_map(|entry| &entry.answers).map(Answer::bytes).sum::<usize>());
        }
        prop_assert!(held < 2 * MOST_BYTES_REPORTS, "{held} bytes of reports are held");
        for (at, report) in reports.iter().enumerate() {
            prop_assert_eq!(&outline(&session.report(at)), report, "entry {}", at);
        }
        let mut told = Vec::new();
        session
            .replay(|_, played| {
                if let Played::Turn(answer) = played {
                    told.push(answer.turn);
                }
            })
            .unwrap();
        prop_assert_eq!(told.len() as u64, session.turns());
        for (at, state) in states.iter().enumerate().rev() {
            prop_assert_eq!(&seen(&session), state, "after {} inputs", at);
            if let Some(last) = session.played().last() {
                prop_assert_eq!(&outline(&last.answers), &reports[at - 1], "what people see is worked out again");
            }
            prop_assert_eq!(give(&mut session, "undo"), if at == 0 { Taken::No } else { Taken::Yes });
        }
    }
}

#[test]
fn a_long_tape_is_wound_to_its_beginning_and_back() {
    let mut session = started(BUSY);
    for number in 0..300 {
        give(&mut session, ["act", "left", "restart"][number % 3]);
    }
    let end = seen(&session);
    assert!(session.grid().depth() < 300, "not everything is held");
    assert!(session.entries()[0].is_forgotten);
    session.go(0);
    assert_eq!((session.position(), session.turns(), session.grid().depth()), (0, 0, 0));
    session.go(300);
    assert_eq!(seen(&session), end);
}

#[test]
fn of_a_long_wait_the_first_turns_and_the_newest_are_kept_and_all_are_counted() {
    let mut session =
        started("map \"M\"\n  A__\ncontrol ada with arrows\nrules\n  each t: add 1 to n, signal \"tick\"\n");
    give(&mut session, "wait:50000");
    let entry = &session.entries()[0];
    assert_eq!((entry.turns, entry.answers.len(), entry.signals.len()), (50_000, MOST_TURNS_KEPT, 50_000));
    assert_eq!(
        (entry.answers[0].turn, entry.answers[998].turn, entry.answers[999].turn),
        (Some(1), Some(999), Some(50_000))
    );
    assert_eq!(entry.untold(), 49_000);
    let mut told = 0;
    session
        .replay(|grid, played| {
            let Played::Turn(answer) = played else { return };
            told += 1;
            assert_eq!((answer.turn, grid.counters().next()), (Some(told), Some(("n", told as i64))));
        })
        .unwrap();
    assert_eq!(told, 50_000);
}

#[test]
fn a_session_ends_at_its_limits_and_says_which() {
    let mut session = started("map \"M\"\n  A__\ncontrol ada with arrows\nrules\n  each t: add 1 to n\n");
    give(&mut session, "wait:86400000");
    assert_eq!(
        (session.turns(), session.limit()),
        (1_000_000, Some(format!("too-many: a session may have {MOST_TURNS} turns")))
    );
    assert_eq!((give(&mut session, "right"), session.position()), (Taken::No, 1), "what is beyond is not taken");
    give(&mut session, "undo");
    assert_eq!((session.limit(), give(&mut session, "right")), (None, Taken::Yes));
    // A tape from outside may ask for any time.
    let far = session.give_at(Some(1_000_000_000_000_000_000), &Input::Restart).unwrap_err();
    assert!(
        matches!(far, WrongTime::Far { at: 1_000_000_000_000_000_000, .. }) && far.to_string().starts_with("too-long"),
        "{far}"
    );
    let calm = HEAD.replace("timer t 1 ms\n", "");
    let mut session = game(&format!("{calm}map \"M\"\n  A__\ncontrol ada with arrows\n"));
    assert_eq!(session.give_at(Some(LONGEST_PAUSE), &"right".parse().unwrap()), Ok(Taken::Yes));
    assert_eq!((session.clock(), session.grid().picture()), (LONGEST_PAUSE, vec![".A.".into()]));
}

#[test]
fn tapes_that_were_cut_off_are_kept_up_to_their_limit() {
    let mut session = started("map \"M\"\n  A__\ncontrol ada with arrows\n");
    for number in 0..=MOST_BRANCHES {
        for word in ["right", "left", ["up", "down"][number % 2]] {
            give(&mut session, word);
        }
        session.go(2);
    }
    give(&mut session, "act");
    assert_eq!(session.branches().len(), MOST_BRANCHES);
}

/// The report of a turn has limits; the last request, on which scenarios look, is always in it, and so is every text told.
#[test]
fn the_report_of_an_endless_turn_is_cut_and_says_by_how_much() {
    let signals = "signal \"again\", ".repeat(MOST_TOLD + 5);
    let source = format!(
        "map \"M\"\n  A__\nrules\n  ada into edge: wrap\n  on key act: step every ada east by 5000\n  on key alt: {signals}signal \"rare\", signal \"again\"\n"
    );
    let mut session = started(&source);
    give(&mut session, "act");
    let answer = &session.entries()[0].answers[0];
    assert_eq!((answer.requests.len(), answer.untold), (MOST_TOLD, 5000 - MOST_TOLD));
    assert_eq!(answer.rules[0].did.len(), 1, "what the rule did is told all the same");
    assert_eq!(session.grid().picture(), ["..A"], "5000 steps on three columns");
    assert_eq!(session.last_request().unwrap().to.map(|cell| cell.column), Some(2), "the last request is the last");
    give(&mut session, "alt");
    let told: Vec<&String> = session.signals().collect();
    assert_eq!((told.len(), told.iter().filter(|text| **text == "rare").count()), (MOST_TOLD + 1, 1));
    assert_eq!(session.entries()[1].answers[0].untold, 6);
}

/// On a large board a rule that never ends is found out by how often it acted, not by passes alone.
#[test]
fn settling_that_acts_without_end_never_settles() {
    let mut session = started("map \"M\" 64 x 64 of ada\nrules\n  on key act: set n to 0\n  when ada: add 1 to n\n");
    assert_eq!(session.grid().outcome(), Some(Ended::NeverSettles), "on entering the map");
    give(&mut session, "act");
    let answer = &session.entries()[0].answers[0];
    assert_eq!(
        (answer.turn, answer.feeding.as_slice(), session.grid().counters().next()),
        (None, &[0][..], Some(("n", 0)))
    );
    let cells: usize = answer.settled.iter().map(|settled| settled.matches.len()).sum();
    assert!(cells < 100_000, "{cells} matches are kept");
}

#[test]
fn thousands_of_maps_that_lead_on_at_once_are_entered_one_after_the_other() {
    let mut source = String::new();
    for number in 0..6000 {
        let _ = write!(source, "map \"Map {number}\"\n  A__\n");
    }
    let session = started(&format!("{source}rules\n  on start: next map\n"));
    assert_eq!((session.grid().map(), session.grid().map_title()), (5999, "Map 5999"));
}
