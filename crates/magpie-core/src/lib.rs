//! The model behind Rapid Magpie: grid positions, boards, rulebooks, and the grid that answers requests.
//!
//! The crate knows no clock, file, thread, terminal or colour value. A rulebook comes in as bytes, inputs come in as
//! values, and everything that comes out is a value; the same rulebook, seed and inputs give the same states everywhere.

pub mod board;
pub mod formula;
pub mod grid;
pub mod input;
pub mod limits;
pub mod mishap;
pub mod pace;
pub mod rulebook;
pub mod space;
pub mod tape;
