use super::{Ask, Page, Probe, Prompt};
use crate::bench::tests::{Stand, unpacked};
use crate::bench::{Bench, Effect};
use crate::desk::board::Finger;
use crate::yard;
use crossterm::event::{KeyCode, KeyModifiers};
use magpie_core::mishap::Target;
use magpie_core::space::Cell;
use proptest::prelude::*;

/// A demo on a page of the bench.
fn on_page(demo: &str, page: Page) -> Stand<Probe> {
    let mut stand = Stand::demo(demo);
    stand.ask(Ask::Turn(page));
    stand
}

fn type_in(stand: &mut Stand<Probe>, prompt: Prompt, words: &str) {
    stand.type_in(Ask::Prompt(prompt), words);
}

fn at(stand: &Stand<Probe>) -> (f64, f64) {
    let point = stand.bench.world(&stand.desk);
    (point.x, point.y)
}

/// What is wrong with the line that was not taken.
fn refused(stand: &mut Stand<Probe>) -> String {
    let shown = stand.shown();
    assert!(stand.bench.typing.is_some(), "a refused line stays to be mended");
    stand.key(KeyCode::Esc, KeyModifiers::NONE);
    shown
}

#[test]
fn the_pointer_goes_where_it_is_sent_and_clicked() {
    let mut stand = on_page("cog-loft", Page::Way);
    type_in(&mut stand, Prompt::Position, "cell:3,1");
    assert_eq!(at(&stand), (140.0, 60.0));
    type_in(&mut stand, Prompt::Position, "win:202,80");
    assert_eq!(at(&stand), (101.0, 40.0));
    stand.shows(&["win 202, 80", "x: design = (202 - 0) / 2 = 101"]);
    for (wrong, why) in [("index:50", "outside the flat array"), ("px:a,b", "no number")] {
        type_in(&mut stand, Prompt::Position, wrong);
        let shown = refused(&mut stand);
        assert!(shown.contains(wrong) && shown.contains("✗") && shown.contains(why), "{shown}");
    }
    stand.ask(Ask::Move(-10, 1));
    assert_eq!(at(&stand), (96.0, 40.5), "ten window pixels are five of the world, and nothing moves after a mistake");
    stand.ask(Ask::Space).ask(Ask::Move(-10, 1));
    assert_eq!(at(&stand), (86.0, 41.5));
    let inside = |column: i64, row: i64| Some((Cell::new(column, row), (0.25, 0.5)));
    stand.finger(Finger::Down { inside: inside(2, 1), place: None });
    assert_eq!(stand.bench.marks(&stand.desk).focus, Some(Cell::new(2, 1)));
    let first = stand.bench.world(&stand.desk);
    stand.finger(Finger::Moved { inside: inside(5, 2) });
    stand.finger(Finger::Up { place: None });
    assert_eq!(stand.bench.pressed, Some(first), "the drag begins where the button went down");
    assert!(stand.bench.dragged(&stand.desk).unwrap().len() > 1);
}

#[test]
fn a_refused_line_is_mended_and_taken() {
    let mut stand = on_page("cog-loft", Page::Way);
    type_in(&mut stand, Prompt::Position, "cell:3;1");
    let wrong = stand.shows(&["cell:3;1"]).matches('✗').count();
    stand.key(KeyCode::Backspace, KeyModifiers::NONE);
    assert_eq!(stand.shown().matches('✗').count(), wrong - 1, "what was wrong is not said of the changed line");
    stand.key(KeyCode::Backspace, KeyModifiers::NONE);
    stand.paste(",2\n");
    stand.key(KeyCode::Enter, KeyModifiers::NONE);
    assert_eq!((at(&stand), stand.bench.typing.is_none()), ((140.0, 100.0), true));
}

#[test]
fn a_formula_is_counted_named_and_shown_where_it_is_wrong() {
    let mut stand = on_page("kiosk", Page::Formula);
    stand.shows(&["The usual ones of this grid", "floor((oy - y - hy) / (h + gy))", "✓", "0 of 960000 pixels differ"]);
    type_in(&mut stand, Prompt::Formula(Target::Column), "int((x - ox) / pitch)");
    let shown = stand.shows(&["79200 pixels differ   truncated", "79200 of 960000 pixels differ", "right -1"]);
    assert!(shown.contains('▀'), "a map");
    type_in(&mut stand, Prompt::Formula(Target::Row), "floor((oy - y) / picth)");
    stand.shows(&["at character 18: `picth` is no name here", "79200 pixels differ"]);
    type_in(&mut stand, Prompt::Formula(Target::Row), "floor((oy - y) / pitch)");
    let shown = stand.shows(&["floor((oy - y) / pitch)"]);
    assert!(!shown.contains("is no name here"), "{shown}");
    stand.ask(Ask::Ints).shows(&["whole numbers", "118800 pixels differ   truncated"]);
    // The row has been chosen with its expression.
    stand.ask(Ask::Ints).ask(Ask::Choose(-1)).ask(Ask::Clear);
    let shown = stand.shows(&["0 of 960000"]);
    assert!(!shown.contains("truncated"), "{shown}");
    // What belongs to older expressions is dropped.
    stand.bench.formula.write(Target::Column, "x");
    let Effect::Work(old) = stand.bench.count(&stand.desk) else { panic!("there is something to count") };
    type_in(&mut stand, Prompt::Formula(Target::Column), "floor((x - ox) / pitch)");
    let mut late = Vec::new();
    old(&mut |told| late.push(told));
    late.into_iter().for_each(|told| {
        stand.ask(told);
    });
    stand.shows(&["0 of 960000"]);
}

