//! What follows a head: pieces left in the cells it leaves, the oldest going first (docs/model.md, section 9).

use super::bonds::Tail;
use super::plan::{Member, TailEnd};
use super::state::Grid;
use super::switches::Switch;
use crate::board::{CellId, PieceId};
use crate::rulebook::KindId;
use std::collections::VecDeque;

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

    /// The oldest pieces of trails that would go when a head leaves its cell: in nobody's way, as far as is known before
    /// the plan is whole.
    pub(super) fn leaving_tails(&self, head: PieceId, from: CellId, into: &mut Vec<TailEnd>) {
        let kind = self.state.board.kind_of(head);
        for (number, trail) in self.book.trails.iter().enumerate() {
            if trail.head != kind || trail.tail_last {
                continue;
            }
            let limit = self.state.bonds.tails.get(number).map_or(0, |tail| tail.limit as usize);
            let mut tail = self.tail(number);
            if let Some(piece) = tail.next()
                && 2 + tail.count() > limit
            {
                into.push(TailEnd { piece, trail: number, from });
            }
        }
    }

    /// Where nothing will be left, because another comes into the cell or stays there, the oldest does not go: the plan
    /// is whole now, and tells.
    pub(super) fn keep_tails(&mut self) {
        let mut tails = std::mem::take(&mut self.plan.tails);
        tails.retain(|end| {
            let goes = self.is_left_free(end.from, self.book.trails[end.trail].leaves);
            if !goes {
                self.plan.stay(end.piece);
            }
            goes
        });
        self.plan.tails = tails;
    }

    /// Whether a cell will be free for a kind once the plan is carried out.
    fn is_left_free(&self, cell: CellId, kind: KindId) -> bool {
        let board = &self.state.board;
        let layer = board.layer(kind);
        let stays = match board.known_piece_at(cell, layer) {
            Some(piece) => !self.plan.is_leaving(piece),
            None => board.kind_at(cell, layer).is_some(),
        };
        let comes = |member: &Member| {
            let stands = !member.gone && !member.adrift && !board.is_loose(member.piece);
            stands && member.to == cell && board.layer(board.kind_of(member.piece)) == layer
        };
        !stays && !self.plan.members.iter().any(comes)
    }

    /// The heads of a plan that change their cells, with the cells they leave; what goes before the head arrives goes now.
    pub(super) fn heads_leaving(&mut self, members: &[Member]) -> Vec<(usize, CellId)> {
        for at in 0..self.plan.tails.len() {
            self.state.board.remove(self.plan.tails[at].piece);
        }
        let moving = members.iter().filter(|member| !member.gone && !member.adrift && member.from != member.to);
        let heads = moving.flat_map(|member| {
            let kind = self.state.board.kind_of(member.piece);
            let trails = self.book.trails.iter().enumerate().filter(move |(_, trail)| trail.head == kind);
            trails.map(|(number, _)| (number, member.from))
        });
        heads.collect()
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
                    tail.limit = tail.limit.saturating_add(std::mem::take(&mut tail.late));
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
        let late = self.switches.has(Switch::GrowsLate);
        self.change_bonds(|bonds| {
            for (tail, own) in bonds.tails.iter_mut().zip(of_matched) {
                if own || all {
                    let length = if late { &mut tail.late } else { &mut tail.limit };
                    *length = length.saturating_add(by);
                }
            }
        });
    }
}
