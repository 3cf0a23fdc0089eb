//! The one that is asked: requests and their answers, turns, settling, outcomes (docs/model.md, sections 3, 4 and 10).

mod acts;
mod bonds;
mod conditions;
mod deciding;
mod effects;
mod flood;
mod glide;
mod ledger;
mod lines;
mod plan;
mod random;
mod report;
mod riders;
mod settle;
mod shapes;
mod state;
mod tables;
mod trails;
mod turn;

pub use flood::area as flood_area;
pub use ledger::{Asked, Check, CheckKind, Nobody, Reason, Request, Shoved, Watch};
pub use plan::Step;
pub use report::{ActionReport, Answer, Counts, Fired, Recorder, Rings, Settled};
pub use state::{Due, Ended, Grid, LayoutError};
pub use turn::{Preview, Taken};

#[cfg(test)]
mod motion_tests;
#[cfg(test)]
mod reference_tests;
#[cfg(test)]
mod tests;
#[cfg(test)]
mod whole_tests;