#[test]
fn numbers_are_nudged_taken_back_and_written() {
    let (_folder, path) = unpacked(yard::find("kiosk").unwrap());
    let source = std::fs::read_to_string(&path).unwrap();
    let file = || std::fs::read_to_string(&path).unwrap();
    let mut stand = Stand::<Probe>::file(&path);
    stand.ask(Ask::Turn(Page::Numbers)).shows(&[
        "the numbers of this grid",
        "▸ cell",
        "one design pixel is 0.5 window",
    ]);
    stand.ask(Ask::Nudge(1.0)).shows(&["not written yet", "is 11 columns and"]);
    let size = |stand: &Stand<Probe>| stand.desk.game.book().unwrap().geometry.size;
    assert_eq!((size(&stand), file()), ((91.0, 84.0), source.clone()));
    stand.ask(Ask::Write);
    assert_eq!(file(), source.replace("cell 90 x 84", "cell 91 x 84"));
    assert_eq!(stand.desk.text.unwritten(), [""; 0]);
    stand.ask(Ask::TakeBack).shows(&["not written yet"]);
    assert_eq!(size(&stand), (90.0, 84.0));
    assert!(stand.ask(Ask::Nudge(-90.0)).note().contains("cell"), "a size of 0 is refused");
    stand.ask(Ask::Centre).shows(&["origin centre", "the board is centred"]);
    // The file is saved by an editor: what was nudged can be brought back.
    let nudged = stand.desk.text.source().to_owned();
    stand.desk.file_changed(source.as_bytes().to_vec());
    stand.tell();
    stand.shows(&["the numbers of this grid"]);
    stand.ask(Ask::TakeBack);
    assert_eq!(stand.desk.text.source(), nudged);
    stand.ask(Ask::TakeBack);
    assert_eq!(stand.desk.text.source(), source);
    assert_eq!(stand.ask(Ask::TakeBack).note(), "no number has been changed");
}

#[test]
fn samples_are_pasted_explained_and_written() {
    let demo = yard::find("kiosk").unwrap();
    let (folder, path) = unpacked(demo);
    let mut stand = Stand::<Probe>::file(&path);
    stand.ask(Ask::Turn(Page::Samples)).ask(Ask::Prompt(Prompt::Load));
    stand.shows(&["read samples from kiosk-samples.csv"]);
    stand.key(KeyCode::Enter, KeyModifiers::NONE);
    stand.shows(&["bar-forgotten", "12 samples", "✗         84, 40"]);
    type_in(&mut stand, Prompt::Save, "kiosk-samples.csv");
    assert!(refused(&mut stand).contains("is there already"));
    type_in(&mut stand, Prompt::Save, "more.csv");
    assert_eq!(std::fs::read_to_string(folder.path().join("more.csv")).unwrap(), demo.files[0].1);
    for _ in 0..12 {
        stand.ask(Ask::Clear);
    }
    stand.shows(&["What did your program say"]);
    type_in(&mut stand, Prompt::Position, "win:60,172");
    type_in(&mut stand, Prompt::Expected, "");
    stand.paste("x=98 y=120 col 2 row 2\r\nx=134 y=61 col 3 row 4\r\n");
    stand.shows(&["✓ correct", "3 samples", "best next sample"]);
    type_in(&mut stand, Prompt::Sample, "150 20 3");
    assert!(refused(&mut stand).contains("another sort"));
}

/// Until there is something of one's own, the page of samples shows a file's or an example, and never takes it for the list.
#[test]
fn samples_and_steps_begin_with_something_to_look_at() {
    let (folder, path) = unpacked(yard::find("kiosk").unwrap());
    let mut stand = Stand::<Probe>::file(&path);
    stand.ask(Ask::Turn(Page::Samples));
    stand.shows(&["What did your program say", "lies `kiosk-samples.csv`; f reads", "bar-forgotten", "12 samples"]);
    type_in(&mut stand, Prompt::Sample, "98 120 -> 2 2");
    let page = stand.shows(&["✓ correct", "1 sample"]);
    assert!(!page.contains("f reads it") && !page.contains("12 samples"), "{page}");
    std::fs::write(folder.path().join("kiosk-samples.csv"), "nothing\n").unwrap();
    stand.ask(Ask::Clear).ask(Ask::Turn(Page::Steps)).ask(Ask::Turn(Page::Samples));
    stand.shows(&["lies `kiosk-samples.csv`; f reads", "✗ there are no samples"]);

    let mut stand = on_page("cog-loft", Page::Samples);
    stand.shows(&["For example, a program that rounds:", "✗ round", "4 samples"]);
    stand.ask(Ask::Turn(Page::Steps));
    stand.shows(&["a step of one cell; s types yours", "a loop over this board's columns", "columns visited once"]);
    let page = stand.shows(&["a picture with this board's grid"]);
    assert!(!page.contains('✗'), "{page}");
}

