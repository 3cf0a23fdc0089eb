//! The frame without a terminal: keys and clicks in, buffers out, at any size.

use super::frame::{Ask, Frame, Message, Page};
use crate::bench::Which;
use crate::bench::tests::{loaded, text, unpacked};
use crate::desk::board::Overlay;
use crate::files::load;
use crate::ui::theme::Theme;
use crate::yard::DEMOS;
use crossterm::event::{
    Event, KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind, MouseEventKind::Down,
};
use magpie_core::space::Cell;
use proptest::prelude::*;
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

fn frame(source: &str) -> Frame {
    Frame::new(loaded(source), source.as_bytes().to_vec(), Theme::from_environment())
}

fn drawn(frame: &mut Frame, width: u16, height: u16) -> Buffer {
    let area = Rect::new(0, 0, width, height);
    let mut buffer = Buffer::empty(area);
    frame.render(area, &mut buffer);
    for (rect, message) in frame.hits() {
        assert!(rect.right() <= width && rect.bottom() <= height, "{rect:?} of {message:?} lies outside");
    }
    buffer
}

fn shown(frame: &mut Frame) -> String {
    text(&drawn(frame, 142, 42))
}

fn press(frame: &mut Frame, code: KeyCode, modifiers: KeyModifiers) {
    frame.event(&Event::Key(KeyEvent::new(code, modifiers)));
}

/// Presses keys: arrows, and characters.
fn keys(frame: &mut Frame, words: &str) {
    for word in words.split(' ') {
        let code = match word {
            "left" => KeyCode::Left,
            "right" => KeyCode::Right,
            "up" => KeyCode::Up,
            "down" => KeyCode::Down,
            "act" => KeyCode::Char(' '),
            word => KeyCode::Char(word.chars().next().unwrap()),
        };
        press(frame, code, KeyModifiers::NONE);
    }
}

fn mouse(frame: &mut Frame, kind: MouseEventKind, column: u16, row: u16) {
    frame.event(&Event::Mouse(MouseEvent { kind, column, row, modifiers: KeyModifiers::NONE }));
}

fn position(frame: &Frame) -> usize {
    frame.desk.game.session.as_ref().unwrap().position()
}

/// Any key on any bench: whatever is open gets it.
fn any_key() -> impl Strategy<Value = (KeyCode, KeyModifiers)> {
    let fixed = [
        KeyCode::Left,
        KeyCode::Right,
        KeyCode::Up,
        KeyCode::Down,
        KeyCode::Enter,
        KeyCode::Esc,
        KeyCode::Tab,
        KeyCode::BackTab,
        KeyCode::Backspace,
        KeyCode::Delete,
        KeyCode::Home,
        KeyCode::End,
        KeyCode::PageUp,
        KeyCode::PageDown,
    ];
    let modifiers =
        [KeyModifiers::NONE, KeyModifiers::NONE, KeyModifiers::SHIFT, KeyModifiers::CONTROL, KeyModifiers::ALT];
    let code = prop_oneof![prop::sample::select(fixed.to_vec()), prop::char::range(' ', '~').prop_map(KeyCode::Char)];
    (code, prop::sample::select(modifiers.to_vec()))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    #[test]
    fn no_keys_at_no_size_panic_and_drawing_changes_nothing(
        demo in 0..DEMOS.len(),
        bench in 0..Which::ALL.len(),
        pressed in prop::collection::vec(any_key(), 1..60),
        sizes in prop::collection::vec((1u16..220, 1u16..60), 4),
        clicks in prop::collection::vec((0u16..220, 0u16..60), 3),
    ) {
        let (_folder, path) = unpacked(&DEMOS[demo]);
        let bytes = std::fs::read(&path).unwrap();
        let mut frame = Frame::new(load(&path).unwrap(), bytes, Theme::from_environment());
        frame.update(Message::Frame(Ask::Bench(Which::ALL[bench])));
        for (number, (code, modifiers)) in pressed.into_iter().enumerate() {
            press(&mut frame, code, modifiers);
            frame.tick(number as f64 * 40.0);
            // What a thread would do is left undone: its bench has to live with that.
            frame.take_orders();
            let (width, height) = sizes[number % sizes.len()];
            let first = drawn(&mut frame, width, height);
            prop_assert_eq!(first, drawn(&mut frame, width, height));
            let (x, y) = clicks[number % clicks.len()];
            mouse(&mut frame, Down(MouseButton::Left), x, y);
            mouse(&mut frame, MouseEventKind::Drag(MouseButton::Left), y, x);
            mouse(&mut frame, MouseEventKind::Up(MouseButton::Left), y, x);
        }
        // The text that is on the screen, read again, is the same place in the game.
        if frame.desk.game.aside.is_some() {
            frame.desk.back_to_game();
        }
        let (picture, at) = (frame.desk.game.grid().unwrap().picture(), position(&frame));
        if frame.desk.text.mistakes.is_empty() {
            let source = frame.desk.text.source().to_owned();
            frame.desk.file_changed(b"game".to_vec());
            frame.desk.file_changed(source.into_bytes());
            frame.tell();
            prop_assert_eq!((frame.desk.game.grid().unwrap().picture(), position(&frame)), (picture, at));
            prop_assert!(frame.desk.game.changed.is_none());
        }
    }
}

