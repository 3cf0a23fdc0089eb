//! The workbench without a terminal: messages in, buffers out, at any size.

use super::action::Message;
use super::board_view::Overlay;
use super::frame;
use super::state::{Page, State};
use super::theme::Theme;
use crate::bench::probe::{self, Ask, Prompt};
use crate::bench::{Bench, pace};
use crate::cli::demo::DEMOS;
use crate::cli::source::Loaded;
use magpie_core::mishap::Target;
use magpie_core::rulebook::read_text;
use magpie_core::space::{Cell, Heading};
use magpie_core::tape::Input;
use proptest::prelude::*;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

fn loaded(source: &str) -> Loaded {
    Loaded { path: "yard.magpie".into(), reading: read_text(source, &|_| Err("none".into())) }
}

fn state(source: &str) -> State {
    State::new(loaded(source))
}

fn drawn(state: &mut State, width: u16, height: u16) -> Buffer {
    let area = Rect::new(0, 0, width, height);
    let mut buffer = Buffer::empty(area);
    let (layout, hits) = frame::render(state, Theme::from_environment(), area, &mut buffer);
    for (rect, _) in hits {
        assert!(rect.right() <= width && rect.bottom() <= height, "{rect:?} lies outside");
    }
    state.layout = layout;
    buffer
}

fn text(buffer: &Buffer) -> String {
    let area = buffer.area;
    let line = |y: u16| (0..area.width).map(|x| buffer[(x, y)].symbol()).collect::<String>();
    (0..area.height).map(line).collect::<Vec<_>>().join("\n")
}

fn press(state: &mut State, words: &str) {
    for word in words.split(' ') {
        state.update(Message::Play(word.parse().unwrap()));
    }
}

fn message() -> impl Strategy<Value = Message> {
    let input = |word: &str| Message::Play(word.parse::<Input>().unwrap());
    let inputs = ["left", "right", "up", "down", "act", "undo", "restart", "next", "tap:1,1", "wait:5"].map(input);
    let others = [
        Message::NextBench,
        Message::Help,
        Message::Close,
        Message::Overlay,
        Message::Back,
        Message::Forth,
        Message::First,
        Message::Last,
        Message::Go(3),
        Message::NextMap,
        Message::Reach,
        Message::Difference,
        Message::Branch,
        Message::Scroll(5),
        Message::Scroll(-3),
        Message::Probe(Ask::Move(10, -10)),
        Message::Probe(Ask::Move(-1, 300)),
        Message::Pace(pace::Ask::Change(1)),
        Message::Pace(pace::Ask::Change(-10)),
        Message::Pace(pace::Ask::Choose(1)),
        Message::Pace(pace::Ask::Cursor(7)),
        Message::Pace(pace::Ask::Rate),
        Message::Pace(pace::Ask::Kind),
        Message::Pace(pace::Ask::Track),
        Message::Pace(pace::Ask::Zoom(true)),
        Message::Pace(pace::Ask::Live),
        Message::Pace(pace::Ask::Turn(pace::Page::Figures)),
        Message::Pace(pace::Ask::Turn(pace::Page::Frames)),
        Message::Pace(pace::Ask::Turn(pace::Page::Sums)),
        Message::Pace(pace::Ask::Turn(pace::Page::Chart)),
        Message::Smooth,
        Message::Probe(Ask::Space),
        Message::Probe(Ask::Press),
        Message::Probe(Ask::Axis),
        Message::Probe(Ask::Choose(1)),
        Message::Probe(Ask::Nudge(1.0)),
        Message::Probe(Ask::Nudge(-10.0)),
        Message::Probe(Ask::Centre),
        Message::Probe(Ask::TakeBack),
        Message::Probe(Ask::EditFormula),
        Message::Probe(Ask::Turn(probe::Page::Points)),
        Message::Probe(Ask::Turn(probe::Page::Strip)),
        Message::Probe(Ask::Turn(probe::Page::Formula)),
        Message::Probe(Ask::Turn(probe::Page::Samples)),
        Message::Probe(Ask::Turn(probe::Page::Numbers)),
        Message::Probe(Ask::Turn(probe::Page::Steps)),
    ];
    prop::sample::select(inputs.into_iter().chain(others).collect::<Vec<_>>())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    #[test]
    fn no_keys_at_no_size_panic_and_drawing_changes_nothing(
        demo in 0..DEMOS.len(),
        messages in prop::collection::vec(message(), 1..40),
        sizes in prop::collection::vec((1u16..220, 1u16..60), 4),
        clicks in prop::collection::vec((0u16..220, 0u16..60), 3),
    ) {
        let mut state = state(DEMOS[demo].rulebook);
        for (number, message) in messages.into_iter().enumerate() {
            state.update(message);
            let (width, height) = sizes[number % sizes.len()];
            let first = drawn(&mut state, width, height);
            prop_assert_eq!(first, drawn(&mut state, width, height));
            let (x, y) = clicks[number % clicks.len()];
            state.press(x, y);
        }
        let picture = state.session.as_ref().unwrap().grid().picture();
        state.reload(loaded(DEMOS[demo].rulebook));
        prop_assert_eq!(state.session.as_ref().unwrap().grid().picture(), picture, "the same rulebook, the same place");
        prop_assert!(state.changed.is_none());
    }
}

