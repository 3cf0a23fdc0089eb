//! The answers, with their evidence.

use super::expand::{Uses, Worker};
use super::host::Host;
use super::inputs::{Inputs, Tried};
use super::passes::{Places, distances, forced};
use super::search::{Ask, At, Found, Limit, Limits, NONE, Search};
use crate::board::CellId;
use crate::grid::{Fired, Grid, Nobody, Taken};
use crate::input::Input;
use crate::rulebook::{Common, KindId, Rulebook};
use crate::space::Cell;

/// Whether something can happen.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Happens {
    /// Whether it can; not known where the search ended before.
    pub possible: Option<bool>,
    /// A shortest tape to it.
    pub tape: Option<Vec<Input>>,
}

/// What is known of winning.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Win {
    /// Whether it can be won; not known where the search ended before.
    pub possible: Option<bool>,
    /// A shortest tape that wins.
    pub tape: Option<Vec<Input>>,
    /// How many shortest tapes win, at most 2^63-1; not known where the depth before was not done.
    pub ways: Option<u64>,
    /// The number of states along the tape in which only one edge leads to where a win can still be reached.
    pub forced: Option<u64>,
}

/// What is known of a promise.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Promise {
    /// Whether it holds after every turn; not known where the search ended before.
    pub holds: Option<bool>,
    /// A shortest tape to where it does not.
    pub tape: Option<Vec<Input>>,
}

/// The states from which no win can be reached any more.
#[derive(Clone, Debug, PartialEq)]
pub struct NoWayBack {
    /// How many.
    pub states: u32,
    /// Their share of all.
    pub share: f64,
    /// A shortest tape into one, where there is one.
    pub tape: Option<Vec<Input>>,
}

/// All answers.
#[derive(Clone, Debug, PartialEq)]
pub struct Report {
    /// States that were seen.
    pub states: u32,
    /// Changes from one to another.
    pub edges: u64,
    /// How many states lie how many inputs behind the start.
    pub levels: Vec<u32>,
    /// What ended the search before everything was seen.
    pub limit: Option<Limit>,
    /// Winning.
    pub win: Win,
    /// A lost state.
    pub lose: Happens,
    /// A state that has not ended and that no input changes.
    pub stuck: Happens,
    /// A turn that never settles.
    pub never_settles: Happens,
    /// Each `always` and `never`, in file order.
    pub promises: Vec<Promise>,
    /// Known where everything was seen and there is a win.
    pub no_way_back: Option<NoWayBack>,
    /// For every kind that is moved and not controlled, the cells on which it stands only where no win is left; known where
    /// everything was seen and there is a win.
    pub dead_cells: Option<Vec<(KindId, Vec<Cell>)>>,
    /// For every controlled kind, the cells on which it stands in some state.
    pub cells: Vec<(KindId, Vec<Cell>)>,
    /// Cells that are free in some state and on which no controlled piece ever stands; known where everything was seen.
    pub never: Option<Vec<Cell>>,
    /// Rules that nothing ever used, in file order; known where everything was seen.
    pub unused: Option<Vec<Fired>>,
    /// Bytes that the search held at its end.
    pub bytes: usize,
}

impl Report {
    /// Whether everything that can be reached has been seen.
    pub const fn is_complete(&self) -> bool {
        self.limit.is_none()
    }

    /// The number of inputs to the deepest state.
    pub fn depth(&self) -> usize {
        self.levels.len() - 1
    }
}

/// A search that has ended, with all the states it has seen.
pub struct Proof {
    inputs: Inputs,
    start: Grid,
    worker: Worker,
    found: Found,
    distances: Option<Vec<u32>>,
    report: Report,
}

impl std::fmt::Debug for Proof {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Proof").field("report", &self.report).finish_non_exhaustive()
    }
}

/// How far a state lies from a win.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ToWin {
    /// So many inputs at best.
    In(u32),
    /// No win can be reached from it.
    Never,
}

impl ToWin {
    /// What an input of a shortest way leaves; nothing where there is none.
    pub const fn next(self) -> Option<Self> {
        match self {
            Self::In(left) if left > 0 => Some(Self::In(left - 1)),
            Self::In(_) | Self::Never => None,
        }
    }
}

/// An input that changes a state, and where it leads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Move {
    /// The input, as a tape has it.
    pub input: Input,
    /// How far a win lies from where it leads.
    pub to_win: ToWin,
}

