//! What ties pieces to each other and to time: gliders, riders, rigid bodies, trails. Copied on every change, so that
//! going back is going back to an older copy; a game without any of it pays nothing.

use crate::board::{Board, CellId, PieceId, mix};
use crate::rulebook::KindId;
use crate::space::{Cell, Heading};
use std::collections::VecDeque;
use std::sync::Arc;

/// A piece that moves by itself: it began in the middle of a cell at an instant.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Glider {
    pub piece: PieceId,
    /// The `glide` it obeys, by its number.
    pub glide: usize,
    pub since: u64,
    pub from: Cell,
}

/// A piece that is carried.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Rider {
    pub piece: PieceId,
    pub carrier: PieceId,
    /// From the carrier's centre to its own, in units, columns and rows.
    pub offset: (i128, i128),
    /// The cell it stands in, or stood in last.
    pub last: Cell,
    /// Who boarded earlier has a lower number.
    pub boarded: u64,
    /// The cell where it got on.
    pub on_at: Cell,
}

/// A rigid group of pieces within a square.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Body {
    /// Its number; later bodies have higher ones.
    pub number: u32,
    /// The pieces with their places in the square, counted east and south.
    pub members: Arc<[(PieceId, (i64, i64))]>,
    /// The upper left cell of the square.
    pub corner: Cell,
    /// The side of the square.
    pub side: i64,
}

impl Body {
    /// Whether it has lost no piece.
    pub fn is_whole(&self, board: &Board) -> bool {
        self.members.iter().all(|(piece, _)| board.exists(*piece))
    }

    /// Whether a piece is one of it.
    pub fn has(&self, piece: PieceId) -> bool {
        self.members.iter().any(|(member, _)| *member == piece)
    }
}

/// What one trail of the rulebook has left, the oldest first.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Tail {
    pub pieces: Arc<VecDeque<PieceId>>,
    pub limit: u32,
    /// What it grows by behind the next move, in a game that does this wrong.
    pub late: u32,
}

/// Everything that a board of pieces does not hold.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Bonds {
    /// In the order of their pieces' numbers, so that one is found without a look at every other.
    pub gliders: Arc<Vec<Glider>>,
    /// Likewise.
    pub riders: Vec<Rider>,
    /// The heading of the last granted request of each piece that may not turn straight back.
    pub moves: Vec<(PieceId, Heading)>,
    /// Rigid bodies of several pieces or of a shape of one.
    pub bodies: Vec<Body>,
    /// The number of the active body.
    pub active: Option<u32>,
    /// What each trail of the rulebook has left.
    pub tails: Vec<Tail>,
    /// Cells that count as taken by a kind that has left them, in a game that does this wrong.
    pub kept: Vec<(CellId, KindId)>,
}

impl Bonds {
    /// The glider that a piece is.
    pub fn glider(&self, piece: PieceId) -> Option<&Glider> {
        let at = self.gliders.binary_search_by_key(&piece, |glider| glider.piece).ok()?;
        self.gliders.get(at)
    }

    /// The rider that a piece is, its carrier on the board or not.
    pub fn rider(&self, piece: PieceId) -> Option<&Rider> {
        let at = self.riders.binary_search_by_key(&piece, |rider| rider.piece).ok()?;
        self.riders.get(at)
    }

    /// Lets a piece ride.
    pub fn add_rider(&mut self, piece: PieceId, carrier: PieceId, offset: (i128, i128), last: Cell) {
        let boarded = self.riders.iter().map(|rider| rider.boarded + 1).max().unwrap_or(0);
        let at = self.riders.partition_point(|rider| rider.piece < piece);
        self.riders.insert(at, Rider { piece, carrier, offset, last, boarded, on_at: last });
    }

    /// A number that tells states apart, gliders aside: they follow the clock.
    pub fn hash(&self) -> u64 {
        let number = |piece: PieceId| Board::number_of(piece) as u64;
        let riders =
            self.riders.iter().fold(0, |sum, rider| sum ^ mix(number(rider.piece) << 32 | number(rider.carrier)));
        let bodies = self.bodies.iter().flat_map(|body| body.members.iter().map(|(piece, _)| (body.number, *piece)));
        let bodies = bodies.fold(0, |sum, (body, piece)| sum ^ mix(1 << 63 | u64::from(body) << 32 | number(piece)));
        let tails = self.tails.iter().enumerate().map(|(at, tail)| mix((at as u64) << 40 | u64::from(tail.limit)));
        riders ^ bodies ^ tails.fold(0, |sum, tail| sum ^ tail) ^ self.active.map_or(0, |active| mix(u64::from(active)))
    }
}