#[test]
fn a_click_finds_the_cell_it_looks_like_at_every_size() {
    for (width, height) in [(142, 42), (80, 24), (200, 55)] {
        let mut state = state(DEMOS[0].rulebook);
        state.overlay = Overlay::Index;
        let buffer = drawn(&mut state, width, height);
        // Wherever an index is written, a click there names that index.
        let mut found = 0;
        for y in 0..height {
            for x in 0..width {
                state.cursor = None;
                state.press(x, y);
                let Some(Cell { column, row }) = state.cursor else { continue };
                let index = (row * 10 + column).to_string();
                let line: String = (0..width).map(|x| buffer[(x, y)].symbol()).collect();
                found += usize::from(line.contains(&index));
            }
        }
        assert!(found >= 50, "{width} x {height}: {found}");
    }
}

fn ask(state: &mut State, ask: Ask) {
    state.update(Message::Probe(ask));
    count(state);
}

/// Counts what is to be counted, as the workbench's thread does.
fn count(state: &mut State) {
    let mut told = Vec::new();
    if let Some(job) = state.probe.formula.job() {
        job.run(&mut |counted| told.push(counted));
    }
    told.into_iter().for_each(|counted| state.probe.formula.take(counted));
}

fn type_in(state: &mut State, prompt: Prompt, text: &str) {
    probe::typed(state, prompt, text);
    count(state);
}

/// A demo on a page of the Probe bench.
fn on_page(demo: &str, page: probe::Page) -> State {
    let mut state = state(crate::cli::demo::find(demo).unwrap().rulebook);
    state.update(Message::Bench(1));
    ask(&mut state, Ask::Turn(page));
    state
}

fn shows(state: &mut State, words: &[&str]) -> String {
    let shown = text(&drawn(state, 142, 42));
    for word in words {
        assert!(shown.contains(word), "no `{word}` on\n{shown}");
    }
    shown
}

#[test]
fn the_pointer_goes_where_it_is_sent_and_clicked() {
    let mut state = on_page("cog-loft", probe::Page::Way);
    let at = |state: &State| (probe::world(state).x, probe::world(state).y);
    type_in(&mut state, Prompt::Position, "cell:3,1");
    assert_eq!(at(&state), (140.0, 60.0));
    type_in(&mut state, Prompt::Position, "win:202,80");
    assert_eq!(at(&state), (101.0, 40.0));
    shows(&mut state, &["win 202, 80", "x: design = (202 - 0) / 2 = 101"]);
    for wrong in ["index:50", "px:a,b"] {
        type_in(&mut state, Prompt::Position, wrong);
        assert!(state.note.take().is_some_and(|note| !note.is_empty()), "{wrong}");
    }
    ask(&mut state, Ask::Move(-10, 1));
    assert_eq!(at(&state), (96.0, 40.5), "ten window pixels are five of the world, and nothing moves after a mistake");
    ask(&mut state, Ask::Space);
    ask(&mut state, Ask::Move(-10, 1));
    assert_eq!(at(&state), (86.0, 41.5));
    drawn(&mut state, 142, 42);
    for (x, y) in [(20, 10), (30, 12)] {
        state.press(x, y);
        let cell = state.focus().unwrap();
        let extent = state.session.as_ref().unwrap().grid().board().extent();
        assert!(extent.contains(cell), "{cell:?}");
    }
    let first = probe::world(&state);
    state.drag(44, 12);
    state.release(44, 12);
    assert_eq!(state.probe.pressed, Some(first), "the drag begins where the button went down");
    assert!(probe::dragged(&state).unwrap().len() > 1);
}

