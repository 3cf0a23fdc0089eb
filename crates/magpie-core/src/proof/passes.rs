//! The way back: from which states a win can still be reached, and in how many inputs; then what stands where.

use super::expand::{End, Worker};
use super::host::{Halt, Host, Job};
use super::search::{Found, NONE, do_all};
use crate::rulebook::KindId;
use std::ops::Range;

/// Most shortest tapes that are counted.
const MOST_WAYS: u64 = i64::MAX as u64;

/// How many shortest tapes win, where all states before the depth of the first that does have been done; nothing where somebody
/// stopped it.
pub(super) fn ways(found: &Found, won: u32, host: &dyn Host) -> Option<u64> {
    let depth = found.depth_of(won);
    let ends = found.levels[..=depth].iter().skip(1).copied();
    let beyond = found.levels.get(depth + 1).copied().unwrap_or(found.states());
    let (mut ways, mut level) = (vec![1_u64], 0);
    let (mut targets, mut degrees) = (found.targets.iter(), found.degrees.iter());
    for (end, beyond) in ends.clone().zip(ends.skip(1).chain([beyond])) {
        if host.halted() == Some(Halt::Stopped) {
            return None;
        }
        let mut next = vec![0_u64; (beyond - end) as usize];
        for (from, degree) in ways.iter().zip(degrees.by_ref()) {
            for to in targets.by_ref().take(degree as usize).filter(|to| *to >= end) {
                let to = &mut next[(to - end) as usize];
                *to = to.saturating_add(*from).min(MOST_WAYS);
            }
        }
        (ways, level) = (next, end);
    }
    let won = ways.iter().zip(level..).filter(|(_, state)| found.ends.get(*state as usize) == End::Won);
    Some(won.fold(0, |sum: u64, (ways, _)| sum.saturating_add(*ways).min(MOST_WAYS)))
}

/// The distance of every state to a win, [`NONE`] where there is no way; nothing where somebody stopped it.
pub(super) fn distances(found: &Found, host: &dyn Host) -> Option<Vec<u32>> {
    let states = found.known.len();
    // Edges turned round: where those into a state begin, and whence they come.
    let mut starts = vec![0_u32; states + 1];
    for to in found.targets.iter() {
        starts[to as usize + 1] += 1;
    }
    for at in 0..states {
        starts[at + 1] += starts[at];
    }
    let mut sources = vec![0_u32; found.targets.len()];
    let mut targets = found.targets.iter();
    for (from, degree) in found.degrees.iter().enumerate() {
        if from % 65_536 == 0 && host.halted() == Some(Halt::Stopped) {
            return None;
        }
        for to in targets.by_ref().take(degree as usize) {
            // Filled from the beginning: afterwards each start stands where the next one began.
            sources[starts[to as usize] as usize] = from as u32;
            starts[to as usize] += 1;
        }
    }
    let mut distances = vec![NONE; states];
    let mut queue: Vec<u32> = (0..states as u32).filter(|state| found.ends.get(*state as usize) == End::Won).collect();
    queue.iter().for_each(|state| distances[*state as usize] = 0);
    let mut depth = 0;
    while !queue.is_empty() {
        if host.halted() == Some(Halt::Stopped) {
            return None;
        }
        depth += 1;
        let mut next = Vec::new();
        for state in queue {
            let first = if state == 0 { 0 } else { starts[state as usize - 1] };
            for source in &sources[first as usize..starts[state as usize] as usize] {
                if distances[*source as usize] == NONE {
                    distances[*source as usize] = depth;
                    next.push(*source);
                }
            }
        }
        queue = next;
    }
    Some(distances)
}

/// In how many states of a path only one edge leads to where a win can still be reached.
pub(super) fn forced(found: &Found, path: &[u32], distances: &[u32]) -> u64 {
    let mut path = path.iter().copied().peekable();
    let mut targets = found.targets.iter();
    let mut forced = 0;
    for (state, degree) in found.degrees.iter().enumerate() {
        let edges = targets.by_ref().take(degree as usize);
        if path.next_if_eq(&(state as u32)).is_some() {
            forced += u64::from(edges.filter(|to| distances[*to as usize] != NONE).count() == 1);
        } else {
            edges.for_each(drop);
        }
        if path.peek().is_none() {
            break;
        }
    }
    forced
}

/// In how many states each slot differs from the base by what stands there now, and in the upper half from how many of them a
/// win can still be reached: slot by slot for nobody, for anybody who is not asked for, and for each of the kinds that are.
#[derive(Clone)]
struct Tally(Vec<u64>);

impl Tally {
    const fn halves(both: u64) -> [u32; 2] {
        [both as u32, (both >> 32) as u32]
    }
}

/// The places of a slot in a tally: nobody, anybody else, and behind them the kinds.
const NOBODY: usize = 0;
const ANYBODY: usize = 1;
const KINDS: usize = 2;

