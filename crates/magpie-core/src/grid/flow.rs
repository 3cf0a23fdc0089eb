//! How a game stands, why a turn ends before its time, what falls due, and what becomes of an input.

use crate::space::Cell;
use thiserror::Error;

/// How a game stands when it goes on no longer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ended {
    /// Won.
    Won,
    /// Lost.
    Lost,
    /// The last turn was taken back because its rules never came to rest; the game goes on.
    NeverSettles,
}

impl Ended {
    /// The words of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Won => "won",
            Self::Lost => "lost",
            Self::NeverSettles => "never settles",
        }
    }
}

/// Why a rulebook cannot be played.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum LayoutError {
    /// There is no such map.
    #[error("there is no map {0}: the rulebook has {1}")]
    NoMap(usize, usize),
    /// More pairs of kinds and clauses than the limit; a rulebook that was read has no more.
    #[error("too many meeting clauses for so many kinds: at most 16,000,000 pairs")]
    TooManyClauses,
}

/// Why a turn ends before its time.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Flow {
    /// The map begins again.
    Restart,
    /// The next map begins.
    NextMap,
    /// The rules do not come to rest.
    NeverSettles,
}

/// Whether a turn goes on.
pub(super) type Goes = Result<(), Flow>;

/// What happens by itself when the clock moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Due {
    /// Gliders or riders come into another cell.
    Glide,
    /// A timer fires, by its number.
    Timer(usize),
}

/// What became of an input.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Taken {
    /// It did something and belongs on the tape.
    Yes,
    /// It did nothing.
    No,
}

/// A tap or a drag: the cells, on the board or off it, where the finger went down and up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Touch {
    pub down: Cell,
    pub up: Cell,
}
