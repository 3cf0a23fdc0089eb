use super::{Ask, Play};
use crate::bench::Bench;
use crate::bench::tests::Stand;
use crate::desk::board::Finger;
use crate::words::turn::{self as told, Detail};
use magpie_core::input::{Input, Key};
use magpie_core::space::Cell;
use std::time::Duration;

fn ghosts(stand: &Stand<Play>) -> Vec<crate::desk::board::Ghost> {
    stand.bench.marks(&stand.desk).ghosts
}

#[test]
fn the_mouse_is_the_finger_where_rules_are_about_touches() {
    let mut stand = Stand::<Play>::demo("kiosk");
    let inside = |cell: Cell| Some((cell, (0.5, 0.5)));
    let (ticket, tray, beside) = (Cell::new(3, 2), Cell::new(1, 4), Cell::new(-1, 2));
    stand.finger(Finger::Down { inside: inside(ticket), place: Some(ticket) });
    stand.finger(Finger::Moved { inside: inside(tray) });
    assert_eq!((stand.desk.picture.finger, stand.desk.picture.finger_at), (Some(ticket), Some(tray)));
    stand.finger(Finger::Up { place: Some(tray) });
    assert_eq!(stand.tape(), "drag:3,2>1,4");
    stand.finger(Finger::Down { inside: None, place: Some(beside) });
    stand.finger(Finger::Up { place: Some(beside) });
    assert_eq!(stand.tape(), "drag:3,2>1,4 tap:-1,2", "beside the board is a touch too");
    stand.finger(Finger::Down { inside: inside(tray), place: Some(tray) });
    stand.finger(Finger::Up { place: None });
    assert_eq!(stand.desk.picture.finger, None, "lifted off the pane nothing is touched");
    assert_eq!(stand.tape(), "drag:3,2>1,4 tap:-1,2");
}

#[test]
fn a_turn_is_drawn_on_its_way_and_a_refused_one_leans() {
    let mut stand = Stand::<Play>::demo("cog-loft");
    stand.desk.time.smooth = true;
    stand.play("up");
    stand.desk.tick(100.0);
    let ghost = ghosts(&stand)[0];
    assert_eq!(ghost.hides, Some(Cell::new(2, 1)));
    assert!(ghost.at.y < 100.0 && ghost.at.y > 60.0, "{ghost:?}");
    stand.desk.tick(251.0);
    assert!(ghosts(&stand).is_empty() && !stand.desk.is_moving());
    stand.play("up");
    stand.desk.tick(330.0);
    let leaning = ghosts(&stand)[0].at.y;
    assert!(leaning < 60.0 && leaning > 40.0, "towards the pillar, not into it: {leaning}");
    stand.desk.tick(500.0);
    assert!(!stand.desk.is_moving());
    // A cog that is shoved goes with the apprentice.
    stand.play("restart right");
    assert_eq!(ghosts(&stand).len(), 2);
    stand.ask(Ask::Smooth).play("up");
    assert!(ghosts(&stand).is_empty());
}

/// A keeper in the middle of an empty room, whose steps take 100 ms.
fn paced(clauses: &str) -> Stand<Play> {
    let mut stand = Stand::<Play>::new(&format!(
        "game \"Keys\"\ncell 8 px\nkinds\n  keeper K body\nmap \"M\"\n  _____\n  __K__\n  _____\ncontrol keeper with arrows\npace\n  \
         timed 100 ms, {clauses}\n"
    ));
    stand.desk.time.smooth = true;
    stand
}

/// Presses keys at their times, in ms; a `-` behind one lets it go.
fn at(stand: &mut Stand<Play>, keys: &[(f64, &str)]) -> String {
    for (clock, key) in keys {
        stand.desk.tick(*clock);
        match key.strip_suffix('-') {
            Some(key) => stand.desk.release(&Input::Key(Key(key.into()))),
            None if key.is_empty() => {}
            None => stand.desk.press(&Input::Key(Key((*key).into())), false),
        }
    }
    stand.tape()
}

