//! The budgets of the architecture that the core answers for, each beside its limit or its rival.
//!
//! `cargo bench -p magpie-core`
#![allow(missing_docs, clippy::unwrap_used)]

use divan::{Bencher, black_box};
use magpie_core::board::PieceId;
use magpie_core::grid::{Grid, Nobody};
use magpie_core::input::Input;
use magpie_core::pace::{Drive, Frames, Plan, Settings, gaps, parse_keys, run};
use magpie_core::rulebook::document::Analysis;
use magpie_core::rulebook::{read, read_text};
use magpie_core::space::{Bulk, Extent, Geometry, Heading, Origin, WorldPoint, locate};
use std::fmt::Write;
use std::sync::Arc;

/// The allocator of the program.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() {
    divan::main();
}

/// A square room with a walled rim, a walker in the middle of its first row, and this many crates in the far half.
fn room(side: usize, crates: usize, rules: &str) -> (Grid, PieceId) {
    let mut source = String::from(
        "game \"Bench\"\ncell 10 px\nkinds\n  floor . floor\n  wall # body\n  man M body\n  box c body\n  hole o floor\n  mat m mark\n\
         ground floor\nmap \"Room\"\n",
    );
    let mut left = crates;
    for row in 0..side {
        let line: String = (0..side)
            .map(|column| match (row, column) {
                _ if row == 0 || column == 0 || row + 1 == side || column + 1 == side => '#',
                (1, _) if column == side / 2 => 'M',
                (2.., _) if row > side / 2 && left > 0 && column % 2 == 0 => {
                    left -= 1;
                    'c'
                }
                _ => '.',
            })
            .collect();
        writeln!(source, "  {line}").unwrap();
    }
    source.push_str("control man with arrows\nrules\n");
    source.push_str(rules);
    let reading = read_text(&source, &|_| Err(String::new()));
    assert!(reading.rulebook.is_some(), "{:?}", reading.diagnostics);
    let grid = Grid::new(Arc::new(reading.rulebook.unwrap()), 0, None, &mut Nobody).unwrap();
    let man = grid.controlled()[0];
    (grid, man)
}

const RULES: &str =
    "  man into box: shove\n  box into box: stop\n  man into hole: stop\n  when box on hole: remove box\n";

/// Limit: 100 ns. Two steps an iteration (there and back), counted as two items.
#[divan::bench(args = [0, 900])]
fn granted_steps_there_and_back(bencher: Bencher, crates: usize) {
    let (mut grid, man) = room(64, crates, RULES);
    let mut rounds = 0_u32;
    bencher.counter(2_u32).bench_local(|| {
        assert!(grid.request(black_box(man), Heading::East, &mut Nobody));
        assert!(grid.request(black_box(man), Heading::West, &mut Nobody));
        rounds += 1;
        // The journal of what can be taken back does not grow for ever in a game either.
        if rounds.is_multiple_of(4096) {
            grid.forget();
        }
    });
}

/// Limit: 60 ns.
#[divan::bench]
fn refused_step(bencher: Bencher) {
    let (mut grid, man) = room(64, 900, RULES);
    bencher.counter(1_u32).bench_local(|| assert!(!grid.request(black_box(man), Heading::North, &mut Nobody)));
}

/// Limit: linear in the length; 10 times the row costs 10 times the time.
#[divan::bench(args = [10, 100, 1000])]
fn shove_of_a_row_there_and_taken_back(bencher: Bencher, length: usize) {
    let source = format!(
        "game \"Row\"\ncell 10 px\nkinds\n  man M body\n  box c body\nmap \"Row\"\n  M{}_\ncontrol man with arrows\nrules\n  \
         man into box: shove\n  box into box: shove\n",
        "c".repeat(length)
    );
    let book = Arc::new(read_text(&source, &|_| Err(String::new())).rulebook.unwrap());
    let mut grid = Grid::new(book, 0, None, &mut Nobody).unwrap();
    let right = "right".parse().unwrap();
    bencher.counter(length).bench_local(|| {
        grid.input(&right, &mut Nobody);
        assert!(grid.undo());
    });
}

