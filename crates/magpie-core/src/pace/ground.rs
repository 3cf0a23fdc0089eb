//! Whom a mover asks: an endless track, or a map.

use crate::board::PieceId;
use crate::grid::{Entry, Grid, Recorder};
use crate::rulebook::KindId;
use crate::space::{Cell, Extent, Heading};

/// Whom a mover asks.
pub(super) trait Ground {
    /// Whether a step would be granted now.
    fn would(&mut self, mover: usize, heading: Heading) -> bool;
    /// Asks for a step and commits it.
    fn ask(&mut self, mover: usize, heading: Heading) -> bool;
    /// The cell the board has a mover in; of one that is gone the last.
    fn cell(&self, mover: usize) -> Cell;
    /// Whether a mover has left the board.
    fn is_gone(&self, mover: usize) -> bool;
    /// Whether a cell would refuse a mover's request, as the board stands; not its own.
    fn blocks(&mut self, mover: usize, heading: Heading, cell: Cell) -> bool;
    /// The size of a board whose edges end it; `None` where there is none.
    fn extent(&self) -> Option<Extent>;
    /// Whether the edge leads a mover to the far side.
    fn wraps(&self, mover: usize, heading: Heading) -> bool;
    /// What requests have shoved since this was last asked: the kind, from where and to where.
    fn take_shoved(&mut self) -> Vec<(KindId, Cell, Cell)>;
}

/// The cell that a place on a board or beyond its edge stands for: the far side where the edge wraps, else the first one
/// outside for all beyond.
pub(super) fn standing_for(extent: Extent, wraps: bool, cell: Cell) -> Cell {
    let (columns, rows) = (i64::from(extent.columns), i64::from(extent.rows));
    if wraps {
        Cell::new(cell.column.rem_euclid(columns), cell.row.rem_euclid(rows))
    } else {
        Cell::new(cell.column.clamp(-1, columns), cell.row.clamp(-1, rows))
    }
}

/// An endless track without rules, one for each mover.
pub(super) struct Track {
    pub cells: Vec<Cell>,
    pub south: i64,
}

impl Ground for Track {
    fn would(&mut self, _: usize, _: Heading) -> bool {
        true
    }

    fn ask(&mut self, mover: usize, heading: Heading) -> bool {
        let (east, south) = heading.screen_step();
        let cell = &mut self.cells[mover];
        *cell = Cell::new(cell.column + east, cell.row + south * self.south);
        true
    }

    fn cell(&self, mover: usize) -> Cell {
        self.cells[mover]
    }

    fn is_gone(&self, _: usize) -> bool {
        false
    }

    fn blocks(&mut self, _: usize, _: Heading, _: Cell) -> bool {
        false
    }

    fn extent(&self) -> Option<Extent> {
        None
    }

    fn wraps(&self, _: usize, _: Heading) -> bool {
        false
    }

    fn take_shoved(&mut self) -> Vec<(KindId, Cell, Cell)> {
        Vec::new()
    }
}

/// A map on which every step is a request.
pub(super) struct OnMap<'a> {
    pub grid: &'a mut Grid,
    pub pieces: Vec<PieceId>,
    pub last: Vec<Cell>,
    pub shoved: Vec<(KindId, Cell, Cell)>,
}

impl Ground for OnMap<'_> {
    fn would(&mut self, mover: usize, heading: Heading) -> bool {
        !self.is_gone(mover) && self.grid.preview(self.pieces[mover], heading).granted
    }

    fn ask(&mut self, mover: usize, heading: Heading) -> bool {
        let piece = self.pieces[mover];
        if self.is_gone(mover) {
            return false;
        }
        let mut heard = Recorder::default();
        let granted = self.grid.request(piece, heading, &mut heard);
        let shoved = heard.answer.requests.iter().filter(|request| request.granted).flat_map(|request| &request.shoved);
        self.shoved.extend(shoved.map(|shoved| (shoved.kind, shoved.from, shoved.to)));
        if let Some(cell) = self.grid.board().cell_of(piece) {
            self.last[mover] = self.grid.board().cell(cell);
        }
        granted
    }

    fn cell(&self, mover: usize) -> Cell {
        let cell = self.grid.board().cell_of(self.pieces[mover]);
        cell.map_or(self.last[mover], |cell| self.grid.board().cell(cell))
    }

    fn is_gone(&self, mover: usize) -> bool {
        self.grid.board().cell_of(self.pieces[mover]).is_none()
    }

    fn blocks(&mut self, mover: usize, heading: Heading, cell: Cell) -> bool {
        self.grid.entry(self.pieces[mover], heading, cell) == Entry::Shut
    }

    fn extent(&self) -> Option<Extent> {
        Some(self.grid.board().extent())
    }

    fn wraps(&self, mover: usize, heading: Heading) -> bool {
        self.grid.wraps(self.pieces[mover], heading)
    }

    fn take_shoved(&mut self) -> Vec<(KindId, Cell, Cell)> {
        std::mem::take(&mut self.shoved)
    }
}
