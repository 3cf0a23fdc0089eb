//! The way forward: every state that can be reached, level by level, in an order that does not depend on how many hands
//! there are.

use super::expand::{Came, End, Event, Task, Uses, Wholes, Worker};
use super::host::{Halt, Host, Job, Progress};
use super::inputs::Inputs;
use super::store::{Known, Long};
use crate::board::CellId;
use crate::grid::{Base, Grid};
use crate::rulebook::{KindId, Reads};
use hashbrown::HashTable;
use hashbrown::hash_table::Entry;
use std::time::Duration;

/// No state.
pub(super) const NONE: u32 = u32::MAX;

/// Most shortest tapes that are counted.
const MOST_WAYS: u64 = i64::MAX as u64;

/// Inputs that one pair of hands tries before what it found is put together with the rest, at least and at most.
const BATCH: (usize, usize) = if cfg!(test) { (50, 50) } else { (1 << 6, 1 << 16) };

/// A batch that takes less time than the first becomes larger, one that takes more than the second smaller.
const QUICK: (Duration, Duration) = (Duration::from_millis(15), Duration::from_millis(45));

/// What is to be found out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ask {
    /// Whether there is a win: the first one ends the search.
    Win,
    /// Whether all promises are kept: the first broken one ends the search.
    Promises,
    /// Everything.
    All,
}

/// How far a search may go.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Most states.
    pub states: u32,
    /// Most bytes, those included that the last passes need.
    pub bytes: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Self { states: 20_000_000, bytes: 4096 << 20 }
    }
}

/// Why a search has ended before everything was seen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Limit {
    /// What was asked is answered.
    Answered,
    /// There are more states.
    States,
    /// It would hold more bytes.
    Memory,
    /// Its time is up.
    Seconds,
    /// Somebody has stopped it.
    Stopped,
}

impl Limit {
    /// The word of the formats, where it is a limit.
    pub const fn word(self) -> Option<&'static str> {
        match self {
            Self::Answered | Self::Stopped => None,
            Self::States => Some("states"),
            Self::Memory => Some("memory"),
            Self::Seconds => Some("seconds"),
        }
    }
}

/// The first of something: a state, and the input behind it where it happens on the way to another.
pub(super) type At = (u32, Option<u32>);

/// Where pieces of some kinds have stood in some state.
pub(super) struct Stood {
    kinds: Vec<KindId>,
    cells: Vec<Vec<bool>>,
}

impl Stood {
    /// Where they stand in the state in which the search begins.
    fn new(kinds: Vec<KindId>, start: &Worker) -> Self {
        let board = start.grid.board();
        let on =
            |kind: KindId| (0..board.cells()).map(move |cell| board.kinds_at(CellId(cell)).any(|found| found == kind));
        let cells = kinds.iter().map(|kind| on(*kind).collect()).collect();
        Self { kinds, cells }
    }

    /// And in another one.
    fn add(&mut self, base: &Base, key: &[u8]) {
        let now = base.differing(key).filter_map(|(cell, _, kind)| Some((kind?, cell)));
        let beside = base.beside(key).filter_map(|(kind, cell)| Some((kind, cell? as usize)));
        for (kind, cell) in now.chain(beside) {
            if let Some(at) = self.kinds.iter().position(|known| *known == kind) {
                self.cells[at][cell] = true;
            }
        }
    }

    /// Each kind with its cells.
    pub fn of_each(&self) -> impl Iterator<Item = (KindId, Vec<u32>)> + '_ {
        let cells = |all: &[bool]| all.iter().zip(0..).filter(|(stood, _)| **stood).map(|(_, cell)| cell).collect();
        self.kinds.iter().zip(&self.cells).map(move |(kind, all)| (*kind, cells(all)))
    }
}

