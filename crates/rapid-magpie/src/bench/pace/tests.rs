use super::{Ask, Pace, Page};
use crate::bench::probe::{self, Probe};
use crate::bench::tests::{Stand, unpacked};
use crate::bench::{Bench, News};
use crate::yard;
use crossterm::event::{KeyCode, KeyModifiers};
use magpie_core::space::{Cell, Heading};

/// Asks one thing after another.
fn ask(stand: &mut Stand<Pace>, asks: &[Ask]) {
    asks.iter().for_each(|one| {
        stand.ask(*one);
    });
}

const TIMED: &str = "timed 180 ms, linear, on arrival carry, while moving remembered, hold continuous";

#[test]
fn a_pace_that_never_lands_is_named_and_mended_with_what_is_proposed() {
    use Ask::{Change, Choose, Cursor, Reset, Turn, Write};
    let (_folder, path) = unpacked(yard::find("towpath").unwrap());
    let source = std::fs::read_to_string(&path).unwrap();
    let mut stand = Stand::<Pace>::file(&path);
    stand.shows(&["lamplighter on a track, 60 frames a second", "lands exactly, loses nothing", "▸ mode", "timed"]);
    // Per frame, five pixels, tested for equality.
    ask(&mut stand, &[Change(1), Change(1), Choose(1), Change(1), Choose(-2), Change(1)]);
    stand.shows(&["never lands: 5 px a frame", "does not divide 32; 4 or 8", "≠ timed", "settings, not written yet"]);
    ask(&mut stand, &[Choose(2), Change(-1)]);
    stand.shows(&["lands exactly, loses nothing", "4 px"]);
    ask(&mut stand, &[Turn(Page::Figures)]);
    stand.shows(&["30 fps", "jitter", "frames a step", "the rulebook's settings beside the changed ones", "≠ "]);
    ask(&mut stand, &[Turn(Page::Sums)]);
    stand.shows(&["✓ f64: on the cell after 8 frames"]);
    ask(&mut stand, &[Turn(Page::Frames), Cursor(3)]);
    stand.shows(&["▸     3"]);
    ask(&mut stand, &[Write]);
    assert_eq!(stand.note(), "written to towpath.magpie");
    ask(&mut stand, &[Turn(Page::Chart)]);
    let per_frame = TIMED.replace("timed 180 ms", "per-frame 4 px") + ", test equal";
    assert_eq!(std::fs::read_to_string(&path).unwrap(), source.replace(TIMED, &per_frame));
    stand.shows(&["per-frame", "lands exactly"]);
    ask(&mut stand, &[Choose(-1), Change(1), Reset]);
    stand.shows(&["per-frame"]);
}

#[test]
fn writing_a_pace_writes_no_other_benchs_changes() {
    let (_folder, path) = unpacked(yard::find("towpath").unwrap());
    let source = std::fs::read_to_string(&path).unwrap();
    let mut stand = Stand::<Pace>::file(&path);
    let mut probe = Probe::default();
    probe.news(&mut stand.desk, News::Entered);
    probe.ask(&mut stand.desk, probe::Ask::Turn(probe::Page::Numbers));
    probe.ask(&mut stand.desk, probe::Ask::Nudge(1.0));
    assert_eq!(stand.desk.text.unwritten(), [Probe::TITLE]);
    let nudged = stand.desk.text.source().to_owned();
    ask(&mut stand, &[Ask::Choose(1), Ask::Change(1), Ask::Write]);
    let paced = source.replace("timed 180 ms", "timed 190 ms");
    assert_eq!(std::fs::read_to_string(&path).unwrap(), paced);
    assert_eq!(stand.desk.text.source(), nudged.replace("timed 180 ms", "timed 190 ms"), "both are on the screen");
    assert_eq!(stand.desk.text.unwritten(), [Probe::TITLE]);
    probe.ask(&mut stand.desk, probe::Ask::TakeBack);
    assert_eq!(stand.desk.text.source(), paced);
}

