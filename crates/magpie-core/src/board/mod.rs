//! Pieces on layers of cells, with everything needed to take changes back.

mod fill;
mod journal;
mod seats;

pub use journal::{Changed, Mark};
pub use seats::{Seat, Seats};

use crate::journal::Journal;
use crate::rulebook::{KindId, KindSet};
use crate::space::{Cell, Extent, Heading};
use fill::Fill;
use hashbrown::HashMap;
use journal::Change;

/// A cell of the board by its place in reading order: row * columns + column.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct CellId(pub u32);

/// One piece for as long as the map is played; numbers are never used for another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct PieceId(u32);

/// No piece in a slot.
const EMPTY: u32 = 0;
/// Marks the kind of a bare piece: one that nothing was ever done to by itself, and that has no number of its own. So
/// lies the ground, and what a flood has left.
const BARE: u32 = 1 << 31;
/// The cell of a piece that has left the board, or that is out of every cell for a while.
const NOWHERE: u32 = u32::MAX;
/// The place in its list of a piece that has left the board.
const UNLISTED: u32 = u32::MAX;

#[derive(Clone, Copy, Debug)]
struct Piece {
    cell: u32,
    /// Its place in the list of its kind.
    listed: u32,
    kind: KindId,
    heading: Option<Heading>,
    /// It stands beside the slots: it does not count for one piece a layer.
    loose: bool,
}

/// The pieces on a board of one map.
#[derive(Clone, Debug)]
pub struct Board {
    extent: Extent,
    layers: u8,
    void: Vec<u64>,
    has_void: bool,
    /// Piece numbers + 1, layer by layer, in reading order of the cells.
    slots: Vec<u32>,
    pieces: Vec<Piece>,
    by_kind: Vec<Vec<u32>>,
    layer_of: Vec<u8>,
    ground: Option<KindId>,
    /// Kinds of which a cell may hold any number, by kind.
    crowding: Vec<bool>,
    /// What comes into a cell takes the place of what stands there, which then stands beside it.
    shares: bool,
    /// Pieces that stand beside the slots of their cells, in the order of their numbers.
    loose: HashMap<u32, Vec<u32>>,
    /// How many bare pieces there are of each kind.
    bare: Vec<u32>,
    hash: u64,
    journal: Journal<Change>,
    /// What floods have changed, the last one last.
    fills: Vec<Fill>,
}

