//! Changes of a board, and how each is taken back.

use super::{BARE, Board, NOWHERE, Piece, PieceId, feature};
use crate::rulebook::KindId;
use crate::space::Heading;

/// One change of a board.
#[derive(Clone, Copy, Debug)]
pub(super) enum Change {
    /// The newest piece was put down.
    Added,
    /// Bare ground got a number, the newest.
    Numbered {
        cell: u32,
    },
    Removed {
        piece: u32,
        cell: u32,
    },
    Lifted {
        piece: u32,
        cell: u32,
    },
    Put {
        piece: u32,
    },
    Stepped {
        piece: u32,
        cell: u32,
        old: Option<Heading>,
    },
    Turned {
        piece: u32,
        old: Option<Heading>,
    },
    Became {
        piece: u32,
        old: KindId,
        loose: bool,
    },
}

/// A moment of a board's journal.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub struct Mark(usize);

impl Board {
    /// The present moment.
    pub const fn mark(&self) -> Mark {
        Mark(self.journal.len())
    }

    /// Forgets how to take anything back.
    pub fn forget(&mut self) {
        self.journal.clear();
    }

    /// Takes back everything since a moment.
    pub fn take_back(&mut self, mark: Mark) {
        while self.journal.len() > mark.0 {
            if let Some(change) = self.journal.pop() {
                self.undo(change);
            }
        }
    }

    fn undo(&mut self, change: Change) {
        match change {
            Change::Added => {
                let piece = self.pieces.len() as u32 - 1;
                self.lift(PieceId(piece));
                let Piece { kind, heading, .. } = self.pieces[piece as usize];
                self.hash ^= feature(NOWHERE, kind, heading);
                self.unlist(piece);
                self.pieces.pop();
            }
            Change::Numbered { cell } => {
                let piece = self.pieces.len() as u32 - 1;
                self.unlist(piece);
                self.pieces.pop();
                let slot = self.slot(0, cell);
                self.slots[slot] = BARE;
                self.bare += 1;
            }
            Change::Removed { piece, cell } => {
                self.list(piece);
                let Piece { kind, heading, .. } = self.pieces[piece as usize];
                self.hash ^= feature(NOWHERE, kind, heading);
                self.put(PieceId(piece), cell);
            }
            Change::Lifted { piece, cell } => self.put(PieceId(piece), cell),
            Change::Put { piece } => {
                self.lift(PieceId(piece));
            }
            Change::Stepped { piece, cell, old } => {
                self.lift(PieceId(piece));
                let found = &mut self.pieces[piece as usize];
                let (kind, new) = (found.kind, std::mem::replace(&mut found.heading, old));
                self.hash ^= feature(NOWHERE, kind, new) ^ feature(NOWHERE, kind, old);
                self.put(PieceId(piece), cell);
            }
            Change::Turned { piece, old } => {
                let found = &mut self.pieces[piece as usize];
                let new = std::mem::replace(&mut found.heading, old);
                self.hash ^= feature(found.cell, found.kind, new) ^ feature(found.cell, found.kind, old);
            }
            Change::Became { piece, old, loose } => self.change_kind(PieceId(piece), old, loose),
        }
    }
}
