//! What a rule is about: its pieces, its cell, its heading; and what it asks to be put down later.

use crate::board::{CellId, PieceId};
use crate::rulebook::{Area, KindId, SetId, ShapeId};
use crate::space::Heading;
use smallvec::SmallVec;
use std::rc::Rc;

/// Pieces of which there are seldom many.
pub(super) type Few = SmallVec<[PieceId; 4]>;

/// Numbers of rules, of which seldom many belong together.
pub(super) type Rules = SmallVec<[usize; 4]>;

/// What a condition may refer to besides the board.
#[derive(Clone, Copy, Debug, Default)]
pub struct View {
    /// The cell entered, left or matched.
    pub here: Option<CellId>,
    /// The heading asked for, or the matched piece's own.
    pub heading: Option<Heading>,
    /// Matches found together, and pieces of the one at hand.
    pub found: (u32, u32),
}

impl View {
    /// A cell and a heading, where nothing was counted.
    pub const fn of(here: Option<CellId>, heading: Option<Heading>) -> Self {
        Self { here, heading, found: (0, 0) }
    }
}

/// The pieces a rule is about.
#[derive(Clone, Debug, Default)]
pub enum Matched {
    /// The rule matches nothing.
    #[default]
    Nothing,
    /// Asker and occupant, leaver and what stays, or a piece and what shares its cell.
    Pair(PieceId, Option<PieceId>),
    /// A row, column, run or patch.
    Many(Rc<[PieceId]>),
}

impl Matched {
    /// The pieces, the first-named first.
    pub fn pieces(&self) -> impl Iterator<Item = PieceId> + '_ {
        let (first, second, many) = match self {
            Self::Nothing => (None, None, &[][..]),
            Self::Pair(first, second) => (Some(*first), *second, &[][..]),
            Self::Many(pieces) => (None, None, &pieces[..]),
        };
        first.into_iter().chain(second).chain(many.iter().copied())
    }
}

/// The pieces and the cell a rule is about.
#[derive(Clone, Debug, Default)]
pub struct Context {
    /// Its pieces.
    pub matched: Matched,
    /// What `here` and `heading` mean.
    pub view: View,
}

/// One match of a `when` rule.
#[derive(Clone, Debug)]
pub(super) struct Found {
    pub pieces: Matched,
    /// For full rows and columns the number of the line.
    pub line: i64,
}

/// What a `spawn` asks for.
#[derive(Clone, Copy, Debug)]
pub(super) enum Spawned {
    Kind(KindId),
    /// A shape, one of all by a draw where none is named.
    Shape(Option<ShapeId>),
}

/// Something asked for, to be put down when the board has settled.
#[derive(Clone, Debug)]
pub(super) struct Spawn {
    pub what: Spawned,
    pub place: Where,
}

/// A place that has been looked up as far as it can be.
#[derive(Clone, Debug)]
pub(super) enum Where {
    Cell(Option<CellId>),
    Random(Option<SetId>, Area),
}
