//! The catalogue of known mistakes, each an executable wrong version of a right function.
//!
//! `forth` holds the way from a position to a cell, `back` the ways from a cell to its middle, its index and the test
//! whether it is on the board, `slips` the mistakes of a whole game, `version` which mistake does what where, `diagnosis` the search for the mistake behind
//! somebody's numbers.

mod back;
mod catalogue;
mod diagnosis;
mod fit;
mod fitted;
mod forth;
mod samples;
mod slips;
mod version;

#[cfg(test)]
mod tests;

pub use back::{Back, IndexSlip, InsideSlip, Unindex};
pub use catalogue::Mishap;
pub use diagnosis::{Diagnosis, Explanation, Given, diagnose};
pub use forth::{Asked, AxisNumbers, Numbers, Recipe, right_cell};
pub use samples::{Asks, Board, Name, Names, Sample, SampleError, Samples, parse_samples};
pub use slips::{Listed, Played, Slip, Slipped, Sort, catalogue, slips_of};
pub use version::{Target, Version};