/// All that the way forward has found.
pub(super) struct Found {
    pub known: Known,
    /// From which state, and by which input, each one was reached first.
    pub parents: Long<u32>,
    pub by: Long<u32>,
    /// How many edges each one has of which all inputs have been tried.
    pub degrees: Long<u32>,
    pub targets: Long<u32>,
    pub ends: Long<End>,
    /// The first state of every depth.
    pub levels: Vec<u32>,
    pub limit: Option<Limit>,
    pub won: Option<u32>,
    /// How many shortest tapes win.
    pub ways: Option<u64>,
    pub lost: Option<u32>,
    pub stuck: Option<u32>,
    pub never_settles: Option<At>,
    /// Where each promise is broken first.
    pub broken: Vec<Option<At>>,
    pub uses: Uses,
    pub moved: Vec<bool>,
    /// Where those who are controlled have stood.
    pub stood: Stood,
}

impl Found {
    pub fn states(&self) -> u32 {
        self.known.len() as u32
    }

    /// Bytes that are held, and those that the way back will need.
    pub fn bytes(&self) -> usize {
        let lists =
            self.parents.bytes() + self.by.bytes() + self.degrees.bytes() + self.targets.bytes() + self.ends.bytes();
        let later = self.known.len() * 2 * size_of::<u32>() + self.targets.len() * size_of::<u32>();
        self.known.bytes() + lists + later
    }

    fn add(&mut self, hash: u64, key: &[u8], parent: u32, by: u32, end: End) -> u32 {
        let number = self.known.add(hash, key);
        self.parents.push(parent);
        self.by.push(by);
        self.ends.push(end);
        match end {
            End::Won if self.won.is_none() => self.won = Some(number),
            End::Lost if self.lost.is_none() => self.lost = Some(number),
            End::Won | End::Lost | End::Open => {}
        }
        number
    }

    /// How many inputs a state lies behind the start.
    pub fn depth_of(&self, state: u32) -> usize {
        self.levels.partition_point(|first| *first <= state) - 1
    }
}

/// The search itself.
pub(super) struct Search<'a> {
    pub inputs: &'a Inputs,
    pub ask: Ask,
    pub limits: Limits,
    pub host: &'a dyn Host,
    pub found: Found,
    pub workers: Vec<Worker>,
    wholes: Wholes,
    /// The state whose inputs are tried next, and the first of them.
    next: (u32, u32),
    /// Inputs that one pair of hands tries next.
    batch: usize,
    /// The states of the depth that is being left, and how many edges the one at hand has so far.
    level: (u32, u32),
    degree: u32,
    /// Ways to these states, and to those a step deeper.
    ways: [Vec<u64>; 2],
}

impl<'a> Search<'a> {
    /// Begins in the state of a game; `uses` are the rules that entering its map used.
    pub fn new(start: &Grid, inputs: &'a Inputs, ask: Ask, limits: Limits, host: &'a dyn Host, uses: Uses) -> Self {
        let reads: Reads = start.book().reads();
        let mut first = Worker::new(start, inputs, &reads);
        let key = first.key().to_vec();
        let promises = start.book().invariants.len();
        let mut found = Found {
            known: Known::new(),
            parents: Long::default(),
            by: Long::default(),
            degrees: Long::default(),
            targets: Long::default(),
            ends: Long::default(),
            levels: vec![0],
            limit: None,
            won: None,
            ways: None,
            lost: None,
            stuck: None,
            never_settles: uses.never_settled.then_some((0, None)),
            broken: (0..promises).map(|promise| first.grid.breaks(promise).then_some((0, None))).collect(),
            uses,
            moved: first.moved.clone(),
            stood: Stood::new(start.book().controlled(), &first),
        };
        let hash = found.known.hash(&key);
        found.add(hash, &key, NONE, NONE, End::of(&first.grid));
        found.known.list(1, |jobs| jobs.into_iter().for_each(|job| job()));
        found.ways = found.won.map(|_| 1);
        let mut wholes = Wholes::default();
        if first.base.whole {
            wholes.push(Some(first.grid.keep()));
        }
        let hands = host.hands().max(1);
        let mut workers = vec![first];
        workers.extend((1..hands).map(|_| Worker::new(start, inputs, &reads)));
        Self {
            inputs,
            ask,
            limits,
            host,
            found,
            workers,
            wholes,
            next: (0, 0),
            batch: BATCH.0.max(BATCH.1.min(1 << 10)),
            level: (0, 1),
            degree: 0,
            ways: [vec![1], Vec::new()],
        }
    }

