//! The board as characters.

use super::state::Grid;
use crate::rulebook::KindId;
use crate::space::{Cell, RowsFrom};

impl Grid {
    /// The board as it is seen: top line first, one character a cell.
    pub fn picture(&self) -> Vec<String> {
        let extent = self.state.board.extent();
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
        let Some(id) = board.id(cell).filter(|id| !board.is_void(*id)) else {
            return ' ';
        };
        let mut kinds: Vec<KindId> = board.kinds_at(id).filter(|kind| Some(*kind) != self.book.ground).collect();
        if kinds.len() > 1 {
            kinds.sort_unstable();
            let exact = self.book.glyphs.iter().find(|(_, stack)| {
                let mut stack: Vec<KindId> =
                    stack.iter().copied().filter(|kind| Some(*kind) != self.book.ground).collect();
                stack.sort_unstable();
                stack == kinds
            });
            if let Some((glyph, _)) = exact {
                return *glyph;
            }
        }
        let top = board.kinds_at(id).next();
        let shown = board.kinds_at(id).find(|kind| Some(*kind) != self.book.ground).or(top);
        shown.map_or('_', |kind| self.book.kind(kind).glyph)
    }
}
