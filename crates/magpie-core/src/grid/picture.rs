//! The board as characters.

use super::state::Grid;
use crate::rulebook::KindId;
use crate::space::{Cell, RowsFrom};
use smallvec::SmallVec;

impl Grid {
    /// The board as it is seen: top line first, one character a cell.
    pub fn picture(&self) -> Vec<String> {
        let extent = self.map_extent();
        let rows = i64::from(extent.rows);
        (0..rows)
            .map(|line| {
                let row = if self.book.geometry.rows == RowsFrom::Top { line } else { rows - 1 - line };
                (0..i64::from(extent.columns)).map(|column| self.glyph(Cell::new(column, row))).collect()
            })
            .collect()
    }

    /// The character that stands for a cell of the board.
    pub fn glyph(&self, cell: Cell) -> char {
        let board = &self.state.board;
        let Some(id) = board.id(self.switches.margin.inner(cell)).filter(|id| !board.is_void(*id)) else {
            return ' ';
        };
        let is_piece = |kind: &KindId| Some(*kind) != self.book.ground;
        let mut pieces = board.kinds_at(id).filter(is_piece);
        let (first, second) = (pieces.next(), pieces.next());
        match (first, second) {
            (Some(_), Some(_)) => self.book.glyph_of(&board.kinds_at(id).collect::<SmallVec<[KindId; 8]>>()),
            (Some(kind), None) => self.book.kind(kind).glyph,
            (None, _) => board.kinds_at(id).next().map_or('_', |kind| self.book.kind(kind).glyph),
        }
    }
}
