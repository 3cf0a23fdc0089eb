//! Somebody else's program beside the model: what it says it did is read, played beside, and held against the game.
//!
//! `line` reads one line of a log, `beside` plays it and tells what differs, `compare` goes through a whole log and looks for
//! the mistake behind the first difference. `drive` gives a program inputs, first those that `cover` finds missing, and `part`
//! finds inputs on which two explanations differ. `frames` judges the recorded motion between cells, `fits` finds the pace that
//! moves like it. `picture` makes a board of what was told.

mod beside;
mod compare;
mod cover;
mod drive;
mod fits;
mod frames;
mod line;
mod part;
mod picture;

#[cfg(test)]
mod random_tests;
#[cfg(test)]
mod tests;

pub use beside::{Beside, Differs, Fact, Verdict, differing_cells};
pub use compare::{Comparison, Explained, First, Known, Log, TraceError, compare, explain, explain_lines};
pub use drive::{Driven, Fault, Plan, Program, drive, plan};
pub use frames::{
    Fault as MotionFault, Finding, Frame, FramesError, Judged, Measured, Run, is_frames, judge, parse_frames,
};
pub use line::{Header, Line, LineError, Read, Told, ToldPiece, Tongue};
pub use picture::told_board;
