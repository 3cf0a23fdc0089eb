use super::{Ask, Page, Rules};
use crate::bench::pace::{self, Pace};
use crate::bench::tests::Stand;
use crate::bench::{Bench, News};
use crossterm::event::{KeyCode, KeyModifiers};
use magpie_core::rulebook::meetings::{Entered, verbs_for};
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