    /// Gives a worker, to look at states with, and what was found.
    pub fn into_parts(mut self) -> (Worker, Found) {
        (self.workers.swap_remove(0), self.found)
    }

    /// Searches until everything is seen or something ends it.
    pub fn run(&mut self) {
        let mut ended = self.answered();
        while ended.is_none() && self.next.0 < self.found.states() {
            ended = self.batch();
            self.host.tell(self.progress());
            if ended.is_none() {
                ended = self.host.halted().map(|halt| match halt {
                    Halt::Seconds => Limit::Seconds,
                    Halt::Stopped => Limit::Stopped,
                });
            }
        }
        // The last level is behind it.
        if ended.is_none() {
            self.level_done();
        }
        self.found.limit = ended;
        for worker in &self.workers {
            self.found.uses.join(&worker.uses);
            self.found.moved.iter_mut().zip(&worker.moved).for_each(|(all, one)| *all |= *one);
        }
    }

    fn progress(&self) -> Progress {
        Progress {
            states: self.found.states(),
            done: self.next.0,
            edges: self.found.targets.len() as u64,
            depth: self.found.depth_of(self.found.states() - 1) as u32,
            bytes: self.bytes(),
        }
    }

    fn bytes(&self) -> usize {
        let ways = (self.ways[0].capacity() + self.ways[1].capacity()) * size_of::<u64>();
        let hands: usize = self.workers.iter().map(Worker::bytes).sum();
        self.found.bytes() + self.wholes.bytes + ways + hands
    }

    /// Whether what was asked is answered.
    fn answered(&self) -> Option<Limit> {
        let is_answered = match self.ask {
            Ask::Win => self.found.won.is_some(),
            Ask::Promises => self.found.broken.iter().any(Option::is_some),
            Ask::All => false,
        };
        is_answered.then_some(Limit::Answered)
    }

    /// Tries the inputs of some states, and puts together what came of them.
    fn batch(&mut self) -> Option<Limit> {
        let tasks = self.tasks();
        let promises: Vec<usize> =
            self.found.broken.iter().enumerate().filter(|(_, at)| at.is_none()).map(|(promise, _)| promise).collect();
        let shares = shares(&tasks, self.workers.len());
        let (known, wholes, inputs, host) = (&self.found.known, &self.wholes, self.inputs, self.host);
        let promises = promises.as_slice();
        let begun = host.elapsed();
        let mut jobs: Vec<Job> = Vec::new();
        for (worker, share) in self.workers.iter_mut().zip(&shares) {
            jobs.push(Box::new(move || worker.expand(share, inputs, known, wholes, promises, host)));
        }
        do_all(host, jobs);
        if self.workers[..shares.len()].iter().any(|worker| worker.is_cut) {
            return Some(match self.host.halted() {
                Some(Halt::Stopped) => Limit::Stopped,
                Some(Halt::Seconds) | None => Limit::Seconds,
            });
        }
        let mut fresh = self.fresh(shares.len());
        let mut ended = None;
        for (number, share) in shares.iter().enumerate() {
            let mut events = std::mem::take(&mut self.workers[number].events);
            ended = ended.or_else(|| self.merge(share, number, &mut events, &mut fresh));
            self.workers[number].events = events;
        }
        self.found.known.list(shares.len(), |jobs| do_all(host, jobs));
        if ended.is_some() {
            return ended;
        }
        self.fit_batch(host.elapsed().saturating_sub(begun));
        if self.workers[0].base.whole {
            self.wholes.forget_before(self.next.0);
        }
        let is_full = self.found.known.is_nearly_full() || self.found.targets.len() >= (NONE / 2) as usize;
        (is_full || self.bytes() > self.limits.bytes).then_some(Limit::Memory)
    }

    /// Fits the size of a batch to how long the last one took.
    fn fit_batch(&mut self, took: Duration) {
        if took < QUICK.0 {
            self.batch = (self.batch * 2).min(BATCH.1);
        } else if took > QUICK.1 {
            self.batch = (self.batch / 2).max(BATCH.0);
        }
    }