/// Each classic mistake by one setting, and the words that name it; the setting back, and nothing is wrong.
#[test]
fn every_classic_mistake_of_motion_is_one_setting_away() {
    let base = "timed 200 ms, hold continuous";
    let table = [
        ("per-frame 4 px, hold continuous", "per-frame 5 px, hold continuous, test equal", "never lands"),
        (
            "per-frame 5 px, hold continuous, on arrival carry",
            "per-frame 5 px, hold continuous, on arrival drift",
            "past the middle of its cell",
        ),
        (base, "timed 200 ms, hold continuous, while moving obeyed", "given up under way"),
        ("instant", "instant, hold every frame", "a step at every frame"),
        (base, "timed 200 ms, hold continuous, axis diagonal", "along both axes"),
        (
            "per-frame 0.125 cells, hold continuous, test equal",
            "per-frame 0.1 cells, hold continuous, test equal",
            "added frame after frame",
        ),
    ];
    for (right, wrong, words) in table {
        let run = |clauses: &str| {
            let head =
                "game \"P\"\ncell 32 px\nkinds\n  ada A body\nmap \"M\"\n  A___\ncontrol ada with arrows\npace\n";
            // Broken lines come together again.
            let shown = Stand::<Pace>::new(&format!("{head}  {clauses}\n")).shown();
            shown.split_whitespace().collect::<Vec<_>>().join(" ")
        };
        assert!(run(wrong).contains(words), "{wrong}: {}", run(wrong));
        assert!(run(right).contains("lands exactly, loses nothing"), "{right}: {}", run(right));
    }
}

#[test]
fn scripts_movers_and_the_cell_claimed_are_on_the_board() {
    let mut stand = Stand::<Pace>::demo("towpath");
    stand.type_in(Ask::Script, "0:right+ 300:right- 50:carter.down");
    ask(&mut stand, &[Ask::Track, Ask::Cursor(5)]);
    stand.shows(&["lamplighter on this map", "50:carter.down"]);
    let ghosts = stand.bench.marks(&stand.desk).ghosts;
    assert_eq!(ghosts.len(), 2, "both movers are drawn between their cells");
    assert_eq!(ghosts[0].claimed, Some(Cell::new(2, 2)));
    let extent = stand.desk.game.extent().unwrap();
    let start = stand.desk.game.book().unwrap().geometry.centre(extent, Cell::new(1, 2));
    assert!(ghosts[0].at.x > start.x && ghosts[0].at.x < start.x + 32.0);
    let before = stand.picture();
    ask(&mut stand, &[Ask::Cursor(7), Ask::Mark(Heading::North)]);
    stand.shows(&["50:carter.down- 200:up+"]);
    stand.type_in(Ask::Script, "0:nowhere");
    stand.shows(&["0:nowhere", "✗", "no key event"]);
    stand.key(KeyCode::Char('u'), KeyModifiers::CONTROL);
    stand.key(KeyCode::Enter, KeyModifiers::NONE);
    stand.shows(&["right held for three steps"]);
    assert_eq!(stand.picture(), before, "a run takes back what it does");
}

#[test]
fn live_walking_follows_the_arrows_and_the_clock() {
    let mut stand = Stand::<Pace>::demo("towpath");
    stand.ask(Ask::Live);
    let tick = |stand: &mut Stand<Pace>, clock: f64| {
        stand.desk.tick(clock);
        stand.bench.tick(&mut stand.desk);
    };
    let walk = |stand: &mut Stand<Pace>, down: bool| {
        stand.bench.live.as_mut().unwrap().key(Heading::East, down, true);
    };
    let ghost = |stand: &Stand<Pace>| stand.bench.marks(&stand.desk).ghosts[0];
    tick(&mut stand, 10.0);
    walk(&mut stand, true);
    tick(&mut stand, 100.0);
    let at = ghost(&stand).at.x;
    tick(&mut stand, 160.0);
    assert!(ghost(&stand).at.x > at, "it walks on");
    tick(&mut stand, 400.0);
    walk(&mut stand, false);
    tick(&mut stand, 900.0);
    assert_eq!(ghost(&stand).claimed, Some(Cell::new(4, 2)), "the bollard stops it");
    stand.shows(&["steps 3", "presses 1"]);
    assert!(stand.bench.is_live() && stand.bench.close(&mut stand.desk) && !stand.bench.is_live());
}
