//! A state as a few bytes, for whoever has to remember very many: what differs from a board that all are held against, and
//! of everything else what some rule can still tell apart (docs/proof.md).

use super::at_hand::{Scratch, Slot};
use super::base::{Base, RANDOM, Reader};
use super::bonds::Glider;
use super::flow::Ended;
use super::glide::{Line, PITCH};
use super::records::Layout;
use super::state::{Back, Chosen, Grid, Moment, Running, Small, State};
use super::watch::Watch;
use crate::board::{CellId, PieceId};
use crate::rulebook::{CounterId, GlideEnd, KindId, Reads, Rulebook};
use std::sync::Arc;

/// So far the clock is put forward where nobody reads it, so that timers can be set to any time before now.
const AHEAD: u64 = 1 << 40;

/// A state kept whole.
#[derive(Clone)]
pub(crate) struct Kept(Box<State>);

impl Kept {
    /// Bytes that it holds, roughly.
    pub fn bytes(&self) -> usize {
        self.0.bytes()
    }
}

/// Seven bits a byte, the lowest first.
fn write(mut number: u64, into: &mut Vec<u8>) {
    while number >= 128 {
        into.push(number as u8 | 128);
        number >>= 7;
    }
    into.push(number as u8);
}

fn signed(number: i64) -> u64 {
    (number << 1 ^ number >> 63) as u64
}

fn unsigned(number: u64) -> i64 {
    (number >> 1) as i64 ^ -((number & 1) as i64)
}

impl Grid {
    /// The same for another thread: with a rulebook of its own, so that threads do not count each other's uses of one.
    pub(crate) fn fork_apart(&self) -> Self {
        Self {
            book: Arc::new(Rulebook::clone(&self.book)),
            tables: Arc::new(super::tables::Tables::clone(&self.tables)),
            ..self.fork()
        }
    }

    /// A game of its own in the same state, with nothing to take back, all whose ways are to be looked at.
    pub(crate) fn fork(&self) -> Self {
        Self { searched: true, endless: false, ..self.copied() }
    }

    /// Whether another game is of the same rulebook and map.
    pub(crate) fn is_beside(&self, other: &Self) -> bool {
        let of =
            |grid: &Self| (Arc::as_ptr(&grid.book), grid.state.map, grid.own_map.as_ref().map(Arc::as_ptr), grid.seed);
        of(self) == of(other)
    }

    /// Lets the present map begin again, on a copy.
    pub(crate) fn begun_anew<W: Watch>(&self, watch: &mut W) {
        let mut copy = self.fork();
        copy.remember();
        copy.leave_map(false, watch);
    }

    /// Makes the present state the one that others are held against.
    pub(crate) fn base(&mut self, reads: &Reads) -> Base {
        self.forget();
        if !reads.clock && !self.state.timers.is_empty() && self.book.glides.is_empty() {
            self.state.small.clock += AHEAD;
            self.state.timers.iter_mut().for_each(|timer| timer.last += AHEAD);
        }
        let board = &self.state.board;
        let layers = board.layers();
        let slots = (0..board.cells()).flat_map(|cell| (0..layers).map(move |layer| (cell, layer)));
        let layout = Layout::new(slots.clone().count(), &reads.headings);
        let symbols = slots.map(|(cell, layer)| layout.symbol(board.stands(cell, layer))).collect();
        let whole = self.tables.ties || self.tables.moves_between || self.tables.no_reverse;
        let moment = self.moment();
        let one_each = [reads.moves, reads.turns, reads.clock];
        let counted = reads.counters.iter().chain(&one_each).filter(|read| **read).count();
        let numbers = counted + 2 * self.state.timers.len();
        Base {
            symbols,
            layers: layers.into(),
            layout,
            reads: reads.clone(),
            judged: self.book.judged(),
            moment,
            numbers,
            whole,
        }
    }

    /// Whether the last input has left everything as it was that rules can tell apart; never of states that are kept whole.
    pub(crate) fn is_as_before(&self, base: &Base) -> bool {
        let Some(Back::Moment(before)) = self.back.back().filter(|_| !base.whole) else { return false };
        let (now, then, reads) = (&self.state.small, &before.small, &base.reads);
        let (state, board) = (&self.state, &self.state.board);
        let journals = board.mark() == before.board
            && state.counter_journal.moment() == before.counters
            && state.timer_journal.moment() == before.timers;
        let numbers = (now.turns == then.turns || !reads.turns)
            && (now.moves == then.moves || !reads.moves)
            && (now.clock == then.clock || !reads.clock && state.timers.is_empty());
        let rest = |small: &Small| (small.random, small.outcome, small.chosen, small.blocked);
        journals && numbers && rest(now) == rest(then)
    }