#[test]
fn a_formula_is_counted_named_and_shown_where_it_is_wrong() {
    let mut state = on_page("kiosk", probe::Page::Formula);
    shows(&mut state, &["e types the expression"]);
    type_in(&mut state, Prompt::Formula(Target::Column), "int((x - ox) / pitch)");
    let shown = shows(&mut state, &["79200 pixels differ   truncated", "79200 of 960000 pixels differ", "right -1"]);
    assert!(shown.contains('▀'), "a map");
    type_in(&mut state, Prompt::Formula(Target::Row), "floor((oy - y) / picth)");
    shows(&mut state, &["at character 18: `picth` is no name here", "79200 pixels differ"]);
    type_in(&mut state, Prompt::Formula(Target::Row), "floor((oy - y) / pitch)");
    shows(&mut state, &["✓ right at every pixel"]);
    ask(&mut state, Ask::Ints);
    shows(&mut state, &["whole numbers", "118800 pixels differ   truncated"]);
    ask(&mut state, Ask::Ints);
    // The row has been chosen with its expression.
    ask(&mut state, Ask::Choose(-1));
    ask(&mut state, Ask::Clear);
    let shown = shows(&mut state, &["0 of 960000"]);
    assert!(!shown.contains("truncated"), "{shown}");
    // What belongs to older expressions is dropped.
    state.update(Message::Probe(Ask::EditFormula));
    probe::typed(&mut state, Prompt::Formula(Target::Column), "x");
    let old = state.probe.formula.job().unwrap();
    probe::typed(&mut state, Prompt::Formula(Target::Column), "floor((x - ox) / pitch)");
    old.run(&mut |counted| state.probe.formula.take(counted));
    count(&mut state);
    shows(&mut state, &["0 of 960000"]);
}

#[test]
fn numbers_are_nudged_taken_back_and_written() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("kiosk.magpie");
    let source = crate::cli::demo::find("kiosk").unwrap().rulebook;
    std::fs::write(&path, source).unwrap();
    let mut state = State::new(crate::cli::source::load(&path).unwrap());
    state.update(Message::Bench(1));
    ask(&mut state, Ask::Turn(probe::Page::Numbers));
    shows(&mut state, &["the numbers of this grid", "▸ cell", "one design pixel is 0.5 window px"]);
    ask(&mut state, Ask::Nudge(1.0));
    shows(&mut state, &["not written yet", "10 × 6 cells of 91 × 84 px", "is 11 columns and"]);
    assert_eq!(std::fs::read_to_string(&path).unwrap(), source);
    ask(&mut state, Ask::Write);
    assert_eq!(std::fs::read_to_string(&path).unwrap(), source.replace("cell 90 x 84", "cell 91 x 84"));
    ask(&mut state, Ask::TakeBack);
    shows(&mut state, &["10 × 6 cells of 90 × 84 px", "not written yet"]);
    ask(&mut state, Ask::Nudge(-90.0));
    assert!(state.note.take().is_some_and(|note| note.contains("cell")), "a size of 0 is refused");
    ask(&mut state, Ask::Centre);
    shows(&mut state, &["origin centre", "the board is centred"]);
    // The file is saved by an editor: what was nudged can be brought back.
    let nudged = state.source.clone();
    state.reload(loaded(source));
    super::draft::file_changed(&mut state, &nudged);
    shows(&mut state, &["the numbers of this grid"]);
    ask(&mut state, Ask::TakeBack);
    assert_eq!(state.source, nudged);
}

