//! What ties pieces to each other and to time: gliders, riders, rigid bodies, trails. Copied on every change, so that
//! going back is going back to an older copy; a game without any of it pays nothing.

use super::riders::{Glider, Rider};
use super::shapes::Body;
use super::state::Grid;
use super::trails::Tail;
use crate::board::PieceId;
use crate::space::Heading;
use std::sync::Arc;

/// Everything that a board of pieces does not hold.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Bonds {
    pub gliders: Vec<Glider>,
    pub riders: Vec<Rider>,
    /// The heading of the last granted request of each piece that may not turn straight back.
    pub moves: Vec<(PieceId, Heading)>,
    /// Rigid bodies of several pieces or of a shape of one.
    pub bodies: Vec<Body>,
    /// The number of the active body.
    pub active: Option<u32>,
    /// What each trail of the rulebook has left.
    pub tails: Vec<Tail>,
}

impl Grid {
    /// Changes what ties pieces; the old state is kept for going back.
    pub(super) fn change_bonds(&mut self, change: impl FnOnce(&mut Bonds)) {
        let mut bonds = Bonds::clone(&self.state.bonds);
        change(&mut bonds);
        if bonds != *self.state.bonds {
            let old = std::mem::replace(&mut self.state.bonds, Arc::new(bonds));
            self.state.bonds_journal.push(old);
        }
    }

    /// A number that tells apart states of what ties pieces, gliders aside: they follow the clock.
    pub(super) fn bonds_hash(&self) -> u64 {
        use crate::board::{Board, mix};
        let bonds = &self.state.bonds;
        let number = |piece: PieceId| Board::number_of(piece) as u64;
        let riders =
            bonds.riders.iter().fold(0, |sum, rider| sum ^ mix(number(rider.piece) << 32 | number(rider.carrier)));
        let bodies = bonds.bodies.iter().flat_map(|body| body.members.iter().map(|(piece, _)| (body.number, *piece)));
        let bodies = bodies.fold(0, |sum, (body, piece)| sum ^ mix(1 << 63 | u64::from(body) << 32 | number(piece)));
        let tails = bonds.tails.iter().enumerate().map(|(at, tail)| mix((at as u64) << 40 | u64::from(tail.limit)));
        riders
            ^ bodies
            ^ tails.fold(0, |sum, tail| sum ^ tail)
            ^ bonds.active.map_or(0, |active| mix(u64::from(active)))
    }
}