fn ten_thousand_lines() -> String {
    let mut source = String::from("game \"Large\"\ncell 10 px\nkinds\n");
    let glyphs: Vec<char> = ('\u{100}'..='\u{17e}').chain('\u{391}'..='\u{3a1}').collect();
    for (number, glyph) in glyphs.iter().enumerate() {
        writeln!(source, "  kind-{number} {glyph} {} teal", ["floor", "mark", "body"][number % 3]).unwrap();
    }
    let kinds = glyphs.len();
    for map in 0..20 {
        writeln!(source, "map \"Map {map}\"").unwrap();
        for row in 0..40 {
            let line: String = (0..60).map(|column| glyphs[(map + row * 7 + column) % kinds]).collect();
            writeln!(source, "  {line}").unwrap();
        }
    }
    source.push_str("rules\n");
    let mut lines = source.lines().count();
    let mut rule = 0;
    while lines < 10_000 {
        let (one, other) = (rule * 7 % kinds, (rule * 13 + rule / kinds) % kinds);
        let line = format!(
            "  kind-{one} into kind-{other} if c{} > {} and count kind-{one} < 9: stop, add 1 to c{}\n",
            rule % 40,
            rule % 9,
            rule % 40
        );
        source.push_str(&line);
        rule += 1;
        lines += 1;
    }
    source
}

/// Limit: 35 ms.
#[divan::bench]
fn check_of_ten_thousand_lines(bencher: Bencher) {
    let source = ten_thousand_lines();
    assert_eq!(source.lines().count(), 10_000);
    bencher.bench_local(|| {
        let reading = read(black_box(source.as_bytes()), &|_| Err(String::new()));
        assert!(!reading.has_errors(), "{:?}", reading.diagnostics.first());
        reading
    });
}

/// Positions of one conversion in bulk.
const POSITIONS: usize = 1_000_000;

struct Arrays {
    x: Vec<f64>,
    y: Vec<f64>,
    columns: Vec<i64>,
    rows: Vec<i64>,
}

/// Positions all over a board and beside it, and a grid on which every number counts.
/// Limit: 100 ms for an answer while somebody types in 10,000 lines: the text is read, all its words are painted, and what
/// could stand at the end of the last line but one is looked for.
#[divan::bench(sample_count = 20, sample_size = 1)]
fn a_key_in_ten_thousand_lines(bencher: Bencher) {
    let source = ten_thousand_lines();
    let at = source.trim_end().rfind('\n').unwrap();
    bencher.with_inputs(|| source.clone()).bench_values(|source| {
        let read = Analysis::new(source, &|_| Err(String::new()));
        (read.painted().len(), read.completions(at).len(), read.diagnostics().len())
    });
}

/// A yard of 64 × 64 cells of 16 px with posts all over it, and a cart of some size.
fn posts(body: &str) -> (Grid, Plan, PieceId) {
    let mut source = String::from("game \"Bench\"\ncell 16 px\nkinds\n  cart C body\n  post # body\nmap \"Yard\"\n");
    for row in 0..64 {
        let glyph = |column: usize| match (column, row) {
            (1, 1) => 'C',
            _ if (column * 7 + row * 11).is_multiple_of(23) && column % 3 != 1 => '#',
            _ => '_',
        };
        writeln!(source, "  {}", (0..64).map(glyph).collect::<String>()).unwrap();
    }
    write!(source, "pace\n  free 120 px/s, body {body}, slack 3 px, lined up by 16 px\n").unwrap();
    let book = Arc::new(read_text(&source, &|_| Err(String::new())).rulebook.unwrap());
    let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
    let kind = book.kind_of_name("cart").unwrap();
    // Round and round: every 400 ms another key, so that it is held up, goes past corners and is lined up.
    let keys = ["right", "down", "right", "up", "left", "down"];
    let script: Vec<String> = (0..416)
        .map(|turn| format!("{}:{}+ {}:{}-", turn * 400, keys[turn % 6], turn * 400 + 390, keys[turn % 6]))
        .collect();
    let plan = Plan {
        movers: vec![("cart".into(), Settings::of_kind(&book, kind))],
        frames: Frames::rate("60").unwrap(),
        keys: Drive::Keys(parse_keys(&script.join(" ")).unwrap()),
        until: None,
    };
    let piece = grid.first_piece(kind).unwrap();
    (grid, plan, piece)
}

/// Limit: 50 ms.
#[divan::bench(sample_count = 20, sample_size = 1)]
fn ten_thousand_frames_of_a_free_body(bencher: Bencher) {
    let (mut grid, plan, _) = posts("14 px");
    let (geometry, extent) = (grid.book().geometry.clone(), grid.board().extent());
    let frames =
        |grid: &mut Grid| grid.trial(|grid| run(&plan, &geometry, extent, Some(grid))).unwrap().remove(0).samples.len();
    assert!((9_900..=10_100).contains(&frames(&mut grid)), "{}", frames(&mut grid));
    bencher.bench_local(|| frames(&mut grid));
}

