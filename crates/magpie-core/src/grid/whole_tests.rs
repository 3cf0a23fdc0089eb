//! Whole-grid rules: the cases of docs/model.md, sections 6, 7 and 9, by hand, and each against a slow obvious version.

use super::motion_tests::{game, lines};
use super::{Ended, Grid, Nobody};
use crate::board::CellId;
use crate::rulebook::KindId;
use crate::space::Cell;
use crate::tape::Session;
use proptest::prelude::*;

/// The board after some inputs.
fn board(sections: &str, rules: &str, map: &str, inputs: &str) -> String {
    lines(game(sections, rules, map, inputs).grid())
}

fn counter(session: &Session, name: &str) -> i64 {
    session.grid().counters().find(|(found, _)| *found == name).map_or(0, |(_, value)| value)
}

#[test]
#[allow(clippy::too_many_lines)] // a table
fn rows_and_what_comes_down() {
    let clear = "when row full of thing: clear, drop above";
    let table = [
        ("one full row", clear, "B.\n..\nBB", "../B./.."),
        ("holes are kept", clear, "B..\n...\n.B.\nBBC", ".../B../.../.B."),
        ("two full rows with a gap row between", clear, "C..\nBBB\n.B.\nBBB", ".../.../C../.B."),
        ("a piece between the two falls by one only", clear, "B.\nBB\n.C\nBB", "../../B./.C"),
        ("a row of one kind of the group or another is full", clear, "BCB", "..."),
        ("a gap in it is not", clear, "B.B", "B.B"),
        ("void counts as no gap", clear, "B B", ". ."),
        (
            "posts that are ignored stay",
            "when row full of thing ignoring wall: clear, drop above",
            "C..\nB#B",
            ".../C#.",
        ),
        (
            "what comes down stays above a post",
            "when row full of thing ignoring wall: clear, drop above",
            ".C.\nB#B",
            ".C./.#.",
        ),
        ("a row of posts alone is not full", "when row full of thing ignoring wall: clear", "###", "###"),
        ("marks may fill a row too", "when row full of mat: clear", "mmm", "..."),
        (
            "a cascade fills a second row",
            "when row full of thing: clear\nwhen thing: fall thing south",
            "B..\nBBB\n.BB",
            ".../.../...",
        ),
        ("below comes up", "when row full of thing: clear, drop below", "BB\n..\n.C", "../.C/.."),
        (
            "columns: what stands west goes east",
            "when column full of thing: clear, drop left-of",
            "B.C\n..C",
            ".B./...",
        ),
        (
            "columns: what stands east goes west",
            "when column full of thing: clear, drop right-of",
            "C.B\nC..",
            ".B./...",
        ),
        ("pieces of no cleared group stay", "when row full of box: clear, drop above", "C.\nBB", "C./.."),
        ("become turns each matched piece", "when row full of box: become cog", "BB\nB.", "CC/B."),
    ];
    for (name, rules, map, expected) in table {
        assert_eq!(board("", rules, map, ""), expected, "{name}");
    }
    let bottom = board("rows from bottom", "when row full of thing: clear, drop above", "C.\n..\nBB", "");
    assert_eq!(bottom, "../C./..", "above is up on the screen, whichever edge rows count from");
}

#[test]
fn effects_are_once_for_all_or_once_for_each() {
    let rules = "when row full of thing: clear, add 1 to shelves, add matches to pairs, add matched to goods, drop above, signal \"ding\"";
    let session = game("counter shelves\ncounter pairs\ncounter goods", rules, "BBB\n...\nB B", "");
    assert_eq!(["shelves", "pairs", "goods"].map(|name| counter(&session, name)), [2, 4, 5]);
    assert_eq!(session.signals().count(), 2);
    let guarded = game("counter n", "when row full of box if matches > 1: clear, add 1 to n", "BB\n..", "");
    assert_eq!((lines(guarded.grid()).as_str(), counter(&guarded, "n")), ("BB/..", 0));
    let longest = "when row full of box if matched > 2: clear";
    assert_eq!(board("", longest, "BBB\nB B", ""), ".../B B", "only the matches whose condition holds are cleared");
}

