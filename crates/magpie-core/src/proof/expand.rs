//! One pair of hands: tries every input in states that are known, and brings what came of it.

use super::host::Host;
use super::inputs::{Inputs, Tried};
use super::store::Known;
use crate::board::CellId;
use crate::grid::{Base, Ended, Fired, Foreseen, Foresight, Grid, Kept, Scratch, Taken, Watch};
use crate::rulebook::{KindId, Reads, Rulebook};
use std::collections::VecDeque;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Inputs of one state that are to be tried.
#[derive(Clone, Copy, Debug)]
pub(super) struct Task {
    pub state: u32,
    pub first: u32,
    pub end: u32,
}

/// What all hands work at together.
pub(super) struct Work<'a> {
    /// Tasks in pieces, of which each hand takes the next when it is done with one.
    pub pieces: &'a [Vec<Task>],
    pub next: AtomicUsize,
    pub inputs: &'a Inputs,
    pub known: &'a Known,
    pub wholes: &'a Wholes,
    /// Those that are still to be held.
    pub promises: &'a [usize],
    pub host: &'a dyn Host,
}

/// States that are kept whole, from a number on; none where keys tell everything.
#[derive(Default)]
pub(super) struct Wholes {
    pub first: u32,
    pub kept: VecDeque<Option<Kept>>,
    pub bytes: usize,
}

impl Wholes {
    pub fn push(&mut self, kept: Option<Kept>) {
        self.bytes += kept.as_ref().map_or(0, Kept::bytes);
        self.kept.push_back(kept);
    }

    /// Forgets those before a state.
    pub fn forget_before(&mut self, state: u32) {
        while self.first < state {
            self.bytes -= self.kept.pop_front().flatten().map_or(0, |kept| kept.bytes());
            self.first += 1;
        }
    }

    fn get(&self, state: u32) -> Option<&Kept> {
        self.kept.get((state - self.first) as usize)?.as_ref()
    }
}

/// How a state has ended.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum End {
    #[default]
    Open,
    Won,
    Lost,
}

impl End {
    pub fn of(grid: &Grid) -> Self {
        match grid.outcome() {
            Some(Ended::Won) => Self::Won,
            Some(Ended::Lost) => Self::Lost,
            Some(Ended::NeverSettles) | None => Self::Open,
        }
    }
}

/// What an input came to.
pub(super) enum Came {
    /// A promise was broken within the input.
    Broken(usize),
    /// A turn of it never settled.
    NeverSettled,
    /// Another state that was known already.
    To(u32),
    /// A state that was not known when the batch began, by its place in the list of these.
    New { fresh: usize, end: End, kept: Option<Kept> },
    /// In that state a promise is broken.
    BrokenThere(usize),
}

/// The key of a state that was not known: where it lies among the keys.
#[derive(Clone, Copy)]
pub(super) struct Fresh {
    pub hash: u64,
    start: usize,
    length: usize,
}

/// Something that came of an input in a state.
pub(super) struct Event {
    pub state: u32,
    pub input: u32,
    pub came: Came,
}

/// Which rules have been used, and whether some turn never settled.
pub(super) struct Uses {
    meetings: Vec<bool>,
    offs: Vec<bool>,
    whens: Vec<bool>,
    inputs: Vec<bool>,
    outcomes: Vec<bool>,
    pub never_settled: bool,
}

impl Uses {
    pub fn new(book: &Rulebook) -> Self {
        Self {
            meetings: vec![false; book.meetings.len()],
            offs: vec![false; book.offs.len()],
            whens: vec![false; book.whens.len()],
            inputs: vec![false; book.inputs.len()],
            outcomes: vec![false; book.outcomes.len()],
            never_settled: false,
        }
    }

    fn place(&mut self, rule: Fired) -> &mut bool {
        match rule {
            Fired::Meeting(clause) => &mut self.meetings[clause.0 as usize],
            Fired::Off(number) => &mut self.offs[number],
            Fired::When(number) => &mut self.whens[number],
            Fired::Input(number) => &mut self.inputs[number],
            Fired::Outcome(number) => &mut self.outcomes[number],
        }
    }

    pub fn join(&mut self, other: &Self) {
        let mine = [&mut self.meetings, &mut self.offs, &mut self.whens, &mut self.inputs, &mut self.outcomes];
        let others = [&other.meetings, &other.offs, &other.whens, &other.inputs, &other.outcomes];
        for (mine, other) in mine.into_iter().zip(others) {
            mine.iter_mut().zip(other).for_each(|(mine, other)| *mine |= *other);
        }
    }

    /// All rules that have never been used.
    pub fn unused(&mut self) -> Vec<Fired> {
        let clauses = (0..self.meetings.len()).map(|number| Fired::Meeting(crate::rulebook::ClauseId(number as u32)));
        let rest = (0..self.offs.len()).map(Fired::Off).chain((0..self.whens.len()).map(Fired::When));
        let rest = rest.chain((0..self.inputs.len()).map(Fired::Input));
        let all: Vec<Fired> = clauses.chain(rest).chain((0..self.outcomes.len()).map(Fired::Outcome)).collect();
        all.into_iter().filter(|rule| !*self.place(*rule)).collect()
    }
}

