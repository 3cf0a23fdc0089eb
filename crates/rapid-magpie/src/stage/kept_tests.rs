use super::{Begun, Keeper, Kept, begin_in};
use crate::bench::tests::loaded;
use crate::desk::Desk;
use crate::files::{parse_tape, text_of};
use crate::yard;
use magpie_core::input::{Input, parse_inputs};
use magpie_core::tape::{Session, Start};
use proptest::prelude::*;
use std::path::{Path, PathBuf};

const LOFT: &str = "demo cog-loft";

fn desk() -> Desk {
    let source = yard::find("cog-loft").unwrap().rulebook;
    Desk::new(loaded(source), source.as_bytes().to_vec())
}

/// A game on a map, counted from 0, after some inputs.
fn played(map: usize, seed: Option<u64>, inputs: &str) -> Session {
    let book = desk().game.book().unwrap().clone();
    let mut session = Session::new(Start { seed, ..Start::map(book, map) }).unwrap();
    parse_inputs(inputs).unwrap().iter().for_each(|input| {
        session.give(input);
    });
    session
}

/// A new session; the newest tape that is offered to it.
fn begin(folder: &Path) -> (Keeper, Option<Kept>) {
    let Begun { keeper, kept, .. } = begin_in(folder, LOFT, "cog-loft.magpie").unwrap();
    (keeper, kept.into_iter().next())
}

fn inputs(kept: &Kept) -> String {
    kept.inputs.iter().map(|(_, input)| input.to_string()).collect::<Vec<_>>().join(" ")
}

/// The files of a folder by their endings, in order.
fn files(folder: &Path, ending: &str) -> Vec<PathBuf> {
    let all = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let mut found: Vec<PathBuf> = all.filter(|path| path.extension().is_some_and(|other| other == ending)).collect();
    found.sort();
    found
}

#[test]
fn a_session_that_is_left_keeps_nothing_and_one_that_ends_is_offered_once() {
    let folder = tempfile::tempdir().unwrap();
    let (mut keeper, kept) = begin(folder.path());
    assert!(kept.is_none());
    keeper.write(&played(0, None, "up right"), false).unwrap();
    keeper.done();
    assert!(files(folder.path(), "jsonl").is_empty() && files(folder.path(), "lock").is_empty());

    let (mut keeper, _) = begin(folder.path());
    keeper.write(&played(0, None, "up right"), false).unwrap();
    // The process is gone, and with it what it held.
    drop(keeper);
    let (next, kept) = begin(folder.path());
    assert_eq!(inputs(kept.as_ref().unwrap()), "up right");
    // A third session at the same time is offered nothing that somebody holds.
    let (third, none) = begin(folder.path());
    assert!(none.is_none());
    kept.unwrap().forget();
    drop((next, third));
    assert!(begin(folder.path()).1.is_none(), "what was forgotten is gone, and empty tapes are not offered");
}

#[test]
fn sessions_at_once_keep_a_tape_each_and_another_rulebooks_are_not_touched() {
    let folder = tempfile::tempdir().unwrap();
    let (mut one, _) = begin(folder.path());
    let (mut two, _) = begin(folder.path());
    let Begun { keeper: mut other, .. } = begin_in(folder.path(), "/yard/other.magpie", "other.magpie").unwrap();
    one.write(&played(0, None, "up"), false).unwrap();
    two.write(&played(0, None, "right right"), false).unwrap();
    other.write(&played(0, None, "down"), false).unwrap();
    assert_eq!(files(folder.path(), "jsonl").len(), 3);
    drop((one, two, other));
    let (_held, kept) = begin(folder.path());
    let first = inputs(kept.as_ref().unwrap());
    kept.unwrap().forget();
    let (_held, kept) = begin(folder.path());
    let second = inputs(kept.as_ref().unwrap());
    let mut both = [first, second];
    both.sort();
    assert_eq!(both, ["right right", "up"]);
    let Begun { kept, .. } = begin_in(folder.path(), "/yard/other.magpie", "other.magpie").unwrap();
    assert_eq!(inputs(&kept[0]), "down");
}

