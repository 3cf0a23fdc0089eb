//! The way forward: every state that can be reached, level by level, in an order that does not depend on how many hands
//! there are.

use super::expand::{End, Stood, Uses, Wholes, Work, Worker, places};
use super::host::{Halt, Host, Job, Progress};
use super::inputs::Inputs;
use super::known::{Known, MOST_HANDS, News, Run};
use super::store::Long;
use crate::grid::Grid;
use crate::rulebook::Reads;
use hashbrown::HashSet;
use std::ops::Range;
use std::sync::atomic::AtomicUsize;
use std::time::Duration;

/// No state.
pub(super) const NONE: u32 = u32::MAX;

/// Inputs that one pair of hands tries before what it found is put together with the rest, at least and at most.
const BATCH: (usize, usize) = if cfg!(test) { (50, 50) } else { (1 << 6, 1 << 13) };

/// A batch that takes less time than the first becomes larger, one that takes more than the second smaller.
const QUICK: (Duration, Duration) = (Duration::from_millis(15), Duration::from_millis(45));

/// Most bytes of keys that nobody has looked at for who stands where: whoever stops a search waits until these are.
const UNLOOKED: usize = if cfg!(test) { 1 << 9 } else { 16 << 20 };

/// The share of all bytes that may be taken by what hands have learned about inputs.
const LEARNED: usize = 16;

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
    /// Where those who are controlled have stood, as far as anybody has looked.
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
    pub wholes: Wholes,
    /// States in which any turn would end the game.
    pub to_end: HashSet<u32>,
    /// The [place](places) that is tried next.
    pub next: u64,
    /// Inputs that one pair of hands tries next.
    batch: usize,
    /// The first state behind the depth that is being left.
    pub beyond: u32,
    /// How many edges the state at hand has so far.
    pub degree: u32,
    /// So many states have been looked at for who stands where, and so many bytes of keys there were then.
    looked: (u32, usize),
}

impl<'a> Search<'a> {
    /// Begins in the state of a game; `uses` are the rules that entering its map used.
    pub fn new(start: &Grid, inputs: &'a Inputs, ask: Ask, limits: Limits, host: &'a dyn Host, uses: Uses) -> Self {
        let reads: Reads = start.book().reads();
        let hands = host.hands().clamp(1, MOST_HANDS);
        let learned = limits.bytes / LEARNED / hands;
        let mut first = Worker::new(0, start, inputs, &reads, learned);
        let key = first.key().to_vec();
        let promises = start.book().invariants.len();
        let mut found = Found {
            known: Known::new(hands),
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
            stood: first.stood.clone(),
        };
        let mut news = [News::default()];
        found.known.make_room(1, host);
        found.known.find_or_claim(found.known.hash(&key), &key, &mut news[0]);
        found.known.lay(&mut news, &[Run { hand: 0, news: 0..1, number: 0 }], &[]);
        found.parents.push(NONE);
        found.by.push(NONE);
        let end = End::of(&first.grid);
        found.ends.push(end);
        match end {
            End::Won => (found.won, found.ways) = (Some(0), Some(1)),
            End::Lost => found.lost = Some(0),
            End::Open => {}
        }
        let mut wholes = Wholes::default();
        if first.base.whole {
            wholes.push(Some(first.grid.keep()));
        }
        let to_end = first.is_to_end().then_some(0).into_iter().collect();
        let mut workers = vec![first];
        workers.extend((1..hands).map(|number| Worker::new(number, start, inputs, &reads, learned)));
        Self {
            inputs,
            ask,
            limits,
            host,
            found,
            workers,
            wholes,
            to_end,
            next: 0,
            batch: BATCH.0.max(BATCH.1.min(1 << 10)),
            beyond: 1,
            degree: 0,
            looked: (1, 0),
        }
    }

    /// Gives a worker, to look at states with, and what was found.
    pub fn into_parts(mut self) -> (Worker, Found) {
        (self.workers.swap_remove(0), self.found)
    }

    /// Searches until everything is seen or something ends it.
    pub fn run(&mut self) {
        let mut ended = self.answered();
        while ended.is_none() && self.done() < self.found.states() {
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
            self.beyond = self.found.states();
            self.count_ways();
        }
        self.found.limit = ended;
        if ended.is_some() {
            // Where everything was seen, what stands where is counted anyway.
            self.look_who_stands();
        }
        for worker in &self.workers {
            self.found.uses.join(&worker.uses);
            self.found.stood.join(&worker.stood);
            self.found.moved.iter_mut().zip(&worker.moved).for_each(|(all, one)| *all |= *one);
        }
    }

    fn progress(&self) -> Progress {
        Progress {
            states: self.found.states(),
            done: self.done(),
            edges: self.found.targets.len() as u64,
            depth: self.found.depth_of(self.found.states() - 1) as u32,
            bytes: self.bytes(),
        }
    }