#[test]
fn samples_are_pasted_explained_and_written() {
    let folder = tempfile::tempdir().unwrap();
    let demo = crate::cli::demo::find("kiosk").unwrap();
    let path = folder.path().join("kiosk.magpie");
    std::fs::write(&path, demo.rulebook).unwrap();
    std::fs::write(folder.path().join("kiosk-samples.csv"), demo.files[0].1).unwrap();
    let mut state = State::new(crate::cli::source::load(&path).unwrap());
    state.update(Message::Bench(1));
    ask(&mut state, Ask::Turn(probe::Page::Samples));
    ask(&mut state, Ask::Prompt(Prompt::Load));
    assert_eq!(state.probe.typing.take().unwrap().1.value(), "kiosk-samples.csv");
    type_in(&mut state, Prompt::Load, "kiosk-samples.csv");
    shows(&mut state, &["bar-forgotten", "12 samples", "✗         84, 40"]);
    type_in(&mut state, Prompt::Save, "kiosk-samples.csv");
    assert!(state.note.take().is_some_and(|note| note.contains("is there already")));
    type_in(&mut state, Prompt::Save, "more.csv");
    assert_eq!(std::fs::read_to_string(folder.path().join("more.csv")).unwrap(), demo.files[0].1);
    for _ in 0..12 {
        ask(&mut state, Ask::Clear);
    }
    shows(&mut state, &["What did your program say"]);
    type_in(&mut state, Prompt::Position, "win:60,172");
    type_in(&mut state, Prompt::Expected, "");
    probe::pasted(&mut state, "x=98 y=120 col 2 row 2\nx=134 y=61 col 3 row 4\n");
    shows(&mut state, &["✓ correct", "3 samples", "best next sample"]);
    type_in(&mut state, Prompt::Sample, "1 2 3");
    assert!(state.note.take().is_some_and(|note| note.contains("another sort")));
}

#[test]
fn strips_points_and_steps_say_what_is_uneven() {
    let mut state = on_page("kiosk", probe::Page::Strip);
    shows(&mut state, &["x 0 to 1199: which column", "truncated", "x 1 … 99", "right -1"]);
    ask(&mut state, Ask::Choose(1));
    ask(&mut state, Ask::Axis);
    shows(&mut state, &["y 1 to 800: which row", "rounded"]);
    ask(&mut state, Ask::Turn(probe::Page::Points));
    shows(&mut state, &["nine points of cell 0,0", "60 cells come back", "its gap", "off the board"]);
    type_in(&mut state, Prompt::Position, "cell:0,0");
    ask(&mut state, Ask::Press);
    type_in(&mut state, Prompt::Position, "cell:2,2");
    shows(&mut state, &["press, drag, release", "from 0,0  to 2,2", "0,0 → 1,0 ↑ 1,1 → 2,1 ↑ 2,2"]);
    ask(&mut state, Ask::Turn(probe::Page::Steps));
    type_in(&mut state, Prompt::Step, "200, 90");
    type_in(&mut state, Prompt::Loop, "100 1100 50");
    type_in(&mut state, Prompt::Picture, "96 x 100 at 100,700");
    shows(
        &mut state,
        &["200 px are 2 columns", "no whole number, 100 or 0", "10 visited more than once", "-40 px off"],
    );
    type_in(&mut state, Prompt::Loop, "1 2");
    assert!(state.note.take().is_some_and(|note| note.contains("three numbers")));
    ask(&mut state, Ask::Choose(2));
    ask(&mut state, Ask::Reverse);
    shows(&mut state, &["→ east"]);
}

#[test]
fn the_mouse_is_the_finger_where_rules_are_about_touches() {
    let mut state = state(crate::cli::demo::find("kiosk").unwrap().rulebook);
    drawn(&mut state, 142, 42);
    let book = state.session.as_ref().unwrap().grid().book().clone();
    let extent = state.session.as_ref().unwrap().grid().board().extent();
    let place = |state: &State, wanted: Cell| {
        (0..142 * 42)
            .map(|at| (at % 142, at / 142))
            .find(|(x, y)| state.layout.place_at(&book, extent, *x, *y) == Some(wanted))
    };
    let (ticket, tray, beside) = (Cell::new(3, 2), Cell::new(1, 4), Cell::new(-1, 2));
    let (from, to) = (place(&state, ticket).unwrap(), place(&state, tray).unwrap());
    state.press(from.0, from.1);
    state.release(to.0, to.1);
    let (from, off) = (place(&state, Cell::new(2, 1)).unwrap(), place(&state, beside).unwrap());
    state.press(from.0, from.1);
    state.release(off.0, off.1);
    state.press(from.0, from.1);
    state.release(from.0, from.1);
    let entries = state.session.as_ref().unwrap().entries();
    let inputs: Vec<String> = entries.iter().map(|entry| entry.input.to_string()).collect();
    assert_eq!(inputs, ["drag:3,2>1,4", "drag:2,1>-1,2", "tap:2,1"]);
    shows(&mut state, &["filed 1"]);
}

