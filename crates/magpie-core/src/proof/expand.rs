//! One pair of hands: tries every input in states that are known, and brings what came of it.

use super::brought::{Brought, Came};
use super::host::Host;
use super::inputs::{Inputs, Tried};
use super::known::{Answers, Is, Known, News};
use super::search::NONE;
use super::store::Long;
use crate::board::CellId;
use crate::grid::{Base, Ended, Fired, Foreseen, Foresight, Grid, Kept, Scratch, Taken, Watch};
use crate::rulebook::{KindId, Reads, Rulebook};
use hashbrown::HashSet;
use std::collections::VecDeque;
use std::ops::Range;
use std::sync::atomic::{AtomicUsize, Ordering};

/// So many states are looked up together.
const TOGETHER: usize = 64;

/// Inputs of one state that are to be tried.
#[derive(Clone, Copy, Debug)]
pub(super) struct Task {
    pub state: u32,
    pub first: u32,
    pub end: u32,
}

/// How many places a state takes where all inputs of all states are told by one number: one for each input, and one for being
/// done with it.
pub(super) fn places(inputs: &Inputs) -> u64 {
    inputs.len() as u64 + 1
}

/// The tasks of a range of places.
pub(super) fn tasks(piece: &Range<u64>, inputs: &Inputs) -> impl Iterator<Item = Task> {
    let (start, end, each) = (piece.start, piece.end, places(inputs));
    (start / each..end.div_ceil(each)).map(move |state| {
        let [first, end] = [start, end].map(|place| place.saturating_sub(state * each).min(each));
        Task { state: state as u32, first: first as u32, end: end.min(each - 1) as u32 }
    })
}

/// A state whose inputs are tried.
#[derive(Clone, Copy)]
struct From<'a> {
    task: Task,
    /// Its key.
    own: &'a [u8],
    /// Whence it was reached first, with that key.
    back: Option<(u32, &'a [u8])>,
}

/// What all hands work at together.
pub(super) struct Work<'a> {
    /// Pieces, of which each hand takes the next when it is done with one.
    pub pieces: &'a [Range<u64>],
    pub next: AtomicUsize,
    pub inputs: &'a Inputs,
    pub known: &'a Known,
    pub parents: &'a Long<u32>,
    pub ends: &'a Long<End>,
    pub wholes: &'a Wholes,
    /// Those that are still to be held.
    pub promises: &'a [usize],
    /// States in which any turn would end the game.
    pub to_end: &'a HashSet<u32>,
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

/// A state that is to be looked up: the place of the edge to it, of which state and input it is, its hash, and where its key
/// lies.
struct Asked {
    edge: usize,
    of: (u32, u32),
    hash: u64,
    key: Range<usize>,
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
    /// The place of each kind of the rulebook among these.
    places: Vec<Option<usize>>,
    cells: Vec<Vec<bool>>,
}

impl Stood {
    /// Where they stand in the state in which the search begins.
    fn new(kinds: Vec<KindId>, start: &Grid) -> Self {
        let board = start.board();
        let on =
            |kind: KindId| (0..board.cells()).map(move |cell| board.kinds_at(CellId(cell)).any(|found| found == kind));
        let cells = kinds.iter().map(|kind| on(*kind).collect()).collect();
        let mut places = vec![None; start.book().kinds.len()];
        kinds.iter().enumerate().for_each(|(place, kind)| places[usize::from(kind.0)] = Some(place));
        Self { kinds, places, cells }
    }

    /// And in another one.
    pub fn add(&mut self, base: &Base, key: &[u8]) {
        let Self { places, cells, .. } = self;
        let place = |kind: KindId| places[usize::from(kind.0)];
        base.differing(key, |slot, symbol| {
            if let Some(place) = base.kind(symbol).and_then(place) {
                cells[place][slot / base.layers()] = true;
            }
        });
        for (kind, cell) in base.beside(key) {
            if let (Some(place), Some(cell)) = (place(kind), cell) {
                cells[place][cell as usize] = true;
            }
        }
    }

    pub fn join(&mut self, other: &Self) {
        for (mine, other) in self.cells.iter_mut().zip(&other.cells) {
            mine.iter_mut().zip(other).for_each(|(mine, other)| *mine |= *other);
        }
    }

