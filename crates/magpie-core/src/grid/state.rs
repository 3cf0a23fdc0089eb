//! The state of a game, entering maps, and going back.

use super::bonds::Bonds;
use super::ledger::Watch;
use super::random::Random;
use super::tables::Tables;
use super::turn::Flow;
use crate::board::{Board, CellId, Mark, PieceId, mix};
use crate::rulebook::{CounterId, CounterRead, KindId, Map, MapCells, Rulebook};
use crate::space::{Cell, Extent, Heading, RowsFrom};
use std::collections::HashSet;
use std::sync::Arc;
use thiserror::Error;

/// How a game stands when it goes on no longer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ended {
    /// Won.
    Won,
    /// Lost.
    Lost,
    /// The last turn was taken back because its rules never came to rest; the game goes on.
    NeverSettles,
}

impl Ended {
    /// The words of the formats.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Won => "won",
            Self::Lost => "lost",
            Self::NeverSettles => "never settles",
        }
    }
}

/// Why a rulebook cannot be played.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum LayoutError {
    /// There is no such map.
    #[error("there is no map {0}: the rulebook has {1}")]
    NoMap(usize, usize),
    /// More pairs of kinds and clauses than the limit.
    #[error("too many meeting clauses for so many kinds: at most 16,000,000 pairs")]
    TooManyClauses,
}

/// The part of a state that is copied whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Small {
    pub turns: u64,
    pub moves: u64,
    pub clock: u64,
    pub random: Random,
    pub outcome: Option<Ended>,
    pub chosen: Option<CellId>,
    pub blocked: bool,
}

/// A timer as it runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Running {
    pub period: u64,
    /// When it fired last, or began.
    pub last: u64,
}

/// What happens by itself when the clock moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Due {
    /// Gliders or riders come into another cell.
    Glide,
    /// A timer fires, by its number.
    Timer(usize),
}

/// What a map is entered with: enough to enter it again.
#[derive(Clone, Debug)]
struct Entry {
    small: Small,
    counters: Vec<i64>,
}

/// Everything that changes while a map is played.
#[derive(Clone, Debug)]
pub(super) struct State {
    pub map: usize,
    pub board: Board,
    pub counters: Vec<i64>,
    pub small: Small,
    entry: Entry,
    /// Old values of counters, for going back.
    counter_journal: Vec<(CounterId, i64)>,
    pub timers: Vec<Running>,
    /// Old values of timers, for going back.
    timer_journal: Vec<(usize, Running)>,
    pub bonds: Arc<Bonds>,
    /// Who glided and rode before each change, for going back.
    pub bonds_journal: Vec<Arc<Bonds>>,
}

/// A tap or a drag: the cells, on the board or off it, where the finger went down and up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Touch {
    pub down: Cell,
    pub up: Cell,
}

/// A moment of the present map.
#[derive(Clone, Copy, Debug)]
pub(super) struct Moment {
    board: Mark,
    counters: usize,
    timers: usize,
    bonds: usize,
    small: Small,
}

enum Back {
    Moment(Moment),
    /// The map was entered anew; this is what was left.
    Whole(Box<State>),
}

/// A game being played: the one that is asked.
pub struct Grid {
    pub(super) book: Arc<Rulebook>,
    pub(super) tables: Arc<Tables>,
    pub(super) state: State,
    pub(super) plan: super::plan::Plan,
    /// Scratch lists, kept so that a turn allocates nothing.
    pub(super) moves: Vec<(PieceId, CellId)>,
    pub(super) match_cells: Vec<CellId>,
    /// Whether some request or swap of the present turn was granted.
    pub(super) granted_something: bool,
    pub(super) signals: Vec<String>,
    pub(super) own_map: Option<Arc<Map>>,
    /// Play goes on after a win or a loss.
    pub(super) endless: bool,
    pub(super) spawns: Vec<super::effects::Spawn>,
    pub(super) pending: Option<Ended>,
    pub(super) last_refusal: Option<super::ledger::Reason>,
    pub(super) last_granted: Option<bool>,
    /// Pieces that have entered by `slide` and are to ask on, the next one last.
    pub(super) sliding: Vec<PieceId>,
    /// Who has asked from which cell in this action.
    pub(super) slid: HashSet<(PieceId, CellId)>,
    /// The heading of the key at hand, where pieces that would turn straight back do not heed it.
    pub(super) not_back: Option<Heading>,
    /// Where the finger went down and up in this turn.
    pub(super) touch: Option<Touch>,
    /// Steps of falls in this turn.
    pub(super) fallen: u32,
    /// A `when` rule is at work.
    pub(super) settling: bool,
    /// How the last turn left its map.
    pub(super) left: Option<Flow>,
    seed: u64,
    back: Vec<Back>,
}

