//! The seats of a cell: one a layer, and one for each piece that stands beside the layers.

use super::journal::Change;
use super::{Board, CellId, Piece, PieceId};
use crate::rulebook::KindId;

/// Where something stands within a cell: a layer, or, counted on from there, a piece beside the layers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Seat(u16);

/// The seats of a cell from the top layer down; on each layer the one that counts first, then those beside it.
#[derive(Clone, Debug)]
pub struct Seats {
    left: u16,
    /// Bottom first; none where nothing stands beside the layers.
    order: Option<Vec<Seat>>,
}

impl Iterator for Seats {
    type Item = Seat;

    #[inline]
    fn next(&mut self) -> Option<Seat> {
        self.left = self.left.checked_sub(1)?;
        Some(self.order.as_ref().map_or(Seat(self.left), |order| order[usize::from(self.left)]))
    }
}

impl Board {
    /// The seats of a cell, from the top layer down.
    #[inline]
    pub fn seats(&self, cell: CellId) -> Seats {
        if self.has_loose(cell) { self.all_seats(cell) } else { Seats { left: self.layers.into(), order: None } }
    }

    fn all_seats(&self, cell: CellId) -> Seats {
        let beside = self.loose.get(&cell.0).map_or(&[][..], Vec::as_slice);
        let mut order = Vec::with_capacity(usize::from(self.layers) + beside.len());
        for layer in 0..self.layers {
            let here = beside.iter().enumerate().rev();
            let here = here.filter(|(_, piece)| self.layer(self.pieces[**piece as usize].kind) == layer);
            order.extend(here.map(|(at, _)| Seat(u16::from(self.layers) + at as u16)));
            order.push(Seat(layer.into()));
        }
        Seats { left: order.len() as u16, order: Some(order) }
    }

    /// How many seats a cell has.
    #[inline]
    pub fn seat_count(&self, cell: CellId) -> u16 {
        u16::from(self.layers) + if self.has_loose(cell) { self.loose[&cell.0].len() as u16 } else { 0 }
    }

    /// The seat of a cell with so many below it.
    #[inline]
    pub fn nth_seat(&self, cell: CellId, below: u16) -> Seat {
        if !self.has_loose(cell) {
            return Seat(below);
        }
        let order = self.all_seats(cell).order.unwrap_or_default();
        order.get(usize::from(below)).copied().unwrap_or(Seat(below))
    }

    /// Whether pieces stand in a cell beside its layers.
    #[inline]
    pub fn has_loose(&self, cell: CellId) -> bool {
        !self.loose.is_empty() && self.loose.contains_key(&cell.0)
    }

    fn loose_at(&self, cell: CellId, seat: Seat) -> Option<u32> {
        let at = usize::from(seat.0.checked_sub(u16::from(self.layers))?);
        self.loose.get(&cell.0)?.get(at).copied()
    }

    /// The kind of what stands in a seat, bare ground included.
    #[inline]
    pub fn kind_in(&self, cell: CellId, seat: Seat) -> Option<KindId> {
        if seat.0 < u16::from(self.layers) {
            return self.kind_at(cell, seat.0 as u8);
        }
        self.loose_at(cell, seat).map(|piece| self.pieces[piece as usize].kind)
    }

    /// The piece in a seat, where it has a number already; bare ground has none.
    #[inline]
    pub fn known_piece_in(&self, cell: CellId, seat: Seat) -> Option<PieceId> {
        if seat.0 < u16::from(self.layers) {
            return self.known_piece_at(cell, seat.0 as u8);
        }
        self.loose_at(cell, seat).map(PieceId)
    }

    /// Whether one of these pieces stands in a seat.
    #[inline]
    pub fn is_one_of(&self, cell: CellId, seat: Seat, pieces: &[PieceId]) -> bool {
        !pieces.is_empty() && self.known_piece_in(cell, seat).is_some_and(|piece| pieces.contains(&piece))
    }

    /// A piece of a kind in a cell, the uppermost, where it has a number already.
    pub fn known_piece_of(&self, cell: CellId, kind: KindId) -> Option<PieceId> {
        let seat = self.seats(cell).find(|seat| self.kind_in(cell, *seat) == Some(kind))?;
        self.known_piece_in(cell, seat)
    }

    /// The piece in a seat; bare ground gets a number.
    #[inline]
    pub fn piece_in(&mut self, cell: CellId, seat: Seat) -> Option<PieceId> {
        if seat.0 < u16::from(self.layers) {
            return self.piece_at(cell, seat.0 as u8);
        }
        self.loose_at(cell, seat).map(PieceId)
    }

    /// Whether a piece stands beside the layers, so that others of its layer may share its cell.
    #[inline]
    pub fn is_loose(&self, piece: PieceId) -> bool {
        self.pieces[piece.0 as usize].loose
    }

    /// Where a cell is shared: what stands in the slot that a piece comes into stands beside it from now on, and who comes
    /// into a free slot stands beside nobody.
    pub(super) fn make_way(&mut self, piece: PieceId, to: CellId) {
        let kind = self.kind_of(piece);
        let layer = self.layer(kind);
        if self.crowding[usize::from(kind.0)] {
            return;
        }
        if let Some(other) = self.piece_at(to, layer) {
            let slot = self.slot(layer, to.0);
            self.slots[slot] = super::EMPTY;
            self.pieces[other.0 as usize].loose = true;
            self.put_loose(other.0, to.0);
            self.journal.push(Change::Loosened { piece: other.0 });
        }
        if self.is_loose(piece) {
            self.pieces[piece.0 as usize].loose = false;
            self.journal.push(Change::Tightened { piece: piece.0 });
        }
    }

    /// A piece beside a slot takes it again.
    pub(super) fn tighten(&mut self, piece: u32) {
        let Piece { cell, kind, .. } = self.pieces[piece as usize];
        self.lift_loose(piece, cell);
        self.pieces[piece as usize].loose = false;
        let slot = self.slot(self.layer(kind), cell);
        self.slots[slot] = piece + 1;
    }

    pub(super) fn put_loose(&mut self, piece: u32, cell: u32) {
        let beside = self.loose.entry(cell).or_default();
        let at = beside.partition_point(|other| *other < piece);
        beside.insert(at, piece);
    }

    pub(super) fn lift_loose(&mut self, piece: u32, cell: u32) {
        if let Some(beside) = self.loose.get_mut(&cell) {
            beside.retain(|other| *other != piece);
            if beside.is_empty() {
                self.loose.remove(&cell);
            }
        }
    }
}