/// Spreads the bits of a number (the last steps of the `SplitMix64` generator).
pub(crate) const fn mix(value: u64) -> u64 {
    let value = value.wrapping_add(0x9e37_79b9_7f4a_7c15);
    let value = (value ^ (value >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    let value = (value ^ (value >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    value ^ (value >> 31)
}

/// What a piece in a cell adds to the board's hash; one out of every cell adds nothing.
fn feature(cell: u32, kind: KindId, heading: Option<Heading>) -> u64 {
    let heading = heading.map_or(0, |heading| heading as u64 + 1);
    mix(u64::from(cell) << 32 | u64::from(kind.0) << 8 | heading)
}

impl Board {
    /// An empty board. `layer_of` gives the layer of every kind, `ground` the kind of which bare cells may consist.
    pub fn new(extent: Extent, layers: u8, layer_of: Vec<u8>, ground: Option<KindId>) -> Self {
        let cells = extent.cells() as usize;
        Self {
            extent,
            layers,
            void: vec![0; cells.div_ceil(64)],
            has_void: false,
            slots: vec![EMPTY; cells * usize::from(layers)],
            pieces: Vec::new(),
            by_kind: vec![Vec::new(); layer_of.len()],
            crowding: vec![false; layer_of.len()],
            bare: vec![0; layer_of.len()],
            shares: false,
            loose: HashMap::new(),
            layer_of,
            ground,
            hash: 0,
            journal: Journal::default(),
            fills: Vec::new(),
        }
    }

    /// Pieces of these kinds do not count for one piece a layer; only before the first piece is laid.
    pub fn let_crowd(&mut self, kinds: &KindSet) {
        for kind in kinds.iter() {
            self.crowding[usize::from(kind.0)] = true;
        }
    }

    /// Lets two pieces of a layer share a cell; only before the first change.
    pub const fn let_share(&mut self) {
        self.shares = true;
    }

    /// Columns and rows.
    pub const fn extent(&self) -> Extent {
        self.extent
    }

    /// Number of layers.
    pub const fn layers(&self) -> u8 {
        self.layers
    }

    /// Number of cells of the whole rectangle.
    pub fn cells(&self) -> u32 {
        self.extent.cells() as u32
    }

    /// The place of a cell, `None` off the board.
    #[inline]
    pub fn id(&self, cell: Cell) -> Option<CellId> {
        self.extent.contains(cell).then(|| CellId(cell.row as u32 * self.extent.columns + cell.column as u32))
    }

    /// Column and row of a place.
    #[inline]
    pub fn cell(&self, id: CellId) -> Cell {
        Cell::new(i64::from(id.0 % self.extent.columns), i64::from(id.0 / self.extent.columns))
    }

    /// Whether the map has no cell here.
    #[inline]
    pub fn is_void(&self, id: CellId) -> bool {
        self.void[(id.0 / 64) as usize] >> (id.0 % 64) & 1 == 1
    }

    /// Whether some cell of the rectangle is no cell of the map.
    pub const fn has_void(&self) -> bool {
        self.has_void
    }

    /// Makes a cell void; only while a map is laid out.
    pub fn make_void(&mut self, id: CellId) {
        self.void[(id.0 / 64) as usize] |= 1 << (id.0 % 64);
        self.has_void = true;
    }

    #[inline]
    fn slot(&self, layer: u8, cell: u32) -> usize {
        usize::from(layer) * self.extent.cells() as usize + cell as usize
    }

    /// The layer of a kind.
    #[inline]
    pub fn layer(&self, kind: KindId) -> u8 {
        self.layer_of[usize::from(kind.0)]
    }

    /// The kind of what stands on a layer of a cell, bare ground included.
    #[inline]
    pub fn kind_at(&self, cell: CellId, layer: u8) -> Option<KindId> {
        match self.slots[self.slot(layer, cell.0)] {
            EMPTY => None,
            piece if piece < BARE => Some(self.pieces[piece as usize - 1].kind),
            bare => Some(KindId((bare ^ BARE) as u16)),
        }
    }

    /// The piece on a layer of a cell, where it has a number already; bare ground has none.
    #[inline]
    pub fn known_piece_at(&self, cell: CellId, layer: u8) -> Option<PieceId> {
        match self.slots[self.slot(layer, cell.0)] {
            EMPTY | BARE.. => None,
            piece => Some(PieceId(piece - 1)),
        }
    }

    /// The piece on a layer of a cell; bare ground gets a number.
    pub fn piece_at(&mut self, cell: CellId, layer: u8) -> Option<PieceId> {
        let slot = self.slot(layer, cell.0);
        match self.slots[slot] {
            EMPTY => None,
            piece if piece < BARE => Some(PieceId(piece - 1)),
            bare => {
                let kind = KindId((bare ^ BARE) as u16);
                let piece = self.number(cell.0, kind, None);
                self.slots[slot] = piece + 1;
                self.bare[usize::from(kind.0)] -= 1;
                self.journal.push(Change::Numbered);
                Some(PieceId(piece))
            }
        }
    }

    fn number(&mut self, cell: u32, kind: KindId, heading: Option<Heading>) -> u32 {
        let piece = self.pieces.len() as u32;
        self.pieces.push(Piece { cell, listed: 0, kind, heading, loose: false });
        self.list(piece);
        piece
    }

    fn list(&mut self, piece: u32) {
        let kind = self.pieces[piece as usize].kind;
        let list = &mut self.by_kind[usize::from(kind.0)];
        self.pieces[piece as usize].listed = list.len() as u32;
        list.push(piece);
    }

    fn unlist(&mut self, piece: u32) {
        let Piece { kind, listed, .. } = self.pieces[piece as usize];
        let list = &mut self.by_kind[usize::from(kind.0)];
        list.swap_remove(listed as usize);
        if let Some(moved) = list.get(listed as usize) {
            self.pieces[*moved as usize].listed = listed;
        }
        self.pieces[piece as usize].listed = UNLISTED;
    }

    /// What stands on a layer of a cell and where it faces.
    #[inline]
    pub(crate) fn stands(&self, cell: u32, layer: u8) -> Option<(KindId, Option<Heading>)> {
        match self.slots[self.slot(layer, cell)] {
            EMPTY => None,
            piece if piece < BARE => {
                let Piece { kind, heading, .. } = self.pieces[piece as usize - 1];
                Some((kind, heading))
            }
            bare => Some((KindId((bare ^ BARE) as u16), None)),
        }
    }

    /// The pieces that stand beside the layers of their cells, or in no cell.
    pub(crate) fn beside(&self) -> impl Iterator<Item = PieceId> + '_ {
        let all = self.by_kind.iter().flatten().map(|piece| PieceId(*piece));
        all.filter(|piece| {
            let Piece { cell, loose, .. } = self.pieces[piece.0 as usize];
            loose || cell == NOWHERE
        })
    }

    /// Lays bare ground; only while a map is laid out.
    pub fn lay_ground(&mut self, cell: CellId) {
        let slot = self.slot(0, cell.0);
        if let Some(ground) = self.ground.filter(|_| self.slots[slot] == EMPTY) {
            self.slots[slot] = BARE | u32::from(ground.0);
            self.bare[usize::from(ground.0)] += 1;
        }
    }

    /// Puts a new piece into a cell; `None` where its layer is taken or the cell is void.
    pub fn add(&mut self, cell: CellId, kind: KindId, heading: Option<Heading>) -> Option<PieceId> {
        let loose = self.crowding[usize::from(kind.0)];
        let slot = self.slot(self.layer(kind), cell.0);
        if (!loose && self.slots[slot] != EMPTY) || self.is_void(cell) {
            return None;
        }
        let piece = self.number(NOWHERE, kind, heading);
        self.pieces[piece as usize].loose = loose;
        self.put(PieceId(piece), cell.0);
        self.journal.push(Change::Added);
        Some(PieceId(piece))
    }

    /// The cell of a piece, `None` where it has left the board or is out of every cell.
    #[inline]
    pub fn cell_of(&self, piece: PieceId) -> Option<CellId> {
        let cell = self.pieces[piece.0 as usize].cell;
        (cell != NOWHERE).then_some(CellId(cell))
    }

    /// The kind of a piece.
    #[inline]
    pub fn kind_of(&self, piece: PieceId) -> KindId {
        self.pieces[piece.0 as usize].kind
    }

    /// The heading of a piece.
    #[inline]
    pub fn heading_of(&self, piece: PieceId) -> Option<Heading> {
        self.pieces[piece.0 as usize].heading
    }

    /// The number of a piece, for tables beside the board.
    #[inline]
    pub const fn number_of(piece: PieceId) -> usize {
        piece.0 as usize
    }

    /// How many pieces have ever had a number.
    pub fn numbered(&self) -> usize {
        self.pieces.len()
    }

    /// Whether a piece has not left the board; it may be out of every cell for a while.
    #[inline]
    pub fn exists(&self, piece: PieceId) -> bool {
        self.pieces.get(piece.0 as usize).is_some_and(|piece| piece.listed != UNLISTED)
    }

    /// Takes a piece off the board.
    pub fn remove(&mut self, piece: PieceId) {
        if !self.exists(piece) {
            return;
        }
        let cell = self.lift(piece);
        self.unlist(piece.0);
        self.journal.push(Change::Removed { piece: piece.0, cell });
    }

    /// Empties a piece's place, leaving the piece out of every cell; [`Self::put`] ends the move. Not noted in the journal.
    fn lift(&mut self, piece: PieceId) -> u32 {
        let Piece { cell, kind, heading, loose, .. } = self.pieces[piece.0 as usize];
        if cell == NOWHERE {
            return cell;
        }
        if loose {
            self.lift_loose(piece.0, cell);
        } else {
            let slot = self.slot(self.layer(kind), cell);
            self.slots[slot] = EMPTY;
        }
        self.pieces[piece.0 as usize].cell = NOWHERE;
        self.hash ^= feature(cell, kind, heading);
        cell
    }

    fn put(&mut self, piece: PieceId, cell: u32) {
        if cell == NOWHERE {
            return;
        }
        let Piece { kind, heading, loose, .. } = self.pieces[piece.0 as usize];
        if loose {
            self.put_loose(piece.0, cell);
        } else {
            let slot = self.slot(self.layer(kind), cell);
            debug_assert_eq!(self.slots[slot], EMPTY, "two pieces on one layer of a cell");
            self.slots[slot] = piece.0 + 1;
        }
        self.pieces[piece.0 as usize].cell = cell;
        self.hash ^= feature(cell, kind, heading);
    }

    /// Takes a piece out of every cell without taking it off the board.
    pub fn set_adrift(&mut self, piece: PieceId) {
        let cell = self.lift(piece);
        self.journal.push(Change::Lifted { piece: piece.0, cell });
    }

    /// Moves pieces at once: all leave their cells before the first arrives.
    pub fn shift(&mut self, moves: &[(PieceId, CellId)]) {
        for (piece, _) in moves {
            let from = self.lift(*piece);
            self.journal.push(Change::Lifted { piece: piece.0, cell: from });
        }
        for (piece, to) in moves {
            if self.shares {
                self.make_way(*piece, *to);
            }
            self.put(*piece, to.0);
            self.journal.push(Change::Put { piece: piece.0 });
        }
    }

    /// The same of pieces that stand in cells, never to be taken back, nor what was before.
    pub(crate) fn shift_for_good(&mut self, moves: &[(PieceId, CellId)]) {
        if self.shares || moves.iter().any(|(piece, _)| self.pieces[piece.0 as usize].loose) {
            self.shift(moves);
            return;
        }
        for (piece, _) in moves {
            let Piece { cell, kind, .. } = self.pieces[piece.0 as usize];
            let slot = self.slot(self.layer(kind), cell);
            self.slots[slot] = EMPTY;
        }
        for (piece, to) in moves {
            let Piece { cell, kind, heading, .. } = self.pieces[piece.0 as usize];
            let slot = self.slot(self.layer(kind), to.0);
            self.slots[slot] = piece.0 + 1;
            self.pieces[piece.0 as usize].cell = to.0;
            self.hash ^= feature(cell, kind, heading) ^ feature(to.0, kind, heading);
        }
    }

    /// Moves one piece, and gives it a heading where there is one.
    #[inline]
    pub fn step(&mut self, piece: PieceId, to: CellId, heading: Option<Heading>) {
        let Piece { cell, kind, heading: old, loose, .. } = self.pieces[piece.0 as usize];
        if loose || self.shares {
            self.shift(&[(piece, to)]);
            self.turn(piece, heading.or(old));
            return;
        }
        let new = heading.or(old);
        let (from, into) = (self.slot(self.layer(kind), cell), self.slot(self.layer(kind), to.0));
        self.slots[from] = EMPTY;
        debug_assert_eq!(self.slots[into], EMPTY, "two pieces on one layer of a cell");
        self.slots[into] = piece.0 + 1;
        let found = &mut self.pieces[piece.0 as usize];
        found.cell = to.0;
        found.heading = new;
        self.hash ^= feature(cell, kind, old) ^ feature(to.0, kind, new);
        self.journal.push(Change::Stepped { piece: piece.0, cell, old });
    }

    /// Gives a piece a heading.
    pub fn turn(&mut self, piece: PieceId, heading: Option<Heading>) {
        let Piece { cell, kind, heading: old, .. } = self.pieces[piece.0 as usize];
        if self.exists(piece) && old != heading {
            if cell != NOWHERE {
                self.hash ^= feature(cell, kind, old) ^ feature(cell, kind, heading);
            }
            self.pieces[piece.0 as usize].heading = heading;
            self.journal.push(Change::Turned { piece: piece.0, old });
        }
    }

    /// Turns a piece into another kind of its layer.
    pub fn become_kind(&mut self, piece: PieceId, new: KindId) {
        let Piece { cell, kind, loose, .. } = self.pieces[piece.0 as usize];
        if !self.exists(piece) || kind == new || self.layer(kind) != self.layer(new) {
            return;
        }
        let taken = cell == NOWHERE || self.slots[self.slot(self.layer(new), cell)] != EMPTY;
        // Where its place on the layer is taken it goes on standing beside it.
        let crowds = self.crowding[usize::from(new.0)] || (loose && taken);
        self.change_kind(piece, new, crowds);
        self.journal.push(Change::Became { piece: piece.0, old: kind, loose });
    }

    fn change_kind(&mut self, piece: PieceId, new: KindId, loose: bool) {
        let cell = self.lift(piece);
        self.unlist(piece.0);
        self.pieces[piece.0 as usize].kind = new;
        self.pieces[piece.0 as usize].loose = loose;
        self.list(piece.0);
        self.put(piece, cell);
    }

    /// The pieces of a kind that have a number, in no order.
    pub fn pieces_of(&self, kind: KindId) -> impl Iterator<Item = PieceId> + '_ {
        self.by_kind[usize::from(kind.0)].iter().map(|piece| PieceId(*piece))
    }

    /// How many pieces of a kind there are on the board.
    pub fn count(&self, kind: KindId) -> u32 {
        self.by_kind[usize::from(kind.0)].len() as u32 + self.bare[usize::from(kind.0)]
    }

    /// Whether some pieces of a set are bare, so that they are not all listed.
    pub(crate) fn has_bare(&self, set: &KindSet) -> bool {
        set.iter().any(|kind| self.bare[usize::from(kind.0)] > 0)
    }

    /// The one piece of a set, where there is one only and it stands in a cell.
    pub(crate) fn only_piece(&self, set: &KindSet) -> Option<PieceId> {
        let mut only = None;
        for kind in set.in_order().iter().map(|kind| usize::from(kind.0)) {
            match (self.by_kind[kind].as_slice(), self.bare[kind]) {
                ([], 0) => {}
                ([piece], 0) if only.is_none() => only = Some(PieceId(*piece)),
                _ => return None,
            }
        }
        only.filter(|piece| self.cell_of(*piece).is_some())
    }

    /// The cells in which pieces of a set stand, in reading order, each once.
    pub fn cells_of(&self, set: &KindSet, into: &mut Vec<CellId>) {
        into.clear();
        if self.has_bare(set) {
            let cells = (0..self.cells()).map(CellId);
            into.extend(cells.filter(|cell| self.holds(*cell, set)));
            return;
        }
        for kind in set.iter() {
            let pieces = &self.by_kind[usize::from(kind.0)];
            let cells = pieces.iter().map(|piece| self.pieces[*piece as usize].cell);
            into.extend(cells.filter(|cell| *cell != NOWHERE).map(CellId));
        }
        into.sort_unstable();
        into.dedup();
    }

    /// How many pieces of a set there are.
    pub fn count_set(&self, set: &KindSet) -> u32 {
        set.in_order().iter().map(|kind| self.count(*kind)).sum()
    }

    /// Whether a cell holds a piece of a set.
    pub fn holds(&self, cell: CellId, set: &KindSet) -> bool {
        self.kinds_at(cell).any(|kind| set.contains(kind))
    }

    /// Whether a cell is on the board and holds nothing but bare or other ground.
    pub fn is_empty(&self, cell: CellId) -> bool {
        !self.is_void(cell) && self.kinds_at(cell).all(|kind| Some(kind) == self.ground)
    }

    /// The kinds in a cell from the top layer down.
    pub fn kinds_at(&self, cell: CellId) -> impl Iterator<Item = KindId> + '_ {
        self.seats(cell).filter_map(move |place| self.kind_in(cell, place))
    }

    /// A number that tells states of the board apart.
    pub fn hash(&mut self) -> u64 {
        self.count_fills();
        self.hash
    }
}

#[cfg(test)]
mod tests;
