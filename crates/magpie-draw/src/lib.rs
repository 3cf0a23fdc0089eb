//! Drawings of boards and positions, as SVG and as PDF with the font in it.
//!
//! Everything here turns core values into a [`Drawing`]; nothing reads a file or a clock, and the same values give the
//! same bytes everywhere.

mod board;
mod pace;
pub mod palette;
#[cfg(feature = "pdf")]
mod pdf;
mod probe;
mod sheet;

#[cfg(test)]
mod tests;

pub use board::{MOST_CELLS, Written, board};
pub use pace::{Curve, pace};
pub use probe::probe;
pub use sheet::Drawing;

use thiserror::Error;

/// Why there is no drawing.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum DrawError {
    /// The board is too large to be looked at on paper.
    #[error("a board of {0} cells is too large to draw: the limit is {MOST_CELLS}")]
    TooLarge(u64),
    /// The PDF could not be written.
    #[error("the PDF cannot be written: {0}")]
    Pdf(String),
}
