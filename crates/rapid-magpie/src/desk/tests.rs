//! The one writer of the rulebook's text, held against a plain model; and what the desk says of files that change.

use super::Desk;
use super::text::Edit;
use crate::files::load;
use proptest::prelude::*;
use std::path::PathBuf;
use std::rc::Rc;

const OWNERS: [&str; 3] = ["Probe", "Pace", "Rules"];

/// A rulebook with a counter for every owner, and one for other programs.
fn text(values: [i64; 4]) -> String {
    let [probe, pace, rules, other] = values;
    format!(
        "game \"Y\"\ncell 8 px\nkinds\n  keeper K body\nmap \"M\"\n  K__\ncounter probe = {probe}\ncounter pace = {pace}\n\
         counter rules = {rules}\ncounter other = {other}\ncontrol keeper with arrows\n"
    )
}

/// The edit that gives an owner's counter another value.
fn edit(owner: usize, value: i64) -> Edit {
    let name = format!("counter {} = ", OWNERS[owner].to_lowercase());
    Rc::new(move |_: &_, source: &str| {
        let start = source.find(&name)? + name.len();
        let end = start + source[start..].find('\n')?;
        Some(format!("{}{value}{}", &source[..start], &source[end..]))
    })
}

fn on_file() -> (tempfile::TempDir, PathBuf, Desk) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("yard.magpie");
    std::fs::write(&path, text([0; 4])).unwrap();
    let desk = Desk::new(load(&path).unwrap(), std::fs::read(&path).unwrap());
    (folder, path, desk)
}

#[derive(Clone, Copy, Debug)]
enum Deed {
    Change(usize, i64),
    TakeBack(usize),
    Write(usize),
    /// Another program writes the file.
    Outside(i64),
}

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![
        4 => (0..3_usize, 1..99_i64).prop_map(|(owner, value)| Deed::Change(owner, value)),
        3 => (0..3_usize).prop_map(Deed::TakeBack),
        3 => (0..3_usize).prop_map(Deed::Write),
        1 => (1..99_i64).prop_map(Deed::Outside),
    ]
}

/// A change: its value, whether the file has it, whether the screen has it.
type Change = (i64, bool, bool);

/// What is on the screen and in the file, as lists of changes.
#[derive(Default)]
struct Plain {
    base: [i64; 4],
    changes: [Vec<Change>; 3],
    aside: [Vec<Change>; 3],
}

impl Plain {
    fn values(&self, wanted: impl Fn(&Change) -> bool) -> [i64; 4] {
        let mut values = self.base;
        for (value, changes) in values.iter_mut().zip(&self.changes) {
            *value = changes.iter().rfind(|change| wanted(change)).map_or(*value, |change| change.0);
        }
        values
    }

    fn screen(&self) -> [i64; 4] {
        self.values(|change| change.2)
    }

    fn file(&self) -> [i64; 4] {
        self.values(|change| change.1)
    }

    fn take_back(&mut self, owner: usize) -> bool {
        let changes = &mut self.changes[owner];
        match changes.iter().rposition(|change| change.2) {
            Some(at) if changes[at].1 => changes[at].2 = false,
            Some(at) => {
                changes.remove(at);
            }
            None if self.aside[owner].is_empty() => return false,
            None => changes.append(&mut self.aside[owner]),
        }
        true
    }

    fn write(&mut self, owner: usize) {
        self.changes[owner].iter_mut().for_each(|change| change.1 = change.2);
        self.changes[owner].retain(|change| change.1);
    }