#[test]
fn runs_and_patches() {
    let table = [
        ("three in a row", "when run of 3 same thing in rows: clear", "BBB.CC", "....CC"),
        ("not of two kinds", "when run of 3 same thing in rows: clear", "BBCC", "BBCC"),
        ("a run is maximal", "when run of 3 same thing in rows: clear", "BBBB", "...."),
        ("columns are not looked at", "when run of 3 same thing in rows: clear", "B\nB\nB", "B/B/B"),
        ("both, crossing", "when run of 3 same thing in both: clear", ".B.\nBBB\n.B.", ".../.../..."),
        ("void breaks a run", "when run of 3 same thing in rows: clear", "BB BB", "BB BB"),
        ("patches connect by sides", "when patch of 4 same thing: clear", "BB.\nB.C\nBCC", ".../..C/.CC"),
        ("not by corners", "when patch of 3 same thing: clear", "B.\n.B\nB.", "B./.B/B."),
        ("too small a patch", "when patch of 3 same thing: clear", "BB\nCC", "BB/CC"),
    ];
    for (name, rules, map, expected) in table {
        assert_eq!(board("", rules, map, ""), expected, "{name}");
    }
    let crossing =
        "when run of 3 same box in both: clear, add 1 to runs, add matched to pieces, add matches to together";
    let session = game("counter runs\ncounter pieces\ncounter together", crossing, ".B.\nBBB\n.B.", "");
    assert_eq!(["runs", "pieces", "together"].map(|name| counter(&session, name)), [2, 6, 4]);
    let corner = game("", "when run of 3 same box in both if turns > 0: clear", "BBB\nB..\nB..", "act");
    let told = &corner.answers().last().unwrap().settled[0];
    assert_eq!((told.found, told.pieces, told.counts.gone), (2, 6, 5), "two runs that begin in one cell");
}

#[test]
fn falls_and_refills() {
    let falls = "when thing: fall thing south";
    let table = [
        ("all the way", falls, "B.\n..\n..", "../../B."),
        ("onto what lies there", falls, "B\n.\nC\n.", "././B/C"),
        ("not into void", falls, "B\n \n.", "B/ /."),
        ("walls hold", falls, "B\n#\n.", "B/#/."),
        ("a fall shoves nobody", "box into cog: shove\nwhen box: fall box south", "B\nC\n.", "B/C/."),
        ("and is not swapped or bounced", "box into cog: swap\nwhen box: fall box south", "B\nC", "B/C"),
        ("nor does it wrap", "box into edge: wrap\nwhen box: fall box south", ".\nB", "./B"),
        ("but it takes", "box into cog: take\nwhen box: fall box south", "B\nC\n.", "././B"),
        ("and perishes in what makes it", "box into mat: perish\nwhen box: fall box south", "B\n.\nm\n.", "././m/."),
        (
            "effects of a granted step happen",
            "box into mat: pass, turn mat into net\nwhen box: fall box south",
            "B\nm\n.",
            "./n/B",
        ),
        ("sideways too", "when box: fall box east", "B..#", "..B#"),
    ];
    for (name, rules, map, expected) in table {
        assert_eq!(board("", rules, map, ""), expected, "{name}");
    }
    let headings = game("", falls, "B\n.", "");
    let piece = headings.grid().board().pieces_of(KindId(6)).next().unwrap();
    assert_eq!(headings.grid().board().heading_of(piece), None, "a fall gives no heading");
    let ring = game("", "box into mat: warp mat\non key act: fall box south", "B\nm\n.\nm", "act");
    assert_eq!(ring.grid().board().count(KindId(6)), 1, "a body that comes back to a cell of this fall stops");
    let full = board("seed 3", "on key act: refill thing at north", "..\n..", "act");
    assert!(!full.contains('.') && full.chars().all(|c| "BC/".contains(c)), "{full}");
    let around = board("", "on key act: refill box at north", "#.\n.#", "act");
    assert_eq!(around, "#B/.#", "only what the edge lets in");
    let west = board("", "on key act: refill box at west", "..#\n. .", "act");
    assert_eq!(west, "BB#/B .");
}

