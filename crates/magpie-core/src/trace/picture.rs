//! A board as a program told it, as a game of its own that can be drawn.

use super::line::Told;
use crate::grid::{Grid, Nobody};
use crate::rulebook::{KindId, Rulebook};
use crate::space::{Cell, Extent, RowsFrom};
use std::sync::Arc;

/// The board that a line tells: as characters, or, where it tells places alone, the model's board with them. `None` where it
/// tells neither.
pub fn told_board(book: &Arc<Rulebook>, model: &Grid, told: &Told) -> Option<Grid> {
    let extent = model.map_extent();
    let mut rows: Vec<Vec<char>> = match &told.board {
        Some(rows) => rows.iter().map(|row| row.chars().collect()).collect(),
        None => model.picture().iter().map(|row| row.chars().collect()).collect(),
    };
    if told.board.is_none() && !put_places(book, model, told, &mut rows) {
        return None;
    }
    let line = |line: usize| rows.get(line).map_or(&[][..], Vec::as_slice);
    let padded =
        |number: usize| (0..extent.columns as usize).map(|at| line(number).get(at).copied().unwrap_or(' ')).collect();
    let rows: Vec<Vec<char>> = (0..extent.rows as usize).map(padded).collect();
    // Rules would change what was told.
    let mut bare = Rulebook::clone(book);
    bare.inputs.clear();
    bare.whens.clear();
    bare.trails.clear();
    let map = book.map_of(&rows)?;
    Grid::on_own_map(Arc::new(bare), Ok(Arc::new(map)), None, &mut Nobody).ok()
}

/// Puts pieces where they were told to be, away from where the model has them; whether any place is told.
fn put_places(book: &Rulebook, model: &Grid, told: &Told, rows: &mut [Vec<char>]) -> bool {
    let extent = model.map_extent();
    let below = book.ground.map_or('_', |ground| book.kind(ground).glyph);
    let mut put = |cell: Cell, glyph: char| {
        if let Some(found) = place(book, extent, cell).and_then(|(line, column)| rows.get_mut(line)?.get_mut(column)) {
            *found = glyph;
        }
    };
    if told.pieces.is_some() || !told.kinds.is_empty() {
        let mut kinds = told.kinds.clone();
        kinds.extend(told.pieces.iter().flatten().map(|piece| piece.kind));
        kinds.sort_unstable();
        kinds.dedup();
        kinds.iter().flat_map(|kind| model.standing(*kind)).for_each(|(_, _, cell)| put(cell, below));
        told.pieces.iter().flatten().for_each(|piece| put(piece.cell, book.kind(piece.kind).glyph));
        return true;
    }
    let piece = model.first_controlled();
    let here = piece.and_then(|piece| Some((piece, model.board().cell(model.board().cell_of(piece)?))));
    let there = told.cell.or_else(|| Some(told.index?.and_then(|index| book.geometry.cell_of_index(extent, index))));
    let (Some((piece, from)), Some(to)) = (here, there) else { return false };
    let glyph = book.kind(model.board().kind_of(piece)).glyph;
    let under: Vec<KindId> = {
        let board = model.board();
        let id = board.id(from);
        let kinds = id.into_iter().flat_map(|id| board.kinds_at(id));
        kinds.filter(|kind| *kind != board.kind_of(piece)).collect()
    };
    if to != Some(from) {
        put(from, book.glyph_of(&under));
        if let Some(to) = to {
            put(to, glyph);
        }
    }
    true
}

/// The line and column of a drawing where a cell stands.
fn place(book: &Rulebook, extent: Extent, cell: Cell) -> Option<(usize, usize)> {
    if !extent.contains(cell) {
        return None;
    }
    let rows = i64::from(extent.rows);
    let line = if book.geometry.rows == RowsFrom::Top { cell.row } else { rows - 1 - cell.row };
    Some((line as usize, cell.column as usize))
}
