//! Cells, sums and conditions: what a rule looks at.

use super::{CounterId, KindId, SetId};
use crate::limits::COUNTER_BOUND;
use crate::rulebook::syntax::{LineAt, Num, Region};
use crate::space::{Cell, Extent, Heading};

/// A counter.
#[derive(Clone, Debug)]
pub struct Counter {
    /// Its name.
    pub name: String,
    /// Its value at the beginning.
    pub start: i64,
    /// It outlives a `restart`.
    pub kept: bool,
}

/// A counter that can be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CounterRead {
    /// Turns of inputs in which something was granted.
    Moves,
    /// Turns.
    Turns,
    /// Milliseconds.
    Clock,
    /// A counter of the rulebook.
    Own(CounterId),
}

/// A cell in words.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs)]
pub enum Spot {
    Here,
    Tapped,
    Dragged,
    Dropped,
    Chosen,
    AheadOf(KindId),
    The(KindId),
    At(Cell),
}

/// Where something is placed, spawned or counted.
#[derive(Clone, Debug)]
pub enum Place {
    /// In a cell.
    At(Spot),
    /// In a random empty cell, on these kinds only, in this part only.
    RandomEmpty(Option<SetId>, Area),
}

/// A part of the board.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Area {
    /// All of it.
    Map,
    /// One row, `None` for the last.
    Row(Option<i64>),
    /// One column, `None` for the last.
    Column(Option<i64>),
}

impl Area {
    /// The area of a region in words.
    pub fn of(region: &Region) -> Self {
        match region {
            Region::Map => Self::Map,
            Region::Line { row, at } => {
                let number = match at {
                    LineAt::Number(number) => Some(whole(number)),
                    LineAt::First => Some(0),
                    LineAt::Last => None,
                };
                if *row { Self::Row(number) } else { Self::Column(number) }
            }
        }
    }

    /// Whether a cell of a board of this extent lies in the area.
    pub fn contains(self, extent: Extent, cell: Cell) -> bool {
        match self {
            Self::Map => true,
            Self::Row(row) => cell.row == row.unwrap_or(i64::from(extent.rows) - 1),
            Self::Column(column) => cell.column == column.unwrap_or(i64::from(extent.columns) - 1),
        }
    }
}

/// A whole number as written, kept within ±10^15.
pub fn whole(number: &Num) -> i64 {
    let bound = i128::from(COUNTER_BOUND);
    number.int().unwrap_or(0).clamp(-bound, bound) as i64
}

/// A sum of terms, those with the flag taken away.
#[derive(Clone, Debug)]
pub struct Sum(pub Vec<(bool, Term)>);

/// A number that can be added up.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Term {
    Int(i64),
    Counter(CounterRead),
    Count { who: SetId, on: Option<(bool, SetId)>, within: CountIn },
    Matches,
    Matched,
}

/// Where pieces are counted.
#[derive(Clone, Debug)]
pub enum CountIn {
    /// In one cell.
    Spot(Spot),
    /// In a part of the board.
    Area(Area),
}

/// How two numbers compare.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs)]
pub enum Compare {
    Equal,
    Unequal,
    Less,
    AtMost,
    More,
    AtLeast,
}

impl Compare {
    /// Whether it holds.
    pub const fn holds(self, left: i64, right: i64) -> bool {
        match self {
            Self::Equal => left == right,
            Self::Unequal => left != right,
            Self::Less => left < right,
            Self::AtMost => left <= right,
            Self::More => left > right,
            Self::AtLeast => left >= right,
        }
    }

    /// The symbol of the rulebook.
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Equal => "=",
            Self::Unequal => "!=",
            Self::Less => "<",
            Self::AtMost => "<=",
            Self::More => ">",
            Self::AtLeast => ">=",
        }
    }

    /// The comparison of a symbol of the rulebook.
    pub fn of(symbol: &str) -> Self {
        match symbol {
            "=" => Self::Equal,
            "!=" => Self::Unequal,
            "<" => Self::Less,
            "<=" => Self::AtMost,
            ">" => Self::More,
            _ => Self::AtLeast,
        }
    }
}

/// A condition.
#[derive(Clone, Debug)]
#[allow(missing_docs)]
pub enum Cond {
    Or(Vec<Cond>),
    And(Vec<Cond>),
    Not(Box<Cond>),
    Heading(Heading),
    Blocked,
    Spot(Spot),
    Beside(Spot, Spot),
    Compare(Sum, Compare, Sum),
}
