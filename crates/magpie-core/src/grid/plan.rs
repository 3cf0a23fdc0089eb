//! The plan of a request: who would move where, who would be gone, and why not. All lists are kept from one request to the
//! next: after the first turns nothing is allocated.

use super::ledger::{Check, CheckKind, Reason};
use super::tables::Clause;
use crate::board::{Board, CellId, PieceId};
use crate::rulebook::{ClauseId, KindId, PlainVerb};
use crate::space::{Cell, Heading};

/// Where a request goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Step {
    /// Columns.
    pub columns: i64,
    /// Rows, counted the way the rulebook counts them.
    pub rows: i64,
    /// The heading, none for a leap.
    pub heading: Option<Heading>,
    /// The heading that an `if` sees: that of a leap too, where it goes along a row, a column or a diagonal.
    pub seen: Option<Heading>,
}

impl Step {
    /// One cell along a heading; `south` is the row step of a step south.
    pub const fn along(heading: Heading, south: i64) -> Self {
        let (east, down) = heading.screen_step();
        Self { columns: east, rows: down * south, heading: Some(heading), seen: Some(heading) }
    }

    /// So many cells east and south at once; `south` is the row step of a step south.
    pub fn leap(east: i64, down: i64, south: i64) -> Self {
        let straight = east == 0 || down == 0 || east.abs() == down.abs();
        let seen = Heading::from_screen_step(east, down).filter(|_| straight);
        Self { columns: east, rows: down * south, heading: None, seen }
    }
}

/// A piece of a body in the plan.
#[derive(Clone, Copy, Debug)]
pub(super) struct Member {
    pub piece: PieceId,
    pub from: CellId,
    pub to: CellId,
    pub body: u32,
    /// It leaves the board instead of moving.
    pub gone: bool,
    /// It changes places with another instead of asking.
    pub swapped: bool,
    /// It is carried over the edge and stands in no cell.
    pub adrift: bool,
}

/// A meeting that was decided, for its effects.
#[derive(Clone, Copy, Debug)]
pub(super) struct Decided {
    pub body: u32,
    pub clause: ClauseId,
    /// The verb that was applied, `None` for a shove.
    pub verb: Option<PlainVerb>,
    pub asker: PieceId,
    pub occupant: Option<PieceId>,
    pub here: CellId,
}

/// How far the plan had come when a `shove` with an `else` was tried.
#[derive(Clone, Copy, Debug)]
pub(super) struct Snapshot {
    pub bodies: u32,
    pub members: usize,
    pub taken: usize,
    pub decided: usize,
    pub tails: usize,
    pub shoved: u32,
    pub checks: usize,
    pub refused: bool,
}

#[derive(Clone, Copy, Debug)]
pub(super) struct Fallback {
    pub verb: PlainVerb,
    pub clause: Clause,
    pub snapshot: Snapshot,
    pub occupant: PieceId,
}

/// A body that is asking.
#[derive(Clone, Copy, Debug)]
pub(super) struct Frame {
    pub body: u32,
    /// The member that asks, and the end of the body's members.
    pub member: usize,
    pub end: usize,
    pub target: CellId,
    /// Places of the target still to be looked at, from the top down.
    pub places: u16,
    pub looking: bool,
    pub refused: bool,
    /// Most bodies that may have been shoved in the plan.
    pub most: u32,
    pub limit: u32,
    pub fallback: Option<Fallback>,
}

/// The oldest piece of a trail, which goes when its head leaves a cell.
#[derive(Clone, Copy, Debug)]
pub(super) struct TailEnd {
    pub piece: PieceId,
    pub trail: usize,
    pub from: CellId,
}

/// Scratch of a request.
#[derive(Debug, Default)]
pub(super) struct Plan {
    pub members: Vec<Member>,
    pub taken: Vec<PieceId>,
    pub decided: Vec<Decided>,
    pub reason: Option<Reason>,
    pub checks: Vec<Check>,
    pub frames: Vec<Frame>,
    pub leaving: Vec<u32>,
    pub stamp: u32,
    pub bodies: u32,
    pub shoved: u32,
    pub slots: Vec<(u8, CellId, usize)>,
    /// The first body does not step but is carried into this cell: nothing but its own layer is met.
    pub carried: Option<Cell>,
    /// How far off the first body's targets are, where that is not one step: whether it could come into a cell from the
    /// one before it.
    pub aim: Option<(i64, i64)>,
    /// The first body falls: edge, void, `shove`, `swap` and `bounce` refuse.
    pub falling: bool,
    /// Who asks enters where it would shove.
    pub entering: bool,
    /// The oldest pieces of trails that go with what moves.
    pub tails: Vec<TailEnd>,
    pub together: Vec<PieceId>,
    /// The cells that were looked into.
    pub looked: Vec<CellId>,
    /// Clauses that have decided, where somebody wants to know.
    pub used: Vec<ClauseId>,
}

impl Plan {
    pub fn begin(&mut self, board: &Board) {
        self.members.clear();
        self.taken.clear();
        self.decided.clear();
        self.checks.clear();
        self.used.clear();
        self.looked.clear();
        self.frames.clear();
        self.tails.clear();
        self.reason = None;
        self.carried = None;
        self.aim = None;
        self.falling = false;
        self.entering = false;
        self.bodies = 0;
        self.shoved = 0;
        if self.leaving.len() < board.numbered() {
            self.leaving.resize(board.numbered() + 16, 0);
        }
        self.stamp = self.stamp.wrapping_add(1);
        if self.stamp == 0 {
            self.leaving.fill(0);
            self.stamp = 1;
        }
    }

    pub fn is_leaving(&self, piece: PieceId) -> bool {
        self.leaving.get(Board::number_of(piece)).is_some_and(|stamp| *stamp == self.stamp)
    }

    pub fn leave(&mut self, piece: PieceId) {
        let at = Board::number_of(piece);
        if at >= self.leaving.len() {
            self.leaving.resize(at + 16, 0);
        }
        self.leaving[at] = self.stamp;
    }

    pub fn stay(&mut self, piece: PieceId) {
        self.leaving[Board::number_of(piece)] = 0;
    }
}

/// What one meeting answers.
pub(super) struct Facts {
    pub kind: CheckKind,
    pub asker: PieceId,
    pub from: CellId,
    pub to: Cell,
    pub occupant: Option<KindId>,
    pub met: Option<PieceId>,
}