fn pace_keys(state: &mut State, asks: &[pace::Ask]) {
    asks.iter().for_each(|ask| state.update(Message::Pace(*ask)));
}

#[test]
fn a_pace_that_never_lands_is_named_and_mended_with_what_is_proposed() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("towpath.magpie");
    let source = crate::cli::demo::find("towpath").unwrap().rulebook;
    std::fs::write(&path, source).unwrap();
    let mut state = State::new(crate::cli::source::load(&path).unwrap());
    state.update(Message::Bench(2));
    shows(
        &mut state,
        &["lamplighter on a track, 60 frames a second", "lands exactly, loses nothing", "▸ mode", "timed"],
    );
    use pace::Ask::{Change, Choose, Cursor, Reset, Turn, Write};
    // Per frame, five pixels, tested for equality.
    pace_keys(&mut state, &[Change(1), Change(1), Choose(1), Change(1), Choose(-2), Change(1)]);
    shows(
        &mut state,
        &["never lands: 5 px a frame does not divide 32; 4 or 8 do", "≠ timed", "settings, not written yet"],
    );
    pace_keys(&mut state, &[Choose(2), Change(-1)]);
    shows(&mut state, &["lands exactly, loses nothing", "4 px"]);
    pace_keys(&mut state, &[Turn(pace::Page::Figures)]);
    shows(&mut state, &["30 fps", "jitter", "frames a step", "the rulebook's settings beside the changed ones", "≠ "]);
    pace_keys(&mut state, &[Turn(pace::Page::Sums)]);
    shows(&mut state, &["✓ f64: on the cell after 8 frames"]);
    pace_keys(&mut state, &[Turn(pace::Page::Frames), Cursor(3)]);
    shows(&mut state, &["▸     3"]);
    pace_keys(&mut state, &[Write]);
    assert_eq!(state.note.take().as_deref(), Some("written to towpath.magpie"));
    pace_keys(&mut state, &[Turn(pace::Page::Chart)]);
    let written = std::fs::read_to_string(&path).unwrap();
    assert_eq!(
        written,
        source.replace(
            "timed 180 ms, linear, on arrival carry, while moving remembered, hold continuous",
            "per-frame 4 px, linear, on arrival carry, while moving remembered, hold continuous, test equal"
        )
    );
    shows(&mut state, &["per-frame", "lands exactly"]);
    pace_keys(&mut state, &[Choose(-1), Change(1), Reset]);
    shows(&mut state, &["per-frame"]);
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
            let source = format!(
                "game \"P\"\ncell 32 px\nkinds\n  ada A body\nmap \"M\"\n  A___\ncontrol ada with arrows\npace\n  {clauses}\n"
            );
            let mut state = state(&source);
            state.update(Message::Bench(2));
            // Broken lines come together again.
            let shown = text(&drawn(&mut state, 200, 55));
            shown.split_whitespace().collect::<Vec<_>>().join(" ")
        };
        assert!(run(wrong).contains(words), "{wrong}: {}", run(wrong));
        assert!(run(right).contains("lands exactly, loses nothing"), "{right}: {}", run(right));
    }
}

