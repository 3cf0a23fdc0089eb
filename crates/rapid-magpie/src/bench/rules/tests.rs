use super::{Ask, Page, Rules};
use crate::bench::pace::{self, Pace};
use crate::bench::tests::Stand;
use crate::bench::{Bench, News};
use crate::ui::theme::Theme;
use crossterm::event::{KeyCode, KeyModifiers};
use magpie_core::rulebook::meetings::{Entered, verbs_for};
use ratatui::buffer::{Buffer, Cell};
use ratatui::layout::Rect;
use std::path::PathBuf;

const YARD: &str = "game \"Y\"\ncell 8 px\nkinds\n  keeper K body\n  crate c body\n  hedge h body\nmap \"M\"\n  _Kch\n\
                    control keeper with arrows\nrules\n  keeper into crate: shove\n";

/// The bench on a file of its own.
fn on_file(text: &str) -> (tempfile::TempDir, PathBuf, Stand<Rules>) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("yard.magpie");
    std::fs::write(&path, text).unwrap();
    let stand = Stand::file(&path);
    (folder, path, stand)
}

fn file(path: &PathBuf) -> String {
    std::fs::read_to_string(path).unwrap()
}

/// Lets the keeper answer another verb where it enters the crate.
fn verb(stand: &mut Stand<Rules>, word: &str) {
    stand.ask(Ask::Turn(Page::Meetings)).ask(Ask::Cell(0, 1));
    if stand.bench.table.choosing.is_none() {
        stand.ask(Ask::Verb);
    }
    let book = stand.desk.game.book().unwrap();
    let kind = |name| book.kind_of_name(name).unwrap();
    let verbs = verbs_for(book, kind("keeper"), Entered::Kind(kind("crate")));
    let at = verbs.iter().position(|verb| *verb == word).unwrap();
    stand.ask(Ask::Pick(at));
    assert!(stand.note().contains("U takes back"));
}

/// What is chosen with Shift is set off as a whole, coloured words too, and goes away at a key.
#[test]
fn chosen_text_is_set_off_and_taken_away() {
    let (_folder, _path, mut stand) = on_file(YARD);
    stand.ask(Ask::Type);
    stand.key(KeyCode::Home, KeyModifiers::CONTROL);
    stand.key(KeyCode::End, KeyModifiers::SHIFT);
    let theme = Theme::from_environment();
    let area = Rect::new(0, 0, 62, 38);
    let mut buffer = Buffer::empty(area);
    stand.bench.render(&stand.desk, theme, area, &mut buffer);
    let set_off: String = (0..area.width * 4)
        .map(|at| &buffer[(at % area.width, at / area.width)])
        .filter(|cell| cell.style().patch(theme.chosen()) == cell.style())
        .map(Cell::symbol)
        .collect();
    assert!(set_off.contains("game \"Y\""), "`{set_off}` is set off");
    stand.key(KeyCode::Backspace, KeyModifiers::NONE);
    assert!(!stand.shows(&["cell 8 px"]).contains("game \"Y\""));
}

#[test]
fn typed_text_is_played_when_it_is_saved_and_its_line_ends_stay() {
    for ends in ["\n", "\r\n"] {
        let (_folder, path, mut stand) = on_file(&YARD.replace('\n', ends));
        stand.play("right");
        stand.ask(Ask::Type);
        stand.key(KeyCode::End, KeyModifiers::CONTROL);
        (0..20).for_each(|_| {
            stand.key(KeyCode::Down, KeyModifiers::NONE);
        });
        for character in "note \"x\"".chars() {
            stand.key(KeyCode::Char(character), KeyModifiers::NONE);
        }
        stand.shows(&["✗"]);
        (0..8).for_each(|_| {
            stand.key(KeyCode::Backspace, KeyModifiers::NONE);
        });
        for character in "  keeper into hedge: stop".chars() {
            stand.key(KeyCode::Char(character), KeyModifiers::NONE);
        }
        stand.shows(&["✓ no mistakes"]);
        assert!(stand.bench.is_unsaved() && file(&path) == YARD.replace('\n', ends));
        stand.key(KeyCode::Char('s'), KeyModifiers::CONTROL);
        assert!(stand.note().contains("saved; "));
        let wanted = format!("{YARD}  keeper into hedge: stop").replace('\n', ends);
        assert_eq!((file(&path), stand.bench.is_unsaved(), stand.tape()), (wanted, false, "right".to_owned()));
    }
}

#[test]
fn a_verb_of_the_table_is_played_taken_back_and_written_with_the_line_ends_of_the_file() {
    for ends in ["\n", "\r\n"] {
        let (_folder, path, mut stand) = on_file(&YARD.replace('\n', ends));
        stand.play("right");
        assert_eq!(stand.picture(), ["_Kch"], "the hedge stops the crate");
        verb(&mut stand, "swap");
        assert_eq!(stand.picture(), ["_cKh"]);
        assert_eq!((file(&path), stand.desk.text.unwritten()), (YARD.replace('\n', ends), vec![Rules::TITLE]));
        stand.ask(Ask::TakeBack);
        assert_eq!((stand.desk.text.source(), stand.picture()), (&*YARD.replace('\n', ends), vec!["_Kch".to_owned()]));
        verb(&mut stand, "swap");
        stand.ask(Ask::Save);
        assert!(stand.note().contains("written to yard.magpie"));
        assert_eq!(file(&path), YARD.replace("crate: shove", "crate: swap").replace('\n', ends));
        assert_eq!(stand.ask(Ask::Save).note(), "the file has these rules already");
    }
}

