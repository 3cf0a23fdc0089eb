//! What a commit does besides moving: trails, exits, exchanges; and what asking may not leave behind.

use super::tests::text_with;
use super::{Grid, Nobody};
use crate::board::{Board, CellId};
use crate::input::parse_inputs;
use crate::rulebook::{KindId, read_text};
use crate::space::{Extent, Heading};
use crate::tape::{Session, Start};
use std::sync::Arc;

fn game(source: &str, inputs: &str) -> Session {
    let source = format!("game \"G\"\ncell 10 px\n{source}");
    let reading = read_text(&source, &|_| Err("none".into()));
    assert!(!reading.has_errors(), "{:?}\n{source}", reading.diagnostics);
    let mut session = Session::new(Start::map(Arc::new(reading.rulebook.unwrap()), 0)).unwrap();
    for input in parse_inputs(inputs).unwrap() {
        session.give(&input);
    }
    session
}

fn picture(source: &str, inputs: &str) -> String {
    game(source, inputs).grid().picture().join("/")
}

const HARBOUR: &str =
    "kinds\n  water . floor\n  tug T body\n  rope ~ body\n  buoy b body\n  pike P body\nground water\n";

/// The first version removed the oldest piece before it knew whether a new one would be placed.
#[test]
fn the_oldest_piece_of_a_trail_goes_only_when_a_new_one_is_placed() {
    let play = |map: &str, rules: &str, inputs: &str| {
        let source = format!(
            "{HARBOUR}map \"M\"\n  {map}\ntrail tug leaves rope, 1 long\ncontrol tug with arrows\n\
             rules\n  {rules}\n"
        );
        picture(&source, inputs)
    };
    assert_eq!(play(".T.b", "tug into buoy: swap", "right right"), ".~bT");
    assert_eq!(play(".T..", "tug into buoy: swap", "right right"), "..~T", "a plain step takes the oldest along");
    // Shoved, with the pike coming into the cell that is left: nothing is placed there, and the rope stays.
    let shoved = |pike: &str| {
        format!(
            "layers floor, body, air\nkinds\n  water . floor\n  tug T body\n  rope ~ body\n  pike P {pike}\nground water\n\
             map \"M\"\n  ..P..\n  .T...\n  .....\ntrail tug leaves rope, 1 long\ncontrol tug with arrows\nrules\n  \
             pike into tug: shove\n  on key act: step pike south\n"
        )
    };
    assert_eq!(picture(&shoved("body"), "right act"), "...../.~P../..T..");
    assert_eq!(
        picture(&shoved("air"), "right act"),
        "...../..P../..T..",
        "the pike is of another layer: rope lies below it"
    );
}

/// The first version judged the exit's `if` on the board as it was after the commit.
#[test]
fn the_exit_of_a_warp_is_judged_before_the_commit() {
    // The mat lies in the exit's cell, on a layer of its own: from column 0 it stops whoever comes out there.
    let source = "layers floor, low, mark, body\nkinds\n  plank . floor\n  mat m low\n  net n mark\n  ada A body\n\
                  glyph & = mat, net\nground plank\nmap \"M\"\n  An.&.n\n  ......\ncontrol ada with arrows\nrules\n  \
                  ada into net: warp net\n  ada into mat if count ada in column 0 > 0: stop\n";
    assert_eq!(picture(source, "right"), ".n.&.A/......", "the exit with the mat is passed over");
    let other = source.replace("in column 0 > 0", "in column 1 > 0");
    assert_eq!(picture(&other, "right"), ".n.A.n/......", "where ada will be by then does not count yet");
}

/// The first version refused it.
#[test]
fn a_piece_of_the_grounds_layer_changes_places_with_bare_ground() {
    let source = "kinds\n  plank . floor\n  hatch h floor\n  ada A body\nground plank\nmap \"M\"\n  h.A\nrules\n  \
                  on key act: swap column 0 row 0 with column 1 row 0\n  on key alt: swap column 1 row 0 with column 2 row 0\n";
    let mut session = game(source, "act");
    assert_eq!(session.grid().picture(), [".hA"]);
    let board = session.grid().board();
    assert_eq!((board.count(KindId(0)), board.count(KindId(1))), (2, 1), "no ground is lost or made");
    session.give(&"act".parse().unwrap());
    assert_eq!(session.grid().picture(), ["h.A"], "and back");
    session.go(0);
    assert_eq!(session.grid().picture(), ["h.A"]);
    assert_eq!(picture(source, "act alt"), ".hA", "between two layers nothing is exchanged");
}

/// The first version went over the whole area.
#[test]
fn a_flood_with_what_stands_there_already_changes_nothing() {
    let mut board = Board::new(Extent { columns: 3, rows: 1 }, 1, vec![0, 0], Some(KindId(0)));
    (0..3).for_each(|cell| board.lay_ground(CellId(cell)));
    let (mark, hash) = (board.mark(), board.hash());
    board.flood(CellId(1), KindId(0), None, false, |_| panic!("nothing is to be looked at"));
    assert_eq!((board.mark(), board.hash(), board.count(KindId(0))), (mark, hash, 3));
}

/// The first version left numbers for ground that was met, and what a trial had asked for.
#[test]
fn asking_and_trying_leave_nothing_behind() {
    let source =
        text_with("timer beat 100 ms", "ada into plank: take\non key act: place box at column 2 row 0, win", "A..");
    let book = Arc::new(read_text(&source, &|_| Err("none".into())).rulebook.unwrap());
    let mut grid = Grid::new(book, 0, None, &mut Nobody).unwrap();
    grid.input(&"wait:30".parse().unwrap(), &mut Nobody);
    let ada = grid.controlled()[0];
    let state =
        |grid: &Grid| (grid.board().numbered(), grid.board().mark(), grid.depth(), grid.picture(), grid.last_request());
    let before = state(&grid);
    assert!(grid.preview(ada, Heading::East).granted);
    assert_eq!(state(&grid), before, "a preview");
    grid.trial(|grid| {
        assert!(!grid.undo(), "what was before cannot be taken back in a trial");
        assert!(grid.request(ada, Heading::East, &mut Nobody));
        for input in ["act", "restart", "right"] {
            grid.input(&input.parse().unwrap(), &mut Nobody);
        }
        grid.undo();
    });
    assert_eq!(state(&grid), before, "a trial");
    assert_eq!(grid.outcome(), None);
    assert!(grid.undo(), "what was before can be taken back again");
}

/// The first version let a piece come out where one of its own layer stood: that one was no longer drawn, but still counted.
#[test]
fn nobody_comes_out_where_its_own_layer_is_taken() {
    let source = "kinds\n  water . floor\n  quay # body\n  buoy b mark\nground water\nmap \"M\"\n  #b.b.\n\
                  control buoy with arrows\nrules\n  buoy into quay: warp buoy\n";
    let game = game(source, "left");
    assert_eq!(game.grid().picture(), ["#.b.."], "the first has gone in under the quay and stays there");
    let book = game.grid().book().clone();
    let buoy = book.kind_of_name("buoy").unwrap();
    let drawn =
        (0..5).map(CellId).filter(|cell| game.grid().board().holds(*cell, book.set(book.controls[0].who))).count();
    assert_eq!((game.grid().board().count(buoy), drawn), (2, 2));
}
