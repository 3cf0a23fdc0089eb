//! Motion between two cells, frame by frame (docs/model.md, section 11): exact fractions throughout.

mod figures;
mod free;
mod gaps;
mod ground;
mod mover;
mod notes;
mod run;
mod script;
mod settings;
mod sums;
mod who;

#[cfg(test)]
mod lean_tests;
#[cfg(test)]
mod tests;

pub use figures::Figures;
pub use free::{BodyRun, Corner, body_size};
pub use gaps::{Gap, Gaps, gaps, parse_body};
pub use mover::{FrameState, KeyMark, Sample};
pub use notes::notes;
pub use run::{Drive, Frames, FramesError, Outcome, Plan, RunError, Shoved, TrackRun, run};
pub use script::{KeyEvent, Keys, ScriptError, keys_text, parse_keys, with_key_at};
pub use settings::{Amount, Arrival, AxisOrder, Easing, Hold, Mode, Moving, Settings};
pub use sums::{Parting, parting};
pub use who::{NoMover, mover, movers};
