//! The model behind Rapid Magpie: grid positions, boards, rulebooks, and the grid that answers requests.
//!
//! From the text of a rulebook to a refused step and the reason for it:
//!
//! ```
//! use magpie_core::{Cell, Input, Session, Start, read_text};
//!
//! let text = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\n  wall # body\nmap \"One\"\n  P_#\ncontrol porter with arrows\n";
//! let book = read_text(text, &|path| Err(format!("no file `{path}`"))).rulebook.expect("no mistakes");
//! let mut game = Session::new(Start::map(book.into(), 0)).expect("its map can be entered");
//! for word in ["right", "right"] {
//!     game.give(&word.parse::<Input>().expect("an input"));
//! }
//! let refused = game.last_request().and_then(|request| request.refusal.as_ref()).expect("the second step is refused");
//! assert_eq!((refused.kind.word(), refused.to), ("meets", Cell::new(2, 0)));
//! assert_eq!(game.grid().picture(), ["_P#"]);
//! ```
//!
//! | to | begin at |
//! |---|---|
//! | read, check, format and edit rulebooks | [`read`], [`Rulebook`], [`rulebook`] |
//! | play one, with a tape that goes back and forth | [`Session`], [`Input`], [`tape`] |
//! | ask a grid yourself and hear every check | [`Grid::request`], [`Recorder`], [`grid`] |
//! | come from pixels and touches to cells, and back | [`Geometry`], [`View`], [`space`] |
//! | find the mistake behind wrong numbers | [`mishap::diagnose`], [`formula::compare`] |
//! | see the motion between two cells | [`pace::run`] |
//! | prove what is true of every way to play | [`proof::prove`] |
//! | hold somebody else's program against the model | [`trace::compare`] |
//!
//! Columns, rows and indices are whole numbers, positions are `f64` pixels, time is whole milliseconds. The crate knows no
//! clock, file, thread, terminal or colour value. A rulebook comes in as bytes, inputs come in as values, and everything
//! that comes out is a value; the same rulebook, seed and inputs give the same states everywhere. What may be how large
//! stands in [`limits`].

#![warn(unnameable_types)]

pub mod board;
pub mod formula;
pub mod grid;
pub mod input;
mod journal;
pub mod limits;
pub mod mishap;
pub mod pace;
pub mod proof;
pub mod rulebook;
pub mod space;
pub mod tape;
pub mod trace;
pub mod vectors;

pub use board::Board;
pub use grid::{Answer, Check, Grid, LayoutError, Nobody, Reason, Recorder, Request, Taken, Watch};
pub use input::{Input, InputError, Key, parse_inputs};
pub use rulebook::{Diagnostic, Reading, Rulebook, read, read_text};
pub use space::{Cell, Extent, Geometry, Heading, View};
pub use tape::{Session, Start};