/// Where pieces of some kinds stand in the states that were seen.
pub(super) struct Places {
    kinds: Vec<KindId>,
    /// For each kind, cell by cell: in how many states one stands there, and from how many of them a win can be reached.
    counts: Vec<Vec<[u64; 2]>>,
    layers: usize,
    /// For each slot, in how many states it is empty.
    empty: Vec<u32>,
}

impl Places {
    pub fn new(worker: &Worker, found: &Found, kinds: Vec<KindId>, distances: Option<&[u32]>, host: &dyn Host) -> Self {
        let (base, board) = (&worker.base, worker.grid.board());
        let (layers, cells) = (usize::from(board.layers()), board.cells() as usize);
        let mut places = vec![ANYBODY; worker.grid.book().kinds.len()];
        kinds.iter().zip(KINDS..).for_each(|(kind, place)| places[usize::from(kind.0)] = place);
        let place_of =
            |kind: Option<KindId>| kind.map_or(NOBODY, |kind| *places.get(usize::from(kind.0)).unwrap_or(&ANYBODY));
        let place_of_symbol = base.by_symbol(place_of);
        let width = KINDS + kinds.len();
        let can_win = |state: u32| distances.is_some_and(|distances| distances[state as usize] != NONE);
        let none = vec![vec![[0_u64; 2]; cells]; kinds.len()];
        let count = |states: Range<u32>, tally: &mut Tally, beside: &mut Vec<Vec<[u64; 2]>>| {
            for state in states {
                let (key, wins) = (found.known.key(state), can_win(state));
                let both = 1 | u64::from(wins) << 32;
                base.differing(key, |slot, symbol| tally.0[slot * width + place_of_symbol[symbol as usize]] += both);
                for (kind, cell) in base.beside(key) {
                    let at = place_of(Some(kind)).checked_sub(KINDS);
                    if let (Some(at), Some(cell)) = (at, cell) {
                        let [all, winning] = &mut beside[at][cell as usize];
                        *all += 1;
                        *winning += u64::from(wins);
                    }
                }
            }
        };
        let (states, hands) = (found.states(), host.hands().max(1) as u32);
        let share = states.div_ceil(hands);
        let mut parts = vec![(Tally(vec![0; cells * layers * width]), none); hands as usize];
        let jobs = parts.iter_mut().zip(0_u32..).map(|((tally, beside), number)| -> Job {
            let count = &count;
            let share = states.min(number * share)..states.min((number + 1) * share);
            Box::new(move || count(share, tally, beside))
        });
        do_all(host, jobs.collect());
        let (Tally(mut tally), mut counts) = parts.swap_remove(0);
        for (Tally(other), beside) in &parts {
            tally.iter_mut().zip(other).for_each(|(mine, other)| *mine += other);
            counts.iter_mut().flatten().zip(beside.iter().flatten()).for_each(|(mine, other)| {
                *mine = [mine[0] + other[0], mine[1] + other[1]];
            });
        }
        let winning = distances.map_or(0, |distances| distances.iter().filter(|distance| **distance != NONE).count());
        let mut empty = Vec::with_capacity(cells * layers);
        for (slot, tally) in tally.chunks_exact_mut(width).enumerate() {
            // In all other states it holds what it holds in the base.
            let [all, wins] = Tally::halves(tally.iter().sum());
            tally[place_of(base.kind_at(slot))] += u64::from(states - all) | u64::from(winning as u32 - wins) << 32;
            for (counts, both) in counts.iter_mut().zip(&tally[KINDS..]) {
                let (count, now) = (&mut counts[slot / layers], Tally::halves(*both));
                *count = [count[0] + u64::from(now[0]), count[1] + u64::from(now[1])];
            }
            empty.push(Tally::halves(tally[NOBODY])[0]);
        }
        Self { kinds, counts, layers, empty }
    }

    fn at(&self, kind: KindId) -> Option<&[[u64; 2]]> {
        self.kinds.iter().position(|known| *known == kind).map(|at| self.counts[at].as_slice())
    }

    /// The cells on which a piece of a kind stands in some state.
    pub fn stood(&self, kind: KindId) -> Vec<u32> {
        let all = self.at(kind).unwrap_or_default().iter().zip(0..);
        all.filter(|([stands, _], _)| *stands > 0).map(|(_, cell)| cell).collect()
    }

    /// The cells on which a piece of a kind stands in some state, but in none from which a win can be reached.
    pub fn dead(&self, kind: KindId) -> Vec<u32> {
        let all = self.at(kind).unwrap_or_default().iter().enumerate();
        all.filter(|(_, [stands, wins])| *stands > 0 && *wins == 0).map(|(cell, _)| cell as u32).collect()
    }

    /// Whether a layer of a cell is free in some state.
    pub fn is_free(&self, cell: u32, layer: u8) -> bool {
        self.empty[cell as usize * self.layers + usize::from(layer)] > 0
    }
}
