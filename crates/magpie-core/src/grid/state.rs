//! The state of a game, and every way in which it changes: noted, so that it can be taken back.

use super::bonds::Bonds;
use super::flow::Ended;
use super::plan::Plan;
use super::random::Random;
use super::switches::{Dealt, Switches};
use super::tables::Tables;
use super::turn::Turn;
use crate::board::{Board, CellId, Mark, PieceId, mix};
use crate::journal::Journal;
use crate::limits::COUNTER_BOUND;
use crate::rulebook::{CounterId, CounterRead, Map, Rulebook};
use crate::space::Cell;
use std::collections::VecDeque;
use std::sync::Arc;

/// What `choose` has marked: a cell, and the piece that stood topmost in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Chosen {
    pub cell: CellId,
    /// From then on the mark goes where this piece goes, and ends with it.
    pub piece: Option<PieceId>,
}

/// The part of a state that is copied whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Small {
    pub turns: u64,
    pub moves: u64,
    pub clock: u64,
    pub random: Random,
    pub outcome: Option<Ended>,
    pub chosen: Option<Chosen>,
    pub blocked: bool,
}

/// A timer as it runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Running {
    pub period: u64,
    /// When it fired last, or began.
    pub last: u64,
}

/// What a map is entered with: enough to enter it again.
#[derive(Clone, Debug)]
pub(super) struct Entry {
    pub small: Small,
    pub counters: Vec<i64>,
}

/// Everything that changes while a map is played.
#[derive(Clone, Debug)]
pub(super) struct State {
    pub map: usize,
    pub board: Board,
    pub counters: Vec<i64>,
    pub small: Small,
    pub entry: Entry,
    /// Old values of counters, for going back.
    pub counter_journal: Journal<(CounterId, i64)>,
    pub timers: Vec<Running>,
    /// Old values of timers, for going back.
    pub timer_journal: Journal<(usize, Running)>,
    pub bonds: Arc<Bonds>,
    /// Who glided and rode before each change, for going back.
    pub bonds_journal: Journal<Arc<Bonds>>,
}

/// A moment of the present map.
#[derive(Clone, Copy, Debug)]
pub(super) struct Moment {
    pub board: Mark,
    pub counters: usize,
    pub timers: usize,
    pub bonds: usize,
    pub small: Small,
}

pub(super) enum Back {
    Moment(Moment),
    /// The map was entered anew; this is what was left, and how many bytes that holds.
    Whole(Box<State>, usize),
}

impl State {
    /// Bytes that are held for going back within the map.
    pub fn bytes_back(&self) -> usize {
        // Bonds are shared and small; each counts as a little more than its place.
        let bonds = self.bonds_journal.bytes() * 8;
        self.board.bytes_back() + self.counter_journal.bytes() + self.timer_journal.bytes() + bonds
    }

    /// Gives room back that one turn needed for going back and the others do not.
    pub fn ease(&mut self) {
        self.board.ease();
        self.counter_journal.ease();
        self.timer_journal.ease();
        self.bonds_journal.ease();
    }

    /// Bytes that the whole state holds.
    pub fn bytes(&self) -> usize {
        self.board.bytes() + self.bytes_back()
    }

    /// Forgets how to go back beyond a moment.
    pub fn forget_before(&mut self, moment: &Moment) {
        self.board.forget_before(moment.board);
        self.counter_journal.forget_before(moment.counters);
        self.timer_journal.forget_before(moment.timers);
        self.bonds_journal.forget_before(moment.bonds);
    }
}

/// A game being played: the one that is asked.
///
/// It is made for a map of a rulebook, takes [inputs](Self::input), and answers [requests](Self::request). Every change
/// can be taken back.
///
/// ```
/// use magpie_core::grid::{Grid, Nobody};
/// use magpie_core::rulebook::read_text;
/// use magpie_core::space::Heading;
/// use std::sync::Arc;
///
/// let source = "game \"Loft\"\ncell 10 px\nkinds\n  ada A body\n  cog c body\nmap \"One\"\n  Ac_\ncontrol ada with arrows\nrules\n  ada into cog: shove\n";
/// let book = Arc::new(read_text(source, &|_| Err("no file".into())).rulebook.unwrap());
/// let mut grid = Grid::new(book, 0, None, &mut Nobody)?;
/// let ada = grid.controlled()[0];
/// assert!(grid.request(ada, Heading::East, &mut Nobody), "the cog is shoved");
/// assert!(!grid.request(ada, Heading::East, &mut Nobody), "it has come to the edge");
/// assert_eq!(grid.picture(), ["_Ac"]);
/// # Ok::<(), magpie_core::grid::LayoutError>(())
/// ```
pub struct Grid {
    pub(super) book: Arc<Rulebook>,
    pub(super) tables: Arc<Tables>,
    pub(super) state: State,
    /// What lives during the present turn.
    pub(super) turn: Turn,
    pub(super) plan: Plan,
    /// Scratch lists, kept so that a turn allocates nothing.
    pub(super) moves: Vec<(PieceId, CellId)>,
    pub(super) match_cells: Vec<CellId>,
    pub(super) own_map: Option<Arc<Map>>,
    /// Play goes on after a win or a loss.
    pub(super) endless: bool,
    /// All its ways are looked at: to go on to the next map is to win, and nothing is forgotten to save room.
    pub(super) searched: bool,
    /// What is done wrong on purpose.
    pub(super) switches: Switches,
    /// What is taken as given instead of drawn.
    pub(super) dealt: Option<Box<Dealt>>,
    /// Timers fire when they are told to, never by the clock.
    pub(super) untimed: bool,
    pub(super) seed: u64,
    pub(super) back: VecDeque<Back>,
    /// Bytes of the maps that were left and can be gone back to.
    pub(super) bytes_left: usize,
}

