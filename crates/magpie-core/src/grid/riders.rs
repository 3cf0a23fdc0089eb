//! Gliders, and riders on whatever moves (docs/model.md, section 8).

use super::bonds::{Glider, Rider};
use super::flow::Flow;
use super::glide::{Line, PITCH, middle};
use super::plan::Step;
use super::state::Grid;
use super::watch::Watch;
use crate::board::{CellId, PieceId};
use crate::rulebook::{Glide, KindId};
use crate::space::{Cell, Geometry, Heading};
use hashbrown::HashSet;
use std::sync::Arc;

/// What a rider is to be asked.
struct Asks {
    /// The foremost along its heading first, of two in one cell the one that boarded first.
    order: (Heading, i64, i64, i64, u64),
    piece: PieceId,
    last: Cell,
    to: Cell,
    heading: Heading,
}

/// The cell in which a centre lies, on the board or off it.
fn cell_under(centre: (i128, i128)) -> Cell {
    Cell::new(centre.0.div_euclid(PITCH) as i64, centre.1.div_euclid(PITCH) as i64)
}

fn is_across(heading: Heading) -> bool {
    matches!(heading, Heading::West | Heading::East)
}

/// Whether cell numbers grow along a heading.
fn counts_up(heading: Heading, geometry: &Geometry) -> bool {
    let step = Step::along(heading, geometry.south());
    step.columns + step.rows > 0
}

impl Grid {
    /// Notes a granted request of a piece, where a control looks at it later.
    pub(super) fn note_move(&mut self, piece: PieceId, heading: Option<Heading>) {
        if let Some(heading) = heading.filter(|_| self.tables.no_reverse)
            && !self.state.bonds.moves.contains(&(piece, heading))
        {
            self.change_bonds(|bonds| {
                bonds.moves.retain(|(other, _)| *other != piece);
                bonds.moves.push((piece, heading));
            });
        }
    }

    /// Whether a heading is straight back from the last granted request of a piece.
    pub(super) fn is_back(&self, piece: PieceId, heading: Heading) -> bool {
        self.state.bonds.moves.contains(&(piece, heading.opposite()))
    }

    fn rider(&self, piece: PieceId) -> Option<&Rider> {
        self.state.bonds.rider(piece).filter(|rider| self.state.board.exists(rider.carrier))
    }

    /// The cell in which a rider got on.
    pub(super) fn boarded_at(&self, piece: PieceId) -> Option<CellId> {
        self.state.board.id(self.rider(piece)?.on_at)
    }

    pub(super) fn line(&self, glider: &Glider) -> Line {
        let Glide { heading, end, .. } = self.book.glides[glider.glide];
        let extent = self.state.board.extent();
        let (cells, start) =
            if is_across(heading) { (extent.columns, glider.from.column) } else { (extent.rows, glider.from.row) };
        Line { cells: cells.into(), start, up: counts_up(heading, &self.book.geometry), end }
    }

    fn gone(&self, glider: &Glider) -> i128 {
        self.gone_at(glider, self.state.small.clock)
    }

    fn gone_at(&self, glider: &Glider, clock: u64) -> i128 {
        self.tables.tracks.rates[glider.glide].gone(clock.saturating_sub(glider.since))
    }

    /// Where the centre of a piece is now, in units, columns and rows; `None` where it is neither in a cell nor on its way.
    fn centre(&self, piece: PieceId) -> Option<(i128, i128)> {
        self.centre_at(piece, self.state.small.clock)
    }

    fn centre_at(&self, piece: PieceId, clock: u64) -> Option<(i128, i128)> {
        let (below, offset) = self.rider(piece).map_or((piece, (0, 0)), |rider| self.carried_by(rider));
        let (x, y) = self.own_centre(below, clock)?;
        Some((x + offset.0, y + offset.1))
    }

    /// The same of a piece that is not carried.
    fn own_centre(&self, piece: PieceId, clock: u64) -> Option<(i128, i128)> {
        if let Some(glider) = self.state.bonds.glider(piece) {
            let along = self.line(glider).at(self.gone_at(glider, clock));
            let Cell { column, row } = glider.from;
            let across = is_across(self.book.glides[glider.glide].heading);
            return Some(if across { (along, middle(row)) } else { (middle(column), along) });
        }
        let cell = self.state.board.cell(self.state.board.cell_of(piece)?);
        Some((middle(cell.column), middle(cell.row)))
    }

    /// The centre of a glider or rider in cells, counted from half a gap before the first; `None` for all other pieces.
    pub fn at(&self, piece: PieceId) -> Option<(f64, f64)> {
        self.at_in(piece, 0)
    }