#[test]
fn floods() {
    let flood = |how: &str, map: &str| {
        let session = game("", &format!("on key act: flood from column 0 row 0 into {how}"), map, "act");
        let action = session.answers().last().and_then(|answer| answer.actions.first().cloned()).unwrap();
        (lines(session.grid()), action.size, action.reason, action.rings.map(|rings| rings.ends))
    };
    let (shown, size, _, rings) = flood("fen", "..#\n.#.\n...");
    assert_eq!((shown.as_str(), size), ("ff#/f#f/fff", Some(9)), "walls of another layer do not matter");
    assert_eq!(rings, Some(vec![1, 3, 6, 8, 9]));
    assert_eq!(flood("box", "..#\n.#.\n...").0, "BB#/B#B/BBB", "on its own layer a wall holds it back");
    assert_eq!(flood("box", ".#.\n#..\n...").0, "B#./#../...", "not through a corner");
    assert_eq!(flood("box 8-way", ".#.\n#..\n...").0, "B#B/#BB/BBB");
    assert_eq!(flood("fen", "f.").2.as_deref(), Some("already fen"));
    assert_eq!(flood("box", " .\n..").2.as_deref(), Some("no such cell"));
    let (replaced, ..) = flood("cog", "BB.B");
    assert_eq!(replaced, "CC.B", "pieces of one kind are replaced");
    let walks = board("", "on key act: flood from column 0 row 0 into box\nada into box: shove", "..\nA.", "act");
    assert_eq!(walks, "BB/AB");
    let pushed = board("", "on key act: flood from column 1 row 0 into box\nada into box: take", "A..", "act right");
    assert_eq!(pushed, ".AB", "what a flood has laid is met as any other piece");
}

#[test]
fn trails() {
    let trail = |sections: &str, rules: &str, map: &str, inputs: &str| board(sections, rules, map, inputs);
    let two = "trail ada leaves box, 2 long";
    assert_eq!(trail(two, "", "A....", "right right right"), ".BBA.");
    assert_eq!(trail("trail ada leaves box, 0 long", "", "A..", "right right"), "..A");
    assert_eq!(trail(two, "", "A.#", "right right right"), "BA#", "a refused step leaves nothing");
    // Round a square of four cells: the leaving tail is or is not in the way.
    let round = "right down left up right";
    assert_eq!(trail("trail ada leaves box, 3 long", "", "A.\n..", round), "BA/BB");
    assert_eq!(trail("trail ada leaves box, 3 long, tail leaves last", "", "A.\n..", round), "BB/AB");
    let last = game("trail ada leaves box, 3 long, tail leaves last", "", "A.\n..", "right down left up");
    assert_eq!(last.grid().last_request().0, Some(false));
    assert_eq!(
        trail(two, "ada into mat: pass, grow 2, remove mat", "Am....", "right right right right right"),
        ".BBBBA"
    );
    let own = "trail ada leaves box, 1 long\ntrail cog leaves net, 1 long\ncontrol cog with arrows";
    assert_eq!(trail(own, "", "A...\nC...", "right right"), ".BA./.nC.");
    let shoved = "trail cog leaves net, 1 long";
    assert_eq!(trail(shoved, "ada into cog: shove", "AC...", "right right"), "..AC.", "the apprentice walks over it");
    assert_eq!(
        trail(shoved, "ada into cog: shove", "AC...", "right right left"),
        ".AnC.",
        "a shoved head leaves its trail too"
    );
    let gone = "ada into edge: perish";
    assert_eq!(trail(two, gone, "A.", "right right"), "B.", "a head that leaves the board leaves nothing behind");
}

#[test]
fn a_tail_comes_back_with_undo() {
    let mut session = game("trail ada leaves box, 2 long", "ada into mat: take, grow 3", "A.m....", "");
    let mut boards = vec![lines(session.grid())];
    for _ in 0..6 {
        session.give(&"right".parse().unwrap());
        boards.push(lines(session.grid()));
    }
    for expected in boards.iter().rev().skip(1) {
        session.give(&crate::input::Input::Undo);
        assert_eq!(&lines(session.grid()), expected);
    }
}

const SHAPES: &str = "shapes of box\n  bar\n    XX\n  hook\n    XX\n    X.\n  rod\n    XXX";