#[test]
fn scripts_movers_and_the_cell_claimed_are_on_the_board() {
    let mut state = state(crate::cli::demo::find("towpath").unwrap().rulebook);
    state.update(Message::Bench(2));
    pace::typed(&mut state, "0:right+ 300:right- 50:carter.down");
    pace_keys(&mut state, &[pace::Ask::Track, pace::Ask::Cursor(5)]);
    shows(&mut state, &["lamplighter on this map", "50:carter.down"]);
    let ghosts = state.ghosts();
    assert_eq!(ghosts.len(), 2, "both movers are drawn between their cells");
    assert_eq!(ghosts[0].claimed, Some(Cell::new(2, 2)));
    let start = state
        .session
        .as_ref()
        .unwrap()
        .grid()
        .book()
        .geometry
        .centre(state.session.as_ref().unwrap().grid().board().extent(), Cell::new(1, 2));
    assert!(ghosts[0].at.x > start.x && ghosts[0].at.x < start.x + 32.0);
    let before = state.session.as_ref().unwrap().grid().picture();
    pace_keys(&mut state, &[pace::Ask::Cursor(7), pace::Ask::Mark(Heading::North)]);
    shows(&mut state, &["50:carter.down- 200:up+"]);
    pace::typed(&mut state, "0:nowhere");
    assert!(state.note.take().is_some_and(|note| note.contains("no key event")));
    pace::typed(&mut state, "");
    shows(&mut state, &["right held for three steps"]);
    assert_eq!(state.session.as_ref().unwrap().grid().picture(), before, "a run takes back what it does");
}

#[test]
fn live_walking_follows_the_arrows_and_the_clock() {
    let mut state = state(crate::cli::demo::find("towpath").unwrap().rulebook);
    state.update(Message::Bench(2));
    pace_keys(&mut state, &[pace::Ask::Live]);
    let walk = |state: &mut State, key: Heading, down: bool| state.pace.live.as_mut().unwrap().key(key, down, true);
    state.tick(10.0);
    walk(&mut state, Heading::East, true);
    state.tick(100.0);
    let at = state.ghosts()[0].at.x;
    state.tick(160.0);
    assert!(state.ghosts()[0].at.x > at, "it walks on");
    state.tick(400.0);
    walk(&mut state, Heading::East, false);
    state.tick(900.0);
    assert_eq!(state.ghosts()[0].claimed, Some(Cell::new(4, 2)), "the bollard stops it");
    shows(&mut state, &["steps 3", "presses 1"]);
    state.update(Message::Close);
    assert!(state.pace.live.is_none() && !state.is_moving());
}

#[test]
fn a_turn_is_drawn_on_its_way_and_a_refused_one_leans_and_turns() {
    let mut state = state(DEMOS[0].rulebook);
    state.smooth = true;
    press(&mut state, "up");
    state.tick(100.0);
    let ghost = state.ghosts()[0];
    assert_eq!(ghost.hides, Some(Cell::new(2, 1)));
    assert!(ghost.at.y < 100.0 && ghost.at.y > 60.0, "{ghost:?}");
    state.tick(251.0);
    assert!(state.ghosts().is_empty() && !state.is_moving());
    press(&mut state, "up");
    state.tick(330.0);
    let leaning = state.ghosts()[0].at.y;
    assert!(leaning < 60.0 && leaning > 40.0, "towards the pillar, not into it: {leaning}");
    assert!(text(&drawn(&mut state, 142, 42)).contains('↑'), "it looks where it asked to go");
    state.tick(500.0);
    assert!(!state.is_moving());
    // A cog that is shoved goes with the apprentice.
    press(&mut state, "restart right");
    assert_eq!(state.ghosts().len(), 2);
    state.update(Message::Smooth);
    press(&mut state, "up");
    assert!(state.ghosts().is_empty());
}

#[test]
fn a_reload_marks_the_first_input_that_changes_and_mistakes_keep_the_game() {
    let source = DEMOS[0].rulebook;
    let mut state = state(source);
    press(&mut state, "up down right right up right");
    state.reload(loaded(&source.replace("apprentice into hole: stop", "apprentice into hole: pass")));
    assert_eq!(state.changed.as_ref().map(|changed| changed.entry), Some(5));
    state.update(Message::Difference);
    let shown = text(&drawn(&mut state, 142, 42));
    assert!(shown.contains("before the edit") && shown.contains("hole at 5,1: stop") && shown.contains("≠"), "{shown}");
    assert_eq!(state.page, Some(Page::Difference));
    state.reload(loaded("game"));
    let shown = text(&drawn(&mut state, 142, 42));
    assert!(shown.contains("mistakes in yard.magpie") && shown.contains("First loft"), "{shown}");
    assert_eq!(state.session.as_ref().unwrap().position(), 6);
    state.reload(loaded(source));
    assert!(state.mistakes.is_empty());
}