#[test]
fn a_click_finds_the_cell_it_looks_like_at_every_size() {
    for (width, height) in [(142, 42), (80, 24), (200, 55)] {
        let mut frame = frame(DEMOS[0].rulebook);
        frame.desk.picture.overlay = Overlay::Index;
        let buffer = drawn(&mut frame, width, height);
        // Wherever an index is written, a click there names that index.
        let mut found = 0;
        for (x, y) in (0..height).flat_map(|y| (0..width).map(move |x| (x, y))) {
            frame.desk.picture.cursor = None;
            if frame.hits().iter().any(|(rect, _)| rect.contains((x, y).into())) {
                continue;
            }
            mouse(&mut frame, Down(MouseButton::Left), x, y);
            let Some(Cell { column, row }) = frame.desk.picture.cursor else { continue };
            let index = (row * 10 + column).to_string();
            let line: String = (0..width).map(|x| buffer[(x, y)].symbol()).collect();
            found += usize::from(line.contains(&index));
        }
        assert!(found >= 50, "{width} x {height}: {found}");
    }
}

#[test]
fn a_reload_marks_the_first_input_that_changes_and_mistakes_keep_the_game() {
    let source = DEMOS[0].rulebook;
    let mut frame = frame(source);
    keys(&mut frame, "up down right right up right");
    let change = |frame: &mut Frame, text: &str| {
        frame.desk.file_changed(text.as_bytes().to_vec());
        frame.tell();
    };
    change(&mut frame, &source.replace("apprentice into hole: stop", "apprentice into hole: pass"));
    assert_eq!(frame.desk.game.changed.as_ref().map(|changed| changed.entry), Some(5));
    keys(&mut frame, "d");
    let page = shown(&mut frame);
    assert!(page.contains("before the edit") && page.contains("hole at 5,1: stop") && page.contains("≠"), "{page}");
    assert_eq!(frame.page, Some(Page::Difference));
    change(&mut frame, "game");
    let page = shown(&mut frame);
    assert!(page.contains("mistakes in yard.magpie") && page.contains("First loft"), "{page}");
    assert_eq!(position(&frame), 6);
    change(&mut frame, source);
    assert!(frame.desk.text.mistakes.is_empty() && !frame.is_covered());
}

#[test]
fn what_is_not_saved_stands_in_the_title_on_every_bench() {
    let (_folder, path) = unpacked(&DEMOS[0]);
    let bytes = std::fs::read(&path).unwrap();
    let mut frame = Frame::new(load(&path).unwrap(), bytes, Theme::from_environment());
    let at = |frame: &mut Frame, which| frame.update(Message::Frame(Ask::Bench(which)));
    at(&mut frame, Which::Pace);
    keys(&mut frame, "right");
    for which in Which::ALL {
        at(&mut frame, *which);
        let page = shown(&mut frame);
        assert!(page.contains("not saved yet: changes of Pace"), "{page}");
    }
    at(&mut frame, Which::Pace);
    keys(&mut frame, "w");
    assert!(!shown(&mut frame).contains("not saved yet"));
}

#[test]
fn names_from_a_file_never_reach_the_screen_with_control_characters() {
    let source = DEMOS[0].rulebook.replace("game \"Cog Loft\"", "game \"Cog \u{9b}31m Loft\"");
    let mut frame = frame(&source);
    let page = shown(&mut frame);
    assert!(!page.chars().any(|c| c.is_control() && c != '\n'), "{page:?}");
    assert_eq!(frame.desk.text.mistakes.len(), 1);
}

#[test]
fn a_board_of_four_million_cells_draws_only_what_is_seen() {
    let source = "game \"Wide\"\ncell 8 px\nkinds\n  plank . floor\n  keeper K body\nground plank\nmap \"Wide\" 2048 x 2048 of plank\n\
                  control keeper with arrows\nrules\n  on start: place keeper at column 1024 row 1024\n";
    let mut wide = frame(source);
    keys(&mut wide, "right down");
    let small = frame(&source.replace("2048 x 2048", "200 x 200").replace("1024", "100"));
    let cost = |mut frame: Frame| {
        let start = std::time::Instant::now();
        for _ in 0..20 {
            drawn(&mut frame, 142, 42);
        }
        start.elapsed()
    };
    assert!(shown(&mut wide).contains("keeper at 1025,1025"));
    // The same pane full of cells costs the same; ten times leaves room for a busy machine.
    let (small, wide) = (cost(small), cost(wide));
    assert!(wide < small * 10, "{wide:?} against {small:?}");
}

