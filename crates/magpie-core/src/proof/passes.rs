//! The way back: from which states a win can still be reached, and in how many inputs; then what stands where.

use super::expand::{End, Worker};
use super::host::{Halt, Host};
use super::search::{Found, NONE};
use crate::grid::Base;
use crate::rulebook::KindId;

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

/// Where pieces of some kinds stand in the states that were seen.
pub(super) struct Places {
    layers: usize,
    cells: usize,
    kinds: Vec<KindId>,
    /// For each of the kinds and every cell: in how many states a piece stands there, and in how many of those a win can
    /// still be reached.
    counts: Vec<Vec<[u32; 2]>>,
    /// For each slot, in how many states it is empty.
    empty: Vec<u32>,
}

impl Places {
    pub fn new(worker: &Worker, found: &Found, kinds: Vec<KindId>, distances: Option<&[u32]>) -> Self {
        let base = &worker.base;
        let board = worker.grid.board();
        let (layers, cells) = (usize::from(board.layers()), board.cells() as usize);
        let mut place = vec![None; worker.grid.book().kinds.len()];
        kinds.iter().enumerate().for_each(|(at, kind)| place[usize::from(kind.0)] = Some(at));
        let can_win = |state: u32| distances.is_some_and(|distances| distances[state as usize] != NONE);
        let states = found.states();
        let winning = distances.map_or(0, |distances| distances.iter().filter(|distance| **distance != NONE).count());
        let mut places = Self {
            layers,
            cells,
            counts: vec![vec![[0; 2]; cells]; kinds.len()],
            kinds,
            empty: vec![0; cells * layers],
        };
        // All stand as in the base but where a key says otherwise.
        places.stand(base, &place, [states, winning as u32]);
        for state in 0..states {
            let (key, wins) = (found.known.key(state), u32::from(can_win(state)));
            for (cell, layer, now) in base.differing(key) {
                let slot = cell * layers + usize::from(layer);
                match base.kind_at(cell, layer) {
                    None => places.empty[slot] -= 1,
                    Some(before) => {
                        if let Some(at) = place[usize::from(before.0)] {
                            let count = &mut places.counts[at][cell];
                            *count = [count[0] - 1, count[1] - wins];
                        }
                    }
                }
                match now {
                    None => places.empty[slot] += 1,
                    Some(now) => places.add(place[usize::from(now.0)], cell, wins),
                }
            }
            for (kind, cell) in base.beside(key) {
                cell.into_iter().for_each(|cell| places.add(place[usize::from(kind.0)], cell as usize, wins));
            }
        }
        places
    }

    fn add(&mut self, at: Option<usize>, cell: usize, wins: u32) {
        if let Some(at) = at {
            let count = &mut self.counts[at][cell];
            *count = [count[0] + 1, count[1] + wins];
        }
    }

    fn stand(&mut self, base: &Base, place: &[Option<usize>], all: [u32; 2]) {
        for cell in 0..self.cells {
            for layer in 0..self.layers {
                match base.kind_at(cell, layer as u8) {
                    None => self.empty[cell * self.layers + layer] = all[0],
                    Some(kind) => {
                        if let Some(at) = place[usize::from(kind.0)] {
                            let known = &mut self.counts[at][cell];
                            *known = [known[0] + all[0], known[1] + all[1]];
                        }
                    }
                }
            }
        }
    }

    fn at(&self, kind: KindId) -> Option<&[[u32; 2]]> {
        self.kinds.iter().position(|known| *known == kind).map(|at| self.counts[at].as_slice())
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