#[test]
fn a_branch_is_kept_when_play_goes_on_from_an_earlier_input() {
    let mut state = state(DEMOS[0].rulebook);
    press(&mut state, "up right down");
    state.update(Message::Go(1));
    press(&mut state, "down left");
    let inputs = |state: &State| {
        let entries = state.session.as_ref().unwrap().entries();
        entries.iter().map(|entry| entry.input.to_string()).collect::<Vec<_>>().join(" ")
    };
    assert_eq!(inputs(&state), "up down left");
    state.update(Message::Branch);
    assert_eq!(inputs(&state), "up right down");
    state.update(Message::Branch);
    assert_eq!(inputs(&state), "up down left");
    // The same input again is no other branch.
    state.update(Message::Go(1));
    press(&mut state, "down");
    assert_eq!(inputs(&state), "up down left");
    assert_eq!(state.session.as_ref().unwrap().branches().len(), 1);
}

#[test]
fn names_from_a_file_never_reach_the_screen_with_control_characters() {
    let source = DEMOS[0].rulebook.replace("game \"Cog Loft\"", "game \"Cog \u{9b}31m Loft\"");
    let mut state = state(&source);
    let shown = text(&drawn(&mut state, 142, 42));
    assert!(!shown.chars().any(|c| c.is_control() && c != '\n'), "{shown:?}");
    assert_eq!(state.mistakes.len(), 1);
}

#[test]
fn a_board_of_four_million_cells_draws_only_what_is_seen() {
    let source = "game \"Wide\"\ncell 8 px\nkinds\n  plank . floor\n  keeper K body\nground plank\nmap \"Wide\" 2048 x 2048 of plank\n\
                  control keeper with arrows\nrules\n  on start: place keeper at column 1024 row 1024\n";
    let mut wide = state(source);
    press(&mut wide, "right down");
    let small = state(&source.replace("2048 x 2048", "200 x 200").replace("1024", "100"));
    let cost = |mut state: State| {
        let start = std::time::Instant::now();
        for _ in 0..20 {
            drawn(&mut state, 142, 42);
        }
        start.elapsed()
    };
    assert!(text(&drawn(&mut wide, 142, 42)).contains("keeper at 1025,1025"));
    // The same pane full of cells costs the same; ten times leaves room for a busy machine.
    let (small, wide) = (cost(small), cost(wide));
    assert!(wide < small * 10, "{wide:?} against {small:?}");
}

#[test]
fn benches_turn_round_and_tabs_are_clickable() {
    let mut state = state(DEMOS[0].rulebook);
    let area = Rect::new(0, 0, 142, 42);
    let mut buffer = Buffer::empty(area);
    let (_, hits) = frame::render(&state, Theme::from_environment(), area, &mut buffer);
    assert_eq!(hits.iter().filter(|(_, message)| matches!(message, Message::Bench(_))).count(), Bench::ALL.len());
    state.update(Message::NextBench);
    assert_eq!(state.bench, Bench::Probe);
    state.update(Message::NextBench);
    assert_eq!(state.bench, Bench::Pace);
    state.update(Message::NextBench);
    assert_eq!(state.bench, Bench::Rules);
    state.update(Message::NextBench);
    assert_eq!(state.bench, Bench::Play);
    state.update(Message::LastBench);
    assert_eq!(state.bench, Bench::Rules);
}

#[test]
fn reach_shows_what_can_be_entered_what_cannot_and_gaps_at_corners() {
    let source = "game \"Gap\"\ncell 8 px\nkinds\n  plank . floor\n  keeper K body\n  crate c body\n  wall # body\nground plank\nmap \"Gap\"\n  \
                  K.#.\n  .#..\n  ..c.\ncontrol keeper with arrows\nrules\n  keeper into crate: shove\n";
    let mut state = state(source);
    state.update(Message::Reach);
    let reach = state.reach.as_ref().unwrap();
    let count = |flags: &[bool]| flags.iter().filter(|flag| **flag).count();
    assert_eq!((count(&reach.reached), count(&reach.lost), reach.gaps), (5, 4, 1), "beside the crate and the corner");
    let shown = text(&drawn(&mut state, 142, 42));
    assert_eq!(shown.matches('×').count(), 4 + 3, "four marks, two in the title's sizes, one in words:\n{shown}");
    press(&mut state, "down");
    assert!(state.reach.is_some(), "it is worked out anew after every input");
    state.update(Message::Close);
    assert!(state.reach.is_none());
}

