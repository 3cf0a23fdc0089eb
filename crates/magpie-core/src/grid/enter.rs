//! Entering maps, trying things, and going back.

use super::context::Context;
use super::flow::{Ended, Flow, Goes, LayoutError};
use super::plan::Plan;
use super::random::Random;
use super::state::{Back, Entry, Grid, Running, Small, State};
use super::switches::{Dealt, Margin, Switches};
use super::tables::Tables;
use super::turn::Turn;
use super::watch::Watch;
use crate::board::{Board, CellId};
use crate::journal::Journal;
use crate::limits::MOST_BYTES_BACK;
use crate::rulebook::{KindId, Map, MapCells, Rulebook};
use crate::space::{Cell, Extent, RowsFrom};
use std::collections::VecDeque;
use std::sync::Arc;

/// What is done wrong on purpose, and what is given.
#[derive(Default)]
struct Wrong {
    switches: Switches,
    dealt: Option<Box<Dealt>>,
}

impl Grid {
    /// Enters a map of a rulebook, counted from 0. `seed` wins over the rulebook's own.
    ///
    /// # Errors
    /// A [`LayoutError`] where the map cannot be entered as the rulebook has it.
    pub fn new(
        book: Arc<Rulebook>,
        map: usize,
        seed: Option<u64>,
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        Self::build(book, map, None, seed, Wrong::default(), watch)
    }

    /// Enters a map with some steps done wrong on purpose, and with draws that are given.
    ///
    /// # Errors
    /// As [`Grid::new`].
    pub fn with_switches(
        book: Arc<Rulebook>,
        map: usize,
        seed: Option<u64>,
        (switches, dealt): (Switches, Option<Dealt>),
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        Self::build(book, map, None, seed, Wrong { switches, dealt: dealt.map(Box::new) }, watch)
    }

    /// Enters a board of a scenario's own; play goes on after a win or a loss.
    ///
    /// # Errors
    /// As [`Grid::new`].
    pub fn on_own_map(
        book: Arc<Rulebook>,
        map: Result<Arc<Map>, usize>,
        seed: Option<u64>,
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        let mut grid = match map {
            Ok(own) => Self::build(book, 0, Some(own), seed, Wrong::default(), watch)?,
            Err(number) => Self::build(book, number, None, seed, Wrong::default(), watch)?,
        };
        grid.endless = true;
        Ok(grid)
    }

    /// Enters a board in place of the rulebook's maps, with some steps done wrong on purpose; `next map` wins.
    ///
    /// # Errors
    /// As [`Grid::new`].
    pub fn on_board(
        book: Arc<Rulebook>,
        board: Arc<Map>,
        switches: Switches,
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        Self::build(book, 0, Some(board), None, Wrong { switches, dealt: None }, watch)
    }

    fn build(
        book: Arc<Rulebook>,
        map: usize,
        own_map: Option<Arc<Map>>,
        seed: Option<u64>,
        Wrong { switches, dealt }: Wrong,
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        if own_map.is_none() && map >= book.maps.len() {
            return Err(LayoutError::NoMap(map + 1, book.maps.len()));
        }
        let mut tables = Tables::new(&book).ok_or(LayoutError::TooManyClauses)?;
        tables.plain &= switches.is_right();
        let tables = Arc::new(tables);
        let seed = seed.unwrap_or(book.seed);
        let small = Small {
            turns: 0,
            moves: 0,
            clock: 0,
            random: Random::new(seed),
            outcome: None,
            chosen: None,
            blocked: false,
        };
        let counters = book.counters.iter().map(|counter| counter.start).collect();
        let state = begun(&book, own_map.as_deref(), map, (seed, switches), Entry { small, counters });
        let mut grid = Self {
            book,
            tables,
            state,
            turn: Turn::default(),
            plan: Plan::default(),
            moves: Vec::new(),
            match_cells: Vec::new(),
            own_map,
            endless: false,
            searched: false,
            switches,
            dealt,
            untimed: false,
            seed,
            back: VecDeque::new(),
            bytes_left: 0,
        };
        grid.begin(watch);
        Ok(grid)
    }