    pub fn kinds(&self) -> &[KindId] {
        &self.kinds
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
    /// Its number among all hands.
    number: usize,
    pub grid: Grid,
    pub base: Base,
    pub scratch: Scratch,
    key: Vec<u8>,
    /// Of inputs whose turns can be told before they are played.
    pub foresights: Vec<Option<Foresight>>,
    /// There are some of these.
    foretells: bool,
    /// The state at hand ends with any turn.
    is_to_end: bool,
    /// The game stands in it; where everything can be told beforehand, it need not.
    is_there: bool,
    pub uses: Uses,
    /// Kinds of which a piece has been moved.
    pub moved: Vec<bool>,
    /// Where those who are controlled stand in the states that it has looked at.
    pub stood: Stood,
    pub brought: Brought,
    pub news: News,
    /// These, where states are kept whole.
    pub kept: Vec<Option<Kept>>,
    /// States that have still to be looked up, and their keys.
    asked: Vec<Asked>,
    asked_keys: Vec<u8>,
    answers: Answers,
    /// It was told to stop before its tasks were done.
    pub is_cut: bool,
    /// There was no room for what it found: nothing of it counts.
    pub is_crowded: bool,
}

impl Worker {
    /// One that begins in the state of a game; what it learns may take so many bytes.
    pub fn new(number: usize, start: &Grid, inputs: &Inputs, reads: &Reads, most: usize) -> Self {
        let mut grid = start.fork_apart();
        let base = grid.base(reads);
        let foresight = |tried: &Tried| match tried {
            Tried::Input(input) if !base.whole => grid.foresight(&base, input, most / inputs.len().max(1)),
            Tried::Input(_) | Tried::Wait => None,
        };
        let foresights: Vec<_> = inputs.tried.iter().map(foresight).collect();
        let foretells = foresights.iter().any(Option::is_some);
        let stood = Stood::new(start.book().controlled(), &grid);
        let (uses, moved) = (Uses::new(start.book()), vec![false; start.book().kinds.len()]);
        Self {
            number,
            grid,
            base,
            scratch: Scratch::default(),
            key: Vec::new(),
            foresights,
            foretells,
            is_to_end: false,
            is_there: false,
            uses,
            moved,
            stood,
            brought: Brought::default(),
            news: News::default(),
            kept: Vec::new(),
            asked: Vec::new(),
            asked_keys: Vec::new(),
            answers: Answers::default(),
            is_cut: false,
            is_crowded: false,
        }
    }

    /// Bytes that the last tasks have left here, and of what was learned.
    pub fn bytes(&self) -> usize {
        let learned: usize = self.foresights.iter().flatten().map(Foresight::bytes).sum();
        learned + self.news.bytes() + self.brought.bytes()
    }

    /// The state that the game is in, as a key.
    pub fn key(&mut self) -> &[u8] {
        self.grid.pack_any(&self.base, &mut self.scratch, &mut self.key);
        &self.key
    }

    /// The state of another game of the same map, as a key.
    pub fn key_of(&mut self, grid: &Grid) -> &[u8] {
        grid.pack_any(&self.base, &mut self.scratch, &mut self.key);
        &self.key
    }

    /// Begins a batch, in which it may have nothing to do.
    pub fn begin(&mut self, known: &Known) {
        self.brought.clear();
        self.kept.clear();
        self.asked.clear();
        self.asked_keys.clear();
        (self.is_cut, self.is_crowded) = (false, false);
        known.begin(self.number, &mut self.news);
    }

    /// Tries inputs, piece by piece, until all pieces are taken.
    pub fn expand(&mut self, work: &Work) {
        self.begin(work.known);
        loop {
            let number = work.next.fetch_add(1, Ordering::Relaxed);
            let Some(piece) = work.pieces.get(number) else { return };
            for task in tasks(piece, work.inputs) {
                if work.ends.get(task.state as usize) == End::Open {
                    self.try_all(task, work);
                }
                if self.is_cut || self.is_crowded {
                    return;
                }
                self.brought.task_done();
            }
            self.look_up(work);
            self.brought.piece_done(number, self.number);
        }
    }

