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
        let kinds: SmallVec<[KindId; 8]> = board.kinds_at(id).collect();
        self.book.glyph_of(&kinds)
    }
}
