//! Inputs as a person gives them, the tape they are kept on, and scenarios.

mod change;
mod entry;
mod scenario;
mod session;

#[cfg(test)]
mod bounds_tests;
#[cfg(test)]
mod tests;

pub use crate::input::{Input, InputError, parse_inputs};
pub use entry::Entry;
pub use scenario::{Failure, ScenarioReport, run_scenario, scenario_start};
pub use session::{Branch, Played, Session, Start, WrongTime};
