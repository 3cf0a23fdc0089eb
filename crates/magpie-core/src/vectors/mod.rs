//! Test vectors: the fewest inputs on which every known mistake that changes anything on a rulebook fails at least once.
//!
//! `positions` finds them for conversions and indices, `situations` for steps and whole-grid rules, `paces` for the motion between
//! cells; the choice among all candidates is made here, by greedy cover, and thinned until none can go.

mod paces;
mod positions;
mod situations;

#[cfg(test)]
mod tests;

pub use paces::{PaceVector, pace};
pub use positions::{convert, index};
pub use situations::{Shown, Situation, situations};

use crate::space::{Cell, Position};
use fixedbitset::FixedBitSet;

/// What a vector asks.
#[derive(Clone, Debug, PartialEq)]
pub enum Asking {
    /// A position, to be converted.
    Position(Position),
    /// A cell, to be numbered.
    Cell(Cell),
    /// A board with inputs.
    Situation(Box<Situation>),
    /// Keys on the map, frame by frame.
    Pace(Box<PaceVector>),
}

/// One vector.
#[derive(Clone, Debug, PartialEq)]
pub struct Vector {
    /// What it asks; the answer is the model's.
    pub asks: Asking,
    /// Names of the mistakes that fail on it, in the order of the catalogue.
    pub catches: Vec<String>,
}

/// Vectors for one purpose.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Vectors {
    /// The vectors.
    pub all: Vec<Vector>,
    /// Mistakes with a version that fails on none of them though it differs somewhere.
    pub missed: Vec<String>,
    /// Mistakes that nothing can tell from the right version on this rulebook.
    pub same_here: Vec<String>,
}

/// Something that could become a vector, and the versions that fail on it.
struct Candidate {
    asks: Asking,
    fails: FixedBitSet,
}

/// Chooses among candidates. `versions` names the mistake of every version, in the order of the catalogue.
fn choose(versions: &[String], candidates: &[Candidate], most: usize) -> Vectors {
    let mut anywhere = FixedBitSet::with_capacity(versions.len());
    candidates.iter().for_each(|candidate| anywhere.union_with(&candidate.fails));
    let mut left = anywhere.clone();
    let mut chosen: Vec<usize> = Vec::new();
    while !left.is_clear() {
        // Of equals the first, which is the simplest.
        let gain = |candidate: &Candidate| candidate.fails.intersection_count(&left);
        let best = (0..candidates.len()).max_by_key(|at| (gain(&candidates[*at]), std::cmp::Reverse(*at)));
        let Some(best) = best.filter(|best| gain(&candidates[*best]) > 0) else { break };
        left.difference_with(&candidates[best].fails);
        chosen.push(best);
    }
    thin(candidates, &anywhere, &mut chosen);
    chosen.truncate(most);
    chosen.sort_unstable();
    let mut caught = FixedBitSet::with_capacity(versions.len());
    chosen.iter().for_each(|at| caught.union_with(&candidates[*at].fails));
    let names = |wanted: &dyn Fn(usize) -> bool| {
        let mut names: Vec<String> = Vec::new();
        for (at, name) in versions.iter().enumerate() {
            if wanted(at) && !names.contains(name) {
                names.push(name.clone());
            }
        }
        names
    };
    let catches = |candidate: &Candidate| names(&|at| candidate.fails.contains(at));
    let all = candidates.iter().enumerate().filter(|(at, _)| chosen.contains(at));
    let all = all.map(|(_, candidate)| Vector { asks: candidate.asks.clone(), catches: catches(candidate) }).collect();
    let differs = names(&|at| anywhere.contains(at));
    let missed = names(&|at| anywhere.contains(at) && !caught.contains(at));
    let same_here = names(&|_| true).into_iter().filter(|name| !differs.contains(name)).collect();
    Vectors { all, missed, same_here }
}

/// Leaves out what is not needed, the ones chosen last first.
fn thin(candidates: &[Candidate], anywhere: &FixedBitSet, chosen: &mut Vec<usize>) {
    for at in (0..chosen.len()).rev() {
        let mut others = FixedBitSet::with_capacity(anywhere.len());
        let rest = chosen.iter().enumerate().filter(|(other, _)| *other != at);
        rest.for_each(|(_, other)| others.union_with(&candidates[*other].fails));
        if anywhere.is_subset(&others) {
            chosen.remove(at);
        }
    }
}
