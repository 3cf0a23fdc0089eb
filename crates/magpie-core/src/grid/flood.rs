//! Areas that are filled from a cell (docs/model.md, section 7).

use super::report::Rings;
use super::state::Grid;
use crate::board::{Board, CellId};
use crate::rulebook::KindId;

/// The connected area round a cell in which a layer holds the same kind, or nothing, ring by ring from the cell outwards.
pub fn area(board: &Board, from: CellId, layer: u8, eight: bool) -> Rings {
    let extent = board.extent();
    let (columns, rows) = (extent.columns, extent.rows);
    let wanted = board.kind_at(from, layer);
    // A border of cells that are done already, so that no neighbour has to be checked for the edge.
    let wide = columns as usize + 2;
    let at = |cell: CellId| (cell.0 / columns) as usize * wide + wide + (cell.0 % columns) as usize + 1;
    let mut done = vec![true; wide * (rows as usize + 2)];
    for row in 0..rows {
        let line = row * columns;
        let start = at(CellId(line));
        for (column, done) in done[start..start + columns as usize].iter_mut().enumerate() {
            let cell = CellId(line + column as u32);
            *done = board.kind_at(cell, layer) != wanted || board.is_void(cell);
        }
    }
    let mut rings = Rings { cells: vec![from], ends: vec![1], was: wanted, into: None };
    done[at(from)] = true;
    let (up, side) = (wide as isize, 1_isize);
    let ways = [(-side, -1_i64), (side, 1), (-up, -i64::from(columns)), (up, i64::from(columns))];
    let corners = [
        (-up - side, -i64::from(columns) - 1),
        (-up + side, 1 - i64::from(columns)),
        (up - side, i64::from(columns) - 1),
        (up + side, i64::from(columns) + 1),
    ];
    let mut first = 0;
    while first < rings.cells.len() {
        let last = rings.cells.len();
        for index in first..last {
            let cell = rings.cells[index];
            let here = at(cell) as isize;
            let more = if eight { &corners[..] } else { &[] };
            for (step, by) in ways.iter().chain(more) {
                let next = (here + step) as usize;
                if !std::mem::replace(&mut done[next], true) {
                    rings.cells.push(CellId((i64::from(cell.0) + by) as u32));
                }
            }
        }
        first = last;
        if rings.cells.len() > last {
            rings.ends.push(rings.cells.len() as u32);
        }
    }
    rings
}

impl Grid {
    /// Fills the area round a cell with a kind; the area, or the reason why nothing was done.
    /// The cells in their rings are worked out only where somebody wants to know them.
    pub(super) fn flood(
        &mut self,
        from: Option<CellId>,
        into: KindId,
        eight: bool,
        watched: bool,
    ) -> Result<Rings, String> {
        let from = from.ok_or("no such cell")?;
        let layer = self.state.board.layer(into);
        if self.state.board.kind_at(from, layer) == Some(into) {
            return Err(format!("already {}", self.book.kind(into).name));
        }
        let board = &mut self.state.board;
        let mut rings = if watched { area(board, from, layer, eight) } else { Rings::default() };
        let cells = |board: &Board| {
            if watched { rings.cells.clone() } else { area(board, from, layer, eight).cells }
        };
        board.flood(from, into, self.book.kind(into).facing, eight, cells);
        rings.into = Some(into);
        Ok(rings)
    }
}
