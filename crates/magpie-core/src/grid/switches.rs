//! Steps of the machinery done wrong on purpose: how a program with a known mistake would play, where no rewriting of the
//! rulebook says it. A right game has none of them, and pays nothing for them.

use crate::space::{Cell, Extent};
use std::collections::VecDeque;

/// One step done wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Switch {
    /// Void is walked as bare ground.
    VoidWalked,
    /// What lies beyond the board is walked, as far as the board was widened.
    MarginWalked,
    /// A step off the east or west edge goes on in the next or the previous row.
    RowWraps,
    /// A step off an edge comes in on the far side.
    EdgesJoin,
    /// The controlled piece enters cells that only the default refuses.
    VacancyForgotten,
    /// No limit and no stop holds between pieces that are shoved.
    PushUnlimited,
    /// Only one body is ever set in motion.
    PushOneOnly,
    /// What is shoved enters whatever stands there.
    PushIntoPiece,
    /// Who shoves stays.
    PusherStays,
    /// Who shoves enters also where the shoved cannot move.
    PusherEnters,
    /// A cell that the controlled piece has left still counts as taken by it.
    OldCellKept,
    /// Of a swap only the first side moves, the other is lost.
    SwapHalf,
    /// Who gets off a carrier steps from the cell where it got on.
    StaysRegistered,
    /// The `when` rules run through once.
    NotLookedAgain,
    /// A line counts as full though its last cell is not.
    RowOneShort,
    /// Behind cleared lines pieces of every kind come down.
    WallsDrop,
    /// Behind cleared lines each piece comes down as far as it can.
    FallsToTheBottom,
    /// A trail grows one move late.
    GrowsLate,
}

/// Columns and rows that a board has besides its map, in the order in which they are counted.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Margin {
    /// Columns before the first and behind the last.
    pub columns: (u32, u32),
    /// Rows before the first and behind the last.
    pub rows: (u32, u32),
}

impl Margin {
    /// The extent of a board with it.
    pub const fn around(self, extent: Extent) -> Extent {
        Extent {
            columns: extent.columns + self.columns.0 + self.columns.1,
            rows: extent.rows + self.rows.0 + self.rows.1,
        }
    }

    /// A cell of the map as the board counts it.
    pub fn inner(self, cell: Cell) -> Cell {
        Cell::new(cell.column + i64::from(self.columns.0), cell.row + i64::from(self.rows.0))
    }

    /// A cell of the board as the map counts it.
    pub fn outer(self, cell: Cell) -> Cell {
        Cell::new(cell.column - i64::from(self.columns.0), cell.row - i64::from(self.rows.0))
    }
}

/// Everything that a game does wrong on purpose.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Switches {
    on: u32,
    /// How far the board goes on beyond its map.
    pub margin: Margin,
}

impl Switches {
    /// With one more step done wrong.
    #[must_use]
    pub const fn with(self, switch: Switch) -> Self {
        Self { on: self.on | 1 << switch as u32, ..self }
    }

    /// Whether a step is done wrong.
    #[inline]
    pub const fn has(self, switch: Switch) -> bool {
        self.on >> switch as u32 & 1 == 1
    }

    /// Whether everything is done right.
    #[inline]
    pub const fn is_right(self) -> bool {
        self.on == 0
    }

    /// Whether two pieces of a layer may come to stand in one cell.
    pub const fn lets_share(self) -> bool {
        self.has(Switch::VacancyForgotten)
            || self.has(Switch::PushIntoPiece)
            || self.has(Switch::PusherEnters)
            || self.has(Switch::PusherStays)
            || self.has(Switch::StaysRegistered)
    }
}

/// What is taken as given instead of drawn at random, in order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Dealt {
    /// Cells in which something is put down.
    pub spawned: VecDeque<Cell>,
    /// Names of kinds and shapes.
    pub drawn: VecDeque<String>,
    /// The first of them that the rules do not allow.
    pub wrong: Option<String>,
}

impl Dealt {
    /// The first that is not as the rules have it: one that they do not allow, or one too many.
    pub fn fault(&self) -> Option<String> {
        let cell = |cell: &Cell| format!("nothing was to be put down at {},{}", cell.column, cell.row);
        let name = |name: &String| format!("`{name}` was not to be drawn");
        self.wrong.clone().or_else(|| self.spawned.front().map(cell)).or_else(|| self.drawn.front().map(name))
    }
}
