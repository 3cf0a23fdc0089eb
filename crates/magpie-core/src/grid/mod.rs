//! The one that is asked: requests and their answers, turns, settling, outcomes (docs/model.md, sections 3, 4 and 10).

mod acts;
mod conditions;
mod effects;
mod glide;
mod ledger;
mod plan;
mod random;
mod report;
mod riders;
mod state;
mod tables;
mod turn;

pub use ledger::{Check, CheckKind, Nobody, Reason, Request, Shoved, Watch};
pub use plan::Step;
pub use report::{ActionReport, Answer, Recorder};
pub use state::{Due, Ended, Grid, LayoutError, laid_out};
pub use turn::{Preview, Taken};

#[cfg(test)]
mod motion_tests;
#[cfg(test)]
mod reference_tests;
#[cfg(test)]
mod tests;