    /// The same so many milliseconds from now, if nothing happens in between.
    pub fn at_in(&self, piece: PieceId, ms: u64) -> Option<(f64, f64)> {
        let bonds = &self.state.bonds;
        if bonds.glider(piece).is_none() && self.rider(piece).is_none() {
            return None;
        }
        let (x, y) = self.centre_at(piece, self.state.small.clock.saturating_add(ms))?;
        Some((x as f64 / PITCH as f64, y as f64 / PITCH as f64))
    }

    /// Gliders and riders, those out of every cell among them.
    pub fn between_cells(&self) -> impl Iterator<Item = PieceId> + '_ {
        let bonds = &self.state.bonds;
        bonds.gliders.iter().map(|glider| glider.piece).chain(bonds.riders.iter().map(|rider| rider.piece))
    }

    /// Whether a piece is carried, at whatever remove, by another.
    pub(super) fn is_carried_by(&self, piece: PieceId, carrier: PieceId) -> bool {
        let mut below = self.carrier_of(piece);
        while let Some(found) = below {
            if found == carrier {
                return true;
            }
            below = self.carrier_of(found);
        }
        false
    }

    /// What carries a rider.
    pub fn carrier_of(&self, piece: PieceId) -> Option<PieceId> {
        self.rider(piece).map(|rider| rider.carrier)
    }

    /// New gliders begin to move, and what has left the board moves no more.
    pub(super) fn start_gliders(&mut self) {
        if self.book.glides.is_empty() && self.state.bonds.gliders.is_empty() {
            return;
        }
        let (board, tracks) = (&self.state.board, &self.tables.tracks);
        let old = &self.state.bonds.gliders;
        let glide_of = |piece: PieceId| tracks.of_kind[usize::from(board.kind_of(piece).0)];
        let goes_on = |glider: &Glider| board.exists(glider.piece) && glide_of(glider.piece) == Some(glider.glide);
        let mut new = Vec::new();
        for (kind, glide) in tracks.of_kind.iter().enumerate() {
            let Some(glide) = *glide else { continue };
            for piece in board.pieces_of(KindId(kind as u16)) {
                if self.state.bonds.glider(piece).is_none_or(|glider| !goes_on(glider))
                    && let Some(cell) = board.cell_of(piece)
                {
                    new.push(Glider { piece, glide, since: self.state.small.clock, from: board.cell(cell) });
                }
            }
        }
        if new.is_empty() && old.iter().all(goes_on) {
            return;
        }
        new.extend(old.iter().copied().filter(goes_on));
        new.sort_unstable_by_key(|glider| glider.piece);
        self.change_bonds(|bonds| bonds.gliders = Arc::new(new));
    }

    /// A piece has been put into another cell by a rule: it rides no more, and as a glider it begins anew from there.
    pub(super) fn end_motion(&mut self, piece: PieceId) {
        let bonds = &self.state.bonds;
        if self.rider(piece).is_some() || bonds.glider(piece).is_some() {
            self.change_bonds(|bonds| {
                bonds.riders.retain(|rider| rider.piece != piece);
                if bonds.glider(piece).is_some() {
                    Arc::make_mut(&mut bonds.gliders).retain(|glider| glider.piece != piece);
                }
            });
        }
    }

    /// A piece that has entered the cell it stands in is carried from now on.
    pub(super) fn begin_ride(&mut self, piece: PieceId, carrier: PieceId) {
        let board = &self.state.board;
        let Some((cell, centre)) = board.cell_of(piece).zip(self.centre(carrier)) else {
            return;
        };
        let last = board.cell(cell);
        let offset = (middle(last.column) - centre.0, middle(last.row) - centre.1);
        self.change_bonds(|bonds| bonds.add_rider(piece, carrier, offset, last));
    }

    /// The first millisecond after now, not later than an instant, at which a glider or a rider comes into another cell.
    pub(super) fn next_glide(&self, until: u64) -> Option<u64> {
        let bonds = &self.state.bonds;
        let carried = bonds.riders.iter().filter_map(|rider| {
            let (carrier, offset) = self.carried_by(rider);
            Some((bonds.glider(carrier)?, offset))
        });
        let all = bonds.gliders.iter().map(|glider| (glider, (0, 0))).chain(carried);
        let due = |(glider, offset): (&Glider, (i128, i128))| {
            let across = is_across(self.book.glides[glider.glide].heading);
            let next = self.line(glider).next_change(self.gone(glider), if across { offset.0 } else { offset.1 })?;
            let ms = self.tables.tracks.rates[glider.glide].first_ms(next);
            Some(glider.since.saturating_add(ms))
        };
        all.filter_map(due).min().filter(|due| *due <= until)
    }

    /// Gliders come into the cells where they are by the clock; then riders are asked.
    pub(super) fn glide<W: Watch>(&mut self, watch: &mut W) -> Result<(), Flow> {
        let bonds = self.state.bonds.clone();
        for glider in bonds.gliders.iter() {
            let Some(centre) = self.centre(glider.piece) else { continue };
            let cell = self.state.board.id(cell_under(centre));
            match cell.filter(|cell| !self.state.board.is_void(*cell)) {
                to if to == self.state.board.cell_of(glider.piece) => {}
                Some(to) => self.state.board.shift(&[(glider.piece, to)]),
                None => self.state.board.set_adrift(glider.piece),
            }
        }
        self.carry(watch)
    }

    /// Riders whose centre has come into another cell are asked, the foremost first.
    pub(super) fn carry<W: Watch>(&mut self, watch: &mut W) -> Result<(), Flow> {
        if self.state.bonds.riders.is_empty() {
            return Ok(());
        }
        let board = &self.state.board;
        let lives = |rider: &Rider| board.exists(rider.piece) && board.exists(rider.carrier);
        if !self.state.bonds.riders.iter().all(lives) {
            let riders: Vec<Rider> = self.state.bonds.riders.iter().copied().filter(lives).collect();
            self.change_bonds(|bonds| bonds.riders = riders);
        }
        // A carrier that is itself refused stays back with whom it carries: they are looked at anew.
        let mut asked: HashSet<(PieceId, Cell)> = HashSet::new();
        loop {
            let waiting = self.state.bonds.riders.iter().filter_map(|rider| self.waiting(rider));
            let first = waiting.filter(|asks| !asked.contains(&(asks.piece, asks.to))).min_by_key(|asks| asks.order);
            let Some(asks) = first else { return Ok(()) };
            asked.insert((asks.piece, asks.to));
            self.carry_one(&asks, watch)?;
        }
    }

    /// What a rider is to be asked, where its centre has come into another cell.
    fn waiting(&self, rider: &Rider) -> Option<Asks> {
        let south = self.book.geometry.south();
        let to = cell_under(self.centre(rider.piece)?);
        let out = self.state.board.cell_of(rider.piece).is_none();
        if to == rider.last && !out || out && self.state.board.id(to).is_none() {
            return None;
        }
        let heading = self.carried_along(rider).or_else(|| {
            let (columns, rows) = (to.column - rider.last.column, to.row - rider.last.row);
            Heading::from_screen_step(columns.signum(), rows.signum() * south)
        })?;
        let way = Step::along(heading, south);
        let ahead = rider.last.column * way.columns + rider.last.row * way.rows;
        Some(Asks {
            order: (heading, -ahead, rider.last.row, rider.last.column, rider.boarded),
            piece: rider.piece,
            last: rider.last,
            to,
            heading,
        })
    }

    /// What carries a rider in the end, and the way from its centre to the rider's.
    fn carried_by(&self, rider: &Rider) -> (PieceId, (i128, i128)) {
        let (mut carrier, mut offset) = (rider.carrier, rider.offset);
        while let Some(below) = self.rider(carrier) {
            offset = (offset.0 + below.offset.0, offset.1 + below.offset.1);
            carrier = below.carrier;
        }
        (carrier, offset)
    }

    /// Which way the glider goes that carries a rider in the end.
    fn carried_along(&self, rider: &Rider) -> Option<Heading> {
        let glider = self.state.bonds.glider(self.carried_by(rider).0)?;
        let heading = self.book.glides[glider.glide].heading;
        match self.line(glider).way(self.gone(glider)) {
            0 => None,
            way if (way > 0) == counts_up(heading, &self.book.geometry) => Some(heading),
            _ => Some(heading.opposite()),
        }
    }

    fn carry_one<W: Watch>(&mut self, asks: &Asks, watch: &mut W) -> Result<(), Flow> {
        let &Asks { piece, last, to, heading, .. } = asks;
        let Some(from) = self.state.board.id(last) else { return Ok(()) };
        let out = self.state.board.cell_of(piece).is_none();
        let edge = self.state.board.id(to).is_none();
        let step = Step::along(heading, self.book.geometry.south());
        if self.ask_carried(piece, from, to, step, watch)? {
            self.change_bonds(|bonds| {
                for rider in bonds.riders.iter_mut().filter(|rider| rider.piece == piece) {
                    rider.last = if edge { last } else { to };
                }
            });
        } else if !out {
            self.end_motion(piece);
        }
        Ok(())
    }
}