    fn outside(&mut self, value: i64) {
        let unwritten = |changes: &Vec<Change>| -> Vec<Change> {
            changes.iter().copied().filter(|change| change.2 && !change.1).collect()
        };
        let waiting = [0, 1, 2].map(|owner| unwritten(&self.changes[owner]));
        if waiting.iter().any(|changes| !changes.is_empty()) {
            self.aside = waiting;
        }
        self.base = self.file();
        self.base[3] = value;
        self.changes = Default::default();
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, ..ProptestConfig::default() })]

    /// Whoever changes, takes back and writes in whatever order: the file has what was written, and nobody else's changes.
    #[test]
    fn every_owner_writes_its_own_changes(deeds in prop::collection::vec(deed(), 1..25)) {
        let (_folder, path, mut desk) = on_file();
        let mut plain = Plain::default();
        for deed in deeds {
            match deed {
                Deed::Change(owner, value) => {
                    prop_assert!(desk.change(OWNERS[owner], edit(owner, value)));
                    plain.changes[owner].push((value, false, true));
                }
                Deed::TakeBack(owner) => prop_assert_eq!(desk.take_back(OWNERS[owner]), plain.take_back(owner)),
                Deed::Write(owner) => {
                    prop_assert!(desk.write(OWNERS[owner]));
                    plain.write(owner);
                }
                Deed::Outside(value) => {
                    if plain.file()[3] != value {
                        plain.outside(value);
                        let written = text(plain.base);
                        std::fs::write(&path, &written).unwrap();
                        desk.file_changed(written.into_bytes());
                    }
                }
            }
            prop_assert_eq!(desk.text.source(), text(plain.screen()), "after {:?}", deed);
            prop_assert_eq!(std::fs::read_to_string(&path).unwrap(), text(plain.file()), "after {:?}", deed);
            let values: Vec<i64> = desk.game.grid().unwrap().counters().map(|(_, value)| value).collect();
            prop_assert_eq!(values, plain.screen(), "the game is the text's");
        }
    }
}

#[test]
fn a_change_that_would_be_a_mistake_is_refused_and_said() {
    let (_folder, _, mut desk) = on_file();
    let before = desk.text.source().to_owned();
    let wrong: Edit = Rc::new(|_: &_, source: &str| Some(source.replace("cell 8 px", "cell 0 px")));
    assert!(!desk.change("Probe", wrong));
    assert!(desk.note.take().unwrap().contains("cell"));
    let nowhere: Edit = Rc::new(|_: &_, _: &str| None);
    assert!(!desk.change("Probe", nowhere));
    assert!(desk.note.take().unwrap().contains("no place"));
    assert_eq!((desk.text.source(), desk.text.unwritten()), (before.as_str(), Vec::new()));
}

#[test]
fn with_mistakes_in_the_file_the_game_stays_and_nothing_is_changed_over_them() {
    let (_folder, path, mut desk) = on_file();
    desk.play(&"right".parse().unwrap());
    assert!(desk.change("Probe", edit(0, 7)));
    desk.file_changed(b"game \"Y\"\ncell".to_vec());
    assert!(!desk.text.mistakes.is_empty());
    assert_eq!(desk.game.grid().unwrap().picture(), ["_K_"]);
    assert!(!desk.change("Probe", edit(0, 8)));
    assert!(desk.note.take().is_some_and(|note| !note.is_empty()));
    desk.file_changed(text([0, 0, 0, 5]).into_bytes());
    assert_eq!((desk.text.mistakes.len(), desk.game.grid().unwrap().picture()), (0, vec!["_K_".to_owned()]));
    assert!(desk.take_back("Probe"), "what was not written when the file changed is brought back");
    assert_eq!(desk.text.source(), text([7, 0, 0, 5]));
    assert_eq!(std::fs::read_to_string(path).unwrap(), text([0; 4]), "and nothing was written");
}

#[test]
fn a_file_that_cannot_be_written_is_said_and_nothing_is_lost() {
    let (folder, path, mut desk) = on_file();
    assert!(desk.change("Pace", edit(1, 3)));
    std::fs::remove_file(&path).unwrap();
    std::fs::create_dir(&path).unwrap();
    assert!(!desk.write("Pace"));
    assert!(desk.note.take().unwrap().contains("yard.magpie"));
    assert_eq!(desk.text.unwritten(), ["Pace"]);
    std::fs::remove_dir(&path).unwrap();
    assert!(desk.write("Pace"));
    assert_eq!(std::fs::read_to_string(&path).unwrap(), text([0, 3, 0, 0]));
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1, "no file beside it is left over");
}

#[test]
fn new_files_beside_the_rulebook_never_write_over_one() {
    let (folder, _, desk) = on_file();
    let path = desk.write_beside(" notes.csv ", "x,y\n").unwrap();
    assert_eq!(path, folder.path().join("notes.csv"));
    assert!(desk.write_beside("notes.csv", "other").unwrap_err().contains("is there already"));
    assert_eq!(desk.read_beside("notes.csv").unwrap(), "x,y\n");
    assert!(desk.read_beside("gone.csv").unwrap_err().contains("gone.csv"));
    std::fs::write(folder.path().join("latin.csv"), [0xE9]).unwrap();
    assert!(desk.read_beside("latin.csv").unwrap_err().contains("not UTF-8"));
}