/// Whether a rulebook can be won at all: by a `win`, or by going on to the next map.
pub fn has_win(book: &Rulebook) -> bool {
    let by_clause = book.outcomes.iter().any(|outcome| outcome.win);
    by_clause || book.commons().any(|common| matches!(common, Common::Win | Common::NextMap))
}

/// Searches every state that can be reached from where a game stands. `entered` is the same map just begun, where the game
/// has been played on: what entering it used is no news.
pub fn prove(
    start: &Grid,
    entered: Option<&Grid>,
    inputs: &Inputs,
    ask: Ask,
    limits: Limits,
    host: &dyn Host,
) -> Proof {
    let mut uses = Uses::new(start.book());
    let begun = entered.unwrap_or(start);
    // Entered once more, for what that uses and whether it settles.
    begun.begun_anew(&mut uses);
    if entered.is_some() {
        uses.never_settled = false;
    }
    let mut search = Search::new(start, inputs, ask, limits, host, uses);
    search.run();
    let (worker, found) = search.into_parts();
    let mut proof = Proof {
        inputs: inputs.clone(),
        start: start.fork(),
        distances: None,
        report: Report::begun(&found),
        worker,
        found,
    };
    if proof.found.limit.is_none() && proof.found.won.is_some() {
        proof.distances = distances(&proof.found, host);
    }
    proof.answer(host);
    proof
}

impl Report {
    /// What is known before any pass.
    fn begun(found: &Found) -> Self {
        let states = found.states();
        let ends = found.levels.iter().skip(1).copied().chain([states]);
        Self {
            states,
            edges: found.targets.len() as u64,
            levels: found.levels.iter().zip(ends).map(|(first, end)| end - first).collect(),
            limit: found.limit,
            win: Win::default(),
            lose: Happens::default(),
            stuck: Happens::default(),
            never_settles: Happens::default(),
            promises: Vec::new(),
            no_way_back: None,
            dead_cells: None,
            cells: Vec::new(),
            never: None,
            unused: None,
            bytes: found.bytes(),
        }
    }
}

impl Proof {
    /// The answers.
    pub const fn report(&self) -> &Report {
        &self.report
    }

    /// What was searched.
    pub const fn inputs(&self) -> &Inputs {
        &self.inputs
    }

    /// The states on the way to a state, the start first, and the inputs between them.
    fn path(&self, state: u32) -> (Vec<u32>, Vec<u32>) {
        let (mut states, mut inputs) = (vec![state], Vec::new());
        let mut at = state;
        while self.found.parents.get(at as usize) != NONE {
            inputs.push(self.found.by.get(at as usize));
            at = self.found.parents.get(at as usize);
            states.push(at);
        }
        states.reverse();
        inputs.reverse();
        (states, inputs)
    }

    /// The tape to a state, and one input further.
    fn tape(&self, (state, then): At) -> Vec<Input> {
        let mut grid = self.start.fork();
        let (_, inputs) = self.path(state);
        let all = inputs.into_iter().chain(then);
        all.filter_map(|input| play(&mut grid, &self.inputs.tried[input as usize])).collect()
    }

    fn happens(&self, at: Option<At>) -> Happens {
        let complete = self.found.limit.is_none();
        Happens {
            possible: if at.is_some() { Some(true) } else { complete.then_some(false) },
            tape: at.map(|at| self.tape(at)),
        }
    }

    fn answer(&mut self, host: &dyn Host) {
        let found = &self.found;
        let complete = found.limit.is_none();
        let there = |state: Option<u32>| state.map(|state| (state, None));
        let Happens { possible, tape } = self.happens(there(found.won));
        let path = |state: u32| self.path(state).0;
        let forced =
            found.won.zip(self.distances.as_deref()).map(|(won, distances)| forced(found, &path(won), distances));
        let mut report = Report {
            win: Win { possible, tape, ways: found.won.and(found.ways), forced },
            lose: self.happens(there(found.lost)),
            stuck: self.happens(there(found.stuck)),
            never_settles: self.happens(found.never_settles),
            promises: found.broken.iter().map(|at| self.happens(*at)).map(Promise::of).collect(),
            ..self.report.clone()
        };
        report.no_way_back = self.distances.as_deref().map(|distances| {
            let gone = distances.iter().filter(|distance| **distance == NONE).count();
            let first = distances.iter().position(|distance| *distance == NONE);
            NoWayBack {
                states: gone as u32,
                share: gone as f64 / distances.len() as f64,
                tape: first.map(|state| self.tape((state as u32, None))),
            }
        });
        self.report = report;
        if complete {
            let unused = self.found.uses.unused();
            let book = self.start.book();
            let told = |rule: &Fired| {
                let is_control = matches!(rule, Fired::Input(_)) && rule.at(book).text.starts_with("control ");
                !is_control && self.inputs.could_use(&self.start, *rule)
            };
            let mut unused: Vec<Fired> = unused.into_iter().filter(told).collect();
            unused.sort_by_key(|rule| rule.at(book).span.start);
            self.report.unused = Some(unused);
        }
        self.look_at_cells(complete, host);
    }