    /// Lays a map out and lets it begin; gives the state that was left.
    fn enter(&mut self, map: usize, entry: Entry, watch: &mut impl Watch) -> State {
        let state = begun(&self.book, self.own_map.as_deref(), map, (self.seed, self.switches), entry);
        let old = std::mem::replace(&mut self.state, state);
        self.begin(watch);
        old
    }

    /// Lets the map begin, and the next one where the beginning leads there.
    fn begin(&mut self, watch: &mut impl Watch) {
        while self.begin_map(watch) == Err(Flow::NextMap) && self.has_next_map() {
            let entry = self.carried();
            self.state = begun(&self.book, None, self.state.map + 1, (self.seed, self.switches), entry);
        }
    }

    /// `on start`, then settling; there is no turn to take back.
    fn begin_map(&mut self, watch: &mut impl Watch) -> Goes {
        // The last request is still the last one.
        let old = std::mem::take(&mut self.turn);
        self.turn = Turn { last: old.last, ..Turn::default() };
        self.begin_trails();
        let start = self.tables.start.clone();
        let mut flow = self.fire(&start, &Context::default(), watch);
        if flow.is_ok() {
            let before = self.moment();
            flow = self.settle_all(watch);
            if flow == Err(Flow::NeverSettles) {
                self.take_back(before);
                self.state.small.outcome = Some(Ended::NeverSettles);
            }
        }
        self.state.small.outcome = self.state.small.outcome.or(self.turn.pending.take());
        self.start_gliders();
        self.forget_changes();
        flow
    }

    fn carried(&self) -> Entry {
        let small = Small { outcome: None, chosen: None, blocked: false, ..self.state.small };
        Entry { small, counters: self.state.counters.clone() }
    }

    /// What the map was entered with, and what outlives a restart as it is now.
    fn kept(&self) -> Entry {
        let mut entry = self.state.entry.clone();
        let counters = self.book.counters.iter().zip(&self.state.counters).zip(&mut entry.counters);
        for ((_, now), at_entry) in counters.filter(|((counter, _), _)| counter.kept) {
            *at_entry = *now;
        }
        if self.book.is_seed_kept {
            entry.small.random = self.state.small.random;
        }
        entry
    }

    /// Whether there is a map behind this one.
    pub fn has_next_map(&self) -> bool {
        !self.searched && self.own_map.is_none() && self.state.map + 1 < self.book.maps.len()
    }

    /// Tries something on the game as it stands and takes everything back: the board, the turn, and what could be taken
    /// back before. Within the attempt nothing from before it can be undone.
    pub fn trial<T>(&mut self, attempt: impl FnOnce(&mut Self) -> T) -> T {
        let moment = self.moment();
        let turn = std::mem::take(&mut self.turn);
        let back = std::mem::take(&mut self.back);
        let left = std::mem::take(&mut self.bytes_left);
        let found = attempt(self);
        while self.undo() {}
        self.take_back(moment);
        self.turn = turn;
        (self.back, self.bytes_left) = (back, left);
        found
    }

    /// Notes a moment to which [`Self::undo`] goes back.
    pub(super) fn remember(&mut self) {
        let moment = self.moment();
        self.back.push_back(Back::Moment(moment));
        self.trim();
    }

