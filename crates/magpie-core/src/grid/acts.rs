//! Actions that ask: steps of one or of many pieces.

use super::effects::Context;
use super::ledger::Watch;
use super::plan::Step;
use super::state::Grid;
use super::turn::Flow;
use crate::board::PieceId;
use crate::rulebook::{Act, HeadingWord};
use crate::space::Heading;

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
            // Everything else is refused when a game begins: the rulebook names it as not built.
            _ => Ok(false),
        }
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