    /// Tries the inputs of a task.
    fn try_all(&mut self, task: Task, work: &Work) {
        // To ask for the time costs about as much as a turn of a small board.
        let often = if self.base.whole { 1 } else { 16 };
        let own = work.known.key(task.state);
        let parent = work.parents.get(task.state as usize);
        let back = if parent == NONE { None } else { Some((parent, work.known.key(parent))) };
        let from = From { task, own, back };
        for input in task.first..task.end {
            if (input - task.first).is_multiple_of(often) && work.host.halted().is_some() {
                self.is_cut = true;
                return;
            }
            if input == task.first {
                let kept = work.wholes.get(task.state);
                self.is_there = kept.is_some();
                match kept {
                    Some(kept) => self.grid.go_to(kept),
                    None => self.scratch.arrive(&self.base, own),
                }
                self.is_to_end = work.to_end.contains(&task.state);
            }
            self.attempt(from, input, work);
        }
    }

    /// Tries an input in the state that the game is in, and takes it back.
    fn attempt(&mut self, from: From, input: u32, work: &Work) {
        let From { task, own, .. } = from;
        self.uses.never_settled = false;
        let is_played = match self.foretell(from, input, work) {
            Foretold::Done => return,
            Foretold::Played => true,
            Foretold::Unclear => {
                self.go_there(own);
                self.look_up(work);
                self.play(task, input, work)
            }
        };
        if !is_played {
            return;
        }
        let Self { grid, uses, brought, moved, base, scratch, key, .. } = self;
        if uses.never_settled {
            brought.event((task.state, input), Came::NeverSettled);
        }
        grid.moved_kinds(|KindId(kind)| moved[usize::from(kind)] = true);
        let is_as_before = grid.is_as_before(base);
        if !is_as_before {
            grid.pack(base, scratch, key);
        }
        if !is_as_before && key.as_slice() != own {
            let hash = work.known.hash(key);
            self.arrives(task, input, hash, work);
        }
        self.grid.undo();
    }

    /// Tells what an input comes to without playing it, but where that is a state that was not known and is to be judged.
    fn foretell(&mut self, From { task, own, back }: From, input: u32, work: &Work) -> Foretold {
        let Some(foreseen) = self.foresee(own, input) else { return Foretold::Unclear };
        let is_judged = match foreseen {
            Foreseen::Nothing => return Foretold::Done,
            Foreseen::Unclear => return Foretold::Unclear,
            Foreseen::Moves => true,
            Foreseen::OnlyMoves => false,
        };
        let Self { base, scratch, key, .. } = self;
        scratch.pack_touched(base, own, key);
        if key.as_slice() == own {
            return Foretold::Done;
        }
        // Most inputs have one that takes them back.
        if let Some((parent, _)) = back.filter(|(_, parent)| key.as_slice() == *parent) {
            return self.leads_to(Is::Known(parent), (task, input), is_judged, work);
        }
        let hash = work.known.hash(key);
        if !is_judged {
            self.ask(task, input, hash);
            if self.asked.len() == TOGETHER {
                self.look_up(work);
            }
            return Foretold::Done;
        }
        if let Some(is) = work.known.find_with(hash, key, &self.news) {
            return self.leads_to(is, (task, input), is_judged, work);
        }
        self.look_up(work);
        self.go_there(own);
        let Self { grid, foresights, uses, .. } = self;
        let foresight = foresights[input as usize].as_ref();
        if foresight.is_none_or(|foresight| !grid.come_true(foresight, uses)) {
            return Foretold::Played;
        }
        self.arrives(task, input, hash, work);
        self.grid.undo();
        Foretold::Done
    }

    /// Notes that a foretold input leads to the board of a state that was found before, unless it has to be played.
    fn leads_to(&mut self, is: Is, (task, input): (Task, u32), is_judged: bool, work: &Work) -> Foretold {
        let is_to_end = match is {
            Is::Known(state) => work.to_end.contains(&state),
            Is::Again(new) | Is::New(new) => self.news.is_to_end(new),
            Is::Crowded => false,
        };
        // Where a map has just begun no turn has ended the game yet: one that leads to the same board does.
        if is_judged && is_to_end {
            return Foretold::Unclear;
        }
        if !matches!(is, Is::Known(_)) {
            // What was asked before is noted before.
            self.look_up(work);
        }
        self.note(task, input, is);
        Foretold::Done
    }