#[test]
#[allow(clippy::too_many_lines)] // a table
fn shapes_move_turn_and_lock() {
    let play = |rules: &str, map: &str, inputs: &str| board(SHAPES, rules, map, inputs);
    let start = |shape: &str, at: &str| format!("on start: spawn shape {shape} at {at}");
    let bar = start("bar", "column 1 row 0");
    assert_eq!(play(&bar, "....\n....", ""), ".BB./....");
    assert_eq!(
        play(&format!("{bar}\non key act: step active south"), "....\n....\n....", "act act act"),
        "..../..../.BB."
    );
    assert_eq!(play(&format!("{bar}\non key act: step active east"), "....", "act act act"), "..BB");
    assert_eq!(
        play(&format!("{bar}\non key act: step active south"), "....\n..#.", "act"),
        ".BB./..#.",
        "the whole body is refused"
    );
    assert_eq!(
        play(&format!("{bar}\nada into box: shove"), "....\n....\n.A..", "up up"),
        ".BB./.A../....",
        "shoved against the edge"
    );
    assert_eq!(play(&format!("{bar}\nada into box: shove"), "A...\n....", "right right"), ".ABB/....");
    assert_eq!(
        play(&format!("{bar}\nada into box: swap"), "A...", "right"),
        "ABB.",
        "a body of several cells swaps with nobody"
    );
    assert_eq!(play(&format!("{bar}\nada into box: take"), "A...\n....", "right"), ".AB./....");
    assert_eq!(
        play(&format!("{bar}\nada into box: take\non key act: step box south"), "A...\n....", "right act"),
        ".A../..B.",
        "a body that has lost a piece is single pieces"
    );
    let rod = start("rod", "column 1 row 0");
    let turns = format!("{rod}\non key act: rotate active clockwise\non key alt: rotate active counterclockwise");
    assert_eq!(play(&turns, ".....\n.....\n.....", "act"), "...B./...B./...B.", "x, y becomes n-1-y, x");
    assert_eq!(play(&turns, ".....\n.....\n.....", "alt"), ".B.../.B.../.B...");
    assert_eq!(play(&turns, ".....\n.....\n.....", "act alt"), ".BBB./...../.....");
    assert_eq!(play(&turns, ".....\n...#.\n.....", "act"), ".BBB./...#./.....", "against a wall it stays");
    assert_eq!(play(&turns, ".....\n.....", "act"), ".BBB./.....", "against the edge too");
    let tries = format!("{rod}\non key act: rotate active clockwise try -1,0 try 0,1");
    assert_eq!(play(&tries, ".....\n...#.\n.....", "act"), "..B../..B#./..B..");
    assert_eq!(
        play(&format!("{rod}\non key act: rotate ada clockwise"), ".....\nA....", "act"),
        ".BBB./A....",
        "no shape"
    );
    let hook = start("hook", "column 0 row 0");
    assert_eq!(play(&format!("{hook}\non key act: rotate active clockwise"), "...\n...", "act"), "BB./.B.");
    let locks = format!("{bar}\non key act: lock active\non key alt: step active south");
    assert_eq!(play(&locks, "....\n....", "act alt"), ".BB./....");
    let rods = SHAPES.replace("  bar\n    XX\n  hook\n    XX\n    X.\n", "");
    let seen = format!("{bar}\nwhen row full of box: clear\non key act: lock active");
    assert_eq!(play(&seen, "B..B\n....", ""), "BBBB/....", "the active shape fills no row");
    assert_eq!(play(&seen, "B..B\n....", "act"), "..../....");
    assert_eq!(
        play(&format!("{bar}\nwhen box: fall box south"), "B...\n....\n....", ""),
        ".BB./..../B...",
        "nor does it fall by a rule"
    );
    assert_eq!(board(&rods, &start("any", "column 0 row 0"), "..", ""), "..", "a shape needs room for all its pieces");
    let blocked = game(SHAPES, &format!("{bar}\nlose when blocked"), ".B..", "left");
    assert_eq!(blocked.grid().outcome(), Some(Ended::Lost), "a refused spawn blocks until the end of the first turn");
}

#[test]
fn an_earlier_shape_stays_rigid_and_falls_as_one() {
    let rules = "on start: spawn shape bar at column 1 row 0\non key act: spawn shape bar at column 0 row 0\n\
                 on key alt: step active east\nwhen box: fall box south";
    let session = game(SHAPES, rules, "....\n....\n....\n..#.", "alt act");
    // The first bar, over a wall with one end, comes down once it is no longer active and rests on it as one body.
    assert_eq!(lines(session.grid()), "BB../..../..BB/..#.");
}

#[test]
fn swap_only_where_it_makes_a_run() {
    let rules =
        "on drag thing to thing: swap dragged with dropped if it makes run\nwhen run of 3 same thing in both: clear";
    assert_eq!(board("", rules, "BBCB", "drag:2,0>3,0"), "...C");
    let refused = game("", rules, "BCCB", "drag:0,0>1,0");
    assert_eq!(lines(refused.grid()), "BCCB");
    let action = &refused.answers().last().unwrap().actions[0];
    assert_eq!((action.granted, action.reason.as_deref()), (false, Some("makes no run")));
}

#[test]
fn draws_for_new_pieces_are_one_each() {
    // Kinds in the order of the group, not of the file.
    let sections = "group odd = cog, box\nseed 5";
    let session = game(sections, "on key act: refill odd at north", "........", "act");
    let mut random = super::random::Random::new(5);
    let expected: String = (0..8).map(|_| if random.below(2) == 0 { 'C' } else { 'B' }).collect();
    assert_eq!(lines(session.grid()), expected);
}