    /// The state as bytes, after an input in the one at hand. Two states give the same bytes where nothing
    /// that can still happen tells them apart.
    pub(crate) fn pack(&self, base: &Base, scratch: &mut Scratch, into: &mut Vec<u8>) {
        let board = &self.state.board;
        let before = match self.back.back() {
            Some(Back::Moment(before)) if !base.whole => before.board,
            _ => return self.pack_any(base, scratch, into),
        };
        scratch.cells.clear();
        if !board.touched_since(before, &mut scratch.cells) {
            return self.pack_any(base, scratch, into);
        }
        scratch.cells.sort_unstable();
        scratch.cells.dedup();
        let Scratch { cells, touched, .. } = scratch;
        touched.clear();
        cells.iter().for_each(|cell| touched.extend(self.stand_in(base, *cell)));
        scratch.splice(base, &[], into);
        self.pack_numbers(base, into);
    }

    /// The same of any game.
    pub(crate) fn pack_any(&self, base: &Base, scratch: &mut Scratch, into: &mut Vec<u8>) {
        let all = (0..self.state.board.cells()).flat_map(|cell| self.stand_in(base, cell));
        let touched = &mut scratch.touched;
        touched.clear();
        touched.extend(all.filter(|record| base.differs(*record)));
        base.layout.write(touched, &[], into);
        if base.whole {
            self.pack_bonds(base, into);
        }
        self.pack_numbers(base, into);
    }

    /// The slots of a cell with what stands there.
    fn stand_in<'a>(&'a self, base: &'a Base, cell: u32) -> impl Iterator<Item = u64> + 'a {
        (0..base.layers as u8).map(move |layer| {
            let now = base.layout.symbol(self.state.board.stands(cell, layer));
            base.layout.record(base.slot(CellId(cell), layer), now)
        })
    }

    /// Counters, timers and the rest that is a number.
    fn pack_numbers(&self, base: &Base, into: &mut Vec<u8>) {
        let (small, reads) = (&self.state.small, &base.reads);
        let outcome = match small.outcome {
            None | Some(Ended::NeverSettles) => 0,
            Some(Ended::Won) => 1,
            Some(Ended::Lost) => 2,
        };
        write(outcome | u64::from(small.blocked) << 2, into);
        for (value, _) in self.state.counters.iter().zip(&reads.counters).filter(|(_, read)| **read) {
            write(signed(*value), into);
        }
        let given = [(reads.moves, small.moves), (reads.turns, small.turns), (reads.clock, small.clock)];
        for (_, value) in given.into_iter().filter(|(read, _)| *read) {
            write(value, into);
        }
        for Running { period, last } in &self.state.timers {
            write((last + period).saturating_sub(small.clock), into);
            write(*period, into);
        }
        if reads.random {
            into.extend(small.random.0.to_le_bytes());
        }
        let board = &self.state.board;
        let chosen = small.chosen.and_then(|chosen| match chosen.piece {
            None => Some((u64::from(chosen.cell.0) << 1, 0)),
            Some(piece) => {
                let layer = board.layer(board.kind_of(piece));
                let cell = board.cell_of(piece).map_or(u64::from(u32::MAX), |cell| cell.0.into());
                board.exists(piece).then_some((cell << 1 | 1, u64::from(layer)))
            }
        });
        match chosen {
            None => write(0, into),
            Some((cell, layer)) => {
                write(cell + 1, into);
                write(layer, into);
            }
        }
    }

    /// Puts the board and everything else into the state at hand, whose key is given; only where states are not kept whole.
    pub(crate) fn load(&mut self, base: &Base, key: &[u8], scratch: &mut Scratch) {
        self.back.clear();
        self.bytes_left = 0;
        let anchored = scratch.anchored.unwrap_or(base.moment.board);
        self.take_back(Moment { board: anchored, ..base.moment });
        scratch.compare(base);
        if self.rearrange(base, scratch) {
            // Nobody has joined or left: the journal need not lead back before this.
            self.state.board.forget();
            scratch.anchored = Some(self.state.board.mark());
            scratch.anchor.clone_from(&scratch.loaded);
        }
        self.load_numbers(base, &mut Reader(&key[scratch.numbers..]));
    }