impl std::fmt::Debug for Grid {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Grid").field("map", &self.state.map).field("small", &self.state.small).finish_non_exhaustive()
    }
}

impl Grid {
    /// Enters a map of a rulebook, counted from 0. `seed` wins over the rulebook's own.
    pub fn new(
        book: Arc<Rulebook>,
        map: usize,
        seed: Option<u64>,
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        Self::build(book, map, None, seed, watch)
    }

    /// Enters a board of a scenario's own; play goes on after a win or a loss.
    pub fn on_own_map(
        book: Arc<Rulebook>,
        map: Result<Arc<Map>, usize>,
        seed: Option<u64>,
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        let mut grid = match map {
            Ok(own) => Self::build(book, 0, Some(own), seed, watch)?,
            Err(number) => Self::build(book, number, None, seed, watch)?,
        };
        grid.endless = true;
        Ok(grid)
    }

    fn build(
        book: Arc<Rulebook>,
        map: usize,
        own_map: Option<Arc<Map>>,
        seed: Option<u64>,
        watch: &mut impl Watch,
    ) -> Result<Self, LayoutError> {
        if own_map.is_none() && map >= book.maps.len() {
            return Err(LayoutError::NoMap(map + 1, book.maps.len()));
        }
        let tables = Arc::new(Tables::new(&book).ok_or(LayoutError::TooManyClauses)?);
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
        let counters: Vec<i64> = book.counters.iter().map(|counter| counter.start).collect();
        let entry = Entry { small, counters: counters.clone() };
        let board = lay_out(&book, own_map.as_deref().unwrap_or(&book.maps[map]), seed);
        let timers = running(&book, 0);
        let state = State {
            map,
            board,
            counters,
            small,
            entry,
            counter_journal: Vec::new(),
            timers,
            timer_journal: Vec::new(),
            bonds: Arc::default(),
            bonds_journal: Vec::new(),
        };
        let mut grid = Self {
            book,
            tables,
            state,
            plan: super::plan::Plan::default(),
            moves: Vec::new(),
            match_cells: Vec::new(),
            granted_something: false,
            signals: Vec::new(),
            own_map,
            endless: false,
            spawns: Vec::new(),
            pending: None,
            last_refusal: None,
            last_granted: None,
            sliding: Vec::new(),
            slid: HashSet::new(),
            not_back: None,
            touch: None,
            fallen: 0,
            settling: false,
            left: None,
            seed,
            back: Vec::new(),
        };
        grid.begin(watch);
        Ok(grid)
    }

    /// Lays a map out and lets it begin; gives the state that was left.
    fn enter(&mut self, map: usize, entry: Entry, watch: &mut impl Watch) -> State {
        let board = lay_out(&self.book, self.own_map.as_deref().unwrap_or(&self.book.maps[map]), self.seed);
        // Timers begin anew with every map.
        let small_clock = entry.small.clock;
        let state = State {
            map,
            board,
            counters: entry.counters.clone(),
            small: entry.small,
            entry,
            counter_journal: Vec::new(),
            timers: running(&self.book, small_clock),
            timer_journal: Vec::new(),
            bonds: Arc::default(),
            bonds_journal: Vec::new(),
        };
        let old = std::mem::replace(&mut self.state, state);
        self.begin(watch);
        old
    }

