//! The places of a cell at which conversions go wrong, and a pass over all cells.

use super::{Cell, Extent, Geometry, RowsFrom, WorldPoint};

/// A place of a cell, or right beside it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Landmark {
    /// Where on the screen: `north-west`, `centre`, `beyond east` ...
    pub name: &'static str,
    /// Pixels from the cell's corner, counted the way columns and rows count.
    pub local: (f64, f64),
    /// In the world.
    pub world: WorldPoint,
}

/// The nine points of a cell, at nothing, half and the whole of its size, row by row from the top of the screen; then
/// four one pixel beyond the middles of its edges.
pub fn landmarks(geometry: &Geometry, extent: Extent, cell: Cell) -> [Landmark; 13] {
    const NAMES: [[&str; 3]; 3] =
        [["north-west", "north", "north-east"], ["west", "centre", "east"], ["south-west", "south", "south-east"]];
    let (w, h) = geometry.size;
    let from_top = geometry.rows == RowsFrom::Top;
    let spot =
        |name: &'static str, local: (f64, f64)| Landmark { name, local, world: geometry.point_in(extent, cell, local) };
    let (north, south) = if from_top { (-1.0, h + 1.0) } else { (h + 1.0, -1.0) };
    let beyond = [
        spot("beyond west", (-1.0, h / 2.0)),
        spot("beyond east", (w + 1.0, h / 2.0)),
        spot("beyond north", (w / 2.0, north)),
        spot("beyond south", (w / 2.0, south)),
    ];
    std::array::from_fn(|at| {
        if at >= 9 {
            return beyond[at - 9];
        }
        let (line, column) = (at / 3, at % 3);
        let down = if from_top { line } else { 2 - line };
        spot(NAMES[line][column], (w * column as f64 / 2.0, h * down as f64 / 2.0))
    })
}

/// What a pass over all cells found.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Pass {
    /// Cells looked at.
    pub cells: u64,
    /// Cells whose centre does not come back to them, and the first of them.
    pub centres: (u64, Option<Cell>),
    /// Cells whose own corner falls to a neighbour, and the first.
    pub corners: (u64, Option<Cell>),
    /// Cells whose index does not come back to them, and the first.
    pub indices: (u64, Option<Cell>),
}

/// Takes every cell of a board to its centre, its corner and its index and back, in reading order.
pub fn pass_over(geometry: &Geometry, extent: Extent) -> Pass {
    let mut pass = Pass { cells: extent.cells(), ..Pass::default() };
    let count = |found: &mut (u64, Option<Cell>), back: Option<Cell>, cell: Cell| {
        if back != Some(cell) {
            found.0 += 1;
            found.1.get_or_insert(cell);
        }
    };
    for row in 0..i64::from(extent.rows) {
        for column in 0..i64::from(extent.columns) {
            let cell = Cell::new(column, row);
            count(&mut pass.centres, Some(geometry.cell_at(extent, geometry.centre(extent, cell))), cell);
            count(&mut pass.corners, Some(geometry.cell_at(extent, geometry.corner(extent, cell))), cell);
            let index = geometry.index(extent, cell);
            count(&mut pass.indices, index.and_then(|index| geometry.cell_of_index(extent, index)), cell);
        }
    }
    pass
}