#[test]
fn benches_turn_round_and_tabs_are_clickable() {
    let mut frame = frame(DEMOS[0].rulebook);
    drawn(&mut frame, 142, 42);
    let tab = |message: &Message| matches!(message, Message::Frame(Ask::Bench(_)));
    let tabs: Vec<Rect> = frame.hits().iter().filter(|(_, message)| tab(message)).map(|(rect, _)| *rect).collect();
    assert_eq!(tabs.len(), Which::ALL.len());
    for (number, rect) in tabs.into_iter().enumerate().rev() {
        mouse(&mut frame, Down(MouseButton::Left), rect.x, rect.y);
        assert_eq!(frame.front, Which::ALL[number]);
    }
    for number in 1..=Which::ALL.len() {
        press(&mut frame, KeyCode::Tab, KeyModifiers::NONE);
        assert_eq!(frame.front, Which::ALL[number % Which::ALL.len()]);
    }
    press(&mut frame, KeyCode::BackTab, KeyModifiers::SHIFT);
    assert_eq!(Some(&frame.front), Which::ALL.last());
}

const PLASTER: &str = "game \"Wall\"\ncell 10 px\nlayers course, face\nkinds\n  mortar . course\n  plaster p face\n  damp d face\n  \
                       brick # face\nground mortar\nmap \"One\"\n  ppppppp\n  pp#pppp\nrules\n  on key act: flood from column 0 row 0 into damp\n  \
                       on tap plaster: choose tapped\n";

#[test]
fn a_flood_spreads_ring_by_ring_on_the_screen_alone() {
    let mut frame = frame(PLASTER);
    let damp = |frame: &mut Frame| shown(frame).matches("damp").count();
    assert_eq!(shown(&mut frame).matches("plaster").count(), 13);
    keys(&mut frame, "act");
    assert_eq!(damp(&mut frame), 13, "without smooth steps it is shown at once");
    keys(&mut frame, "u");
    frame.desk.time.smooth = true;
    frame.tick(1000.0);
    keys(&mut frame, "act");
    let mut seen = Vec::new();
    for step in 0..12 {
        frame.tick(1000.0 + f64::from(step) * 55.0);
        seen.push(damp(&mut frame));
    }
    assert_eq!(seen[0], 1, "the first ring is the cell itself");
    assert!(seen.windows(2).all(|pair| pair[0] <= pair[1]) && seen[3] < 13, "{seen:?}");
    assert_eq!((seen.last(), frame.sleep(std::time::Duration::ZERO)), (Some(&13), None), "and then nothing moves");
}

/// Clicks on the timeline press a key, let it go and take the press out; one on the chart reads that frame off.
#[test]
fn the_timeline_of_keys_is_edited_with_the_mouse() {
    let mut frame = frame(crate::yard::find("towpath").unwrap().rulebook);
    frame.update(Message::Frame(Ask::Bench(Which::Pace)));
    let at = |buffer: &Buffer, sign: &str| {
        let cells = (0..buffer.area.height).flat_map(|y| (0..buffer.area.width).map(move |x| (x, y)));
        let in_bench = cells.filter(|(x, y)| *x > 60 && buffer[(*x, *y)].symbol() == sign);
        in_bench.collect::<Vec<_>>()
    };
    let script = |frame: &mut Frame| {
        let shown = shown(frame);
        shown.lines().find_map(|line| line.split_once("keys: ")).unwrap().1.trim_end_matches(['│', ' ']).to_owned()
    };
    let click = |frame: &mut Frame, (x, y): (u16, u16)| mouse(frame, Down(MouseButton::Left), x, y);
    keys(&mut frame, "t");
    assert_eq!(script(&mut frame), "0:right+ 700:right-");
    let presses = at(&drawn(&mut frame, 142, 42), "▼");
    let [(x, y)] = presses[..] else { panic!("{presses:?}") };
    click(&mut frame, (x + 10, y));
    let shorter = script(&mut frame);
    assert!(shorter.starts_with("0:right+ ") && shorter != "0:right+ 700:right-", "let go earlier: {shorter}");
    let presses = at(&drawn(&mut frame, 142, 42), "▼");
    assert_eq!(presses, [(x, y)], "the line stays where it is");
    click(&mut frame, (x + 45, y));
    assert_eq!(script(&mut frame).matches("right+").count(), 2, "pressed again");
    let presses = at(&drawn(&mut frame, 142, 42), "▼");
    assert_eq!(presses.len(), 2, "{}", shown(&mut frame));
    click(&mut frame, presses[1]);
    assert_eq!(script(&mut frame), shorter, "and that press taken out");
    click(&mut frame, presses[0]);
    assert_eq!((script(&mut frame), frame.desk.note.as_deref().is_some()), (shorter, true), "the only one stays");
    // The other keys have lines of their own.
    click(&mut frame, (x + 20, y + 1));
    assert_eq!(script(&mut frame).matches('+').count(), 2);
    let before = shown(&mut frame);
    click(&mut frame, (x + 25, y - 6));
    assert_ne!(shown(&mut frame), before, "the cursor goes there");
}