    /// What an input would come to, where that can be told before it is played. What moves is touched.
    fn foresee(&mut self, own: &[u8], input: u32) -> Option<Foreseen> {
        let Self { grid, base, scratch, foresights, is_to_end, .. } = self;
        let foresight = foresights[input as usize].as_ref().filter(|_| !*is_to_end)?;
        let recalled = grid.recall(foresight, base, scratch);
        if recalled.is_some() {
            return recalled;
        }
        self.go_there(own);
        let Self { grid, base, scratch, foresights, uses, moved, .. } = self;
        let foreseen = grid.foresee(foresights[input as usize].as_mut()?, base, scratch, uses);
        if matches!(foreseen, Foreseen::Moves | Foreseen::OnlyMoves) {
            grid.foreseen_kinds(|KindId(kind)| moved[usize::from(kind)] = true);
        }
        Some(foreseen)
    }

    /// Lets the game stand in the state at hand, whose key is given. What is tried there is taken back.
    fn go_there(&mut self, own: &[u8]) {
        if !self.is_there {
            self.grid.load(&self.base, own, &mut self.scratch);
            self.is_there = true;
        }
    }

    /// Notes that an input led to the state whose key was packed last, which is to be looked up.
    fn ask(&mut self, task: Task, input: u32, hash: u64) {
        let Self { brought, asked, asked_keys, key, .. } = self;
        let start = asked_keys.len();
        asked_keys.extend_from_slice(key);
        let key = start..asked_keys.len();
        asked.push(Asked { edge: brought.asks(), of: (task.state, input), hash, key });
    }

    /// Looks all states up that are still to be.
    fn look_up(&mut self, work: &Work) {
        let Self { brought, news, asked, asked_keys, answers, is_crowded, .. } = self;
        let hashes_and_keys = asked.iter().map(|asked| (asked.hash, &asked_keys[asked.key.clone()]));
        let found = work.known.find_or_claim_all(hashes_and_keys, news, answers);
        for (asked, is) in asked.iter().zip(found) {
            brought.found(asked.of, asked.edge, *is, End::Open);
            *is_crowded |= *is == Is::Crowded;
        }
        asked.clear();
        asked_keys.clear();
    }

    /// Plays an input; false where it was not taken.
    fn play(&mut self, task: Task, input: u32, work: &Work) -> bool {
        let Self { grid, uses, brought, .. } = self;
        match &work.inputs.tried[input as usize] {
            Tried::Input(input) => grid.input(input, uses) == Taken::Yes,
            Tried::Wait => {
                let mut add = |came| brought.event((task.state, input), came);
                let each = |grid: &Grid| {
                    let broken = work.promises.iter().filter(|promise| grid.breaks(**promise));
                    broken.for_each(|promise| add(Came::Broken(*promise as u32)));
                };
                grid.pass_to_next(uses, each).is_some()
            }
        }
    }

    /// Notes that an input led to the state in which the game stands, whose key was packed last.
    fn arrives(&mut self, task: Task, input: u32, hash: u64, work: &Work) {
        let is = work.known.find_or_claim(hash, &self.key, &mut self.news);
        self.note(task, input, is);
        if let Is::New(new) = is {
            if self.base.whole {
                self.kept.push((End::of(&self.grid) == End::Open).then(|| self.grid.keep()));
            }
            self.judge((task, input), new, work.promises);
        }
    }

    /// Notes that an input led to a state; where the game stands in it if it is new.
    fn note(&mut self, task: Task, input: u32, is: Is) {
        self.is_crowded |= is == Is::Crowded;
        self.brought.leads_to((task.state, input), is, End::of(&self.grid));
    }

    /// Whether any turn would end the game where it stands: only what is told beforehand has to know.
    pub fn is_to_end(&self) -> bool {
        self.foretells && self.grid.is_to_end()
    }

    /// Notes what is to be known of a new state in which the game stands: which promises it breaks, and whether it is to end.
    fn judge(&mut self, (task, input): (Task, u32), new: u32, promises: &[usize]) {
        let broken = promises.iter().filter(|promise| self.grid.breaks(**promise));
        let broken = broken.map(|promise| Came::BrokenThere(*promise as u32));
        let is_to_end = self.is_to_end();
        if is_to_end {
            self.news.set_to_end(new);
        }
        let all = broken.chain(is_to_end.then_some(Came::ToEnd(new)));
        all.for_each(|came| self.brought.event((task.state, input), came));
    }
}
