//! Actions that ask: steps of one or of many pieces.

use super::effects::Context;
use super::ledger::Watch;
use super::plan::Step;
use super::report::ActionReport;
use super::state::Grid;
use super::turn::Flow;
use crate::board::{CellId, PieceId};
use crate::rulebook::{Act, HeadingWord};
use crate::space::Heading;

/// Tells an action's answer; whether it was granted.
fn told<W: Watch>(action: &'static str, refusal: Option<&str>, watch: &mut W) -> bool {
    let granted = refusal.is_none();
    watch.action(ActionReport { action, granted, reason: refusal.map(String::from), size: None });
    granted
}

impl Grid {
    pub(super) fn action<W: Watch>(&mut self, act: &Act, context: &Context, watch: &mut W) -> Result<bool, Flow> {
        match act {
            Act::Step { pieces, heading, times } => {
                let pieces = self.pieces(pieces, context);
                self.step_all(pieces, heading, *times, context, watch)
            }
            Act::Steer(set, heading) => {
                let pieces = self.pieces(&crate::rulebook::Pieces::Every(*set, None), context);
                pieces.iter().for_each(|piece| self.state.board.turn(*piece, Some(*heading)));
                Ok(!pieces.is_empty())
            }
            Act::Choose(spot) => {
                let cell = spot.as_ref().map(|spot| self.spot(spot, &context.view));
                let refusal = (cell == Some(None)).then_some("no such cell");
                if refusal.is_none() {
                    self.state.small.chosen = cell.flatten();
                }
                Ok(told("choose", refusal, watch))
            }
            Act::Swap { one, other, if_run: false } => {
                let cells = [one, other].map(|spot| self.spot(spot, &context.view));
                let refusal = self.swap_cells(cells).err();
                self.granted_something |= refusal.is_none();
                Ok(told("swap", refusal, watch))
            }
            // Everything else is refused when a game begins: the rulebook names it as not built.
            _ => Ok(false),
        }
    }

    /// The topmost pieces of two cells exchange cells; the reason where they do not.
    fn swap_cells(&mut self, cells: [Option<CellId>; 2]) -> Result<(), &'static str> {
        let [Some(one), Some(other)] = cells else {
            return Err("no such cell");
        };
        if one == other {
            return Err("twice the same cell");
        }
        let board = &self.state.board;
        let layer = |piece: PieceId| board.layer(board.kind_of(piece));
        let moves = match (self.top_piece(one), self.top_piece(other)) {
            (None, None) => return Err("both cells are empty"),
            (Some(first), Some(second)) if layer(first) != layer(second) => return Err("between two layers"),
            (Some(first), Some(second)) => vec![(first, other), (second, one)],
            (Some(first), None) => vec![(first, other)],
            (None, Some(second)) => vec![(second, one)],
        };
        // Into a cell that counts as empty a piece of the ground's own layer cannot go.
        if moves.len() == 1 && board.kind_at(moves[0].1, layer(moves[0].0)).is_some() {
            return Err("between two layers");
        }
        self.state.board.shift(&moves);
        Ok(())
    }

    /// One request for every piece, in an order fixed beforehand; each may ask several times in a row.
    fn step_all<W: Watch>(
        &mut self,
        pieces: Vec<PieceId>,
        word: &HeadingWord,
        times: u32,
        context: &Context,
        watch: &mut W,
    ) -> Result<bool, Flow> {
        let mut order: Vec<(Heading, i64, usize, PieceId)> = Vec::with_capacity(pieces.len());
        for (reading, piece) in pieces.into_iter().enumerate() {
            let Some(heading) = self.heading_word(piece, word, &context.view) else {
                continue;
            };
            let Some(cell) = self.state.board.cell_of(piece) else {
                continue;
            };
            let cell = self.state.board.cell(cell);
            let step = Step::along(heading, self.book.geometry.south());
            let ahead = cell.column * step.columns + cell.row * step.rows;
            order.push((heading, -ahead, reading, piece));
        }
        order.sort_unstable();
        let mut granted = false;
        for (heading, _, _, piece) in order {
            let mut heading = heading;
            for _ in 0..times {
                let step = Step::along(heading, self.book.geometry.south());
                if !self.ask(piece, step, watch)? {
                    break;
                }
                granted = true;
                if times > 1 && matches!(word, HeadingWord::Toward(_)) {
                    match self.heading_word(piece, word, &context.view) {
                        Some(next) => heading = next,
                        None => break,
                    }
                }
            }
        }
        Ok(granted)
    }
}