#[test]
fn keys_of_a_question_come_before_all_others_and_a_page_before_the_bench() {
    let mut frame = frame(DEMOS[0].rulebook);
    keys(&mut frame, "?");
    assert!(shown(&mut frame).contains("undo"));
    keys(&mut frame, "right");
    assert_eq!(position(&frame), 0, "the page of keys has the arrows");
    press(&mut frame, KeyCode::Esc, KeyModifiers::NONE);
    keys(&mut frame, "right");
    assert_eq!((position(&frame), frame.page), (1, None));
}

/// The panes on a screen: rectangles of border characters.
fn panes(buffer: &Buffer) -> Vec<Rect> {
    let symbol = |x: u16, y: u16| buffer[(x, y)].symbol();
    let area = buffer.area;
    let mut found = Vec::new();
    for (y, x) in (0..area.height).flat_map(|y| (0..area.width).map(move |x| (y, x))) {
        if symbol(x, y) != "┌" {
            continue;
        }
        let right = (x + 1..area.width).find(|right| symbol(*right, y) == "┐");
        let bottom = (y + 1..area.height).find(|bottom| symbol(x, *bottom) == "└");
        if let (Some(right), Some(bottom)) = (right, bottom)
            && (x + 1..right).all(|x| symbol(x, y) != "┌")
            && right - x > 20
        {
            found.push(Rect::new(x, y, right - x + 1, bottom - y + 1));
        }
    }
    found
}

/// Every page of every bench of every demo, with a history, at every size: no text runs over the border of its pane, none
/// into the margin that benches keep for the bar that shows where one is; what is too long wraps or ends in an ellipsis, for nothing else can write (see
/// `tests/house.rs`).
#[test]
fn no_text_runs_out_of_its_pane_at_any_size() {
    let history = "right down act left up right right down left j act up right , . o";
    for demo in DEMOS {
        let mut frame = frame(demo.rulebook);
        keys(&mut frame, history);
        for which in Which::ALL {
            frame.update(Message::Frame(Ask::Bench(*which)));
            for page in ["1", "2", "3", "4", "5", "6", "7", "?"] {
                keys(&mut frame, page);
                for (width, height) in [(80, 24), (100, 30), (142, 42), (200, 55), (300, 80)] {
                    let buffer = drawn(&mut frame, width, height);
                    let at = format!("{} {} {page} at {width}x{height}", demo.name, which.title());
                    let panes = panes(&buffer);
                    assert!(panes.len() >= 2, "{at}: {} panes\n{}", panes.len(), text(&buffer));
                    // The board has no margins; it stands first.
                    for (number, pane) in panes.iter().enumerate() {
                        for y in pane.y + 1..pane.bottom() - 1 {
                            for x in [pane.x, pane.right() - 1] {
                                assert_eq!(buffer[(x, y)].symbol(), "│", "{at}: over a border\n{}", text(&buffer));
                            }
                            if number > 0 {
                                let margin = buffer[(pane.right() - 2, y)].symbol();
                                assert!([" ", "█", "║"].contains(&margin), "{at}: into the margin\n{}", text(&buffer));
                            }
                        }
                    }
                }
                if page == "?" {
                    press(&mut frame, KeyCode::Esc, KeyModifiers::NONE);
                }
            }
        }
    }
}

#[test]
fn leaving_with_something_unsaved_is_asked_for_twice() {
    let leaves =
        |frame: &mut Frame| frame.take_orders().iter().any(|order| matches!(order, super::frame::Order::Leave));
    let mut frame = frame(DEMOS[0].rulebook);
    keys(&mut frame, "q");
    assert!(leaves(&mut frame), "nothing is unsaved");
    // Typed into the text, and typing ended.
    frame.update(Message::Frame(Ask::Bench(Which::Rules)));
    keys(&mut frame, "i x");
    press(&mut frame, KeyCode::Esc, KeyModifiers::NONE);
    keys(&mut frame, "q");
    assert!(!leaves(&mut frame) && shown(&mut frame).contains("not saved yet: changes of Rules. q again leaves"));
    keys(&mut frame, "up q");
    assert!(!leaves(&mut frame), "another key in between begins anew");
    keys(&mut frame, "q");
    assert!(leaves(&mut frame));
}