    /// Which of the new states of a batch are the same as earlier ones of it.
    fn fresh(&self, hands: usize) -> AllFresh {
        let workers = &self.workers[..hands];
        let mut offsets = Vec::with_capacity(hands);
        let mut all = 0;
        for worker in workers {
            offsets.push(all);
            all += worker.fresh.len();
        }
        let mut twins: Vec<Vec<(u32, u32)>> = vec![Vec::new(); hands];
        let look = |hand: usize, twins: &mut Vec<(u32, u32)>| {
            // Each hand looks after its share of the hashes, so that none waits for another.
            let mut seen: HashTable<(u64, u32, &[u8])> = HashTable::new();
            let keys = workers
                .iter()
                .flat_map(|worker| worker.fresh.iter().map(|fresh| (fresh.hash, worker.fresh_key(*fresh))));
            for (number, (hash, key)) in keys.enumerate() {
                if Known::hand(hash, hands) != hand {
                    continue;
                }
                match seen.entry(hash, |(_, _, known)| *known == key, |(hash, ..)| *hash) {
                    Entry::Occupied(first) => twins.push((number as u32, first.get().1)),
                    Entry::Vacant(place) => {
                        place.insert((hash, number as u32, key));
                    }
                }
            }
        };
        let look = &look;
        let jobs = twins.iter_mut().enumerate().map(|(hand, twins)| -> Job { Box::new(move || look(hand, twins)) });
        do_all(self.host, jobs.collect());
        let mut first: Vec<u32> = (0..all as u32).collect();
        for (twin, of) in twins.into_iter().flatten() {
            first[twin as usize] = of;
        }
        AllFresh { offsets, first, numbers: vec![NONE; all] }
    }

    /// What is tried next: the inputs of states that are known, as many as hands can be busy with.
    fn tasks(&mut self) -> Vec<Task> {
        let all = self.inputs.len() as u32;
        let mut left = self.batch * self.workers.len();
        if self.workers[0].base.whole {
            // Every new state is kept whole until all hands have done.
            let one = self.wholes.bytes / self.wholes.kept.len().max(1) + 1;
            left = left.min(self.limits.bytes.saturating_sub(self.bytes()) / 4 / one).max(1);
        }
        let (mut state, mut first) = self.next;
        let mut tasks = Vec::new();
        while left > 0 && state < self.found.states() {
            let is_open = self.found.ends.get(state as usize) == End::Open;
            let end = if is_open { all.min(first.saturating_add(left as u32)) } else { all };
            tasks.push(Task { state, first: if is_open { first } else { all }, end });
            left -= if is_open { (end - first).max(1) as usize } else { 1 };
            (state, first) = if end == all { (state + 1, 0) } else { (state, end) };
        }
        tasks
    }

    /// Puts what came of some tasks together with what is known, input after input.
    fn merge(&mut self, tasks: &[Task], worker: usize, events: &mut Vec<Event>, fresh: &mut AllFresh) -> Option<Limit> {
        let all = self.inputs.len() as u32;
        let mut events = events.drain(..).peekable();
        for task in tasks {
            if task.state == self.level.1 {
                self.level_done();
            }
            while let Some(first) = events.next_if(|event| event.state == task.state) {
                let input = first.input;
                let mut event = Some(first);
                while let Some(this) = event {
                    if let Some(limit) = self.happened(this, worker, fresh) {
                        return Some(limit);
                    }
                    event = events.next_if(|event| (event.state, event.input) == (task.state, input));
                }
                if let Some(answered) = self.answered() {
                    if input + 1 == all && task.state + 1 == self.level.1 {
                        self.level_done();
                    }
                    return Some(answered);
                }
            }
            self.next = if task.end == all { (task.state + 1, 0) } else { (task.state, task.end) };
            if task.end == all {
                if self.degree == 0
                    && self.found.stuck.is_none()
                    && self.found.ends.get(task.state as usize) == End::Open
                {
                    self.found.stuck = Some(task.state);
                }
                self.found.degrees.push(std::mem::take(&mut self.degree));
            }
        }
        None
    }

