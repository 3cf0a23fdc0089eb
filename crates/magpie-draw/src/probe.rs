//! One position: its cell with the nine points, and the way in numbers.

use crate::palette::{ACCENT, COPPER, FAINT, INK, PAPER, RULE, Rgb, TEAL, TEXT, WRONG, mix};
use crate::sheet::{Anchor, Drawing, Sheet, Type};
use magpie_core::space::{
    Cell, Conversion, Extent, Geometry, Landmark, RowsFrom, Where, WorldPoint, landmarks, locate, show,
};

const MARGIN: f64 = 30.0;
const TOP: f64 = 84.0;
/// The longer side of the cell on paper.
const CELL: f64 = 240.0;
/// Room around the cell, for its neighbours and the names of points.
const AROUND: f64 = 74.0;
const LINE: f64 = 18.0;

/// Draws the cell of a position with its nine points and the four beside it, each with the cell that owns it, and the
/// arithmetic of the position line by line.
pub fn probe(title: &str, geometry: &Geometry, extent: Extent, found: &Conversion) -> Drawing {
    let cell = found.cell.unwrap_or(Cell::new(0, 0));
    let scale = CELL / geometry.size.0.max(geometry.size.1);
    let (w, h) = ((geometry.size.0 * scale).max(CELL / 5.0), (geometry.size.1 * scale).max(CELL / 5.0));
    let (left, top) = (MARGIN + AROUND, TOP + AROUND);
    let all = landmarks(geometry, extent, cell);
    let table = left + w + AROUND + 34.0;
    let longest = found.steps.iter().map(|step| step.chars().count()).max().unwrap_or(0);
    let width = table + (longest as f64 * 7.3).max(330.0) + MARGIN;
    let rows = found.steps.len() + all.len() + 5;
    let height = (top + h + AROUND + MARGIN).max(TOP + rows as f64 * LINE + MARGIN);
    let mut sheet = Sheet::new(title, width, height);
    sheet.text((MARGIN, MARGIN + 16.0), Anchor::Start, Type::new(17.0, TEXT).bold(), title);
    let index = found.index.map_or("none".into(), |index| index.to_string());
    let at = found.world.map_or(String::new(), |world| format!("px {}, {}: ", show(world.x), show(world.y)));
    let answer = format!("{at}column {}, row {}, index {index}", cell.column, cell.row);
    sheet.text((MARGIN, MARGIN + 38.0), Anchor::Start, Type::new(13.0, ACCENT).bold(), &answer);
    picture(&mut sheet, geometry, extent, cell, found.world, (left, top, w, h), &all);
    let y = steps(&mut sheet, found, (table, TOP + 12.0));
    points(&mut sheet, geometry, extent, cell, &all, (table, y));
    sheet.finish()
}

/// Whose a place is, in words, and its colour: the cell's own, its gap's, or another's.
fn owner(geometry: &Geometry, extent: Extent, cell: Cell, spot: &Landmark) -> (String, Rgb) {
    let at = (spot.world.x, spot.world.y);
    let (owner, place) = locate(geometry, extent, None, (0.0, 0.0), &|_| false, at);
    let words = format!("{},{}", owner.column, owner.row);
    match place {
        _ if owner != cell => (words, WRONG),
        Where::Gap => (format!("{words} gap"), mix(COPPER, INK, 200)),
        _ => (words, ACCENT),
    }
}

/// Where a place of the cell lies on paper, counted the way columns and rows count.
fn place(geometry: &Geometry, rect: (f64, f64, f64, f64), local: (f64, f64)) -> (f64, f64) {
    let (left, top, w, h) = rect;
    let (across, down) = (local.0 / geometry.size.0 * w, local.1 / geometry.size.1 * h);
    (left + across, if geometry.rows == RowsFrom::Top { top + down } else { top + h - down })
}