#[test]
fn a_key_pressed_on_the_way_is_dealt_with_as_the_pace_says_and_told() {
    let told = |stand: &Stand<Play>| stand.desk.time.keys.told().unwrap_or_default().to_owned();
    for (clauses, tape, words) in [
        ("while moving ignored", "right", "up is ignored: keeper is on its way"),
        ("while moving remembered", "right up", "down is dropped: up waits in its place"),
        ("while moving queued 1", "right down", "up is dropped: 1 wait already"),
    ] {
        let mut stand = paced(clauses);
        at(&mut stand, &[(0.0, "right"), (40.0, "down"), (60.0, "up")]);
        assert!(told(&stand).starts_with(words), "{clauses}: {}", told(&stand));
        assert_eq!(at(&mut stand, &[(120.0, ""), (240.0, ""), (360.0, "")]), tape, "{clauses}");
        assert!(!stand.desk.is_moving());
        assert!(told(&stand).starts_with(words), "what is lost stays told until the next press: {}", told(&stand));
        at(&mut stand, &[(400.0, "down")]);
        assert_eq!(told(&stand), "");
    }
    let mut waits = paced("while moving queued 2");
    at(&mut waits, &[(0.0, "right"), (40.0, "down")]);
    assert_eq!(told(&waits), "down waits as 1 of 2 (`while moving queued`, v plays at once)");
    at(&mut waits, &[(120.0, "")]);
    assert_eq!(told(&waits), "", "it is played");
    at(&mut waits, &[(130.0, "up"), (140.0, "left")]);
    waits.ask(Ask::Smooth);
    assert_eq!(told(&waits), "dropped, though waiting: up left");
    let mut obeyed = paced("while moving obeyed");
    assert_eq!(at(&mut obeyed, &[(0.0, "right"), (50.0, "up")]), "right up");
    assert!(told(&obeyed).contains("is given up for up"));
    assert_eq!(ghosts(&obeyed)[0].at.x, 24.0, "it goes on from where it was drawn");
    // `v` plays at once, and what waits is forgotten.
    let mut at_once = paced("while moving ignored");
    at(&mut at_once, &[(0.0, "right")]);
    at_once.ask(Ask::Smooth);
    assert_eq!(at(&mut at_once, &[(10.0, "up"), (20.0, "left")]), "right up left");
}

#[test]
fn a_key_that_stays_down_goes_on_as_the_pace_says() {
    let held = |clauses: &str, keys: &[(f64, &str)]| at(&mut paced(clauses), keys);
    let keys = [(0.0, "up"), (20.0, "up-"), (200.0, "right"), (310.0, ""), (420.0, ""), (450.0, "right-"), (600.0, "")];
    assert_eq!(held("hold continuous", &keys), "up right right", "the third is not asked: it would be refused");
    assert_eq!(held("hold off", &keys), "up right");
    assert_eq!(held("hold repeat after 105 ms every 500 ms", &keys), "up right right");
    assert_eq!(held("hold latched", &keys[..4]), "up right right");
    let never_let_go = [(0.0, "right"), (120.0, ""), (240.0, "")];
    assert_eq!(held("hold continuous", &never_let_go), "right", "where no releases are told a press is a tap");
}

#[test]
fn a_refused_press_leans_as_long_as_the_pace_says() {
    let mut stiff = paced("while moving ignored");
    assert_eq!(
        at(&mut stiff, &[(0.0, "up"), (150.0, "up"), (151.0, "down")]),
        "up up down",
        "refused, and no time taken"
    );
    let mut leaning = paced("while moving ignored, lean 80 ms");
    assert_eq!(at(&mut leaning, &[(0.0, "up"), (150.0, "up"), (190.0, "down")]), "up up");
    assert_eq!(ghosts(&leaning)[0].at.y, 4.0 - 2.0, "a quarter of the way");
    assert_eq!(at(&mut leaning, &[(240.0, "down")]), "up up down");
}

#[test]
fn reach_shows_what_can_be_entered_what_cannot_and_gaps_at_corners() {
    let source = "game \"Gap\"\ncell 8 px\nkinds\n  plank . floor\n  keeper K body\n  crate c body\n  wall # body\nground plank\nmap \"Gap\"\n  \
                  K.#.\n  .#..\n  ..c.\ncontrol keeper with arrows\nrules\n  keeper into crate: shove\n";
    let mut stand = Stand::<Play>::new(source);
    stand.ask(Ask::Reach);
    let reach = stand.desk.game.reach.as_ref().unwrap();
    let count = |flags: &[bool]| flags.iter().filter(|flag| **flag).count();
    assert_eq!((count(&reach.reached), count(&reach.lost), reach.gaps), (5, 4, 1), "beside the crate and the corner");
    stand.shows(&["5 cells can be entered now", "4 cells marked × stand open", "1 of them touch"]);
    stand.play("down");
    assert!(stand.desk.game.reach.is_some(), "it is worked out anew after every input");
}

