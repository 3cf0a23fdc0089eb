//! What any cell would answer a piece on its way into it, wherever the piece stands (docs/model.md, section 12).

use super::ledger::CheckKind;
use super::plan::{Facts, Step};
use super::state::Grid;
use super::tables::EDGE;
use crate::board::PieceId;
use crate::rulebook::PlainVerb;
use crate::space::{Cell, Heading};

/// What a cell would answer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Entry {
    /// The request would be refused, or it is void or the outside without a way round.
    Shut,
    /// It would be granted.
    Open,
    /// It would be granted and take the piece off the board.
    Leaves,
}

impl Grid {
    /// What a piece's request would answer with this cell as its target, as the board stands; the cell may be void or
    /// outside. Its own cell is open. A piece that is gone gets in nowhere.
    pub fn entry(&mut self, piece: PieceId, heading: Heading, target: Cell) -> Entry {
        let board = &self.state.board;
        let Some(own) = board.cell_of(piece).map(|own| board.cell(own)) else {
            return Entry::Shut;
        };
        if own == target {
            return Entry::Open;
        }
        let step = Step::along(heading, self.book.geometry.south());
        let mark = self.state.board.mark();
        let granted = self.plan_into(piece, step, (target.column - own.column, target.row - own.row));
        self.state.board.take_back(mark);
        let is_gone = self.plan.members.iter().any(|member| member.piece == piece && member.gone);
        // Over an edge or into void it goes as well as through a meeting; only what is met lies in a cell.
        let over = |decided: &super::plan::Decided| {
            decided.body == 0 && decided.verb == Some(PlainVerb::Perish) && decided.occupant.is_none()
        };
        match (granted, is_gone) {
            (false, _) => Entry::Shut,
            (true, false) => Entry::Open,
            (true, true) if self.plan.decided.iter().any(over) => Entry::Shut,
            (true, true) => Entry::Leaves,
        }
    }

    /// Whether the edge of the board leads a piece to the far side.
    pub fn wraps(&self, piece: PieceId, heading: Heading) -> bool {
        let Some(from) = self.state.board.cell_of(piece) else {
            return false;
        };
        let to = self.state.board.cell(from);
        let facts = Facts { kind: CheckKind::Edge, asker: piece, from, to, occupant: None, met: None };
        let step = Step::along(heading, self.book.geometry.south());
        self.decide_border(EDGE, &facts, step).0 == PlainVerb::Wrap
    }
}