fn picture(
    sheet: &mut Sheet,
    geometry: &Geometry,
    extent: Extent,
    cell: Cell,
    world: Option<WorldPoint>,
    rect: (f64, f64, f64, f64),
    all: &[Landmark],
) {
    let (left, top, w, h) = rect;
    let paler = mix(TEAL, PAPER, 34);
    sheet.rect(rect, paler, 0.0);
    for (x, from, to) in [(left, top - 46.0, top + h + 46.0), (left + w, top - 46.0, top + h + 46.0)] {
        sheet.line((x, from), (x, to), RULE, 1.0);
    }
    for (y, from, to) in [(top, left - 46.0, left + w + 46.0), (top + h, left - 46.0, left + w + 46.0)] {
        sheet.line((from, y), (to, y), RULE, 1.0);
    }
    sheet.frame(rect, ACCENT, 1.6);
    for (number, spot) in all.iter().enumerate() {
        let mut at = place(geometry, rect, spot.local);
        if number >= 9 {
            // One pixel is too little to be seen apart on paper: these stand well outside.
            let out = |from: f64, to: f64| if (from - to).abs() < 1e-9 { 0.0 } else { (to - from).signum() * 30.0 };
            let edge = place(
                geometry,
                rect,
                (spot.local.0.clamp(0.0, geometry.size.0), spot.local.1.clamp(0.0, geometry.size.1)),
            );
            at = (edge.0 + out(edge.0, at.0), edge.1 + out(edge.1, at.1));
        }
        sheet.disc(at, 9.5, owner(geometry, extent, cell, spot).1);
        let look = Type::new(10.0, PAPER).bold();
        sheet.text((at.0, at.1 + 3.6), Anchor::Middle, look, &(number + 1).to_string());
    }
    if let Some(world) = world {
        let origin = geometry.corner_of_first(extent);
        let pitch = geometry.pitch();
        let local = (
            world.x - origin.x - cell.column as f64 * pitch.0,
            geometry.row_sign() * (world.y - origin.y) - cell.row as f64 * pitch.1,
        );
        let (x, y) = place(geometry, rect, local);
        if x >= left - 40.0 && x <= left + w + 40.0 && y >= top - 40.0 && y <= top + h + 40.0 {
            for (dx, dy) in [(9.0, 0.0), (0.0, 9.0)] {
                sheet.line((x - dx, y - dy), (x + dx, y + dy), TEXT, 1.6);
            }
        }
    }
    let name = format!("cell {},{}", cell.column, cell.row);
    sheet.text((left + w / 2.0, top + h + 64.0), Anchor::Middle, Type::new(11.0, FAINT), &name);
}

fn steps(sheet: &mut Sheet, found: &Conversion, (x, top): (f64, f64)) -> f64 {
    sheet.text((x, top), Anchor::Start, Type::new(11.0, FAINT), "the way, worked");
    let mut y = top + LINE;
    for step in &found.steps {
        sheet.text((x, y), Anchor::Start, Type::new(11.5, TEXT).mono(), step);
        y += LINE;
    }
    y + LINE
}

fn points(sheet: &mut Sheet, geometry: &Geometry, extent: Extent, cell: Cell, all: &[Landmark], (x, top): (f64, f64)) {
    sheet.text((x, top), Anchor::Start, Type::new(11.0, FAINT), "nine points, and four one pixel beyond");
    let mut y = top + LINE;
    for (number, spot) in all.iter().enumerate() {
        let (words, colour) = owner(geometry, extent, cell, spot);
        let look = Type::new(11.5, if colour == ACCENT { TEXT } else { colour }).mono();
        sheet.text((x + 18.0, y), Anchor::End, Type::new(11.5, FAINT).mono(), &(number + 1).to_string());
        sheet.text((x + 28.0, y), Anchor::Start, look, spot.name);
        let world = format!("{}, {}", show(spot.world.x), show(spot.world.y));
        sheet.text((x + 230.0, y), Anchor::End, look, &world);
        sheet.text((x + 250.0, y), Anchor::Start, look, &words);
        y += LINE;
    }
}
