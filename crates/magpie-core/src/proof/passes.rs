//! The way back: from which states a win can still be reached, and in how many inputs; then what stands where.

use super::expand::{End, Worker};
use super::host::{Halt, Host, Job};
use super::search::{Found, NONE, do_all};
use crate::rulebook::KindId;
use std::ops::Range;

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

/// In how many states something stands somewhere: for each of some kinds and every cell how many states that are, and from
/// how many of them a win can still be reached; and for each slot in how many it is empty. Those of a part of the states
/// tell how many more these are than in as many states that are like the base.
#[derive(Clone)]
struct Tally {
    counts: Vec<Vec<[i64; 2]>>,
    empty: Vec<i64>,
}

impl Tally {
    fn add(&mut self, other: &Self) {
        for (mine, other) in self.counts.iter_mut().flatten().zip(other.counts.iter().flatten()) {
            *mine = [mine[0] + other[0], mine[1] + other[1]];
        }
        self.empty.iter_mut().zip(&other.empty).for_each(|(mine, other)| *mine += other);
    }
}

/// Where pieces of some kinds stand in the states that were seen.
pub(super) struct Places {
    layers: usize,
    kinds: Vec<KindId>,
    tally: Tally,
}

impl Places {
    pub fn new(worker: &Worker, found: &Found, kinds: Vec<KindId>, distances: Option<&[u32]>, host: &dyn Host) -> Self {
        let base = &worker.base;
        let board = worker.grid.board();
        let (layers, cells) = (usize::from(board.layers()), board.cells() as usize);
        let mut place = vec![None; worker.grid.book().kinds.len()];
        kinds.iter().enumerate().for_each(|(at, kind)| place[usize::from(kind.0)] = Some(at));
        let place_of = |kind: KindId| place[usize::from(kind.0)];
        let can_win = |state: u32| distances.is_some_and(|distances| distances[state as usize] != NONE);
        let none = Tally { counts: vec![vec![[0; 2]; cells]; kinds.len()], empty: vec![0; cells * layers] };
        let count = |states: Range<u32>, tally: &mut Tally| {
            for state in states {
                let (key, wins) = (found.known.key(state), i64::from(can_win(state)));
                let mut stands = |kind: KindId, cell: usize, by: i64| {
                    if let Some(at) = place_of(kind) {
                        let count = &mut tally.counts[at][cell];
                        *count = [count[0] + by, count[1] + by * wins];
                    }
                };
                for (cell, layer, now) in base.differing(key) {
                    let before = base.kind_at(cell, layer);
                    before.into_iter().for_each(|kind| stands(kind, cell, -1));
                    now.into_iter().for_each(|kind| stands(kind, cell, 1));
                    tally.empty[cell * layers + usize::from(layer)] +=
                        i64::from(before.is_some()) - i64::from(now.is_some());
                }
                for (kind, cell) in base.beside(key) {
                    cell.into_iter().for_each(|cell| stands(kind, cell as usize, 1));
                }
            }
        };
        let (states, hands) = (found.states(), host.hands().max(1) as u32);
        let share = states.div_ceil(hands);
        let mut parts = vec![none.clone(); hands as usize];
        let jobs = parts.iter_mut().zip(0_u32..).map(|(part, number)| -> Job {
            let count = &count;
            Box::new(move || count(states.min(number * share)..states.min((number + 1) * share), part))
        });
        do_all(host, jobs.collect());
        // All stand as in the base but where a key says otherwise.
        let mut tally = none;
        let winning = distances.map_or(0, |distances| distances.iter().filter(|distance| **distance != NONE).count());
        for (cell, layer) in (0..cells).flat_map(|cell| (0..layers).map(move |layer| (cell, layer))) {
            match base.kind_at(cell, layer as u8) {
                None => tally.empty[cell * layers + layer] = i64::from(states),
                Some(kind) => {
                    if let Some(at) = place_of(kind) {
                        let count = &mut tally.counts[at][cell];
                        *count = [count[0] + i64::from(states), count[1] + winning as i64];
                    }
                }
            }
        }
        parts.iter().for_each(|part| tally.add(part));
        Self { layers, kinds, tally }
    }

    fn at(&self, kind: KindId) -> Option<&[[i64; 2]]> {
        self.kinds.iter().position(|known| *known == kind).map(|at| self.tally.counts[at].as_slice())
    }

    /// The cells on which a piece of a kind stands in some state, but in none from which a win can be reached.
    pub fn dead(&self, kind: KindId) -> Vec<u32> {
        let all = self.at(kind).unwrap_or_default().iter().enumerate();
        all.filter(|(_, [stands, wins])| *stands > 0 && *wins == 0).map(|(cell, _)| cell as u32).collect()
    }

    /// Whether a layer of a cell is free in some state.
    pub fn is_free(&self, cell: u32, layer: u8) -> bool {
        self.tally.empty[cell as usize * self.layers + usize::from(layer)] > 0
    }
}
