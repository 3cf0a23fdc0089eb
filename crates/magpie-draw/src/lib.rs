//! Drawings of boards and positions, as SVG and as PDF with the font in it.
//!
//! Everything here turns core values into a [`Drawing`]; nothing reads a file or a clock, and the same values give the
//! same bytes everywhere.

mod board;
pub mod limits;
mod meetings;
mod pace;
pub mod palette;
#[cfg(feature = "pdf")]
mod pdf;
mod probe;
mod proof;
mod sheet;
mod story;

#[cfg(test)]
mod tests;

pub use board::{Written, board};
pub use meetings::meetings;
pub use pace::{Curve, pace};
pub use probe::probe;
pub use proof::proof;
pub use sheet::Drawing;
pub use story::{Scene, story};

use limits::{MOST_CELLS, MOST_MEETINGS, MOST_SCENES, MOST_STORY_CELLS};
use thiserror::Error;

/// Why there is no drawing.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum DrawError {
    /// The board is too large to be looked at on paper.
    #[error("a board of {0} cells is too large to draw: the limit is {MOST_CELLS}")]
    TooLarge(u64),
    /// More boards of a story than fit on paper: how many, and their cells.
    #[error(
        "a story of {0} boards and {1} cells is too long to draw: the limits are {MOST_SCENES} and {MOST_STORY_CELLS}"
    )]
    TooLong(usize, u64),
    /// More meetings than fit on paper: who asks, and what is entered.
    #[error("a table of {0} x {1} meetings is too large to draw: the limit is {MOST_MEETINGS}")]
    TooMany(usize, usize),
    /// A chart could not be drawn.
    #[error("the chart cannot be drawn: {0}")]
    Chart(String),
    /// The PDF could not be made.
    #[error("the PDF cannot be written: {0}")]
    Pdf(String),
}