    /// Forgets the oldest moments where going back would hold too much; [`Self::depth`] tells how many are left.
    fn trim(&mut self) {
        self.state.ease();
        if self.searched {
            return;
        }
        let here = self.state.bytes_back() + self.back.len() * size_of::<Back>();
        if here + self.bytes_left <= MOST_BYTES_BACK {
            return;
        }
        // Half of it goes, so that this is seldom done; the newest, which may still be added to, never does.
        while self.bytes_left > MOST_BYTES_BACK / 2 && self.back.len() > 1 {
            self.forget_oldest();
        }
        if here > MOST_BYTES_BACK / 2 {
            let maps_left = self.back.iter().rposition(|back| matches!(back, Back::Whole(..))).map_or(0, |at| at + 1);
            let oldest_kept = maps_left + (self.back.len() - maps_left) / 2;
            (0..oldest_kept.min(self.back.len().saturating_sub(1))).for_each(|_| self.forget_oldest());
            if let Some(Back::Moment(oldest)) = self.back.front() {
                let oldest = *oldest;
                self.state.forget_before(&oldest);
            }
        }
    }

    fn forget_oldest(&mut self) {
        if let Some(Back::Whole(_, bytes)) = self.back.pop_front() {
            self.bytes_left -= bytes;
        }
    }

    /// Enters the next map, or this one again, as the input noted last; what was before it is kept whole.
    pub(super) fn leave_map(&mut self, next: bool, watch: &mut impl Watch) {
        let entry = if next { self.carried() } else { self.kept() };
        let before = self.back.pop_back();
        if let Some(Back::Moment(moment)) = &before {
            self.take_back(*moment);
        }
        let map = self.state.map + usize::from(next);
        let old = self.enter(map, entry, watch);
        // A wait may leave several maps; it is taken back as a whole.
        if let Some(first @ Back::Whole(..)) = before {
            self.back.push_back(first);
        } else {
            let bytes = old.bytes();
            self.bytes_left += bytes;
            self.back.push_back(Back::Whole(Box::new(old), bytes));
        }
        self.trim();
    }

    /// Takes back the last input; false where there is none.
    pub fn undo(&mut self) -> bool {
        match self.back.pop_back() {
            None => return false,
            Some(Back::Moment(moment)) => self.take_back(moment),
            Some(Back::Whole(state, bytes)) => {
                self.bytes_left -= bytes;
                self.state = *state;
            }
        }
        self.turn.spawns.clear();
        self.turn.pending = None;
        true
    }

    /// A game of its own in the same state, with nothing to take back.
    #[must_use]
    pub fn copied(&self) -> Self {
        let mut state = self.state.clone();
        state.board.forget();
        state.counter_journal.forget();
        state.timer_journal.forget();
        state.bonds_journal.forget();
        Self {
            book: self.book.clone(),
            tables: self.tables.clone(),
            state,
            turn: Turn { last: self.turn.last, ..Turn::default() },
            plan: Plan::default(),
            moves: Vec::new(),
            match_cells: Vec::new(),
            own_map: self.own_map.clone(),
            endless: self.endless,
            searched: self.searched,
            switches: self.switches,
            dealt: self.dealt.clone(),
            untimed: self.untimed,
            seed: self.seed,
            back: VecDeque::new(),
            bytes_left: 0,
        }
    }

    /// Forgets how to take anything back; for searches and measurements that never do.
    pub fn forget(&mut self) {
        self.back.clear();
        self.bytes_left = 0;
        self.forget_changes();
    }

    fn forget_changes(&mut self) {
        self.state.board.forget();
        self.state.counter_journal.forget();
        self.state.timer_journal.forget();
        self.state.bonds_journal.forget();
    }

    /// How many inputs can be taken back.
    pub fn depth(&self) -> usize {
        self.back.len()
    }
}

/// The state in which a map begins, before any of its rules has acted. Timers begin anew with every map.
fn begun(book: &Rulebook, own_map: Option<&Map>, map: usize, (seed, switches): (u64, Switches), entry: Entry) -> State {
    State {
        map,
        board: lay_out(book, own_map.unwrap_or(&book.maps[map]), seed, switches),
        counters: entry.counters.clone(),
        small: entry.small,
        counter_journal: Journal::default(),
        timers: running(book, entry.small.clock),
        timer_journal: Journal::default(),
        bonds: Arc::default(),
        bonds_journal: Journal::default(),
        entry,
    }
}

