//! The game on the board: its session, what an edit changed, what its pieces could do.

use magpie_core::board::PieceId;
use magpie_core::grid::{Asked, Entering, Grid, Preview, Reach, Request};
use magpie_core::input::Key;
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, Extent};
use magpie_core::tape::Session;
use std::sync::Arc;

/// What a rulebook's last reload changed.
#[derive(Debug)]
pub struct Changed {
    /// The first entry of the tape whose result is another.
    pub entry: usize,
    /// The game under the old rules.
    pub old: Session,
}

/// The game, where there has ever been a rulebook without mistakes.
#[derive(Debug, Default)]
pub struct Game {
    /// The game and its tape.
    pub session: Option<Session>,
    /// The game that was put aside while a scenario is walked through.
    pub aside: Option<Session>,
    /// The bench for which another game is on the board, or was until the text became another.
    pub shown_for: Option<&'static str>,
    /// What the last edit changed.
    pub changed: Option<Changed>,
    /// What every heading would answer now, for the first controlled piece.
    pub previews: Vec<Preview>,
    /// A cell, and what the controlled pieces would be answered on their way into it.
    pub entering: Option<(Cell, Vec<Entering>)>,
    /// The number of the controlled kind whose answers are shown, among those that are there.
    pub followed: usize,
    /// Kinds that nothing ever moves, by number.
    pub fixed: Vec<bool>,
    /// Cells that can be reached, while they are shown.
    pub reach: Option<Reach>,
}

impl Game {
    /// The grid.
    pub fn grid(&self) -> Option<&Grid> {
        self.session.as_ref().map(Session::grid)
    }

    /// The rulebook.
    pub fn book(&self) -> Option<&Arc<Rulebook>> {
        self.grid().map(Grid::book)
    }

    /// The board's size.
    pub fn extent(&self) -> Option<Extent> {
        self.grid().map(|grid| grid.board().extent())
    }

    /// Takes a game over in place of the one before, which is given.
    pub(super) fn replace(&mut self, session: Session) -> Option<Session> {
        self.fixed = session.grid().book().fixed_kinds();
        self.session.replace(session)
    }

    /// Works out anew what follows from the state of the game.
    pub(super) fn refresh(&mut self) {
        self.previews.clear();
        let Some(session) = &mut self.session else { return };
        let grid = session.grid_mut();
        let pieces = grid.controlled_kinds();
        let piece = pieces.get(self.followed).or(pieces.first()).copied();
        if let Some(piece) = piece {
            self.previews = grid.previews(piece);
        }
        if self.reach.is_some() {
            self.reach = Some(piece.map_or_else(Reach::default, |piece| grid.reach(piece)));
        }
    }

    /// Whether the rulebook uses a key.
    pub fn uses_key(&self, word: &str) -> bool {
        self.book().is_some_and(|book| book.uses_key(&Key(word.into())))
    }

    /// Whether the rulebook has a rule about touches: then the mouse is the finger.
    pub fn is_touched(&self) -> bool {
        self.book().is_some_and(|book| book.is_touched())
    }

    /// Whether time does anything in this game.
    pub fn has_time(&self) -> bool {
        self.book().is_some_and(|book| book.has_time())
    }

    /// The controlled piece whose answers are shown.
    pub fn controlled(&self) -> Option<PieceId> {
        let pieces = self.grid().map(Grid::controlled_kinds).unwrap_or_default();
        pieces.get(self.followed).or(pieces.first()).copied()
    }

    /// How many controlled kinds there are on the board.
    pub fn controlled_kinds(&self) -> usize {
        self.grid().map_or(0, |grid| grid.controlled_kinds().len())
    }

    /// Works out what the controlled pieces would be answered on their way into a cell.
    pub(super) fn look_at(&mut self, cell: Option<Cell>) {
        self.entering = match (cell, &mut self.session) {
            (Some(cell), Some(session)) => Some((cell, session.grid_mut().entering(cell))),
            _ => None,
        };
    }

    /// The last request that a rule made for a piece itself, of the entry played last.
    pub fn last_request(&self) -> Option<&Request> {
        let own = |request: &&Request| request.by == Asked::Own;
        let entry = self.session.as_ref()?.played().last()?;
        entry.answers.iter().rev().find_map(|answer| answer.requests.iter().rfind(own))
    }

    /// A change at an entry that is no longer on the tape is nothing to show.
    pub(super) fn forget_late_change(&mut self) {
        let length = self.session.as_ref().map_or(0, |session| session.entries().len());
        if self.changed.as_ref().is_some_and(|changed| changed.entry >= length) {
            self.changed = None;
        }
    }
}
