//! What is true of every way to play: a search of all states that can be reached, and the answers that it gives, each with
//! a shortest tape as evidence (docs/proof.md).
//!
//! ```
//! use magpie_core::proof::{Alone, Ask, Inputs, Limits, prove};
//! use magpie_core::{Session, Start, read_text};
//!
//! let text = "game \"Yard\"\ncell 24 px\nkinds\n  porter P body\n  bell b mark\n  wall # body\nmap \"One\"\n  P.b\n  .#.\n\
//!             kinds\n  slat . floor\nground slat\ncontrol porter with arrows\nrules\n  win when count porter on bell > 0\n";
//! let book = read_text(text, &|path| Err(format!("no file `{path}`"))).rulebook.expect("no mistakes");
//! let game = Session::new(Start::map(book.into(), 0)).expect("its map can be entered");
//! let inputs = Inputs::all(game.grid());
//! let proof = prove(game.grid(), None, &inputs, Ask::All, Limits::default(), &Alone);
//! let win: Vec<String> = proof.report().win.tape.iter().flatten().map(ToString::to_string).collect();
//! assert_eq!((win, proof.report().win.ways), (vec!["right".to_string(), "right".into()], Some(1)));
//! ```

mod brought;
mod expand;
mod host;
mod inputs;
mod known;
mod passes;
mod report;
mod search;
mod store;
mod together;

pub use host::{Alone, Halt, Host, Job, Progress};
pub use inputs::{Inputs, InputsError};
pub use report::{Happens, Move, NoWayBack, Promise, Proof, Report, ToWin, Win, has_win, prove};
pub use search::{Ask, Limit, Limits};

#[cfg(test)]
mod tests;
