//! The workbench without a terminal: messages in, buffers out, at any size.

use super::action::Message;
use super::board_view::Overlay;
use super::frame;
use super::state::{Page, State};
use super::theme::Theme;
use crate::bench::{Bench, probe};
use crate::cli::demo::DEMOS;
use crate::cli::source::Loaded;
use magpie_core::rulebook::read_text;
use magpie_core::space::Cell;
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
        Message::Pointer(10, -10),
        Message::Pointer(-1, 300),
        Message::AskPosition,
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
            state.click(x, y);
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
                state.click(x, y);
                let Some(Cell { column, row }) = state.cursor else { continue };
                let index = (row * 10 + column).to_string();
                let line: String = (0..width).map(|x| buffer[(x, y)].symbol()).collect();
                found += usize::from(line.contains(&index));
            }
        }
        assert!(found >= 50, "{width} x {height}: {found}");
    }
}

#[test]
fn the_pointer_goes_where_it_is_sent_and_clicked() {
    let mut state = state(DEMOS[0].rulebook);
    state.update(Message::Bench(1));
    probe::go_to(&mut state, "cell:3,1").unwrap();
    assert_eq!((state.pointer.x, state.pointer.y), (140.0, 60.0));
    probe::go_to(&mut state, "win:202,80").unwrap();
    assert_eq!((state.pointer.x, state.pointer.y), (101.0, 40.0));
    assert!(probe::go_to(&mut state, "index:50").is_err() && probe::go_to(&mut state, "px:a,b").is_err());
    state.update(Message::Pointer(-10, 1));
    assert_eq!((state.pointer.x, state.pointer.y), (91.0, 41.0), "nothing moves after a mistake");
    drawn(&mut state, 142, 42);
    for (x, y) in [(20, 10), (30, 12)] {
        state.click(x, y);
        let cell = state.focus().unwrap();
        let extent = state.session.as_ref().unwrap().grid().board().extent();
        assert!(extent.contains(cell), "{cell:?}");
    }
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
    assert_eq!(state.bench, Bench::Play);
    state.update(Message::LastBench);
    assert_eq!(state.bench, Bench::Probe);
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
