//! From a cell to its middle, to its index, and the test whether it is on the board, right and wrong.

use super::forth::{AxisNumbers, Numbers};
use crate::space::{Cell, Extent, Geometry, IndexOrder};

/// How much of a cell is added to its corner.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Half {
    #[default]
    Once,
    Not,
    Twice,
}

/// How cell numbers become pixels.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Scale {
    #[default]
    Pitch,
    /// By the size alone.
    Size,
    /// Not at all, and nothing is added.
    Bare,
    /// Not at all, the origin is added.
    WithOrigin,
    /// Not at all, origin and half a cell are added.
    WithHalf,
}

/// Which cell number is taken.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum Taken {
    #[default]
    Right,
    /// That of the other axis.
    Swapped,
    /// Counted from the other edge.
    Turned,
    /// One more.
    FromOne,
}

/// A way from a cell to its middle; the default is the right one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Back {
    pub(super) half: Half,
    pub(super) scale: Scale,
    pub(super) without_origin: bool,
    pub(super) cell: Taken,
}

impl Back {
    /// The position along one axis of a cell's middle; `i` along this axis, `other` along the other one.
    pub(super) fn centre(self, axis: AxisNumbers, i: f64, other: f64) -> f64 {
        let i = match self.cell {
            Taken::Right => i,
            Taken::Swapped => other,
            Taken::Turned => f64::from(axis.count) - 1.0 - i,
            Taken::FromOne => i + 1.0,
        };
        let half = match self.half {
            Half::Once => axis.size / 2.0,
            Half::Not => 0.0,
            Half::Twice => axis.size,
        };
        let origin = if self.without_origin { 0.0 } else { axis.origin };
        match self.scale {
            Scale::Pitch => origin + axis.sign * (i * axis.pitch() + half),
            Scale::Size => origin + axis.sign * (i * axis.size + half),
            Scale::Bare => i,
            Scale::WithOrigin => origin + axis.sign * i,
            Scale::WithHalf => origin + axis.sign * (i + half),
        }
    }
}

/// A wrong place in the flat array.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum IndexSlip {
    /// Multiplied by the board's height where its width is meant, or the reverse for columns.
    ByHeight,
    /// Column and row exchanged.
    Swapped,
    /// Rows counted from the other edge.
    Turned,
    /// One more than it should be.
    FromOne,
    /// One less than it should be.
    FromZero,
}

impl IndexSlip {
    /// The wrong index of a cell.
    pub(super) fn index(self, geometry: &Geometry, extent: Extent, [column, row]: [f64; 2]) -> f64 {
        let (columns, rows) = (f64::from(extent.columns), f64::from(extent.rows));
        let first = geometry.first_index as f64;
        let by_rows = geometry.order == IndexOrder::RowMajor;
        let right = |column: f64, row: f64| if by_rows { row * columns + column } else { column * rows + row };
        first
            + match self {
                Self::ByHeight if by_rows => row * rows + column,
                Self::ByHeight => column * columns + row,
                Self::Swapped => right(row, column),
                Self::Turned => right(column, rows - 1.0 - row),
                Self::FromOne => right(column, row) + 1.0,
                Self::FromZero => right(column, row) - 1.0,
            }
    }
}

/// The right index of a cell, also where it is off the board.
pub(super) fn right_index(geometry: &Geometry, extent: Extent, [column, row]: [f64; 2]) -> f64 {
    let (columns, rows) = (f64::from(extent.columns), f64::from(extent.rows));
    let place = if geometry.order == IndexOrder::RowMajor { row * columns + column } else { column * rows + row };
    place + geometry.first_index as f64
}

/// A wrong way from an index to a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unindex {
    /// Divided by the board's height where its width is meant, or the reverse for columns.
    ByHeight,
    /// Column and row exchanged.
    Swapped,
    /// Rows counted from the other edge.
    Turned,
    /// The first index is not taken off, or one too many.
    FirstForgotten,
    /// Column and row are one too many.
    FromOne,
    /// The quotient is not made whole.
    NotFloored,
    /// The quotient is rounded.
    Rounded,
    /// The quotient is rounded up.
    Ceiled,
}

impl Unindex {
    /// The wrong column and row of an index.
    pub(super) fn cell(self, geometry: &Geometry, extent: Extent, index: f64) -> [f64; 2] {
        let (columns, rows) = (f64::from(extent.columns), f64::from(extent.rows));
        let by_rows = geometry.order == IndexOrder::RowMajor;
        let first = match (self, geometry.first_index) {
            (Self::FirstForgotten, 0) => 1.0,
            (Self::FirstForgotten, _) => 0.0,
            (_, first) => first as f64,
        };
        let place = index - first;
        let length = if by_rows == (self != Self::ByHeight) { columns } else { rows };
        let quotient = match self {
            Self::NotFloored => place / length,
            Self::Rounded => (place / length).round(),
            Self::Ceiled => (place / length).ceil(),
            _ => (place / length).floor(),
        };
        let rest = place % length;
        let [column, row] = if by_rows { [rest, quotient] } else { [quotient, rest] };
        match self {
            Self::Swapped => [row, column],
            Self::Turned => [column, rows - 1.0 - row],
            Self::FromOne => [column + 1.0, row + 1.0],
            _ => [column, row],
        }
    }
}

/// The right column and row of an index, also where it is off the board.
pub(super) fn right_cell_of_index(geometry: &Geometry, extent: Extent, index: f64) -> [f64; 2] {
    let place = index - geometry.first_index as f64;
    let by_rows = geometry.order == IndexOrder::RowMajor;
    let length = f64::from(if by_rows { extent.columns } else { extent.rows });
    let (quotient, rest) = ((place / length).floor(), place.rem_euclid(length));
    if by_rows { [rest, quotient] } else { [quotient, rest] }
}

/// A wrong test whether a cell is on the board.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum InsideSlip {
    /// `<=` for `<` at the far edges.
    FarEdges,
    /// Only the column is looked at.
    ColumnAlone,
    /// Only the row is looked at.
    RowAlone,
    /// Nothing is said about cells before the first.
    NoLowerBound,
    /// From 1 to the count.
    FromOne,
    /// Columns held against the rows' number, rows against the columns'.
    Swapped,
}

impl InsideSlip {
    /// What the wrong test says of a cell.
    pub(super) fn says(self, extent: Extent, cell: Cell) -> bool {
        let (columns, rows) = (i64::from(extent.columns), i64::from(extent.rows));
        let Cell { column, row } = cell;
        match self {
            Self::FarEdges => (0..=columns).contains(&column) && (0..=rows).contains(&row),
            Self::ColumnAlone => (0..columns).contains(&column),
            Self::RowAlone => (0..rows).contains(&row),
            Self::NoLowerBound => column < columns && row < rows,
            Self::FromOne => (1..=columns).contains(&column) && (1..=rows).contains(&row),
            Self::Swapped => (0..rows).contains(&column) && (0..columns).contains(&row),
        }
    }
}

impl Back {
    /// The position along the horizontal or the vertical axis of a cell's middle.
    pub(super) fn along(self, numbers: &Numbers, [column, row]: [f64; 2], vertical: bool) -> f64 {
        match (vertical, self.cell) {
            (true, _) => self.centre(numbers.y, row, column),
            // Turning the rows round is a mistake about rows.
            (false, Taken::Turned) => Self { cell: Taken::Right, ..self }.centre(numbers.x, column, row),
            (false, _) => self.centre(numbers.x, column, row),
        }
    }
}