impl std::fmt::Debug for Grid {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Grid").field("map", &self.state.map).field("small", &self.state.small).finish_non_exhaustive()
    }
}

impl Grid {
    pub(super) fn moment(&mut self) -> Moment {
        Moment {
            board: self.state.board.mark(),
            counters: self.state.counter_journal.mark(),
            timers: self.state.timer_journal.moment(),
            bonds: self.state.bonds_journal.moment(),
            small: self.state.small,
        }
    }

    pub(super) fn take_back(&mut self, moment: Moment) {
        self.state.board.take_back(moment.board);
        while let Some((counter, old)) = self.state.counter_journal.pop_since(moment.counters) {
            self.state.counters[usize::from(counter.0)] = old;
        }
        while let Some((timer, old)) = self.state.timer_journal.pop_since(moment.timers) {
            self.state.timers[timer] = old;
        }
        while let Some(old) = self.state.bonds_journal.pop_since(moment.bonds) {
            self.state.bonds = old;
        }
        self.state.small = moment.small;
    }

    /// Changes what ties pieces; the old state is kept for going back.
    pub(super) fn change_bonds(&mut self, change: impl FnOnce(&mut Bonds)) {
        let mut bonds = Bonds::clone(&self.state.bonds);
        change(&mut bonds);
        if bonds != *self.state.bonds {
            let old = std::mem::replace(&mut self.state.bonds, Arc::new(bonds));
            self.state.bonds_journal.push(old);
        }
    }

    pub(super) fn set_timer(&mut self, timer: usize, new: Running) {
        if let Some(found) = self.state.timers.get_mut(timer) {
            let old = std::mem::replace(found, new);
            self.state.timer_journal.push((timer, old));
        }
    }

    pub(super) fn set_counter(&mut self, counter: CounterId, value: i64) {
        let found = &mut self.state.counters[usize::from(counter.0)];
        let old = std::mem::replace(found, value.clamp(-COUNTER_BOUND, COUNTER_BOUND));
        // Of changes between which nobody can go back the first tells enough.
        let told = self.state.counter_journal.last_since_mark().is_some_and(|(last, _)| *last == counter);
        if old != *found && !told {
            self.state.counter_journal.push((counter, old));
        }
    }

    /// A number that tells states apart, as settling compares them.
    pub(super) fn hash(&mut self) -> u64 {
        // A place is spread before its value joins it, so that no two places share bits.
        let spread = |sort: u64, at: usize, value: u64| mix(mix(sort << 32 | at as u64) ^ value);
        let counters = self.state.counters.iter().enumerate();
        let counters = counters.fold(0, |sum, (at, value)| sum ^ spread(1, at, *value as u64));
        let timers = self.state.timers.iter().enumerate();
        let timers = timers.fold(0, |sum, (at, timer)| sum ^ spread(2, at, timer.period));
        self.state.board.hash() ^ counters ^ timers ^ self.state.bonds.hash() ^ mix(self.state.small.random.0)
    }

    /// The rulebook.
    pub fn book(&self) -> &Arc<Rulebook> {
        &self.book
    }

    /// The number of the present map, from 0.
    pub const fn map(&self) -> usize {
        self.state.map
    }

    /// The title of the present map.
    pub fn map_title(&self) -> &str {
        self.own_map.as_deref().map_or_else(|| &*self.book.maps[self.state.map].title, |map| &map.title)
    }

    /// The board.
    pub const fn board(&self) -> &Board {
        &self.state.board
    }

    /// The outcome so far.
    pub const fn outcome(&self) -> Option<Ended> {
        self.state.small.outcome
    }

    /// The cell that `choose` has marked: the one in which the marked piece stands, where a piece was marked.
    pub fn chosen(&self) -> Option<Cell> {
        self.chosen_cell().map(|cell| self.state.board.cell(cell))
    }

    /// The same cell, by its number.
    pub(super) fn chosen_cell(&self) -> Option<CellId> {
        let chosen = self.state.small.chosen?;
        chosen.piece.map_or(Some(chosen.cell), |piece| self.state.board.cell_of(piece))
    }

    /// What a counter reads.
    pub fn counter(&self, counter: CounterRead) -> i64 {
        match counter {
            CounterRead::Moves => self.state.small.moves as i64,
            CounterRead::Turns => self.state.small.turns as i64,
            CounterRead::Clock => self.state.small.clock as i64,
            CounterRead::Own(id) => self.state.counters[usize::from(id.0)],
        }
    }

    /// The rulebook's counters in order, with their values.
    pub fn counters(&self) -> impl Iterator<Item = (&str, i64)> {
        self.book.counters.iter().map(|counter| counter.name.as_str()).zip(self.state.counters.iter().copied())
    }
}