#[test]
fn time_becomes_waits_on_the_tape_and_keys_come_between() {
    let source = "game \"Drip\"\ncell 8 px\nkinds\n  man M body\n  drop o body\nmap \"M\"\n  M____\n  o____\ncontrol man with arrows\ntimer drip 400 ms\n\
                  rules\n  each drip: step drop east\n";
    let mut state = state(source);
    let tape = |state: &State| {
        let entries = state.session.as_ref().unwrap().entries();
        entries.iter().map(|entry| entry.input.to_string()).collect::<Vec<_>>().join(" ")
    };
    state.tick(1000.0);
    assert_eq!(tape(&state), "", "the clock stands until it is let run");
    shows(&mut state, &["clock stands, p lets it run"]);
    state.update(Message::Pause);
    let frame = std::time::Duration::from_millis(33);
    assert_eq!(state.sleep(frame), Some(std::time::Duration::from_millis(400)));
    state.tick(1250.0);
    press(&mut state, "right");
    state.tick(1500.0);
    assert_eq!(tape(&state), "wait:250 right wait:150");
    state.update(Message::Speed(1));
    shows(&mut state, &["▶ ×2"]);
    state.tick(1900.0);
    assert_eq!(tape(&state), "wait:250 right wait:150 wait:400 wait:400");
    state.update(Message::Pause);
    state.tick(9000.0);
    state.update(Message::ClockStep);
    assert_eq!(state.session.as_ref().unwrap().clock(), 1600);
    assert_eq!(state.session.as_ref().unwrap().grid().picture(), [" M___".replace(' ', "_"), "____o".into()]);
    press(&mut state, "undo");
    assert_eq!(state.session.as_ref().unwrap().clock(), 1200);
}

const PLASTER: &str = "game \"Wall\"\ncell 10 px\nlayers course, face\nkinds\n  mortar . course\n  plaster p face\n  damp d face\n  \
                       brick # face\nground mortar\nmap \"One\"\n  ppppppp\n  pp#pppp\nrules\n  on key act: flood from column 0 row 0 into damp\n  \
                       on tap plaster: choose tapped\n";

#[test]
fn a_flood_spreads_ring_by_ring_on_the_screen_alone() {
    let mut state = state(PLASTER);
    let glyphs = |state: &mut State| {
        let shown = text(&drawn(state, 142, 42));
        (shown.matches("plaster").count(), shown.matches("damp").count())
    };
    let (all, _) = glyphs(&mut state);
    assert_eq!(all, 13);
    press(&mut state, "act");
    assert_eq!(glyphs(&mut state).1, 13, "without smooth steps it is shown at once");
    press(&mut state, "undo");
    state.smooth = true;
    state.tick(1000.0);
    press(&mut state, "act");
    assert!(state.is_moving());
    let mut seen = Vec::new();
    for step in 0..12 {
        state.tick(1000.0 + f64::from(step) * 55.0);
        seen.push(glyphs(&mut state).1);
    }
    assert_eq!(seen[0], 1, "the first ring is the cell itself");
    assert!(seen.windows(2).all(|pair| pair[0] <= pair[1]) && seen[3] < 13, "{seen:?}");
    assert_eq!((seen.last(), state.is_moving()), (Some(&13), false));
    press(&mut state, "undo");
    state.update(Message::Speed(1));
    press(&mut state, "act");
    state.tick(2000.0);
    let slow = seen[2];
    state.tick(2000.0 + 55.0);
    assert!(glyphs(&mut state).1 >= slow, "twice as fast");
}

#[test]
fn the_rims_count_a_kind_on_demand() {
    let mut state = state(PLASTER);
    state.update(Message::Count);
    let shown = text(&drawn(&mut state, 142, 42));
    assert!(shown.contains("rims count plaster"), "{shown}");
    assert!(shown.contains("the rims count plaster: 13 on the map"), "{shown}");
    state.update(Message::Count);
    assert!(text(&drawn(&mut state, 142, 42)).contains("rims count brick"));
    state.update(Message::Count);
    assert!(!text(&drawn(&mut state, 142, 42)).contains("rims count"));
}