impl Watch for Uses {
    const USES: bool = true;

    fn used(&mut self, rule: Fired) {
        *self.place(rule) = true;
    }

    fn never_settled(&mut self, _: &[usize]) {
        self.never_settled = true;
    }
}

/// Where pieces of some kinds have stood in some state.
#[derive(Clone)]
pub(super) struct Stood {
    kinds: Vec<KindId>,
    cells: Vec<Vec<bool>>,
}

impl Stood {
    /// Where they stand in the state in which the search begins.
    fn new(kinds: Vec<KindId>, start: &Grid) -> Self {
        let board = start.board();
        let on =
            |kind: KindId| (0..board.cells()).map(move |cell| board.kinds_at(CellId(cell)).any(|found| found == kind));
        let cells = kinds.iter().map(|kind| on(*kind).collect()).collect();
        Self { kinds, cells }
    }

    /// And in another one.
    pub fn add(&mut self, base: &Base, key: &[u8]) {
        let now = base.differing(key).filter_map(|(cell, _, kind)| Some((kind?, cell)));
        let beside = base.beside(key).filter_map(|(kind, cell)| Some((kind, cell? as usize)));
        for (kind, cell) in now.chain(beside) {
            if let Some(at) = self.kinds.iter().position(|known| *known == kind) {
                self.cells[at][cell] = true;
            }
        }
    }

    pub fn join(&mut self, other: &Self) {
        for (mine, other) in self.cells.iter_mut().zip(&other.cells) {
            mine.iter_mut().zip(other).for_each(|(mine, other)| *mine |= *other);
        }
    }

    /// Each kind with its cells.
    pub fn of_each(&self) -> impl Iterator<Item = (KindId, Vec<u32>)> + '_ {
        let cells = |all: &[bool]| all.iter().zip(0..).filter(|(stood, _)| **stood).map(|(_, cell)| cell).collect();
        self.kinds.iter().zip(&self.cells).map(move |(kind, all)| (*kind, cells(all)))
    }
}

/// How far an input was told before it was played.
enum Foretold {
    /// What came of it is noted.
    Done,
    /// It was played, and the game has ended or gone on with it: where it stands is to be looked at.
    Played,
    /// It is to be played.
    Unclear,
}

/// A pair of hands with a game of its own; no two share a line of the cache.
#[repr(align(128))]
pub(super) struct Worker {
    pub grid: Grid,
    pub base: Base,
    pub scratch: Scratch,
    key: Vec<u8>,
    /// Of inputs whose turns can be told before they are played.
    pub foresights: Vec<Option<Foresight>>,
    /// The state at hand ends with any turn.
    is_to_end: bool,
    pub uses: Uses,
    /// Kinds of which a piece has been moved.
    pub moved: Vec<bool>,
    /// Where those who are controlled stand in the states that it has looked at.
    pub stood: Stood,
    /// The pieces of work that it has done, by number.
    pub done: Vec<usize>,
    pub events: Vec<Event>,
    /// New states, and their keys one behind the other.
    pub fresh: Vec<Fresh>,
    keys: Vec<u8>,
    /// It was told to stop before its tasks were done.
    pub is_cut: bool,
}

impl Worker {
    pub fn new(start: &Grid, inputs: &Inputs, reads: &Reads) -> Self {
        let mut grid = start.fork_apart();
        let base = grid.base(reads);
        let foresight = |tried: &Tried| match tried {
            Tried::Input(input) if !base.whole => grid.foresight(&base, input),
            Tried::Input(_) | Tried::Wait => None,
        };
        let foresights = inputs.tried.iter().map(foresight).collect();
        let stood = Stood::new(start.book().controlled(), &grid);
        let (uses, moved) = (Uses::new(start.book()), vec![false; start.book().kinds.len()]);
        Self {
            grid,
            base,
            scratch: Scratch::default(),
            key: Vec::new(),
            foresights,
            is_to_end: false,
            uses,
            moved,
            stood,
            done: Vec::new(),
            events: Vec::new(),
            fresh: Vec::new(),
            keys: Vec::new(),
            is_cut: false,
        }
    }

    /// Bytes that the last tasks have left here.
    pub fn bytes(&self) -> usize {
        self.keys.capacity() + self.fresh.capacity() * size_of::<Fresh>() + self.events.capacity() * size_of::<Event>()
    }

    /// The state that the game is in, as a key.
    pub fn key(&mut self) -> &[u8] {
        self.grid.pack_any(&self.base, &mut self.scratch, &mut self.key);
        &self.key
    }

    /// The key of a new state.
    pub fn fresh_key(&self, fresh: Fresh) -> &[u8] {
        &self.keys[fresh.start..fresh.start + fresh.length]
    }

    /// The state of another game of the same map, as a key.
    pub fn key_of(&mut self, grid: &Grid) -> &[u8] {
        grid.pack_any(&self.base, &mut self.scratch, &mut self.key);
        &self.key
    }

