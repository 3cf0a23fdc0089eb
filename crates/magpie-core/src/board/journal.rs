//! Changes of a board, and how each is taken back.

use super::fill::Fill;
use super::{BARE, Board, CellId, NOWHERE, Piece, PieceId, feature};
use crate::rulebook::KindId;
use crate::space::{Cell, Heading};
use hashbrown::HashMap;
use std::collections::BTreeMap;

/// One change of a board.
#[derive(Clone, Copy, Debug)]
pub(super) enum Change {
    /// The newest piece was put down.
    Added,
    /// A bare piece got a number, the newest.
    Numbered,
    /// Cells were filled, those of the newest fill.
    Filled,
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
    /// It gave its slot to another and stands beside it.
    Loosened {
        piece: u32,
    },
    /// It stood beside a slot, and stands in one from now on.
    Tightened {
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

/// What became of one piece between two moments.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Changed {
    /// What it is, or was last.
    pub kind: KindId,
    /// Where it stood, `None` where it was not on the board.
    pub from: Option<Cell>,
    /// Where it stands, `None` where it has left.
    pub to: Option<Cell>,
    /// What it was before, where that was another kind.
    pub was: Option<KindId>,
}

/// A moment of a board's journal.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub struct Mark(usize);

impl Board {
    /// The present moment.
    pub const fn mark(&self) -> Mark {
        Mark(self.journal.moment())
    }

    /// Forgets how to take anything back.
    pub fn forget(&mut self) {
        self.journal.forget();
        self.count_fills();
        self.fills.clear();
    }

    /// Forgets how to take back what was before a moment.
    pub fn forget_before(&mut self, mark: Mark) {
        self.journal.forget_before(mark.0);
        let left = self.journal.since(mark.0).iter().filter(|change| matches!(change, Change::Filled)).count();
        self.count_fills();
        self.fills.drain(..self.fills.len() - left);
    }

    /// Gives room back that one turn needed for going back and the others do not.
    pub fn ease(&mut self) {
        self.journal.ease();
    }

    /// Bytes that are held for going back.
    pub fn bytes_back(&self) -> usize {
        self.journal.bytes() + self.fills.iter().map(Fill::bytes).sum::<usize>()
    }

    /// Bytes that the board holds, those for going back aside.
    pub fn bytes(&self) -> usize {
        let lists = self.by_kind.iter().map(|list| list.capacity() * size_of::<u32>()).sum::<usize>();
        (self.slots.capacity() + self.void.capacity()) * 4 + self.pieces.capacity() * size_of::<Piece>() + lists
    }

    /// Takes back everything since a moment.
    pub fn take_back(&mut self, mark: Mark) {
        while let Some(change) = self.journal.pop_since(mark.0) {
            self.undo(change);
        }
    }

    /// The pieces that stand elsewhere, are new, gone or of another kind since a moment, in the order of their numbers.
    pub fn changes_since(&self, mark: Mark) -> Vec<Changed> {
        let mut before: BTreeMap<u32, (Option<u32>, KindId)> = BTreeMap::new();
        // Backwards, so that the oldest of a piece's changes is what stays.
        let mut newest = self.pieces.len() as u32;
        for change in self.journal.since(mark.0).iter().rev() {
            match *change {
                Change::Added => {
                    newest -= 1;
                    before.insert(newest, (None, self.pieces[newest as usize].kind));
                }
                Change::Numbered => newest -= 1,
                Change::Removed { piece, cell }
                | Change::Lifted { piece, cell }
                | Change::Stepped { piece, cell, .. } => {
                    let kind = before.get(&piece).map_or(self.pieces[piece as usize].kind, |found| found.1);
                    before.insert(piece, (Some(cell), kind));
                }
                Change::Became { piece, old, .. } => {
                    let cell = before.get(&piece).map_or(Some(self.pieces[piece as usize].cell), |found| found.0);
                    before.insert(piece, (cell, old));
                }
                Change::Put { .. }
                | Change::Loosened { .. }
                | Change::Tightened { .. }
                | Change::Turned { .. }
                | Change::Filled => {}
            }
        }
        let place = |cell: u32| (cell != NOWHERE).then(|| self.cell(CellId(cell)));
        let found = before.into_iter().map(|(piece, (cell, old))| {
            let now = self.pieces[piece as usize];
            let was = (old != now.kind).then_some(old);
            Changed { kind: now.kind, from: cell.and_then(place), to: place(now.cell), was }
        });
        found.filter(|changed| changed.from != changed.to || changed.was.is_some()).collect()
    }