/// A board of one layer's characters.
type Chars = Vec<Vec<char>>;

fn maps(glyphs: &'static [char]) -> impl Strategy<Value = Chars> {
    (1_usize..8, 1_usize..7).prop_flat_map(move |(columns, rows)| {
        prop::collection::vec(prop::collection::vec(prop::sample::select(glyphs), columns), rows)
    })
}

fn text(map: &Chars) -> String {
    map.iter().map(|row| row.iter().collect::<String>()).collect::<Vec<_>>().join("\n")
}

fn joined(map: &Chars) -> String {
    text(map).replace('\n', "/")
}

/// Full rows of boxes and cogs, posts aside: cleared, and what is above comes down cell by cell.
fn slow_rows(map: &mut Chars) {
    loop {
        let full = |row: &Vec<char>| row.iter().any(|c| "BC".contains(*c)) && row.iter().all(|c| "BC# ".contains(*c));
        let rows: Vec<usize> = (0..map.len()).filter(|row| full(&map[*row])).collect();
        if rows.is_empty() {
            return;
        }
        for row in &rows {
            map[*row].iter_mut().filter(|c| "BC".contains(**c)).for_each(|c| *c = '.');
        }
        for row in (0..map.len()).rev() {
            for column in 0..map[row].len() {
                let mut at = row;
                for _ in 0..rows.iter().filter(|cleared| **cleared > row).count() {
                    if "BC".contains(map[at][column]) && map.get(at + 1).is_some_and(|below| below[column] == '.') {
                        map[at + 1][column] = map[at][column];
                        map[at][column] = '.';
                        at += 1;
                    }
                }
            }
        }
    }
}

fn slow_runs(map: &Chars, length: usize) -> Chars {
    let mut left = map.clone();
    let at = |row: i64, column: i64| {
        let row = usize::try_from(row).ok().and_then(|row| map.get(row));
        row.and_then(|row| row.get(usize::try_from(column).ok()?)).copied().unwrap_or(' ')
    };
    for row in 0..map.len() as i64 {
        for column in 0..map[0].len() as i64 {
            for (down, right) in [(0, 1), (1, 0)] {
                let kind = at(row, column);
                let run = (0..).take_while(|n| at(row + n * down, column + n * right) == kind).take(20).count();
                if "BC".contains(kind) && run >= length {
                    (0..run as i64).for_each(|n| left[(row + n * down) as usize][(column + n * right) as usize] = '.');
                }
            }
        }
    }
    left
}