    /// `on start`, then settling; there is no turn to take back.
    fn begin(&mut self, watch: &mut impl Watch) {
        self.spawns.clear();
        self.pending = None;
        self.fallen = 0;
        self.begin_trails();
        let start = self.tables.start.clone();
        let mut flow = self.fire(&start, &super::effects::Context::default(), watch);
        if flow.is_ok() {
            let before = self.moment();
            flow = self.settle_all(watch);
            if flow == Err(Flow::NeverSettles) {
                self.take_back(before);
                self.state.small.outcome = Some(Ended::NeverSettles);
            }
        }
        self.state.small.outcome = self.state.small.outcome.or(self.pending.take());
        self.start_gliders();
        self.forget_changes();
        if flow == Err(Flow::NextMap) && self.has_next_map() {
            let entry = self.carried();
            self.enter(self.state.map + 1, entry, watch);
        }
    }

    fn carried(&self) -> Entry {
        let small = Small { outcome: None, chosen: None, blocked: false, ..self.state.small };
        Entry { small, counters: self.state.counters.clone() }
    }

    /// Whether there is a map behind this one.
    pub fn has_next_map(&self) -> bool {
        self.own_map.is_none() && self.state.map + 1 < self.book.maps.len()
    }

    pub(super) fn moment(&self) -> Moment {
        Moment {
            board: self.state.board.mark(),
            counters: self.state.counter_journal.len(),
            timers: self.state.timer_journal.len(),
            bonds: self.state.bonds_journal.len(),
            small: self.state.small,
        }
    }

    pub(super) fn take_back(&mut self, moment: Moment) {
        self.state.board.take_back(moment.board);
        while self.state.counter_journal.len() > moment.counters {
            if let Some((counter, old)) = self.state.counter_journal.pop() {
                self.state.counters[usize::from(counter.0)] = old;
            }
        }
        while self.state.timer_journal.len() > moment.timers {
            if let Some((timer, old)) = self.state.timer_journal.pop() {
                self.state.timers[timer] = old;
            }
        }
        while self.state.bonds_journal.len() > moment.bonds {
            if let Some(old) = self.state.bonds_journal.pop() {
                self.state.bonds = old;
            }
        }
        self.state.small = moment.small;
    }

    /// Tries something on the game as it stands and takes everything back.
    pub fn trial<T>(&mut self, attempt: impl FnOnce(&mut Self) -> T) -> T {
        let moment = self.moment();
        let found = attempt(self);
        self.take_back(moment);
        self.spawns.clear();
        self.pending = None;
        found
    }

    /// Notes a moment to which [`Self::undo`] goes back.
    pub(super) fn remember(&mut self) {
        let moment = self.moment();
        self.back.push(Back::Moment(moment));
    }

    /// Enters the next map, or this one again, as the input noted last; what was before it is kept whole.
    pub(super) fn leave_map(&mut self, next: bool, watch: &mut impl Watch) {
        let entry = if next { self.carried() } else { self.state.entry.clone() };
        let before = self.back.pop();
        if let Some(Back::Moment(moment)) = &before {
            self.take_back(*moment);
        }
        let map = self.state.map + usize::from(next);
        let old = self.enter(map, entry, watch);
        self.back.push(match before {
            // A wait may leave several maps; it is taken back as a whole.
            Some(Back::Whole(first)) => Back::Whole(first),
            _ => Back::Whole(Box::new(old)),
        });
    }

    /// Takes back the last input; false where there is none.
    pub fn undo(&mut self) -> bool {
        match self.back.pop() {
            None => return false,
            Some(Back::Moment(moment)) => self.take_back(moment),
            Some(Back::Whole(state)) => self.state = *state,
        }
        self.spawns.clear();
        self.pending = None;
        true
    }

    /// Forgets how to take anything back; for searches and measurements that never do.
    pub fn forget(&mut self) {
        self.back.clear();
        self.forget_changes();
    }

    fn forget_changes(&mut self) {
        self.state.board.forget();
        self.state.counter_journal.clear();
        self.state.timer_journal.clear();
        self.state.bonds_journal.clear();
    }

    /// How many inputs can be taken back.
    pub fn depth(&self) -> usize {
        self.back.len()
    }

    pub(super) fn set_timer(&mut self, timer: usize, new: Running) {
        if let Some(found) = self.state.timers.get_mut(timer) {
            let old = std::mem::replace(found, new);
            self.state.timer_journal.push((timer, old));
        }
    }