#[test]
fn time_becomes_waits_on_the_tape_and_keys_come_between() {
    let source = "game \"Drip\"\ncell 8 px\nkinds\n  man M body\n  drop o body\nmap \"M\"\n  M____\n  o____\ncontrol man with arrows\ntimer drip 400 ms\n\
                  rules\n  each drip: step drop east\n";
    let mut stand = Stand::<Play>::new(source);
    stand.desk.tick(1000.0);
    assert_eq!(stand.tape(), "", "the clock stands until it is let run");
    stand.ask(Ask::Pause);
    assert_eq!(stand.desk.sleep(Duration::from_millis(33)), Some(Duration::from_millis(400)));
    stand.desk.tick(1250.0);
    stand.play("right");
    stand.desk.tick(1500.0);
    assert_eq!(stand.tape(), "wait:250 right wait:150");
    stand.ask(Ask::Speed(1));
    stand.desk.tick(1900.0);
    assert_eq!(stand.tape(), "wait:250 right wait:150 wait:400 wait:400");
    stand.ask(Ask::Pause);
    stand.desk.tick(9000.0);
    stand.ask(Ask::ClockStep);
    let clock = |stand: &Stand<Play>| stand.desk.game.session.as_ref().unwrap().clock();
    assert_eq!(clock(&stand), 1600);
    assert_eq!(stand.picture(), ["_M___", "____o"]);
    stand.play("undo");
    assert_eq!(clock(&stand), 1200);
    let still = Stand::<Play>::demo("cog-loft").ask(Ask::Pause).note();
    assert_eq!(still, "nothing happens by itself in this game");
}

#[test]
fn time_stands_where_another_bench_is_in_front() {
    let mut stand = Stand::<Play>::demo("hoists");
    stand.ask(Ask::Pause);
    assert!(stand.desk.time_runs());
    stand.desk.time.played = false;
    assert!(!stand.desk.time_runs());
}

#[test]
fn a_branch_is_kept_when_play_goes_on_from_an_earlier_input() {
    let mut stand = Stand::<Play>::demo("cog-loft");
    stand.play("up right down");
    stand.desk.go(|_| 1);
    stand.play("down left");
    assert_eq!(stand.tape(), "up down left");
    stand.desk.branch();
    assert_eq!(stand.tape(), "up right down");
    stand.desk.branch();
    assert_eq!(stand.tape(), "up down left");
    // The same input again is no other branch.
    stand.desk.go(|_| 1);
    stand.play("down");
    assert_eq!(stand.tape(), "up down left");
    assert_eq!(stand.desk.game.session.as_ref().unwrap().branches().len(), 1);
}

#[test]
fn the_rims_count_a_kind_on_demand() {
    let mut stand = Stand::<Play>::demo("damp-wall");
    let counted = |stand: &Stand<Play>| {
        let book = stand.desk.game.book().unwrap();
        stand.desk.picture.counted.map(|kind| book.kind(kind).name.clone())
    };
    let note = stand.ask(Ask::Count).note();
    let name = counted(&stand).unwrap();
    assert!(note.starts_with(&format!("the rims count {name}: ")), "{note}");
    for _ in 0..20 {
        stand.ask(Ask::Count);
        if counted(&stand).is_none() {
            assert_eq!(stand.note(), "the rims show columns and rows");
            return;
        }
    }
    panic!("behind the last kind nothing is counted");
}

/// The same turn, told by the bench, the command line, the tape's sign and the story sheet: all draw from one report.
#[test]
fn a_turn_reads_the_same_on_every_surface() {
    let source = "game \"Loft\"\ncell 10 px\nkinds\n  slat . floor\n  hole o floor\n  man M body\n  cog c body\n  wall # body\nground slat\n\
                  map \"One\"\n  Mcoc#\ncontrol man with arrows\nrules\n  man into cog if filled > 3: take\n  man into cog: shove, add 1 to shoves\n  \
                  when cog on hole: remove cog, turn hole into slat, add 1 to filled\n  on key act: step wall east, step hole west, place cog at \
                  column 4 row 0\n";
    let mut stand = Stand::<Play>::new(source);
    let told = |stand: &Stand<Play>, wanted: &[&str], line: &[&str], refused: bool| {
        let page = stand.shows(wanted);
        let session = stand.desk.game.session.as_ref().unwrap();
        let (book, extent) = (session.grid().book(), session.grid().board().extent());
        let entry = session.played().last().unwrap();
        let answer = entry.answers.last().unwrap();
        for detail in [Detail::Checks, Detail::Everything] {
            let lines = told::report(answer, book, extent, detail);
            let texts: Vec<&str> = lines.iter().map(|line| line.text.trim()).collect();
            assert!(
                wanted.iter().all(|wanted| texts.iter().any(|text| text.contains(wanted))),
                "{detail:?}: {texts:?}"
            );
        }
        let story = crate::words::entry(entry, book, extent);
        assert!(line.iter().all(|part| story.contains(part)), "{story}");
        assert_eq!(entry.is_refused, refused, "{page}");
    };
    stand.play("right");
    told(
        &stand,
        &[
            "filled > 3: 0 > 3 does not hold",
            "cog at 1,0: shove",
            "added 1 to shoves: 0 to 1",
            "turned hole at 2,0 into slat",
        ],
        &["cog at 1,0: shove (line 15)", "added 1 to shoves", "1 match: 1 gone, 1 turned"],
        false,
    );
    stand.play("act");
    let refused = ["refused to step hole: nobody", "refused to place cog at 4,0: its layer is taken by wall"];
    told(&stand, &[&refused[..], &["wall at 4,0 asks east"]].concat(), &refused, true);
}