/// One piece of an area spreads to its neighbours until nothing changes.
fn slow_area(map: &Chars, from: (usize, usize), eight: bool) -> Vec<(usize, usize)> {
    let kind = map[from.0][from.1];
    let mut area = vec![from];
    loop {
        let next =
            (0..map.len()).flat_map(|row| (0..map[0].len()).map(move |column| (row, column))).find(|(row, column)| {
                map[*row][*column] == kind
                    && !area.contains(&(*row, *column))
                    && area.iter().any(|(r, c)| {
                        let (down, right) = (r.abs_diff(*row), c.abs_diff(*column));
                        if eight { down.max(right) == 1 } else { down + right == 1 }
                    })
            });
        match next {
            Some(cell) => area.push(cell),
            None => return area,
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, ..ProptestConfig::default() })]

    #[test]
    fn rows_are_as_the_slow_version_says(map in maps(&['B', 'C', 'B', 'C', '.', '#', ' '])) {
        // Blank lines at the ends of a drawing are no rows, and its smallest indentation is cut.
        prop_assume!([&map[0], &map[map.len() - 1]].iter().all(|row| row.iter().any(|c| *c != ' ')));
        prop_assume!(map.iter().any(|row| row[0] != ' '));
        let mut slow = map.clone();
        slow_rows(&mut slow);
        let fast = board("", "when row full of thing ignoring wall: clear, drop above", &text(&map), "");
        // Blank ends of rows are void.
        prop_assume!(fast.len() == joined(&map).len());
        prop_assert_eq!(fast, joined(&slow));
    }

    #[test]
    fn runs_and_patches_are_as_the_slow_versions_say(map in maps(&['B', 'C', 'B', '.']), length in 2_usize..5) {
        let fast = board("", &format!("on start: turn ada east\nwhen run of {length} same thing in both if turns = 0: clear"), &text(&map), "");
        let mut slow = slow_runs(&map, length);
        while slow_runs(&slow, length) != slow {
            slow = slow_runs(&slow, length);
        }
        prop_assert_eq!(fast, joined(&slow));
        let patches = board("", &format!("when patch of {length} same thing: clear"), &text(&map), "");
        let mut left = map.clone();
        for row in 0..map.len() {
            for column in 0..map[0].len() {
                if "BC".contains(map[row][column]) && slow_area(&map, (row, column), false).len() >= length {
                    left[row][column] = '.';
                }
            }
        }
        prop_assert_eq!(patches, joined(&left));
    }

    #[test]
    fn floods_are_as_the_slow_version_says(map in maps(&['.', '.', '#', 'B']), eight in any::<bool>(), seed in any::<(u8, u8)>()) {
        let (row, column) = (usize::from(seed.0) % map.len(), usize::from(seed.1) % map[0].len());
        let rule = format!("on key act: flood from column {column} row {row} into cog{}", if eight { " 8-way" } else { "" });
        let mut session = game("", &rule, &text(&map), "");
        let before = lines(session.grid());
        session.give(&"act".parse().unwrap());
        let mut slow = map.clone();
        let area = slow_area(&map, (row, column), eight);
        area.iter().for_each(|(row, column)| slow[*row][*column] = 'C');
        prop_assert_eq!(lines(session.grid()), joined(&slow));
        prop_assert_eq!(session.answers().last().unwrap().actions[0].size, Some(area.len() as u32));
        let count = |session: &Session| session.grid().board().count(KindId(7));
        prop_assert_eq!(count(&session) as usize, area.len());
        session.give(&crate::input::Input::Undo);
        prop_assert_eq!(lines(session.grid()), before);
        prop_assert_eq!(count(&session), 0);
    }

    #[test]
    fn single_pieces_fall_as_the_slow_version_says(map in maps(&['B', 'C', '.', '.', '#'])) {
        let mut slow = map.clone();
        for _ in 0..slow.len() {
            for row in (0..slow.len().saturating_sub(1)).rev() {
                for column in 0..slow[0].len() {
                    if "BC".contains(slow[row][column]) && slow[row + 1][column] == '.' {
                        slow[row + 1][column] = slow[row][column];
                        slow[row][column] = '.';
                    }
                }
            }
        }
        prop_assert_eq!(board("", "when thing: fall thing south", &text(&map), ""), joined(&slow));
    }

    /// Whatever a shape is asked for, its pieces keep their form, and undo brings everything back.
    #[test]
    fn shapes_keep_their_form(inputs in prop::collection::vec(prop::sample::select(vec!["left", "right", "up", "down", "act", "alt"]), 1..30),
                              map in maps(&['.', '.', '.', '#', 'm'])) {
        let rules = "ada into box: shove\nbox into mat: pass\non start: spawn shape hook at column 0 row 0\n\
                     on key act: rotate active clockwise try 1,0 try 0,1\non key alt: fall box south\ncog into box: shove\n\
                     on key left: step active west\non key right: step active east\non key up: step active north\n\
                     on key down: step active south";
        let mut session = game(SHAPES, rules, &text(&map), "");
        let cells = |session: &Session| -> Vec<Cell> {
            let board = session.grid().board();
            session.grid().active().iter().filter_map(|piece| board.cell_of(*piece)).map(|id| board.cell(id)).collect()
        };
        let mut boards = vec![lines(session.grid())];
        for input in inputs {
            session.give(&input.parse().unwrap());
            boards.push(lines(session.grid()));
            let form = cells(&session);
            prop_assert!(form.is_empty() || form.len() == 3);
            // Three cells of a hook lie in a square of two, whichever way it is turned.
            for (a, b) in form.iter().zip(form.iter().skip(1)) {
                prop_assert!(a.column.abs_diff(b.column) <= 1 && a.row.abs_diff(b.row) <= 1, "{:?}", form);
            }
        }
        for expected in boards.iter().rev().skip(1) {
            session.give(&crate::input::Input::Undo);
            prop_assert_eq!(&lines(session.grid()), expected);
        }
    }
}