    /// Notes one thing that came of an input.
    fn happened(&mut self, event: Event, worker: usize, all: &mut AllFresh) -> Option<Limit> {
        let Event { state, input, came } = event;
        let to = match came {
            Came::Broken(promise) => {
                self.found.broken[promise].get_or_insert((state, Some(input)));
                return None;
            }
            Came::BrokenThere(promise) => {
                // The state is the one that was added last, or it was known by then and has been looked at.
                self.found.broken[promise].get_or_insert((state, Some(input)));
                return None;
            }
            Came::NeverSettled => {
                self.found.never_settles.get_or_insert((state, Some(input)));
                return None;
            }
            Came::To(to) => to,
            Came::New { fresh, end, kept } => {
                let number = all.number(worker, fresh);
                if *number == NONE {
                    if self.found.states() >= self.limits.states {
                        return Some(Limit::States);
                    }
                    let worker = &self.workers[worker];
                    let key = worker.fresh_key(worker.fresh[fresh]);
                    *number = self.found.add(worker.fresh[fresh].hash, key, state, input, end);
                    self.found.stood.add(&worker.base, key);
                    if *number == self.level.1 {
                        self.found.levels.push(*number);
                    }
                    if worker.base.whole {
                        self.wholes.push(kept);
                    }
                }
                *number
            }
        };
        self.degree += 1;
        self.found.targets.push(to);
        if self.found.ways.is_none() && to >= self.level.1 {
            let at = (to - self.level.1) as usize;
            let ways = self.ways[0][(state - self.level.0) as usize];
            match self.ways[1].get_mut(at) {
                Some(known) => *known = known.saturating_add(ways).min(MOST_WAYS),
                None => self.ways[1].push(ways),
            }
        }
        None
    }

    /// All states of a depth have been done.
    fn level_done(&mut self) {
        let (_, end) = self.level;
        self.level = (end, self.found.states());
        if self.found.ways.is_some() {
            return;
        }
        if self.found.won.is_some() {
            let won = (end..self.level.1).filter(|state| self.found.ends.get(*state as usize) == End::Won);
            let ways = won.map(|state| self.ways[1][(state - end) as usize]);
            self.found.ways = Some(ways.fold(0, |sum: u64, ways| sum.saturating_add(ways).min(MOST_WAYS)));
            self.ways = Default::default();
            return;
        }
        self.ways.swap(0, 1);
        self.ways[1].clear();
    }
}

/// The new states of a batch, of all workers one behind the other: which of them are the same, and which numbers they get.
struct AllFresh {
    /// Where those of each worker begin.
    offsets: Vec<usize>,
    /// For each the first that is the same state.
    first: Vec<u32>,
    numbers: Vec<u32>,
}

impl AllFresh {
    fn number(&mut self, worker: usize, fresh: usize) -> &mut u32 {
        let first = self.first[self.offsets[worker] + fresh];
        &mut self.numbers[first as usize]
    }
}

/// Does jobs, without bothering anybody where there is one.
fn do_all(host: &dyn Host, jobs: Vec<Job<'_>>) {
    if jobs.len() == 1 {
        jobs.into_iter().for_each(|job| job());
    } else {
        host.work(jobs);
    }
}

/// Tasks for so many hands, each a piece of the whole in its order; fewer where it is not worth the way.
fn shares(tasks: &[Task], hands: usize) -> Vec<Vec<Task>> {
    /// Fewer inputs are tried sooner than handed out.
    const FEW: usize = if cfg!(test) { 8 } else { 256 };
    let weight = |task: &Task| (task.end - task.first) as usize;
    let all: usize = tasks.iter().map(weight).sum();
    let hands = hands.min(all / FEW).max(1);
    let share = all.div_ceil(hands);
    let mut shares: Vec<Vec<Task>> = vec![Vec::new()];
    let mut filled = 0;
    for task in tasks {
        let mut rest = *task;
        // A state with very many inputs is shared too.
        while filled + weight(&rest) > share && shares.len() < hands {
            let cut = rest.first + (share - filled) as u32;
            if cut > rest.first {
                shares.last_mut().into_iter().for_each(|last| last.push(Task { end: cut, ..rest }));
            }
            rest.first = cut;
            shares.push(Vec::new());
            filled = 0;
        }
        filled += weight(&rest);
        shares.last_mut().into_iter().for_each(|last| last.push(rest));
    }
    shares
}