    /// Tries inputs, piece by piece, until all pieces are taken.
    pub fn expand(&mut self, work: &Work) {
        self.done.clear();
        self.events.clear();
        self.fresh.clear();
        self.keys.clear();
        self.is_cut = false;
        loop {
            let number = work.next.fetch_add(1, Ordering::Relaxed);
            let Some(tasks) = work.pieces.get(number) else { return };
            self.done.push(number);
            for task in tasks {
                self.try_all(*task, work);
                if self.is_cut {
                    return;
                }
            }
        }
    }

    /// Tries the inputs of a task.
    fn try_all(&mut self, task: Task, work: &Work) {
        // To ask for the time costs about as much as a turn of a small board.
        let often = if self.base.whole { 1 } else { 16 };
        let own = work.known.key(task.state);
        for input in task.first..task.end {
            if (input - task.first).is_multiple_of(often) && work.host.halted().is_some() {
                self.is_cut = true;
                return;
            }
            // What was tried before has been taken back; only whole states and new ones are gone to.
            if input == task.first {
                match work.wholes.get(task.state) {
                    Some(kept) => self.grid.go_to(kept),
                    None => self.grid.load(&self.base, own, &mut self.scratch),
                }
                // Only what is told beforehand has to know.
                let told = &self.foresights[task.first as usize..task.end as usize];
                self.is_to_end = told.iter().any(Option::is_some) && self.grid.is_to_end();
            }
            self.attempt(task, input, own, work);
        }
    }

    /// Tries an input in the state that the game is in, and takes it back.
    fn attempt(&mut self, task: Task, input: u32, own: &[u8], work: &Work) {
        self.uses.never_settled = false;
        let is_played = match self.foretell(task, input, own, work) {
            Foretold::Done => return,
            Foretold::Played => true,
            Foretold::Unclear => self.play(task, input, work),
        };
        if !is_played {
            return;
        }
        let Self { grid, uses, events, moved, base, scratch, key, .. } = self;
        let mut add = |came| events.push(Event { state: task.state, input, came });
        if uses.never_settled {
            add(Came::NeverSettled);
        }
        grid.moved_kinds(|KindId(kind)| moved[usize::from(kind)] = true);
        let is_as_before = grid.is_as_before(base);
        if !is_as_before {
            grid.pack(base, scratch, key);
        }
        if !is_as_before && key.as_slice() != own {
            let hash = work.known.hash(key);
            match work.known.find(hash, key) {
                Some(state) => add(Came::To(state)),
                None => self.is_new(task, input, hash, work.promises),
            }
        }
        self.grid.undo();
    }

    /// Tells what an input comes to without playing it, but where that is a state that was not known.
    fn foretell(&mut self, task: Task, input: u32, own: &[u8], work: &Work) -> Foretold {
        let Self { grid, uses, events, moved, base, scratch, key, foresights, is_to_end, .. } = self;
        let Some(foresight) = foresights[input as usize].as_ref().filter(|_| !*is_to_end) else {
            return Foretold::Unclear;
        };
        let piece = match grid.foresee(foresight, (base, own), scratch, key, uses) {
            Foreseen::Nothing => return Foretold::Done,
            Foreseen::Unclear => return Foretold::Unclear,
            Foreseen::Moves(piece) => piece,
        };
        grid.foreseen_kinds(|KindId(kind)| moved[usize::from(kind)] = true);
        if key.as_slice() == own {
            return Foretold::Done;
        }
        let hash = work.known.hash(key);
        if let Some(state) = work.known.find(hash, key) {
            events.push(Event { state: task.state, input, came: Came::To(state) });
        } else if grid.come_true(foresight, piece, uses) {
            self.is_new(task, input, hash, work.promises);
            self.grid.undo();
        } else {
            return Foretold::Played;
        }
        Foretold::Done
    }

    /// Plays an input; false where it was not taken.
    fn play(&mut self, task: Task, input: u32, work: &Work) -> bool {
        let Self { grid, uses, events, .. } = self;
        match &work.inputs.tried[input as usize] {
            Tried::Input(input) => grid.input(input, uses) == Taken::Yes,
            Tried::Wait => {
                let mut add = |came| events.push(Event { state: task.state, input, came });
                let each = |grid: &Grid| {
                    let broken = work.promises.iter().filter(|promise| grid.breaks(**promise));
                    broken.for_each(|promise| add(Came::Broken(*promise)));
                };
                grid.pass_to_next(uses, each).is_some()
            }
        }
    }

    /// Notes that the game is in a state that was not known, whose key was packed last.
    fn is_new(&mut self, task: Task, input: u32, hash: u64, promises: &[usize]) {
        let Self { grid, events, base, key, fresh, keys, .. } = self;
        let mut add = |came| events.push(Event { state: task.state, input, came });
        fresh.push(Fresh { hash, start: keys.len(), length: key.len() });
        keys.extend_from_slice(key);
        let end = End::of(grid);
        let kept = (base.whole && end == End::Open).then(|| grid.keep());
        add(Came::New { fresh: fresh.len() - 1, end, kept });
        for promise in promises.iter().filter(|promise| grid.breaks(**promise)) {
            add(Came::BrokenThere(*promise));
        }
    }
}