    /// The cells in which something may be otherwise than at a moment, in no order and some of them twice; false where these
    /// are too many to be named.
    pub(crate) fn touched_since(&self, mark: Mark, into: &mut Vec<u32>) -> bool {
        let mut newest = self.pieces.len() as u32;
        for change in self.journal.since(mark.0).iter().rev() {
            let (piece, old) = match *change {
                Change::Filled => return false,
                Change::Numbered => {
                    newest -= 1;
                    continue;
                }
                Change::Added => {
                    newest -= 1;
                    (newest, NOWHERE)
                }
                Change::Removed { piece, cell }
                | Change::Lifted { piece, cell }
                | Change::Stepped { piece, cell, .. } => (piece, cell),
                Change::Put { piece }
                | Change::Loosened { piece }
                | Change::Tightened { piece }
                | Change::Turned { piece, .. }
                | Change::Became { piece, .. } => (piece, NOWHERE),
            };
            let now = self.pieces[piece as usize].cell;
            into.extend([old, now].into_iter().filter(|cell| *cell != NOWHERE));
        }
        true
    }

    /// The kinds of the pieces that have been in another cell at some time since a moment.
    pub(crate) fn moved_since(&self, mark: Mark, mut each: impl FnMut(KindId)) {
        for change in self.journal.since(mark.0) {
            if let Change::Lifted { piece, cell } | Change::Stepped { piece, cell, .. } = *change
                && self.pieces[piece as usize].cell != cell
            {
                each(self.pieces[piece as usize].kind);
            }
        }
    }

    /// Where the pieces stood at a moment that have been moved or removed since.
    pub fn cells_before(&self, mark: Mark) -> HashMap<PieceId, Option<CellId>> {
        let mut before = HashMap::new();
        for change in self.journal.since(mark.0) {
            if let Change::Removed { piece, cell }
            | Change::Lifted { piece, cell }
            | Change::Stepped { piece, cell, .. } = *change
            {
                before.entry(PieceId(piece)).or_insert((cell != NOWHERE).then_some(CellId(cell)));
            }
        }
        before
    }

    fn undo(&mut self, change: Change) {
        match change {
            Change::Added => {
                let piece = self.pieces.len() as u32 - 1;
                self.lift(PieceId(piece));
                self.unlist(piece);
                self.pieces.pop();
            }
            Change::Numbered => {
                let piece = self.pieces.len() as u32 - 1;
                self.unlist(piece);
                if let Some(Piece { cell, kind, .. }) = self.pieces.pop() {
                    let slot = self.slot(self.layer(kind), cell);
                    self.slots[slot] = BARE | u32::from(kind.0);
                    self.bare[usize::from(kind.0)] += 1;
                }
            }
            Change::Filled => self.unfill(),
            Change::Removed { piece, cell } => {
                self.list(piece);
                self.put(PieceId(piece), cell);
            }
            Change::Lifted { piece, cell } => self.put(PieceId(piece), cell),
            Change::Put { piece } => {
                self.lift(PieceId(piece));
            }
            Change::Loosened { piece } => self.tighten(piece),
            Change::Tightened { piece } => self.pieces[piece as usize].loose = true,
            Change::Stepped { piece, cell, old } => {
                self.lift(PieceId(piece));
                self.pieces[piece as usize].heading = old;
                self.put(PieceId(piece), cell);
            }
            Change::Turned { piece, old } => {
                let found = &mut self.pieces[piece as usize];
                let new = std::mem::replace(&mut found.heading, old);
                if found.cell != NOWHERE {
                    self.hash ^= feature(found.cell, found.kind, new) ^ feature(found.cell, found.kind, old);
                }
            }
            Change::Became { piece, old, loose } => self.change_kind(PieceId(piece), old, loose),
        }
    }
}
