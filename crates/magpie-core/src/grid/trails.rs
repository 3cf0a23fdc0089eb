//! What follows a head: pieces left in the cells it leaves, the oldest going first (docs/model.md, section 9).

use super::plan::Member;
use super::state::Grid;
use crate::board::{CellId, PieceId};
use crate::rulebook::KindId;
use std::collections::VecDeque;
use std::sync::Arc;

/// What one trail of the rulebook has left, the oldest first.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Tail {
    pub pieces: Arc<VecDeque<PieceId>>,
    pub limit: u32,
}

impl Grid {
    /// Trails begin with nothing left.
    pub(super) fn begin_trails(&mut self) {
        let tails: Vec<Tail> =
            self.book.trails.iter().map(|trail| Tail { limit: trail.long, ..Tail::default() }).collect();
        if !tails.is_empty() {
            self.change_bonds(|bonds| bonds.tails = tails);
        }
    }

    /// The pieces of a trail that are still its own, the oldest first.
    fn tail(&self, trail: usize) -> impl Iterator<Item = PieceId> + '_ {
        let leaves = self.book.trails[trail].leaves;
        let board = &self.state.board;
        let pieces = self.state.bonds.tails.get(trail).map(|tail| tail.pieces.clone()).unwrap_or_default();
        let pieces: Vec<PieceId> = pieces.iter().copied().collect();
        pieces.into_iter().filter(move |piece| board.exists(*piece) && board.kind_of(*piece) == leaves)
    }

    /// Which piece goes when a head leaves its cell for another, `None` where the trail is not full.
    fn oldest_to_go(&self, trail: usize, head: PieceId) -> Option<PieceId> {
        let found = &self.book.trails[trail];
        let limit = self.state.bonds.tails.get(trail)?.limit as usize;
        let board = &self.state.board;
        let cell = board.cell_of(head)?;
        let layer = board.layer(found.leaves);
        let leaves = board.kind_at(cell, layer).is_none() || board.known_piece_at(cell, layer) == Some(head);
        let mut tail = self.tail(trail);
        let oldest = tail.next()?;
        (leaves && 2 + tail.count() > limit).then_some(oldest)
    }

    /// The oldest pieces that are as good as gone when these kinds of heads move: they are in nobody's way.
    pub(super) fn leaving_tails(&self, head: PieceId, into: &mut Vec<PieceId>) {
        let kind = self.state.board.kind_of(head);
        for (number, trail) in self.book.trails.iter().enumerate() {
            if trail.head == kind && !trail.tail_last {
                into.extend(self.oldest_to_go(number, head));
            }
        }
    }

    /// The heads of a plan that change their cells, with the cells they leave; what goes first where the tail leaves
    /// first goes now.
    pub(super) fn heads_leaving(&mut self, members: &[Member]) -> Vec<(usize, CellId)> {
        let mut heads = Vec::new();
        for member in members.iter().filter(|member| !member.gone && !member.adrift && member.from != member.to) {
            let kind = self.state.board.kind_of(member.piece);
            for number in 0..self.book.trails.len() {
                if self.book.trails[number].head != kind {
                    continue;
                }
                if !self.book.trails[number].tail_last
                    && let Some(oldest) = self.oldest_to_go(number, member.piece)
                {
                    self.state.board.remove(oldest);
                }
                heads.push((number, member.from));
            }
        }
        heads
    }

    /// A piece appears in each cell left, then the oldest go while there are too many.
    pub(super) fn leave_trails(&mut self, heads: &[(usize, CellId)]) {
        for (number, from) in heads {
            let leaves = self.book.trails[*number].leaves;
            let heading = self.book.kind(leaves).facing;
            let left = self.state.board.add(*from, leaves, heading);
            let mut pieces: VecDeque<PieceId> = self.tail(*number).chain(left).collect();
            let limit = self.state.bonds.tails.get(*number).map_or(0, |tail| tail.limit as usize);
            while pieces.len() > limit {
                if let Some(oldest) = pieces.pop_front() {
                    self.state.board.remove(oldest);
                }
            }
            self.change_bonds(|bonds| {
                if let Some(tail) = bonds.tails.get_mut(*number) {
                    tail.pieces = pieces.into();
                }
            });
        }
    }

    /// Trails grow: those whose head is of one of these kinds, or all where none of them is.
    pub(super) fn grow(&mut self, by: u32, matched: &[KindId]) {
        let trails = &self.book.trails;
        let of_matched: Vec<bool> = trails.iter().map(|trail| matched.contains(&trail.head)).collect();
        let all = !of_matched.contains(&true);
        self.change_bonds(|bonds| {
            for (tail, own) in bonds.tails.iter_mut().zip(of_matched) {
                if own || all {
                    tail.limit = tail.limit.saturating_add(by);
                }
            }
        });
    }
}