    fn look_at_cells(&mut self, complete: bool, host: &dyn Host) {
        let board = self.worker.grid.board();
        let named = |cells: Vec<u32>| cells.into_iter().map(|cell| board.cell(CellId(cell))).collect::<Vec<_>>();
        let by_name =
            |all: &[(KindId, Vec<u32>)]| all.iter().map(|(kind, cells)| (*kind, named(cells.clone()))).collect();
        if !complete {
            self.report.cells = by_name(&self.found.stood.of_each().collect::<Vec<_>>());
            return;
        }
        let controlled = self.found.stood.kinds();
        let kinds = (0..self.found.moved.len()).filter(|kind| self.found.moved[*kind]).map(|kind| KindId(kind as u16));
        let moved: Vec<KindId> = kinds.filter(|kind| !controlled.contains(kind)).collect();
        let kinds = [controlled, &moved].concat();
        let places = Places::new(&self.worker, &self.found, kinds, self.distances.as_deref(), host);
        let stood: Vec<(KindId, Vec<u32>)> = controlled.iter().map(|kind| (*kind, places.stood(*kind))).collect();
        self.report.cells = by_name(&stood);
        if self.distances.is_some() {
            self.report.dead_cells = Some(moved.iter().map(|kind| (*kind, named(places.dead(*kind)))).collect());
        }
        let mut never = vec![true; board.cells() as usize];
        stood.iter().flat_map(|(_, cells)| cells).for_each(|cell| never[*cell as usize] = false);
        let is_free = |cell: u32| stood.iter().any(|(kind, _)| places.is_free(cell, board.layer(*kind)));
        let is_never = |cell: &u32| never[*cell as usize] && !board.is_void(CellId(*cell)) && is_free(*cell);
        self.report.never = Some(named((0..board.cells()).filter(is_never).collect()));
    }

    /// How far a state lies from a win; `None` where it is not known, or not everything was seen.
    pub fn to_win(&mut self, grid: &Grid) -> Option<ToWin> {
        let distances = self.distances.as_ref().filter(|_| self.start.is_beside(grid))?;
        let key = self.worker.key_of(grid);
        let state = self.found.known.find(self.found.known.hash(key), key)?;
        Some(match distances[state as usize] {
            NONE => ToWin::Never,
            distance => ToWin::In(distance),
        })
    }

    /// Every input that changes a state, with how far a win lies behind it; none of a state that is not known.
    pub fn moves(&mut self, grid: &Grid) -> Vec<Move> {
        let mut moves = Vec::new();
        if self.to_win(grid).is_none() {
            return moves;
        }
        let own = self.worker.key_of(grid).to_vec();
        for tried in self.inputs.tried.clone() {
            let mut after = grid.fork();
            let Some(input) = play(&mut after, &tried) else { continue };
            if self.worker.key_of(&after) != own.as_slice() {
                let to_win = self.to_win(&after).unwrap_or(ToWin::Never);
                moves.push(Move { input, to_win });
            }
        }
        moves
    }
}

impl Promise {
    fn of(broken: Happens) -> Self {
        Self { holds: broken.possible.map(|possible| !possible), tape: broken.tape }
    }
}

/// Plays what is tried; gives it as a tape has it.
fn play(grid: &mut Grid, tried: &Tried) -> Option<Input> {
    match tried {
        Tried::Input(input) => (grid.input(input, &mut Nobody) == Taken::Yes).then(|| input.clone()),
        Tried::Wait => grid.pass_to_next(&mut Nobody, |_| {}).map(Input::Wait),
    }
}