/// The classic mistakes of whole-grid rules, each by a case that the mistaken version would get wrong.
#[test]
fn classic_mistakes_would_be_caught() {
    // One column short: the last cell of the row is the gap.
    assert_eq!(board("", "when row full of box: clear", "BBB.\n.BBB", ""), "BBB./.BBB");
    // Counting one range and clearing another.
    let counted = game("counter n", "when row full of box ignoring wall: clear, add matched to n", "B#BB\n#...", "");
    assert_eq!((lines(counted.grid()).as_str(), counter(&counted, "n")), (".#../#...", 3));
    // Walls that fall with the rest.
    assert_eq!(board("", "when row full of box ignoring wall: clear, drop above", "#C.\nBBB\n...", ""), "#C./.../...");
    assert_eq!(board("", "when row full of box ignoring wall: clear, drop above", "#B.\nBBB", ""), "#../.B.");
    // The row that comes into the place of a cleared one is looked at again.
    let again = "when row full of box: clear, add 1 to n, drop above\nwhen box on mat: place box at column 1 row 1";
    assert_eq!(counter(&game("counter n", again, "Bm\nBB", ""), "n"), 1);
    // Food on the body: every draw is of an empty cell, also where few are left.
    for seed in 0..40 {
        let sections = format!("seed {seed}\ntrail ada leaves box, 5 long");
        let inputs = "right right down left act";
        let fed = board(&sections, "on key act: spawn net at random empty", "A..\n...", inputs);
        assert_eq!(fed, "BBB/nAB", "seed {seed}: one cell is free, and the draw is of it");
    }
    // A full board: the search for a free cell ends, and says so.
    let full = game("", "on key act: spawn cog at random empty\nlose when blocked", "AB\nBB", "act");
    assert_eq!(full.grid().outcome(), Some(Ended::Lost));
    assert_eq!(full.answers().last().unwrap().actions[0].reason.as_deref(), Some("board full"));
}