#[test]
fn all_tapes_are_offered_the_newest_first_and_what_nobody_decided_about_stays() {
    let folder = tempfile::tempdir().unwrap();
    let (mut one, _) = begin(folder.path());
    one.write(&played(1, None, "up"), false).unwrap();
    let (mut two, _) = begin(folder.path());
    std::thread::sleep(std::time::Duration::from_millis(20));
    two.write(&played(0, None, "right right"), false).unwrap();
    drop((one, two));
    let Begun { keeper: held, kept, .. } = begin_in(folder.path(), LOFT, "cog-loft.magpie").unwrap();
    let told: Vec<(String, usize)> = kept.iter().map(|kept| (inputs(kept), kept.map)).collect();
    assert_eq!(told, [("right right".into(), 1), ("up".into(), 2)]);
    // The process ends while the question stands: both are there again.
    drop((held, kept));
    let Begun { keeper: _held, mut kept, .. } = begin_in(folder.path(), LOFT, "cog-loft.magpie").unwrap();
    assert_eq!(kept.len(), 2);
    kept.remove(0).forget();
    drop(kept);
    assert_eq!(inputs(&begin(folder.path()).1.unwrap()), "up");
}

#[test]
fn a_kept_tape_is_played_on_its_own_map_with_its_own_seed() {
    let folder = tempfile::tempdir().unwrap();
    let (mut keeper, _) = begin(folder.path());
    let session = played(2, Some(77), "right up undo wait:250 down");
    keeper.write(&session, false).unwrap();
    drop(keeper);
    let (_next, kept) = begin(folder.path());
    let mut desk = desk();
    assert_eq!(kept.unwrap().play(&mut desk), None);
    let back = desk.game.session.as_ref().unwrap();
    assert_eq!((back.start().map.clone().err(), back.start().seed), (Some(2), Some(77)));
    assert_eq!((back.grid().picture(), back.clock()), (session.grid().picture(), session.clock()));
    assert_eq!(files(folder.path(), "jsonl").len(), 0, "the new session keeps it from now on");
}

#[test]
fn what_cannot_be_played_or_read_stays() {
    let folder = tempfile::tempdir().unwrap();
    let (mut keeper, _) = begin(folder.path());
    keeper.write(&played(4, None, "up"), false).unwrap();
    drop(keeper);
    let (_next, kept) = begin(folder.path());
    let small = "game \"S\"\ncell 8 px\nkinds\n  keeper K body\nmap \"M\"\n  K_\ncontrol keeper with arrows\n";
    let mut desk = Desk::new(loaded(small), small.as_bytes().to_vec());
    let why = kept.unwrap().play(&mut desk).unwrap();
    assert!(why.contains("the tape stays kept"), "{why}");
    assert_eq!(files(folder.path(), "jsonl").len(), 1);
    let path = files(folder.path(), "jsonl").remove(0);
    std::fs::write(&path, "half a li").unwrap();
    let begun = begin_in(folder.path(), LOFT, "cog-loft.magpie").unwrap();
    assert!(begun.kept.is_empty() && begun.unreadable == [path.clone()], "what cannot be read is told, not offered");
    assert_eq!(std::fs::read_to_string(&path).unwrap(), "half a li", "and not thrown away");
}