    fn bytes(&self) -> usize {
        let hands: usize = self.workers.iter().map(Worker::bytes).sum();
        self.found.bytes() + self.wholes.bytes + self.to_end.allocation_size() + hands
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
        let host = self.host;
        let begun = host.elapsed();
        let pieces = self.pieces();
        if let Some(limit) = self.expand(&pieces) {
            return Some(limit);
        }
        let ended = self.put_together(&pieces);
        if self.found.known.key_bytes() - self.looked.1 > UNLOOKED {
            self.look_who_stands();
        }
        if ended.is_some() {
            return ended;
        }
        self.fit_batch(host.elapsed().saturating_sub(begun));
        if self.workers[0].base.whole {
            self.wholes.forget_before(self.done());
        }
        let is_full = self.found.known.is_nearly_full() || self.found.targets.len() >= (NONE / 2) as usize;
        (is_full || self.bytes() > self.limits.bytes).then_some(Limit::Memory)
    }

    /// Lets as many hands as there are pieces try the inputs of all of these; once more where there was too little room.
    fn expand(&mut self, pieces: &[Range<u64>]) -> Option<Limit> {
        let promises: Vec<usize> =
            self.found.broken.iter().enumerate().filter(|(_, at)| at.is_none()).map(|(promise, _)| promise).collect();
        let hands = pieces.len().min(self.workers.len());
        let (at_work, idle) = self.workers.split_at_mut(hands);
        let (first, end) = (pieces.first().map_or(0, |piece| piece.start), pieces.last().map_or(0, |piece| piece.end));
        let mut room = (end - first) as usize;
        loop {
            self.found.known.make_room(room, self.host);
            let work = Work {
                pieces,
                next: AtomicUsize::new(0),
                inputs: self.inputs,
                known: &self.found.known,
                parents: &self.found.parents,
                ends: &self.found.ends,
                wholes: &self.wholes,
                promises: &promises,
                to_end: &self.to_end,
                host: self.host,
            };
            let work = &work;
            idle.iter_mut().for_each(|worker| worker.begin(work.known));
            let jobs = at_work.iter_mut().map(|worker| -> Job { Box::new(|| worker.expand(work)) });
            do_all(self.host, jobs.collect());
            if at_work.iter().any(|worker| worker.is_cut) {
                return Some(match self.host.halted() {
                    Some(Halt::Stopped) => Limit::Stopped,
                    Some(Halt::Seconds) | None => Limit::Seconds,
                });
            }
            if !at_work.iter().any(|worker| worker.is_crowded) {
                return None;
            }
            at_work.iter_mut().for_each(|worker| self.found.known.give_back(&mut worker.news));
            room *= 2;
        }
    }

    /// Notes where those who are controlled stand in the states that have not been looked at.
    fn look_who_stands(&mut self) {
        let (known, states, first) = (&self.found.known, self.found.states(), self.looked.0);
        let share = (states - first).div_ceil(self.workers.len() as u32);
        let jobs = self.workers.iter_mut().zip(0_u32..).map(|(worker, number)| -> Job {
            let from = states.min(first + number * share);
            Box::new(move || {
                (from..states.min(from + share)).for_each(|state| worker.stood.add(&worker.base, known.key(state)));
            })
        });
        do_all(self.host, jobs.collect());
        self.looked = (states, known.key_bytes());
    }

    /// Fits the size of a batch to how long the last one took.
    fn fit_batch(&mut self, took: Duration) {
        if took < QUICK.0 {
            self.batch = (self.batch * 2).min(BATCH.1);
        } else if took > QUICK.1 {
            self.batch = (self.batch / 2).max(BATCH.0);
        }
    }

    /// States of which all inputs have been tried.
    fn done(&self) -> u32 {
        (self.next / places(self.inputs)) as u32
    }

    /// What is tried next, as many inputs as hands can be busy with, in pieces: several for each of them, so that who is done
    /// early takes more. Fewer where it is not worth the way.
    fn pieces(&self) -> Vec<Range<u64>> {
        /// Fewer inputs are tried sooner than handed out.
        const FEW: u64 = if cfg!(test) { 8 } else { 256 };
        let hands = self.workers.len();
        let mut most = self.batch * hands;
        if self.workers[0].base.whole {
            // Every new state is kept whole until all hands have done.
            let one = self.wholes.bytes / self.wholes.kept.len().max(1) + 1;
            most = most.min(self.limits.bytes.saturating_sub(self.bytes()) / 4 / one).max(1);
        }
        let known = u64::from(self.found.states()) * places(self.inputs);
        let all = (known - self.next).min(most as u64);
        let (end, depth) = (self.next + all, u64::from(self.beyond) * places(self.inputs));
        let mut pieces = Vec::new();
        let mut first = self.next;
        while first < end {
            let left = end - first;
            let size = if hands == 1 { left } else { left.min(FEW.max(left / (2 * hands as u64))) };
            // No piece goes from one depth on into the next.
            let limit = if first < depth { depth } else { end };
            let last = limit.min(first + size);
            pieces.push(first..last);
            first = last;
        }
        pieces
    }
}

/// Does jobs, without bothering anybody where there is one.
pub(super) fn do_all(host: &dyn Host, jobs: Vec<Job<'_>>) {
    if jobs.len() == 1 {
        jobs.into_iter().for_each(|job| job());
    } else {
        host.work(jobs);
    }
}