#[test]
fn a_flood_of_a_large_board_is_one_change() {
    let source = "game \"G\"\ncell 1 px\nkinds\n  plank . floor\n  damp d floor\nground plank\nmap \"M\" 600 x 600 of plank\n\
                  rules\n  on key act: flood from column 300 row 300 into damp";
    let reading = crate::rulebook::read_text(source, &|_| Err("none".into()));
    let mut grid = Grid::new(std::sync::Arc::new(reading.rulebook.unwrap()), 0, None, &mut Nobody).unwrap();
    grid.input(&"act".parse().unwrap(), &mut Nobody);
    assert_eq!(grid.board().count(KindId(1)), 360_000);
    assert_eq!(grid.board().numbered(), 0, "nothing gets a number of its own");
    assert_eq!(grid.board().kind_at(CellId(77), 0), Some(KindId(1)));
    grid.undo();
    assert_eq!((grid.board().count(KindId(1)), grid.board().count(KindId(0))), (0, 360_000));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, ..ProptestConfig::default() })]

    /// A head and its trail beside a list that is kept by hand.
    #[test]
    fn trails_are_as_the_slow_version_says(
        inputs in prop::collection::vec(prop::sample::select(vec!["left", "right", "up", "down", "act"]), 1..40),
        long in 0_usize..5, last in any::<bool>(), columns in 2_i64..5, rows in 2_i64..5,
    ) {
        let how = if last { "last" } else { "first" };
        let sections = format!("trail ada leaves box, {long} long, tail leaves {how}");
        let map = (0..rows).map(|row| if row == 0 { format!("A{}", ".".repeat(columns as usize - 1)) } else { ".".repeat(columns as usize) });
        let map: Vec<String> = map.collect();
        let mut session = game(&sections, "on key act: grow 2", &map.join("\n"), "");
        let (mut head, mut tail, mut limit) = ((0_i64, 0_i64), Vec::<(i64, i64)>::new(), long);
        for input in inputs {
            session.give(&input.parse().unwrap());
            let (dx, dy) = match input { "left" => (-1, 0), "right" => (1, 0), "up" => (0, -1), "down" => (0, 1), _ => (0, 0) };
            if input == "act" {
                limit += 2;
            } else {
                let to = (head.0 + dx, head.1 + dy);
                let leaves = !last && tail.len() + 1 > limit && tail.first() == Some(&to);
                let free = to.0 >= 0 && to.1 >= 0 && to.0 < columns && to.1 < rows && (!tail.contains(&to) || leaves);
                if free {
                    tail.push(head);
                    head = to;
                    while tail.len() > limit {
                        tail.remove(0);
                    }
                }
            }
            let glyph = |x, y| if head == (x, y) { 'A' } else if tail.contains(&(x, y)) { 'B' } else { '.' };
            let slow: Vec<String> = (0..rows).map(|y| (0..columns).map(|x| glyph(x, y)).collect()).collect();
            prop_assert_eq!(lines(session.grid()), slow.join("/"), "after {}", input);
        }
    }

    /// What is filled in at the north edge is what dropping one drawn piece after another down its column gives.
    #[test]
    fn refills_are_as_the_slow_version_says(map in maps(&['.', '.', 'B', '#']), seed in 0_u64..1000) {
        // Boxes hang where they are drawn until the first fall.
        let fast = board(&format!("seed {seed}"), "on key act: refill thing at north", &text(&map), "act");
        let mut random = super::random::Random::new(seed);
        let mut slow = map.clone();
        loop {
            let empty: Vec<usize> = (0..slow[0].len()).filter(|column| slow[0][*column] == '.').collect();
            if empty.is_empty() {
                break;
            }
            for column in empty {
                slow[0][column] = if random.below(2) == 0 { 'B' } else { 'C' };
            }
            for _ in 0..slow.len() {
                for row in (0..slow.len() - 1).rev() {
                    for column in 0..slow[0].len() {
                        if "BC".contains(slow[row][column]) && slow[row + 1][column] == '.' {
                            slow[row + 1][column] = std::mem::replace(&mut slow[row][column], '.');
                        }
                    }
                }
            }
        }
        prop_assert_eq!(fast, joined(&slow));
    }

    /// Under random whole-grid rules undo and winding bring back every board, and what is watched changes nothing.
    #[test]
    fn whole_grid_turns_are_taken_back(
        rules in prop::collection::vec(prop::sample::select(vec![
            "when row full of thing: clear, drop above, add matched to n",
            "when column full of thing ignoring wall: clear, drop left-of",
            "when run of 3 same thing in both: clear",
            "when patch of 4 same thing: clear, add matches to n",
            "when thing: fall thing south",
            "when box on mat: become cog",
            "on key act: refill thing at west",
            "on key alt: flood from the ada into net",
            "on key alt: flood from column 0 row 0 into cog 8-way",
            "on key act: spawn shape hook at random empty",
            "on key alt: rotate active clockwise try 1,0, lock active",
            "ada into thing: shove",
            "thing into thing: shove",
            "box into edge: wrap",
        ]), 1..8),
        map in maps(&['.', '.', 'B', 'C', 'm', '#']),
        inputs in prop::collection::vec(prop::sample::select(vec!["left", "right", "up", "down", "act", "alt"]), 1..14),
    ) {
        let mut map = map;
        map[0][0] = 'A';
        let sections = format!("{SHAPES}\ncounter n\ntrail cog leaves mat, 2 long");
        let mut session = game(&sections, &rules.join("\n"), &text(&map), "");
        let state = |session: &Session| (lines(session.grid()), counter(session, "n"), session.grid().outcome());
        let mut silent = Grid::new(session.grid().book().clone(), 0, None, &mut Nobody).unwrap();
        let mut states = vec![state(&session)];
        for input in &inputs {
            let input = input.parse().unwrap();
            session.give(&input);
            silent.input(&input, &mut Nobody);
            prop_assert_eq!(silent.picture().join("/"), lines(session.grid()), "watched and not watched");
            states.push(state(&session));
        }
        for (at, expected) in states.iter().enumerate().rev() {
            session.go(at);
            prop_assert_eq!(&state(&session), expected);
        }
        for expected in states.iter().rev() {
            prop_assert_eq!(silent.picture().join("/"), expected.0.clone());
            silent.undo();
        }
    }
}

#[test]
fn a_fall_without_end_is_taken_back_and_named() {
    let source = "game \"Deep\"\ncell 1 px\nkinds\n  plank . floor\n  crate c body\nground plank\nmap \"Deep\" 30 x 900 of plank\nrules\n  \
                  on key act: place crate at column 0 row 0\n  on key alt: refill crate at north\n  when crate: fall crate south\n";
    let reading = crate::rulebook::read_text(source, &|_| Err("none".into()));
    let book = std::sync::Arc::new(reading.rulebook.unwrap());
    let mut session = Session::new(crate::tape::Start::map(book, 0)).unwrap();
    session.give(&"act".parse().unwrap());
    let before = lines(session.grid());
    assert_eq!((session.grid().outcome(), session.grid().board().count(KindId(1))), (None, 1));
    session.give(&"alt".parse().unwrap());
    assert_eq!(session.grid().outcome(), Some(Ended::NeverSettles), "27,000 crates ask more often than a turn may");
    assert_eq!(lines(session.grid()), before);
    assert_eq!(session.answers().last().unwrap().turn, None);
}