/// Limit: 1 s, of bodies that get everywhere, of those that a gap is too narrow for, and of numbers that divide nothing.
#[divan::bench(args = ["14 px", "24 px", "13.777 x 15.311 px"], sample_count = 5, sample_size = 1)]
fn gaps_of_64_by_64(bencher: Bencher, body: &str) {
    let (mut grid, _, piece) = posts(body);
    assert!(!gaps(&mut grid, piece, None).cells.is_empty());
    bencher.bench_local(|| gaps(&mut grid, piece, None));
}

fn positions() -> (Geometry, Extent, Arrays) {
    let origin = Origin::Corner(WorldPoint { x: 41.5, y: -13.0 });
    let geometry = Geometry { gap: (3.0, 5.0), origin, ..Geometry::of_cells(33.3, 30.0) };
    let spread = |at: usize, by: usize| (at * by % 80_021) as f64 / 16.0 - 300.0;
    let arrays = Arrays {
        x: (0..POSITIONS).map(|at| spread(at, 7919)).collect(),
        y: (0..POSITIONS).map(|at| spread(at, 104_729)).collect(),
        columns: vec![0; POSITIONS],
        rows: vec![0; POSITIONS],
    };
    (geometry, Extent { columns: 120, rows: 90 }, arrays)
}

/// The limit of `convert_in_bulk` is three times this: both arrays copied.
#[divan::bench]
fn convert_rival_copying_the_arrays(bencher: Bencher) {
    let (_, _, arrays) = positions();
    let (mut x, mut y) = (vec![0.0; POSITIONS], vec![0.0; POSITIONS]);
    bencher.counter(POSITIONS).bench_local(|| {
        black_box(&mut x).copy_from_slice(black_box(&arrays.x));
        black_box(&mut y).copy_from_slice(black_box(&arrays.y));
    });
}

/// Limit: three times the copying, and a quarter of one call a position.
#[divan::bench]
fn convert_in_bulk(bencher: Bencher) {
    let (geometry, extent, mut arrays) = positions();
    bencher.counter(POSITIONS).bench_local(|| {
        let bulk = Bulk::new(black_box(&geometry), extent, (7.0, -4.0));
        bulk.cells(black_box(&arrays.x), black_box(&arrays.y), &mut arrays.columns, &mut arrays.rows);
    });
}

/// `convert_in_bulk` is at least four times as fast: one call a position through the function that checks everything.
#[divan::bench]
fn convert_rival_one_call_a_position(bencher: Bencher) {
    let (geometry, extent, mut arrays) = positions();
    bencher.counter(POSITIONS).bench_local(|| {
        for at in 0..POSITIONS {
            let point = (arrays.x[at], arrays.y[at]);
            let (cell, place) = locate(black_box(&geometry), extent, None, (7.0, -4.0), &|_| false, point);
            black_box(place);
            (arrays.columns[at], arrays.rows[at]) = (cell.column, cell.row);
        }
    });
}

fn rows_game(full: bool) -> Grid {
    // A rack of 16 × 24: two full shelves, one with a post in it, and three more pieces above them.
    let mut source = String::from(
        "game \"Rack\"\ncell 10 px\nkinds\n  lantern * body\n  post # body\ncounter shelves\nmap \"Rack\"\n",
    );
    for row in 0..24 {
        let line = match row {
            20 if full => "*".repeat(16),
            22 if full => format!("{}#{}", "*".repeat(7), "*".repeat(8)),
            18 => format!("**{}*", "_".repeat(13)),
            _ => "_".repeat(16),
        };
        writeln!(source, "  {line}").unwrap();
    }
    source.push_str(
        "rules\n  when row full of lantern ignoring post if turns > 0: clear, add 1 to shelves, drop above\n",
    );
    let reading = read_text(&source, &|_| Err(String::new()));
    assert!(reading.rulebook.is_some(), "{:?}", reading.diagnostics);
    Grid::new(Arc::new(reading.rulebook.unwrap()), 0, None, &mut Nobody).unwrap()
}

/// Limit: 1 µs: the turn alone, in which two shelves are found, cleared and what stands above them comes down. Each turn
/// is played on a rack of its own, on which it has been played and taken back before, as in a game under way.
#[divan::bench(sample_size = 16)]
fn rows_found_cleared_and_dropped(bencher: Bencher) {
    let act = "act".parse().unwrap();
    bencher.with_inputs(|| warm_rack(true)).bench_local_refs(|grid| grid.input(&act, &mut Nobody));
}

