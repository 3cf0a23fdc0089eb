//! The one that is asked: requests and their answers, turns, settling, outcomes (docs/model.md, sections 3, 4 and 10).

// Data, each file for itself; it depends on no behaviour.
mod bonds;
mod context;
mod flow;
mod glide;
mod ledger;
mod plan;
mod random;
mod records;
mod report;
mod state;
mod switches;
mod tables;
mod turn;
mod watch;

// Behaviour: what the grid does with it. These files know the data, and each other only as methods of the grid.
mod acts;
mod at_hand;
mod base;
mod commit;
mod conditions;
mod deciding;
mod deeds;
mod effects;
mod enter;
mod entry;
mod flood;
mod foresight;
mod lessons;
mod lines;
mod packing;
mod picture;
mod playing;
mod questions;
mod request;
mod riders;
mod settle;
mod shapes;
mod slipping;
mod trails;

pub(crate) use at_hand::Scratch;
pub(crate) use base::Base;
pub use enter::drawn;
pub use entry::Entry;
pub use flood::area as flood_area;
pub use flow::{Due, Ended, Flow, LayoutError, Taken};
pub(crate) use foresight::Foresight;
pub use ledger::{Asked, Check, CheckKind, Reason, Request, Shoved};
pub(crate) use lessons::Foreseen;
pub(crate) use packing::Kept;
pub use plan::Step;
pub use questions::{Entering, Preview, Reach, Ties};
pub(crate) use random::Random;
pub use report::{Acted, ActionReport, Answer, Counts, Deed, Fired, Rings, Settled, Told};
pub use state::Grid;
pub use switches::{Dealt, Margin, Switch, Switches};
pub use watch::{Nobody, Recorder, Watch};

#[cfg(test)]
mod action_tests;
#[cfg(test)]
mod commit_tests;
#[cfg(test)]
mod condition_tests;
#[cfg(test)]
mod draw_tests;
#[cfg(test)]
mod games_tests;
#[cfg(test)]
mod motion_tests;
#[cfg(test)]
mod property_tests;
#[cfg(test)]
mod reference_tests;
#[cfg(test)]
mod report_tests;
#[cfg(test)]
mod ride_tests;
#[cfg(test)]
mod tests;
#[cfg(test)]
mod time_tests;
#[cfg(test)]
mod whole_tests;