/// A tape that ends in the middle of a line is read as far as it is whole, and its file is not thrown away.
#[test]
fn a_tape_that_is_not_whole_is_played_as_far_as_it_is() {
    let folder = tempfile::tempdir().unwrap();
    let (mut keeper, _) = begin(folder.path());
    keeper.write(&played(0, None, "up right up"), false).unwrap();
    drop(keeper);
    let path = files(folder.path(), "jsonl").remove(0);
    let whole = std::fs::read(&path).unwrap();
    let third = whole.len() - 12;
    for (bytes, wanted) in [(whole[..third].to_vec(), "up right"), ([&whole[..], b"\xff\xfe{"].concat(), "up right up")]
    {
        std::fs::write(&path, &bytes).unwrap();
        let (next, kept) = begin(folder.path());
        let kept = kept.unwrap();
        assert_eq!(inputs(&kept), wanted);
        let lost = kept.lost.clone().unwrap();
        let mut desk = desk();
        let told = kept.play(&mut desk).unwrap();
        assert!(told.contains(&lost) && told.contains(".broken"), "{told}");
        let broken = files(folder.path(), "broken").remove(0);
        assert_eq!(std::fs::read(&broken).unwrap(), bytes, "what cannot be read stays");
        std::fs::rename(broken, &path).unwrap();
        drop(next);
    }
}

/// On a full disk nothing half-written stays in the file, the failure is told, and when there is room again all is kept.
#[test]
fn a_full_disk_leaves_no_half_line_and_is_made_up_for() {
    let folder = tempfile::tempdir().unwrap();
    let (mut keeper, _) = begin(folder.path());
    let mut session = played(0, None, "up");
    keeper.write(&session, false).unwrap();
    let path = files(folder.path(), "jsonl").remove(0);
    let saved = folder.path().join("saved");
    std::fs::rename(&path, &saved).unwrap();
    std::os::unix::fs::symlink("/dev/full", &path).unwrap();
    session.give(&"right".parse().unwrap());
    let error = keeper.write(&session, false).unwrap_err();
    assert!(format!("{error:#}").contains("o space left"), "{error:#}");
    std::fs::rename(&saved, &path).unwrap();
    session.give(&"up".parse().unwrap());
    keeper.write(&session, false).unwrap();
    drop(keeper);
    assert_eq!(
        inputs(&begin(folder.path()).1.unwrap()),
        "up right up",
        "all of it, though one was not written in its time"
    );
}

#[test]
fn what_a_killed_session_left_half_written_is_gone_at_the_next_start() {
    let folder = tempfile::tempdir().unwrap();
    let (mut keeper, _) = begin(folder.path());
    keeper.write(&played(0, None, "up"), false).unwrap();
    let name = files(folder.path(), "jsonl")[0].file_name().unwrap().to_string_lossy().into_owned();
    let left = folder.path().join(format!(".{name}.abc.magpie-tmp"));
    let others = folder.path().join(".notes.magpie-tmp");
    std::fs::write(&left, "half").unwrap();
    std::fs::write(&others, "another program's").unwrap();
    drop(keeper);
    let (_held, kept) = begin(folder.path());
    assert!(!left.exists() && others.exists() && inputs(&kept.unwrap()) == "up");
}

fn word() -> impl Strategy<Value = &'static str> {
    prop::sample::select(vec!["up", "down", "left", "right", "undo", "restart", "wait:30", "back", "branch"])
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    /// However the tape goes on, is cut or taken back: what is on disk is the whole tape, line by line.
    #[test]
    fn the_file_is_the_tape_at_every_moment(words in prop::collection::vec(word(), 1..40)) {
        let folder = tempfile::tempdir().unwrap();
        let (mut keeper, _) = begin(folder.path());
        let mut session = played(1, None, "");
        for word in words {
            match word {
                "back" => session.go(session.position().saturating_sub(2)),
                "branch" => {
                    let count = session.branches().len();
                    if count > 0 {
                        session.switch(count - 1);
                    }
                }
                word => {
                    session.give(&word.parse::<Input>().unwrap());
                }
            }
            keeper.write(&session, false).unwrap();
            let path = files(folder.path(), "jsonl").remove(0);
            let tape = parse_tape(&text_of(&path).unwrap()).unwrap();
            prop_assert_eq!(tape.header.map, 2);
            let wanted: Vec<(Option<u64>, Input)> =
                session.entries().iter().map(|entry| (Some(entry.at), entry.input.clone())).collect();
            prop_assert_eq!(tape.lines, wanted);
        }
    }
}