    /// Lets in every slot that is to change stand who is to stand there; whether they are the same pieces as before.
    fn rearrange(&mut self, base: &Base, scratch: &mut Scratch) -> bool {
        let Scratch { changed, moves, .. } = scratch;
        let board = &mut self.state.board;
        let numbered = board.numbered();
        for slot in changed.iter_mut().filter(|slot| slot.was != 0) {
            slot.leaving = board.piece_at(slot.cell, slot.layer);
        }
        moves.clear();
        let mut is_same = board.numbered() == numbered;
        for at in 0..changed.len() {
            let Slot { cell, now, .. } = changed[at];
            let Some(kind) = base.layout.kind(now) else { continue };
            let is_fit = |slot: &&mut Slot| slot.leaving.is_some() && base.layout.kind(slot.was) == Some(kind);
            match changed.iter_mut().find(is_fit) {
                Some(found) => moves.extend(found.leaving.take().map(|piece| (piece, cell))),
                None => is_same = false,
            }
        }
        for piece in changed.iter_mut().filter_map(|slot| slot.leaving.take()) {
            board.remove(piece);
            is_same = false;
        }
        if is_same {
            board.shift_for_good(moves);
        } else {
            board.shift(moves);
        }
        for Slot { cell, layer, now, .. } in changed.iter() {
            let Some(kind) = base.layout.kind(*now).filter(|kind| !is_same || base.layout.tells_heading(*kind)) else {
                continue;
            };
            let piece = board.known_piece_at(*cell, *layer).or_else(|| board.add(*cell, kind, None));
            if let Some(piece) = piece
                && base.layout.tells_heading(kind)
            {
                board.turn(piece, base.layout.heading(*now));
            }
        }
        is_same
    }

    fn load_numbers(&mut self, base: &Base, reader: &mut Reader) {
        let head = reader.number();
        self.state.small.outcome = match head & 3 {
            1 => Some(Ended::Won),
            2 => Some(Ended::Lost),
            _ => None,
        };
        self.state.small.blocked = head >> 2 == 1;
        for (number, _) in base.reads.counters.iter().enumerate().filter(|(_, read)| **read) {
            self.set_counter(CounterId(number as u16), unsigned(reader.number()));
        }
        if base.reads.moves {
            self.state.small.moves = reader.number();
        }
        if base.reads.turns {
            self.state.small.turns = reader.number();
        }
        if base.reads.clock {
            self.state.small.clock = reader.number();
        }
        for timer in 0..self.state.timers.len() {
            let (left, period) = (reader.number(), reader.number());
            self.set_timer(timer, Running { period, last: (self.state.small.clock + left).saturating_sub(period) });
        }
        if base.reads.random {
            let (state, rest) = reader.0.split_at(RANDOM.min(reader.0.len()));
            self.state.small.random.0 = state.try_into().map_or(0, u64::from_le_bytes);
            reader.0 = rest;
        }
        self.state.small.chosen = reader.number().checked_sub(1).map(|cell| {
            let (at, has_piece) = (CellId((cell >> 1) as u32), cell & 1 == 1);
            let layer = reader.number() as u8;
            let piece = if has_piece { self.state.board.piece_at(at, layer) } else { None };
            Chosen { cell: at, piece }
        });
    }

    /// The kind of the piece that `choose` has marked, where it is a piece.
    #[cfg(test)]
    pub(crate) fn chosen_kind(&self) -> Option<KindId> {
        let piece = self.state.small.chosen?.piece.filter(|piece| self.state.board.exists(*piece))?;
        Some(self.state.board.kind_of(piece))
    }

    /// Keeps the state whole.
    pub(crate) fn keep(&self) -> Kept {
        let mut state = self.state.clone();
        state.board.forget();
        state.counter_journal.forget();
        state.timer_journal.forget();
        state.bonds_journal.forget();
        Kept(Box::new(state))
    }

    /// Goes to a state that was kept whole.
    pub(crate) fn go_to(&mut self, kept: &Kept) {
        self.back.clear();
        self.bytes_left = 0;
        self.state = kept.0.as_ref().clone();
    }