fn running(book: &Rulebook, now: u64) -> Vec<Running> {
    book.timers.iter().map(|timer| Running { period: timer.ms.max(1) as u64, last: now }).collect()
}

impl Board {
    /// The board as characters, top line first, before any rule has acted.
    pub(crate) fn picture_of(&self, book: &Rulebook) -> Vec<Vec<char>> {
        let extent = self.extent();
        let glyph = |column: u32, line: u32| {
            let row = if book.geometry.rows == RowsFrom::Top { line } else { extent.rows - 1 - line };
            let id = self.id(Cell::new(column.into(), row.into())).filter(|id| !self.is_void(*id));
            id.map_or(' ', |id| book.glyph_of(&self.kinds_at(id).collect::<Vec<_>>()))
        };
        (0..extent.rows).map(|line| (0..extent.columns).map(|column| glyph(column, line)).collect()).collect()
    }
}

/// A map of a rulebook, from 0, as it is drawn: before any of its rules has acted, scattered with the rulebook's seed.
pub fn drawn(book: &Rulebook, map: usize) -> Board {
    lay_out(book, &book.maps[map], book.seed, Switches::default())
}

/// The board of a map at its beginning.
fn lay_out(book: &Rulebook, map: &Map, seed: u64, switches: Switches) -> Board {
    let Extent { columns, rows } = map.extent;
    let layer_of = book.kinds.iter().map(|kind| kind.layer).collect();
    // Ground that faces somewhere is no bare ground: each piece has a heading.
    let glides = |kind: KindId| book.glides.iter().any(|glide| book.set(glide.who).contains(kind));
    let bare = book.ground.filter(|ground| book.kind(*ground).facing.is_none() && !glides(*ground));
    let mut board = Board::new(switches.margin.around(map.extent), book.layers.len() as u8, layer_of, bare);
    book.glides.iter().for_each(|glide| board.let_crowd(book.set(glide.who)));
    let mut draws = Random::new(seed);
    let lay = |board: &mut Board, cell: CellId, kinds: &[KindId]| {
        for kind in kinds {
            if Some(*kind) == bare {
                board.lay_ground(cell);
            } else {
                board.add(cell, *kind, book.kind(*kind).facing);
            }
        }
        if let Some(ground) = book.ground {
            if bare.is_some() {
                board.lay_ground(cell);
            } else {
                board.add(cell, ground, book.kind(ground).facing);
            }
        }
    };
    for row in 0..rows {
        let line = if book.geometry.rows == RowsFrom::Top { row } else { rows - 1 - row };
        for column in 0..columns {
            let Some(cell) = board.id(switches.margin.inner(Cell::new(column.into(), row.into()))) else { continue };
            match &map.cells {
                MapCells::Legend { cells, entries } => {
                    let entry = &entries[usize::from(cells[(line * columns + column) as usize])];
                    match entry {
                        None => board.make_void(cell),
                        Some(kinds) => lay(&mut board, cell, kinds),
                    }
                }
                MapCells::Filled { of, scatter } => {
                    let hit =
                        scatter.filter(|(share, _)| i128::from(draws.below(10_000)) * share.below < 100 * share.above);
                    match hit {
                        Some((_, kind)) if board.layer(kind) == board.layer(*of) => lay(&mut board, cell, &[kind]),
                        Some((_, kind)) => lay(&mut board, cell, &[*of, kind]),
                        None => lay(&mut board, cell, &[*of]),
                    }
                }
            }
        }
    }
    if switches.margin != Margin::default() {
        let inside = |cell: Cell| map.extent.contains(switches.margin.outer(cell));
        let around = (0..board.cells()).map(CellId).filter(|cell| !inside(board.cell(*cell)));
        around.collect::<Vec<_>>().into_iter().for_each(|cell| board.make_void(cell));
    }
    if switches.lets_share() {
        board.let_share();
    }
    board.forget();
    board
}