fn warm_rack(full: bool) -> Grid {
    let mut grid = rows_game(full);
    grid.input(&"act".parse().unwrap(), &mut Nobody);
    assert!(grid.undo());
    grid
}

/// What of the above any turn costs: the same key on a rack without a full shelf.
#[divan::bench(sample_size = 16)]
fn rows_none_full(bencher: Bencher) {
    let act = "act".parse().unwrap();
    bencher.with_inputs(|| warm_rack(false)).bench_local_refs(|grid| grid.input(&act, &mut Nobody));
}

/// The rows of a square board with so many pieces, one after the other from the top.
fn filled_from_the_top(source: &mut String, side: usize, glyph: &str, mut left: usize) {
    for _ in 0..side {
        let row = left.min(side);
        left -= row;
        writeln!(source, "  {}{}", glyph.repeat(row), ".".repeat(side - row)).unwrap();
    }
}

/// Crates on the upper part of a square board, with nothing below them.
fn crates_in_the_air(side: usize, crates: usize) -> Grid {
    let mut source =
        String::from("game \"Loft\"\ncell 10 px\nkinds\n  plank . floor\n  box c body\nground plank\nmap \"Loft\"\n");
    filled_from_the_top(&mut source, side, "c", crates);
    source.push_str("rules\n  on key act: fall box south\n");
    let reading = read_text(&source, &|_| Err(String::new()));
    Grid::new(Arc::new(reading.rulebook.unwrap()), 0, None, &mut Nobody).unwrap()
}

/// Limit: 100 ms for 36,000 crates on 300 × 300, watched by nobody and with everything told.
#[divan::bench(args = [false, true], sample_count = 10, sample_size = 1)]
fn everything_falls(bencher: Bencher, told: bool) {
    let act: Input = "act".parse().unwrap();
    bencher.with_inputs(|| crates_in_the_air(300, 36_000)).bench_local_values(|mut grid| {
        if told {
            black_box(grid.answer(&act));
        } else {
            grid.input(&act, &mut Nobody);
        }
        grid
    });
}

/// A square board with a glider in every cell of as many of its first rows as it takes.
fn sky(side: usize, gliders: usize) -> Grid {
    let mut source =
        String::from("game \"Sky\"\ncell 10 px\nkinds\n  air . floor\n  swift s body\nground air\nmap \"Sky\"\n");
    filled_from_the_top(&mut source, side, "s", gliders);
    source.push_str("glide swift east at 37 px/s, wrapping\n");
    let reading = read_text(&source, &|_| Err(String::new()));
    Grid::new(Arc::new(reading.rulebook.unwrap()), 0, None, &mut Nobody).unwrap()
}

/// Limit: 100 ms for a second of the clock with 10,000 of them on 100 × 100, and linear in their number.
#[divan::bench(args = [1_000, 10_000, 40_000], sample_count = 10, sample_size = 1)]
fn gliders_for_a_second(bencher: Bencher, gliders: usize) {
    let second: Input = "wait:1000".parse().unwrap();
    let side = if gliders > 10_000 { 200 } else { 100 };
    bencher.with_inputs(|| sky(side, gliders)).bench_local_values(|mut grid| {
        grid.input(&second, &mut Nobody);
        grid
    });
}

fn plaster(side: u32) -> Grid {
    let source = format!(
        "game \"Wall\"\ncell 10 px\nlayers course, face\nkinds\n  mortar . course\n  damp d face\nground mortar\n\
         map \"Wall\" {side} x {side} of mortar\nrules\n  on key act: flood from column 7 row 7 into damp\n"
    );
    let reading = read_text(&source, &|_| Err(String::new()));
    Grid::new(Arc::new(reading.rulebook.unwrap()), 0, None, &mut Nobody).unwrap()
}

/// Limit: 12 times [`flood_rival_filling_the_same_bytes`].
#[divan::bench(sample_count = 20, sample_size = 1)]
fn flood_of_2048_by_2048(bencher: Bencher) {
    let act = "act".parse().unwrap();
    bencher.with_inputs(|| plaster(2048)).bench_local_values(|mut grid| {
        grid.input(&act, &mut Nobody);
        grid
    });
}

/// The slots of one layer, four bytes a cell, written once.
#[divan::bench(sample_count = 20, sample_size = 1)]
fn flood_rival_filling_the_same_bytes(bencher: Bencher) {
    bencher.with_inputs(|| vec![1_u32; 2048 * 2048]).bench_local_values(|mut slots| {
        black_box(&mut slots).fill(black_box(7));
        slots
    });
}
