//! Inputs as a person gives them, the tape they are kept on, and scenarios.

mod input;
mod scenario;
mod session;

#[cfg(test)]
mod tests;

pub use input::{Input, InputError, LONGEST_WAIT, parse_inputs};
pub use scenario::{Failure, ScenarioReport, run_scenario};
pub use session::{Branch, Entry, Session, Start};