#[test]
fn saved_rules_leave_the_changes_of_other_benches_unwritten() {
    let (_folder, path, mut stand) = on_file(&format!("{YARD}pace\n  timed 100 ms\n"));
    let mut pace = Pace::default();
    pace.news(&mut stand.desk, News::Entered);
    pace.ask(&mut stand.desk, pace::Ask::Choose(1));
    pace.ask(&mut stand.desk, pace::Ask::Change(1));
    assert!(pace.is_unsaved());
    verb(&mut stand, "swap");
    stand.ask(Ask::Save);
    assert_eq!(file(&path), format!("{}pace\n  timed 100 ms\n", YARD.replace("shove", "swap")));
    assert!(pace.is_unsaved(), "what the other bench has changed is still there");
    pace.ask(&mut stand.desk, pace::Ask::Write);
    assert!(file(&path).contains("timed 110 ms") && file(&path).contains("swap"), "{}", file(&path));
    stand.tell();
    stand.ask(Ask::TakeBack);
    assert!(stand.desk.text.source().contains("shove") && stand.desk.text.source().contains("timed 110 ms"));
}

/// Scenarios run at every change; a failed one tells both sides; one is walked through beside the game, whose tape is not
/// touched; and a tape becomes a scenario that holds.
#[test]
fn scenarios_are_run_walked_through_and_made_of_tapes() {
    let scenarios = "scenario \"a crate gives way\"\n  inputs right\n  expect granted\n  expect\n    __Kc\nscenario \"counted\"\n  map\n    K_c_\n  inputs right\n  \
                     expect count crate = 2\n  expect\n    _Kc_\n";
    let (_folder, path, mut stand) = on_file(&format!("{YARD}{scenarios}"));
    stand.play("left right");
    let shown =
        stand.ask(Ask::Turn(Page::Scenarios)).shows(&["0 passed, 2 failed", "✗ a crate gives way", "✗ counted"]);
    assert!(shown.contains("__Kc") && shown.contains("_Kch"), "both boards stand beside each other: {shown}");
    let line = shown.lines().find(|line| line.contains("__Kc")).unwrap();
    assert!(line.contains("_Kch"), "expected left, found right: {line}");
    stand.ask(Ask::Move(1, 0)).shows(&["1 = 2 does not hold"]);
    // Another verb, and the first one is met.
    stand.ask(Ask::Turn(Page::Meetings)).ask(Ask::Cell(1, 2));
    stand.ask(Ask::Turn(Page::Scenarios)).ask(Ask::WalkThrough);
    assert_eq!(
        (stand.picture(), stand.tape()),
        (vec!["K_c_".to_owned()], "right".into()),
        "at its beginning, to be walked"
    );
    stand.desk.go(|at| at + 1);
    assert_eq!(stand.picture(), ["_Kc_"]);
    stand.ask(Ask::KeepTape);
    assert!(stand.note().contains("scenario's own board"));
    stand.ask(Ask::Back);
    assert_eq!(
        (stand.picture(), stand.tape()),
        (vec!["_Kch".to_owned()], "left right".into()),
        "the game is as it was"
    );
    stand.ask(Ask::Back);
    assert!(stand.note().contains("on the board"));
    // The tape becomes a scenario, is run at once, and stands in the file when it is written.
    stand.ask(Ask::KeepTape).shows(&["1 passed, 2 failed", "✓ played on M, 1"]);
    assert!(file(&path).ends_with(scenarios), "nothing is written before it is asked for");
    stand.ask(Ask::Save);
    assert!(
        file(&path).ends_with("scenario \"played on M, 1\"\n  map \"M\"\n  inputs left right\n  expect\n    _Kch\n")
    );
    stand.ask(Ask::KeepTape).shows(&["✓ played on M, 2"]);
    // A saved change of the rules while a scenario is on the board: the game comes back, under the new rules.
    stand.ask(Ask::Save).ask(Ask::WalkThrough);
    stand.desk.file_changed(format!("{YARD}{scenarios}").into_bytes());
    stand.tell();
    assert_eq!(stand.tape(), "left right");
    assert!(stand.note().ends_with("; the game is on the board again"));
    stand.shows(&["0 passed, 2 failed"]);
}

#[test]
fn the_rule_under_the_cursor_is_shown_as_code() {
    let (_folder, _path, mut stand) = on_file(YARD);
    // The cursor stands at the top: the first rule is the control, which names its line in every language.
    stand.ask(Ask::ShowCode);
    assert_eq!(stand.bench.page, Page::Code);
    for word in ["rust", "c", "cpp", "csharp", "js", "ts", "python", "lua"] {
        let screen = stand.shown();
        assert!(screen.contains("control keeper with arrows") && screen.contains("WEST"), "{word}: {screen}");
        stand.ask(Ask::Speak(None));
    }
    stand.ask(Ask::Move(1, 0));
    let screen = stand.shown();
    assert!(screen.contains("keeper into crate: shove") && screen.contains("KIND_KEEPER"), "{screen}");
    stand.ask(Ask::Clause);
    assert_eq!((stand.bench.page, stand.bench.editor.line()), (Page::Text, 11));
}
