//! The game of a connection.

use anyhow::Context;
use magpie_core::Input;
use magpie_core::grid::LayoutError;
use magpie_core::rulebook::Rulebook;
use magpie_core::tape::{Session, Start};
use magpie_core::trace::Log;
use std::sync::Arc;

/// What every connection begins with.
#[derive(Clone, Debug)]
pub struct Served {
    /// The rulebook.
    pub book: Arc<Rulebook>,
    /// The name of its file.
    pub name: String,
}

/// A game being played, and what its caller has said of it.
#[derive(Debug)]
pub struct Game {
    pub book: Arc<Rulebook>,
    pub name: String,
    /// The map that it begins on, from 0, and its seed.
    pub map: usize,
    pub seed: Option<u64>,
    pub session: Session,
    /// Inputs, and reports that were alike, as lines of a log.
    pub log: Lines,
}

impl Served {
    /// A game on the first map.
    pub fn begin(&self) -> anyhow::Result<Game> {
        Game::new(self.book.clone(), self.name.clone(), 0, None).context("the first map cannot be entered")
    }
}

impl Game {
    /// A game on a map, from 0.
    ///
    /// # Errors
    /// The map cannot be entered as the rulebook has it.
    pub fn new(book: Arc<Rulebook>, name: String, map: usize, seed: Option<u64>) -> Result<Self, LayoutError> {
        let session = Session::new(Start { seed, ..Start::map(book.clone(), map) })?;
        Ok(Self { book, name, map, seed, session, log: Lines::default() })
    }

    /// Notes an input of the game as a line of the log.
    pub fn note(&mut self, input: &Input) {
        self.log.all.push(serde_json::json!({ "input": input.to_string() }).to_string());
    }
}

/// A log in memory.
#[derive(Debug, Default)]
pub struct Lines {
    pub all: Vec<String>,
    at: usize,
}

impl Log for Lines {
    fn rewind(&mut self) -> Result<(), String> {
        self.at = 0;
        Ok(())
    }

    fn next(&mut self, into: &mut String) -> Result<bool, String> {
        let Some(line) = self.all.get(self.at) else { return Ok(false) };
        into.push_str(line);
        self.at += 1;
        Ok(true)
    }
}