    /// What is due first, not later than an instant: what glides into another cell before timers, of several timers the
    /// first of the file. A timer whose time has passed is due now.
    pub fn next_due(&self, until: u64) -> Option<(u64, Due)> {
        let due = |timer: &Running| timer.last.saturating_add(timer.period).max(self.state.small.clock);
        let timers = self.state.timers.iter().enumerate().map(|(number, timer)| (due(timer), Due::Timer(number)));
        let glide = self.next_glide(until).map(|due| (due, Due::Glide));
        timers.chain(glide).min().filter(|(due, _)| *due <= until)
    }

    pub(super) fn set_counter(&mut self, counter: CounterId, value: i64) {
        const BOUND: i64 = 1_000_000_000_000_000;
        let found = &mut self.state.counters[usize::from(counter.0)];
        let old = std::mem::replace(found, value.clamp(-BOUND, BOUND));
        if old != *found {
            self.state.counter_journal.push((counter, old));
        }
    }

    /// A number that tells states apart, as settling compares them.
    pub(super) fn hash(&mut self) -> u64 {
        let counters = self.state.counters.iter().enumerate();
        let counters = counters.fold(0, |sum, (at, value)| sum ^ mix((at as u64) << 56 ^ *value as u64));
        let timers = self.state.timers.iter().enumerate();
        let timers = timers.fold(0, |sum, (at, timer)| sum ^ mix((at as u64) << 57 ^ timer.period));
        self.state.board.hash() ^ counters ^ timers ^ self.bonds_hash() ^ mix(self.state.small.random.0)
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

    /// The cell that `choose` has marked.
    pub fn chosen(&self) -> Option<Cell> {
        self.state.small.chosen.map(|cell| self.state.board.cell(cell))
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

    /// The board as it is seen: top line first, one character a cell.
    pub fn picture(&self) -> Vec<String> {
        let extent = self.state.board.extent();
        let rows = i64::from(extent.rows);
        (0..rows)
            .map(|line| {
                let row = if self.book.geometry.rows == RowsFrom::Top { line } else { rows - 1 - line };
                (0..i64::from(extent.columns)).map(|column| self.glyph(Cell::new(column, row))).collect()
            })
            .collect()
    }

    /// The character that stands for a cell of the board.
    pub fn glyph(&self, cell: Cell) -> char {
        let board = &self.state.board;
        let Some(id) = board.id(cell).filter(|id| !board.is_void(*id)) else {
            return ' ';
        };
        let mut kinds: Vec<KindId> = board.kinds_at(id).filter(|kind| Some(*kind) != self.book.ground).collect();
        if kinds.len() > 1 {
            kinds.sort_unstable();
            let exact = self.book.glyphs.iter().find(|(_, stack)| {
                let mut stack: Vec<KindId> =
                    stack.iter().copied().filter(|kind| Some(*kind) != self.book.ground).collect();
                stack.sort_unstable();
                stack == kinds
            });
            if let Some((glyph, _)) = exact {
                return *glyph;
            }
        }
        let top = board.kinds_at(id).next();
        let shown = board.kinds_at(id).find(|kind| Some(*kind) != self.book.ground).or(top);
        shown.map_or('_', |kind| self.book.kind(kind).glyph)
    }
}

fn running(book: &Rulebook, now: u64) -> Vec<Running> {
    book.timers.iter().map(|timer| Running { period: timer.ms.max(1) as u64, last: now }).collect()
}

/// The board of a map at its beginning.
fn lay_out(book: &Rulebook, map: &Map, seed: u64) -> Board {
    let Extent { columns, rows } = map.extent;
    let layer_of = book.kinds.iter().map(|kind| kind.layer).collect();
    // Ground that faces somewhere is no bare ground: each piece has a heading.
    let glides = |kind: KindId| book.glides.iter().any(|glide| book.set(glide.who).contains(kind));
    let bare = book.ground.filter(|ground| book.kind(*ground).facing.is_none() && !glides(*ground));
    let mut board = Board::new(map.extent, book.layers.len() as u8, layer_of, bare);
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
            let cell = CellId(row * columns + column);
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
    board.forget();
    board
}

/// Whether a turn goes on.
pub(super) type Goes = Result<(), Flow>;
