//! What is marked on the board besides its pieces.

use super::Desk;
use super::board::Ghost;
use magpie_core::grid::CheckKind;
use magpie_core::space::{Cell, WorldPoint};
use std::collections::HashMap;

/// A mark on a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Mark {
    /// The asker came from here.
    From,
    /// Somebody went, or would have gone, here.
    Way,
    /// This cell refused.
    Refuses,
}

/// What was found to be true of a cell.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Truth {
    /// Somebody gets there.
    Reached,
    /// Nobody ever does, though nothing stands there.
    Never,
    /// What stands there stands there only where no win is left.
    Dead,
    /// A program tells something else of it than the model.
    Differs,
}

/// What a bench wants to be marked on the board.
#[derive(Clone, Debug, Default)]
pub struct Marks {
    /// The cell on which the eye should rest.
    pub focus: Option<Cell>,
    /// Marked cells.
    pub cells: HashMap<Cell, Mark>,
    /// Pieces drawn elsewhere than in their cells.
    pub ghosts: Vec<Ghost>,
    /// The way of a free body, in world pixels.
    pub way: Vec<WorldPoint>,
    /// Corners that have caught it.
    pub corners: Vec<WorldPoint>,
    /// A place within a cell.
    pub pointer: Option<(Cell, WorldPoint)>,
    /// What was proved of cells.
    pub truths: HashMap<Cell, Truth>,
    /// Cells that the picture of the view does not show whole are hatched.
    pub cut: bool,
}

impl Desk {
    /// The usual marks: the cells of the last answer, and gliders and riders where they are.
    pub fn marks(&self) -> Marks {
        Marks {
            focus: self.focus(),
            cells: self.answered_cells(),
            ghosts: self.between_cells(),
            way: Vec::new(),
            corners: Vec::new(),
            pointer: None,
            truths: HashMap::new(),
            cut: false,
        }
    }

    /// What the last request, and the settling behind it, mark on the board.
    fn answered_cells(&self) -> HashMap<Cell, Mark> {
        let mut marks = HashMap::new();
        // What settling has moved or taken away in the last turn.
        let entry = self.game.session.as_ref().and_then(|session| session.played().last());
        let settled = entry.and_then(|entry| entry.answers.last()).map_or(&[][..], |answer| answer.settled.as_slice());
        for change in settled.iter().flat_map(|settled| &settled.changes) {
            marks.extend(change.to.or(change.from).map(|cell| (cell, Mark::Way)));
        }
        let Some(request) = self.game.last_request() else {
            return marks;
        };
        for shoved in &request.shoved {
            marks.insert(shoved.to, Mark::Way);
        }
        marks.insert(request.from, Mark::From);
        if let Some(reason) = request.reason.and_then(|reason| request.checks.get(reason)) {
            let at = if reason.kind == CheckKind::Edge { reason.from } else { reason.to };
            marks.insert(at, Mark::Refuses);
        }
        marks
    }
}