    /// What ties pieces to each other and to time, by what they are and where they stand.
    fn pack_bonds(&self, base: &Base, into: &mut Vec<u8>) {
        let (board, bonds) = (&self.state.board, &self.state.bonds);
        let mut lists: Vec<Vec<u8>> = Vec::new();
        let mut list = |all: &mut dyn Iterator<Item = Vec<u8>>, sorted: bool, into: &mut Vec<u8>| {
            lists.clear();
            lists.extend(all);
            if sorted {
                lists.sort_unstable();
            }
            write(lists.len() as u64, into);
            lists.iter().for_each(|part| into.extend(part));
        };
        let place = |piece: PieceId, into: &mut Vec<u8>| {
            write(board.kind_of(piece).0.into(), into);
            write(board.cell_of(piece).map_or(0, |cell| u64::from(cell.0) + 1), into);
        };
        // The pieces beside the layers come first: they are looked up.
        list(
            &mut board.beside().map(|piece| {
                let mut part = Vec::new();
                place(piece, &mut part);
                part
            }),
            true,
            into,
        );
        let described = |piece: PieceId| {
            let mut part = Vec::new();
            place(piece, &mut part);
            let heading = board.heading_of(piece).filter(|_| base.layout.tells_heading(board.kind_of(piece)));
            write(heading.map_or(0, |heading| heading as u64 + 1), &mut part);
            let phase = bonds.glider(piece).map(|glider| self.phase(glider));
            part.extend(phase.unwrap_or_default().to_le_bytes());
            part
        };
        let gliders = bonds.gliders.iter().map(|glider| glider.piece).filter(|piece| board.exists(*piece));
        list(&mut gliders.map(described), true, into);
        // Who boarded first is asked first.
        let mut riders: Vec<_> = bonds.riders.iter().filter(|rider| board.exists(rider.piece)).collect();
        riders.sort_unstable_by_key(|rider| rider.boarded);
        let mut ridden = riders.into_iter().filter(|rider| board.exists(rider.carrier)).map(|rider| {
            let mut part = described(rider.piece);
            part.extend(described(rider.carrier));
            part.extend(rider.offset.0.to_le_bytes());
            part.extend(rider.offset.1.to_le_bytes());
            part
        });
        list(&mut ridden, false, into);
        let mut bodies = bonds.bodies.iter().filter(|body| body.is_whole(board)).map(|body| {
            let mut part = vec![u8::from(bonds.active == Some(body.number))];
            write(signed(body.corner.column), &mut part);
            write(signed(body.corner.row), &mut part);
            write(body.side as u64, &mut part);
            let mut members: Vec<Vec<u8>> = body.members.iter().map(|(piece, _)| described(*piece)).collect();
            members.sort_unstable();
            part.extend(members.concat());
            part
        });
        list(&mut bodies, true, into);
        for tail in &bonds.tails {
            write(tail.limit.into(), into);
            let left = tail.pieces.iter().filter(|piece| board.exists(**piece));
            list(&mut left.map(|piece| described(*piece)), false, into);
        }
        if base.reads.last_move {
            let moves = bonds.moves.iter().filter(|(piece, _)| board.exists(*piece));
            let mut told = moves.map(|(piece, heading)| {
                let mut part = described(*piece);
                part.push(*heading as u8);
                part
            });
            list(&mut told, true, into);
        }
    }

    /// Where a glider is on its way, exactly: the same number for the same future.
    fn phase(&self, glider: &Glider) -> i128 {
        let line: Line = self.line(glider);
        let gone_ms = i128::from(self.state.small.clock.saturating_sub(glider.since));
        let Some((above, below)) = self.tables.tracks.rates[glider.glide].parts() else {
            return gone_ms;
        };
        let span = i128::from(line.cells - 1) * PITCH;
        let start = super::glide::middle(line.start);
        let way = if line.up { 1 } else { -1 };
        match line.end {
            GlideEnd::Stop => {
                let length = if line.up { PITCH / 2 + span - start } else { start - PITCH / 2 };
                (start + way * length) * below - way * (length * below - above * gone_ms).max(0)
            }
            GlideEnd::Turning if span == 0 => 0,
            GlideEnd::Turning => {
                let begun = if line.up { start - PITCH / 2 } else { 2 * span - (start - PITCH / 2) };
                (begun * below + above * gone_ms).rem_euclid(2 * span * below)
            }
            GlideEnd::Wrapping => {
                let length = span + 2 * PITCH;
                ((start + PITCH / 2) * below + way * (above * gone_ms)).rem_euclid(length * below)
            }
        }
    }

    /// Whether some rule still has something due, and when at the earliest.
    pub(crate) fn next_instant(&self) -> Option<u64> {
        self.next_due(u64::MAX).map(|(due, _)| due)
    }

    /// The first of some pieces that has moved since the input that was played last, by kinds.
    pub(crate) fn moved_kinds(&self, each: impl FnMut(KindId)) {
        if let Some(Back::Moment(moment)) = self.back.back() {
            self.state.board.moved_since(moment.board, each);
        }
    }
}
