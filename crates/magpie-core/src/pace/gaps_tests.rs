use super::{Gaps, gaps, parse_body};
use crate::grid::{Grid, Nobody};
use crate::rulebook::read_text;
use crate::space::Cell;
use crate::space::exact::nearest;
use std::sync::Arc;

/// Where a body of some size gets in a yard of 16-px cells: `C` the cart, `#` a wall, `*` a hole that takes it away.
fn in_yard(rows: &[&str], body: &str, rules: &str) -> Gaps {
    let rows = rows.join("\n  ");
    let source = format!(
        "game \"P\"\ncell 16 px\nkinds\n  floor . floor\n  hole * mark\n  cart C body\n  wall # body\nground floor\nmap \"M\"\n  {rows}\n\
         rules\n  cart into hole: perish\n{rules}"
    );
    let reading = read_text(&source, &|_| Err("none".into()));
    let book = Arc::new(reading.rulebook.unwrap());
    let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
    let piece = grid.first_piece(book.kind_of_name("cart").unwrap()).unwrap();
    gaps(&mut grid, piece, Some(parse_body(body).unwrap()))
}

fn cells(all: &[Cell]) -> Vec<(i64, i64)> {
    all.iter().map(|cell| (cell.column, cell.row)).collect()
}

/// A gap as the cells between, the width and what lacks.
type Told = (Vec<(i64, i64)>, f64, f64);

fn told(found: &Gaps) -> Vec<Told> {
    found.gaps.iter().map(|gap| (cells(&gap.between), nearest(&gap.wide), nearest(&gap.short))).collect()
}

#[test]
fn a_door_too_narrow_is_told_with_its_width() {
    let rows = &["...#...", ".C.....", "...#..."];
    let narrow = in_yard(rows, "20", "");
    assert!(narrow.fits && !narrow.is_good());
    assert_eq!(cells(&narrow.shut), [(4, 0), (5, 0), (6, 0), (3, 1), (4, 1), (5, 1), (6, 1), (4, 2), (5, 2), (6, 2)]);
    assert_eq!(told(&narrow), [(vec![(3, 0), (3, 2)], 16.0, 4.0)]);
    assert_eq!(narrow.largest, Some([16, 16]));
    let fits = in_yard(rows, "16", "");
    assert!(fits.is_good() && fits.gaps.is_empty() && fits.beside.is_empty());
    assert_eq!(fits.cells.len(), 19, "all but the walls");
}

#[test]
fn cells_at_the_edge_are_reached_by_the_box_alone() {
    // It fills the room and cannot move at all.
    let found = in_yard(&["...", ".C.", "..."], "48", "");
    assert_eq!((found.fits, found.is_good()), (true, true));
    assert_eq!(cells(&found.beside).len(), 8);
    assert_eq!(found.largest, Some([48, 48]));
}

#[test]
fn corners_across_each_other_leave_their_distance() {
    // Past two walls that touch at a corner nothing leads; apart by a cell they leave 16 px.
    let found = in_yard(&["....#", ".C...", "..#..", "....."], "20x20", "");
    assert!(found.gaps.iter().all(|gap| nearest(&gap.short) == 4.0), "{:?}", told(&found));
    assert!(!cells(&found.cells).contains(&(4, 1)), "{:?}", found.cells);
    assert_eq!(told(&found)[0].0, [(4, 0), (2, 2)]);
}

#[test]
fn what_takes_it_away_leads_nowhere() {
    let found = in_yard(&["C*..", "####"], "8", "");
    assert_eq!((cells(&found.cells), cells(&found.shut)), (vec![(0, 0), (1, 0)], vec![]));
    assert_eq!(cells(&found.beside), []);
}

#[test]
fn a_body_that_does_not_fit_is_told_what_is_too_near() {
    let found = in_yard(&["#C#", "###"], "20x12", "");
    assert_eq!((found.fits, found.cells.len()), (false, 0));
    assert_eq!(told(&found), [(vec![(0, 0), (2, 0)], 16.0, 4.0)]);
    assert_eq!(cells(&found.shut), [(1, 0)]);
    assert_eq!(found.largest, Some([15, 9]), "5 : 3, three times");
}

#[test]
fn without_anything_in_the_way_there_is_no_largest() {
    let open = in_yard(&["C..", "..."], "20x10", "  cart into edge: wrap\n");
    assert!(open.is_good() && open.largest.is_none());
    let none = in_yard(&["C#.", "..."], "1", "  cart into wall if turns > 0: stop\n  cart into wall: stop\n");
    assert_eq!(none.largest, Some([16, 16]));
    assert!(parse_body("0x3").is_err() && parse_body("3x").is_err() && parse_body("1e3").is_err());
}

#[test]
fn rows_may_count_from_the_bottom() {
    let rows = ["...#..", ".C....", "...#..", "######"];
    let found = |head: &str| {
        let source = format!(
            "game \"P\"\ncell 16 px\n{head}kinds\n  cart C body\n  wall # body\nmap \"M\"\n  {}\n",
            rows.map(|row| row.replace('.', "_")).join("\n  ")
        );
        let book = Arc::new(read_text(&source, &|_| Err("none".into())).rulebook.unwrap());
        let mut grid = Grid::new(book.clone(), 0, None, &mut Nobody).unwrap();
        let piece = grid.first_piece(book.kind_of_name("cart").unwrap()).unwrap();
        gaps(&mut grid, piece, Some(parse_body("20").unwrap()))
    };
    let turned = |all: &[Cell]| {
        let mut cells: Vec<(i64, i64)> = all.iter().map(|cell| (3 - cell.row, cell.column)).collect();
        cells.sort_unstable();
        cells
    };
    let straight = |all: &[Cell]| all.iter().map(|cell| (cell.row, cell.column)).collect::<Vec<_>>();
    let (top, bottom) = (found(""), found("rows from bottom\ny up\n"));
    assert_eq!(turned(&bottom.cells), straight(&top.cells));
    assert_eq!(turned(&bottom.shut), straight(&top.shut));
    assert_eq!(
        (told(&top), turned(&bottom.gaps[0].between)),
        (vec![(vec![(3, 0), (3, 2)], 16.0, 4.0)], vec![(0, 3), (2, 3)])
    );
    assert_eq!(bottom.largest, top.largest);
}