#[test]
fn strips_points_and_steps_say_what_is_uneven() {
    let mut stand = on_page("kiosk", Page::Strip);
    stand.shows(&["x 0 to 1199: which column", "truncated", "x 1 … 99", "right -1"]);
    stand.ask(Ask::Choose(1)).ask(Ask::Axis).shows(&["y 1 to 800: which row", "rounded"]);
    stand.ask(Ask::Turn(Page::Points));
    stand.shows(&["nine points of cell 0,0", "60 cells come back", "its gap", "off the board"]);
    type_in(&mut stand, Prompt::Position, "cell:0,0");
    stand.ask(Ask::Press);
    type_in(&mut stand, Prompt::Position, "cell:2,2");
    stand.shows(&["press, drag, release", "from 0,0  to 2,2", "0,0 → 1,0 ↑ 1,1 → 2,1 ↑ 2,2"]);
    stand.ask(Ask::Turn(Page::Steps));
    type_in(&mut stand, Prompt::Step, "200, 90");
    type_in(&mut stand, Prompt::Loop, "100 1100 50");
    type_in(&mut stand, Prompt::Picture, "96 x 100 at 100,700");
    stand.shows(&["200 px are 2 columns", "no whole number, 0 or 100", "10 visited more than once", "-40 px off"]);
    type_in(&mut stand, Prompt::Loop, "1 2");
    assert!(refused(&mut stand).contains("three numbers"));
    stand.ask(Ask::Choose(2)).ask(Ask::Reverse).shows(&["→ east"]);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 80, ..ProptestConfig::default() })]

    /// Whatever is typed into whichever line: it is taken and the line is gone, or it stays and says why; nothing panics, and
    /// Esc leaves everything as it was.
    #[test]
    fn any_typed_line_is_taken_or_said_to_be_wrong(
        demo in prop::sample::select(vec!["cog-loft", "kiosk", "towpath"]),
        prompt in prop::sample::select(vec![
            Prompt::Position, Prompt::Formula(Target::Column), Prompt::Formula(Target::Row), Prompt::Expected, Prompt::Sample,
            Prompt::Step, Prompt::Loop, Prompt::Picture,
        ]),
        words in prop_oneof![
            "[-0-9., a-z:*/()]{0,24}",
            "(px|win|cell|index):-?[0-9]{1,6}(\\.[0-9]{1,4})?,?-?[0-9]{0,4}",
            "floor\\(\\(x - ox\\) / [a-z]{1,5}\\)",
            "-?[0-9]{1,4} -?[0-9]{1,4} -?[0-9]{1,3}",
        ],
    ) {
        let mut stand = Stand::<Probe>::demo(demo);
        stand.ask(Ask::Prompt(prompt));
        if stand.bench.typing.is_none() {
            // A page without what is asked about says so instead.
            prop_assert!(stand.desk.note.is_some());
            return Ok(());
        }
        let before = stand.bench.world(&stand.desk);
        stand.key(KeyCode::Char('u'), KeyModifiers::CONTROL);
        for character in words.chars() {
            prop_assert!(stand.key(KeyCode::Char(character), KeyModifiers::NONE));
        }
        stand.key(KeyCode::Enter, KeyModifiers::NONE);
        if stand.bench.typing.is_some() {
            let shown = stand.shown();
            prop_assert!(shown.contains('✗'), "`{}` is not taken, and nobody says why:\n{}", words, shown);
            prop_assert_eq!(stand.bench.world(&stand.desk), before);
            stand.key(KeyCode::Esc, KeyModifiers::NONE);
        }
        prop_assert!(stand.bench.typing.is_none());
        stand.shown();
    }
}

/// Positions of a kind with a hotspot of its own are asked about with that; the key goes round all of them.
#[test]
fn the_hotspot_of_a_kind_counts_when_it_is_chosen() {
    let source = "game \"H\"\ncell 20 px\nhotspot 0, 0 px\nkinds\n  keeper K body, hotspot 10, 0 px\n  crate c body\n  pole p body, hotspot 0, 10 px\n\
                  map \"M\"\n  Kcp\n  ___\ncontrol keeper with arrows\n";
    let mut stand = Stand::<Probe>::new(source);
    type_in(&mut stand, Prompt::Position, "px:15,15");
    let cell = |stand: &Stand<Probe>| stand.bench.cell(&stand.desk).map(|cell| (cell.column, cell.row));
    let mut seen = vec![cell(&stand)];
    for _ in 0..3 {
        stand.ask(Ask::NextKind);
        seen.push(cell(&stand));
    }
    assert_eq!(seen, [Some((0, 0)), Some((1, 0)), Some((0, 1)), Some((0, 0))]);
    assert!(stand.note().contains("the hotspot of the rulebook counts: 0, 0 px"));
}
