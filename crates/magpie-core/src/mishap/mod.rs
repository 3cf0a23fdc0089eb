//! The catalogue of known mistakes: executable wrong versions of right functions.

mod cell;

pub use cell::{Asked, Mishap, right_cell};
